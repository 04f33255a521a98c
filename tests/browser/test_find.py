"""Find as an angler uses it: plan, idle, see a mark, find it in the other picture, keep it, stop short, lower the fan on the same school."""

import re

import pytest
from axe_playwright_python.sync_playwright import Axe

from mudlamp.services.find.waters import DEMO, reach_named
from tests.browser.test_lamp import until


def _go(page, site):
    # The demo is made a moment after the start.
    for _ in range(80):
        page.goto(site.address + "/find")
        page.wait_for_selector("#chart")
        page.wait_for_timeout(1500)
        if page.locator(".find-spot").count() >= 6:
            return
    raise AssertionError("the demo's spots are not there")


def _json(page, path):
    return page.evaluate("(path) => fetch('/api/v1/find' + path).then((one) => one.json())", path)


def test_from_a_plan_to_the_same_school_under_the_live_fan(page, site):
    _go(page, site)
    page.click("text=Plan it")
    until(page, "document.querySelectorAll('#planned li').length === 4")
    page.click("#push-off")
    until(page, "document.getElementById('push-off').textContent === 'Start over'")
    # A third view, and the 3-D one, are opened: they draw as the boat goes.
    page.click("#third")
    page.click("#show-solid")
    # Idle past the demo's school: a path is sent as the chart sends one.
    school = next(one for one in reach_named(DEMO).schools if 6 <= one.count <= 20 and one.at.value != "flat")
    x, y = school.x_m, school.y_m
    page.evaluate(
        "(path) => fetch('/api/v1/find/steer', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({path})})",
        [[x - 60.0, y + 12.0], [x + 30.0, y + 12.0]],
    )
    page.click('[data-pace="8"]')
    until(page, f"fetch('/api/v1/find/search').then((one) => one.json()).then((one) => one.x_m > {x + 12.0})")
    page.click('[data-pace="0"]')
    until(page, 'document.querySelector(\'[data-pace="0"]\').getAttribute("aria-pressed") === "true"')
    # Both pictures are drawn: many inks in each.
    for slot in (0, 1, 2):
        inks = page.evaluate(
            "(slot) => { const c = document.querySelector(`[data-slot='${slot}'] .find-pixels`);"
            " return new Set(new Uint32Array(c.getContext('2d').getImageData(0, 0, c.width, c.height).data.buffer)).size; }",
            slot,
        )
        assert inks > 20
    solid = "{ const c = document.getElementById('solid'); return new Set(new Uint32Array(c.getContext('2d').getImageData(0, 0, c.width, c.height).data.buffer)).size; }"
    until(page, f"(() => {solid})() > 10")
    page.click("#show-solid")
    # The school is abeam to starboard: pointed at in the side picture, it stands on the chart where the truth says.
    state = _json(page, "/search?since=0")
    track = state["track"]
    abeam = min(range(len(track)), key=lambda i: abs(track[i][0] - 2.0 - x)) * 8
    slant = ((12.0 + 0.4) ** 2 + school.z_m**2) ** 0.5
    mark = page.evaluate(
        "(body) => fetch('/api/v1/find/mark', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)}).then((one) => one.json())",
        {"view": "side", "number": abeam, "beam": 1, "slant_m": slant},
    )
    places = mark["arc"] or [[mark["x_m"], mark["y_m"]]]
    assert min(((a - x) ** 2 + (b - y) ** 2) ** 0.5 for a, b in places) < 6.0
    # Measured by itself as a thing of ten feet it is ten feet long in each view that draws it; a length that nothing has is refused.
    point = {"view": "side", "number": abeam, "beam": 1, "slant_m": slant}
    for long_ft, status in ((10.0, 200), (900.0, 422)):
        answer = page.evaluate(
            "(body) => fetch('/api/v1/find/mark', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: JSON.stringify(body)}).then(async (one) => [one.status, await one.json()])",
            point | {"reference": point | {"long_ft": long_ft}},
        )
        assert answer[0] == status
        if status == 200:
            assert {one["by_reference_in"] for one in answer[1]["views"]} <= {None, 120}
    page.problems.clear()
    # By hand: a click on the picture says how far out and how deep, and it is kept as a spot.
    box = page.locator("[data-slot='1'] .find-marks").bounding_box()
    page.mouse.click(box["x"] + 0.7 * box["width"], box["y"] + 0.3 * box["height"])
    until(page, "/ft/.test(document.getElementById('mark-said').textContent) && !document.getElementById('keep').hidden")
    assert re.search(r"right", page.inner_text("#mark-said"))
    before = page.locator(".find-spot").count()
    page.click("text=Keep the spot")
    until(page, f"document.querySelectorAll('.find-spot').length === {before + 1}")
    # What the demo marked as a school: how to come to it, then the live fan there, with the same fish.
    page.click(".find-spot >> nth=0")
    until(page, "/ft off/.test(document.getElementById('way').textContent)")
    page.click("#scan")
    until(page, "!document.getElementById('round').hidden")
    results = Axe().run(page)
    assert results.violations_count == 0, results.generate_report()
    page.click("#lower")
    page.wait_for_url(site.address + "/")
    until(page, "document.querySelector('#open-waters').textContent.includes('Harl Mill')")
    until(page, "document.querySelector('[data-reading=\"ping\"], #facts') !== null")
    assert not page.problems


def test_a_boat_that_comes_to_the_shore_stops_and_says_so(page, site):
    _go(page, site)
    page.click("#push-off")
    until(page, "document.getElementById('push-off').textContent === 'Start over'")
    # Without a path it goes straight on, east from the ramp: into the bank, sooner or later.
    page.locator("#speed").fill("8")
    page.click('[data-pace="8"]')
    # A slow machine goes at less than eight times the pace.
    until(page, "document.getElementById('now').textContent.includes('the shore is right ahead')")
    assert "Lay another path" in page.inner_text("#now")


@pytest.mark.parametrize("size", [(390, 844), (1280, 800)])
def test_find_fits_and_can_be_read(page, site, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    _go(page, site)
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
    results = Axe().run(page)
    assert results.violations_count == 0, results.generate_report()
