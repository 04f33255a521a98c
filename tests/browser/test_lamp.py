import json
import os
import re
import signal
import time

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Error

from tests.browser.conftest import patient
from tests.patience import PATIENCE_S

STARTED = '[data-line="up"]'


def opened(page, site, path="/"):
    page.goto(site.address + path)
    page.wait_for_selector(STARTED)
    # On a fresh checkout the first engine compiles its kernels.
    until(page, "document.querySelector('[data-reading=pictures-per-second]').textContent !== '–'")


def axe(page):
    found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
    assert found.violations_count == 0, found.generate_report()


def ink_on_water(page):
    """How many dark pixels the picture has."""
    return page.evaluate(
        """() => { const c = document.querySelector('#side .pixels'); const d = c.getContext('2d').getImageData(0, 0, c.width, c.height).data;
        let n = 0; for (let i = 0; i < d.length; i += 4) if (d[i + 3] > 0 && d[i] < 150) n += 1; return n; }"""
    )


def until(page, script):
    """Wait until a script is true; the page's own content policy forbids the driver's usual way."""
    deadline = time.monotonic() + PATIENCE_S
    while not _true(page, script):
        assert time.monotonic() < deadline, script
        page.wait_for_timeout(100)


def again_until(page, act, script):
    """Do what an angler does until it takes: a fish may be lost, or none be followed, at the very instant of it."""
    deadline = time.monotonic() + PATIENCE_S
    while time.monotonic() < deadline:
        act()
        for _ in range(40):
            page.wait_for_timeout(100)
            if _true(page, script):
                return
    raise AssertionError(f"{script}; the page says: {page.locator('body').inner_text()[:400]}")


def throw_at_fish(page):
    """Press T until a cast is on its way: while no fish is followed the page says so and nobody casts."""
    thrown = "(({scripted, lure}) => scripted === 'false' && lure === 'sinking')(document.getElementById('lamp').dataset)"
    again_until(page, lambda: page.keyboard.press("t"), thrown)


def in_water(page, said, seconds):
    """Wait for so long in the water's own time, which goes slower than the clock on a busy machine."""
    began = said["tracks"]["time_s"]
    deadline = time.monotonic() + 20.0 * seconds + PATIENCE_S
    while said["tracks"]["time_s"] < began + seconds:
        assert time.monotonic() < deadline, "the water stands still"
        page.wait_for_timeout(50)


def pull(page, said, seconds=0.45):
    """Hold the reel for a moment."""
    page.keyboard.down("r")
    in_water(page, said, seconds)
    page.keyboard.up("r")


def swim(page, said):
    """Hold the reel in short pulls past the fish, as one swims a jig."""
    for _ in range(6):
        pull(page, said)
        in_water(page, said, 0.7)


def _true(page, script):
    try:
        return page.evaluate(script)
    except Error:
        # The page is just being loaded anew.
        return False


def test_an_angler_throws_at_a_fish_and_finds_its_answer_in_the_log(page, site):
    said = heard(page)
    opened(page, site)
    # A newcomer sees the scripted angler first.
    assert page.locator("#lamp").get_attribute("data-scripted") == "true"
    until(page, "document.querySelectorAll('#readings .reading').length === 6")
    for _attempt in range(8):
        throw_at_fish(page)
        in_water(page, said, 7.5)
        swim(page, said)
        tokens = page.locator("#events li").evaluate_all("rows => rows.map(row => row.dataset.token)")
        if set(tokens) & {"looked", "followed", "bit", "backed_off", "refused", "spooked"}:
            break
        pull(page, said, 5.0)
        # The next one may be in a better mood.
        page.click("#next-fish")
    assert set(tokens) & {"looked", "followed", "bit", "backed_off", "refused", "spooked"}, tokens
    assert page.locator("#ribbon .lane").count() >= 1
    page.wait_for_timeout(1500)
    page.click("nav >> text=Log")
    page.locator("table.list tbody tr a").first.click()
    shots = page.locator("table.shots tbody tr")
    assert shots.count() >= 1
    words = page.locator("table.shots .chip").all_inner_texts()
    assert any(re.search("looked|followed|bit|backed off|refused|spooked", word) for word in words)
    # The angler's own word goes beside the machine's.
    page.locator("table.shots .reaction summary").first.click()
    page.locator("table.shots .reaction select").first.select_option("refused")
    page.locator("table.shots .reaction button").first.click()
    page.wait_for_selector("text=refused")
    assert page.problems == []


def test_controls_change_the_picture_and_say_so(page, site):
    opened(page, site)
    page.locator("input[name=gain]").fill("30")
    until(page, "document.querySelector('[data-value=gain] b').textContent === '30'")
    page.wait_for_timeout(2500)
    dim = ink_on_water(page)
    page.locator("input[name=gain]").fill("90")
    for _ in range(100):
        page.wait_for_timeout(500)
        if ink_on_water(page) > 2 * dim:
            break
    assert ink_on_water(page) > 2 * dim
    assert page.locator('[data-value="gain"] b').inner_text() == "90"
    page.locator("input[name=quieting_pings]").fill("3")
    until(page, "document.querySelector('.reading[data-name=lag] .figure').textContent.startsWith('0.1')")
    page.locator('label:has(input[name=fan][value="flat"])').click()
    page.wait_for_timeout(1200)
    assert ink_on_water(page) > 0
    page.locator('label:has(input[name=fan][value="ahead"])').click()
    # How fast it is the bench says: here another browser may be at work.
    assert float(page.locator('[data-reading="control-to-picture-ms"]').inner_text()) > 0
    assert page.problems == []


def test_click_throws_hold_reels_and_double_tap_opens_the_bail(page, site):
    opened(page, site)
    box = page.locator("#side").bounding_box()
    x, y = box["x"] + 420, box["y"] + 200
    page.mouse.click(x, y)
    until(page, "document.getElementById('lamp').dataset.lure === 'sinking'")
    page.wait_for_timeout(1500)
    # Where no fish can be: a press on a fish is a closer look. One may well have come up to the jig by now.
    page.mouse.move(box["x"] + 130, box["y"] + box["height"] - 14)
    page.mouse.down()
    until(page, "document.getElementById('lamp').dataset.lure === 'tight'")
    page.wait_for_timeout(700)
    page.mouse.up()
    page.keyboard.press("ArrowUp")
    page.wait_for_timeout(600)
    page.mouse.dblclick(x, y)
    until(page, "document.getElementById('lamp').dataset.lure === 'sinking'")
    page.mouse.move(x, y)
    assert re.match(r"\d+ out, \d+ down", page.locator("#hover").inner_text())
    page.click("#show-me")
    until(page, "document.getElementById('lamp').dataset.scripted === 'true'")
    assert page.problems == []


def test_a_reload_finds_the_same_set_up(page, site):
    opened(page, site)
    page.locator("input[name=reach_ft]").fill("30")
    page.wait_for_timeout(800)
    page.reload()
    page.wait_for_selector(STARTED)
    until(page, "document.querySelector('[data-value=reach_ft] b').textContent === '30'")
    assert page.problems == []


def test_the_line_says_when_the_application_is_gone(chromium, private, tmp_path):
    from tests.faults.conftest import Served

    served = Served(private.url("mudlamp"), tmp_path)
    page = patient(chromium.new_context()).new_page()
    page.goto(served.address)
    page.wait_for_selector(STARTED)
    served.stop()
    page.wait_for_selector('[data-line="down"]')
    assert "Retrying" in page.locator("#veil").inner_text()
    page.context.close()


@pytest.mark.parametrize("theme", ["noon", "dusk"])
@pytest.mark.parametrize("path", ["/", "/log?demo=true", "/status"])
def test_pages_meet_the_accessibility_rules(page, site, path, theme):
    page.context.add_cookies([{"name": "lamp_theme", "value": theme, "url": site.address}])
    page.goto(site.address + path)
    page.wait_for_timeout(2500)
    axe(page)
    assert page.problems == []


def test_both_themes_and_the_phone_fit_without_a_sideways_scroll(chromium, site):
    for width, height in ((1280, 800), (390, 844)):
        context = patient(chromium.new_context(viewport={"width": width, "height": height}))
        page = context.new_page()
        for path in ("/", "/log?demo=true", "/status"):
            page.goto(site.address + path)
            page.wait_for_timeout(700)
            assert page.evaluate("document.documentElement.scrollWidth") <= width
        context.close()


def test_the_log_opens_on_the_demos_trips_on_the_anglers_clock(chromium, site):
    context = patient(chromium.new_context(timezone_id="America/Chicago", viewport={"width": 390, "height": 844}))
    page = context.new_page()
    page.goto(site.address + "/log")
    # The demo loads beside the page, one trip after the other; the first page tells the browser's zone to the next.
    deadline = time.monotonic() + PATIENCE_S
    while not page.get_by_text("Gray and on").count():
        assert time.monotonic() < deadline
        page.wait_for_timeout(500)
        page.reload()
    assert "These are the demo angler's" in page.locator("#_sessions").inner_text()
    until(page, "document.getElementById('_sessions').innerText.includes('Oct 29, 2026, 8:10 AM')")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    # At a phone's width each trip is a card of its own, its date on one line.
    row = page.locator("tr", has_text="Gray and on")
    assert row.evaluate("one => getComputedStyle(one).display") == "block"
    assert row.locator("a").first.bounding_box()["height"] < 40
    row.locator("a").first.click()
    page.wait_for_selector("text=Set-ups")
    assert page.locator("table.shots tbody tr").count() >= 25
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    context.close()


JIG_AT = """async ({state, row}) => {
    const [{layout, toPage}, {placeOf}] = await Promise.all(["geometry", "plane"].map((one) => import(`/static/js/lamp/${one}.js`)));
    const box = document.getElementById("side").getBoundingClientRect();
    return toPage(layout(state, box.width, box.height, null), ...placeOf(state, row.range_m, row.angle_rad)); }"""


def heard(page):
    """Collect what the socket says: the newest message of each type."""
    said = {}

    def keep(text):
        if isinstance(text, str):
            message = json.loads(text)
            said[message["type"]] = message

    page.on("websocket", lambda socket: socket.on("framereceived", keep))
    return said


def jig_in_water(page, said):
    """Wait for truth that holds the jig: the script takes it out of the water between throws."""
    for _ in range(10 * int(PATIENCE_S)):
        rows = [row for row in said.get("tracks", {}).get("truth", []) if row["kind"] == "lure"]
        if rows:
            return rows[0]
        page.wait_for_timeout(100)
    raise AssertionError("no truth held the jig")


def stands_still_with_jig(page, said):
    """Freeze the water with the jig in it: one that sinks is elsewhere by the time that a busy machine has tapped."""
    for _ in range(20):
        jig_in_water(page, said)
        page.click("#bench [data-pace=frozen]")
        until(page, "document.getElementById('lamp').dataset.pace === 'frozen'")
        page.wait_for_timeout(500)
        rows = [row for row in said["tracks"]["truth"] if row["kind"] == "lure"]
        if rows:
            return rows[0]
        page.click("#bench [data-pace=frozen]")
    raise AssertionError("the water was never frozen with the jig in it")


def test_a_newcomer_is_shown_five_scenes_by_clicks_alone(page, site):
    said = heard(page)
    opened(page, site)
    assert "New here?" in page.locator("#tour").inner_text()
    page.click("#tour-next")
    # Which dot is your jig? A tap on it is right; it is no cast.
    until(page, "document.getElementById('tour').dataset.scene === '1'")
    until(page, "['sinking', 'tight'].includes(document.getElementById('lamp').dataset.lure)")
    axe(page)
    row, state = stands_still_with_jig(page, said), said["state"]
    x, y = page.evaluate(JIG_AT, {"state": state, "row": row})
    box = page.locator("#side").bounding_box()
    page.mouse.click(box["x"] + x, box["y"] + y)
    until(page, "document.getElementById('tour').dataset.done === 'jig'")
    assert page.locator("#tour-text").inner_text().startswith("Right.")
    page.click("#bench [data-pace=frozen]")
    until(page, "document.getElementById('lamp').dataset.pace === 'run'")
    page.click("#tour-next")
    until(page, "document.getElementById('lamp').classList.contains('with-twin')")
    page.click("#tour-act")
    until(page, "document.getElementById('tour').dataset.done === 'clean'")
    axe(page)
    page.locator("#sides label", has_text="Set-up B").click()
    until(page, "document.querySelector('input[name=near_cut_db]').value === '3'")
    page.click("#tour-next")
    until(page, "!document.getElementById('lamp').classList.contains('with-twin')")
    page.click("#tour-act")
    until(page, "document.querySelector('input[name=aim_deg]').value === '10'")
    page.click("#tour-next")
    until(page, "document.querySelector('input[name=aim_deg]').value === '0'")
    # The throw, and what comes of it, named.
    page.click("#tour-act")
    until(page, "document.getElementById('tour').dataset.done === 'answer'")
    assert re.search(r"Fish [A-Z]\d* [a-z ]+\. Every answer", page.locator("#tour-text").inner_text())
    page.click("#tour-next")
    page.click("#tour-act")
    page.wait_for_url("**/tune")
    # Once is enough.
    page.goto(site.address)
    page.wait_for_selector(STARTED)
    assert page.locator("#tour").is_hidden()
    assert page.problems == []


def test_a_flat_fan_uses_the_width_it_has_and_a_click_lands_where_it_points(page, site):
    opened(page, site)
    found = page.evaluate(
        """async () => {
            const { fromPage, layout, toPage } = await import("/static/js/lamp/geometry.js");
            const state = { fan: "flat", fan_rad: 2.2, tilt_rad: 1.4, window: { reach_m: 18, look_back_m: 0.6, down_to_m: 4 } };
            const view = layout(state, 790, 518, null);
            const [left, right] = [-1, 1].map((side) => toPage(view, 18 * Math.cos(1.1), side * 18 * Math.sin(1.1))[0]);
            const places = [[12, -5], [3, 4], [0, 0]].map(([ahead, other]) => fromPage(view, ...toPage(view, ahead, other)));
            return { wide: (right - left) / 790, places, ahead: toPage(view, 10, 0)[1] < toPage(view, 2, 0)[1] };
        }"""
    )
    assert found["wide"] > 0.85
    assert found["ahead"]
    for got, wanted in zip(found["places"], [[12, -5], [3, 4], [0, 0]], strict=True):
        assert got == pytest.approx(wanted, abs=1e-9)


def test_no_label_covers_another_or_a_fish(page, site):
    page.goto(site.address)
    page.wait_for_selector(STARTED)
    # Ten fish, some a ring's width apart: boxes of labels against boxes of labels and of echoes.
    found = page.evaluate(
        """async () => {
            const { placeLabels } = await import("/static/js/lamp/labels.js");
            const fish = [...Array(10).keys()].map((i) => ({
                x: 300 + 34 * (i % 4) + 7 * Math.floor(i / 4), y: 150 + 30 * Math.floor(i / 4), radius: 12, text: `${"ABCDEFGHIJ"[i]} fish, ${8 + i} in`,
            }));
            const boxes = placeLabels(fish, { width: 790, height: 422, top: 22 }, (text) => 9 * text.length);
            return { boxes, fish };
        }"""
    )
    boxes = found["boxes"]
    echoes = [{"left": one["x"] - 12, "right": one["x"] + 12, "top": one["y"] - 12, "bottom": one["y"] + 12} for one in found["fish"]]
    assert len(boxes) == 10
    for at, box in enumerate(boxes):
        for other in [*boxes[at + 1 :], *echoes]:
            apart = (
                box["right"] <= other["left"]
                or other["right"] <= box["left"]
                or box["bottom"] <= other["top"]
                or other["bottom"] <= box["top"]
            )
            assert apart, (box, other)


def test_a_key_goes_from_one_fish_to_all_marks_to_none(page, site):
    page.goto(site.address)
    page.wait_for_selector(STARTED)

    def marked():
        return page.locator("[data-bench=marks]").inner_text()

    def accents():
        """How much of the overlay is drawn in the accent's color."""
        return page.evaluate(
            """() => { const c = document.querySelector("#side .marks"); const d = c.getContext("2d").getImageData(0, 0, c.width, c.height).data;
            let n = 0; for (let i = 0; i < d.length; i += 4) if (d[i + 3] > 200 && d[i] > 70 && d[i] < 120 && d[i + 1] < 60) n += 1; return n; }"""
        )

    until(page, "document.querySelector('[data-reading=pictures-per-second]').textContent !== '–'")
    page.wait_for_timeout(6000)
    assert marked() == "Marks: one fish"
    page.keyboard.press("m")
    page.wait_for_timeout(500)
    assert marked() == "Marks: all"
    everything = accents()
    page.keyboard.press("m")
    page.wait_for_timeout(500)
    assert marked() == "Marks: none"
    assert accents() < 0.2 * everything
    page.keyboard.press("m")
    assert marked() == "Marks: one fish"
    assert page.problems == []


def test_a_session_that_dies_offers_to_start_again_and_does_so_in_place(chromium, private, tmp_path):
    from tests.faults.conftest import Served
    from tests.faults.test_faults import session_process

    served = Served(private.url("mudlamp"), tmp_path)
    try:
        page = patient(chromium.new_context()).new_page()
        opened(page, served)
        page.locator("input[name=reach_ft]").fill("30")
        page.wait_for_timeout(1500)
        page.evaluate("window.here = true")
        os.kill(session_process(served, None), signal.SIGKILL)
        page.wait_for_selector("#again:visible")
        assert "This session has stopped" in page.locator("#veil").inner_text()
        page.locator("#again").click()
        page.wait_for_selector('[data-line="up"]')
        until(page, "document.querySelector('[data-value=reach_ft] b').textContent === '30'")
        # The page itself stayed.
        assert page.evaluate("window.here") is True
        page.context.close()
    finally:
        served.stop()
