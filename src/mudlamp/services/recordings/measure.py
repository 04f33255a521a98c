"""Readings of a recording under a set-up, and its picture."""

import io
from collections import defaultdict
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from mudlamp.core.arrays import ByteArray
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan, Ping
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.receiver.readings import Readings, ReadingsMeter
from mudlamp.core.receiver.setup import ReceiverSetup, Window, checked_window
from mudlamp.core.scene.truth import TruthRow
from mudlamp.formats.recording import RecordingReader
from mudlamp.formats.truth import read_truth
from mudlamp.services.edge.controls import apply_receiver, apply_window
from mudlamp.services.live.pane import Shown

WINDOW_KEYS = ("reach_ft", "down_to_ft", "look_back_ft")
PICTURE_WIDTH = 1000


def measure_recording(path: Path, *, truth: Path | None, values: Mapping[str, Any], png: Path | None = None) -> Readings:
    """Return the readings of a whole recording under the set-up of `values` (edge names); write its last picture to `png`.

    Raises RecordingError for a bad file, DomainError for a bad value.
    """
    setup = apply_receiver(ReceiverSetup(), {name: value for name, value in values.items() if name not in WINDOW_KEYS})
    reader = RecordingReader(path)
    try:
        window = checked_window(apply_window(whole_window(reader), {name: value for name, value in values.items() if name in WINDOW_KEYS}))
        rows = None if truth is None else rows_by_time(read_truth(truth)[0])
        receiver, meter = Receiver(setup), ReadingsMeter(keep=10_000_000)
        ping, picture = None, None
        for ping in reader:
            picture = receiver.develop(ping)
            meter.add(ping, picture, setup, window, None if rows is None else rows[round(ping.time_s, 4)])
    finally:
        reader.close()
    if png is not None and ping is not None and picture is not None:
        write_picture(png, ping, picture, setup, window)
    return meter.readings(setup)


def whole_window(reader: RecordingReader) -> Window:
    """Return the window that shows all of a recording's ping."""
    farthest = min(float(reader.setup.range_m[-1]) + reader.setup.bin_m / 2.0, 36.6)
    return Window(down_to_m=farthest, reach_m=farthest, look_back_m=farthest)


def rows_by_time(rows: list[TruthRow]) -> Mapping[float, list[TruthRow]]:
    """Return truth rows by the time of their ping."""
    found: dict[float, list[TruthRow]] = defaultdict(list)
    for row in rows:
        found[round(row.time_s, 4)].append(row)
    return found


def write_picture(path: Path, ping: Ping, picture: ByteArray, setup: ReceiverSetup, window: Window) -> None:
    """Write a picture in its true shape as a PNG: across is ahead, down is deep."""
    from PIL import Image

    if not path.absolute().parent.is_dir():
        raise DomainError(f"png {path} cannot be written: its folder must exist")
    try:
        Image.fromarray(true_shape(ping, picture, setup, window)).save(path)
    except OSError as error:
        path.unlink(missing_ok=True)
        raise DomainError(f"png {path} cannot be written ({error.strerror}): it must be in a writable folder") from None


def picture_bytes(shown: Shown) -> bytes:
    """Return what is shown as the bytes of a PNG, in its true shape."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(true_shape(shown.ping, shown.picture, shown.setup, shown.window)).save(out, format="PNG")
    return out.getvalue()


def true_shape(ping: Ping, picture: ByteArray, setup: ReceiverSetup, window: Window) -> ByteArray:
    """Return a picture (beam, range_bin) mapped to its true shape as colors (down, across, 3)."""
    scale = PICTURE_WIDTH / (window.reach_m + window.look_back_m)
    height = max(1, round(scale * (2.0 * window.reach_m if ping.setup.fan is Fan.FLAT else window.down_to_m)))
    ahead = (np.arange(PICTURE_WIDTH) + 0.5) / scale - window.look_back_m
    other = (np.arange(height) + 0.5) / scale - (window.reach_m if ping.setup.fan is Fan.FLAT else ping.pose.z_m)
    x, y = np.meshgrid(ahead, other)
    range_m = np.hypot(x, y)
    angle = np.arctan2(y, x) if ping.setup.fan is Fan.FLAT else ping.pose.tilt_rad - np.arctan2(x, y)
    beam = np.rint((angle - ping.setup.beam_angle_rad[0]) / ping.setup.beam_step_rad).astype(np.int64)
    cell = np.rint((range_m - ping.setup.range_m[0]) / ping.setup.bin_m).astype(np.int64)
    inside = (beam >= 0) & (beam < picture.shape[0]) & (cell >= 0) & (cell < picture.shape[1]) & (range_m <= window.reach_m)
    values = np.where(inside, picture[np.clip(beam, 0, picture.shape[0] - 1), np.clip(cell, 0, picture.shape[1] - 1)], 0)
    return INKS[setup.ink].table[values]
