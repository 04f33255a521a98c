"""Readings in words: a word first, the figure after."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.auto import DARK_PCT, Choice
from mudlamp.core.advice.lure_seen import CLEAR_DB, GONE_DB
from mudlamp.core.controls import GAIN, Control
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.receiver.trial import Price, Remedy
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.units import feet
from mudlamp.services.edge.controls import EDGE, of
from mudlamp.services.words.labels import say

NO_PRICE = "Working out the cost needs simulated water."
PRICE_FAILED = "The cost could not be worked out. The log says why."
NEEDS_TRUTH = "needs simulated water"


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


@dataclass(frozen=True, slots=True, kw_only=True)
class Difference:
    """A reading of both set-ups of the twin, what B has over A, and which is better ("a", "b" or "")."""

    title: str
    a: str
    b: str
    difference: str
    better: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Figure:
    """A reading in figures: its title, its unit, the field of `Readings`, whether more is better, digits, and units of it in one of ours."""

    title: str
    unit: str
    field: str
    more_is_better: bool
    digits: int = 0
    in_feet: bool = False

    def of(self, readings: Readings) -> float | None:
        """Return the figure as shown, or None where there is none."""
        value: float | None = getattr(readings, self.field)
        if value is None:
            return None
        return round(feet(value) if self.in_feet else value, self.digits)


FIGURES = (
    Figure(title="Jig over clutter", unit="dB", field="lure_over_clutter_db", more_is_better=True),
    Figure(title="Faintest fish over clutter", unit="dB", field="faintest_fish_db", more_is_better=True),
    Figure(title="Fish shown", unit="%", field="fish_shown_pct", more_is_better=True),
    Figure(title="Clutter", unit="%", field="clutter_fill_pct", more_is_better=False),
    Figure(title="Blown out", unit="%", field="blown_out_pct", more_is_better=False),
    Figure(title="Lag", unit="ms", field="lag_ms", more_is_better=False),
    Figure(title="Splits fish", unit="ft", field="parting_m", more_is_better=False, digits=1, in_feet=True),
)
# The readings that a price is given in.
PRICED = ("lure_over_clutter_db", "faintest_fish_db", "clutter_fill_pct", "blown_out_pct", "lag_ms")


def worded(readings: Readings, counts: tuple[int, int], estimate: Estimate) -> list[Worded]:
    """Return the readings as the page shows them; `counts` are fish shown, of fish that could be seen.

    Where no truth is known the tracker's `estimate` stands for it, and is called so.
    """
    known = readings.erased is not None
    first = [_jig(readings), _fish(readings, counts)] if known else [_estimated_jig(estimate), _estimated_fish(estimate)]
    return [*first, _clutter(readings), _blown(readings), _lag(readings), _splits(readings)]


def _estimated_jig(estimate: Estimate) -> Worded:
    word, mood = ("Followed", "good") if estimate.lure else ("Not found", "fair")
    return Worded(name="jig", title="Jig", word=word, figure="estimated by the tracker", share=float(estimate.lure), mood=mood)


def _estimated_fish(estimate: Estimate) -> Worded:
    share = estimate.sure / estimate.followed if estimate.followed else 0.0
    return Worded(
        name="fish",
        title="Fish",
        word=f"{estimate.followed} followed",
        figure=f"estimated: {estimate.sure} of them sure",
        share=share,
        mood="good" if estimate.sure else "fair",
    )


def _step(value: float, steps: Sequence[tuple[float, str, str]], last: tuple[str, str]) -> tuple[str, str]:
    """Return word and mood of the first step that a value stays under, else the last."""
    return next(((word, mood) for limit, word, mood in steps if value < limit), last)


def lure_word(over_db: float) -> tuple[str, str]:
    """Return a word and a mood for how far a lure stands out of clutter [dB]."""
    return _step(over_db, ((GONE_DB, "Gone", "bad"), (CLEAR_DB, "Barely there", "fair"), (12.0, "Clear", "good")), ("Bright", "good"))


def _jig(readings: Readings) -> Worded:
    value, stands_out = readings.lure_over_clutter_db, readings.lure_stands_out_db
    if value is None or stands_out is None:
        return Worded(name="jig", title="Jig", word="–", figure="out of the beam", share=0.0, mood="fair")
    word, mood = ("Gone", "bad") if "lure" in (readings.erased or ()) else lure_word(stands_out)
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
    word, mood = _step(value, ((2.0, "Clean", "good"), (12.0, "Light", "good"), (30.0, "Busy", "fair")), ("Snowed in", "bad"))
    return Worded(
        name="clutter", title="Clutter", word=word, figure=f"{value:.0f} % of open water", share=min(value / 60.0, 1.0), mood=mood
    )


def _blown(readings: Readings) -> Worded:
    value = readings.blown_out_pct
    word, mood = _step(value, ((4.0, "Barely", "good"), (15.0, "Some", "fair")), ("A lot", "bad"))
    return Worded(name="blown", title="Blown out", word=word, figure=f"{value:.0f} % of echoes", share=min(value / 40.0, 1.0), mood=mood)


def _lag(readings: Readings) -> Worded:
    value = readings.lag_ms
    word, mood = _step(value, ((1.0, "None", "good"), (70.0, "Slight", "good"), (130.0, "Felt", "fair")), ("Long", "bad"))
    return Worded(name="lag", title="Lag", word=word, figure=f"{value / 1000.0:.2f} s", share=min(value / 250.0, 1.0), mood=mood)


def _splits(readings: Readings) -> Worded:
    value = feet(readings.parting_m)
    word, mood = _step(value, ((1.2, "Fine", "good"), (2.5, "Fair", "fair")), ("Coarse", "bad"))
    return Worded(name="parting", title="Splits fish", word=word, figure=f"{value:.1f} ft apart", share=min(value / 5.0, 1.0), mood=mood)


def erased_line(readings: Readings) -> str:
    """Return the *your settings hide* line: what could be seen but is not shown."""
    return NEEDS_TRUTH if readings.erased is None else named(readings.erased)


def named(erased: tuple[str, ...]) -> str:
    """Return what is hidden in words: the jig first, fish counted."""
    if not erased:
        return "nothing"
    fish = sum(name.startswith("fish") for name in erased)
    parts = [f"{fish} fish"] if fish else []
    if "lure" in erased:
        parts.insert(0, "the jig")
    return " and ".join(parts)


def remedy_words(remedy: Remedy | None, setup: ReceiverSetup) -> str:
    """Return the cheapest change in words, or that no single change helps."""
    if remedy is None:
        return say("No single control brings it back: check your {aim_rad}, or shorten {reach_m}.")
    control = of(remedy.control)
    before, after = control.shown(float(getattr(setup, remedy.control))), control.shown(remedy.value)
    added = max(remedy.added_fill_pct, 0.0)
    cost = "no more clutter" if added < 0.5 else f"{added:.0f} % more clutter"
    return f"{control.label} {before} → {after} brings back {named(remedy.brings)}, for {cost}"


def differences(a: Readings, b: Readings) -> list[Difference]:
    """Return what set-up B has over set-up A, reading by reading."""
    return [_difference(figure, figure.of(a), figure.of(b)) for figure in FIGURES]


def _difference(figure: Figure, left: float | None, right: float | None) -> Difference:
    if left is None or right is None:
        return Difference(title=figure.title, a="–", b="–", difference="", better="")
    # The difference of the figures as shown, so that the table adds up to the eye.
    change = round(right - left, figure.digits)
    return Difference(
        title=figure.title,
        a=f"{left:z.{figure.digits}f} {figure.unit}",
        b=f"{right:z.{figure.digits}f} {figure.unit}",
        difference="same" if change == 0.0 else f"{change:+.{figure.digits}f} {figure.unit}",
        better="" if change == 0.0 else "b" if (change > 0) == figure.more_is_better else "a",
    )


def price_words(price: Price) -> str:
    """Return what a control gives and takes now, in figures: the readings as they are against the control elsewhere."""
    control = of(price.control)
    parts = []
    for figure in (one for one in FIGURES if one.field in PRICED):
        here, there = getattr(price.now, figure.field), getattr(price.then, figure.field)
        if here is not None and there is not None and abs(here - there) >= 0.5:
            parts.append(f"{figure.title.lower()} {here - there:+.0f} {figure.unit}")
    lost = set(price.now.erased or ()) - set(price.then.erased or ())
    if lost:
        parts.append(f"{named(tuple(sorted(lost)))} lost")
    effect = ", ".join(parts) if parts else "no difference in these pings"
    return f"Now, {control.shown(price.value)} instead of {control.shown(price.instead)}: {effect}."


def auto_words(control: Control, choice: Choice | None) -> str:
    """Return why auto chose."""
    if choice is None:
        return "No open water to measure: left alone." if control is GAIN else "No bottom in sight: left alone."
    chosen = f"{EDGE[control].label} {EDGE[control].shown(choice.value)}"
    if control is GAIN:
        return (
            f"{DARK_PCT:.0f} % of open water, bottom and cover left out, lies under {choice.measured_db:.0f} dB: "
            f"{chosen} is the best trade of lure over clutter there."
        )
    return f"Deepest bottom {feet(choice.deepest_m or 0.0):.0f} ft, plus a margin: {chosen}."
