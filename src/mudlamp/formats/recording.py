"""Recordings: netCDF-4 files of pings. Names follow the published convention for sonar netCDF files where it has one (docs/recordings.md)."""

import math
import threading
from collections.abc import Iterator
from mmap import mmap
from pathlib import Path
from types import TracebackType
from typing import Self

import netCDF4
import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.errors import RecordingError
from mudlamp.core.ping import Fan, Ping, Pose, SonarSetup
from mudlamp.formats.structure import POSE_FIELDS, check_structure

LEVEL_STEP_DB = 0.01
# What a level is where none was written, and the loudest that is believed [dB].
NOTHING_DB, LOUDEST_DB = -300.0, 330.0
# No time [s], place [m] or angle [rad] is beyond this.
FARTHEST = 1e7
# The library under netCDF is not made for several threads at once.
ONE_AT_A_TIME = threading.RLock()
ATTRIBUTES = ("carrier_hz", "pulse_s", "source_level_db", "absorption_db_m", "sound_speed_m_s")
# Widths that a file need not hold: a fan as thick, and beams as wide, as common transducers have them (our assumption).
WIDTHS = {"thickness_rad": math.radians(20.0), "beam_width_rad": math.radians(1.1)}


class WholeFile:
    """A netCDF-4 file being written: it appears under its name only when it is closed without an error."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._part = path.with_name(path.name + ".part")
        with ONE_AT_A_TIME:
            self._file = netCDF4.Dataset(self._part, "w", format="NETCDF4")

    def __enter__(self) -> Self:
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        with ONE_AT_A_TIME:
            self._file.close()
        if kind is None:
            self._part.replace(self._path)
        else:
            self._part.unlink(missing_ok=True)


class RecordingWriter(WholeFile):
    """Writes pings one by one."""

    def __init__(self, path: Path, setup: SonarSetup, *, compress: bool = False) -> None:
        super().__init__(path)
        self._count = 0
        with ONE_AT_A_TIME:
            self._lay_out(setup, compress)

    def _lay_out(self, setup: SonarSetup, compress: bool) -> None:
        file = self._file
        file.createDimension("ping", None)
        file.createDimension("beam", len(setup.beam_angle_rad))
        file.createDimension("range_bin", len(setup.range_m))
        file.setncatts({"Conventions": "CF-1.8, SONAR-netCDF4-2.0 (names, in part)", "fan": setup.fan.value})
        for name in (*ATTRIBUTES, *WIDTHS):
            file.setncattr(name, float(getattr(setup, name)))
        for name, dimension in (("beam_angle_rad", "beam"), ("range_m", "range_bin")):
            variable = file.createVariable(name, "f8", (dimension,))
            variable.units = "rad" if name.endswith("rad") else "m"
            variable[:] = getattr(setup, name)
        for name in ("ping_time_s", *POSE_FIELDS):
            variable = file.createVariable(name, "f8", ("ping",), chunksizes=(512,))
            variable.units = {"s": "s", "m": "m", "rad": "rad"}[name.rpartition("_")[2]]
        chunk = (1, len(setup.beam_angle_rad), len(setup.range_m))
        level = file.createVariable(
            "echo_level_db", "i2", ("ping", "beam", "range_bin"), chunksizes=chunk, fill_value=False, zlib=compress, complevel=1
        )
        level.scale_factor = LEVEL_STEP_DB
        level.units = "dB"
        level.long_name = "echo level minus source level, before any receiver step, no TVG"
        level.set_auto_scale(False)

    def write(self, ping: Ping) -> None:
        """Append one ping."""
        at, file = self._count, self._file
        levels = np.clip(np.rint(ping.echo_level_db / LEVEL_STEP_DB), -32767, 32767).astype(np.int16)
        with ONE_AT_A_TIME:
            file["ping_time_s"][at] = ping.time_s
            for name in POSE_FIELDS:
                file[name][at] = getattr(ping.pose, name)
            file["echo_level_db"][at] = levels
        self._count += 1


class RecordingReader:
    """Reads a recording, whoever wrote it; raises RecordingError for what is not one."""

    def __init__(self, path: Path, *, data: mmap | bytes | None = None) -> None:
        """Open a file, or the bytes of one; `path` names it in messages."""
        self._path = path
        try:
            check_structure(path if data is None else data)
        except RecordingError as error:
            raise RecordingError(f"recording {path} {error}") from None
        with ONE_AT_A_TIME:
            try:
                self._file = netCDF4.Dataset(path.absolute(), "r", memory=data)
            except (OSError, RuntimeError, ValueError):
                raise RecordingError(f"recording {path} cannot be opened: it must be a netCDF-4 recording, whole") from None
            try:
                self.setup = self._read_setup()
                self._times, self._poses = self._read_poses()
            except RecordingError:
                self._file.close()
                raise
            except Exception as error:
                self._file.close()
                raise RecordingError(f"recording {path} cannot be read ({type(error).__name__}): the file is broken") from None

    def _read_poses(self) -> tuple[FloatArray, dict[str, FloatArray]]:
        times = np.asarray(self._file["ping_time_s"][:], dtype=np.float64)
        if not np.all(np.diff(times) > 0.0) and np.all(np.isfinite(times)):
            raise RecordingError(f"recording {self._path}: ping_time_s is not rising: it must be")
        return times, {name: np.asarray(self._file[name][:], dtype=np.float64) for name in POSE_FIELDS}

    def _read_setup(self) -> SonarSetup:
        file = self._file
        for name in ("fan", *ATTRIBUTES):
            if name not in file.ncattrs():
                raise RecordingError(f"recording {self._path} has no attribute {name}: it must hold fan, {', '.join(ATTRIBUTES)}")
        if file["echo_level_db"].dimensions != ("ping", "beam", "range_bin"):
            raise RecordingError(
                f"recording {self._path}: echo_level_db is {file['echo_level_db'].dimensions}: it must be (ping, beam, range_bin)"
            )
        if file.getncattr("fan") not in list(Fan):
            raise RecordingError(f"recording {self._path}: fan is {str(file.getncattr('fan'))[:30]}: it must be one of {', '.join(Fan)}")
        beam_angle, range_m = self._rising("beam_angle_rad", -np.pi, np.pi), self._rising("range_m", 0.0, 500.0)
        numbers = {name: self._number(name) for name in ATTRIBUTES}
        widths = {name: self._number(name) if name in file.ncattrs() else usual for name, usual in WIDTHS.items()}
        return SonarSetup(fan=Fan(file.getncattr("fan")), beam_angle_rad=beam_angle, range_m=range_m, **numbers, **widths)

    def _rising(self, name: str, low: float, high: float) -> FloatArray:
        values = np.asarray(self._file[name][:], dtype=np.float64)
        if not (np.all(np.isfinite(values)) and np.all(np.diff(values) > 0) and low <= values[0] and values[-1] <= high):
            raise RecordingError(f"recording {self._path}: {name} is not rising from {low:g} to {high:g}: it must be")
        return values

    def _number(self, name: str) -> float:
        low, high = {
            "sound_speed_m_s": (1300.0, 1700.0),
            "carrier_hz": (1e4, 5e6),
            "pulse_s": (1e-6, 1.0),
            "absorption_db_m": (0.0, 10.0),
            "thickness_rad": (0.01, math.pi),
            "beam_width_rad": (0.001, 1.0),
        }.get(name, (-400.0, 400.0))
        try:
            value = float(self._file.getncattr(name))
        except (TypeError, ValueError):
            value = np.nan
        if not low <= value <= high:
            raise RecordingError(f"recording {self._path}: {name} is {value:g}: it must be {low:g} to {high:g}")
        return value

    def __len__(self) -> int:
        return len(self._times)

    @property
    def seconds(self) -> float:
        """How long it runs from its first ping to its last [s]."""
        return float(self._times[-1] - self._times[0])

    def time_s(self, number: int) -> float:
        """Return the time of a ping [s]."""
        return float(self._times[number])

    def ping(self, number: int) -> Ping:
        """Return a ping by its number, 0 the first; raise RecordingError where the file is broken there."""
        time_s = float(self._times[number])
        values = {name: float(column[number]) for name, column in self._poses.items()}
        if not all(abs(value) <= FARTHEST for value in (time_s, *values.values())):
            raise RecordingError(f"recording {self._path}: time or pose of ping {number} is not a number up to {FARTHEST:g}: it must be")
        with ONE_AT_A_TIME:
            try:
                level = np.ma.filled(self._file["echo_level_db"][number], NOTHING_DB)
            except Exception as error:
                raise RecordingError(
                    f"recording {self._path}: ping {number} cannot be read ({type(error).__name__}): the file is broken"
                ) from None
        return Ping(
            number=number,
            time_s=time_s,
            pose=Pose(**values),
            setup=self.setup,
            echo_level_db=_levels(level),
        )

    def __iter__(self) -> Iterator[Ping]:
        return (self.ping(number) for number in range(len(self)))

    def close(self) -> None:
        """Close the file."""
        with ONE_AT_A_TIME:
            self._file.close()


def _levels(found: FloatArray) -> Float32Array:
    """Return levels that are numbers within what there is, whatever a stranger wrote."""
    levels = np.ascontiguousarray(found, dtype=np.float32)
    if not (np.all(np.isfinite(levels)) and np.all(np.abs(levels) <= LOUDEST_DB)):
        levels = np.nan_to_num(levels, nan=NOTHING_DB, posinf=LOUDEST_DB, neginf=NOTHING_DB).clip(NOTHING_DB, LOUDEST_DB)
    return levels
