import netCDF4
import numpy as np
import pytest

from mudlamp.core.errors import RecordingError
from mudlamp.formats.recording import ATTRIBUTES, POSE_FIELDS, RecordingReader, RecordingWriter
from mudlamp.formats.truth import read_truth, row_line, write_truth_lines


@pytest.fixture
def recording(tmp_path, pear_pings):
    path = tmp_path / "a.nc"
    with RecordingWriter(path, pear_pings[0][0].setup) as writer:
        for ping, _, _ in pear_pings[:3]:
            writer.write(ping)
    return path


def test_a_recording_gives_back_what_was_written(recording, pear_pings):
    reader = RecordingReader(recording)
    pings = list(reader)
    assert len(reader) == len(pings) == 3
    for got, (wanted, _, _) in zip(pings, pear_pings, strict=False):
        # Levels are kept to a hundredth of a decibel.
        np.testing.assert_allclose(got.echo_level_db, wanted.echo_level_db, atol=0.0051)
        assert got.pose == wanted.pose
        assert got.time_s == wanted.time_s
    assert reader.setup.fan is pear_pings[0][0].setup.fan
    assert reader.setup.thickness_rad == pytest.approx(pear_pings[0][0].setup.thickness_rad)
    reader.close()


def test_the_file_has_the_form_that_other_scripts_rely_on(recording):
    with netCDF4.Dataset(recording) as file:
        level = file["echo_level_db"]
        assert level.dimensions == ("ping", "beam", "range_bin")
        assert (level.dtype, level.scale_factor, level.chunking()) == (np.dtype("int16"), 0.01, [1, 192, 700])
        assert not any(level.filters()[name] for name in ("zlib", "zstd", "szip"))
        assert set(file.ncattrs()) >= {"Conventions", "fan", *ATTRIBUTES[:-1]}
        assert not {"seed", "scene", "date", "truth"} & {name.lower() for name in [*file.ncattrs(), *file.variables]}
        assert set(file.variables) == {"echo_level_db", "beam_angle_rad", "range_m", "ping_time_s", *POSE_FIELDS}


def test_a_recording_is_about_a_quarter_of_a_megabyte_a_ping(recording):
    assert recording.stat().st_size / 3 == pytest.approx(270_000, rel=0.25)


def test_writing_that_fails_leaves_no_file(tmp_path, pear_pings):
    path = tmp_path / "b.nc"

    def fail():
        with RecordingWriter(path, pear_pings[0][0].setup) as writer:
            writer.write(pear_pings[0][0])
            raise RuntimeError("power cut")

    with pytest.raises(RuntimeError, match="power cut"):
        fail()
    assert list(tmp_path.iterdir()) == []


def test_something_else_is_refused_clearly(tmp_path):
    path = tmp_path / "photo.nc"
    path.write_bytes(b"not a recording at all" * 50)
    with pytest.raises(RecordingError, match=r"photo\.nc cannot be opened"):
        RecordingReader(path)
    with pytest.raises(RecordingError, match=r"absent\.nc cannot be opened"):
        RecordingReader(tmp_path / "absent.nc")


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (lambda file: file.renameVariable("range_m", "other"), "has no variable range_m"),
        (lambda file: file.delncattr("fan"), "has no attribute fan"),
        (lambda file: file.setncattr("fan", "sideways"), "fan is sideways: it must be one of ahead, below, flat"),
        (lambda file: file.setncattr("sound_speed_m_s", 12.0), "sound_speed_m_s is 12: it must be 1300 to 1700"),
        (lambda file: file["range_m"].__setitem__(slice(None), 0.0), "range_m is not rising"),
        (lambda file: file["ping_time_s"].__setitem__(slice(None), 3.0), "ping_time_s is not rising"),
        (lambda file: file.setncattr("thickness_rad", "thick"), "thickness_rad is nan: it must be 0.01 to 3.14"),
        (lambda file: file.setncattr("carrier_hz", np.ones(5)), "carrier_hz is nan: it must be 10000 to 5e"),
    ],
)
def test_a_spoiled_recording_is_refused_by_the_part_that_is_wrong(recording, spoil, said):
    with netCDF4.Dataset(recording, "a") as file:
        spoil(file)
    with pytest.raises(RecordingError, match=said):
        RecordingReader(recording)


def test_a_pose_that_is_no_number_is_refused(recording):
    with netCDF4.Dataset(recording, "a") as file:
        file["heading_rad"][1] = np.nan
    reader = RecordingReader(recording)
    with pytest.raises(RecordingError, match="ping 1 is not a number"):
        list(reader)
    reader.close()


def test_truth_comes_back_as_it_was_written(tmp_path, pear_pings):
    path = tmp_path / "t.jsonl"
    rows = pear_pings[100][1]
    write_truth_lines(path, [row_line(row) for row in rows])
    found, events = read_truth(path)
    assert events == []
    assert [(row.id, row.kind, row.seen) for row in found] == [(row.id, row.kind, row.seen) for row in rows]
    for got, wanted in zip(found, rows, strict=True):
        assert got.range_m == pytest.approx(wanted.range_m, abs=1e-5)


def test_a_truth_line_that_is_none_is_named_by_its_number(tmp_path):
    path = tmp_path / "t.jsonl"
    path.write_text('{"t": 0, "id": "a", "kind": "event", "event": "bit", "cause": "lure", "shot": 1}\n{"kind": 3}\n')
    with pytest.raises(RecordingError, match="line 2 is not a truth line"):
        read_truth(path)
