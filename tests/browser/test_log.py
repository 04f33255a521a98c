"""A trip as an angler does it: planned, fished on simulated water, logged, reviewed, taken along, and read back on a fresh installation."""

import io
import uuid

import pytest
from PIL import Image

from tests.browser.conftest import patient
from tests.browser.test_lamp import again_until, axe, heard, opened, pull, throw_at_fish, until
from tests.conftest import _database, _run
from tests.faults.conftest import Served
from tests.services.find.test_own_charts import pond
from tests.services.trips.conftest import photo_bytes


@pytest.fixture
def elsewhere(admin_url, template, tmp_path):
    """A fresh installation."""
    name = f"b_{uuid.uuid4().hex[:12]}"
    _run(admin_url, f'create database "{name}" template "{template}"')
    found = Served(_database(admin_url, name), tmp_path)
    yield found
    found.stop()
    _run(admin_url, f'drop database if exists "{name}" with (force)')


def add(page, part, word, values, button):
    """Open a part of the trip, fill its form, send it."""
    page.locator(f"#{part} summary", has_text=word).click()
    for name, value in values.items():
        field = page.locator(f"#{part} [name={name}]")
        if field.evaluate("one => one.tagName") == "SELECT":
            field.select_option(value)
        elif field.get_attribute("type") == "checkbox":
            field.check()
        else:
            field.fill(value)
    page.locator(f"#{part} form button", has_text=button).first.click()


def test_a_trip_is_planned_fished_logged_reviewed_taken_along_and_read_back(page, site, elsewhere, tmp_path):
    page.goto(f"{site.address}/log")
    page.fill("#name", "Jo")
    page.click("text=Remember")
    page.click("text=Plan a trip")
    page.fill("[name=title]", "Second cold front")
    page.fill("[name=water]", "Harl Mill Reservoir")
    page.select_option("[name=source]", "simulated")
    page.fill("[name=day]", "")
    page.click("text=Plan this trip")
    until(page, "document.querySelector('#_trip_form .problem-line')?.textContent.startsWith('Day is empty')")
    axe(page)
    # The refusal that was asked for is no problem.
    assert all("422" in one or "Unprocessable" in one or "Response Status Error" in one for one in page.problems), page.problems
    page.problems.clear()
    page.fill("[name=day]", page.evaluate("new Date().toISOString().slice(0, 10)"))
    page.click("text=Plan this trip")
    page.wait_for_url("**/log/trips/*-*")
    trip = page.url
    page.click("text=Start fishing")
    page.wait_for_selector("text=End the trip")
    add(page, "conditions", "Note conditions", {"sky": "cloud", "water_f": "58", "clarity": "stained"}, "Note it")
    page.wait_for_selector("#conditions li")
    # Fished on the simulated head: what is thrown belongs to the trip by itself.
    said = heard(page)
    opened(page, site)
    throw_at_fish(page)
    # A pull of the reel closes the bail: whether a fish takes it meanwhile must not decide.
    again_until(page, lambda: pull(page, said), "['none', 'tight', 'stowed'].includes(document.getElementById('lamp').dataset.lure)")
    # A mark on the picture kept as a spot, named, and the minute saved.
    page.click("#spot")
    until(page, "document.getElementById('hand').textContent.startsWith('Tap the mark')")
    page.locator("#side").click(position={"x": 400, "y": 250})
    page.wait_for_selector("#spot-said:has-text('Spot kept: other')")
    page.select_option("#spot-kind", "brush")
    page.wait_for_selector("#spot-said:has-text('Spot kept: brush')")
    axe(page)
    page.click("#open-waters")
    page.click("[data-bench=save]")
    page.wait_for_selector("#recordings .recording")
    again_until(page, lambda: page.goto(trip), "!!document.querySelector('.timeline a[href*=recording]')")
    add(
        page,
        "catches",
        "Add a fish",
        {"species": "white crappie", "length_in": "12.5", "guess_in": "11", "kept": "", "lure": "1/16 white", "depth_ft": "14"},
        "Add it",
    )
    page.wait_for_selector("#catches li")
    add(page, "bag", "My limits", {"species": "white crappie", "most": "15", "wanted": "10"}, "Keep")
    page.wait_for_selector("text=white crappie: 1 of 15, a meal was 10")
    page.set_input_files("#photos", {"name": "a.jpg", "mimeType": "image/jpeg", "buffer": photo_bytes(size=(400, 300))})
    page.click("text=Drop them in")
    page.wait_for_selector("text=1 photos kept")
    assert page.locator("#catches li").count() == 2
    axe(page)
    # A mark on the timeline leads to its shot.
    page.goto(trip)
    shot = page.locator('.timeline a[href*="/?recording="]').first
    shot.click()
    until(page, "document.getElementById('source').textContent === 'recording' && !!document.querySelector('#lamp[data-line=up]')")
    page.goto(trip)
    page.locator("#_trip table").last.locator("a").last.click()
    page.wait_for_selector("text=What they did")
    page.click("text=its trip")
    page.wait_for_url("**/log/trips/*-*")
    page.click("text=End the trip")
    page.wait_for_selector("text=Go on with it")
    # Looked back at.
    page.click("text=Review")
    page.wait_for_selector("text=What may be concluded")
    axe(page)
    page.fill("#log-search", "cold front")
    page.press("#log-search", "Enter")
    page.wait_for_selector("td >> text=Second cold front")
    page.goto(f"{site.address}/log/shots")
    assert "shots" in page.locator("[role=status]").inner_text()
    axe(page)
    # A water of one's own, and a spot on it.
    page.goto(f"{site.address}/log/spots")
    page.fill("#chart-name", "Lower pond")
    page.set_input_files("#chart", {"name": "p.geojson", "mimeType": "application/json", "buffer": pond()})
    page.click("text=Bring it")
    page.wait_for_selector(".map-key")
    page.select_option("[name=kind]", "brush")
    page.fill("[name=away_ft]", "120")
    page.fill("[name=bearing_deg]", "45")
    page.click("text=Keep it")
    page.wait_for_selector("text=120 ft at 45°")
    axe(page)
    # Deleted, and brought back.
    page.goto(trip)
    page.once("dialog", lambda dialog: dialog.accept())
    page.locator("#_trip button", has_text="Delete").first.click()
    page.wait_for_url("**/log/keep*")
    page.click("text=Bring back")
    page.wait_for_selector("text=What you delete can be brought back")
    axe(page)
    # Taken along, and read back where nothing is yet.
    page.click("text=Make the archive")
    page.wait_for_selector("text=Take the archive")
    with page.expect_download() as taken:
        page.click("text=Take the archive")
    path = tmp_path / "mud-lamp.zip"
    taken.value.save_as(path)
    page.goto(f"{elsewhere.address}/log/keep")
    page.set_input_files("#archive", path)
    page.click("text=Read it")
    page.wait_for_selector("text=rows were new")
    page.goto(f"{elsewhere.address}/log")
    page.click("a:has-text('Second cold front')")
    page.wait_for_selector("#catches li")
    assert page.locator("#catches li").count() == 2
    picture = page.locator("#catches img").first.get_attribute("src")
    assert Image.open(io.BytesIO(page.request.get(elsewhere.address + picture).body())).size == (400, 300)
    assert page.problems == []


def test_a_strangers_sheet_is_brought_in_with_one_thumb(chromium, site):
    context = patient(chromium.new_context(viewport={"width": 390, "height": 844}))
    page = context.new_page()
    page.goto(f"{site.address}/log/keep")
    page.set_input_files(
        "#sheet", {"name": "mine.csv", "mimeType": "text/csv", "buffer": b"When,Fish,Size\n2026-10-03,crappie,12\n2026-10-04,salmon,12\n"}
    )
    page.click("text=Look at it")
    page.wait_for_selector("text=Not yet")
    page.select_option("[name='column:When']", "day")
    until(page, "[...document.querySelectorAll('.problem-line')].every(one => !one.textContent.includes('Day is empty'))")
    assert "row 3: Species is salmon" in page.locator("#_sheet").inner_text()
    assert page.locator("button", has_text="Take all").is_disabled()
    # Nothing is wider than the phone.
    for path in ("/log", "/log/keep", "/log/shots", "/log/spots", "/log/review", "/log/trips/new"):
        page.goto(site.address + path)
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), path
        axe(page)
    context.close()
