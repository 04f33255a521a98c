import functools
import os
import re
import subprocess
import uuid

import pytest
from axe_playwright_python.sync_playwright import Axe

from mudlamp.cli.browser import CHROMIUM, FLAGS
from tests.browser.conftest import patient
from tests.browser.test_lamp import until
from tests.browser.test_tune import OWN_VOICE, ask, own_rig
from tests.faults.conftest import Served

PHONE = {"width": 390, "height": 844}
READY = "body[data-ready=yes]"
OUTCOMES = ("not_shown", "no_answer", "looked", "followed", "backed_off", "refused", "spooked", "left_with_school", "hit_weight", "looked")


@pytest.fixture
def phone(chromium, tmp_path):
    """Opens the same phone again and again: what it keeps is on the disk."""
    opened = []

    def open_phone():
        context = patient(
            chromium.browser_type.launch_persistent_context(
                str(tmp_path / "phone"), executable_path=CHROMIUM, args=list(FLAGS), viewport=PHONE, has_touch=True
            )
        )
        page = context.pages[0]
        page.problems = []
        page.on("pageerror", lambda error: page.problems.append(str(error)))
        opened.append(context)
        return context, page

    yield open_phone
    for context in opened:
        context.close()


def tap_fish(page, across, down):
    box = page.locator("#pad-grid").bounding_box()
    page.mouse.click(box["x"] + across * box["width"], box["y"] + down * box["height"])


def kept_here(page):
    until(page, "document.getElementById('boat-link').textContent === 'all sent'")


def test_a_day_in_the_boat_with_the_link_cut_and_the_browser_killed(site, phone):
    context, page = phone()
    page.goto(site.address + "/boat?make=")
    page.wait_for_selector(READY)
    assert "You can go without a link" in page.locator("#making").inner_text()
    until(page, "navigator.serviceWorker.controller !== null")
    # The link is gone; the page opens all the same, from what the phone keeps.
    context.set_offline(True)
    page.reload()
    page.wait_for_selector(READY)
    assert page.locator("#counts tbody tr").count() == 4
    # Another wind, other rows: without a link, one tap a wind.
    counts = "document.getElementById('counts').innerText"
    calm = page.evaluate(counts)
    for label, differs in (("at your back", False), ("in your face", True), ("calm", False)):
        page.click("#wind")
        until(page, f"document.getElementById('wind').textContent.endsWith('{label}')")
        assert (page.evaluate(counts) != calm) is differs or label == "at your back"
    # Tap the fish, hear what to do, count.
    page.evaluate(OWN_VOICE)
    page.click("#open-pad")
    tap_fish(page, 0.6, 0.55)
    said = page.locator("#pad-said").inner_text()
    assert re.match(r"(Throw|Drop it) .*count \w+", said)
    assert page.evaluate("window.heard[0]") == said.rpartition(" (")[0]
    assert page.locator("#pad-count").inner_text().startswith("Tap at the splash: ")
    page.click("#pad-count")
    until(page, "document.getElementById('pad-count').textContent === '2'")
    page.click("#pad-back")
    # A move: only what changes, read off the rows, spoken.
    page.click("[data-tab=setup]")
    for _ in range(6):
        page.click("#shallower")
    assert page.locator("#changes").inner_text() == "Down to 17 ft"
    page.click("#say-it")
    assert page.evaluate("window.heard.at(-1)") == "Down to seventeen. Leave the rest."
    page.click("#set-it")
    until(page, "document.getElementById('changes').innerText === 'Leave everything alone.'")
    # Ten notes, one tap each.
    page.click("[data-tab=cast]")
    for token in OUTCOMES:
        page.click(f"[data-outcome={token}]")
        until(page, "!document.getElementById('undo-bar').hidden")
    page.click("#asking-yes")
    until(page, "document.getElementById('boat-link').textContent.startsWith('12 waiting')")
    # Stay or move: no take since the move, no time yet.
    page.click("[data-tab=setup]")
    page.click("#not-seeing")
    until(page, "document.getElementById('stay-said').textContent.startsWith('Too early to tell: 0 takes in 0 min here')")
    assert page.evaluate("window.heard.at(-1)") == "Too early to tell"
    # The browser dies as browsers do; the link comes back; everything arrives once, in order, at its own time.
    context.close()
    context, page = phone()
    page.goto(site.address + "/boat")
    page.wait_for_selector(READY)
    kept_here(page)
    page.goto(site.address + "/log")
    lines = page.locator(".boat-lines li").all_inner_texts()
    noted = [line.partition(" ")[2].partition(" ")[2].split(",")[0].strip() for line in lines]
    words = {
        "not_shown": "Never got there",
        "no_answer": "Ignored it",
        "left_with_school": "Left with school",
        "hit_weight": "Hit weight",
        "backed_off": "Backed off",
    }
    assert noted[0] == "Moved: 14 ft"
    assert [one for one in noted if not one.startswith(("Moved", "Recording"))] == [words.get(token, token.title()) for token in OUTCOMES]
    assert page.problems == []


@pytest.fixture(scope="module")
def let_in(admin_url, template, tmp_path_factory):
    """The application as other machines reach it: https by its own authority, plain http beside it."""
    from tests.conftest import _database, _run

    name, folder = f"b_{uuid.uuid4().hex[:12]}", tmp_path_factory.mktemp("let_in")
    _run(admin_url, f'create database "{name}" template "{template}"')
    found = Served(_database(admin_url, name), folder, "--host", "0.0.0.0", demo=True)  # noqa: S104 - what is tested
    found.folder = folder
    yield found
    found.stop()
    _run(admin_url, f'drop database if exists "{name}" with (force)')


def test_over_trusted_https_the_app_is_kept_on_the_phone_and_over_http_it_says_what_is_missing(chromium, let_in, tmp_path):
    # Trusted as a person does it: the authority's certificate goes into the browser's own store, errors are ignored nowhere.
    store = tmp_path / "home" / ".pki" / "nssdb"
    store.mkdir(parents=True)
    run = functools.partial(subprocess.run, check=True, capture_output=True)
    run(["certutil", "-N", "-d", f"sql:{store}", "--empty-password"])
    run(["certutil", "-A", "-d", f"sql:{store}", "-t", "C,,", "-n", "mudlamp", "-i", str(let_in.folder / "doors" / "authority.pem")])
    context = patient(
        chromium.browser_type.launch_persistent_context(
            str(tmp_path / "phone"),
            executable_path=CHROMIUM,
            args=[*FLAGS, "--host-resolver-rules=MAP mudlamp.local 127.0.0.1"],
            env=os.environ | {"HOME": str(tmp_path / "home")},
            viewport=PHONE,
        )
    )
    try:
        page = context.pages[0]
        page.goto(f"https://mudlamp.local:{let_in.port}/boat")
        page.wait_for_selector(READY)
        until(page, "navigator.serviceWorker.controller !== null")
        assert page.evaluate("isSecureContext")
        assert page.locator("#boat-missing").inner_text() == ""
        # As another phone would that never came by https: cookies of https are for https alone.
        context.clear_cookies()
        page.goto(f"http://mudlamp.local:{let_in.plain_port}/boat")
        page.wait_for_selector(READY)
        assert page.locator("#boat-missing").inner_text().startswith("Not over https:")
        page.click("[data-tab=cast]")
        page.click("[data-outcome=looked]")
        kept_here(page)
        page.goto(f"http://mudlamp.local:{let_in.plain_port}/door")
        assert f"https://mudlamp.local:{let_in.port}/boat" in page.locator("#door").inner_text()
        assert Axe().run(page).violations_count == 0, Axe().run(page).generate_report()
        page.goto(f"http://mudlamp.local:{let_in.plain_port}/pair")
        assert Axe().run(page).violations_count == 0, Axe().run(page).generate_report()
    finally:
        context.close()


def test_a_note_is_undone_given_another_rod_and_the_switch_is_taught(page, site):
    page.set_viewport_size(PHONE)
    own_rig(page, site)
    page.wait_for_selector("#_words")
    page.goto(site.address + "/boat?make=")
    page.wait_for_selector(READY)
    assert "You can go without a link" in page.locator("#making").inner_text()
    page.click("[data-tab=cast]")
    rods = page.locator("#rods button")
    assert rods.count() >= 2
    first, second = rods.nth(0).inner_text(), rods.nth(1).inner_text()
    counts = page.locator("#counts td:last-child").all_inner_texts()
    rods.nth(1).click()
    until(page, f"document.querySelector('#rods button[aria-pressed=true]').innerText === {second!r}")
    assert page.locator("#counts td:last-child").all_inner_texts() != counts
    page.click("[data-outcome=bit]")
    page.click("[data-outcome=hooked]")
    until(page, "document.querySelectorAll('#outcomes button').length === 2")
    page.click("[data-outcome=landed]")
    until(page, "document.getElementById('undo-text').textContent.startsWith('Landed')")
    page.click("#undo")
    page.click("#asking-no")
    page.click("[data-tab=log]")
    page.locator("#acts input").first.check()
    page.locator("#reassign button").nth(0).click()
    until(page, f"document.getElementById('acts').innerText.includes({first!r})")
    kept_here(page)
    # How late the thumb is, by five taps at what is seen; the count takes it off.
    page.click("text=How late your thumb is")
    page.click("#thumb")
    for _ in range(5):
        page.wait_for_selector("#thumb.strong")
        page.wait_for_timeout(250)
        page.click("#thumb")
    until(page, "/\\d\\.\\d\\d s late/.test(document.getElementById('thumb-said').textContent)")
    # A page turner's key begins the count, once it was taught.
    page.click("text=Foot switch or page turner")
    page.click("#teach >> text=Begin the count")
    page.keyboard.press("F8")
    until(page, "document.getElementById('taught').textContent === 'F8: Begin the count.'")
    page.keyboard.press("F8")
    until(page, "document.getElementById('pad-count').textContent === '1'")
    page.click("#pad-back")
    page.goto(site.address + "/log")
    noted = page.locator(".boat-lines").inner_text()
    assert (noted.count("Bit"), noted.count("Landed")) == (1, 0)
    assert f"Hooked, {first}" in noted
    assert page.problems == []


@pytest.mark.parametrize("theme", ["noon", "dusk"])
def test_everyone_can_use_the_boat_with_one_thumb(page, site, theme):
    page.context.add_cookies([{"name": "lamp_theme", "value": theme, "url": site.address}])
    page.set_viewport_size(PHONE)
    ask(page, site, technique="vertical", depth_ft="18", clarity="clear")
    page.click("text=Take it along")
    page.wait_for_selector(READY)
    for tab in ("cast", "setup", "log"):
        page.click(f"[data-tab={tab}]")
        results = Axe().run(page)
        assert results.violations_count == 0, results.generate_report()
        small = "[...document.querySelectorAll('.boat button, .boat a, .boat summary')].filter(one => one.offsetParent && one.getBoundingClientRect().height < 64)"
        assert page.evaluate(f"{small}.map(one => one.outerHTML)") == []
        fonts = (
            "[...document.querySelectorAll('.boat *')].filter(one => one.offsetParent && parseFloat(getComputedStyle(one).fontSize) < 16)"
        )
        assert page.evaluate(f"{fonts}.map(one => one.outerHTML)") == []
        assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    page.click("[data-tab=cast]")
    page.click("#open-pad")
    tap_fish(page, 0.5, 0.5)
    assert Axe().run(page).violations_count == 0
    # From the pack, at once.
    assert (
        page.evaluate("""() => { const before = performance.now(); document.getElementById('pad-grid').dispatchEvent(
        new PointerEvent('pointerdown', { clientX: 200, clientY: 400 })); return performance.now() - before; }""")
        < 150.0
    )
