"""The angler's own screen: how large a mark is on it, in pixels and at the eye, under its two separate scales."""

import math
from dataclasses import dataclass

from mudlamp.core.setup import Window

# The limit of acuity, and what is seen at ease [minutes of arc] (the second our choice).
LEAST_ARCMIN = 1.0
EASY_ARCMIN = 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Screen:
    """A screen: diagonal [m], pixels across and down, distance from the eye [m]."""

    diagonal_m: float = 0.254
    width_px: int = 1280
    height_px: int = 800
    distance_m: float = 0.75

    @property
    def pixel_m(self) -> float:
        """The side of a pixel [m], pixels being square."""
        return self.diagonal_m / math.hypot(self.width_px, self.height_px)


@dataclass(frozen=True, slots=True, kw_only=True)
class Scales:
    """Pixels a meter, across and down; `stretch` is how many times too tall the picture is."""

    across_px_m: float
    down_px_m: float

    @property
    def stretch(self) -> float:
        """Return down over across."""
        return self.down_px_m / self.across_px_m


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkOnScreen:
    """A mark: its size [px], the smaller of its visual angles [minutes of arc], and whether size and contrast let it be seen."""

    across_px: float
    down_px: float
    arcmin: float
    contrast: float
    seen: bool


def scales(screen: Screen, window: Window) -> Scales:
    """Return a screen's scales: across = width / (Reach + Look-back), down = height / depth shown. Source: plain geometry."""
    return Scales(across_px_m=screen.width_px / (window.reach_m + window.look_back_m), down_px_m=screen.height_px / window.down_to_m)


def visual_angle_arcmin(size_m: float, distance_m: float) -> float:
    """Return the angle [minutes of arc] that a size [m] spans at a distance [m]: 2 atan(size / (2 distance)). Source: definition."""
    return math.degrees(2.0 * math.atan(size_m / (2.0 * distance_m))) * 60.0


def mark_on_screen(
    screen: Screen, window: Window, *, across_m: float, down_m: float, contrast: float, least_contrast: float
) -> MarkOnScreen:
    """Return how a mark of a size in the water [m] looks on a screen, with its contrast as a difference in CIE L*.

    It is seen where the smaller of its angles is a minute of arc or more and its contrast `least_contrast` or more. A mark is never
    smaller than a pixel.
    """
    scale = scales(screen, window)
    across, down = max(across_m * scale.across_px_m, 1.0), max(down_m * scale.down_px_m, 1.0)
    arcmin = visual_angle_arcmin(min(across, down) * screen.pixel_m, screen.distance_m)
    return MarkOnScreen(
        across_px=across, down_px=down, arcmin=arcmin, contrast=contrast, seen=arcmin >= LEAST_ARCMIN and contrast >= least_contrast
    )
