"""Scenes as JSON files: checked here, turned into the core's Scene. Every omitted key has the default stated here."""

import math
from collections.abc import Callable
from importlib import resources
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, ValidationError, WithJsonSchema

from mudlamp.core.casting.lures import Line, LureKind, Material
from mudlamp.core.errors import SceneError
from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import Feature, FeatureKind, Ground, Patch
from mudlamp.core.scene.species import Species
from mudlamp.core.sonar.interference import OtherSonar
from mudlamp.core.sonar.transducer import LOOK_BACK_M, REACH_M
from mudlamp.core.units import OUNCE_KG

LARGEST_BYTES = 1_000_000
# Stock scenes that `./lamp scenes` lists; `lone` is a test target, known by name but not listed.
LISTED = (
    "pear-tree",
    "channel",
    "piling",
    "float",
    "weed-edge",
    "ledge",
    "rock-shallows",
    "mud-flat",
    "clear-deep",
    "winter-timber",
    "dusk-insects",
    "giant-over-bait",
)
NAMED = (*LISTED, "lone")


def _ranged(low: float, high: float, unit: str = "", *, whole: bool = False) -> Any:
    shown = f"{low:g} to {high:g}{' ' + unit if unit else ''}"

    def check(value: object) -> object:
        number = isinstance(value, int | float) and not isinstance(value, bool) and math.isfinite(value)
        if not isinstance(value, int | float) or not number or not low <= value <= high or (whole and value != int(value)):
            raise ValueError(f"it must be a {'whole ' if whole else ''}number, {shown}")
        return value

    schema = {"type": "integer" if whole else "number", "minimum": low, "maximum": high}
    return Annotated[int if whole else float, BeforeValidator(check), WithJsonSchema(schema | ({"description": unit} if unit else {}))]


Place = _ranged(-1000.0, 1000.0, "m")
Depth = _ranged(0.0, 60.0, "m")
Bearing = _ranged(-360.0, 360.0, "deg")


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class WaterPart(_Part):
    """Water: clear and still by default."""

    temperature_degc: _ranged(0.0, 40.0, "degC") = 20.0  # type: ignore[valid-type]
    secchi_m: _ranged(0.05, 20.0, "m") = 4.0  # type: ignore[valid-type]
    wind_m_s: _ranged(0.0, 15.0, "m/s") = 0.0  # type: ignore[valid-type]


class FeaturePart(_Part):
    """A shape of the bottom: a ledge steps toward its bearing, a channel runs across it, a hump (negative change) rises."""

    kind: FeatureKind
    x_m: Place = 0.0  # type: ignore[valid-type]
    y_m: Place = 0.0  # type: ignore[valid-type]
    bearing_deg: Bearing = 0.0  # type: ignore[valid-type]
    change_m: _ranged(-30.0, 30.0, "m")  # type: ignore[valid-type]
    width_m: _ranged(0.2, 100.0, "m") = 3.0  # type: ignore[valid-type]


class PatchPart(_Part):
    """A circle of another kind of ground."""

    kind: Ground
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    radius_m: _ranged(0.2, 100.0, "m")  # type: ignore[valid-type]


class BottomPart(_Part):
    """Bottom: flat sand 20 ft down by default."""

    kind: Ground = Ground.SAND
    depth_m: _ranged(1.0, 60.0, "m") = 6.1  # type: ignore[valid-type]
    slope_east: _ranged(-1.0, 1.0) = 0.0  # type: ignore[valid-type]
    slope_north: _ranged(-1.0, 1.0) = 0.0  # type: ignore[valid-type]
    relief_m: _ranged(0.0, 3.0, "m") = 0.0  # type: ignore[valid-type]
    relief_length_m: _ranged(0.5, 100.0, "m") = 8.0  # type: ignore[valid-type]
    features: list[FeaturePart] = Field(default=[], max_length=8)
    patches: list[PatchPart] = Field(default=[], max_length=20)


class BoatPart(_Part):
    """Boat: at the origin, bow north, still and held in place by default; not held, it drifts with current and wind."""

    x_m: Place = 0.0  # type: ignore[valid-type]
    y_m: Place = 0.0  # type: ignore[valid-type]
    heading_deg: _ranged(-360.0, 360.0, "deg") = 0.0  # type: ignore[valid-type]
    speed_m_s: _ranged(0.0, 3.0, "m/s") = 0.0  # type: ignore[valid-type]
    sway_deg: _ranged(0.0, 45.0, "deg") = 0.0  # type: ignore[valid-type]
    drift_m: _ranged(0.0, 10.0, "m") = 0.0  # type: ignore[valid-type]
    pitch_deg: _ranged(0.0, 15.0, "deg") = 0.0  # type: ignore[valid-type]
    held: bool = True
    wind_from_deg: Bearing = 0.0  # type: ignore[valid-type]
    current_m_s: _ranged(0.0, 2.0, "m/s") = 0.0  # type: ignore[valid-type]
    current_toward_deg: Bearing = 0.0  # type: ignore[valid-type]


class TransducerPart(_Part):
    """Transducer: the demo profile, Ahead, 40 ft by default; without `down_to_m`, a fifth more than the bottom's depth (or Reach).

    Without `ping_hz` it waits for its echoes; with it, it pings so often, whatever still comes back. `fan_deg`, `thickness_deg`,
    `carrier_khz` and `facets` put the angler's own transducer in the profile's place.
    """

    profile: Literal["demo", "test"] = "demo"
    fan: Fan = Fan.AHEAD
    depth_m: _ranged(0.1, 5.0, "m") = 0.4  # type: ignore[valid-type]
    reach_m: _ranged(*REACH_M, "m") = 12.2  # type: ignore[valid-type]
    down_to_m: _ranged(2.0, 36.6, "m") | None = None  # type: ignore[valid-type]
    look_back_m: _ranged(*LOOK_BACK_M, "m") = 0.6  # type: ignore[valid-type]
    tilt_deg: _ranged(0.0, 110.0, "deg") | None = None  # type: ignore[valid-type]
    ping_hz: _ranged(0.5, 250.0, "Hz") | None = None  # type: ignore[valid-type]
    steady: bool = False
    fan_deg: _ranged(60.0, 150.0, "deg") | None = None  # type: ignore[valid-type]
    thickness_deg: _ranged(8.0, 40.0, "deg") | None = None  # type: ignore[valid-type]
    carrier_khz: _ranged(400.0, 1200.0, "kHz") | None = None  # type: ignore[valid-type]
    facets: _ranged(1, 4, whole=True) | None = None  # type: ignore[valid-type]


class PointPart(_Part):
    """A lone point target."""

    kind: Literal["point"] = "point"
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    z_m: Depth  # type: ignore[valid-type]
    ts_db: _ranged(-90.0, 0.0, "dB") = -40.0  # type: ignore[valid-type]


class TreePart(_Part):
    """A drowned tree."""

    kind: Literal["tree"] = "tree"
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    height_m: _ranged(0.3, 20.0, "m") = 2.5  # type: ignore[valid-type]
    spread_m: _ranged(0.1, 10.0, "m") = 1.2  # type: ignore[valid-type]


class PilingPart(_Part):
    """A piling that stands up out of the water."""

    kind: Literal["piling"]
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    radius_m: _ranged(0.03, 3.0, "m") = 0.15  # type: ignore[valid-type]


class TimberPart(_Part):
    """Standing timber: a bare trunk."""

    kind: Literal["timber"]
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    height_m: _ranged(0.3, 40.0, "m") = 4.0  # type: ignore[valid-type]
    radius_m: _ranged(0.03, 1.0, "m") = 0.12  # type: ignore[valid-type]


class FloatPart(_Part):
    """A dock float."""

    kind: Literal["float"]
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    length_m: _ranged(0.5, 40.0, "m") = 6.0  # type: ignore[valid-type]
    width_m: _ranged(0.5, 20.0, "m") = 2.4  # type: ignore[valid-type]
    draft_m: _ranged(0.05, 3.0, "m") = 0.4  # type: ignore[valid-type]
    bearing_deg: Bearing = 0.0  # type: ignore[valid-type]


class WeedsPart(_Part):
    """A weed bed, with a bare pocket where `pocket_m` is more than none."""

    kind: Literal["weeds"]
    habit: model.Habit = model.Habit.PACKED
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    radius_m: _ranged(0.3, 20.0, "m") = 3.0  # type: ignore[valid-type]
    height_m: _ranged(0.1, 8.0, "m") = 1.2  # type: ignore[valid-type]
    pocket_x_m: Place = 0.0  # type: ignore[valid-type]
    pocket_y_m: Place = 0.0  # type: ignore[valid-type]
    pocket_m: _ranged(0.0, 10.0, "m") = 0.0  # type: ignore[valid-type]


class StonesPart(_Part):
    """Boulders or riprap, spread over a rectangle."""

    kind: Literal["boulders", "riprap"]
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    length_m: _ranged(0.1, 60.0, "m") = 4.0  # type: ignore[valid-type]
    width_m: _ranged(0.1, 60.0, "m") = 4.0  # type: ignore[valid-type]
    bearing_deg: Bearing = 0.0  # type: ignore[valid-type]
    count: _ranged(1, 200, whole=True) = 8  # type: ignore[valid-type]
    smallest_m: _ranged(0.05, 3.0, "m") = 0.2  # type: ignore[valid-type]
    largest_m: _ranged(0.05, 3.0, "m") = 0.6  # type: ignore[valid-type]


class WallPart(_Part):
    """A drowned wall."""

    kind: Literal["wall"]
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    length_m: _ranged(0.5, 60.0, "m") = 8.0  # type: ignore[valid-type]
    height_m: _ranged(0.2, 10.0, "m") = 1.0  # type: ignore[valid-type]
    bearing_deg: Bearing = 0.0  # type: ignore[valid-type]


CoverPart = Annotated[
    TreePart | PilingPart | TimberPart | FloatPart | WeedsPart | StonesPart | WallPart,
    Field(discriminator="kind"),
]


class InsectsPart(_Part):
    """Insects rising."""

    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    radius_m: _ranged(0.5, 40.0, "m") = 8.0  # type: ignore[valid-type]
    count: _ranged(1, 3000, whole=True) = 400  # type: ignore[valid-type]
    rise_m_s: _ranged(0.005, 0.5, "m/s") = 0.05  # type: ignore[valid-type]


class WakePart(_Part):
    """A boat's wake."""

    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    radius_m: _ranged(0.5, 20.0, "m") = 4.0  # type: ignore[valid-type]
    depth_m: _ranged(0.5, 8.0, "m") = 6.1  # type: ignore[valid-type]
    strength_db: _ranged(-80.0, -20.0, "dB") = -46.0  # type: ignore[valid-type]
    age_s: _ranged(0.0, 1200.0, "s") = 0.0  # type: ignore[valid-type]


class FishPart(_Part):
    """Fish of one kind about a place; with a `cruise_m` they swim a round of that radius."""

    species: Species = Species.CRAPPIE
    count: _ranged(1, 60, whole=True) = 1  # type: ignore[valid-type]
    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    z_m: Depth  # type: ignore[valid-type]
    spread_m: _ranged(0.0, 50.0, "m") = 0.0  # type: ignore[valid-type]
    rise_m: _ranged(0.0, 20.0, "m") = 0.0  # type: ignore[valid-type]
    shortest_m: _ranged(0.05, 1.5, "m") = 0.25  # type: ignore[valid-type]
    longest_m: _ranged(0.05, 1.5, "m") = 0.33  # type: ignore[valid-type]
    mood: _ranged(0.0, 1.0) = 0.5  # type: ignore[valid-type]
    cruise_m: _ranged(0.0, 20.0, "m") = 0.0  # type: ignore[valid-type]
    pace_m_s: _ranged(0.02, 2.0, "m/s") = 0.3  # type: ignore[valid-type]


class BaitPart(_Part):
    """A bait cloud."""

    x_m: Place  # type: ignore[valid-type]
    y_m: Place  # type: ignore[valid-type]
    z_m: Depth  # type: ignore[valid-type]
    radius_m: _ranged(0.1, 10.0, "m") = 0.8  # type: ignore[valid-type]
    count: _ranged(1, 2000, whole=True) = 150  # type: ignore[valid-type]


class AnglerPart(_Part):
    """The angler aboard: lure, its head's weight [oz], what that is made of, line, and a weight above the lure [oz], 0 for none."""

    lure: LureKind = LureKind.JIG
    head_oz: _ranged(0.0078, 2.0, "oz") = 0.0625  # type: ignore[valid-type]
    material: Material = Material.LEAD
    line: Line = Line.FLUOROCARBON
    weight_oz: _ranged(0.0, 2.0, "oz") = 0.0  # type: ignore[valid-type]


class OtherSonarPart(_Part):
    """A second live transducer: pings a second, where it lies as an angle of our fan, how loud it arrives."""

    ping_hz: _ranged(1.0, 200.0, "Hz") = 13.0  # type: ignore[valid-type]
    angle_deg: _ranged(-90.0, 90.0, "deg") = -50.0  # type: ignore[valid-type]
    level_db: _ranged(-140.0, -20.0, "dB") = -92.0  # type: ignore[valid-type]


class FaultsPart(_Part):
    """What is wrong: nothing by default."""

    other_sonar: OtherSonarPart | None = None
    thrust: _ranged(0.0, 1.0) = 0.0  # type: ignore[valid-type]
    supply_v: _ranged(9.0, 15.0, "V") = 12.6  # type: ignore[valid-type]
    heading_error_deg: _ranged(-90.0, 90.0, "deg") = 0.0  # type: ignore[valid-type]
    steady_lag_s: _ranged(0.0, 3.0, "s") = 0.0  # type: ignore[valid-type]
    processor_lag_s: _ranged(0.0, 1.0, "s") = 0.0  # type: ignore[valid-type]


class SceneFile(_Part):
    """A scene file, whole."""

    name: str = Field(pattern=r"^[a-z0-9][a-z0-9-]{0,39}$")
    title: str = Field(default="", max_length=120)
    teaches: str = Field(default="", max_length=400)
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

    def to_scene(self) -> model.Scene:
        """Return the core's scene."""
        boat = self.boat
        return model.Scene(
            name=self.name,
            title=self.title or self.name,
            teaches=self.teaches,
            water=model.Water(**self.water.model_dump()),
            bottom=self._bottom(),
            surface=self.surface,
            noise=self.noise,
            boat=model.Boat(
                x_m=boat.x_m,
                y_m=boat.y_m,
                heading_rad=math.radians(boat.heading_deg),
                speed_m_s=boat.speed_m_s,
                sway_rad=math.radians(boat.sway_deg),
                drift_m=boat.drift_m,
                pitch_rad=math.radians(boat.pitch_deg),
                held=boat.held,
                wind_from_rad=math.radians(boat.wind_from_deg),
                current_m_s=boat.current_m_s,
                current_toward_rad=math.radians(boat.current_toward_deg),
            ),
            transducer=self._transducer(),
            targets=tuple(model.PointTarget(**part.model_dump(exclude={"kind"})) for part in self.targets),
            cover=tuple(_cover(part) for part in self.cover),
            fish=tuple(model.FishGroup(**part.model_dump()) for part in self.fish),
            bait=tuple(model.BaitCloud(**part.model_dump()) for part in self.bait),
            insects=tuple(model.Insects(**part.model_dump()) for part in self.insects),
            wakes=tuple(model.Wake(**part.model_dump()) for part in self.wakes),
            angler=None if self.angler is None else _angler(self.angler),
            faults=_faults(self.faults),
        )

    def _bottom(self) -> model.BottomPlan | None:
        if self.bottom is None:
            return None
        plain = self.bottom.model_dump(exclude={"kind", "features", "patches"})
        return model.BottomPlan(
            ground=self.bottom.kind,
            features=tuple(
                Feature(bearing_rad=math.radians(part.bearing_deg), **part.model_dump(exclude={"bearing_deg"}))
                for part in self.bottom.features
            ),
            patches=tuple(Patch(ground=part.kind, **part.model_dump(exclude={"kind"})) for part in self.bottom.patches),
            **plain,
        )

    def _transducer(self) -> model.Transducer:
        part = self.transducer
        deepest = part.reach_m if self.bottom is None else self.bottom.depth_m * 1.2
        return model.Transducer(
            profile=part.profile,
            fan=part.fan,
            depth_m=part.depth_m,
            reach_m=part.reach_m,
            down_to_m=min(max(deepest, 2.0), 36.6) if part.down_to_m is None else part.down_to_m,
            look_back_m=part.look_back_m,
            tilt_rad=None if part.tilt_deg is None else math.radians(part.tilt_deg),
            ping_hz=part.ping_hz,
            steady=part.steady,
            fan_rad=None if part.fan_deg is None else math.radians(part.fan_deg),
            thickness_rad=None if part.thickness_deg is None else math.radians(part.thickness_deg),
            carrier_hz=None if part.carrier_khz is None else 1000.0 * part.carrier_khz,
            facets=part.facets,
        )


_COVER: dict[str, Callable[..., model.Cover]] = {
    "tree": model.Tree,
    "piling": model.Post,
    "timber": model.Post,
    "float": model.Float,
    "weeds": model.Weeds,
    "boulders": model.Boulders,
    "riprap": model.Boulders,
    "wall": model.Wall,
}


def _cover(part: _Part) -> model.Cover:
    values = part.model_dump()
    kind = values.pop("kind")
    if "bearing_deg" in values:
        values["bearing_rad"] = math.radians(values.pop("bearing_deg"))
    if kind == "piling":
        values["height_m"] = None
    return _COVER[kind](**values)


def _angler(part: AnglerPart) -> model.Angler:
    return model.Angler(
        head_kg=part.head_oz * OUNCE_KG, lure=part.lure, material=part.material, line=part.line, weight_kg=part.weight_oz * OUNCE_KG
    )


def _faults(part: FaultsPart) -> model.Faults:
    other = part.other_sonar
    return model.Faults(
        other_sonar=None
        if other is None
        else OtherSonar(ping_hz=other.ping_hz, angle_rad=math.radians(other.angle_deg), level_db=other.level_db),
        thrust=part.thrust,
        supply_v=part.supply_v,
        heading_error_rad=math.radians(part.heading_error_deg),
        steady_lag_s=part.steady_lag_s,
        processor_lag_s=part.processor_lag_s,
    )


def parse_scene(text: str) -> model.Scene:
    """Return the scene of a JSON text; raise SceneError with JSON path, value and allowed range of the first thing wrong."""
    try:
        return SceneFile.model_validate_json(text).to_scene()
    except ValidationError as error:
        raise SceneError(_first(error)) from None


def _first(error: ValidationError) -> str:
    detail = error.errors(include_url=False)[0]
    path = "$" + "".join(f"[{part}]" if isinstance(part, int) else f".{part}" for part in detail["loc"])
    message = detail["msg"].removeprefix("Value error, ")
    if detail["type"] == "json_invalid":
        return f"{path} is not JSON: {message}"
    if detail["type"] == "missing":
        return f"{path} is missing: it must be given"
    if detail["type"] == "extra_forbidden":
        return f"{path} is not a key of a scene file: it must be left out"
    return f"{path} is {str(detail['input'])[:60]!r}: {message[0].lower()}{message[1:]}"


def load_scene(name_or_path: str) -> model.Scene:
    """Return a stock scene by its name, or the scene of a `.json` file; raise SceneError naming what is wrong."""
    if name_or_path in NAMED:
        return parse_scene(stock_text(name_or_path))
    path = Path(name_or_path)
    if path.suffix != ".json":
        raise SceneError(f"scene is {name_or_path}: it must be one of {', '.join(NAMED)}, or a .json file")
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise SceneError(f"scene file {path} is {path.stat().st_size} bytes: it must be 1 to {LARGEST_BYTES} bytes")
        text = path.read_text()
    except (OSError, UnicodeDecodeError) as error:
        raise SceneError(f"scene file {path} cannot be read ({error}): it must be a readable .json file") from None
    try:
        return parse_scene(text)
    except SceneError as error:
        raise SceneError(f"scene file {path}: {error}") from None


def scene_schema() -> dict[str, Any]:
    """Return the published JSON Schema of scene files."""
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **SceneFile.model_json_schema(), "title": "Mud Lamp scene"}


def stock_text(name: str) -> str:
    """Return the text of a stock scene's file, as it ships."""
    if name not in NAMED:
        raise SceneError(f"scene is {name[:60]}: it must be one of {', '.join(NAMED)}")
    return resources.files("mudlamp.formats.scene").joinpath("stock", f"{name}.json").read_text()


def stock_scenes() -> list[model.Scene]:
    """Return the stock scenes that are listed."""
    return [load_scene(name) for name in LISTED]
