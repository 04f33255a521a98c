"""Kinds of water: cover by depth by how the fan looks. Some are never learned on, so that what is learned can be judged on them."""

from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.ping import Fan


class Stands(StrEnum):
    """What stands in the water."""

    OPEN = "open"
    BRUSH = "brush"
    TIMBER = "timber"
    WEEDS = "weeds"
    ROCK = "rock"
    DOCK = "dock"
    PILINGS = "pilings"


class Deep(StrEnum):
    """How deep the water is: 4 to 12 ft, 12 to 25 ft, 25 to 60 ft."""

    SHALLOW = "shallow"
    MIDDLE = "middle"
    DEEP = "deep"


DEPTHS_M = {Deep.SHALLOW: (1.3, 3.7), Deep.MIDDLE: (3.7, 7.6), Deep.DEEP: (7.6, 18.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterKind:
    """A kind of water."""

    stands: Stands
    deep: Deep
    fan: Fan

    def __str__(self) -> str:
        """Return its name: cover, depth and fan."""
        return f"{self.stands.value}-{self.deep.value}-{self.fan.value}"


# What an angler would look at so: a flat fan in shallow water only, straight down only where there is water to look through.
_LOOKS = {
    Stands.OPEN: "shallow-ahead middle-ahead deep-ahead middle-below deep-below shallow-flat",
    Stands.BRUSH: "shallow-ahead middle-ahead deep-ahead middle-below deep-below",
    Stands.TIMBER: "middle-ahead deep-ahead deep-below",
    Stands.WEEDS: "shallow-ahead middle-ahead shallow-flat",
    Stands.ROCK: "shallow-ahead middle-ahead deep-ahead shallow-flat",
    Stands.DOCK: "shallow-ahead middle-ahead shallow-flat",
    Stands.PILINGS: "middle-ahead deep-ahead",
}
WATER_KINDS = tuple(
    WaterKind(stands=stands, deep=Deep(look.split("-")[0]), fan=Fan(look.split("-")[1]))
    for stands, looks in _LOOKS.items()
    for look in looks.split()
)
NEVER_LEARNED = frozenset(
    kind
    for kind in WATER_KINDS
    if str(kind)
    in {
        "open-deep-below",
        "brush-deep-ahead",
        "timber-deep-ahead",
        "weeds-middle-ahead",
        "rock-shallow-flat",
        "rock-middle-ahead",
        "dock-shallow-ahead",
        "pilings-middle-ahead",
    }
)
