"""Look here first: without any chart, the places to try by season, temperature, depth and species. Common practice, no source."""

from dataclasses import dataclass

from mudlamp.core.scene.places import BAND_M, SCHOOLS_AT, PlaceKind, Season
from mudlamp.core.units import FOOT_M

# By how much each species likes a kind of place more or less than schools at large (ours).
LIKES: dict[str, dict[PlaceKind, float]] = {
    "crappie": {PlaceKind.BRUSH: 1.4, PlaceKind.ORCHARD: 1.4, PlaceKind.BRIDGE: 1.2, PlaceKind.DOCK: 1.2, PlaceKind.POINT: 0.6},
    "bass": {PlaceKind.POINT: 2.2, PlaceKind.CHANNEL: 1.4, PlaceKind.WEEDS: 1.4, PlaceKind.VILLAGE: 1.3, PlaceKind.BRUSH: 0.8},
}
SPECIES = tuple(LIKES)
PLACE_WORDS: dict[PlaceKind, tuple[str, str]] = {
    PlaceKind.BRIDGE: ("Bridges", "Legs and riprap from shallow to deep in a few yards: try the shaded side, the corner legs first."),
    PlaceKind.BLUFF: ("Bluff walls", "Deep water against rock: fish slide up and down without going anywhere."),
    PlaceKind.CHANNEL: ("Channel edges", "Where the old creek bends or comes near a flat: schools hang over the drop."),
    PlaceKind.POINT: ("Points", "The tip and the steep side; bait comes by here."),
    PlaceKind.FLAT: ("Spawning flats", "Single dots in some 8 ft; a big female among many males."),
    PlaceKind.WEEDS: ("Weed edges", "Points and pockets along the outside edge, early and late."),
    PlaceKind.DOCK: ("Docks", "Shade over deep water: the corner nearest the channel."),
    PlaceKind.BRUSH: ("Sunken brush", "The brush with fish over it: most of it holds nobody. Mark the empty piles too."),
    PlaceKind.VILLAGE: ("Old foundations", "Walls on a flat: look along them, not across."),
    PlaceKind.ORCHARD: ("Standing timber", "The tree at the edge of the stand, and the one that is taller."),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LookHere:
    """A place to try: its name, why and where on it, and how much of the odds it has (1 is the best of the list)."""

    name: str
    why: str
    share: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LookList:
    """The list: the season, the depth band [ft], the places in order."""

    season: Season
    low_ft: int
    high_ft: int
    places: tuple[LookHere, ...]


def look_list(season: Season, species: str) -> LookList:
    """Return where to look first for a species in a season."""
    likes = LIKES[species]
    odds = {kind: share * likes.get(kind, 1.0) for kind, share in SCHOOLS_AT[season].items()}
    best = max(odds.values())
    order = sorted(odds, key=lambda kind: -odds[kind])
    low, high = BAND_M[season]
    return LookList(
        season=season,
        low_ft=round(low / FOOT_M),
        high_ft=round(high / FOOT_M),
        places=tuple(LookHere(name=PLACE_WORDS[kind][0], why=PLACE_WORDS[kind][1], share=odds[kind] / best) for kind in order),
    )
