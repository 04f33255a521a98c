"""Readings in words: a word first, the figure after."""

from dataclasses import dataclass

from mudlamp.core.receiver.readings import Readings
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


def worded(readings: Readings, counts: tuple[int, int]) -> list[Worded]:
    """Return the readings as the page shows them; `counts` are fish shown, of fish that could be seen."""
    return [_jig(readings), _fish(readings, counts), _clutter(readings), _blown(readings), _lag(readings), _parting(readings)]


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


def erased_line(readings: Readings) -> str:
    """Return the *erased now* line: what could be seen but is not shown."""
    erased = readings.erased or ()
    if not erased:
        return "nothing"
    fish = sum(name.startswith("fish") for name in erased)
    parts = [f"{fish} fish"] if fish else []
    if "lure" in erased:
        parts.insert(0, "the jig")
    return " and ".join(parts)
