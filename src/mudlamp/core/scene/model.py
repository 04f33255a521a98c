"""A scene as it is described: what is there before time starts. `docs/conventions.md` has the frames."""

from dataclasses import dataclass

from mudlamp.core.ping import Fan
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """Temperature [degC], Secchi depth [m], wind [m/s]."""

    temperature_degc: float
    secchi_m: float
    wind_m_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class BottomPlan:
    """A bottom to be drawn from the seed: ground, depth at the origin [m], slopes [m/m], relief (rms) and its length [m]."""

    ground: Ground
    depth_m: float
    slope_east: float
    slope_north: float
    relief_m: float
    relief_length_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Boat:
    """Where the boat starts, where its bow points, how fast it goes, and how it wanders about that.

    `sway_rad` and `drift_m` are amplitudes of slow swinging, `pitch_rad` of the waves' rocking.
    """

    x_m: float
    y_m: float
    heading_rad: float
    speed_m_s: float
    sway_rad: float
    drift_m: float
    pitch_rad: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Transducer:
    """The transducer's profile and its first acquisition; `tilt_rad` None is the usual tilt of the fan."""

    profile: str
    fan: Fan
    depth_m: float
    reach_m: float
    down_to_m: float
    look_back_m: float
    tilt_rad: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PointTarget:
    """A lone point target: place [m] and target strength [dB re 1 m^2]."""

    x_m: float
    y_m: float
    z_m: float
    ts_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Tree:
    """A drowned tree standing on the bottom: place [m], height and half spread of its crown [m]."""

    x_m: float
    y_m: float
    height_m: float
    spread_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FishGroup:
    """Fish of one kind about a place [m], spread over `spread_m` sideways and `rise_m` up and down; lengths between two bounds [m].

    `mood` is eagerness, 0 (lockjaw) to 1 (every fish bites).
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


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitCloud:
    """A cloud of small fish: center [m], radius [m], how many."""

    x_m: float
    y_m: float
    z_m: float
    radius_m: float
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Angler:
    """The angler aboard: weight of the jig's lead head [kg]."""

    head_kg: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """All that is there. `surface` and `noise` off give bare water for measurements."""

    name: str
    title: str
    teaches: str
    water: Water
    bottom: BottomPlan | None
    surface: bool
    noise: bool
    boat: Boat
    transducer: Transducer
    targets: tuple[PointTarget, ...] = ()
    trees: tuple[Tree, ...] = ()
    fish: tuple[FishGroup, ...] = ()
    bait: tuple[BaitCloud, ...] = ()
    angler: Angler | None = None

    @property
    def depth_m(self) -> float | None:
        """The depth of the bottom at the origin [m], or None without a bottom."""
        return None if self.bottom is None else self.bottom.depth_m

    @property
    def fish_count(self) -> int:
        """How many fish there are, bait left out."""
        return sum(group.count for group in self.fish)
