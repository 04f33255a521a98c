from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.advice.answers import Answers, Technique, situation
from mudlamp.core.advice.asking import loss, questions_by_worth
from mudlamp.core.advice.looks import Side, Sign, receiver_looks, sign_of, window_looks
from mudlamp.core.advice.sight import farther, sight_of
from mudlamp.core.controls import DOWN_TO, GAIN, QUIETING, REACH
from mudlamp.core.receiver.drawn import Frame, drawn, frame_about
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.setup import Window
from mudlamp.core.units import FOOT_M
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.cards.advising import start_for
from mudlamp.services.water.aboard import Aboard

GOOD = Readings(
    lure_over_clutter_db=14.0, bare_over_clutter_db=0.0, faintest_fish_db=15.0, fish_shown_pct=100.0, clutter_fill_pct=1.0, blown_out_pct=5.0, lag_ms=0.0, parting_m=0.3, contrast=40.0,
    erased=(),
)  # fmt: skip


def test_a_sight_ends_where_fewer_than_half_of_the_waters_show_it():
    distance = np.array([2.0, 4.0, 6.0, 8.0, 10.0])
    shown = np.array([[1, 1, 1, 0, 0], [1, 1, 1, 0, 0], [1, 1, 0, 0, 0], [1, 0, 1, 0, 0]], dtype=bool)
    found = sight_of(distance, shown, np.where(shown, 10.0, 0.0))
    # 3/4 at 6 m, none at 8: half lies a third of the way. Closed form.
    assert found.farthest_m == pytest.approx(6.0 + 2.0 * 0.25 / 0.75)
    assert not found.past_end
    assert found.doubt_m >= 1.0
    everywhere = sight_of(distance, np.ones_like(shown), np.full(shown.shape, 9.0))
    assert (everywhere.farthest_m, everywhere.past_end, everywhere.over_db[0]) == (10.0, True, 9.0)
    assert farther(everywhere, found)
    assert sight_of(distance, np.zeros_like(shown), np.zeros(shown.shape)).farthest_m == 0.0


def test_the_worst_is_said_first():
    assert sign_of(GOOD, replace(GOOD, erased=("lure",), clutter_fill_pct=30.0)) is Sign.NO_LURE
    assert sign_of(GOOD, replace(GOOD, fish_shown_pct=60.0, parting_m=2.0)) is Sign.FISH_GONE
    assert sign_of(GOOD, replace(GOOD, clutter_fill_pct=8.0, blown_out_pct=50.0)) is Sign.GRAINY
    assert sign_of(GOOD, replace(GOOD, lag_ms=67.0)) is Sign.LAGS
    assert sign_of(GOOD, replace(GOOD, clutter_fill_pct=3.0, contrast=35.0)) is Sign.SAME


def test_pictures_go_as_far_as_the_picture_is_spoiled_and_no_farther():
    def seen(gain):
        return replace(
            GOOD,
            lure_over_clutter_db=14.0 - max(62.0 - gain, 0.0) / 2.0,
            erased=("lure",) if gain <= 45.0 else (),
            clutter_fill_pct=max(gain - 70.0, 1.0),
        )

    low, right, high = receiver_looks(GAIN, 64.0, seen)
    assert (low.side, low.value, low.sign) == (Side.LOW, 44.0, Sign.NO_LURE)
    assert (right.value, right.sign) == (64.0, Sign.SHOWS)
    assert (high.value, high.sign) == (78.0, Sign.GRAINY)
    # Where the jig is erased, or has hardly more over its surround than bare water, the right picture says so.
    for lost in (replace(GOOD, erased=("lure",)), replace(GOOD, lure_over_clutter_db=3.0, bare_over_clutter_db=2.5)):
        (hides,) = (one for one in receiver_looks(GAIN, 64.0, lambda gain, lost=lost: lost) if one.side is Side.RIGHT)
        assert hides.sign is Sign.LURE_HIDES
    # At rest there is nothing lower; nobody notices what does nothing.
    assert [(one.side, one.sign) for one in receiver_looks(QUIETING, 1.0, lambda pings: GOOD)] == [
        (Side.RIGHT, Sign.SHOWS),
        (Side.HIGH, Sign.SAME),
    ]
    spokes = receiver_looks(QUIETING, 3.0, lambda pings: GOOD, spokes_under=3.0)
    assert (spokes[0].value, spokes[0].sign) == (2.0, Sign.SPOKES)


def test_an_edge_that_is_too_small_cuts_off_what_is_fished_for():
    window = Window(down_to_m=7.0, reach_m=9.0, look_back_m=0.6)
    low, right, high = window_looks(DOWN_TO, window, depth_m=6.1, fish_m=(5.0, 3.7))
    assert (low.sign, right.sign, high.sign) == (Sign.BOTTOM_GONE, Sign.ROOM_BELOW, Sign.SMALLER)
    assert high.figure == pytest.approx(100.0 * (1.0 - 1.0 / 1.9))
    # The least that can be dialed in still holds all of five feet of water.
    five_feet = replace(window, down_to_m=2.44)
    assert [one.side for one in window_looks(DOWN_TO, five_feet, depth_m=1.52, fish_m=(1.5, 0.6))] == [Side.RIGHT, Side.HIGH]
    low, *_ = window_looks(REACH, window, depth_m=6.1, fish_m=(5.0, 3.7))
    assert low.sign is Sign.FISH_OUT
    assert low.value <= 5.0
    low, *_ = window_looks(REACH, window, depth_m=6.1, fish_m=(1.5, 3.7))
    assert (low.sign, low.figure) == (Sign.NOTHING_PAST, low.value)


def test_a_cell_is_drawn_where_it_is():
    head = SimulatedHead(load_scene("pear-tree"), seed=3)
    ping = head.listen(0.1)
    window, picture = head.acquisition.window, np.zeros(ping.echo_level_db.shape, np.uint8)
    beam, bin_ = 70, 300
    picture[beam - 1 : beam + 2, bin_ - 3 : bin_ + 4] = 255
    look, range_m = ping.pose.tilt_rad - ping.setup.beam_angle_rad[beam], ping.setup.range_m[bin_]
    frame = frame_about(0.0, window.reach_m, 0.0, window.down_to_m, width_px=300, height_px=190)
    for looks in (1, 2):
        found = drawn(ping, picture, "soot", window, frame, looks=looks)
        rows, columns = np.nonzero(found[:, :, 0] < 80)
        # Plain geometry: along the look, from the transducer.
        x, y = frame.pixel(range_m * np.sin(look), ping.pose.z_m + range_m * np.cos(look))
        assert columns.mean() == pytest.approx(x, abs=1.0)
        assert rows.mean() == pytest.approx(y, abs=1.0)
    # Outside the fan there is nothing, in it bare ground.
    assert found[0, 0, 3] == 0
    inside = found[:, :, 3] == 255
    assert (found[inside][:, :3] == INKS["soot"].table[0]).all(axis=1).mean() > 0.9
    assert isinstance(frame, Frame)


KNOWN = Answers(depth_m=20.0 * FOOT_M, target=Species.CRAPPIE, technique=Technique.PITCH, secchi_m=1.4, ground=Ground.SAND)


def planned(answers):
    return start_for(answers, Aboard())


def worths(answers, **more):
    return {one.name: one.worth for one in questions_by_worth(answers, planned(answers), planned, **more)}


def test_what_moves_the_card_most_is_asked_first_and_what_moves_nothing_never():
    nothing_known = worths(Answers())
    assert list(nothing_known)[:2] == ["depth_m", "technique"]
    assert sorted(nothing_known.values(), reverse=True) == list(nothing_known.values())
    known = worths(KNOWN)
    assert "depth_m" not in known
    assert "temperature_degc" not in known
    first = next(iter(known))
    assert first not in worths(KNOWN, without=(first,))
    # Answered, it is not asked again.
    assert "other_sonars" not in worths(replace(KNOWN, other_sonars=1))


def test_a_set_up_costs_nothing_at_home_and_something_elsewhere():
    here, deep = planned(KNOWN), planned(replace(KNOWN, depth_m=40.0 * FOOT_M))
    assert loss(here.setup, here) == 0.0
    # The bottom 17 ft under the edge of the picture: as bad as it gets.
    assert loss(here.setup, deep) >= 40.0
    # The other way around nothing is cut off, but half of the screen is wasted.
    assert 5.0 < loss(deep.setup, here) < 40.0
    assert situation(KNOWN).depth_m == pytest.approx(6.096)
