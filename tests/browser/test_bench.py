"""The bench, used as an angler at home uses it."""

import json
import re

import pytest

from tests.browser.test_lamp import ink_on_water, opened, until

SMALLEST = {
    "name": "my-own",
    "title": "Behind the mill",
    "water": {"temperature_degc": 20, "secchi_m": 3, "wind_m_s": 0},
    "targets": [{"kind": "point", "x_m": 0, "y_m": 6, "z_m": 4, "ts_db": -35}],
}


def reading(page, column):
    """A column of the twin table, by the reading's title."""
    return dict(
        page.evaluate(
            f"[...document.querySelectorAll('#twin-table tbody tr')].map(row => [row.cells[0].textContent, row.cells[{column}].textContent])"
        )
    )


def reopened(page):
    """Wait for the page that a change of water loads anew."""
    page.wait_for_selector('[data-line="up"]')
    until(page, "document.querySelector('[data-reading=pictures-per-second]').textContent !== '–'")


def shades(page):
    """Return how often the color changes from one page pixel to the next across the picture."""
    return page.evaluate("""() => {
        const canvas = document.querySelector("#side .pixels");
        const data = new Uint32Array(canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height).data.buffer);
        let changes = 0;
        for (let i = 1; i < data.length; i += 1) changes += data[i] !== data[i - 1] ? 1 : 0;
        return changes;
    }""")


def test_two_set_ups_of_the_same_pings_stand_side_by_side_with_their_difference(page, site):
    opened(page, site)
    page.click('[data-bench="twin"]')
    until(page, "!document.getElementById('side-b').hidden && document.querySelectorAll('#twin-table tbody tr').length > 4")
    page.locator("#sides label", has_text="Set-up B").click()
    page.locator("input[name=quieting_pings]").fill("3")
    until(
        page,
        "[...document.querySelectorAll('#twin-table tbody tr')].some(row => row.cells[0].textContent === 'Lag' && row.cells[1].textContent !== row.cells[2].textContent)",
    )
    # Another fan would be other pings: it is refused with the reason, and the control goes back.
    page.locator('label:has(input[name=fan][value="flat"])').click()
    until(page, "/the same pings/.test(document.getElementById('hand').textContent)")
    until(page, "document.querySelector('input[name=fan]:checked').value === 'ahead'")
    page.click('[data-twin="swap"]')
    until(page, "document.querySelector('input[name=quieting_pings]').value === '0'")
    page.locator("#sides label", has_text="Set-up A").click()
    until(page, "document.querySelector('input[name=quieting_pings]').value === '3'")
    page.click('[data-twin="copy"]')
    until(
        page, "[...document.querySelectorAll('#twin-table tbody tr')].every(row => row.cells[1].textContent === row.cells[2].textContent)"
    )
    assert len(reading(page, 1)) > 4
    page.click('[data-bench="twin"]')
    until(page, "document.getElementById('side-b').hidden")
    assert page.problems == []


def test_what_a_hard_cut_erases_is_counted_and_one_press_brings_it_back(page, site):
    opened(page, site)
    page.locator("input[name=gain]").fill("25")
    until(
        page,
        "/hidden|erased|fish|jig/i.test(document.getElementById('hidden').textContent) && document.getElementById('hidden').textContent !== 'nothing.'",
    )
    page.click('[data-bench="truth"]')
    assert page.locator('[data-bench="truth"]').get_attribute("aria-pressed") == "true"
    until(page, "!document.getElementById('remedy').hidden && !document.getElementById('remedy').disabled")
    before = page.locator("#hidden").inner_text()
    page.click("#remedy")
    until(page, f"document.getElementById('hidden').textContent !== {json.dumps(before)}")
    assert page.problems == []


def test_time_stands_still_goes_on_by_one_ping_and_comes_again(page, site):
    opened(page, site)
    page.wait_for_timeout(2500)
    page.keyboard.press("f")
    until(page, "document.getElementById('lamp').dataset.pace === 'frozen'")
    page.wait_for_timeout(600)
    still = page.evaluate("document.querySelector('#side .pixels').toDataURL()")
    page.wait_for_timeout(700)
    assert page.evaluate("document.querySelector('#side .pixels').toDataURL()") == still
    # A control still works on a picture that stands still.
    page.locator("input[name=gain]").fill("85")
    page.wait_for_timeout(800)
    louder = ink_on_water(page)
    page.locator("input[name=gain]").fill("35")
    page.wait_for_timeout(800)
    assert ink_on_water(page) < louder
    still = page.evaluate("document.querySelector('#side .pixels').toDataURL()")
    page.keyboard.press("g")
    page.wait_for_timeout(800)
    assert page.evaluate("document.querySelector('#side .pixels').toDataURL()") != still
    page.click('#bench [data-pace="replay"]')
    until(page, "!document.getElementById('tape').hidden && Number(document.getElementById('tape').value) > 0")
    page.click('#bench [data-pace="replay"]')
    until(page, "document.getElementById('lamp').dataset.pace === 'run'")
    assert page.problems == []


def hovered(page, x, y):
    """Move over a place of the side view; return what the page says it is: feet out, feet down."""
    box = page.locator("#side").bounding_box()
    page.mouse.move(box["x"] + x, box["y"] + y)
    return [int(word) for word in re.findall(r"\d+", page.locator("#hover").inner_text())]


def test_holding_on_a_mark_looks_closer_and_throws_nothing(page, site):
    heard = []
    page.on("websocket", lambda line: line.on("framereceived", lambda data: heard.append(data) if isinstance(data, str) else None))
    opened(page, site)
    page.wait_for_timeout(6000)
    page.keyboard.press("f")
    until(page, "document.getElementById('lamp').dataset.pace === 'frozen'")
    page.wait_for_timeout(500)
    tracks = next(one["tracks"] for one in map(json.loads, reversed(heard)) if one["type"] == "tracks")
    # The page's own words for two places give its scale, in feet a pixel.
    (out_1, down_1), (out_2, down_2) = hovered(page, 160, 120), hovered(page, 640, 330)
    fish = next(one for one in tracks if one["kind"] == "fish")
    x = 160 + (fish["ahead_m"] / 0.3048 - out_1) * 480 / (out_2 - out_1)
    y = 120 + (fish["other_m"] / 0.3048 - down_1) * 210 / (down_2 - down_1)
    hovered(page, x, y)
    page.mouse.down()
    until(page, "!document.getElementById('loupe').hidden")
    page.wait_for_timeout(300)
    colors = """(() => { const c = document.getElementById('loupe');
        return new Set(c.getContext('2d').getImageData(0, 0, c.width, c.height).data).size; })()"""
    assert page.evaluate(colors) > 3
    page.mouse.up()
    assert page.evaluate("document.getElementById('loupe').hidden")
    assert page.locator("#lamp").get_attribute("data-scripted") == "true"
    assert page.problems == []


def test_a_control_says_what_it_gives_takes_and_costs_now(page, site):
    opened(page, site)
    until(page, "document.querySelectorAll('#readings .reading').length === 6")
    page.click('[data-explain="near_cut_db"]')
    until(page, "/\\d/.test(document.querySelector('[data-price=near_cut_db]').textContent)")
    about = page.locator("#about-near_cut_db")
    assert "Gives:" in about.inner_text()
    assert "Takes:" in about.inner_text()
    page.keyboard.press("Escape")
    page.click('[data-explain="gain"]')
    page.locator('[data-auto="gain"]').click()
    until(page, "document.querySelector('[data-why=gain]').textContent.length > 20")
    assert page.problems == []


def test_the_rigs_screen_is_what_the_picture_is_drawn_on(page, site):
    opened(page, site)
    page.goto(site.address + "/rig")
    page.fill("#name", "The small screen")
    page.click("text=Create the rig")
    page.fill("#screen-diagonal_in", "9")
    page.fill("#screen-width_px", "800")
    page.fill("#screen-height_px", "480")
    page.click("text=Save your unit's screen")
    until(page, "document.getElementById('rig-screen').innerText.includes('Saved.')")
    opened(page, site)
    assert "9 in, 800 by 480 pixels" in page.locator(".side").inner_text()
    page.click('[data-bench="screen"]')
    until(page, "document.querySelector('[data-bench=screen]').getAttribute('aria-pressed') === 'true'")
    until(page, "/px\\/ft/.test(document.getElementById('hand').textContent)")
    page.click('[data-bench="screen"]')
    assert page.locator('[data-bench="screen"]').get_attribute("aria-pressed") == "false"
    # Drawn between the cells, and as they were sampled: blocks of one color are whole cells.
    page.click('#bench [data-pace="frozen"]')
    until(page, "document.getElementById('lamp').dataset.pace === 'frozen'")
    page.wait_for_timeout(400)
    smooth = shades(page)
    page.click('[data-bench="sampled"]')
    page.wait_for_timeout(400)
    assert page.locator('[data-bench="sampled"]').get_attribute("aria-pressed") == "true"
    assert smooth > 1.3 * shades(page)
    page.click('[data-bench="sampled"]')
    page.click('#bench [data-pace="frozen"]')
    assert page.problems == []


def test_another_water_and_a_scene_of_ones_own_open_from_the_dialog(page, site, tmp_path):
    opened(page, site)
    page.click("#open-waters")
    assert page.locator(".scene").count() == 12
    page.click('[data-scene="rock-shallows"]')
    until(page, "!document.getElementById('waters').open")
    reopened(page)
    assert page.locator("#source").inner_text() == "simulated"
    path = tmp_path / "my.json"
    path.write_text(json.dumps({**SMALLEST, "water": {**SMALLEST["water"], "secchi_m": -4}}))
    page.click("#open-waters")
    page.set_input_files("#scene-file", path)
    until(page, "/secchi_m.*-4/.test(document.getElementById('waters-error').textContent)")
    path.write_text(json.dumps(SMALLEST))
    page.set_input_files("#scene-file", path)
    until(page, "/Behind the mill/.test(document.getElementById('open-waters')?.textContent ?? '')")
    reopened(page)
    page.click("#open-waters")
    with page.expect_download() as saved:
        page.click("#scene-save")
    assert json.loads(saved.value.path().read_text())["title"] == "Behind the mill"
    refusal = [problem for problem in page.problems if "422" not in problem]
    assert refusal == []


def test_the_minute_is_kept_replayed_under_another_set_up_and_thrown_away(page, site, tmp_path):
    opened(page, site)
    page.wait_for_timeout(4000)
    page.click("#open-waters")
    page.click('#waters [data-bench="save"]')
    until(page, "/is saved below/.test(document.getElementById('job-text').textContent)")
    until(page, "document.querySelectorAll('#recordings [data-play]').length >= 1")
    broken = tmp_path / "broken.nc"
    broken.write_bytes(b"not a recording at all" * 50)
    page.set_input_files("#recording-file", broken)
    until(page, "document.getElementById('waters-error').textContent.length > 10")
    page.locator("#recordings [data-play]").first.click()
    until(page, "document.getElementById('source')?.textContent === 'recording'")
    reopened(page)
    assert page.locator("#throw").count() == 0
    page.locator("input[name=gain]").fill("30")
    page.wait_for_timeout(1500)
    dim = ink_on_water(page)
    page.locator("input[name=gain]").fill("90")
    page.wait_for_timeout(1500)
    assert ink_on_water(page) > 2 * dim
    assert "estimated" in page.locator("#readings").inner_text() or "needs simulated water" in page.locator("#readings").inner_text()
    refusal = [problem for problem in page.problems if "422" not in problem]
    assert refusal == []


def test_a_set_up_is_saved_under_a_name_and_taken_back(page, site):
    opened(page, site)
    page.locator("input[name=gain]").fill("71")
    until(page, "document.querySelector('[data-value=gain] b').textContent === '71'")
    page.click("#setups summary")
    page.click("#setup-save")
    assert page.locator("#setup-error").inner_text() == "Name it first."
    page.fill("#setup-name", "Cold and clear")
    page.click("#setup-save")
    page.wait_for_selector("text=Cold and clear")
    page.locator("input[name=gain]").fill("40")
    until(page, "document.querySelector('[data-value=gain] b').textContent === '40'")
    page.click(".setup-take")
    until(page, "document.querySelector('[data-value=gain] b').textContent === '71'")
    page.click(".setup-drop")
    until(page, "document.querySelectorAll('.setup-take').length === 0")
    assert page.problems == []


@pytest.mark.parametrize("theme", ["noon", "dusk"])
def test_the_open_dialog_of_waters_meets_the_accessibility_rules(page, site, theme):
    from axe_playwright_python.sync_playwright import Axe

    page.context.add_cookies([{"name": "lamp_theme", "value": theme, "url": site.address}])
    opened(page, site)
    page.click("#open-waters")
    page.wait_for_timeout(800)
    found = Axe().run(page, options={"runOnly": ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"]})
    assert found.violations_count == 0, found.generate_report()
