"""Charts of one's own against surfaces whose depths and areas are known, and geodesy against another library."""

import math

import numpy as np
import pytest
from geographiclib.geodesic import Geodesic
from scipy.spatial import ConvexHull

from mudlamp.core.errors import DomainError
from mudlamp.core.searching.soundings import bands, grid_of
from mudlamp.services.find.waters import Origin, from_earth, to_earth


def area_of(rings):
    """Source: the shoelace formula; inner rings run the other way round."""
    total = 0.0
    for ring in rings:
        x, y = np.array(ring).T
        total += 0.5 * float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))
    return abs(total)


def test_a_plane_is_read_back_exactly_and_nothing_is_known_outside():
    rng = np.random.default_rng(920)
    places = rng.uniform(0.0, 100.0, (300, 2))
    grid = grid_of(places, 2.0 + 0.05 * places[:, 0] + 0.02 * places[:, 1])
    xx, yy = np.meshgrid(grid.east_m, grid.north_m)
    known = np.isfinite(grid.depth_m)
    assert np.allclose(grid.depth_m[known], (2.0 + 0.05 * xx + 0.02 * yy)[known], atol=1e-9)
    # Known is what the hull of the soundings holds (SciPy's Qhull), but for cells on its rim.
    cell = (grid.east_m[1] - grid.east_m[0]) * (grid.north_m[1] - grid.north_m[0])
    assert known.sum() * cell == pytest.approx(ConvexHull(places).volume, rel=0.02)


def test_bands_of_a_cone_have_a_cones_areas():
    # Depth is 20 m less a fifth of the distance from the middle: the band from a to b is a ring between circles.
    turn = np.linspace(0.0, 2.0 * np.pi, 73)[:-1]
    places = np.vstack([[[0.0, 0.0]], *[radius * np.column_stack([np.cos(turn), np.sin(turn)]) for radius in range(5, 101, 5)]])
    grid = grid_of(places, 20.0 - 0.2 * np.hypot(*places.T))
    found = bands(grid, [0.0, 5.0, 10.0, 15.0, 30.0])
    assert [(low, high) for low, high, _ in found] == [(0.0, 5.0), (5.0, 10.0), (10.0, 15.0), (15.0, 30.0)]
    radii = [100.0, 75.0, 50.0, 25.0, 0.0]
    for (_, _, polygons), outer, inner in zip(found, radii[:-1], radii[1:], strict=True):
        assert sum(area_of(rings) for rings in polygons) == pytest.approx(math.pi * (outer**2 - inner**2), rel=0.03)


@pytest.mark.parametrize(
    "places", [[[0.0, 0.0]] * 3, [[0.0, 0.0]] * 9, [[float(i), 2.0 * i] for i in range(9)], [[float(i), 0.0] for i in range(9)]]
)
def test_depths_that_make_no_surface_are_refused(places):
    with pytest.raises(DomainError, match=r"depths|the file"):
        grid_of(np.array(places), np.ones(len(places)))


@pytest.mark.parametrize("latitude", [-41.25, 0.0, 34.5, 61.0])
def test_distance_and_bearing_on_a_water_are_a_geodesy_librarys(latitude):
    # Source: GeographicLib (Karney 2013), WGS84; within a foot in ten miles, and a hundredth of a degree.
    origin = Origin(latitude_deg=latitude, longitude_deg=-85.0, zone="UTC")
    x, y = [4000.0, -2500.0], [3000.0, 9000.0]
    longitudes, latitudes = to_earth(x, y, origin)
    for i in range(2):
        found = Geodesic.WGS84.Inverse(latitude, -85.0, latitudes[i], longitudes[i])
        assert found["s12"] == pytest.approx(math.hypot(x[i], y[i]), abs=0.3)
        assert found["azi1"] == pytest.approx(math.degrees(math.atan2(x[i], y[i])), abs=0.01)
    back = from_earth(longitudes, latitudes, origin)
    assert np.allclose(back, [x, y], atol=1e-3)
