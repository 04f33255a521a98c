import json
import os
import stat

import pytest

from mudlamp.cli.__main__ import VERBS, main


def answer(capsys, *words):
    status = main(list(words))
    out, err = capsys.readouterr()
    return status, out, err


def refused(capsys, *words):
    """Run a command that must be refused: exit 2, one line on standard error, nothing on standard output."""
    try:
        status = main(list(words))
    except SystemExit as left:
        status = left.code
    out, err = capsys.readouterr()
    assert status == 2
    assert out == ""
    assert len(err.strip().splitlines()) == 1
    return err


@pytest.mark.parametrize("verb", VERBS)
def test_every_verb_says_what_it_takes(verb, capsys):
    with pytest.raises(SystemExit) as ended:
        main([verb, "--help"])
    assert ended.value.code == 0
    assert f"lamp {verb}" in capsys.readouterr().out or verb == "serve"


def test_water_answers_in_json(capsys):
    status, out, _ = answer(capsys, "water", "--temp-f", "68", "--freq-khz", "800", "--reach-ft", "60", "--json")
    found = json.loads(out)
    assert status == 0
    # 20 degC: TEOS-10 gives 1482.35 m/s; 0.14084 dB/m by Francois and Garrison; c / 2R.
    assert found["sound_speed_m_s"] == pytest.approx(1482.35, abs=0.1)
    assert found["absorption_db_m"] == pytest.approx(0.1408, rel=0.01)
    assert found["ping_limit_hz"] == pytest.approx(1482.35 / (2 * 60 * 0.3048), rel=1e-3)


def test_scenes_are_listed_with_what_others_rely_on(capsys):
    _, out, _ = answer(capsys, "scenes", "--json")
    rows = json.loads(out)["scenes"]
    assert len(rows) == 12
    assert all(set(row) == {"name", "title", "teaches", "depth_ft", "reach_ft", "fish"} for row in rows)
    assert all(len(row["teaches"]) > 40 and row["fish"] > 0 for row in rows)
    (row,) = [row for row in rows if row["name"] == "pear-tree"]
    assert row["fish"] == 8
    assert row["depth_ft"] == pytest.approx(20.0, abs=0.1)


@pytest.fixture(scope="module")
def simulated(tmp_path_factory):
    folder = tmp_path_factory.mktemp("sim")
    words = ["sim", "--scene", "pear-tree", "--seconds", "3", "--seed", "4", "--set", "reach_ft=36", "fan=ahead"]
    assert main([*words, "--out", str(folder / "a.nc"), "--truth", str(folder / "a.jsonl")]) == 0
    return folder


def test_the_same_scene_and_seed_give_the_same_bytes(simulated, capsys):
    again = simulated / "b.nc"
    main(
        [
            "sim",
            "--scene",
            "pear-tree",
            "--seconds",
            "3",
            "--seed",
            "4",
            "--set",
            "reach_ft=36",
            "fan=ahead",
            "--out",
            str(again),
            "--truth",
            str(simulated / "b.jsonl"),
        ]
    )
    assert again.read_bytes() == (simulated / "a.nc").read_bytes()
    assert (simulated / "b.jsonl").read_bytes() == (simulated / "a.jsonl").read_bytes()


def test_readings_need_truth_only_for_what_needs_it(simulated, capsys):
    _, out, _ = answer(
        capsys,
        "readings",
        str(simulated / "a.nc"),
        "--truth",
        str(simulated / "a.jsonl"),
        "--set",
        "gain=70",
        "--png",
        str(simulated / "a.png"),
        "--json",
    )
    known = json.loads(out)["readings"]
    assert set(known) == {
        "lure_over_clutter_db",
        "faintest_fish_db",
        "fish_shown_pct",
        "clutter_fill_pct",
        "blown_out_pct",
        "lag_ms",
        "parting_m",
        "erased",
    }
    assert known["fish_shown_pct"] > 50
    assert (simulated / "a.png").stat().st_size > 5000
    _, out, _ = answer(capsys, "readings", str(simulated / "a.nc"), "--set", "quieting_pings=3", "--json")
    blind = json.loads(out)["readings"]
    assert blind["erased"] is None
    assert blind["fish_shown_pct"] is None
    assert blind["lag_ms"] == pytest.approx(1000 / 15, rel=0.01)


def test_track_answers_with_tracks_and_reactions(simulated, capsys):
    _, out, _ = answer(capsys, "track", str(simulated / "a.nc"), "--json")
    found = json.loads(out)
    assert set(found) == {"tracks", "reactions"}
    fish = [row for row in found["tracks"] if row["kind"] == "fish"]
    assert len(fish) >= 3
    for row in fish:
        assert sum(row["odds"].values()) == pytest.approx(1.0, abs=1e-3)
        assert all(len(point) == 7 for point in row["points"])
        assert {point[6] for point in row["points"]} <= set(row["odds"])


def test_the_hand_is_written_beside_a_recording_and_read_by_the_tracker(simulated, capsys):
    hand = simulated / "hand.jsonl"
    words = ["sim", "--scene", "pear-tree", "--seconds", "6", "--seed", "2", "--ping-hz", "10", "--out", str(simulated / "h.nc")]
    answer(capsys, *words, "--hand", str(hand))
    lines = [json.loads(line) for line in hand.read_text().splitlines()]
    assert [line["do"] for line in lines[:2]] == ["tied", "throw"]
    assert set(lines[1]) == {"t", "do", "ahead_m", "across_m"}
    _, out, _ = answer(capsys, "track", str(simulated / "h.nc"), "--hand", str(hand), "--json")
    thrown_s = lines[1]["t"]
    for row in json.loads(out)["tracks"]:
        assert not any(point[6] == "lure" for point in row["points"] if point[0] < thrown_s)


def test_a_water_is_drawn_from_a_seed_and_simulated_from_its_file(simulated, capsys):
    path = simulated / "drawn.json"
    _, out, _ = answer(capsys, "scenes", "--draw", "905", "--out", str(path), "--json")
    row = json.loads(out)["scenes"][0]
    assert row["name"] == json.loads(path.read_text())["name"] == "drawn-905"
    status, _, _ = answer(
        capsys, "sim", "--scene", str(path), "--seconds", "0.3", "--seed", "1", "--ping-hz", "8", "--out", str(simulated / "d.nc")
    )
    assert status == 0


SIM = ["sim", "--scene", "lone", "--seconds", "0.2", "--seed", "1", "--out"]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["water", "--temp-f", "500"], "--temp-f: is 500: it must be 32 to 104 deg F"),
        (["water"], "--temp-f"),
        (["scenes", "--out", "x.json"], "argument --out is given without --draw"),
        (["scenes", "--draw", "-1"], "--draw: is -1"),
        (["bench", "tracker", "--seeds", "912:900"], "seeds is 912:900: it must be two whole numbers"),
        (["train", "search", "--only", "context"], "--only: it goes with tracker alone"),
        (["train", "tracker", "--waters", "900"], "--waters: is 900: it must be"),
        (["fish"], "the command is fish: it must be one of"),
        (["sim", "--scene", "pear-tree", "--seconds", "1", "--seed", "1.5", "--out", "x.nc"], "--seed: is 1.5: it must be a whole number"),
        (["sim", "--scene", "nowhere", "--seconds", "1", "--seed", "1", "--out", "x.nc"], "scene is nowhere"),
        (
            ["sim", "--scene", "pear-tree", "--seconds", "1", "--seed", "1", "--out", "x.nc", "--set", "gain=60"],
            "gain is not a control of the transducer",
        ),
        (
            ["sim", "--scene", "pear-tree", "--seconds", "1", "--seed", "1", "--out", "x.nc", "--set", "reach_ft=999"],
            "reach_ft is 999 ft: it must be",
        ),
        (
            ["sim", "--scene", "pear-tree", "--seconds", "1", "--seed", "1", "--out", "x.nc", "--set", "reach_ft"],
            "--set is reach_ft: it must be KEY=VALUE",
        ),
        (
            ["sim", "--scene", "pear-tree", "--seconds", "1", "--seed", "1", "--out", "x.nc", "--ping-hz", "200"],
            "ping_hz is 200 Hz: it must be 0.5 to 59.99",
        ),
        (
            ["sim", "--scene", "pear-tree", "--seconds", "1", "--seed", "1", "--out", "/nowhere/x.nc"],
            "/nowhere/x.nc: it cannot be written: its folder must exist",
        ),
        ([*SIM, ""], "--out: is empty: it must be the path of a file"),
        ([*SIM, "."], "--out: is .: it must be the path of a file"),
        ([*SIM, "/dev/null"], "--out: is /dev/null: it must be a file, or not be there yet"),
        ([*SIM, "x" * 300 + ".nc"], "its name must be at most 250 bytes long"),
        ([*SIM, "x.nc", "--truth", "../{here}/x.nc"], "it must be another file than --out"),
        (["readings", "a.nc", "--png", "x.gif"], "--png: is x.gif: it must end in .png"),
        (["track", "/dev/zero"], "/dev/zero cannot be opened"),
        (["track", "https://example.org/a.nc"], "cannot be opened"),
        (["readings", "/nowhere/a.nc", "--json"], "/nowhere/a.nc cannot be opened"),
        (["track", "/nowhere/a.nc", "--json"], "/nowhere/a.nc cannot be opened"),
        (["tune", "--depth-ft", "900"], "--depth-ft: Depth here is 900: it must be 4 to 190 ft"),
        (["tune", "--clarity", "pink"], "Clarity is pink: it must be one of clear, stained, murky, muddy"),
        (["tune", "--depth-ft", "20", "--fish-to-ft", "30"], "Fish down to is 30 ft: it must be 0 to 20 ft"),
        (["tune", "--head-oz", "9"], "--head-oz is 9 oz: it must be 0.008 to 2 oz"),
        (
            ["bench", "everything"],
            "bench is everything: it must be one of engine, tracker, class, reactions, casts, tune, find, log, live, sessions, soak, faults",
        ),
    ],
)
def test_bad_arguments_are_one_line_and_leave_no_file(capsys, tmp_path, monkeypatch, words, said):
    monkeypatch.chdir(tmp_path)
    assert said in refused(capsys, *(word.replace("{here}", tmp_path.name) for word in words))
    assert list(tmp_path.iterdir()) == []


def test_bad_settings_of_readings_are_named(simulated, capsys):
    assert "quieting_pings is 4 pings: it must be one of 1, 2, 3, 5" in refused(
        capsys, "readings", str(simulated / "a.nc"), "--set", "quieting_pings=4"
    )
    assert "shine is not a control of the receiver" in refused(capsys, "readings", str(simulated / "a.nc"), "--set", "shine=4")


def test_a_scene_file_of_ones_own_runs(tmp_path, capsys):
    scene = tmp_path / "mine.json"
    scene.write_text(json.dumps({"name": "mine", "bottom": {"depth_m": 5}, "fish": [{"x_m": 0, "y_m": 6, "z_m": 3}]}))
    status, _, _ = answer(
        capsys,
        "sim",
        "--scene",
        str(scene),
        "--seconds",
        "0.5",
        "--seed",
        "1",
        "--out",
        str(tmp_path / "m.nc"),
        "--truth",
        str(tmp_path / "m.jsonl"),
    )
    assert status == 0
    first = json.loads((tmp_path / "m.jsonl").read_text().splitlines()[0])
    assert set(first) == {
        "t",
        "id",
        "kind",
        "species",
        "x",
        "y",
        "z",
        "length_m",
        "heading_rad",
        "speed_m_s",
        "range_m",
        "angle_rad",
        "across_rad",
        "over_db",
        "in_fan",
        "seen",
        "side_on",
    }


def test_the_engine_bench_tells_its_table(capsys):
    status, out, _ = answer(capsys, "bench", "engine", "--quick", "--json")
    rows = json.loads(out)["engine"]
    assert status == 0
    assert [row["reach_ft"] for row in rows] == [40.0, 60.0, 100.0] * 2
    assert [row["scene"] for row in rows] == ["pear-tree"] * 3 + ["winter-timber"] * 3
    for row in rows:
        assert row["ratio"] == pytest.approx(row["pings_per_s"] / row["sound_limit_hz"], abs=0.02)
        assert set(row["stage_ms"]) == {"simulate", "receive", "track", "encode"}


def test_tune_answers_with_a_card_in_the_agreed_shape(capsys):
    asked = [
        "tune",
        "--depth-ft",
        "26.5",
        "--slope",
        "--clarity",
        "clear",
        "--target",
        "crappie",
        "--technique",
        "vertical",
        "--temp-f",
        "55",
    ]
    status, out, _ = answer(capsys, *asked, "--style", "clean", "--json")
    rows = json.loads(out)["card"]
    assert status == 0
    assert [row["control"] for row in rows] == [
        "down_to_ft", "reach_ft", "gain", "near_cut_db", "quieting_pings", "ghost_cut_db", "punch", "hide_below_db", "ink",
    ]  # fmt: skip
    # Common practice, no source.
    assert 31 <= rows[0]["start"] <= 36
    assert 15 <= rows[1]["start"] <= 32
    for row in rows:
        assert set(row) == {"step", "control", "start", "low", "high", "unit", "stop_cue", "why", "styles"}
        assert set(row["styles"]) == {"raw", "balanced", "clean"}
        for style in row["styles"].values():
            assert set(style["cost"]) == {"lure_over_clutter_db", "faintest_fish_db", "clutter_fill_pct", "lag_ms"}
            if row["control"] != "ink":
                assert isinstance(style["value"], float)
        # The card starts from the style that was asked for: that one costs nothing.
        assert row["styles"]["clean"]["value"] == row["start"]
        assert row["styles"]["clean"]["cost"]["clutter_fill_pct"] == 0.0
    assert [row["step"] for row in rows] == list(range(4, 13))
    again = answer(capsys, *asked, "--style", "clean", "--json")[1]
    assert again == out


def test_the_tune_bench_tells_its_table(capsys):
    status, out, _ = answer(capsys, "bench", "tune", "--scene", "pear-tree", "--json")
    found = json.loads(out)["tune"]
    assert status == 0
    assert (found["won"], found["of"]) == (1, 1)
    assert set(found["scenes"][0]) == {"scene", "mid_band", "tuned", "better_pct", "seconds", "start_gain", "lure_ts_db"}


def test_what_is_no_regular_file_is_never_replaced(tmp_path, capsys):
    pipe = tmp_path / "pipe.nc"
    os.mkfifo(pipe)
    (tmp_path / "folder.nc").mkdir()
    for name in ("pipe.nc", "folder.nc"):
        assert "it must be a file, or not be there yet" in refused(capsys, *SIM, str(tmp_path / name))
    assert stat.S_ISFIFO(pipe.stat().st_mode)
    kept = tmp_path / "kept.nc"
    kept.write_text("mine")
    # What fails on the way leaves what was there.
    assert "sound_speed_ft_s is 9" in refused(capsys, *SIM, str(kept), "--set", "sound_speed_ft_s=9")
    assert kept.read_text() == "mine"


def test_a_recording_whose_axis_is_too_short_is_refused_in_a_line(simulated, tmp_path, capsys):
    import h5py

    path = tmp_path / "short.nc"
    path.write_bytes((simulated / "a.nc").read_bytes())
    with h5py.File(path, "a") as file:
        values = file["range_m"][:-5]
        del file["range_m"]
        file["range_m"] = values
    assert "range_m has the shape" in refused(capsys, "track", str(path))


def test_the_faults_bench_knows_a_slow_second_from_a_good_one():
    from mudlamp.cli.faults import _longest_slow_s

    steady = [number / 20.0 for number in range(200)]
    assert _longest_slow_s(steady, 2.0, 9.0) == 0.0
    # Two and a half seconds without a picture: the second after each is judged with it.
    gap = [at for at in steady if not 4.0 <= at < 6.5]
    assert 2.0 < _longest_slow_s(gap, 2.0, 9.0) < 3.6
    assert _longest_slow_s([number / 8.0 for number in range(80)], 2.0, 9.0) > 6.5
