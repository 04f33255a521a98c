"""From a scene file's parts to the core's scene: degrees become radians, ounces kilograms."""

import math
from collections.abc import Callable

from mudlamp.core.controls import DOWN_TO
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import Feature, Patch
from mudlamp.core.sonar.interference import Console, OtherSonar
from mudlamp.core.units import OUNCE_KG
from mudlamp.core.water.thermocline import Thermocline
from mudlamp.formats.scene.parts import AnglerPart, BottomPart, FaultsPart, SceneFile, ScenePart, WaterPart


def scene_of(file: SceneFile) -> model.Scene:
    """Return the core's scene of a scene file."""
    boat = file.boat
    return model.Scene(
        name=file.name,
        title=file.title or file.name,
        teaches=file.teaches,
        water=_water(file.water),
        bottom=_bottom(file.bottom),
        surface=file.surface,
        noise=file.noise,
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
        transducer=_transducer(file),
        targets=tuple(model.PointTarget(**part.model_dump(exclude={"kind"})) for part in file.targets),
        cover=tuple(_cover(part) for part in file.cover),
        fish=tuple(model.FishGroup(**part.model_dump()) for part in file.fish),
        bait=tuple(model.BaitCloud(**part.model_dump()) for part in file.bait),
        insects=tuple(model.Insects(**part.model_dump()) for part in file.insects),
        wakes=tuple(
            model.Wake(bearing_rad=math.radians(part.bearing_deg), **part.model_dump(exclude={"bearing_deg"})) for part in file.wakes
        ),
        angler=None if file.angler is None else _angler(file.angler),
        faults=_faults(file.faults),
        origin=model.Origin(**file.origin.model_dump()),
    )


def _water(part: WaterPart) -> model.Water:
    layer = part.thermocline
    thermocline = None if layer is None else Thermocline(**layer.model_dump())
    return model.Water(thermocline=thermocline, **part.model_dump(exclude={"thermocline"}))


def _bottom(part: BottomPart | None) -> model.BottomPlan | None:
    if part is None:
        return None
    plain = part.model_dump(exclude={"kind", "features", "patches"})
    return model.BottomPlan(
        ground=part.kind,
        features=tuple(
            Feature(bearing_rad=math.radians(one.bearing_deg), **one.model_dump(exclude={"bearing_deg"})) for one in part.features
        ),
        patches=tuple(Patch(ground=one.kind, **one.model_dump(exclude={"kind"})) for one in part.patches),
        **plain,
    )


def _transducer(file: SceneFile) -> model.Transducer:
    part = file.transducer
    deepest = part.reach_m if file.bottom is None else file.bottom.depth_m * 1.2
    return model.Transducer(
        profile=part.profile,
        fan=part.fan,
        depth_m=part.depth_m,
        reach_m=part.reach_m,
        down_to_m=DOWN_TO.held(deepest) if part.down_to_m is None else part.down_to_m,
        look_back_m=part.look_back_m,
        tilt_rad=None if part.tilt_deg is None else math.radians(part.tilt_deg),
        aim_error_rad=math.radians(part.aim_error_deg),
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


def _cover(part: ScenePart) -> model.Cover:
    values = part.model_dump()
    kind = values.pop("kind")
    if "bearing_deg" in values:
        values["bearing_rad"] = math.radians(values.pop("bearing_deg"))
    if kind == "piling":
        values["height_m"] = None
    return _COVER[kind](**values)


def _angler(part: AnglerPart) -> model.ScriptedAngler:
    return model.ScriptedAngler(
        head_kg=part.head_oz * OUNCE_KG, lure=part.lure, material=part.material, line=part.line, weight_kg=part.weight_oz * OUNCE_KG
    )


def _faults(part: FaultsPart) -> model.Faults:
    other = part.other_sonar
    return model.Faults(
        other_sonar=None
        if other is None
        else OtherSonar(ping_hz=other.ping_hz, angle_rad=math.radians(other.angle_deg), level_db=other.level_db),
        console=None
        if part.console is None
        else Console(carrier_hz=1000.0 * part.console.carrier_khz, ping_hz=part.console.ping_hz, level_db=part.console.level_db),
        thrust=part.thrust,
        supply_v=part.supply_v,
        heading_error_rad=math.radians(part.heading_error_deg),
        steady_lag_s=part.steady_lag_s,
        processor_lag_s=part.processor_lag_s,
    )
