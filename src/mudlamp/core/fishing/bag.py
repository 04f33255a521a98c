"""The bag: what was kept against an angler's own limits, and a tournament's best fish.

Limits are an angler's own entries; the rules of the place decide.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.fish_weight import Weighed, standard_weight_kg
from mudlamp.core.records.trips import TOURNAMENT_FISH, BagRule, Catch

# A crappie of which nobody said the kind is reckoned as the commoner one.
_WEIGHED_AS = {"crappie": Weighed.BLACK_CRAPPIE} | {kind.value: kind for kind in Weighed}


@dataclass(frozen=True, slots=True, kw_only=True)
class Weight:
    """What a fish weighs [kg], and whether that was computed from its length."""

    mass_kg: float
    is_computed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Kept:
    """How many of a species were kept, of how many; how many were wanted; how many are shorter than they may be."""

    species: str
    count: int
    most: int | None
    wanted: int | None
    short: int

    @property
    def is_over(self) -> bool:
        """Whether more were kept than the entry allows."""
        return self.most is not None and self.count > self.most


@dataclass(frozen=True, slots=True, kw_only=True)
class Best:
    """A tournament's bag: the heaviest fish, what they weigh together [kg], which of them goes out when a bigger one comes in, what is culled already."""

    fish: Sequence[tuple[Catch, Weight]]
    total_kg: float
    goes_out: Catch | None
    culled: Sequence[Catch]
    unweighed: int


def weight_of(one: Catch) -> Weight | None:
    """Return what a fish weighs: as weighed, else by its length (published standard weights), else None."""
    if one.weight_kg is not None:
        return Weight(mass_kg=one.weight_kg, is_computed=False)
    kind = _WEIGHED_AS.get(one.species)
    if kind is None or one.length_m is None:
        return None
    mass = standard_weight_kg(kind, one.length_m)
    return None if mass is None else Weight(mass_kg=mass, is_computed=True)


def kept_of(catches: Sequence[Catch], rules: Sequence[BagRule]) -> list[Kept]:
    """Return what was kept of each species that has a rule or was kept, in the order of the rules."""
    by_species = {rule.species: rule for rule in rules}
    names = [*by_species, *sorted({one.species for one in catches if one.kept} - set(by_species))]
    return [_kept(name, [one for one in catches if one.kept and one.species == name], by_species.get(name)) for name in names]


def _kept(species: str, kept: Sequence[Catch], rule: BagRule | None) -> Kept:
    least = None if rule is None else rule.least_m
    return Kept(
        species=species,
        count=len(kept),
        most=None if rule is None else rule.most,
        wanted=None if rule is None else rule.wanted,
        short=sum(one.length_m is not None and least is not None and one.length_m < least for one in kept),
    )


def best_of(catches: Sequence[Catch], *, most: int = TOURNAMENT_FISH) -> Best:
    """Return the heaviest `most` of the kept fish; with a full bag the lightest goes out next. Of equal ones the earlier stays."""
    weighed = [(one, weight) for one in catches if one.kept and (weight := weight_of(one)) is not None]
    weighed.sort(key=lambda pair: (-pair[1].mass_kg, pair[0].at))
    bag = weighed[:most]
    return Best(
        fish=bag,
        total_kg=sum(weight.mass_kg for _, weight in bag),
        goes_out=bag[-1][0] if len(bag) == most else None,
        culled=[one for one, _ in weighed[most:]],
        unweighed=sum(one.kept and weight_of(one) is None for one in catches),
    )
