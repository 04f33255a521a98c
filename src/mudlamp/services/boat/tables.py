"""The tables of a trip pack: re-tune rows over depth, clarity and sky, cast rows over distance and depth; looked up, never computed aboard."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from mudlamp.core.advice.answers import Answers, Sky
from mudlamp.core.advice.planner import Start
from mudlamp.core.advice.retune import kept_from
from mudlamp.core.casting.habit import Habit
from mudlamp.core.casting.solve import Cast
from mudlamp.core.controls import ON_CARD, Control, Value
from mudlamp.core.errors import DomainError
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.setup import Setup
from mudlamp.core.units import FOOT_M, OUNCE_KG, feet
from mudlamp.core.water.clarity import TYPICAL_SECCHI_M, Clarity
from mudlamp.services.cast.asked import CastAsked, solved
from mudlamp.services.edge.controls import of
from mudlamp.services.words.boat import setting_aloud
from mudlamp.services.words.cast import said

Progress = Callable[[float], None]
# A step of 1 ft to 40 ft, of 2 ft beyond.
DEPTHS_FT = (*range(4, 41), *range(42, 61, 2))
CLARITIES, SKIES = tuple(Clarity), tuple(Sky)
CAST_FT, CAST_DEPTHS_FT = range(5, 81), range(2, 41)
# The depths of the big counts [ft].
COUNT_DEPTHS_FT = (5, 10, 15, 20)


@dataclass(frozen=True, slots=True, kw_only=True)
class Word:
    """A control at a value: as it is shown, and as a voice says it."""

    shown: str
    aloud: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ControlWords:
    """A control of the card and all the values that it takes in a pack."""

    name: str
    label: str
    words: Sequence[Word]


@dataclass(frozen=True, slots=True, kw_only=True)
class RetuneTable:
    """Rows over depth, then clarity, then sky: for each control, in the order of `controls`, which of its words holds there."""

    depths_ft: Sequence[int]
    clarities: Sequence[str]
    skies: Sequence[str]
    controls: Sequence[ControlWords]
    rows: Sequence[Sequence[int]]


@dataclass(frozen=True, slots=True, kw_only=True)
class BigCount:
    """A line of the big counts: the fish's depth, how far to throw past it, the count; `usual` is the line nearest to the card's fish."""

    depth_ft: int
    past_ft: int
    count: int
    usual: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CastTable:
    """Rows over distance, then depth: which of the sayings holds there, and the count; -1 where there is no such cast."""

    said: Sequence[str]
    rows: Sequence[int]
    counts: Sequence[int]
    big: Sequence[BigCount]


def at_depth(answers: Answers, depth_m: float) -> Answers:
    """Return answers moved to another depth: where fish would lie under the bottom, they hold at the same share of the water as before."""
    fish = (answers.fish_from_m, answers.fish_to_m)
    deepest = max((one for one in fish if one is not None), default=0.0)
    share = depth_m / answers.depth_m if answers.depth_m and deepest > depth_m else 1.0
    low, high = (None if one is None else min(one * share, depth_m) for one in fish)
    thermocline = None if answers.thermocline_m is None or answers.thermocline_m >= depth_m else answers.thermocline_m
    return replace(answers, depth_m=depth_m, deepest_m=None, fish_from_m=low, fish_to_m=high, thermocline_m=thermocline)


def retune_table(
    answers: Answers,
    running: Setup,
    planned: Callable[[Answers], Start],
    labels: Mapping[str, str],
    *,
    progress: Progress = lambda share: None,
) -> RetuneTable:
    """Return what to set at every depth, clarity and sky, coming from what is running: what holds there still is left; called by `labels`."""
    words: dict[Control, dict[Value, int]] = {control: {} for control in ON_CARD}
    rows = []
    for number, depth_ft in enumerate(DEPTHS_FT):
        for clarity in CLARITIES:
            for sky in SKIES:
                there = replace(at_depth(answers, depth_ft * FOOT_M), secchi_m=TYPICAL_SECCHI_M[clarity], sky=sky)
                if sky is Sky.DARK:
                    there = replace(there, sun_rad=None)
                start = planned(there)
                setup = kept_from(start.setup, start.bands, running)
                rows.append([_number(words[control], _rounded(control, setup.value(control))) for control in ON_CARD])
        progress((number + 1) / len(DEPTHS_FT))
    return RetuneTable(
        depths_ft=DEPTHS_FT,
        clarities=[one.value for one in CLARITIES],
        skies=[one.value for one in SKIES],
        controls=[
            ControlWords(
                name=control.name,
                label=labels[control.name],
                words=[Word(shown=of(control.name).shown(value), aloud=setting_aloud(control, value, labels)) for value in words[control]],
            )
            for control in ON_CARD
        ],
        rows=rows,
    )


def _rounded(control: Control, value: Value) -> Value:
    return value if isinstance(value, str) else round(value, 3)


def _number(known: dict[Value, int], value: Value) -> int:
    return known.setdefault(value, len(known))


@dataclass(frozen=True, slots=True, kw_only=True)
class Thrown:
    """What every cast of a table has in common: the lure, the rod [ft], the water, the angler's own error, where the fish usually are [ft]."""

    lure: BoxedLure
    rod_ft: float
    clarity: Clarity
    temp_f: float | None
    transducer_ft: float
    thickness_deg: float
    habit: Habit
    usual_ft: float
    fish_ft: float
    wind_mph: float = 0.0
    wind_deg: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WindyTable:
    """Cast rows in a wind: where it blows, in words, and the rows."""

    label: str
    table: CastTable


# Where the wind goes, from the way to the fish [deg], as one says it in a boat.
WINDS = {"at your back": 0.0, "in your face": 180.0}


def windy_tables(thrown: Thrown, wind_mph: float, *, progress: Progress = lambda share: None) -> list[WindyTable]:
    """Return the cast rows with the wind at one's back, and in one's face."""
    return [
        WindyTable(
            label=f"{wind_mph:.0f} mph {label}",
            table=cast_table(
                replace(thrown, wind_mph=wind_mph, wind_deg=toward),
                progress=lambda share, done=number: progress((done + share) / len(WINDS)),  # type: ignore[misc]
            ),
        )
        for number, (label, toward) in enumerate(WINDS.items())
    ]


def cast_table(thrown: Thrown, *, progress: Progress = lambda share: None) -> CastTable:
    """Return what to do about a fish at every distance and depth with a lure."""
    known: dict[str, int] = {}
    rows, counts = [], []
    for out_ft in CAST_FT:
        for depth_ft in CAST_DEPTHS_FT:
            found = cast_at(thrown, out_ft, depth_ft)
            rows.append(-1 if found is None else known.setdefault(said(found), len(known)))
            counts.append(-1 if found is None else _count(found))
        progress((out_ft - CAST_FT[0] + 1) / len(CAST_FT))
    return CastTable(said=list(known), rows=rows, counts=counts, big=[_big(thrown, depth) for depth in COUNT_DEPTHS_FT])


def cast_at(thrown: Thrown, out_ft: float, depth_ft: float) -> Cast | None:
    """Return the cast to a fish so far out along the water and so deep [ft]; None where there is none."""
    asked = CastAsked(
        range_ft=out_ft,
        depth_ft=depth_ft,
        slant=False,
        head_oz=min(max(thrown.lure.head_kg / OUNCE_KG, 0.008), 2.0),
        lure=thrown.lure.kind,
        rod_ft=thrown.rod_ft,
        clarity=thrown.clarity,
        temp_f=thrown.temp_f,
        transducer_ft=thrown.transducer_ft,
        thickness_deg=thrown.thickness_deg,
        long_pct=100.0 * thrown.habit.long,
        off_deg=math.degrees(thrown.habit.right_rad),
        wind_mph=thrown.wind_mph,
        wind_deg=thrown.wind_deg,
    )
    try:
        return solved(asked)[1]
    except DomainError:
        return None


def _count(cast: Cast) -> int:
    return max(round(cast.fall.seconds), 1)


def _big(thrown: Thrown, depth_ft: int) -> BigCount:
    found = cast_at(thrown, thrown.usual_ft, depth_ft)
    return BigCount(
        depth_ft=depth_ft,
        past_ft=0 if found is None else round(feet(found.aim_m - found.horizontal_m)),
        count=0 if found is None else _count(found),
        usual=depth_ft == min(COUNT_DEPTHS_FT, key=lambda depth: abs(depth - thrown.fish_ft)),
    )
