"""Files from strangers: each does more than a recording should, and is turned away before it can."""

import json
import multiprocessing
import os
import resource
import socket

import h5py
import netCDF4
import numpy as np
import pytest

from mudlamp.core.errors import RecordingError, SceneError
from mudlamp.formats.recording import ATTRIBUTES, RecordingWriter
from mudlamp.formats.structure import PER_PING
from mudlamp.services.quarantine import inspect
from mudlamp.services.quarantine.confine import landlock_version, limit, shut_in
from mudlamp.services.quarantine.inspect import inspect_recording, inspect_scene, inspect_truth


@pytest.fixture
def good(tmp_path, pear_pings):
    path = tmp_path / "good.nc"
    with RecordingWriter(path, pear_pings[0][0].setup, compress=True) as writer:
        for ping, _, _ in pear_pings[:3]:
            writer.write(ping)
    return path


def foreign(path, *, shape=(3, 8, 32), chunks=None, stored=True, kind="f4"):
    """A recording by another hand, its levels as asked for."""
    with h5py.File(path, "w") as file:
        file.attrs["fan"] = "ahead"
        for name in ATTRIBUTES:
            file.attrs[name] = {"carrier_hz": 9e5, "pulse_s": 1e-4, "sound_speed_m_s": 1480.0, "absorption_db_m": 0.3}.get(name, 0.3)
        levels = file.create_dataset("echo_level_db", shape, kind, chunks=chunks, compression="gzip" if chunks else None)
        if stored:
            levels[...] = -90.0
        file["beam_angle_rad"] = np.linspace(-1.0, 1.0, shape[1])
        file["range_m"] = np.linspace(0.1, 20.0, shape[2])
        for name in PER_PING:
            file[name] = np.linspace(0.0, 1.0, shape[0])
        for name, size in zip(("ping", "beam", "range_bin"), shape, strict=True):
            file.create_dataset(name, (size,), "i4").make_scale(name)
            for variable in ("echo_level_db", "beam_angle_rad", "range_m", *PER_PING):
                for at, length in enumerate(file[variable].shape):
                    wanted = {"beam_angle_rad": "beam", "range_m": "range_bin"}.get(variable, ("ping", "beam", "range_bin")[at])
                    if wanted == name and length == size:
                        file[variable].dims[at].attach_scale(file[name])
    return path


def test_a_good_file_is_described_whoever_wrote_it(good, tmp_path):
    facts = inspect_recording(good)
    assert (facts.pings, facts.fan) == (3, "ahead")
    assert facts.seconds == pytest.approx(2 / 15)
    assert inspect_recording(foreign(tmp_path / "theirs.nc")).pings == 3


def external_storage(path):
    with h5py.File(path, "a") as file:
        del file["x_m"]
        file.create_dataset("x_m", (3,), "f8", external=[("/etc/passwd", 0, 24)])


def external_link(path):
    with h5py.File(path, "a") as file:
        del file["x_m"]
        file["x_m"] = h5py.ExternalLink("/etc/passwd", "/x_m")


def soft_link(path):
    with h5py.File(path, "a") as file:
        file["again"] = h5py.SoftLink("/again")


def put_together(path):
    with h5py.File(path, "a") as file:
        del file["x_m"]
        layout = h5py.VirtualLayout(shape=(3,), dtype="f8")
        layout[:] = h5py.VirtualSource("/etc/passwd", "x", shape=(3,))
        file.create_virtual_dataset("x_m", layout)


def circle(path):
    with h5py.File(path, "a") as file:
        group = file.create_group("deep")
        group["deeper"] = group


def odd_filter(path):
    with h5py.File(path, "a") as file:
        del file["x_m"]
        file.create_dataset("x_m", data=np.zeros(3, "i8"), chunks=(3,), scaleoffset=0)


def short_axis(path):
    with h5py.File(path, "a") as file:
        del file["range_m"]
        file["range_m"] = np.linspace(0.1, 20.0, 40)


def long_attribute(path):
    with h5py.File(path, "a", libver="latest") as file:
        file["x_m"].attrs["story"] = np.zeros(100_000, "u1")


def not_numbers(path):
    with h5py.File(path, "a") as file:
        del file["x_m"]
        file["x_m"] = np.array([b"one", b"two", b"six"])


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (external_storage, "keeps its data in other files"),
        (external_link, "is a link to somewhere else"),
        (soft_link, "is a link to somewhere else"),
        (put_together, "is put together from other data"),
        (circle, "is no variable"),
        (odd_filter, "packed by a filter"),
        (short_axis, "range_m has the shape"),
        (long_attribute, "100000 bytes long"),
        (not_numbers, "x_m does not hold numbers"),
    ],
)
def test_what_a_recording_has_no_need_of_is_refused(good, spoil, said):
    spoil(good)
    with pytest.raises(RecordingError, match=said):
        inspect_recording(good)


def test_other_files_are_no_recordings(tmp_path, good):
    classic = tmp_path / "classic.nc"
    with netCDF4.Dataset(classic, "w", format="NETCDF3_CLASSIC") as file:
        file.createDimension("ping", 3)
    cut = tmp_path / "cut.nc"
    cut.write_bytes(good.read_bytes()[:-5000])
    text = tmp_path / "text.nc"
    text.write_text("not a recording")
    empty = tmp_path / "empty.nc"
    empty.touch()
    pipe = tmp_path / "pipe.nc"
    os.mkfifo(pipe)
    for path in (classic, cut, text, empty, pipe, tmp_path / "absent.nc"):
        with pytest.raises(RecordingError, match=path.name):
            inspect_recording(path)


def test_bombs_are_refused_before_they_go_off(tmp_path):
    with pytest.raises(RecordingError, match="holds 0 of its"):
        inspect_recording(foreign(tmp_path / "hollow.nc", shape=(100_000, 1024, 4096), chunks=(1, 1024, 4096), stored=False))
    with pytest.raises(RecordingError, match="in pieces of 1074 MB"):
        inspect_recording(foreign(tmp_path / "piece.nc", shape=(64, 1024, 4096), chunks=(64, 1024, 4096), stored=False))
    with pytest.raises(RecordingError, match="dimension ping is 900000"):
        inspect_recording(foreign(tmp_path / "long.nc", shape=(900_000, 8, 32), chunks=(1, 8, 32), stored=False))


def test_looking_takes_no_more_memory_than_the_file_needs(tmp_path, monkeypatch):
    """The largest ping there may be fits; with less to spare it is refused, not the machine's memory taken."""
    assert inspect_recording(foreign(tmp_path / "largest.nc", shape=(1, 1024, 4096), chunks=(1, 1024, 4096))).pings == 1
    wide = foreign(tmp_path / "wide.nc", shape=(1, 1024, 4096), kind="f8")
    # Room for a quarter of the ping: it is larger than what a heap keeps for reuse, so it has to be asked for.
    honest = wide.stat().st_size + 2 * inspect.LARGEST_PIECE
    monkeypatch.setattr(inspect, "SPARE_BYTES", 8_000_000 - honest)
    with pytest.raises(RecordingError, match=r"far more memory|cannot be read"):
        inspect_recording(wide)


def in_a_process(work):
    """Run work in a process of its own; return what it put into the pipe."""
    ours, theirs = multiprocessing.Pipe(duplex=False)
    process = multiprocessing.get_context("fork").Process(target=work, args=(theirs,))
    process.start()
    theirs.close()
    try:
        return ours.recv()
    finally:
        process.join(10)


def test_a_process_that_is_shut_in_opens_nothing_and_calls_nobody(tmp_path):
    (tmp_path / "secret").write_text("secret")
    with socket.socket() as server:
        server.bind(("127.0.0.1", 0))
        server.listen()
        address = server.getsockname()

        def tries(out):
            held = shut_in()
            done = {"held": held, "user": os.getuid()}
            for name, attempt in {
                "read": (tmp_path / "secret").read_text,
                "write": (tmp_path / "new").touch,
                "list": lambda: os.listdir(tmp_path),
                "call": lambda: socket.create_connection(address, timeout=2),
            }.items():
                try:
                    attempt()
                    done[name] = "did"
                except OSError as error:
                    done[name] = type(error).__name__
            out.send(done)

        found = in_a_process(tries)
    assert found["held"] == (landlock_version() > 0)
    assert found["user"] != 0
    if found["held"]:
        assert {found[name] for name in ("read", "write", "list")} == {"PermissionError"}
    if landlock_version() >= 4:
        assert found["call"] == "PermissionError"


def test_limits_hold_memory_and_time():
    def takes(out):
        limit(memory_bytes=50_000_000, cpu_s=5)
        try:
            bytearray(200_000_000)
            out.send("took it")
        except MemoryError:
            out.send(resource.getrlimit(resource.RLIMIT_CPU)[0])

    assert in_a_process(takes) == 5


def test_scenes_and_truth_files_from_strangers_are_looked_at_the_same_way(tmp_path):
    scene = tmp_path / "deep.json"
    scene.write_text('{"a":' * 20_000 + "1" + "}" * 20_000)
    with pytest.raises(SceneError, match=r"scene file .*deep\.json: \$ is not JSON"):
        inspect_scene(scene)
    with pytest.raises(SceneError, match=r"^\$ is not JSON"):
        inspect_scene(b"[" * 50_000)
    truth = tmp_path / "t.jsonl"
    truth.write_text("[" * 50_000)
    with pytest.raises(RecordingError, match="line 1 is not a truth line"):
        inspect_truth(truth)
    truth.write_text(json.dumps({"kind": "event", "t": 0.5, "id": "a", "event": "looked", "cause": "lure", "shot": 1}) + "\n")
    inspect_truth(truth)
