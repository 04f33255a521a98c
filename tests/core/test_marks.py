"""Where a mark is: geometry by hand, and by marks read off the finished picture with a fix and a compass that err."""

import functools
import math
import operator
from dataclasses import replace

import numpy as np
import pytest
from scipy.stats import binomtest

from mudlamp.core.scene.model import Water
from mudlamp.core.scene.survey import Survey
from mudlamp.core.searching.boat import ASTERN_M, DRAFT_M, STARBOARD_M, IdlingBoat, Standing
from mudlamp.core.searching.marks import Lies, Mark, fix_of, seen_by, together
from mudlamp.core.searching.measure import level_strip
from mudlamp.core.searching.search import Search, ViewSetting
from mudlamp.core.searching.sizes import by_reference, extent_of
from mudlamp.core.sonar.console import ViewKind
from mudlamp.core.units import FOOT_M

SOUND_M_S = 1465.0
OFF_M = 40.0 * FOOT_M


def _flat(depth_m):
    return Survey(west_m=-60.0, south_m=-60.0, step_m=1.0, depth_m=np.full((121, 121), depth_m), kind=np.zeros((121, 121), dtype=np.int64))


def _standing(heading_deg=0.0, x_m=0.0, y_m=0.0):
    return Standing(time_s=0.0, x_m=x_m, y_m=y_m, heading_rad=math.radians(heading_deg), speed_m_s=1.9)


def _mark(slant_m, lies, *, beam=1, at=None, view=ViewKind.SIDE):
    return Mark(
        at=at or _standing(), view=view, beam=beam, carrier_hz=455e3 if view is ViewKind.SIDE else 200e3, slant_m=slant_m, lies=lies
    )


@pytest.mark.parametrize("beam", [0, 1])
@pytest.mark.parametrize("heading_deg", [0.0, 90.0, 215.0])
def test_slant_range_becomes_a_place_within_a_foot_at_forty_feet(beam, heading_deg):
    """Pythagoras, the transducer's place in the boat and its heading put in."""
    slant = math.hypot(OFF_M, 6.0 - DRAFT_M)
    fix = fix_of(_mark(slant, Lies.BOTTOM, beam=beam, at=_standing(heading_deg)), _flat(6.0), sound_m_s=SOUND_M_S)
    heading, side = math.radians(heading_deg), 1.0 if beam else -1.0
    out = side * OFF_M + STARBOARD_M
    expected = (-ASTERN_M * math.sin(heading) + out * math.cos(heading), -ASTERN_M * math.cos(heading) - out * math.sin(heading))
    assert math.dist((fix.x_m, fix.y_m), expected) < FOOT_M
    assert fix.depth_m == pytest.approx(6.0, abs=0.1)
    assert fix.out_m == pytest.approx(OFF_M, abs=FOOT_M)


def test_over_a_slope_the_chart_says_how_far_out():
    """Bottom falling 1 in 5 to starboard from 4 m: the point at 10 m out lies 6 m deep."""
    sloping = _flat(4.0)
    x, _ = sloping.nodes_m
    sloping = replace(sloping, depth_m=np.tile(4.0 + 0.2 * np.maximum(x, -10.0), (121, 1)))
    place = STARBOARD_M + 10.0
    slant = math.hypot(10.0, 4.0 + 0.2 * place - DRAFT_M)
    assert fix_of(_mark(slant, Lies.BOTTOM), sloping, sound_m_s=SOUND_M_S).out_m == pytest.approx(10.0, abs=0.1)


def test_a_suspended_mark_is_an_arc_until_a_second_look():
    """Every place of the arc is as far from the transducer, none is under the bottom; crossing looks leave an ellipse."""
    chart, slant = _flat(8.0), 9.0
    first = fix_of(_mark(slant, Lies.ABOVE), chart, sound_m_s=SOUND_M_S)
    x, y, z = _standing().transducer_m
    for place in first.arc_m:
        assert math.dist(place, (x, y, z)) == pytest.approx(slant, abs=1e-6)
        assert place[2] < 8.0
    assert first.depth_m is None
    true = first.arc_m[len(first.arc_m) // 3]
    # Passed again, heading east, the fish to port.
    east = _standing(90.0, x_m=true[0] + ASTERN_M, y_m=true[1] - 6.0 + STARBOARD_M)
    back = math.dist(true, east.transducer_m)
    second = fix_of(_mark(back, Lies.ABOVE, beam=0, at=east), chart, sound_m_s=SOUND_M_S)
    both = together(first, second)
    assert both.ellipse[0] < 0.6 * first.ellipse[0]
    assert math.dist((both.x_m, both.y_m), true[:2]) < math.dist((first.x_m, first.y_m), true[:2])


def test_a_picture_that_looks_down_knows_depth_and_not_the_side():
    fix = fix_of(_mark(5.0, Lies.ABOVE, beam=0, view=ViewKind.SCROLLING), _flat(8.0), sound_m_s=SOUND_M_S)
    assert fix.depth_m == pytest.approx(5.0 + DRAFT_M)
    assert fix.out_m == 0.0
    long, short, _ = fix.ellipse
    assert long >= short > 0.5


def test_two_looks_count_by_how_well_they_know():
    """Weighted least squares by hand: one knows east, the other north."""
    east = replace(
        fix_of(_mark(5.0, Lies.ABOVE, beam=0, view=ViewKind.DOWN), _flat(8.0), sound_m_s=SOUND_M_S),
        x_m=1.0,
        y_m=7.0,
        covariance=np.diag([0.1, 10.0]),
    )
    north = replace(east, x_m=5.0, y_m=2.0, covariance=np.diag([10.0, 0.1]))
    both = together(east, north)
    assert (both.x_m, both.y_m) == (pytest.approx((1.0 / 0.1 + 5.0 / 10.0) / 10.1), pytest.approx((7.0 / 10.0 + 2.0 / 0.1) / 10.1))
    assert both.covariance[0, 0] == pytest.approx(1.0 / 10.1)


def test_a_place_is_found_where_the_boat_passed_it_and_nowhere_else():
    standings = [_standing(0.0, 0.0, 0.5 * i) for i in range(80)]
    column, beam, slant = seen_by(ViewKind.SIDE, (10.0, 18.0, 5.0), standings, beam_count=2)
    assert standings[column].transducer_m[1] == pytest.approx(18.0, abs=0.3)
    assert beam == 1
    assert slant == pytest.approx(math.hypot(10.0 - STARBOARD_M, 5.0 - DRAFT_M), abs=0.1)
    assert seen_by(ViewKind.SIDE, (10.0, 90.0, 5.0), standings, beam_count=2) is None


def _read_off(seed, count):
    """Return errors [m] and whether the ellipse held, of hard objects 40 ft to the side, each read off the side picture at its brightest."""
    water = Water(temperature_degc=14.4, secchi_m=1.4, wind_m_s=2.0)
    reach = replace(level_strip(seed, depth_m=6.0, schools=count, most_off_m=20.0, water=water), schools=())
    boat = IdlingBoat((0.0, 0.0), math.pi / 2.0, rng=np.random.default_rng(seed))
    boat.speed_m_s = 1.88
    search = Search(reach, [ViewSetting(kind=ViewKind.SIDE, carrier_hz=455e3, reach_m=30.48)], boat=boat, seed=seed)
    east = (np.arange(count) + 1) * 14.0
    north = np.where(np.arange(count) % 2 == 0, OFF_M, -OFF_M)
    deep = np.array([reach.survey.depth_at(float(a), float(b)) - 0.15 for a, b in zip(east, north, strict=True)])
    own = search.water.hear

    def hear(origin, time_s, *, within_m):
        points, posts = own(origin, time_s, within_m=within_m)
        added = {"x": east, "y": north, "z": deep, "amplitude": np.full(count, 10.0 ** (-18.0 / 20.0)), "phase": np.zeros(count)}
        return replace(points, **{name: np.append(getattr(points, name), values) for name, values in added.items()}), posts

    search.water.hear = hear
    pings = []
    while boat.x_m < (count + 1.5) * 14.0:
        pings.append(search.ping())
    view = search.views[ViewKind.SIDE]
    levels = np.array([one.levels_db[ViewKind.SIDE] for one in pings])
    passed = np.array([one.truly.transducer_m[0] for one in pings])
    errors, held = [], []
    for a, b, c in zip(east, north, deep, strict=True):
        beam, slant = int(b < 0.0), math.hypot(b, c - DRAFT_M)
        rows = np.flatnonzero(np.abs(passed - a) < 2.5)
        cells = np.arange(int((slant - 1.5) / view.bin_m), int((slant + 1.5) / view.bin_m))
        block = levels[np.ix_(rows, [beam], cells)][:, 0]
        row, cell = np.unravel_index(int(np.argmax(block)), block.shape)
        mark = _mark(float(view.range_m[cells[cell]]), Lies.BOTTOM, beam=beam, at=pings[rows[row]].told)
        fix = fix_of(mark, reach.chart, sound_m_s=SOUND_M_S)
        off = np.array([fix.x_m - a, fix.y_m - b])
        errors.append(float(np.hypot(*off)))
        held.append(bool(off @ np.linalg.inv(fix.covariance) @ off < 4.605))
    return errors, held


def test_spots_read_off_the_picture_are_within_three_feet_and_their_ellipses_hold():
    """Seeds that nothing was tuned on. The ellipse should hold 85 to 95 %: within the 99 % interval of so many objects (by SciPy)."""
    found = [_read_off(seed, 24) for seed in (931, 932, 933)]
    errors, held = (
        functools.reduce(operator.iadd, (one[0] for one in found), []),
        functools.reduce(operator.iadd, (one[1] for one in found), []),
    )
    assert np.median(errors) < 3.0 * FOOT_M * 1.15
    interval = binomtest(sum(held), len(held)).proportion_ci(0.99)
    assert interval.low < 0.95
    assert interval.high > 0.85


def test_a_marks_extent_is_what_is_joined_to_its_brightest_cell():
    """Counted by hand: a bar of 3 by 7, a dimmer rim, and another mark apart from it."""
    picture = np.full((30, 40), 10, dtype=np.uint8)
    picture[10:13, 20:27] = 200
    picture[9, 20:27] = 60
    picture[20:25, 5:9] = 220
    assert extent_of(picture, 11, 22) == (3, 7)
    assert extent_of(picture, 22, 6) == (5, 4)
    assert extent_of(np.zeros((5, 5), dtype=np.uint8), 2, 2) is None
    assert extent_of(picture, 99, 2) is None
    # A bottom line runs through the picture: it has no size to tell.
    picture[27:29] = 200
    assert extent_of(picture, 28, 12) is None


@pytest.mark.parametrize("seed", range(992, 996))
def test_a_length_is_told_by_a_known_one_with_the_beam_taken_out(seed):
    """Brute force: two soft things drawn out by beams of two widths, each measured at half its height as a picture is."""
    rng = np.random.default_rng(seed)
    known, asked, beam_there, beam_here = rng.uniform([1.5, 0.8, 0.3, 0.3], [4.0, 5.0, 2.0, 2.0])
    step = 0.01
    x = np.arange(-20.0, 20.0, step)

    def drawn_out(long, beam):
        soft = np.exp(-4.0 * np.log(2.0) * (x / long) ** 2)
        shape = np.convolve(soft, np.exp(-4.0 * np.log(2.0) * (x / beam) ** 2), mode="same")
        return float((shape >= 0.5 * shape.max()).sum() * step)

    found = by_reference(drawn_out(asked, beam_here), beam_here, drawn_out(known, beam_there), beam_there, known)
    assert found == pytest.approx(asked, rel=0.03)
    # Without taking it out it would be off.
    assert by_reference(3.0, 0.0, 2.0, 0.0, 4.0) == pytest.approx(6.0)
