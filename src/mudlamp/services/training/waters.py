"""The drawn waters to learn and to judge on: which seeds, as what kinds, begun when."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cache

from mudlamp.core.ping import Fan
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.kinds_of_water import NEVER_LEARNED, WATER_KINDS, WaterKind

# Seeds to learn on; those from 900 on are for judging alone.
SEEDS = range(1, 900)
# For so many learned waters, within limits, one is drawn to judge by.
JUDGED, LEAST_JUDGED, MOST_JUDGED = 8, 2, 60
# And seeds for so many, four at least, to learn context on, which their own kinds were not learned on.
IN_CONTEXT, LEAST_IN_CONTEXT = 3, 4
# And one more for so many with all species as often: rare classes of fish are learned from those.
EVENLY = 2
# And one more for so many, begun in the middle of the fishing [s], as every second one is anyway: else a lure is learned only on its first
# way down.
LATER, LATER_S = 4, (14, 50)
# With so many there are seeds enough left for context.
MOST_WATERS = 520
LEARNED_KINDS = tuple(kind for kind in WATER_KINDS if kind not in NEVER_LEARNED)
LEARNED_STANDING = tuple(kind for kind in LEARNED_KINDS if kind.fan is not Fan.FLAT)
# And seeds for so many, some at least, to learn context under a flat fan on: of those the usual kinds of water hold too few.
IN_FLAT, LEAST_IN_FLAT = 4, 3
LEARNED_FLAT = tuple(kind for kind in LEARNED_KINDS if kind.fan is Fan.FLAT)
JUDGED_FLAT = next(kind for kind in WATER_KINDS if kind in NEVER_LEARNED and kind.fan is Fan.FLAT)
# Each seed is drawn as other kinds as well, the first so far on in the list of kinds, more this far apart: a second kind gives much, a third
# little (decisions 44, 47). Under a flat fan there are too few kinds to be drawn as more than one more.
FURTHER, APART, MORE_KINDS, MORE_FLAT = 7, 6, 2, 1


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """A drawn water to learn or judge on: its seed, its kind where it is not the seed's own, whether all species are as often in it, and

    how long it has been fished when the sonar is turned on [s].
    """

    seed: int
    kind: WaterKind | None = None
    evenly: bool = False
    after_s: float = 0.0

    @property
    def name(self) -> str:
        """What its samples are kept by."""
        more = [*([] if self.kind is None else [str(self.kind)]), *(["evenly"] if self.evenly else [])]
        return "-".join([str(self.seed), *more, *([f"after{self.after_s:g}"] if self.after_s else [])])


def waters_of(number: int) -> tuple[list[Water], list[Water], list[Water]]:
    """Return the waters for so many learned ones, from seed 1 on: those to learn on, more like them, and those of kinds left out to judge by.

    Seeds whose own kind is left out serve to judge first; later ones are drawn as another kind, and learned on. Every second one is begun
    in the middle of the fishing. More like them are the same waters with all species as often, those with a lure in them begun later, and
    the same seeds as other kinds.
    """
    learned: list[Water] = []
    judged: list[Water] = []
    to_judge = min(max(number // JUDGED, LEAST_JUDGED), MOST_JUDGED)
    for seed in SEEDS:
        water = _learned_water(seed)
        if water.kind is not None and len(judged) < to_judge:
            judged.append(_begun(Water(seed=seed)))
        else:
            learned.append(water)
    learned = learned[:number]
    evenly = [replace(water, evenly=True) for water in learned if water.kind is None][: max(number // EVENLY, 1)]
    fished = [water for water in learned if not water.after_s and draw_water(water.seed, water.kind).scene.angler is not None]
    later = [_later(water) for water in fished[: max(number // LATER, 1)]]
    return learned, evenly + later + as_others(learned, LEARNED_KINDS, times=MORE_KINDS), judged


def context_waters(number: int, *, after: int) -> tuple[list[Water], list[Water]]:
    """Return the waters, by the seeds after one, that context is learned on where kinds are learned on so many: under a standing fan, those

    of kinds left out drawn as others, and by later seeds under a flat one; each seed as other kinds as well.
    """
    seeds = [seed for seed in SEEDS if seed > after]
    middle = max(number // IN_CONTEXT, LEAST_IN_CONTEXT)
    standing = [water for water in map(_learned_water, seeds[:middle]) if not is_flat(water)]
    later = seeds[middle:][: max(number // IN_FLAT, LEAST_IN_FLAT)]
    flat = [_begun(Water(seed=seed, kind=LEARNED_FLAT[seed % len(LEARNED_FLAT)])) for seed in later]
    return standing + as_others(standing, LEARNED_STANDING, times=MORE_KINDS), flat + as_others(flat, LEARNED_FLAT, times=MORE_FLAT)


def as_others(waters: Sequence[Water], kinds: Sequence[WaterKind], *, times: int) -> list[Water]:
    """Return the waters' seeds drawn so many times more, each time as another of some kinds."""
    return [_begun(Water(seed=water.seed, kind=_other_kinds(water, kinds)[APART * time])) for time in range(times) for water in waters]


def _other_kinds(water: Water, kinds: Sequence[WaterKind]) -> list[WaterKind]:
    """Return the kinds that a water is not, in an order of its seed's own."""
    first = (water.seed + FURTHER) % len(kinds)
    own = draw_water(water.seed, water.kind).kind
    return [kind for kind in (*kinds[first:], *kinds[:first]) if kind != own]


@cache
def is_flat(water: Water) -> bool:
    """Return whether a water is looked at with a flat fan."""
    return draw_water(water.seed, water.kind).kind.fan is Fan.FLAT


def left_out_flat(judged: Sequence[Water]) -> list[Water]:
    """Return waters to judge a flat fan by: the flat kind that is left out, by the seeds of some of those judged by."""
    return [_begun(Water(seed=water.seed, kind=JUDGED_FLAT)) for water in judged[: max(len(judged) // IN_FLAT, 1)]]


def _begun(water: Water) -> Water:
    """Return a water begun with the fishing or, every second one, in its middle."""
    return _later(water) if water.seed // 2 % 2 else water


def _later(water: Water) -> Water:
    """Return a water begun in the middle of the fishing, at a time of its own."""
    return replace(water, after_s=float(LATER_S[0] + water.seed % (LATER_S[1] - LATER_S[0])))


@cache
def _learned_water(seed: int) -> Water:
    """Return a seed's water, as another kind where its own is left out."""
    kind = LEARNED_KINDS[seed % len(LEARNED_KINDS)] if draw_water(seed).kind in NEVER_LEARNED else None
    return _begun(Water(seed=seed, kind=kind))
