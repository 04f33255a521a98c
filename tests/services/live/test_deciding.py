from dataclasses import replace

import pytest

from mudlamp.core.plane import GroundPlane
from mudlamp.core.reactions import Reaction, ReactionCause, ReactionEvent
from mudlamp.core.tracking.classes import FishClass, Identity
from mudlamp.core.tracking.reacting import Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.live.deciding import FAR_M, Decider

FISH = TrackView(
    number=4, kind=Kind.FISH, odds={Kind.FISH: 0.9}, place=(8.0, 4.0), world=(0.0, 8.0, 4.0), range_m=8.5, angle_rad=0.0,
    velocity_m_s=(0.0, 0.0), length_m=0.3, level_db=-42.0, coasting=False, age_s=5.0,
)  # fmt: skip
LURE = replace(FISH, number=9, kind=Kind.LURE, odds={Kind.LURE: 0.9}, place=(8.3, 3.7))


@pytest.fixture(scope="module")
def plane():
    return GroundPlane.of(SimulatedHead(load_scene("lone"), seed=1).listen(0.0))


def reaction(token, time_s, fish=4):
    event = ReactionEvent(time_s=time_s, fish=str(fish), token=token, cause=ReactionCause.LURE, shot=1)
    return Reported(event=event, confidence=0.8)


def test_the_nearest_fish_is_decided_on_by_what_it_did_last(plane):
    decider = Decider()
    other = replace(FISH, number=5, place=(11.0, 4.0))
    decider.note(reaction(Reaction.LOOKED, 10.0))
    decider.note(reaction(Reaction.BIT, 10.0, fish=5))
    assert decider.call([other, FISH, LURE], plane, 10.5) == (4, "Lift it away: it turned to the jig")
    sinking = replace(LURE, velocity_m_s=(0.0, 0.3))
    assert decider.call([FISH, sinking], plane, 10.6) == (4, "Stop lowering: it turned to the jig")
    # That nothing happened takes nothing back.
    decider.note(reaction(Reaction.NO_ANSWER, 11.0))
    assert decider.call([FISH, LURE], plane, 11.0) == (4, "Lift it away: it turned to the jig")


def test_who_answered_comes_before_who_is_nearest_and_who_has_the_jig_before_both(plane):
    decider = Decider()
    beside = replace(FISH, number=6, place=(9.0, 3.9))
    assert decider.call([FISH, beside, LURE], plane, 9.0)[0] == 4
    decider.note(reaction(Reaction.LOOKED, 10.0, fish=6))
    assert decider.call([FISH, beside, LURE], plane, 10.2) == (6, "Lift it away: it turned to the jig")
    decider.note(reaction(Reaction.BIT, 10.4))
    assert decider.call([FISH, beside, LURE], plane, 10.5) == (4, "Set the hook: it has the jig")


def test_of_two_fish_alike_the_one_fished_for_stays(plane):
    decider = Decider()
    near, far = replace(FISH, place=(8.6, 3.7)), replace(FISH, number=6, place=(8.9, 3.7))
    assert decider.call([near, far, LURE], plane, 1.0)[0] == 4
    assert decider.call([replace(near, place=(9.0, 3.7)), far, LURE], plane, 1.1)[0] == 4
    assert decider.call([replace(near, place=(9.5, 3.7)), far, LURE], plane, 1.2)[0] == 6


def test_a_jig_on_its_way_down_to_a_fish_is_let_fall_and_one_that_falls_elsewhere_is_not(plane):
    above = replace(LURE, place=(8.2, 1.0), velocity_m_s=(0.0, 0.3))
    assert Decider().call([FISH, above], plane, 1.0) == (4, "Let it fall: it is not down to it yet")
    beyond = replace(above, place=(10.5, 1.0))
    assert Decider().call([FISH, beyond], plane, 1.0) == (4, "Let it fall: it is not down to it yet")
    short = replace(above, place=(6.0, 1.0))
    assert Decider().call([FISH, short], plane, 1.0) == (4, "Re-align: the jig never reached it")


def test_a_lure_that_hangs_beside_a_fish_is_held_until_it_hung_long_enough(plane):
    decider = Decider()
    said = [decider.call([FISH, LURE], plane, 0.5 * step)[1] for step in range(20)]
    assert said[0] == "Hold it 8 s more: no answer yet"
    assert said[8] == "Hold it 4 s more: no answer yet"
    assert said[-1] == "Leave it: no answer, and long enough"


@pytest.mark.parametrize(("degc", "said"), [(8.0, "Hold it 20 s more"), (20.0, "Hold it 8 s more"), (None, "Hold it 8 s more")])
def test_twenty_seconds_are_for_crappie_in_cold_water_alone(plane, degc, said):
    panfish = replace(FISH, identity=Identity(odds={FishClass.PANFISH: 0.9}, name=FishClass.PANFISH, words=(), look=None))
    assert Decider(degc).call([panfish, LURE], plane, 1.0)[1].startswith(said)


def test_without_a_lure_or_far_from_all_fish_nothing_is_said(plane):
    decider = Decider()
    assert decider.call([FISH], plane, 1.0) is None
    assert decider.call([LURE], plane, 1.0) is None
    assert decider.call([replace(FISH, place=(8.3 + FAR_M + 0.5, 3.7)), LURE], plane, 1.0) is None
