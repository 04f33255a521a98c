import datetime as dt
import math
import uuid
from dataclasses import replace

import pytest

from mudlamp.core.advice.answers import Answers
from mudlamp.core.casting.heads import SOLD_OZ
from mudlamp.core.casting.lures import Line
from mudlamp.core.errors import ConflictError, DomainError, MissingError
from mudlamp.core.rig.mount import MountKind
from mudlamp.core.rig.profile import BoxedLure, GainMatch, Mount, OwnControl, RigProfile, ScaleKind
from mudlamp.core.units import OUNCE_KG
from mudlamp.services.cards.advising import card_of
from mudlamp.services.demo import BOX, DEMO_RIG, RODS, rig_records
from mudlamp.services.jobs import Jobs
from mudlamp.services.rig.answers import NOT_MATCHED, flat_answer, in_their_words, lure_answer, our_points, screen_rows
from mudlamp.services.rig.desk import RigDesk
from mudlamp.store import rigs as rig_store
from mudlamp.store.log import put
from mudlamp.store.scope import EVERYBODY

NOW = dt.datetime(2026, 5, 1, 18, 0, tzinfo=dt.UTC)
OWNER = uuid.UUID(int=7)
SOLD = [f"{size} oz" for size in SOLD_OZ]


@pytest.fixture
def rigs(engine):
    jobs = Jobs()
    yield RigDesk(engine, jobs)
    jobs.end_all()


def test_only_one_rig_is_active_and_a_stale_change_is_refused(engine):
    first = rig_store.add_rig(engine, OWNER, "one", {}, now=NOW)
    second = rig_store.add_rig(engine, OWNER, "two", {}, now=NOW)
    assert rig_store.active_rig(engine, OWNER).id == second.id
    rig_store.activate(engine, OWNER, first.id)
    assert [(rig.name, rig.active) for rig in rig_store.rigs(engine, OWNER)] == [("one", True), ("two", False)]
    rig_store.change_rig(engine, OWNER, first.id, {"a": 1}, version=1, now=NOW)
    with pytest.raises(ConflictError, match="changed somewhere else"):
        rig_store.change_rig(engine, OWNER, first.id, {"a": 2}, version=1, now=NOW)
    assert rig_store.rig(engine, OWNER, first.id).values == {"a": 1}
    with pytest.raises(DomainError, match="name is two: you have a rig of that name already"):
        rig_store.add_rig(engine, OWNER, "two", {}, now=NOW)
    # The failed write left the active one active.
    assert rig_store.active_rig(engine, OWNER).id == first.id
    assert rig_store.remove_rig(engine, OWNER, first.id)
    assert rig_store.active_rig(engine, OWNER).id == second.id


def test_the_lure_on_the_rod_in_hand_is_what_a_card_is_for(rigs, engine):
    rigs.add(OWNER, "boat", copy_of=None, now=NOW)
    rig, found = rigs.add_lure(rigs.active(OWNER), {"kind": "jig", "head_oz": "0.5", "material": "lead"}, now=NOW)
    assert not found.problems
    rig, found = rigs.add_rod(rig, {"name": "long", "length_ft": "10", "line": "braid"}, now=NOW)
    assert not found.problems
    (heavy,), (rod,) = rig.lures, rig.rods
    usual, _ = rigs.aboard(OWNER, Answers())
    rigs.tie(rig, rod.id, str(heavy.id))
    held, key = rigs.aboard(OWNER, Answers())
    assert (held.lure.head_kg, held.line, key) == (pytest.approx(0.5 * OUNCE_KG), Line.BRAID, rig.kept.id)
    assert card_of(Answers(), held).setup.gain < card_of(Answers(), usual).setup.gain
    rig = rigs.remove_lure(rig, heavy.id)
    assert rig.rods[0].lure_id is None
    with pytest.raises(MissingError):
        rigs.tie(rig, rod.id, str(heavy.id))
    with pytest.raises(DomainError, match="lure is worm: it must be one from the box"):
        rigs.tie(rig, rod.id, "worm")


def test_the_demo_has_a_rig_that_may_be_copied_with_its_box(engine):
    for _ in range(2):
        put(engine, list(rig_records()))
    source = rig_store.rig(engine, EVERYBODY, DEMO_RIG)
    copy = rig_store.copy_rig(engine, OWNER, source.id, "mine", now=NOW)
    assert copy.active
    assert len(rig_store.lures(engine, EVERYBODY, copy.id)) == len(BOX)
    rods = rig_store.rods(engine, EVERYBODY, copy.id)
    assert len(rods) == len(RODS)
    assert {rod.lure_id for rod in rods} <= {lure.id for lure in rig_store.lures(engine, EVERYBODY, copy.id)}
    # It belongs to nobody: it can be copied, and not changed.
    assert source.owner is None
    assert not rig_store.remove_rig(engine, OWNER, DEMO_RIG)
    assert rig_store.change_rig(engine, OWNER, DEMO_RIG, {}, version=None, now=NOW) is None
    # Nothing of anybody's unit ships filled in.
    assert source.values["words"] == {}
    assert source.values["match"] is None


def test_their_words_are_said_only_once_they_are_matched():
    rig = RigProfile()
    assert in_their_words(rig, "gain", 65.0) == NOT_MATCHED
    told = replace(rig, words={"gain": OwnControl(label="Sens", kind=ScaleKind.PERCENT)})
    assert in_their_words(told, "gain", 65.0) == NOT_MATCHED
    match = GainMatch(speckle_ours=65, speckle_error=1.2, jig_ours=51, jig_error=2.0, speckle_theirs=58, jig_theirs=44)
    assert in_their_words(replace(told, match=match), "gain", 65.0) == "Sens 58 ± 1"
    assert in_their_words(replace(told, match=replace(match, jig_theirs=None)), "gain", 65.0) == NOT_MATCHED
    offset = OwnControl(label="Offset", kind=ScaleKind.OFFSET, low=-20, high=20)
    both = replace(match, speckle_theirs=7, jig_theirs=-7)
    assert in_their_words(replace(rig, words={"gain": offset}, match=both), "gain", 65.0) == "Offset +7 ± 1"
    assert in_their_words(replace(rig, words={"gain": offset}, match=both), "gain", 99.0).startswith("Offset +20")
    steps = OwnControl(label="Noise", kind=ScaleKind.STEPS, steps=("Off", "Low", "Med", "High"))
    noisy = replace(rig, words={"quieting_pings": steps, "punch": steps, "down_to_m": OwnControl(label="Depth", kind=ScaleKind.PERCENT)})
    assert [in_their_words(noisy, "quieting_pings", float(count)) for count in (1, 2, 3, 5)] == [
        "Noise Off",
        "Noise Low",
        "Noise Med",
        "Noise High",
    ]
    assert in_their_words(noisy, "punch", 50.0) == NOT_MATCHED
    assert in_their_words(noisy, "down_to_m", 23 * 0.3048) == "Depth 23 ft"


def test_both_points_of_the_procedure_are_computed_in_this_water():
    muddy, clear = (our_points(Answers(depth_m=7.0, secchi_m=secchi), RigProfile()) for secchi in (0.15, 3.0))
    for found in (muddy, clear):
        # Speckle shows well over the Gain at which the hung jig is gone.
        assert found.speckle_ours - found.jig_ours > 6.0
        assert 0.0 < found.speckle_error < 6.0
        assert 0.0 < found.jig_error < 6.0
    assert our_points(Answers(depth_m=7.0, secchi_m=3.0), RigProfile()) == clear
    with pytest.raises(DomainError, match="for this procedure it must be 10 ft or more"):
        our_points(Answers(depth_m=2.0), RigProfile())


def test_a_rig_answers_with_tilt_screen_and_lures():
    rig = RigProfile()
    flat = flat_answer(rig)
    assert (flat.clicks, flat.wanted_deg) == (8, pytest.approx(80.0))
    rows = screen_rows(rig, Answers())
    assert [row.across_px_ft for row in rows] == sorted((row.across_px_ft for row in rows), reverse=True)
    # 1280 px over 40 ft and 2 of Look-back. Plain arithmetic.
    assert next(row for row in rows if row.reach_ft == 40).across_px_ft == pytest.approx(1280 / 42)
    murky = screen_rows(rig, Answers(secchi_m=0.15))
    # Farther out, and in murky water, it takes a heavier head.
    for found in (rows, murky):
        weights = [SOLD.index(row.head) for row in found if row.head]
        assert weights == sorted(weights)
    assert SOLD.index(murky[-1].head or SOLD[-1]) > SOLD.index(rows[-1].head)
    lead = lure_answer(BoxedLure(head_kg=0.00177))
    # Common practice: a dressed 1/16 oz head falls about 1 ft/s.
    assert lead.sink_ft_s == pytest.approx(1.0, abs=0.05)


@pytest.mark.parametrize("click_deg", [0.5, 10.0, 15.0, 30.0, 45.0])
def test_clicks_for_flat_stay_short_of_level_and_meet_the_bottom(click_deg):
    for turned in (False, True):
        flat = flat_answer(RigProfile(mount=Mount(kind=MountKind.POLE, click_rad=math.radians(click_deg), turned=turned)))
        assert 45.0 <= flat.given_deg < 90.0
        assert all(row.center_ft < 100.0 for row in flat.rows)
