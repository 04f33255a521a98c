"""A search's columns on disk: one file a view and one of where the boat was, each record of a fixed size, so that any stretch is read at once."""

from pathlib import Path

import numpy as np

from mudlamp.core.arrays import ByteArray, Float32Array, FloatArray
from mudlamp.core.searching.boat import Standing
from mudlamp.core.searching.points import FIELDS as POINT_FIELDS
from mudlamp.core.searching.search import Sounded
from mudlamp.core.sonar.console import BINS, VIEWS, ViewKind

# Levels are kept in half decibels over this [dB]; 0 stands for a column that was never sounded.
LEAST_DB, STEP_DB = -170.0, 0.5
TRACK = "track.f8"
POINTS = "points.f4"
# Time, told place, heading and speed; true place, heading; depth.
FIELDS = 9


def coded(levels_db: Float32Array) -> ByteArray:
    """Return levels [dB] as bytes, 1 to 255."""
    return np.clip(np.rint((levels_db - LEAST_DB) / STEP_DB), 1, 255).astype(np.uint8)


def decoded(data: ByteArray) -> Float32Array:
    """Return levels [dB] of bytes."""
    return (LEAST_DB + STEP_DB * data.astype(np.float32)).astype(np.float32)


class ColumnWriter:
    """Writes a search's pings as they come."""

    def __init__(self, folder: Path) -> None:
        folder.mkdir(parents=True, exist_ok=True)
        self._track = (folder / TRACK).open("wb")
        self._points = (folder / POINTS).open("wb")
        self._views = {kind: (folder / f"{kind.value}.u1").open("wb") for kind in ViewKind}

    def write(self, ping: Sounded) -> None:
        """Write a ping; its views first, so that whoever knows of it finds them."""
        for kind, levels in ping.levels_db.items():
            size = levels.shape[0] * BINS
            file = self._views[kind]
            file.seek(ping.number * size)
            file.write(coded(levels).tobytes())
        told, truly = ping.told, ping.truly
        row = (
            told.time_s, told.x_m, told.y_m, told.heading_rad, told.speed_m_s, truly.x_m, truly.y_m, truly.heading_rad, ping.depth_m,
        )  # fmt: skip
        self._track.write(np.array(row, dtype="<f8").tobytes())

    def add_points(self, points: FloatArray) -> None:
        """Append points of the 3-D view (N, field)."""
        self._points.write(points.astype("<f4").tobytes())

    def flush(self) -> None:
        """Let readers see what was written."""
        for file in (*self._views.values(), self._points, self._track):
            file.flush()

    def close(self) -> None:
        """Close all files."""
        for file in (*self._views.values(), self._points, self._track):
            file.close()


class ColumnReader:
    """Reads any stretch of a search's pings."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    @property
    def count(self) -> int:
        """How many pings there are."""
        path = self._folder / TRACK
        return path.stat().st_size // (8 * FIELDS) if path.exists() else 0

    def track(self, first: int, last: int) -> FloatArray:
        """Return where the boat was in the pings from `first` to before `last` (ping, field), those that there are."""
        path = self._folder / TRACK
        if not path.exists() or last <= first:
            return np.zeros((0, FIELDS))
        with path.open("rb") as file:
            file.seek(first * 8 * FIELDS)
            data = file.read((last - first) * 8 * FIELDS)
        whole = len(data) // (8 * FIELDS)
        return np.frombuffer(data[: whole * 8 * FIELDS], dtype="<f8").reshape(whole, FIELDS)

    def points(self, first: int, most: int) -> Float32Array:
        """Return points of the 3-D view (N, field), from the `first` on, so many at the most."""
        path = self._folder / POINTS
        if not path.exists():
            return np.zeros((0, POINT_FIELDS), np.float32)
        with path.open("rb") as file:
            file.seek(first * 4 * POINT_FIELDS)
            data = file.read(most * 4 * POINT_FIELDS)
        whole = len(data) // (4 * POINT_FIELDS)
        return np.frombuffer(data[: whole * 4 * POINT_FIELDS], dtype="<f4").reshape(whole, POINT_FIELDS)

    def levels(self, kind: ViewKind, first: int, last: int) -> ByteArray:
        """Return a view's columns from `first` to before `last`, coded (ping, beam, range_bin); 0 where it was closed."""
        beams = len(VIEWS[kind].shapes)
        size = beams * BINS
        found = np.zeros((max(last - first, 0), beams, BINS), dtype=np.uint8)
        path = self._folder / f"{kind.value}.u1"
        if not path.exists():
            return found
        with path.open("rb") as file:
            file.seek(first * size)
            data = np.frombuffer(file.read(len(found) * size), dtype=np.uint8)
        whole = len(data) // size
        found[:whole] = data[: whole * size].reshape(whole, beams, BINS)
        return found


def told(row: FloatArray) -> Standing:
    """Return where a boat was told to be, of a row of the track."""
    return Standing(time_s=float(row[0]), x_m=float(row[1]), y_m=float(row[2]), heading_rad=float(row[3]), speed_m_s=float(row[4]))


def truly(row: FloatArray) -> Standing:
    """Return where a boat really was, of a row of the track."""
    return Standing(time_s=float(row[0]), x_m=float(row[5]), y_m=float(row[6]), heading_rad=float(row[7]), speed_m_s=float(row[4]))
