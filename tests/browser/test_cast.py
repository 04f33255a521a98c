import pytest
from axe_playwright_python.sync_playwright import Axe

from tests.browser.test_lamp import until


@pytest.mark.parametrize("size", [(1280, 800), (390, 844)])
def test_an_angler_asks_for_a_cast_and_it_follows_what_is_typed(page, site, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto(site.address + "/cast")
    assert page.locator(".cast-said").inner_text() == "Throw fifteen past him, count 25."
    # A heavier head: the same throw, a shorter count, without a press.
    page.fill("#cast-head_oz", "0.25")
    until(page, "document.querySelector('.cast-said').innerText.includes('count thirteen')")
    # He swims off to the right: lead him.
    page.fill("#cast-speed_mph", "0.5")
    page.fill("#cast-heading_deg", "90")
    until(page, "document.querySelector('.cast-said').innerText.includes('ahead of him')")
    until(page, "document.getElementById('_answer').innerText.includes('ft to the right')")
    # What cannot be is said, and the form is kept.
    page.fill("#cast-depth_ft", "60")
    until(page, "document.getElementById('_answer').innerText.includes('at most')")
    assert page.input_value("#cast-head_oz") == "0.25"
    page.fill("#cast-depth_ft", "12")
    until(page, "document.querySelectorAll('.cast-said').length > 0")
    page.click("text=More: rod, unit, wind, water")
    results = Axe().run(page)
    assert results.violations_count == 0, results.generate_report()
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
