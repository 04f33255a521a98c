"""An angler picks a fish, is told where to throw, throws, is told what to do, says what a mark is, and sees why in the log."""

import re

from tests.browser.test_lamp import again_until, opened, throw_at_fish, until

FACTS = re.compile(r"(in \(|end not seen).* ft out, \d+ down.*(holds still|mph)")


def test_an_angler_picks_a_fish_throws_where_told_and_is_told_what_to_do(page, site):
    opened(page, site)
    # Take the rod: the scripted angler's jig comes in, and what to throw at is said.
    throw_at_fish(page)
    until(page, "document.getElementById('who').textContent.includes('%')")
    until(page, "/ ft out/.test(document.getElementById('facts').textContent)")
    assert FACTS.search(page.locator("#facts").inner_text())
    first = page.locator("#who").inner_text().split(":")[0]
    again_until(
        page,
        lambda: page.click("#next-fish"),
        f"(who => who.includes('%') && who.split(':')[0] !== '{first}')(document.getElementById('who').textContent)",
    )
    # With the jig at a fish the line says what to do, and why.
    calls = "/: (Stop lowering|Lift it away|Hold it|Re-align|Leave it|Keep it moving|Set the hook|Back off|Do not strike)/"
    for _ in range(5):
        if page.evaluate(f"{calls}.test(document.getElementById('where-to').textContent)"):
            break
        throw_at_fish(page)
        page.wait_for_timeout(7000)
    until(page, f"{calls}.test(document.getElementById('where-to').textContent)")
    assert page.problems == []


def test_another_head_is_tied_on_and_each_shot_is_logged_with_its_own(page, site):
    opened(page, site)
    throw_at_fish(page)
    page.select_option("#tied", label="1/8 oz")
    until(page, "document.getElementById('lamp').dataset.lure === 'stowed'", 20.0)
    throw_at_fish(page)
    until(page, "document.getElementById('tied').selectedOptions[0].textContent === '1/8 oz'")
    page.wait_for_timeout(3000)
    page.goto(f"{site.address}/log")
    page.locator("#_sessions a, .list a").first.click()
    page.wait_for_url("**/log/*-*")
    heads = "[...document.querySelectorAll('.shots td[data-label=Head]')].map(one => one.textContent)"
    again_until(
        page,
        page.reload,
        f"(heads => heads.includes('1/16 oz') && heads.includes('1/8 oz'))({heads})",
    )
    assert page.problems == []


def test_what_an_angler_says_of_a_mark_stands_and_can_be_taken_back(page, site):
    opened(page, site)
    until(page, "document.getElementById('who').textContent.includes('%')")

    def say():
        page.click("#next-fish")
        page.select_option("#it-is", "catfish")

    again_until(page, say, "/: catfish 100 %/.test(document.getElementById('who').textContent)")
    page.click("#take-back")
    until(page, "!/catfish 100 %/.test(document.getElementById('who').textContent)")
    assert page.problems == []
