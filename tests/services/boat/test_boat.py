import datetime as dt
import json
import uuid
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.advice.retune import kept
from mudlamp.core.casting.habit import Habit
from mudlamp.core.controls import CONTROLS
from mudlamp.core.errors import MissingError
from mudlamp.core.fishing.moving import Spell, stay_or_move
from mudlamp.core.records.log import TripRecord
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.units import OUNCE_KG, feet
from mudlamp.core.water.clarity import TYPICAL_SECCHI_M, Clarity
from mudlamp.services.boat.desk import BoatDesk
from mudlamp.services.boat.given import BatchGiven
from mudlamp.services.boat.pack import made_pack, pack_json, pack_of
from mudlamp.services.boat.sheet import sheet_of
from mudlamp.services.boat.staying import own_record, stay_table
from mudlamp.services.boat.tables import CAST_DEPTHS_FT, CAST_FT, Thrown, at_depth, cast_at, cast_table
from mudlamp.services.cards.advising import card_of
from mudlamp.services.cast.desk import CastDesk
from mudlamp.services.edge.controls import of
from mudlamp.services.edge.sun import sun_times
from mudlamp.services.example import example_card
from mudlamp.services.jobs import Jobs
from mudlamp.services.rig.desk import RigDesk
from mudlamp.services.words.deciding import move_words
from mudlamp.store import trips as trip_store

NOW = dt.datetime(2026, 5, 1, 18, 0, tzinfo=dt.UTC)
OWNER, PHONE = uuid.UUID(int=7), uuid.UUID(int=8)


@pytest.fixture(scope="module")
def pack():
    return made_pack(example_card(), None, Habit(), sun_times(latitude_deg=35.0, longitude_deg=-90.0, now=NOW), now=NOW)


def test_a_pack_is_small_and_comes_back_from_the_store(pack):
    text = json.dumps(pack_json(pack))
    assert len(text) < 700_000
    assert pack_json(pack_of(json.loads(text))) == pack_json(pack)
    assert pack_of(json.loads(text) | {"version": 0}) is None
    assert [one.token for one in pack.sun] == ["First light", "Sunrise", "Sunset", "Dark"]


def test_every_look_up_is_within_a_foot_and_one_count_of_the_solver():
    thrown = Thrown(
        lure=BoxedLure(head_kg=OUNCE_KG / 16.0), rod_ft=7.0, clarity=Clarity.STAINED, temp_f=58.0, transducer_ft=1.3, thickness_deg=18.0,
        habit=Habit(), usual_ft=16.0, fish_ft=12.0,
    )  # fmt: skip
    table, draw = cast_table(thrown), np.random.default_rng(900)
    for _ in range(150):
        out, deep = draw.uniform(5.0, 80.0), draw.uniform(2.0, 40.0)
        at = (round(out) - CAST_FT[0]) * len(CAST_DEPTHS_FT) + round(deep) - CAST_DEPTHS_FT[0]
        found = cast_at(thrown, out, deep)
        assert table.rows[at] >= 0
        assert abs(table.counts[at] - found.fall.seconds) <= 1.5
        looked_up = cast_at(thrown, round(out), round(deep))
        assert abs(feet(looked_up.cast_m - looked_up.horizontal_m) - feet(found.cast_m - found.horizontal_m)) <= 1.0


def test_a_row_is_what_a_card_of_that_water_would_set(pack):
    one = example_card()
    retune, plan = pack.retune, one.plan
    for depth_ft, clarity, sky in ((14, "stained", "cloud"), (33, "murky", "bright"), (8, "clear", "dark")):
        depth, which, light = list(retune.depths_ft).index(depth_ft), list(retune.clarities).index(clarity), list(retune.skies).index(sky)
        row = retune.rows[(depth * len(retune.clarities) + which) * len(retune.skies) + light]
        there = replace(
            at_depth(plan.answers, depth_ft * 0.3048), secchi_m=TYPICAL_SECCHI_M[Clarity(clarity)], sky=type(plan.card.here.sky)(sky)
        )
        # By the whole card, what is still inside its band there being left as it is set.
        wanted = kept(card_of(there, plan.aboard), one.setup)
        for control, number in zip(retune.controls, row, strict=True):
            assert control.words[number].shown == of(control.name).shown(wanted.value(CONTROLS[control.name])), (depth_ft, control.name)
    home = list(retune.depths_ft).index(20) * 12 + list(retune.clarities).index("stained") * 3 + 1
    assert {control.words[number].shown for control, number in zip(retune.controls, retune.rows[home], strict=True)} >= {"23 ft", "30 ft"}


def test_a_wind_at_ones_back_is_thrown_short_and_one_in_the_face_long_as_the_solver_says(pack):
    # As the card has it: five miles an hour.
    back, face = pack.lures[0].windy
    assert [back.label, face.label] == ["5 mph at your back", "5 mph in your face"]
    calm = {row.depth_ft: row.past_ft for row in pack.lures[0].table.big}
    for row, other in zip(back.table.big, face.table.big, strict=True):
        assert row.past_ft <= calm[row.depth_ft] <= other.past_ft
    # The lure sinks for some ten seconds in water that goes with the wind at three in a hundred of it, half of that where it is (hand figures):
    # 5 mph = 2.24 m/s; 2.24 * 0.03 / 2 = 0.034 m each second, to each side.
    deep = [one.table.big[-1] for one in (back, face)]
    assert deep[1].past_ft - deep[0].past_ft == pytest.approx(2 * 0.034 * deep[0].count / 0.3048, abs=1.5)


def test_stay_or_move_is_looked_up_as_it_is_worked_out(pack, boat, engine):
    table, record = stay_table(Spell(takes=12, minutes=300.0), is_trophy=False), Spell(takes=12, minutes=300.0)
    draw = np.random.default_rng(996)
    for _ in range(200):
        sees, row, takes = (
            bool(draw.integers(2)),
            int(draw.integers(table.most_min // table.step_min + 1)),
            int(draw.integers(table.most_takes + 1)),
        )
        said = table.said[((0 if sees else 1) * (table.most_min // table.step_min + 1) + row) * (table.most_takes + 1) + takes]
        here = Spell(takes=takes, minutes=float(row * table.step_min))
        assert said == move_words(stay_or_move(here, record, sees_fish=sees), here, record)
    assert "no record of yours yet" in pack.stay.said[0]
    # The record: takes noted on trips that ended, and how long those were.
    trip = TripRecord(id=uuid.uuid4(), source="real", title="t", water="w", day=NOW, notes="", owner=OWNER)
    trip_store.put_trip(engine, replace(trip, started_at=NOW - dt.timedelta(hours=4), ended_at=NOW - dt.timedelta(hours=1)))
    given = [
        entry(1, "bit"),
        entry(2, "looked"),
        entry(3, "bit"),
        entry(4, "bit", at=NOW),
        entry(5, "bit"),
        entry(6, kind="undo", of=str(uuid.UUID(int=105))),
    ]
    boat.take_in(OWNER, PHONE, BatchGiven(sent_at=NOW, entries=given))
    assert own_record(engine, OWNER, [one.entry for one in boat.told(OWNER)]) == Spell(takes=2, minutes=180.0)
    assert own_record(engine, uuid.uuid4(), []) == Spell(takes=0, minutes=0.0)


def test_fish_that_would_lie_under_the_bottom_come_up_with_it():
    answers = example_card().plan.answers
    moved = at_depth(answers, 3.0)
    assert moved.fish_to_m == pytest.approx(answers.fish_to_m * 3.0 / answers.depth_m)
    assert at_depth(answers, 30.0).fish_to_m == answers.fish_to_m


def test_the_sheet_says_what_the_pack_says(pack):
    sheet = sheet_of(pack)
    table = pack.lures[0].table
    ten = dict(sheet.counts)[10][0]
    assert int(ten) == next(row.count for row in table.big if row.depth_ft == 10)
    assert dict(sheet.settings)[20][0] == "23 ft"


@pytest.fixture
def boat(engine):
    jobs = Jobs()
    yield BoatDesk(engine, jobs, RigDesk(engine, jobs), CastDesk(engine, now=lambda: NOW), now=lambda: NOW)
    jobs.end_all()


def entry(number, token="looked", *, key=None, kind="outcome", at=None, **values):
    given = {"token": token} if kind == "outcome" else {}
    return {
        "id": str(key or uuid.UUID(int=100 + number)),
        "number": number,
        "at": (at or NOW - dt.timedelta(hours=3) + dt.timedelta(minutes=number)).isoformat(),
        "kind": kind,
        "values": given | values,
    }


def sent(boat, *entries, owner=OWNER, phone=PHONE, slow_s=0.0):
    return boat.take_in(owner, phone, BatchGiven(sent_at=NOW - dt.timedelta(seconds=slow_s), entries=list(entries)))


def words(boat, owner=OWNER):
    return [(one.entry.number, one.entry.values.get("token")) for one in boat.told(owner)]


def test_a_queue_arrives_once_in_order_at_its_own_times_however_it_is_sent(boat):
    queue = [entry(number) for number in range(1, 11)]
    sent(boat, *queue[:4])
    # The answer was lost: all is sent again, doubled and in disorder.
    again = sent(boat, *reversed(queue), *queue)
    assert (len(again.kept), again.clashed, again.refused) == (20, [], [])
    told = boat.told(OWNER)
    assert [one.entry.number for one in told] == list(range(1, 11))
    assert [one.entry.at for one in told] == [dt.datetime.fromisoformat(one["at"]) for one in queue]
    # Nobody else sees them; another's entry under the same key is another entry.
    assert boat.told(uuid.UUID(int=9)) == []
    sent(boat, entry(1, "bit"), owner=uuid.UUID(int=9))
    assert (words(boat)[0], words(boat, uuid.UUID(int=9))) == ((1, "looked"), [(1, "bit")])


def test_a_phones_clock_is_kept_beside_its_times(boat):
    sent(boat, entry(1), slow_s=600.0)
    assert boat.told(OWNER)[0].entry.offset_s == 600.0


def test_what_is_wrong_is_refused_by_itself_and_loses_no_other(boat):
    wrong = [
        entry(2, "purred"),
        entry(3) | {"kind": "dance"},
        entry(4) | {"at": "yesterday"},
        entry(5, depth_ft=-4.0),
        {"id": "x"},
        entry(6, lure="x" * 200),
        entry(7) | {"number": 0},
        entry(8, depth_ft=float("nan")),
        entry(10) | {"at": "0001-01-01T00:00:00+14:00"},
    ]
    receipt = sent(boat, entry(1), *wrong, entry(9))
    assert words(boat) == [(1, "looked"), (9, "looked")]
    assert [one.why.split(" is ")[0] for one in receipt.refused] == [
        "token",
        "kind",
        "at",
        "depth_ft",
        "id",
        "lure",
        "number",
        "depth_ft",
        "at",
    ]


def test_words_that_the_store_mends_are_the_same_words_when_they_come_again(boat):
    for _ in range(2):
        receipt = sent(boat, entry(1, lure="white\x00 \ud800 1/16"))
        assert (len(receipt.kept), receipt.clashed) == (1, [])
    assert len(boat.told(OWNER)) == 1


def test_a_clash_keeps_both_and_asks(boat):
    key = uuid.UUID(int=500)
    sent(boat, entry(1, "looked", key=key))
    receipt = sent(boat, entry(1, "bit", key=key))
    assert receipt.clashed == [str(key)]
    # Sent again it is the same clash, not another.
    sent(boat, entry(1, "bit", key=key), entry(1, "looked", key=key))
    first, second = boat.told(OWNER)
    assert (first.entry.values["token"], second.entry.values["token"], second.clash_of) == ("looked", "bit", first.entry)
    boat.settle(OWNER, second.entry.id, keep="second")
    assert words(boat) == [(1, "bit")]
    with pytest.raises(MissingError):
        boat.settle(OWNER, second.entry.id, keep="both")


def test_what_was_undone_is_gone_and_another_rod_is_the_last_word(boat):
    keys = [uuid.UUID(int=100 + number) for number in (1, 2, 3)]
    sent(boat, *(entry(number, rod="a", lure="White 1/16") for number in (1, 2, 3)))
    sent(boat, entry(4, kind="undo", of=str(keys[1])), entry(5, kind="rod", of=[str(keys[0])], rod="b", lure="Pink 1/8"))
    told = boat.told(OWNER)
    assert [(one.entry.number, one.entry.values["lure"]) for one in told] == [(1, "Pink 1/8"), (3, "White 1/16")]
    assert sent(boat, entry(6, kind="rod", of=[str(uuid.uuid4()) for _ in range(11)], rod="b")).refused
