"""The sheet to laminate: counts for every lure, what to set at each depth; read off a pack, for those who trust no phone."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.controls import DOWN_TO, GAIN, REACH
from mudlamp.services.boat.pack import Pack

# The depths that the sheet counts for, and the depths and controls that it sets [ft].
COUNTED_FT = (5, 8, 10, 12, 15, 18, 20, 25, 30)
SET_FT = (6, 8, 10, 12, 15, 18, 20, 25, 30, 35, 40, 50, 60)
SET_CONTROLS = (DOWN_TO.name, REACH.name, GAIN.name)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A sheet: the card's line and rows, counts by depth (a row) and lure (a column), settings by depth, the sun, the caution."""

    title: str
    card: Sequence[tuple[str, str]]
    usual_ft: float
    lures: Sequence[str]
    counts: Sequence[tuple[int, Sequence[str]]]
    set_labels: Sequence[str]
    settings: Sequence[tuple[int, Sequence[str]]]
    clarity: str
    good_enough: str
    sun: Sequence[tuple[str, str]]
    caution: str


def sheet_of(pack: Pack) -> Sheet:
    """Return the sheet of a pack."""
    retune = pack.retune
    wanted = [at for at, control in enumerate(retune.controls) if control.name in SET_CONTROLS]
    return Sheet(
        title=pack.title,
        card=[(line.label, line.shown) for line in pack.card],
        usual_ft=pack.usual_ft,
        lures=[lure.name for lure in pack.lures],
        counts=[(depth, [_count(pack, number, depth) for number in range(len(pack.lures))]) for depth in COUNTED_FT],
        set_labels=[retune.controls[at].label for at in wanted],
        settings=[(depth, _row(pack, depth, wanted)) for depth in SET_FT],
        clarity=pack.here.clarity,
        good_enough=pack.good_enough,
        sun=[(one.token, one.label) for one in pack.sun],
        caution=pack.boat_caution,
    )


def _count(pack: Pack, lure: int, depth_ft: int) -> str:
    column = round(pack.usual_ft) - pack.cast_from_ft
    found = pack.lures[lure].table.counts[column * pack.cast_depths + depth_ft - pack.cast_depth_from_ft]
    return "-" if found < 0 else str(found)


def _row(pack: Pack, depth_ft: int, wanted: Sequence[int]) -> list[str]:
    retune = pack.retune
    nearest = min(range(len(retune.depths_ft)), key=lambda at: abs(retune.depths_ft[at] - depth_ft))
    clarity, sky = list(retune.clarities).index(pack.here.clarity), list(retune.skies).index(pack.here.sky)
    row = retune.rows[(nearest * len(retune.clarities) + clarity) * len(retune.skies) + sky]
    return [retune.controls[at].words[row[at]].shown for at in wanted]
