"""Readings in words: a word first, the figure after."""

from dataclasses import dataclass
from typing import Any

from mudlamp.core.receiver.auto import DARK_PCT, Choice
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.receiver.setup import ReceiverSetup
from mudlamp.core.receiver.trial import Price, Remedy
from mudlamp.core.units import feet


@dataclass(frozen=True, slots=True, kw_only=True)
class Worded:
    """A reading for the page: what it is of, the word, the figure, how full its bar is (0 to 1), and whether that is good, fair or bad."""

    name: str
    title: str
    word: str
    figure: str
    share: float
    mood: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """What the tracker makes of pings whose truth nobody knows: fish followed surely, of all it follows, and whether it has the lure."""

    sure: int
    followed: int
    lure: bool


def worded(readings: Readings, counts: tuple[int, int], estimate: Estimate) -> list[Worded]:
    """Return the readings as the page shows them; `counts` are fish shown, of fish that could be seen.

    Where no truth is known the tracker's `estimate` stands for it, and is called so.
    """
    known = readings.erased is not None
    first = [_jig(readings), _fish(readings, counts)] if known else [_estimated_jig(estimate), _estimated_fish(estimate)]
    return [*first, _clutter(readings), _blown(readings), _lag(readings), _parting(readings)]


def _estimated_jig(estimate: Estimate) -> Worded:
    word, mood = ("Followed", "good") if estimate.lure else ("Not found", "fair")
    return Worded(name="jig", title="Jig", word=word, figure="estimated by the tracker", share=float(estimate.lure), mood=mood)


def _estimated_fish(estimate: Estimate) -> Worded:
    share = estimate.sure / estimate.followed if estimate.followed else 0.0
    figure = f"estimated: {estimate.sure} of them surely"
    return Worded(
        name="fish",
        title="Fish",
        word=f"{estimate.followed} followed",
        figure=figure,
        share=share,
        mood="good" if estimate.sure else "fair",
    )


def _jig(readings: Readings) -> Worded:
    value = readings.lure_over_clutter_db
    if value is None:
        return Worded(name="jig", title="Jig", word="–", figure="out of the beam", share=0.0, mood="fair")
    steps = ((2.0, "Gone", "bad"), (6.0, "Barely there", "fair"), (12.0, "Clear", "good"))
    word, mood = next(((word, mood) for limit, word, mood in steps if value < limit), ("Bright", "good"))
    if "lure" in (readings.erased or ()):
        word, mood = "Gone", "bad"
    return Worded(
        name="jig", title="Jig", word=word, figure=f"{value:+.0f} dB over clutter", share=min(max(value / 24.0, 0.0), 1.0), mood=mood
    )


def _fish(readings: Readings, counts: tuple[int, int]) -> Worded:
    shown, there = counts
    if there == 0:
        return Worded(name="fish", title="Fish", word="None in the beam", figure="", share=0.0, mood="fair")
    mood = "good" if shown == there else "fair" if shown > there / 2 else "bad"
    hidden = there - shown
    figure = "none hidden" if hidden == 0 else f"{hidden} hidden"
    return Worded(name="fish", title="Fish", word=f"{shown} of {there}", figure=figure, share=shown / there, mood=mood)


def _clutter(readings: Readings) -> Worded:
    value = readings.clutter_fill_pct
    steps = ((2.0, "Clean", "good"), (12.0, "Light", "good"), (30.0, "Busy", "fair"))
    word, mood = next(((word, mood) for limit, word, mood in steps if value < limit), ("Snowed in", "bad"))
    return Worded(
        name="clutter", title="Clutter", word=word, figure=f"{value:.0f} % of open water", share=min(value / 60.0, 1.0), mood=mood
    )


def _blown(readings: Readings) -> Worded:
    value = readings.blown_out_pct
    steps = ((4.0, "Hardly", "good"), (15.0, "Some", "fair"))
    word, mood = next(((word, mood) for limit, word, mood in steps if value < limit), ("Much", "bad"))
    return Worded(name="blown", title="Blown out", word=word, figure=f"{value:.0f} % of marks", share=min(value / 40.0, 1.0), mood=mood)


def _lag(readings: Readings) -> Worded:
    value = readings.lag_ms
    word, mood = (
        ("None", "good") if value < 1.0 else ("Slight", "good") if value < 70.0 else ("Felt", "fair") if value < 130.0 else ("Long", "bad")
    )
    return Worded(name="lag", title="Lag", word=word, figure=f"{value / 1000.0:.2f} s", share=min(value / 250.0, 1.0), mood=mood)


def _parting(readings: Readings) -> Worded:
    value = feet(readings.parting_m)
    word, mood = ("Fine", "good") if value < 1.2 else ("Fair", "fair") if value < 2.5 else ("Coarse", "bad")
    return Worded(
        name="parting", title="Two fish part at", word=word, figure=f"{value:.1f} ft apart", share=min(value / 5.0, 1.0), mood=mood
    )


CONTROL_WORDS = {
    "gain": "Gain",
    "near_cut_db": "Near cut",
    "quieting_pings": "Quieting",
    "ghost_cut_db": "Ghost cut",
    "punch": "Punch",
    "hide_below_db": "Hide below",
}


def erased_line(readings: Readings) -> str:
    """Return the *erased now* line: what could be seen but is not shown."""
    if readings.erased is None:
        return "needs simulated water"
    return named(readings.erased)


def named(erased: tuple[str, ...]) -> str:
    """Return marks in words: the jig first, fish counted."""
    if not erased:
        return "nothing"
    fish = sum(name.startswith("fish") for name in erased)
    parts = [f"{fish} fish"] if fish else []
    if "lure" in erased:
        parts.insert(0, "the jig")
    return " and ".join(parts)


def setting(control: str, value: float) -> str:
    """Return a control's value as the rail shows it."""
    if control == "ghost_cut_db":
        return "off" if value == 0.0 else f"{value:g} dB"
    if control == "hide_below_db":
        return "off" if value == 0.0 else f"{value:g} dB"
    if control == "quieting_pings":
        return f"{value:g} {'ping' if value == 1 else 'pings'}"
    return f"{value:g} dB" if control == "near_cut_db" else f"{value:g}"


def remedy_words(remedy: Remedy | None, setup: ReceiverSetup) -> str:
    """Return the cheapest change in words, or that no single change helps."""
    if remedy is None:
        return "no single control brings it back: aim, or shorten the Reach"
    before, after = (setting(remedy.control, value) for value in (float(getattr(setup, remedy.control)), remedy.value))
    added = max(remedy.added_fill_pct, 0.0)
    cost = "no more clutter" if added < 0.5 else f"{added:.0f} % more clutter"
    return f"{CONTROL_WORDS[remedy.control]} {before} → {after} brings back {named(remedy.brings)}, for {cost}"


def difference_rows(a: Readings, b: Readings) -> list[dict[str, Any]]:
    """Return what set-up B has over set-up A, reading by reading, with who is better ("a", "b" or "")."""
    rows = []
    for title, unit, name, more_is_better in (
        ("Jig over clutter", "dB", "lure_over_clutter_db", True),
        ("Faintest fish over clutter", "dB", "faintest_fish_db", True),
        ("Fish shown", "%", "fish_shown_pct", True),
        ("Clutter", "%", "clutter_fill_pct", False),
        ("Blown out", "%", "blown_out_pct", False),
        ("Lag", "ms", "lag_ms", False),
        ("Two fish part at", "ft", "parting_m", False),
    ):
        left, right = getattr(a, name), getattr(b, name)
        scale = 1.0 / 0.3048 if name == "parting_m" else 1.0
        digits = 1 if name == "parting_m" else 0
        if left is None or right is None:
            rows.append({"title": title, "a": "–", "b": "–", "difference": "", "better": ""})
            continue
        # The difference of the figures as shown, so that the table adds up to the eye.
        left, right = round(left * scale, digits), round(right * scale, digits)
        change = round(right - left, digits)
        better = "" if change == 0.0 else "b" if (change > 0) == more_is_better else "a"
        rows.append(
            {
                "title": title,
                "a": f"{left:.{digits}f} {unit}",
                "b": f"{right:.{digits}f} {unit}",
                "difference": "same" if change == 0.0 else f"{change:+.{digits}f} {unit}",
                "better": better,
            }
        )
    return rows


def price_words(price: Price) -> dict[str, Any]:
    """Return what a control gives and takes now, in figures: the readings as they are against the control elsewhere."""
    now, instead = setting(price.control, price.value), setting(price.control, price.instead)
    parts = []
    for unit, name, words in (
        ("dB", "lure_over_clutter_db", "jig over clutter"),
        ("dB", "faintest_fish_db", "faintest fish"),
        ("%", "clutter_fill_pct", "clutter"),
        ("%", "blown_out_pct", "blown out"),
        ("ms", "lag_ms", "lag"),
    ):
        here, there = getattr(price.now, name), getattr(price.then, name)
        if here is None or there is None:
            continue
        change = here - there
        if abs(change) >= 0.5:
            parts.append(f"{words} {change:+.0f} {unit}")
    lost = set(price.now.erased or ()) - set(price.then.erased or ())
    if lost:
        parts.append(f"{named(tuple(sorted(lost)))} lost")
    effect = ", ".join(parts) if parts else "no difference in these pings"
    return {"control": price.control, "now": f"Now, {now} against {instead}: {effect}."}


def auto_words(control: str, choice: Choice | None) -> str:
    """Return why auto chose."""
    if choice is None:
        return "no open water to measure: left alone" if control == "gain" else "no bottom in sight: left alone"
    if control == "gain":
        return f"{DARK_PCT:.0f} of 100 cells of open water lie under {choice.measured_db:.0f} dB: Gain {choice.value:.0f} just leaves them dark"
    return f"deepest bottom {feet(choice.deepest_m or 0.0):.0f} ft, and a margin: Down to {feet(choice.value):.0f} ft"
