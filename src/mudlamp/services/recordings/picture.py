"""A picture of a ping in its true shape, as an image."""

import io
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from scipy.ndimage import map_coordinates

from mudlamp.core.arrays import ByteArray
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Ping
from mudlamp.core.plane import FanPlane, cells_of
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.setup import Setup

PICTURE_WIDTH = 1000


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is shown: the ping, its picture (beam, range_bin), and the set-up that made it."""

    ping: Ping
    picture: ByteArray
    setup: Setup


def true_shape(shown: Shown) -> ByteArray:
    """Return a picture mapped to its true shape as colors (down, across, 3): across is ahead, down is deep (or, lying flat, to the right).

    Brightness is drawn between the cells, as the page does, and inked after.
    """
    ping, window = shown.ping, shown.setup.window
    plane = FanPlane.drawn(ping)
    scale = PICTURE_WIDTH / (window.reach_m + window.look_back_m)
    height = max(1, round(scale * (2.0 * window.reach_m if plane.is_flat else window.down_to_m)))
    ahead = (np.arange(PICTURE_WIDTH) + 0.5) / scale - window.look_back_m
    other = (np.arange(height) + 0.5) / scale - (window.reach_m if plane.is_flat else 0.0)
    range_m, angle = plane.polar(*np.meshgrid(ahead, other))
    beam, cell = cells_of(ping.setup, range_m, angle)
    beams, cells = shown.picture.shape
    inside = (beam >= 0) & (beam < beams) & (cell >= 0) & (cell < cells) & (range_m <= window.reach_m)
    sonar = ping.setup
    at_beam = np.clip((angle - sonar.beam_angle_rad[0]) / sonar.beam_step_rad, 0.0, beams - 1.0)
    at_cell = np.clip((range_m - sonar.range_m[0]) / sonar.bin_m, 0.0, cells - 1.0)
    between = map_coordinates(shown.picture.astype(np.float32), [at_beam, at_cell], order=1, mode="nearest")
    values = np.where(inside, np.rint(between), 0.0).astype(np.uint8)
    return INKS[shown.setup.receiver.ink].table[values]


def picture_bytes(shown: Shown) -> bytes:
    """Return what is shown as the bytes of a PNG, in its true shape."""
    from PIL import Image

    out = io.BytesIO()
    Image.fromarray(true_shape(shown)).save(out, format="PNG")
    return out.getvalue()


def write_picture(path: Path, shown: Shown) -> None:
    """Write a picture in its true shape as a PNG; raise DomainError where the file cannot be written."""
    if not path.absolute().parent.is_dir():
        raise DomainError(f"png {path} cannot be written: its folder must exist")
    content = picture_bytes(shown)
    part = path.with_name(path.name + ".part")
    try:
        part.write_bytes(content)
        part.replace(path)
    except OSError as error:
        part.unlink(missing_ok=True)
        raise DomainError(f"png {path} cannot be written ({error.strerror}): it must be in a writable folder") from None
