"""A search as a recording: netCDF-4, a group a view, each with its columns by ping, beam and range cell (docs/recordings.md)."""

from collections.abc import Mapping
from pathlib import Path

import numpy as np

from mudlamp.core.searching.search import Sounded
from mudlamp.core.sonar.console import SOURCE_LEVEL_DB, ConsoleView, ViewKind
from mudlamp.formats.recording import LEVEL_STEP_DB, ONE_AT_A_TIME, WholeFile

POSE = ("x_m", "y_m", "heading_rad", "speed_m_s")


class ColumnsFileWriter(WholeFile):
    """Writes a search's pings one by one.

    Every group holds the same pings: `ping_time_s`, where the boat was told to be, the depth that was sounded, and its view's levels.
    """

    def __init__(self, path: Path, views: Mapping[ViewKind, ConsoleView]) -> None:
        super().__init__(path)
        self._count = 0
        with ONE_AT_A_TIME:
            self._file.setncatts({"Conventions": "CF-1.8, SONAR-netCDF4-2.0 (names, in part)"})
            for kind, view in views.items():
                self._lay_out(kind, view)

    def _lay_out(self, kind: ViewKind, view: ConsoleView) -> None:
        group = self._file.createGroup(kind.value)
        shapes = view.profile.shapes
        for name, size in (("ping", None), ("beam", len(shapes)), ("range_bin", len(view.range_m))):
            group.createDimension(name, size)
        group.setncatts(
            {
                "view": kind.value,
                "carrier_hz": view.carrier_hz,
                "source_level_db": SOURCE_LEVEL_DB,
                "absorption_db_m": view.absorption_db_m,
                "sound_speed_m_s": view.wavelength_m * view.carrier_hz,
            }
        )
        for name, dimension, values in (("range_m", "range_bin", view.range_m), ("toward_rad", "beam", [one.toward_rad for one in shapes])):
            variable = group.createVariable(name, "f8", (dimension,))
            variable.units = name.rpartition("_")[2]
            variable[:] = values
        for name in ("ping_time_s", *POSE, "depth_m"):
            variable = group.createVariable(name, "f8", ("ping",), chunksizes=(512,))
            variable.units = {"s": "m/s" if name == "speed_m_s" else "s", "m": "m", "rad": "rad"}[name.rpartition("_")[2]]
        level = group.createVariable(
            "echo_level_db", "i2", ("ping", "beam", "range_bin"), chunksizes=(64, len(shapes), len(view.range_m)), fill_value=False, zlib=True, complevel=1
        )  # fmt: skip
        level.scale_factor, level.units = LEVEL_STEP_DB, "dB"
        level.long_name = "echo level minus source level, before any receiver step, no TVG"
        level.set_auto_scale(False)

    def write(self, ping: Sounded) -> None:
        """Append one ping to every view's group."""
        at = self._count
        with ONE_AT_A_TIME:
            for kind, levels in ping.levels_db.items():
                group = self._file[kind.value]
                group["ping_time_s"][at] = ping.told.time_s
                for name in POSE:
                    group[name][at] = getattr(ping.told, name)
                group["depth_m"][at] = ping.depth_m
                group["echo_level_db"][at] = np.clip(np.rint(levels / LEVEL_STEP_DB), -32767, 32767).astype(np.int16)
        self._count += 1
