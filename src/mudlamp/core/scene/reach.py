"""A reach of water: large enough to be searched from a boat. What it is; `draw_reach` makes one, `roaming` moves its fish."""

from dataclasses import dataclass

from mudlamp.core.scene.model import BaitCloud, Cover, Water
from mudlamp.core.scene.places import Place, PlaceKind, Season
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.survey import Survey

LENGTH_M = 610.0
WIDTH_M = 244.0
# Shallower than this nobody idles [m].
LEAST_DEPTH_M = 1.3
# So far from its ends one turns back [m].
SHORE_M = 14.0
# So many fish together are a school.
SCHOOL_OF = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class SchoolPlan:
    """Fish that keep together, or one alone: kind, how many, middle [m], how far about it they are sideways and up and down [m], lengths [m],

    eagerness, and the place they hold at.
    """

    species: Species
    count: int
    x_m: float
    y_m: float
    z_m: float
    spread_m: float
    rise_m: float
    shortest_m: float
    longest_m: float
    mood: float
    at: PlaceKind

    @property
    def is_school(self) -> bool:
        """Whether it is more than a fish or two."""
        return self.count >= SCHOOL_OF


@dataclass(frozen=True, slots=True, kw_only=True)
class Reach:
    """A reach of water: its name and seed, water, season, the bottom as it is and as its chart has it, cover, places, schools and bait.

    x is east and y north of its middle [m]; `launch_m` is where a boat starts.
    """

    name: str
    title: str
    seed: int
    water: Water
    season: Season
    survey: Survey
    chart: Survey
    cover: tuple[Cover, ...]
    places: tuple[Place, ...]
    schools: tuple[SchoolPlan, ...]
    bait: tuple[BaitCloud, ...]
    launch_m: tuple[float, float]

    @property
    def middle_line_m(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """The ends of the straight way down its middle [m]."""
        far = LENGTH_M / 2.0 - SHORE_M
        return (-far, 0.0), (far, 0.0)

    def is_afloat(self, x_m: float, y_m: float) -> bool:
        """Return whether a boat floats at a place [m]: on the chart, and deep enough."""
        inside = abs(x_m) < LENGTH_M / 2.0 and abs(y_m) < WIDTH_M / 2.0
        return inside and self.survey.depth_at(x_m, y_m) >= LEAST_DEPTH_M
