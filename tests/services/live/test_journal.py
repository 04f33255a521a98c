from types import SimpleNamespace

from mudlamp.core.controls import GAIN
from mudlamp.core.records.log import SessionRecord, SetupRecord
from mudlamp.core.tracking.bait_watch import BaitDoing, BaitEvent
from mudlamp.services.live.guesses import Guesses
from mudlamp.services.live.journal import REST_S, Journal
from tests.services.live.test_writer import session_record


class Kept:
    """A writer that keeps what it is given."""

    def __init__(self):
        self.records = []

    def put(self, record):
        self.records.append(record)

    def setups(self):
        return [one.values[GAIN.name] for one in self.records if isinstance(one, SetupRecord)]


def journal():
    kept = Kept()
    return Journal(opened=session_record(), water=None, writer=kept, guesses=Guesses()), kept


def test_a_drag_is_one_row_when_the_hand_rests():
    found, kept = journal()
    for step in range(40):
        # A step every 50 ms, as a dragged slider sends them.
        found.note_setup({GAIN.name: 40.0 + step}, session_s=0.05 * step, now_s=0.05 * step)
        found.rest(0.05 * step)
    assert kept.setups() == []
    found.rest(0.05 * 39 + REST_S)
    assert kept.setups() == [79.0]
    # Back to where it was within one rest: nothing changed.
    found.note_setup({GAIN.name: 50.0}, session_s=5.0, now_s=5.0)
    found.note_setup({GAIN.name: 79.0}, session_s=5.2, now_s=5.2)
    found.rest(9.0)
    assert kept.setups() == [79.0]


def test_what_waits_is_written_before_the_end():
    found, kept = journal()
    found.note_setup({GAIN.name: 41.0}, session_s=1.0, now_s=1.0)
    found.write_setup()
    assert kept.setups() == [41.0]
    assert [type(one) for one in kept.records] == [SessionRecord, SetupRecord]
    assert kept.records[1].session_id == kept.records[0].id


def test_what_bait_did_is_written_as_the_boat_saw_it():
    kept = Kept()
    found = Journal(opened=session_record(), water=SimpleNamespace(source="recorded"), writer=kept, guesses=Guesses())
    found.bait(BaitEvent(time_s=4.0, doing=BaitDoing.BURSTS, place=(107.0, 3.0), before_m=0.5, after_m=0.9), (7.0, 3.0))
    row = kept.records[1]
    assert (row.session_id, row.source, row.session_s, row.doing) == (kept.records[0].id, "recorded", 4.0, "bursts")
    assert (row.ahead_m, row.other_m, row.before_m, row.after_m) == (7.0, 3.0, 0.5, 0.9)
