import re

import pytest
from axe_playwright_python.sync_playwright import Axe

from tests.browser.test_lamp import STARTED, again_until, until

OWN_VOICE = """() => {
    window.heard = [];
    Object.defineProperty(window, "speechSynthesis", { value: {
        getVoices: () => [{ localService: true, lang: "en-US", name: "own" }], cancel: () => {}, speak: (said) => window.heard.push(said.text) } });
    window.SpeechSynthesisUtterance = class { constructor(text) { this.text = text; } };
}"""


def there(page, selector):
    until(page, f"document.querySelectorAll({selector!r}).length > 0")


def ask(page, site, **answers):
    page.goto(site.address + "/tune")
    for name, value in answers.items():
        field = page.locator(f"#f-{name}")
        if field.evaluate("field => field.tagName") == "SELECT":
            field.select_option(value)
        else:
            field.fill(value)
    page.click("text=Build my card")
    # The page of the new card, not the one that stood there before.
    until(page, "location.search.includes('card=')")
    there(page, ".card-row")
    measured(page)


def measured(page):
    until(page, "!document.getElementById('card').innerText.includes('easuring')")


def own_rig(page, site):
    """Copy the demo's rig, which is loaded a moment after the start."""
    again_until(page, lambda: page.goto(site.address + "/rig"), "document.body.innerText.includes('Make it mine')")
    page.click("text=Make it mine")


def start_of(page, control):
    return page.locator(f'[data-row="{control}"] .start b').inner_text()


def test_an_angler_makes_a_rig_asks_tunes_tries_moves_and_prints(page, site):
    # A rig, with the unit's own words.
    page.goto(site.address + "/rig")
    page.fill("#name", "The green boat")
    page.click("text=Create the rig")
    there(page, "#rig-power")
    page.click("#word-gain summary")
    page.fill("#gain-label", "Sens")
    page.select_option("#gain-kind", "percent")
    page.click("text=Save Gain")
    there(page, "#match-job")
    page.click("#word-quieting_pings summary")
    page.fill("#quieting_pings-label", "Noise")
    page.select_option("#quieting_pings-kind", "steps")
    page.fill("#quieting_pings-steps", "Off, Low, Med, High")
    page.click("text=Save Quieting")
    until(page, "document.getElementById('word-quieting_pings').innerText.includes('Noise')")
    # Another section is saved after it: the version goes along.
    page.fill("#power-gauge", "10")
    page.click("text=Save power")
    until(page, "document.getElementById('rig-power').innerText.includes('Saved.')")
    # Ask. Until it is matched the card says so, never a number.
    ask(page, site, technique="pitch", target="crappie", depth_ft="24", clarity="stained", bottom="sand")
    assert page.locator('[data-row="gain"] .theirs').inner_text().startswith("not matched yet")
    assert start_of(page, "down_to_ft") == "27 ft"
    page.click(".card-rest > details > summary")
    assert page.locator('[data-row="quieting_pings"] .theirs').inner_text().startswith("Noise Off")
    assert "lag +67 ms" in page.locator('[data-row="quieting_pings"] .styles').inner_text()
    # Match Gain in this card's water.
    page.goto(site.address + "/rig")
    page.click("text=Compute both")
    there(page, "input[name=speckle]")
    page.fill("input[name=speckle]", "58")
    page.fill("input[name=jig]", "44")
    page.click("text=Match them")
    until(page, "document.getElementById('_words').innerText.includes('Our Gain 55 is Sens')")
    ask(page, site, technique="pitch", target="crappie", depth_ft="24", clarity="stained", bottom="sand")
    assert "Sens" in page.locator('[data-row="gain"] .theirs').inner_text()
    # Auto-tune, and set the card to it.
    again_until(page, lambda: page.click("text=Auto-tune"), "document.querySelectorAll('#card-job .job, #tuned').length > 0")
    there(page, "#tuned")
    found = page.locator("#tuned tbody tr").first.locator("td b").inner_text()
    page.click("text=Use these settings")
    until(page, "document.getElementById('tuned').innerText.includes('set to this now')")
    assert start_of(page, "gain") == found
    page.fill("[aria-label='Name for this baseline']", "Orchard, fall")
    page.click(".card-doing >> text=Save")
    until(page, "document.getElementById('_baselines').innerText.includes('Orchard, fall')")
    # Try it: the Lamp on this water, the twin picture beside it.
    page.click("text=Try it")
    page.wait_for_selector(STARTED)
    until(page, "document.getElementById('lamp').classList.contains('with-twin')")
    until(page, "document.querySelector('input[type=range][name=reach_ft]').value === '30'")
    assert page.locator("input[type=range][name=gain]").input_value() == found
    assert "Pitching to crappie" in page.locator("#open-waters").inner_text()
    # Move, and hear only what changes.
    page.goto(site.address + "/tune")
    page.click("#moved summary")
    page.fill("#m-depth_ft", "12")
    page.click("text=Show what changes")
    there(page, ".spoken")
    said = page.locator(".spoken").inner_text()
    assert said.startswith("You moved. Down to 27 → 15.")
    assert "Leave " in said
    assert said.endswith("alone.")
    # A voice that is the device's own says it; muted, it does not.
    page.evaluate(OWN_VOICE)
    page.click("text=Say it")
    assert re.fullmatch(r"Down to fifteen\. .*Leave the rest\.", page.evaluate("window.heard.join('')"))
    page.click("[data-mute]")
    page.click("text=Say it")
    assert page.evaluate("window.heard.length") == 1
    assert "Muted." in page.locator("#card").inner_text()
    # Print.
    page.click(".card-doing >> text=Print")
    there(page, "#print-now")
    assert page.locator(".sheet .big").first.inner_text() == "15 ft"
    sheet = page.pdf(format="Letter")
    assert len(re.findall(rb"/Type\s*/Page\b", sheet)) == 1
    assert page.problems == []


def refused(page, address, times):
    """Answer the next requests to an address as a busy server does."""
    page.route(address, lambda route: route.fulfill(status=503, body="busy"), times=times)


def test_a_card_is_followed_by_its_pictures_and_its_questions(page, site):
    # The page asks again for what is measured, whether it was the start or how far it is that found no answer.
    refused(page, re.compile("/costs$"), times=1)
    refused(page, re.compile(r"/costs\?job="), times=2)
    ask(page, site, technique="pitch", target="crappie", depth_ft="20", clarity="stained", bottom="sand")
    until(page, "[...document.querySelectorAll('.looks img')].every(one => one.complete && one.naturalWidth === 304)")
    captions = page.locator('[data-row="gain"] .look-at').all_inner_texts()
    assert [one.split(":")[0] for one in captions] == ["Too low", "Right", "Too high"]
    # Right is inside the band that stands beside it.
    low, high = re.search(r"usual (\d+) to (\d+)", page.locator('[data-row="gain"] .theirs').inner_text()).groups()
    assert int(low) <= int(start_of(page, "gain")) <= int(high)
    page.locator('[data-row="gain"] .look-at.right').click()
    until(page, "document.getElementById('enlarged').open && document.getElementById('enlarged-picture').naturalWidth === 1000")
    page.click("#enlarged >> text=Close")
    # The next question, answered by one tap, builds the card anew.
    there(page, "#next form")
    before = page.url
    page.locator("#next form .button").first.click()
    until(page, f"location.href !== {before!r} && document.querySelectorAll('.card-row').length > 0")
    assert page.problems == []


def test_what_is_wrong_is_said_beside_it_and_nothing_typed_is_lost(page, site):
    page.goto(site.address + "/tune")
    page.fill("#f-depth_ft", "12")
    page.click("text=More, if you know it")
    page.fill("#f-fish_to_ft", "30")
    page.fill("#f-wind_mph", "8")
    page.click("text=Build my card")
    there(page, "#f-fish_to_ft-problem")
    assert "it must be 0 to 12 ft" in page.locator("#f-fish_to_ft-problem").inner_text()
    assert (page.input_value("#f-wind_mph"), page.input_value("#f-depth_ft")) == ("8", "12")
    assert page.locator("#f-fish_to_ft").get_attribute("aria-invalid") == "true"
    page.fill("#f-fish_to_ft", "10")
    page.click("text=Build my card")
    there(page, ".card-row")
    # Asked again at once while it is measured: the page stands.
    page.click("text=Build my card")
    measured(page)


def test_a_symptom_is_picked_and_shown_on_the_bench(page, site):
    ask(page, site, technique="pitch", depth_ft="20", clarity="stained")
    page.click("#symptoms > summary")
    page.select_option("#symptom", "spokes")
    there(page, ".suspects")
    assert page.locator(".suspects li b").first.inner_text() == "A second live sonar"
    page.click("[aria-label='Show me: A second live sonar']")
    page.wait_for_selector(STARTED)
    until(page, "document.getElementById('lamp').classList.contains('with-twin')")
    assert "A second live sonar (shown)" in page.locator("#open-waters").inner_text()
    # The cure stands beside it: two steps of Quieting on set-up B.
    page.locator("#sides label", has_text="Set-up B").click()
    until(page, "document.querySelector('#rail input[name=quieting_pings]').value === '2'")
    assert page.problems == []


def test_what_is_tried_is_drawn_in_the_themes_ink_on_both_pictures(page, site):
    page.context.add_cookies([{"name": "lamp_theme", "value": "dusk", "url": site.address}])
    ask(page, site, technique="vertical", depth_ft="18", clarity="clear")
    page.click("text=Try it")
    page.wait_for_selector(STARTED)
    until(page, "document.getElementById('lamp').classList.contains('with-twin')")
    for side in ("A", "B"):
        page.locator("#sides label", has_text=f"Set-up {side}").click()
        until(page, "document.querySelector('#rail input[name=ink][value=chalk]').checked")
    assert page.problems == []


def test_long_work_is_canceled_from_the_page(page, site):
    ask(page, site, technique="pitch", depth_ft="22", clarity="murky")
    page.click("text=Auto-tune")
    there(page, "[data-cancel-job]")
    page.click("[data-cancel-job]")
    until(page, "document.getElementById('card-job').innerText.includes('Canceled.')")
    # Longer than a whole search: nothing comes of it after all.
    page.wait_for_timeout(4000)
    page.reload()
    there(page, ".card-row")
    assert page.locator("#tuned").count() == 0


@pytest.mark.parametrize("theme", ["noon", "dusk"])
@pytest.mark.parametrize("size", [(1280, 800), (390, 844)])
def test_rig_and_tune_can_be_used_by_everyone(page, site, theme, size):
    page.context.add_cookies([{"name": "lamp_theme", "value": theme, "url": site.address}])
    page.set_viewport_size({"width": size[0], "height": size[1]})
    own_rig(page, site)
    there(page, "#_words")
    assert Axe().run(page).violations_count == 0, Axe().run(page).generate_report()
    ask(page, site, technique="cast", target="bass", depth_ft="18", clarity="clear")
    page.click("#symptoms > summary")
    page.select_option("#symptom", "blob")
    there(page, ".suspects")
    results = Axe().run(page)
    assert results.violations_count == 0, results.generate_report()
    # Nothing sticks out to the side, and what is pressed in the boat is large enough.
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
    if size[0] < 500:
        heights = page.evaluate("[...document.querySelectorAll('.card-doing .button')].map(one => one.getBoundingClientRect().height)")
        assert min(heights) >= 64.0
        assert page.locator(".glance dd").first.bounding_box()["y"] < size[1]
