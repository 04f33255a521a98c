import datetime as dt
import threading
import uuid

import pytest

from mudlamp.core.errors import DomainError, MissingError, RecordingError, UnavailableError
from mudlamp.formats.recording import RecordingReader, RecordingWriter
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.recorded import PAUSE_S, RecordedHead
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.jobs import Jobs, JobState
from mudlamp.services.recordings.library import Library
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.settings import read_settings
from mudlamp.store import library as store
from tests.patience import PATIENCE_S, until

NOW = dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)


class Clock:
    now = NOW
    seconds = 0.0

    def __call__(self):
        return self.now


@pytest.fixture
def clock():
    return Clock()


@pytest.fixture
def library(engine, tmp_path, clock):
    return Library(
        engine,
        read_settings({"MUDLAMP_RUN_DIR": str(tmp_path), "MUDLAMP_LEAST_FREE_BYTES": "0"}),
        now=clock,
        monotonic=lambda: clock.seconds,
    )


@pytest.fixture
def pings():
    head = SimulatedHead(load_scene("lone"), seed=1)
    return [head.listen(number / 10.0) for number in range(4)]


def take(library, device, pings, name, spoil=lambda part: None):
    """What the upload does with a file of these pings, or of these bytes."""
    with library.receiving() as part:
        if isinstance(pings, bytes):
            part.write_bytes(pings)
        else:
            with RecordingWriter(part, pings[0].setup, compress=True) as writer:
                for ping in pings:
                    writer.write(ping)
        spoil(part)
        return library.take(device, part, name=name, source="recorded")


def test_an_uploaded_recording_is_described_found_and_deleted(library, pings):
    device = uuid.uuid4()
    kept = take(library, device, pings, "my lake.nc")
    assert (kept.name, kept.pings, kept.fan, kept.source) == ("my lake.nc", 4, "ahead", "recorded")
    assert kept.seconds == pytest.approx(0.3)
    assert len(kept.digest) == 64
    assert library.all(device) == [kept]
    assert library.all(uuid.uuid4()) == []
    reader = library.open(kept)
    assert len(reader) == 4
    reader.close()
    with pytest.raises(MissingError):
        library.find(uuid.uuid4(), kept.id)
    with pytest.raises(MissingError):
        library.remove(uuid.uuid4(), kept.id)
    library.remove(device, kept.id)
    with pytest.raises(RecordingError, match="is missing: delete it"):
        library.path_of(kept)


@pytest.mark.parametrize("content", [b"", b"GIF89a not a recording", b"\x89HDF\r\n\x1a\n" + b"\0" * 400])
def test_a_foreign_or_broken_file_is_refused_by_its_own_name_and_leaves_nothing(library, tmp_path, content):
    with pytest.raises(RecordingError, match=r"holiday\.nc") as refused:
        take(library, uuid.uuid4(), content, "holiday.nc")
    assert str(tmp_path) not in str(refused.value)
    assert list((tmp_path / "recordings").iterdir()) == []


def test_a_file_that_was_cut_off_is_refused(library, pings, tmp_path):
    with pytest.raises(RecordingError, match=r"cut\.nc"):
        take(library, uuid.uuid4(), pings, "cut.nc", spoil=lambda part: part.write_bytes(part.read_bytes()[:-20_000]))
    assert list((tmp_path / "recordings").iterdir()) == []


def test_the_quota_and_a_full_disk_say_how_much_is_too_much(engine, tmp_path, pings):
    settings = {"MUDLAMP_RUN_DIR": str(tmp_path), "MUDLAMP_LEAST_FREE_BYTES": "0", "MUDLAMP_QUOTA_BYTES": "1000"}
    tight = Library(engine, read_settings(settings), now=lambda: NOW)
    with pytest.raises(DomainError, match="all together must be at most 0 MB"):
        take(tight, uuid.uuid4(), pings, "a")
    full = Library(engine, read_settings(settings | {"MUDLAMP_LEAST_FREE_BYTES": "1e12"}), now=lambda: NOW)
    with pytest.raises(UnavailableError, match="less than 1000 GB would be free"):
        full.room_for(uuid.uuid4(), 1)


def test_a_recording_goes_after_its_days_unless_it_is_kept(library, pings, clock):
    device = uuid.uuid4()
    first = take(library, device, pings, "first")
    second = take(library, device, pings, "second")
    assert library.set_kept(device, first.id, True).expires_at is None
    with pytest.raises(MissingError):
        library.set_kept(uuid.uuid4(), second.id, True)
    clock.now = NOW + dt.timedelta(days=31)
    # Looking at the list hides it and deletes nothing.
    assert [one.name for one in library.all(device)] == ["first"]
    assert library.path_of(second).exists()
    # By a clock that jumped: it may jump back.
    assert library.sweep() == 0
    clock.seconds += 700.0
    left = library.path_of(first).parent / f"{uuid.uuid4()}.part"
    left.touch()
    with library.receiving() as part:
        part.touch()
        assert library.sweep() == 1
        # What an upload left that never ended goes; one that is under way stays.
        assert (left.exists(), part.exists()) == (False, True)
    assert not (library.path_of(first).parent / f"{second.id}.nc").exists()


def test_a_kept_minute_is_a_recording_of_its_pings(library, pings):
    minute = Minute(most=10)
    for ping in pings:
        minute.keep(ping, "")
    told = []
    kept = library.keep_minute(uuid.uuid4(), minute, name="now", source="simulated", progress=told.append)
    assert told == sorted(told)
    reader = library.open(kept)
    near = pings[2].echo_level_db > -140.0
    assert abs(reader.ping(2).echo_level_db[near] - pings[2].echo_level_db[near]).max() < 0.27
    reader.close()
    with pytest.raises(DomainError, match="there is no minute to save yet"):
        library.keep_minute(uuid.uuid4(), Minute(most=3), name="none", source="simulated", progress=told.append)


def test_a_cancelled_minute_leaves_no_file(library, pings, tmp_path):
    minute = Minute(most=10)
    for ping in pings:
        minute.keep(ping, "")
    jobs, started, go = Jobs(), threading.Event(), threading.Event()
    device = uuid.uuid4()

    def work(job):
        def progress(share):
            started.set()
            go.wait(PATIENCE_S)
            job.progress(share)

        return str(library.keep_minute(device, minute, name="never", source="simulated", progress=progress).id)

    job = jobs.start(device, "keep", work)
    started.wait(PATIENCE_S)
    job.cancel()
    go.set()
    until(lambda: job.over)
    assert job.view().state is JobState.CANCELLED
    assert list((tmp_path / "recordings").iterdir()) == []
    assert library.all(device) == []
    jobs.end_all()


def test_a_job_tells_why_it_failed_and_belongs_to_its_browser():
    jobs, device = Jobs(), uuid.uuid4()

    def ours(_job):
        raise DomainError("the net is torn")

    def a_fault(_job):
        raise RuntimeError("boom")

    found = [jobs.start(device, "try", work) for work in (ours, a_fault, lambda job: "done")]
    until(lambda: all(job.over for job in found))
    views = [job.view() for job in found]
    assert [view.state for view in views] == [JobState.FAILED, JobState.FAILED, JobState.DONE]
    assert (views[0].error, views[2].result) == ("the net is torn", "done")
    assert "boom" not in views[1].error
    assert jobs.find(device, found[0].id) is found[0]
    assert jobs.find(uuid.uuid4(), found[0].id) is None
    jobs.end_all()


def test_a_recorded_head_keeps_the_recordings_time_and_starts_anew(tmp_path, pings):
    path = tmp_path / "a.nc"
    with RecordingWriter(path, pings[0].setup) as writer:
        for ping in pings:
            writer.write(ping)
    head = RecordedHead(RecordingReader(path))
    heard = [(round(time_s, 2), head.listen(time_s)) for time_s in [number * 0.05 for number in range(26)]]
    came = [(time_s, ping.number) for time_s, ping in heard if ping is not None]
    # A ping every 0.1 s for 0.3 s, a pause, and again from 0.8 s on; numbers go on.
    assert came[:4] == [(0.0, 0), (0.1, 1), (0.2, 2), (0.3, 3)]
    assert came[4] == (round(0.3 + PAUSE_S, 2), 4)
    assert head.listen(100.0) is not None
    head.close()


def test_set_ups_are_kept_by_name_and_the_same_name_takes_the_new_values(engine):
    device = uuid.uuid4()
    store.save_setup(engine, device, "murky", {"gain": 68}, now=NOW)
    again = store.save_setup(engine, device, "murky", {"gain": 70}, now=NOW)
    store.save_setup(engine, device, "clear", {"gain": 60}, now=NOW)
    assert [(one.name, one.values["gain"]) for one in store.setups(engine, device)] == [("clear", 60), ("murky", 70)]
    assert store.setups(engine, uuid.uuid4()) == []
    assert not store.remove_setup(engine, uuid.uuid4(), again.id)
    assert store.remove_setup(engine, device, again.id)
