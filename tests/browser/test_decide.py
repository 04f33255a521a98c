"""An angler picks a fish, is told where to throw, throws, is told what to do, says what a mark is, and sees why in the log."""

import re

from tests.browser.test_lamp import again_until, heard, opened, pull, swim, throw_at_fish, until

FACTS = re.compile(r"(in \(|end not seen).* ft out, \d+ down.*(holds still|mph)")
ANSWERS = {"looked", "followed", "bit", "backed_off", "refused", "spooked"}


def _reel_in(page):
    page.keyboard.down("r")
    until(page, "document.getElementById('lamp').dataset.lure === 'stowed'")
    page.keyboard.up("r")


def _told(page):
    return page.evaluate("[...document.querySelectorAll('#events li')].map(row => row.dataset.token)")


def test_an_angler_chooses_throws_where_told_reads_changes_and_sees_why(page, site):
    said = heard(page)
    opened(page, site)
    # Take the rod: the scripted angler's jig comes in.
    throw_at_fish(page)
    _reel_in(page)
    # Choose: who it is, how big, how far, and where to throw.
    until(page, "document.getElementById('who').textContent.includes('%')")
    until(page, "/ ft out/.test(document.getElementById('facts').textContent)")
    assert FACTS.search(page.locator("#facts").inner_text())
    first = page.locator("#who").inner_text().split(":")[0]
    chosen = f"(who => who.includes('%') && who.split(':')[0] !== '{first}')(document.getElementById('who').textContent)"
    again_until(page, lambda: page.click("#next-fish"), chosen)
    until(page, "/^(Throw|Drop it|Pitch) .*count/.test(document.getElementById('where-to').textContent)")
    # Throw until one answers: with the jig at a fish the line says what to do, and why.
    calls = "/: (Let it fall|Stop lowering|Lift it away|Hold it|Leave it|Keep it moving|Set the hook|Back off|Do not strike)/"
    was_told = False
    for _ in range(14):
        throw_at_fish(page)
        thrown_s = said["tracks"]["time_s"]
        while said["tracks"]["time_s"] < thrown_s + 8.0:
            was_told |= page.evaluate(f"{calls}.test(document.getElementById('where-to').textContent)")
            # The answers of all throws are listed: one of an earlier throw must not end the look at this one.
            if was_told and ANSWERS & {*_told(page)}:
                break
            page.wait_for_timeout(100)
        swim(page, said)
        if was_told and ANSWERS & {*_told(page)}:
            break
        # Told only that the jig came down wide of it, an angler tries another fish.
        page.click("#next-fish")
    assert was_told
    assert ANSWERS & {*_told(page)}

    # Change: a heavier head, which the next throw is worked out for.
    def tie():
        # A fish that has the jig is played in first.
        page.evaluate("document.activeElement.blur()")
        pull(page, said, 1.5)
        page.select_option("#tied", label="1/8 oz")

    again_until(page, tie, "document.getElementById('lamp').dataset.lure === 'stowed'")
    throw_at_fish(page)
    until(page, "document.getElementById('tied').selectedOptions[0].textContent === '1/8 oz'")
    page.wait_for_timeout(3000)
    # Why: what got there, what answered, with which head, whether to stay, and what may be claimed of it.
    page.goto(f"{site.address}/log")
    page.locator("#_sessions a, .list a").first.click()
    page.wait_for_url("**/log/*-*")
    heads = "[...document.querySelectorAll('.shots td[data-label=Head]')].map(one => one.textContent)"
    again_until(page, page.reload, f"(heads => heads.includes('1/16 oz') && heads.includes('1/8 oz'))({heads})")
    shown = page.locator(".review").inner_text()
    assert re.search(r"got there of all shots\s+[1-9]\d* of \d+: \d+ %", shown), shown
    assert re.search(r"answered of those that got there\s+[1-9]\d* of \d+", shown), shown
    assert re.search(r"(Stay|Move on|Too early to tell): \d+ takes? in \d+ min here", shown), shown
    assert re.search(r"more often than|is more than chance explains", shown), shown
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


def test_a_length_is_kept_back_until_it_is_guessed(page, site):
    opened(page, site)
    until(page, "document.getElementById('facts').textContent.includes('ft out')")
    page.check("#guess-first")
    until(page, "document.getElementById('facts').textContent.startsWith('How long? Guess first')")

    def guess():
        page.fill("#guess", "31.5")
        page.press("#guess", "Enter")

    again_until(page, guess, "document.getElementById('facts').textContent.includes('you guess 31.5 in')")
    # What cannot be a fish's length is not sent; the wish to guess first stays on this device.
    page.fill("#guess", "300")
    page.press("#guess", "Enter")
    assert not page.evaluate("document.getElementById('guess').validity.valid")
    page.reload()
    until(page, "document.getElementById('guess-first').checked")
    assert page.problems == []
