"""From the core's scene back to a scene file's parts: radians become degrees, kilograms ounces."""

import math
from dataclasses import asdict
from typing import Any

from mudlamp.core.scene import model
from mudlamp.core.units import OUNCE_KG
from mudlamp.formats.scene.file import scene_file
from mudlamp.formats.scene.parts import SceneFile

_COVER = {
    model.Tree: "tree",
    model.Float: "float",
    model.Weeds: "weeds",
    model.Boulders: "boulders",
    model.Wall: "wall",
}


def file_of(scene: model.Scene) -> SceneFile:
    """Return the scene file of a scene; read again it gives the same scene, but for the last digit of an angle. Raises SceneError for one that no file can hold."""
    return scene_file(
        name=scene.name,
        title=scene.title,
        teaches=scene.teaches,
        water=asdict(scene.water),
        bottom=None if scene.bottom is None else _bottom(scene.bottom),
        surface=scene.surface,
        noise=scene.noise,
        boat=_edge(scene.boat),
        transducer=_transducer(scene.transducer),
        targets=[{"kind": "point", **asdict(one)} for one in scene.targets],
        cover=[_cover(one) for one in scene.cover],
        fish=[asdict(one) for one in scene.fish],
        bait=[asdict(one) for one in scene.bait],
        insects=[asdict(one) for one in scene.insects],
        wakes=[_edge(one) for one in scene.wakes],
        angler=None if scene.angler is None else _angler(scene.angler),
        faults=_faults(scene.faults),
        origin=asdict(scene.origin),
    )


def _edge(part: Any) -> dict[str, Any]:
    """Return a part's fields in the file's units: each angle `..._rad` as `..._deg`; what is None is left out."""
    found: dict[str, Any] = {}
    for name, value in asdict(part).items():
        if name.endswith("_rad") and value is not None:
            found[f"{name[:-4]}_deg"] = round(math.degrees(value), 9)
        elif value is not None:
            found[name] = value
    return found


def _bottom(plan: model.BottomPlan) -> dict[str, Any]:
    # A surveyed window of a larger water has no file: only what a scene file can say is written.
    found = {name: value for name, value in asdict(plan).items() if name != "survey"}
    found["kind"] = found.pop("ground")
    found["features"] = [_edge(one) for one in plan.features]
    found["patches"] = [
        {**{name: value for name, value in asdict(one).items() if name != "ground"}, "kind": one.ground} for one in plan.patches
    ]
    return found


def _transducer(plan: model.Transducer) -> dict[str, Any]:
    found = _edge(plan)
    if "carrier_hz" in found:
        found["carrier_khz"] = found.pop("carrier_hz") / 1000.0
    return found


def _cover(piece: model.Cover) -> dict[str, Any]:
    found = _edge(piece)
    if isinstance(piece, model.Post):
        return {"kind": "piling" if piece.height_m is None else "timber", **found}
    return {"kind": _COVER[type(piece)], **found}


def _angler(angler: model.ScriptedAngler) -> dict[str, Any]:
    found = asdict(angler)
    return {"head_oz": found.pop("head_kg") / OUNCE_KG, "weight_oz": found.pop("weight_kg") / OUNCE_KG, **found}


def _faults(faults: model.Faults) -> dict[str, Any]:
    found = _edge(faults)
    if faults.other_sonar is not None:
        found["other_sonar"] = _edge(faults.other_sonar)
    if faults.console is not None:
        found["console"] = {**_edge(faults.console), "carrier_khz": faults.console.carrier_hz / 1000.0}
        del found["console"]["carrier_hz"]
    return found
