"""The parts of a scene file, each with its bounds and defaults: every omitted key has the default stated here."""

from typing import Annotated, Literal, Self
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationInfo, field_validator, model_validator

from mudlamp.core.casting.heads import HEAD_KG
from mudlamp.core.casting.lures import Line, LureKind, Material
from mudlamp.core.controls import DOWN_TO, LOOK_BACK, REACH
from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import FeatureKind, Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.units import OUNCE_KG
from mudlamp.core.water.thermocline import Thermocline
from mudlamp.formats.fields import PlainText, Within

Place = Annotated[float, Within(-1000.0, 1000.0, "m")]
Depth = Annotated[float, Within(0.0, 60.0, "m")]
LIGHTEST_OZ = 0.0078
Bearing = Annotated[float, Within(-360.0, 360.0, "deg")]


class ScenePart(BaseModel):
    """A part of a scene file: no other keys, and nothing changes it."""

    model_config = ConfigDict(extra="forbid", frozen=True)


def _zone(name: str) -> str:
    try:
        ZoneInfo(name)
    except (ZoneInfoNotFoundError, ValueError, OSError):
        raise ValueError("it must be the name of a time zone, such as America/Chicago") from None
    return name


def _no_less(value: float, least: str, info: ValidationInfo) -> float:
    """Return a value that is no less than another field's, which was read before it."""
    if value < info.data.get(least, value):
        raise ValueError(f"it must be no less than {least}, which is {info.data[least]:g}")
    return value


class ThermoclinePart(ScenePart):
    """A thermocline: depth of its top, thickness, how much the water cools through it: 1 degC a meter or more."""

    depth_m: Annotated[float, Within(0.5, 60.0, "m")]
    thickness_m: Annotated[float, Within(0.2, 10.0, "m")] = 1.5
    drop_degc: Annotated[float, Within(0.5, 25.0, "degC")] = 6.0

    @model_validator(mode="after")
    def _is_one(self) -> Self:
        Thermocline(**self.model_dump())
        return self


class OriginPart(ScenePart):
    """Where on earth the scene's origin lies, and its time zone: in open sea by default, where no water is."""

    latitude_deg: Annotated[float, Within(-80.0, 80.0, "deg")] = model.OPEN_SEA.latitude_deg
    longitude_deg: Annotated[float, Within(-180.0, 180.0, "deg")] = model.OPEN_SEA.longitude_deg
    zone: Annotated[PlainText, AfterValidator(_zone)] = model.OPEN_SEA.zone


class WaterPart(ScenePart):
    """Water: clear and still by default, without a thermocline."""

    temperature_degc: Annotated[float, Within(0.0, 40.0, "degC")] = 20.0
    secchi_m: Annotated[float, Within(0.05, 20.0, "m")] = 4.0
    wind_m_s: Annotated[float, Within(0.0, 15.0, "m/s")] = 0.0
    thermocline: ThermoclinePart | None = None


class FeaturePart(ScenePart):
    """A shape of the bottom: a ledge steps toward its bearing, a channel runs across it, a hump (negative change) rises."""

    kind: FeatureKind
    x_m: Place = 0.0
    y_m: Place = 0.0
    bearing_deg: Bearing = 0.0
    change_m: Annotated[float, Within(-30.0, 30.0, "m")]
    width_m: Annotated[float, Within(0.2, 100.0, "m")] = 3.0


class PatchPart(ScenePart):
    """A circle of another kind of ground."""

    kind: Ground
    x_m: Place
    y_m: Place
    radius_m: Annotated[float, Within(0.2, 100.0, "m")]


class BottomPart(ScenePart):
    """Bottom: flat sand 20 ft down by default."""

    kind: Ground = Ground.SAND
    depth_m: Annotated[float, Within(1.0, 60.0, "m")] = 6.1
    slope_east: Annotated[float, Within(-1.0, 1.0)] = 0.0
    slope_north: Annotated[float, Within(-1.0, 1.0)] = 0.0
    relief_m: Annotated[float, Within(0.0, 3.0, "m")] = 0.0
    relief_length_m: Annotated[float, Within(0.5, 100.0, "m")] = 8.0
    features: list[FeaturePart] = Field(default=[], max_length=8)
    patches: list[PatchPart] = Field(default=[], max_length=20)


class BoatPart(ScenePart):
    """Boat: at the origin, bow north, still and held in place by default; not held, it drifts with current and wind."""

    x_m: Place = 0.0
    y_m: Place = 0.0
    heading_deg: Annotated[float, Within(-360.0, 360.0, "deg")] = 0.0
    speed_m_s: Annotated[float, Within(0.0, 3.0, "m/s")] = 0.0
    sway_deg: Annotated[float, Within(0.0, 45.0, "deg")] = 0.0
    drift_m: Annotated[float, Within(0.0, 10.0, "m")] = 0.0
    pitch_deg: Annotated[float, Within(0.0, 15.0, "deg")] = 0.0
    held: bool = True
    wind_from_deg: Bearing = 0.0
    current_m_s: Annotated[float, Within(0.0, 2.0, "m/s")] = 0.0
    current_toward_deg: Bearing = 0.0


class TransducerPart(ScenePart):
    """Transducer: the demo profile, Ahead, 40 ft by default; without `down_to_m`, a fifth more than the bottom's depth (or Reach).

    A mount that points it wrong turns it by `aim_error_deg` without the sounder knowing.
    Without `ping_hz` it waits for its echoes; with it, it pings so often, whatever still comes back. `fan_deg`, `thickness_deg`,
    `carrier_khz` and `facets` put the angler's own transducer in the profile's place.
    """

    profile: Literal["demo", "test"] = "demo"
    fan: Fan = Fan.AHEAD
    depth_m: Annotated[float, Within(0.1, 5.0, "m")] = 0.4
    reach_m: Annotated[float, Within(*REACH.bounds, "m")] = 12.2
    down_to_m: Annotated[float, Within(*DOWN_TO.bounds, "m")] | None = None
    look_back_m: Annotated[float, Within(*LOOK_BACK.bounds, "m")] = 0.6
    tilt_deg: Annotated[float, Within(0.0, 110.0, "deg")] | None = None
    aim_error_deg: Bearing = 0.0
    ping_hz: Annotated[float, Within(0.5, 250.0, "Hz")] | None = None
    steady: bool = False
    fan_deg: Annotated[float, Within(60.0, 150.0, "deg")] | None = None
    thickness_deg: Annotated[float, Within(8.0, 40.0, "deg")] | None = None
    carrier_khz: Annotated[float, Within(400.0, 1200.0, "kHz")] | None = None
    facets: Annotated[int, Within(1, 4, whole=True)] | None = None


class PointPart(ScenePart):
    """A lone point target."""

    kind: Literal["point"] = "point"
    x_m: Place
    y_m: Place
    z_m: Depth
    ts_db: Annotated[float, Within(-90.0, 0.0, "dB")] = -40.0


class TreePart(ScenePart):
    """A drowned tree."""

    kind: Literal["tree"] = "tree"
    x_m: Place
    y_m: Place
    height_m: Annotated[float, Within(0.3, 20.0, "m")] = 2.5
    spread_m: Annotated[float, Within(0.1, 10.0, "m")] = 1.2


class PilingPart(ScenePart):
    """A piling that stands up out of the water."""

    kind: Literal["piling"]
    x_m: Place
    y_m: Place
    radius_m: Annotated[float, Within(0.03, 3.0, "m")] = 0.15


class TimberPart(ScenePart):
    """Standing timber: a bare trunk."""

    kind: Literal["timber"]
    x_m: Place
    y_m: Place
    height_m: Annotated[float, Within(0.3, 40.0, "m")] = 4.0
    radius_m: Annotated[float, Within(0.03, 1.0, "m")] = 0.12


class FloatPart(ScenePart):
    """A dock float."""

    kind: Literal["float"]
    x_m: Place
    y_m: Place
    length_m: Annotated[float, Within(0.5, 40.0, "m")] = 6.0
    width_m: Annotated[float, Within(0.5, 20.0, "m")] = 2.4
    draft_m: Annotated[float, Within(0.05, 3.0, "m")] = 0.4
    bearing_deg: Bearing = 0.0


class WeedsPart(ScenePart):
    """A weed bed, with a bare pocket where `pocket_m` is more than none."""

    kind: Literal["weeds"]
    habit: model.FishHabit = model.FishHabit.PACKED
    x_m: Place
    y_m: Place
    radius_m: Annotated[float, Within(0.3, 20.0, "m")] = 3.0
    height_m: Annotated[float, Within(0.1, 8.0, "m")] = 1.2
    pocket_x_m: Place = 0.0
    pocket_y_m: Place = 0.0
    pocket_m: Annotated[float, Within(0.0, 10.0, "m")] = 0.0


class StonesPart(ScenePart):
    """Boulders or riprap, spread over a rectangle."""

    kind: Literal["boulders", "riprap"]
    x_m: Place
    y_m: Place
    length_m: Annotated[float, Within(0.1, 60.0, "m")] = 4.0
    width_m: Annotated[float, Within(0.1, 60.0, "m")] = 4.0
    bearing_deg: Bearing = 0.0
    count: Annotated[int, Within(1, 200, whole=True)] = 8
    smallest_m: Annotated[float, Within(0.05, 3.0, "m")] = 0.2
    largest_m: Annotated[float, Within(0.05, 3.0, "m"), Field(validate_default=True)] = 0.6

    @field_validator("largest_m")
    @classmethod
    def _is_larger(cls, value: float, info: ValidationInfo) -> float:
        return _no_less(value, "smallest_m", info)


class WallPart(ScenePart):
    """A drowned wall."""

    kind: Literal["wall"]
    x_m: Place
    y_m: Place
    length_m: Annotated[float, Within(0.5, 60.0, "m")] = 8.0
    height_m: Annotated[float, Within(0.2, 10.0, "m")] = 1.0
    bearing_deg: Bearing = 0.0


CoverPart = Annotated[
    TreePart | PilingPart | TimberPart | FloatPart | WeedsPart | StonesPart | WallPart,
    Field(discriminator="kind"),
]


class InsectsPart(ScenePart):
    """Insects rising."""

    x_m: Place
    y_m: Place
    radius_m: Annotated[float, Within(0.5, 40.0, "m")] = 8.0
    count: Annotated[int, Within(1, 3000, whole=True)] = 400
    rise_m_s: Annotated[float, Within(0.005, 0.5, "m/s")] = 0.05


class WakePart(ScenePart):
    """A boat's wake: a round patch, or, with `crosses_s`, what a boat leaves that passes the middle then, along a bearing."""

    x_m: Place
    y_m: Place
    radius_m: Annotated[float, Within(0.5, 20.0, "m")] = 4.0
    depth_m: Annotated[float, Within(0.5, 8.0, "m")] = 6.1
    strength_db: Annotated[float, Within(-80.0, -20.0, "dB")] = -46.0
    age_s: Annotated[float, Within(0.0, 1200.0, "s")] = 0.0
    crosses_s: Annotated[float, Within(-600.0, 3600.0, "s")] | None = None
    length_m: Annotated[float, Within(1.0, 200.0, "m")] = 30.0
    bearing_deg: Bearing = 90.0


class FishPart(ScenePart):
    """Fish of one kind about a place; with a `cruise_m` they swim a round of that radius."""

    species: Species = Species.CRAPPIE
    count: Annotated[int, Within(1, 120, whole=True)] = 1
    x_m: Place
    y_m: Place
    z_m: Depth
    spread_m: Annotated[float, Within(0.0, 50.0, "m")] = 0.0
    rise_m: Annotated[float, Within(0.0, 20.0, "m")] = 0.0
    shortest_m: Annotated[float, Within(0.05, 1.5, "m")] = 0.25
    longest_m: Annotated[float, Within(0.05, 1.5, "m"), Field(validate_default=True)] = 0.33
    mood: Annotated[float, Within(0.0, 1.0)] = 0.5
    cruise_m: Annotated[float, Within(0.0, 20.0, "m")] = 0.0
    pace_m_s: Annotated[float, Within(0.02, 2.0, "m/s")] = 0.3

    @field_validator("longest_m")
    @classmethod
    def _is_longer(cls, value: float, info: ValidationInfo) -> float:
        return _no_less(value, "shortest_m", info)


class BaitPart(ScenePart):
    """A bait cloud."""

    x_m: Place
    y_m: Place
    z_m: Depth
    radius_m: Annotated[float, Within(0.1, 10.0, "m")] = 0.8
    count: Annotated[int, Within(1, 2000, whole=True)] = 150


class AnglerPart(ScenePart):
    """The angler aboard: lure, its head's weight [oz], what that is made of, line, and a weight above the lure [oz], 0 for none."""

    lure: LureKind = LureKind.JIG
    head_oz: Annotated[float, Within(LIGHTEST_OZ, 2.0, "oz")] = 0.0625
    material: Material = Material.LEAD
    line: Line = Line.FLUOROCARBON
    weight_oz: Annotated[float, Within(0.0, 2.0, "oz")] = 0.0

    @field_validator("weight_oz")
    @classmethod
    def _is_light(cls, value: float, info: ValidationInfo) -> float:
        most = HEAD_KG[1] / OUNCE_KG - info.data.get("head_oz", 0.0)
        if value > most:
            raise ValueError(f"with a head of {info.data['head_oz']:g} oz it must be {most:.2f} oz or less")
        if 0.0 < value < LIGHTEST_OZ:
            raise ValueError(f"it must be 0 for none, or {LIGHTEST_OZ:g} oz or more")
        return value


class OtherSonarPart(ScenePart):
    """A second live transducer: pings a second, where it lies as an angle of our fan, how loud it arrives."""

    ping_hz: Annotated[float, Within(1.0, 200.0, "Hz")] = 13.0
    angle_deg: Annotated[float, Within(-90.0, 90.0, "deg")] = -50.0
    level_db: Annotated[float, Within(-140.0, -20.0, "dB")] = -88.0


class ConsolePart(ScenePart):
    """A console sonar that was left on: its carrier, pings a second, how loud its carrier arrives. Harmonics of it can fall into our band."""

    carrier_khz: Annotated[float, Within(50.0, 1200.0, "kHz")] = 455.0
    ping_hz: Annotated[float, Within(1.0, 100.0, "Hz")] = 18.0
    level_db: Annotated[float, Within(-140.0, -20.0, "dB")] = -55.0


class FaultsPart(ScenePart):
    """What is wrong: nothing by default."""

    other_sonar: OtherSonarPart | None = None
    console: ConsolePart | None = None
    thrust: Annotated[float, Within(0.0, 1.0)] = 0.0
    supply_v: Annotated[float, Within(9.0, 15.0, "V")] = 12.6
    heading_error_deg: Annotated[float, Within(-90.0, 90.0, "deg")] = 0.0
    steady_lag_s: Annotated[float, Within(0.0, 3.0, "s")] = 0.0
    processor_lag_s: Annotated[float, Within(0.0, 1.0, "s")] = 0.0


class SceneFile(ScenePart):
    """A scene file, whole."""

    name: PlainText = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")
    title: PlainText = Field(default="", max_length=120)
    teaches: PlainText = Field(default="", max_length=400)
    water: WaterPart = WaterPart()
    bottom: BottomPart | None = None
    surface: bool = True
    noise: bool = True
    boat: BoatPart = BoatPart()
    transducer: TransducerPart = TransducerPart()
    targets: list[PointPart] = Field(default=[], max_length=50)
    cover: list[CoverPart] = Field(default=[], max_length=40)
    fish: list[FishPart] = Field(default=[], max_length=20)
    bait: list[BaitPart] = Field(default=[], max_length=10)
    insects: list[InsectsPart] = Field(default=[], max_length=4)
    wakes: list[WakePart] = Field(default=[], max_length=6)
    angler: AnglerPart | None = None
    faults: FaultsPart = FaultsPart()
    origin: OriginPart = OriginPart()
