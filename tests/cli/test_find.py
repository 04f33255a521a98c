"""`./lamp find`: a search into the open recording format, read by an independent library."""

import json

import numpy as np
import pytest
import xarray

from mudlamp.services.find.waters import DEMO, reach_named, to_earth
from tests.cli.test_verbs import answer, refused


def _path_file(folder, places, name="path.geojson", kind="LineString"):
    longitudes, latitudes = to_earth([x for x, _ in places], [y for _, y in places])
    coordinates = [[a, b] for a, b in zip(longitudes, latitudes, strict=True)]
    feature = {"type": "Feature", "properties": {}, "geometry": {"type": kind, "coordinates": coordinates}}
    path = folder / name
    path.write_text(json.dumps({"type": "FeatureCollection", "features": [feature]}))
    return path


@pytest.fixture
def ahead(tmp_path):
    x, y = reach_named(DEMO).launch_m
    return _path_file(tmp_path, [(x, y), (x + 12.0, y), (x + 24.0, y)])


def test_a_search_is_kept_a_group_a_view_and_read_by_xarray(ahead, tmp_path, capsys):
    words = ["find", "--path", str(ahead), "--views", "scrolling,side", "--seed", "3", "--json"]
    status, out, _ = answer(capsys, *words, "--out", str(tmp_path / "a.nc"))
    found = json.loads(out)
    assert status == 0
    assert found["length_ft"] == pytest.approx(24.0 / 0.3048, abs=0.5)
    for view, beams in (("scrolling", 1), ("side", 2)):
        with xarray.open_dataset(tmp_path / "a.nc", group=view) as data:
            assert data.echo_level_db.dims == ("ping", "beam", "range_bin")
            assert data.sizes["beam"] == beams
            assert data.sizes["ping"] == found["pings"]
            assert np.all(np.diff(data.ping_time_s) > 0.0)
            assert float(data.echo_level_db.max()) > -90.0
            assert data.attrs["view"] == view
    # The same seed, the same bytes of levels.
    answer(capsys, *words, "--out", str(tmp_path / "b.nc"))
    with xarray.open_dataset(tmp_path / "a.nc", group="side") as one, xarray.open_dataset(tmp_path / "b.nc", group="side") as two:
        np.testing.assert_array_equal(one.echo_level_db, two.echo_level_db)


@pytest.mark.parametrize(
    ("change", "named"),
    [
        (["--views", "sideways"], "--views"),
        (["--views", "side,side"], "--views"),
        (["--scene", "nowhere"], "scene"),
        (["--speed-mph", "40"], "--speed-mph"),
        (["--path", "/nonexistent.geojson"], "path"),
    ],
)
def test_a_search_that_cannot_be_is_refused_and_leaves_no_file(ahead, tmp_path, capsys, change, named):
    out = tmp_path / "no.nc"
    assert named in refused(capsys, "find", "--path", str(ahead), "--out", str(out), *change)
    assert not out.exists()


@pytest.mark.parametrize("places", [[(0.0, 0.0)], [(0.0, 400.0), (0.0, 410.0)]])
def test_a_path_that_no_boat_can_go_is_refused(places, tmp_path, capsys):
    path = _path_file(tmp_path, places)
    assert "path" in refused(capsys, "find", "--path", str(path), "--out", str(tmp_path / "no.nc"))


@pytest.mark.parametrize("content", ["", "{", "[]", '{"type": "LineString", "coordinates": [[1, 2], ["a", 3]]}', '{"type": "Point"}'])
def test_a_file_that_holds_no_line_is_refused(content, tmp_path, capsys):
    path = tmp_path / "bad.geojson"
    path.write_text(content)
    assert "path" in refused(capsys, "find", "--path", str(path), "--out", str(tmp_path / "no.nc"))
