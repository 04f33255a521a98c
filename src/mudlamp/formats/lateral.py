"""Lateral range curves as a file: JSON, a curve for each view, carrier and depth that was measured."""

from functools import lru_cache
from importlib import resources
from pathlib import Path

import numpy as np
import orjson
from pydantic import BaseModel, Field

from mudlamp.core.searching.lateral import LateralCurve
from mudlamp.core.sonar.console import ViewKind

FILE = "lateral.json"


class MeasuredCurve(BaseModel):
    """One curve as it stands in the file: view, carrier [Hz], depth [m], Reach [m]; lateral ranges [m], shares found, passes."""

    view: ViewKind
    carrier_hz: float = Field(gt=0.0)
    depth_m: float = Field(gt=0.0)
    reach_m: float = Field(gt=0.0)
    off_m: list[float]
    found: list[float]
    passes: list[int]

    def curve(self) -> LateralCurve:
        """Return the curve as the core has it."""
        return LateralCurve(off_m=np.array(self.off_m), found=np.array(self.found), passes=np.array(self.passes, dtype=np.float64))


class CurvesFile(BaseModel):
    """All curves that were measured over level bottom; of what they promise on drawn water, which has cover and slopes, the share that is found."""

    curves: list[MeasuredCurve]
    drawn_share: float = Field(default=1.0, gt=0.0, le=1.0)


def write_curves(path: Path, curves: CurvesFile) -> None:
    """Write curves, whole or not at all."""
    part = path.with_name(path.name + ".part")
    part.write_bytes(orjson.dumps(curves.model_dump(mode="json"), option=orjson.OPT_INDENT_2) + b"\n")
    part.replace(path)


@lru_cache(maxsize=1)
def shipped_curves() -> CurvesFile:
    """Return the curves that ship."""
    data = resources.files("mudlamp.formats").joinpath("learned_files", FILE).read_bytes()
    return CurvesFile.model_validate_json(data)
