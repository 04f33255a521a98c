"""A scene as it is described: what is there before time starts. `docs/conventions.md` has the frames."""

import math
from dataclasses import dataclass, field
from enum import StrEnum

from mudlamp.core.casting.lures import Line, LureKind, Material
from mudlamp.core.ping import Fan
from mudlamp.core.scene.bottom import Feature, Ground, Patch
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.survey import Survey
from mudlamp.core.sonar.interference import Console, OtherSonar
from mudlamp.core.sonar.transducer import PROFILES, Profile
from mudlamp.core.water.thermocline import Thermocline


@dataclass(frozen=True, slots=True, kw_only=True)
class Origin:
    """Where on earth the origin of a water's frame lies: latitude and longitude [deg], and its time zone's name."""

    latitude_deg: float
    longitude_deg: float
    zone: str


# Invented, in open sea, so that no water of ours lies on anybody's.
OPEN_SEA = Origin(latitude_deg=-41.25, longitude_deg=-18.5, zone="Etc/GMT+1")


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """Temperature at the top [degC], Secchi depth [m], wind [m/s], and a thermocline in summer."""

    temperature_degc: float
    secchi_m: float
    wind_m_s: float
    thermocline: Thermocline | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class BottomPlan:
    """A bottom to be drawn from the seed: ground, depth at the origin [m], slopes [m/m], relief (rms) and its length [m].

    A `survey` is the window of a larger water: `depth_m` then only says how deep it is here, and the rest lies on the survey.
    """

    ground: Ground
    depth_m: float
    slope_east: float
    slope_north: float
    relief_m: float
    relief_length_m: float
    features: tuple[Feature, ...] = ()
    patches: tuple[Patch, ...] = ()
    survey: Survey | None = field(default=None, compare=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class Boat:
    """Where the boat starts, where its bow points, how fast it goes, and how it wanders about that.

    `sway_rad` and `drift_m` are amplitudes of slow swinging, `pitch_rad` of the waves' rocking. Not `held`, it goes with the current
    and, by a share of it, with the wind.
    """

    x_m: float
    y_m: float
    heading_rad: float
    speed_m_s: float
    sway_rad: float
    drift_m: float
    pitch_rad: float
    held: bool = True
    wind_from_rad: float = 0.0
    current_m_s: float = 0.0
    current_toward_rad: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Transducer:
    """The transducer's profile and its first acquisition; `tilt_rad` None is the usual tilt of the fan.

    `aim_error_rad` is how far the mount turns it off without the sounder knowing, clockwise positive.

    `fan_rad`, `thickness_rad`, `carrier_hz` and `facets` put the angler's own transducer in the profile's place, where given. `ping_hz`
    None: the sounder waits for its echoes; else it pings so often, whatever still comes back.
    """

    profile: str
    fan: Fan
    depth_m: float
    reach_m: float
    down_to_m: float
    look_back_m: float
    tilt_rad: float | None
    aim_error_rad: float = 0.0
    ping_hz: float | None = None
    steady: bool = False
    fan_rad: float | None = None
    thickness_rad: float | None = None
    carrier_hz: float | None = None
    facets: int | None = None

    @property
    def shape(self) -> Profile:
        """The transducer as it is: the profile, with the angler's own measures where given."""
        return PROFILES[self.profile].like(
            fan_rad=self.fan_rad, thickness_rad=self.thickness_rad, carrier_hz=self.carrier_hz, facets=self.facets
        )


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
class Post:
    """An upright round thing: a piling that stands up out of the water, or bare timber `height_m` tall; place and radius [m]."""

    x_m: float
    y_m: float
    radius_m: float
    height_m: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Float:
    """A dock float: middle [m], length and width [m], how deep it sits [m], where its length points [rad]."""

    x_m: float
    y_m: float
    length_m: float
    width_m: float
    draft_m: float
    bearing_rad: float


class FishHabit(StrEnum):
    """How weeds grow: packed and stringy, or broad leaves apart."""

    PACKED = "packed"
    BROAD = "broad"


@dataclass(frozen=True, slots=True, kw_only=True)
class Weeds:
    """A weed bed: middle and radius [m], height [m], habit, and a bare pocket in it (middle and radius [m]), if any."""

    x_m: float
    y_m: float
    radius_m: float
    height_m: float
    habit: FishHabit
    pocket_x_m: float = 0.0
    pocket_y_m: float = 0.0
    pocket_m: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Boulders:
    """Boulders or riprap: `count` of them between two radii [m], spread over a rectangle about a place [m] along a bearing [rad]."""

    x_m: float
    y_m: float
    length_m: float
    width_m: float
    bearing_rad: float
    count: int
    smallest_m: float
    largest_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Wall:
    """A drowned wall of stone: middle [m], length and height [m], where it runs [rad]."""

    x_m: float
    y_m: float
    length_m: float
    height_m: float
    bearing_rad: float


Cover = Tree | Post | Float | Weeds | Boulders | Wall


@dataclass(frozen=True, slots=True, kw_only=True)
class Insects:
    """Insects rising from the bottom: middle and radius of the place [m], how many, how fast they rise [m/s]."""

    x_m: float
    y_m: float
    radius_m: float
    count: int
    rise_m_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Wake:
    """A boat's wake, a plume of bubbles: middle and radius [m], depth [m], volume scattering strength when fresh [dB re 1 m^-1], age [s].

    With `crosses_s` a boat passes the middle at that time [s] along a bearing and leaves it behind, `length_m` long.
    """

    x_m: float
    y_m: float
    radius_m: float
    depth_m: float
    strength_db: float
    age_s: float
    crosses_s: float | None = None
    length_m: float = 30.0
    bearing_rad: float = math.pi / 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FishGroup:
    """Fish of one kind about a place [m], spread over `spread_m` sideways and `rise_m` up and down; lengths between two bounds [m].

    `mood` is eagerness, 0 (lockjaw) to 1 (every fish bites). With a `cruise_m` they swim about the place on a round of that radius [m]
    at `pace_m_s` [m/s].
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
    cruise_m: float = 0.0
    pace_m_s: float = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitCloud:
    """A cloud of small fish: center [m], radius [m], how many."""

    x_m: float
    y_m: float
    z_m: float
    radius_m: float
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ScriptedAngler:
    """The angler aboard: what is tied on. `head_kg` is the head's (or drop shot's) weight, `weight_kg` that of a weight above it [kg]."""

    head_kg: float
    lure: LureKind = LureKind.JIG
    material: Material = Material.LEAD
    line: Line = Line.FLUOROCARBON
    weight_kg: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Faults:
    """What is wrong aboard or nearby: another live sonar, a console sonar, motor thrust (0 to 1), voltage at the unit [V], an error of the heading [rad],

    how late Steady's sensor is [s], and how much later a slow processor shows the picture [s].
    """

    other_sonar: OtherSonar | None = None
    console: Console | None = None
    thrust: float = 0.0
    supply_v: float = 12.6
    heading_error_rad: float = 0.0
    steady_lag_s: float = 0.0
    processor_lag_s: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Scene:
    """All that is there. `surface` and `noise` off give bare water for measurements.

    `cover_seeds` are the numbers that the cover grows from, where it is part of a larger water; else it grows in its order.
    """

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
    cover: tuple[Cover, ...] = ()
    fish: tuple[FishGroup, ...] = ()
    bait: tuple[BaitCloud, ...] = ()
    insects: tuple[Insects, ...] = ()
    wakes: tuple[Wake, ...] = ()
    angler: ScriptedAngler | None = None
    faults: Faults = Faults()
    cover_seeds: tuple[int, ...] = ()
    origin: Origin = OPEN_SEA

    @property
    def depth_m(self) -> float | None:
        """The depth of the bottom at the origin [m], or None without a bottom."""
        return None if self.bottom is None else self.bottom.depth_m

    @property
    def fish_count(self) -> int:
        """How many fish there are, bait left out."""
        return sum(group.count for group in self.fish)
