"""A picture as it is drawn: beams and ranges laid out in the true shape of the fan, as pixels of an ink."""

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import map_coordinates

from mudlamp.core.arrays import ByteArray, FloatArray
from mudlamp.core.ping import Ping
from mudlamp.core.plane import FanPlane, cells_of
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.setup import Window


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """What of the water a drawing shows [m], from left to right (ahead) and from top to bottom (under the surface; of a flat fan, to the right), and its size [px]."""

    left_m: float
    right_m: float
    top_m: float
    bottom_m: float
    width_px: int
    height_px: int

    def pixel(self, ahead_m: float, down_m: float) -> tuple[float, float]:
        """Return where a place [m] is drawn [px]."""
        x = (ahead_m - self.left_m) / (self.right_m - self.left_m) * self.width_px
        return x, (down_m - self.top_m) / (self.bottom_m - self.top_m) * self.height_px


def frame_about(left_m: float, right_m: float, top_m: float, bottom_m: float, *, width_px: int, height_px: int) -> Frame:
    """Return a frame that holds a box of water [m] in the middle, both scales equal."""
    px_m = min(width_px / (right_m - left_m), height_px / (bottom_m - top_m))
    across, down = width_px / px_m, height_px / px_m
    middle, level = 0.5 * (left_m + right_m), 0.5 * (top_m + bottom_m)
    return Frame(
        left_m=middle - 0.5 * across,
        right_m=middle + 0.5 * across,
        top_m=level - 0.5 * down,
        bottom_m=level + 0.5 * down,
        width_px=width_px,
        height_px=height_px,
    )


def drawn(ping: Ping, picture: ByteArray, ink: str, window: Window, frame: Frame, *, looks: int = 1) -> ByteArray:
    """Return a picture (beam, range_bin) as pixels (row, column, RGBA); what the window or the fan leaves out is transparent bare ground.

    Brightness is drawn between the cells and inked after. In a small drawing a pixel is the brightest of `looks` by `looks` places in it:
    small marks are not lost between pixels.
    """
    sonar, plane = ping.setup, FanPlane.drawn(ping)
    across = _middles(frame.left_m, frame.right_m, frame.width_px * looks)
    down = _middles(frame.top_m, frame.bottom_m, frame.height_px * looks)
    range_m, angle = plane.polar(across[None, :], down[:, None])
    beam, bin_ = cells_of(sonar, range_m, angle)
    beams, bins = picture.shape
    there = (beam >= 0) & (beam < beams) & (bin_ >= 0) & (bin_ < bins) & plane.inside(range_m, angle, window)
    at_beam = np.clip((angle[there] - sonar.beam_angle_rad[0]) / sonar.beam_step_rad, 0.0, beams - 1.0)
    at_bin = np.clip((range_m[there] - sonar.range_m[0]) / sonar.bin_m, 0.0, bins - 1.0)
    bright = np.zeros(there.shape, np.uint8)
    bright[there] = np.rint(map_coordinates(picture.astype(np.float32), [at_beam, at_bin], order=1, mode="nearest"))
    blocks = (frame.height_px, looks, frame.width_px, looks)
    brightest, inside = bright.reshape(blocks).max(axis=(1, 3)), there.reshape(blocks).any(axis=(1, 3))
    return np.dstack((INKS[ink].table[brightest], np.where(inside, 255, 0).astype(np.uint8)))


def _middles(low: float, high: float, count: int) -> FloatArray:
    return np.asarray(low + (np.arange(count) + 0.5) * (high - low) / count, dtype=np.float64)
