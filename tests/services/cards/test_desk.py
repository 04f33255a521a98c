import datetime as dt
import time
import uuid
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mudlamp.core.advice.answers import Answers
from mudlamp.core.advice.retune import StaleCause
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Cause, Symptom
from mudlamp.core.errors import ConflictError, DomainError
from mudlamp.core.receiver.setup import checked_setup, checked_window
from mudlamp.core.rig.profile import BoxedLure, GainMatch, OwnControl, RigProfile, ScaleKind
from mudlamp.services.cards.advising import Aboard, card_of, scene_keys, usual_lure
from mudlamp.services.cards.desk import Cards
from mudlamp.services.cards.questions import FIELDS, ask
from mudlamp.services.demo import ANGLER, BOX, RODS, rig_rows
from mudlamp.services.edge.forms import FieldKind
from mudlamp.services.jobs import Jobs, JobState
from mudlamp.services.rig.answers import NOT_MATCHED, flat_answer, glass_rows, in_their_words, lure_answer, our_points
from mudlamp.services.rig.form import stored
from mudlamp.services.water.from_answers import scene_of
from mudlamp.services.words.symptoms import SHOWS, shown_controls, shown_scene
from mudlamp.store import cards as store
from mudlamp.store import rigs as rig_store
from mudlamp.store.log import put, remember_angler

NOW = dt.datetime(2026, 5, 1, 18, 0, tzinfo=dt.UTC)
FIVE = {"technique": "pitch", "target": "crappie", "depth_ft": "20", "clarity": "stained", "bottom": "sand"}
OWNER = uuid.UUID(int=7)
LURE = {"kind": "jig", "head_kg": 0.0035, "material": "lead", "color": "", "finish": "", "trailer": "", "weight_kg": 0.0, "recipe": ""}


@pytest.fixture
def jobs():
    found = Jobs()
    yield found
    found.end_all()


@pytest.fixture
def cards(engine, jobs):
    return Cards(engine, jobs)


def asked(cards, answers=FIVE, *, before=None, now=NOW, style=Style.BALANCED):
    return cards.ask(OWNER, answers, style=style, now=now, before=before)[0]


def finish(job):
    deadline = time.monotonic() + 60.0
    while not job.over:
        assert time.monotonic() < deadline
        time.sleep(0.02)
    return job.view()


def test_a_card_is_kept_with_its_gear_and_opens_again_as_it_was(cards, engine, jobs):
    made = asked(cards)
    other = Cards(engine, jobs)
    again = other.open(OWNER, made.kept.id)
    assert again.card == made.card
    assert again.values == made.values
    # A rig told of later changes what is asked later, not what was kept.
    rig_store.add_rig(engine, OWNER, "late", stored(RigProfile(mount=replace(RigProfile().mount, depth_m=1.2))), now=NOW)
    assert Cards(engine, jobs).open(OWNER, made.kept.id).card == made.card
    assert asked(cards).aboard.rig.mount.depth_m == 1.2
    assert other.open(uuid.UUID(int=8), made.kept.id) is None


def test_costs_are_measured_once_and_kept(cards):
    one = asked(cards)
    view = finish(cards.measuring(OWNER, one))
    assert (view.state, view.result) == (JobState.DONE, str(one.kept.id))
    kept = cards.open(OWNER, one.kept.id).kept.costs
    assert kept["costs"]["quieting_pings"]["clean"]["lag_ms"] > 0.0
    assert any("Not knowing" in line for line in kept["doubts"])


def test_autotune_is_equal_for_equal_answers_and_can_be_taken(cards):
    found = []
    for _ in range(2):
        one = asked(cards)
        assert finish(cards.tuning(OWNER, one)).state is JobState.DONE
        found.append(cards.open(OWNER, one.kept.id))
    assert found[0].kept.tuned == found[1].kept.tuned
    assert found[0].kept.tuned["score"] >= found[0].kept.tuned["start_score"]
    taken = cards.take_tuned(found[0])
    assert taken.setup.gain == taken.kept.tuned["values"]["gain"]
    # Windows stay with the rules.
    assert taken.window == found[0].card.window
    clean = cards.take_style(taken, Style.CLEAN)
    assert clean.setup == clean.card.setups[Style.CLEAN]
    with pytest.raises(DomainError, match="auto-tune has not been run"):
        cards.take_tuned(asked(cards))


def test_a_search_is_cancelled_and_nothing_is_kept(cards):
    one = asked(cards)
    job = cards.tuning(OWNER, one)
    job.cancel()
    assert finish(job).state is JobState.CANCELLED
    assert cards.open(OWNER, one.kept.id).kept.tuned is None


def test_a_move_keeps_what_need_not_change(cards):
    before = asked(cards)
    after = asked(cards, FIVE | {"depth_ft": "12", "clarity": "muddy"}, before=before)
    move = cards.move(after, before)
    assert move.changes[0].control == "down_to_m"
    assert after.kept.parent_id == before.kept.id
    for name in move.left:
        assert after.values[name] == before.values[name]
    nothing = asked(cards, before=before)
    assert cards.move(nothing, before).changes == ()


def test_a_stale_notice_comes_once_in_twenty_minutes_and_not_during_a_shot(cards):
    given = FIVE | {"latitude_deg": "35", "longitude_deg": "-90"}
    one = asked(cards, given)
    dusk = NOW + dt.timedelta(hours=7)
    assert cards.stale(one, now=NOW + dt.timedelta(minutes=5), shot_out=False) is None
    assert cards.stale(one, now=dusk, shot_out=True) is None
    assert cards.stale(one, now=dusk, shot_out=False) is StaleCause.DUSK
    told = cards.open(OWNER, one.kept.id)
    assert cards.stale(told, now=dusk + dt.timedelta(minutes=19), shot_out=False) is None
    assert cards.stale(told, now=dusk + dt.timedelta(minutes=21), shot_out=False) is StaleCause.DUSK


def test_baselines_have_names_copies_and_a_history(cards, engine):
    first = asked(cards)
    second = asked(cards, FIVE | {"depth_ft": "30"}, now=NOW + dt.timedelta(hours=1))
    for one in (first, second):
        store.set_name(engine, OWNER, one.kept.id, "orchard")
    copy = store.copy_card(engine, OWNER, first.kept.id, "orchard two")
    assert [(one.name, one.id) for one in store.baselines(engine, OWNER)] == [
        ("orchard", second.kept.id),
        ("orchard", first.kept.id),
        ("orchard two", copy.id),
    ]
    # A copy does not pass for the card that is set.
    assert cards.newest(OWNER).kept.id == second.kept.id
    assert store.remove_card(engine, OWNER, copy.id)
    assert store.copy_card(engine, uuid.UUID(int=9), first.kept.id, "stolen") is None


def test_every_fault_that_can_be_shown_makes_a_water(cards):
    one = asked(cards)
    keys = scene_keys(one.card, one.aboard, title="")
    for cause in SHOWS:
        scene = scene_of(shown_scene(cause, keys))
        a, b = shown_controls(cause, one.setup)
        assert scene.fish_count > 0
        assert scene != scene_of(keys) or a != b, cause
    assert scene_of(shown_scene(Cause.LOW_VOLTAGE, keys)).faults.supply_v < 11.5
    assert scene_of(shown_scene(Cause.MULTIPATH, keys)).depth_m == 3.0


def test_symptoms_are_ranked_with_the_controls_as_they_stand(cards):
    one = asked(cards)
    assert cards.suspects(one, Symptom.NO_LURE, {})[0].cause is Cause.OFF_BEAM
    assert cards.suspects(one, Symptom.NO_LURE, {"gain": 40.0})[0].cause is Cause.GAIN_LOW


def test_only_one_rig_is_active_and_a_stale_change_is_refused(engine):
    first = rig_store.add_rig(engine, OWNER, "one", {}, now=NOW)
    second = rig_store.add_rig(engine, OWNER, "two", {}, now=NOW)
    assert rig_store.active_rig(engine, OWNER).id == second.id
    rig_store.activate(engine, OWNER, first.id)
    assert [(rig.name, rig.active) for rig in rig_store.rigs(engine, OWNER)] == [("one", True), ("two", False)]
    rig_store.change_rig(engine, OWNER, first.id, {"a": 1}, version=1, now=NOW)
    with pytest.raises(ConflictError, match="changed elsewhere in the meantime"):
        rig_store.change_rig(engine, OWNER, first.id, {"a": 2}, version=1, now=NOW)
    assert rig_store.rig(engine, OWNER, first.id).values == {"a": 1}
    with pytest.raises(DomainError, match="name is two: you have a rig of that name already"):
        rig_store.add_rig(engine, OWNER, "two", {}, now=NOW)
    # The failed write left the active one active.
    assert rig_store.active_rig(engine, OWNER).id == first.id
    assert rig_store.remove_rig(engine, OWNER, first.id)
    assert rig_store.active_rig(engine, OWNER).id == second.id


def test_the_lure_on_the_rod_in_hand_is_what_the_card_is_for(cards, engine):
    rig = rig_store.add_rig(engine, OWNER, "boat", stored(RigProfile()), now=NOW)
    heavy = rig_store.add_lure(engine, rig.id, LURE | {"head_kg": 0.014}, now=NOW)
    rod = rig_store.add_rod(engine, rig.id, {"name": "long", "length_m": 3.0, "line": "braid", "line_n": None}, now=NOW)
    assert asked(cards).aboard.lure.head_kg == pytest.approx(0.00177, rel=0.01)
    assert rig_store.tie(engine, rig.id, rod.id, heavy.id, now=NOW)
    assert asked(cards).aboard.lure.head_kg == 0.014
    assert asked(cards).card.setup.gain < 65.0
    rig_store.remove_lure(engine, rig.id, heavy.id)
    assert rig_store.rods(engine, rig.id)[0].lure_id is None
    assert not rig_store.tie(engine, rig.id, rod.id, heavy.id, now=NOW)


def test_what_a_browser_made_becomes_the_anglers(cards, engine):
    device = OWNER
    rig_store.add_rig(engine, device, "boat", stored(RigProfile()), now=NOW)
    one = asked(cards)
    angler = remember_angler(engine, "Kim", now=NOW)
    rig_store.add_rig(engine, angler.id, "boat", {}, now=NOW)
    rig_store.adopt(engine, device, angler.id)
    assert [(rig.name, rig.active) for rig in rig_store.rigs(engine, angler.id)] == [("boat", True), ("boat (2)", False)]
    assert cards.open(angler.id, one.kept.id) is not None
    assert rig_store.rigs(engine, device) == []


def test_the_demo_has_a_rig_that_may_be_copied_with_its_box(engine):
    for _ in range(2):
        put(engine, list(rig_rows()))
    source = rig_store.active_rig(engine, ANGLER)
    copy = rig_store.copy_rig(engine, OWNER, source.id, "mine", now=NOW)
    assert copy.active
    assert len(rig_store.lures(engine, copy.id)) == len(BOX)
    rods = rig_store.rods(engine, copy.id)
    assert len(rods) == len(RODS)
    assert {rod.lure_id for rod in rods} <= {lure.id for lure in rig_store.lures(engine, copy.id)}
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


def test_a_rig_answers_with_tilt_glass_and_lures():
    rig = RigProfile()
    flat = flat_answer(rig)
    assert (flat.clicks, flat.wanted_deg) == (8, pytest.approx(80.0))
    rows = glass_rows(rig, Answers())
    assert [row.across_px_ft for row in rows] == sorted((row.across_px_ft for row in rows), reverse=True)
    # 1280 px over 40 ft and 2 of Look-back. Plain arithmetic.
    assert next(row for row in rows if row.reach_ft == 40).across_px_ft == pytest.approx(1280 / 42)
    murky = glass_rows(rig, Answers(secchi_m=0.15))
    assert murky[-1].head_oz > rows[-1].head_oz
    lead = lure_answer(BoxedLure(head_kg=0.00177))
    # Common practice: a dressed 1/16 oz head falls about 1 ft/s.
    assert lead.sink_ft_s == pytest.approx(1.0, abs=0.05)


def texts_of_any(field):
    if field.options:
        return st.sampled_from(["", *(option.value for option in field.options)])
    if field.kind is FieldKind.NUMBER:
        ends = st.sampled_from([f"{field.low:g}", f"{field.high:g}"])
        return st.one_of(st.just(""), ends, st.floats(field.low, field.high).map(lambda value: f"{value:.2f}"))
    return st.just("true") if field.kind is FieldKind.CHECK else st.just("")


@settings(max_examples=300, deadline=None)
@given(
    st.fixed_dictionaries({field.name: texts_of_any(field) for field in FIELDS if field.name != "ice"}), st.floats(0.12, 1.8), st.booleans()
)
def test_whatever_the_form_takes_makes_a_card_and_a_water(given_texts, hang_m, ice):
    found = ask(given_texts | ({"ice": "true"} if ice else {}), now=NOW)
    if found.answers is None:
        return
    aboard = Aboard(rig=replace(RigProfile(), mount=replace(RigProfile().mount, depth_m=hang_m)), lure=usual_lure(found.answers))
    card = card_of(found.answers, aboard)
    for style, setup in card.setups.items():
        assert checked_setup(setup) == setup, style
    assert checked_window(card.window) == card.window
    for row in card.rows[:-1]:
        assert row.low <= row.start or row.control in ("gain", "ghost_cut_db", "quieting_pings"), row
    scene = scene_of(scene_keys(card, aboard, title="x"))
    assert scene.transducer.depth_m < scene.depth_m
    assert all(group.z_m < scene.depth_m for group in scene.fish)
