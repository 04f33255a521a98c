"""The console's kernels against brute force and their plain Python."""

import math

import numpy as np
import pytest

from mudlamp.core.sonar import _kernels_console as kernels
from mudlamp.core.sonar._kernels_ground import mix
from mudlamp.core.sonar.console import TABLE_STEP, VIEWS, ViewKind, _table, envelope

SHAPE = VIEWS[ViewKind.SIDE].shapes[1]
BEAM = (False, _table(SHAPE), 1.0 / TABLE_STEP, 50.0, math.sin(SHAPE.toward_rad), math.cos(SHAPE.toward_rad), SHAPE.across_rad / 2.0)
NO_POSTS = np.zeros((7, 0))


def _points(seed: int, n: int) -> tuple[np.ndarray, ...]:
    rng = np.random.default_rng(seed)
    return (
        rng.uniform(2.0, 12.0, n),
        rng.uniform(-0.5, 0.5, n),
        rng.uniform(1.0, 6.0, n),
        rng.uniform(0.01, 0.1, n),
        rng.uniform(0.0, 6.0, n),
    )


def _summed(add: object, points: tuple[np.ndarray, ...]) -> tuple[np.ndarray, int]:
    re, im = np.zeros(256), np.zeros(256)
    lit = add(*points, np.array([0.0, 0.0, 0.3]), 0.0, 1.0, *BEAM, NO_POSTS, np.zeros(0), 0.05, 1500.0, 15.0 / 256.0, envelope(2.0), re, im)  # type: ignore[operator]
    return re + 1j * im, lit


def test_points_sum_as_they_do_in_plain_python() -> None:
    """The compiled kernel and its Python give the same field."""
    compiled, lit = _summed(kernels.add_points, _points(1, 30))
    plain, plain_lit = _summed(kernels.add_points.py_func, _points(1, 30))
    assert lit == plain_lit > 5
    np.testing.assert_allclose(compiled, plain, atol=1e-9)


def test_echoes_add_as_complex_numbers() -> None:
    """The field of many is the sum of the fields of each: superposition."""
    points = _points(2, 40)
    alone = sum(_summed(kernels.add_points, tuple(axis[i : i + 1] for axis in points))[0] for i in range(40))
    np.testing.assert_allclose(_summed(kernels.add_points, points)[0], alone, atol=1e-12)


@pytest.mark.parametrize("heading_deg", [0.0, 37.0, 90.0, 200.0])
def test_every_cell_of_the_ground_in_the_beam_is_summed_once(heading_deg: float) -> None:
    """Counted by brute force over all cells about the boat: place by the same hash, lit by the same bounds."""
    heading = math.radians(heading_deg)
    east, north = math.sin(heading), math.cos(heading)
    step, origin, widest = 0.2, np.array([3.03, -1.7, 0.3]), 0.05
    grid = (-40.0, -40.0, 1.0, np.full((81, 81), 5.0))
    kinds = np.zeros((81, 81), dtype=np.int64)
    ground = (np.array([0.01]), np.array([0.1]), 0.25, np.array([0.05]))
    re, im = np.zeros(256), np.zeros(256)
    lit = kernels.add_ground(
        step, widest, 0.0, 15.0, 1.0, 1, origin, east, north, *BEAM, NO_POSTS, np.zeros(0), 7, *grid, kinds, *ground, 0.0, 0.05, 1500.0,
        15.0 / 256.0, envelope(2.0), re, im,
    )  # fmt: skip
    count, unit = 0, 1.0 / 2097152.0
    for iy in range(-110, 110):
        for ix in range(-110, 110):
            cx, cy = (ix + 0.5) * step - origin[0], (iy + 0.5) * step - origin[1]
            if not (abs(cx * east + cy * north) <= 1.0 and 0.0 <= cx * north - cy * east <= 15.0):
                continue
            h = int(mix(ix, iy, 7))
            dx, dy = (ix + (h & 2097151) * unit) * step - origin[0], (iy + ((h >> 21) & 2097151) * unit) * step - origin[1]
            dz = 4.7
            r = math.sqrt(dx * dx + dy * dy + dz * dz)
            along, aside = dx * east + dy * north, dx * north - dy * east
            seen = kernels.two_way(along, aside, dz, r, *BEAM) != 0.0
            count += r / (15.0 / 256.0) - 0.5 <= 256 + kernels.WINGS and along * along <= (widest * r) ** 2 and seen
    assert lit == count > 50


def test_ground_that_rises_hides_what_lies_lower_behind_it() -> None:
    """A sill 2 m under the transducer out to 7 m lets through no ray steeper than 2 in 7: geometry."""
    depth = np.full((81, 81), 8.0)
    depth[:, 45:48] = 2.3
    lowest = np.zeros(60)
    kernels.horizon(np.array([0.0, 0.0, 0.3]), 0.0, 1.0, 1.0, 20.0, -40.0, -40.0, 1.0, depth, lowest)
    slope = 2.0 / 7.0
    behind = int(9.0 / kernels.HORIZON_M)
    assert lowest[behind] == pytest.approx(slope, rel=0.05)
    assert kernels.is_hidden(9.0, 9.0 * slope + 0.6, lowest)
    assert not kernels.is_hidden(9.0, 9.0 * slope - 0.3, lowest)
    assert not kernels.is_hidden(3.0, 7.0, lowest)
