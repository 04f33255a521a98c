"""A search in its own process, through the desk: steered, watched, marked, and left for the live fan."""

import datetime as dt
import uuid
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.casting.solve import Mood
from mudlamp.core.errors import DomainError, MissingError, UnavailableError
from mudlamp.core.searching.boat import Standing
from mudlamp.core.searching.search import ViewSetting
from mudlamp.core.sonar.console import BINS, ViewKind
from mudlamp.services.find import line, plans
from mudlamp.services.find.desk import FindDesk
from mudlamp.services.find.handoff import hand_off
from mudlamp.services.find.process import Voyage
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.find.voyage import Voyages
from mudlamp.services.find.waters import DEMO, reach_named
from tests.patience import until

NOW = dt.datetime(2026, 10, 24, 12, 0, tzinfo=dt.UTC)
DEVICE, OWNER = uuid.UUID(int=1), uuid.UUID(int=2)


@pytest.fixture
def desk(engine, tmp_path):
    voyages = Voyages(tmp_path)
    yield FindDesk(voyages, SpotBook(engine, now=lambda: NOW), now=lambda: NOW)
    voyages.end_all()


def _gone(desk, pings):
    """Push off, idle east for so many pings, stop the clock."""
    voyage = desk.push_off(DEVICE, seed=7)
    x, y = reach_named(DEMO).launch_m
    desk.steer(DEVICE, pace=8.0, path=[(x + 20.0, y), (x + 90.0, y)])
    until(lambda: desk.voyages.of_device(DEVICE).columns.count >= pings)
    desk.steer(DEVICE, pace=0.0)
    until(lambda: voyage.state.pace == 0.0 and voyage.state.newest == voyage.columns.count - 1)
    return voyage


def test_a_search_goes_on_at_its_pace_and_every_column_can_be_had_again(desk):
    voyage = _gone(desk, 220)
    count = voyage.columns.count
    track = voyage.columns.track(0, count)
    assert np.all(np.diff(track[:, 0]) == pytest.approx(1.0 / voyage.state.ping_hz, abs=1e-9))
    found = desk.columns(DEVICE, ViewKind.SIDE, 0, count, {})
    assert found.brightness.shape == (count, 2, BINS)
    assert found.brightness.max() > 150
    # The same stretch is the same, whoever asks when; more Gain is brighter; averaging is smoother.
    again = desk.columns(DEVICE, ViewKind.SIDE, 100, 160, {}).brightness
    np.testing.assert_array_equal(again, found.brightness[100:160])
    assert desk.columns(DEVICE, ViewKind.SIDE, 100, 160, {"gain": 80}).brightness.mean() > again.mean()
    quiet = desk.columns(DEVICE, ViewKind.SIDE, 100, 160, {"quieting_pings": 5}).brightness.astype(float)
    assert np.abs(np.diff(quiet, axis=0)).mean() < 0.6 * np.abs(np.diff(again.astype(float), axis=0)).mean()
    assert voyage.state.share > 0.0


def test_a_view_opened_anew_keeps_what_was_seen_at_the_reach_that_is_shown(desk):
    voyage = _gone(desk, 120)
    before = voyage.columns.count
    wide = next(view for view in voyage.state.views if view.kind is ViewKind.SIDE)
    desk.open_views(DEVICE, [ViewSetting(kind=ViewKind.SIDE, carrier_hz=800e3, reach_m=wide.reach_m / 2.0)])
    desk.steer(DEVICE, pace=8.0)
    until(lambda: voyage.columns.count >= before + 60)
    desk.steer(DEVICE, pace=0.0)
    old = desk.columns(DEVICE, ViewKind.SIDE, before - 30, before, {}).brightness
    # Half the Reach: a cell of the picture is half of one that was sounded.
    np.testing.assert_array_equal(old[..., 0::2], old[..., 1::2])
    assert desk.columns(DEVICE, ViewKind.DOWN, before + 10, before + 20, {}).brightness.max() == 0


def test_a_mark_is_found_in_the_other_views_kept_as_a_spot_and_sharpened_by_a_second_look(desk):
    voyage = _gone(desk, 260)
    mark = desk.mark(DEVICE, view=ViewKind.SIDE, number=120, beam=1, slant_m=9.0)
    assert 2.0 < mark.fix.out_m < 9.0
    under = desk.mark(DEVICE, view=ViewKind.DOWN, number=120, beam=0, slant_m=voyage.columns.track(120, 121)[0][8] - 0.1)
    assert {one.view for one in under.views} == {ViewKind.DOWN, ViewKind.SCROLLING}
    looks = desk.looks(DEVICE, under)
    assert len(looks) == len(under.views)
    # The bottom under the boat runs on along the track: it is no mark of a size.
    assert looks[0] is None
    assert all(one is None or (one[0] > 0.0 and one[1] > 0.0) for one in looks)
    spot = desk.add_spot(OWNER, DEVICE, mark, kind="brush", note="by the ramp")
    again = desk.mark(DEVICE, view=ViewKind.SIDE, number=124, beam=1, slant_m=9.1)
    both = desk.add_spot(OWNER, DEVICE, again, kind="brush", note="", again=spot.id)
    assert (both.id, both.looks, both.note) == (spot.id, 2, "by the ramp")
    assert both.xx_m2 + both.yy_m2 < spot.xx_m2 + spot.yy_m2
    assert [one.id for one in desk.book.spots(OWNER, DEMO)] == [spot.id]
    assert desk.book.spots(uuid.UUID(int=9), DEMO) == []
    with pytest.raises(MissingError, match="no such spot"):
        desk.book.delete_spot(uuid.UUID(int=9), spot.id)
    desk.book.delete_spot(OWNER, spot.id)
    assert desk.book.spots(OWNER, DEMO) == []


def test_the_fan_is_lowered_where_the_boat_is_with_its_bow_to_the_spot(desk):
    voyage = _gone(desk, 100)
    mark = desk.mark(DEVICE, view=ViewKind.SIDE, number=60, beam=0, slant_m=12.0)
    spot = desk.add_spot(OWNER, DEVICE, mark, kind="school", note="")
    plan = desk.lower(OWNER, DEVICE, spot.id)
    row = voyage.columns.track(voyage.columns.count - 1, voyage.columns.count)[0]
    assert plan.scene.depth_m == pytest.approx(reach_named(DEMO).survey.depth_at(row[5], row[6]), abs=0.02)
    toward = np.arctan2(spot.x_m - row[1], spot.y_m - row[2])
    assert plan.scene.boat.heading_rad == pytest.approx(toward, abs=1e-6)
    assert plan.make(5).head.world.bottom_m(0.0, 0.0) == pytest.approx(plan.scene.depth_m, abs=0.05)


def test_one_stops_farther_off_shallow_fish_and_turns_by_the_bow(desk):
    """Common practice, no source: fish 6 ft deep are kept 50 ft away, deep ones may be come near to."""
    _gone(desk, 60)
    mark = desk.mark(DEVICE, view=ViewKind.SIDE, number=30, beam=1, slant_m=10.0)
    spot = desk.add_spot(OWNER, DEVICE, mark, kind="school", note="")
    reach = reach_named(DEMO)
    at = Standing(time_s=0.0, x_m=spot.x_m - 60.0, y_m=spot.y_m, heading_rad=0.0, speed_m_s=0.0)
    shallow, deep = (hand_off(replace(spot, depth_m=depth), at, reach) for depth in (1.5, 9.0))
    assert shallow.stand_off_m >= deep.stand_off_m
    assert hand_off(replace(spot, depth_m=1.5), at, reach, Mood.WARY).stand_off_m > shallow.stand_off_m
    assert np.degrees(shallow.turn_rad) == pytest.approx(90.0)
    assert shallow.stop_m[0] == pytest.approx(spot.x_m - shallow.stand_off_m)


def test_a_turn_of_the_all_round_scan_shows_the_bottom_on_every_bearing(desk):
    _gone(desk, 30)
    found = desk.all_round(DEVICE, 20.0, {})
    assert found.shape == (180, BINS)
    assert (found[:, 200:400].mean(axis=1) > 20).mean() > 0.9


def test_the_3d_view_makes_points_of_the_bottom_while_it_is_open(desk):
    voyage = desk.push_off(DEVICE, seed=7)
    x, y = reach_named(DEMO).launch_m
    desk.show_points(DEVICE, 18.0)
    desk.steer(DEVICE, pace=8.0, path=[(x + 60.0, y)])
    until(lambda: len(desk.points(DEVICE, 0)) > 400)
    desk.steer(DEVICE, pace=0.0)
    found = desk.points(DEVICE, 0)
    bottom = found[(found[:, 4] == 0.0) & (np.hypot(found[:, 0] - found[:, 0].mean(), found[:, 1] - found[:, 1].mean()) < 8.0)]
    true = reach_named(DEMO).survey.depths(bottom[:, 0].astype(float), bottom[:, 1].astype(float))
    assert np.median(np.abs(bottom[:, 2] - true)) < 0.4
    assert voyage.state.newest > 0
    with pytest.raises(DomainError, match="reach_m"):
        desk.show_points(DEVICE, 500.0)


def test_the_truth_is_told_where_something_is(desk):
    _gone(desk, 20)
    school = reach_named(DEMO).schools[0]
    things = desk.reveal(DEVICE, school.x_m, school.y_m)
    assert any(one.what == school.species.value and one.count == school.count for one in things)


@pytest.mark.parametrize(
    ("order", "named"),
    [
        ({"pace": 3.0}, "pace"),
        ({"speed_mph": 40.0}, "speed_mph"),
        ({"path": [(0.0, 400.0)]}, "path"),
        ({"path": [(float("nan"), 0.0)]}, "path"),
    ],
)
def test_an_order_that_cannot_be_names_its_field_and_changes_nothing(desk, order, named):
    voyage = desk.push_off(DEVICE, seed=1)
    with pytest.raises(DomainError, match=named):
        desk.steer(DEVICE, **order)
    assert voyage.state.newest == -1


@pytest.fixture
def voyage(tmp_path):
    asked = plans.first_ask(reach_named(DEMO))
    found = Voyage(
        line.SearchOrder(
            key=uuid.uuid4(), water=DEMO, seed=3, folder=tmp_path / "v", views=plans.views_for(asked), band_m=asked.band_m, run_dir=tmp_path
        )
    )
    yield found
    found.writer.close()


def test_a_boat_at_the_bank_is_turned_and_goes_on_when_it_has_a_path_again(voyage):
    boat = voyage.search.boat
    x, y = boat.x_m, boat.y_m
    voyage.take(line.SetSpeed(3.0))
    boat.heading_rad = 0.0
    for _ in range(15 * 60):
        if not voyage.aground:
            voyage.ping()
    assert voyage.aground
    stopped = boat.y_m
    voyage.take(line.SetPath(((x, y),)))
    voyage.take(line.SetSpeed(2.0))
    for _ in range(15 * 8):
        voyage.ping()
    assert not voyage.aground
    assert boat.y_m < stopped - 8.0


def test_a_search_keeps_three_hours_and_no_more(voyage):
    voyage.take(line.SetPace(8.0))
    voyage.search.boat.time_s = 3.0 * 3600.0 - 0.05
    voyage.ping()
    newest = voyage.newest
    voyage.ping()
    assert voyage.newest == newest
    assert voyage.pace == 0.0
    assert voyage.state(0.0).is_full


def test_what_was_seen_stays_seen_when_views_change_and_is_counted_anew_for_another_band(voyage):
    voyage.take(line.SetSpeed(3.0))
    voyage.search.boat.follow([(voyage.search.boat.x_m + 60.0, voyage.search.boat.y_m)])
    for _ in range(15 * 15):
        voyage.ping()
    seen = voyage.coverage.share
    assert seen > 0.0
    voyage.take(line.SetViews(voyage.views[:1]))
    assert voyage.coverage.share == seen
    voyage.take(line.SetBand((0.5, 11.0)))
    assert 0.0 < voyage.coverage.share
    assert len(voyage.coverage.missed) == len(voyage.coverage.odds.cells_m)


def test_the_longest_plan_can_be_followed(desk):
    desk.push_off(DEVICE, seed=1)
    asked = replace(plans.first_ask(reach_named(DEMO)), minutes=240.0)
    plan = desk.plan(DEVICE, asked)
    desk.steer(DEVICE, path=plan.path[1:])
    until(lambda: len(desk.voyages.of_device(DEVICE).state.path) > 200)


def test_nobody_steers_without_a_search_and_the_fourth_at_once_is_told_so(desk):
    with pytest.raises(MissingError, match="push off first"):
        desk.steer(DEVICE, pace=1.0)
    for number in range(3):
        desk.push_off(uuid.UUID(int=100 + number), seed=1)
    with pytest.raises(UnavailableError, match="3 is the most"):
        desk.push_off(DEVICE, seed=1)


def test_a_search_that_died_says_so_and_a_new_one_can_be_had(desk):
    voyage = desk.push_off(DEVICE, seed=1)
    voyage._process.kill()
    until(lambda: voyage.ended)
    with pytest.raises(UnavailableError, match="has ended"):
        voyage.truth(0.0, 0.0, 5.0)
    assert desk.push_off(DEVICE, seed=2).key != voyage.key
