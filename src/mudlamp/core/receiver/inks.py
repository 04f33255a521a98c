"""Inks: perceptually even color maps of our own, and how bright they look."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import ByteArray, FloatArray

STEPS = 256
# OKLab (Ottosson 2020) to linear sRGB and back; a test closes the circle.
_LAB_TO_LMS = np.array([[1.0, 0.3963377774, 0.2158037573], [1.0, -0.1055613458, -0.0638541728], [1.0, -0.0894841775, -1.2914855480]])
_LMS_TO_RGB = np.array(
    [
        [4.0767416621, -3.3077115913, 0.2309699292],
        [-1.2684380046, 2.6097574011, -0.3413193965],
        [-0.0041960863, -0.7034186147, 1.7076147010],
    ]
)
_RGB_TO_XYZ_Y = np.array([0.2126729, 0.7151522, 0.0721750])


@dataclass(frozen=True, slots=True, kw_only=True)
class Ink:
    """An ink: its name on screen, the theme it suits, its color table (256, 3) from nothing to full."""

    title: str
    theme: str
    table: ByteArray


def _encoded(linear: FloatArray) -> ByteArray:
    clipped = np.clip(linear, 0.0, 1.0)
    shaped = np.where(clipped <= 0.0031308, 12.92 * clipped, 1.055 * clipped ** (1.0 / 2.4) - 0.055)
    return np.rint(shaped * 255.0).astype(np.uint8)


def _decoded(table: ByteArray) -> FloatArray:
    share = table.astype(np.float64) / 255.0
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)


def _blend(stops: list[tuple[float, float, float, float]]) -> ByteArray:
    """Return a table through stops (share, L, a, b) in OKLab, straight between them."""
    at = np.linspace(0.0, 1.0, STEPS)
    share = [stop[0] for stop in stops]
    lab = np.column_stack([np.interp(at, share, [stop[i] for stop in stops]) for i in (1, 2, 3)])
    return _encoded((lab @ _LAB_TO_LMS.T) ** 3 @ _LMS_TO_RGB.T)


def _terraced(table: ByteArray, shares: tuple[float, ...]) -> ByteArray:
    """Return `table` in bands: nothing, then one even color from each share on."""
    edges = np.array([1.0 / STEPS, 0.34, 0.67, 1.01])
    band = np.searchsorted(edges, np.linspace(0.0, 1.0, STEPS), side="right")
    picked = np.array([0, *(int(share * (STEPS - 1)) for share in shares)])
    return table[picked[np.minimum(band, len(shares))]]


def lightness(table: ByteArray) -> FloatArray:
    """Return CIE L* (N,) of sRGB colors (N, 3). Source: CIE 15 (2004), IEC 61966-2-1."""
    y = _decoded(table) @ _RGB_TO_XYZ_Y
    return np.where(y > 216.0 / 24389.0, 116.0 * np.cbrt(y) - 16.0, y * 24389.0 / 27.0)


# Two brightnesses are told apart where their CIE L* differ by as much (ours).
SHOWN_LIGHTNESS = 10.0


@lru_cache(maxsize=8)
def first_shown(name: str) -> int:
    """Return the faintest brightness of an ink, 0 to 255, that stands out from its bare ground."""
    table = ink_lightness(name)
    return int(np.argmax(np.abs(table - table[0]) >= SHOWN_LIGHTNESS))


@lru_cache(maxsize=8)
def ink_lightness(name: str) -> FloatArray:
    """Return CIE L* (256,) of an ink's table."""
    return lightness(INKS[name].table)


# Steeper at the faint end: an echo of the jig's usual level (a third of full) stands out from the ground by 3 to 1 and more.
_SOOT = _blend([(0.0, 0.955, 0.0, 0.014), (0.30, 0.61, 0.045, -0.055), (0.70, 0.36, 0.06, -0.085), (1.0, 0.15, 0.01, -0.03)])
_CHALK = _blend([(0.0, 0.15, 0.0, -0.012), (0.30, 0.50, 0.03, -0.07), (0.65, 0.74, 0.035, -0.07), (1.0, 0.965, 0.004, -0.012)])

INKS: dict[str, Ink] = {
    "soot": Ink(title="Soot", theme="noon", table=_SOOT),
    "chalk": Ink(title="Chalk", theme="dusk", table=_CHALK),
    "terrace": Ink(title="Terrace", theme="noon", table=_terraced(_SOOT, (0.38, 0.68, 1.0))),
    "terrace-dusk": Ink(title="Terrace", theme="dusk", table=_terraced(_CHALK, (0.34, 0.66, 1.0))),
}
