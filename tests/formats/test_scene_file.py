import json
from dataclasses import asdict
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.errors import SceneError
from mudlamp.core.ping import Fan
from mudlamp.core.scene.model import OPEN_SEA
from mudlamp.formats.scene.file import load_scene, parse_scene, scene_schema, scene_text, stock_scenes
from mudlamp.formats.scene.write import file_of

DOCS = Path(__file__).resolve().parents[2] / "docs"
SMALLEST = {"name": "tiny"}


def test_every_omitted_key_has_a_default():
    scene = parse_scene(json.dumps(SMALLEST))
    assert scene.bottom is None
    assert scene.surface
    assert scene.transducer.fan is Fan.AHEAD
    assert (scene.boat.x_m, scene.fish, scene.angler) == (0.0, (), None)
    assert scene.origin == OPEN_SEA


def test_a_scene_says_where_on_earth_it_lies_and_says_it_again_when_written():
    place = {"latitude_deg": 44.5, "longitude_deg": -93.25, "zone": "America/Chicago"}
    scene = parse_scene(json.dumps(SMALLEST | {"origin": place}))
    assert asdict(scene.origin) == place
    assert json.loads(scene_text(file_of(scene)))["origin"] == place


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"water": {"temperature_degc": 99}}, r"\$\.water\.temperature_degc is '99': it must be a number, 0 to 40 degC"),
        (
            {"fish": [{"x_m": 0, "y_m": 1, "z_m": 2}, {"x_m": 0, "y_m": "far", "z_m": 2}]},
            r"\$\.fish\[1\]\.y_m is 'far': it must be a number",
        ),
        ({"transducer": {"profile": "best"}}, r"\$\.transducer\.profile is 'best'"),
        ({"wonder": 1}, r"\$\.wonder is not a key of a scene file"),
        ({"targets": [{"x_m": 0, "y_m": 1}]}, r"\$\.targets\[0\]\.z_m is missing"),
        ({"fish": [{"x_m": 0, "y_m": 1, "z_m": 2, "count": 2.5}]}, r"\$\.fish\[0\]\.count is '2.5': it must be a whole number"),
        ({"name": "Not A Name"}, r"\$\.name is"),
        (
            {"fish": [{"x_m": 0, "y_m": 1, "z_m": 2, "shortest_m": 0.5}]},
            r"\$\.fish\[0\]\.longest_m is '0.33': it must be no less than shortest_m, which is 0.5",
        ),
        (
            {"cover": [{"kind": "boulders", "x_m": 0, "y_m": 1, "largest_m": 0.1}]},
            r"largest_m is '0.1': it must be no less than smallest_m, which is 0.2",
        ),
        (
            {"angler": {"head_oz": 1.5, "weight_oz": 1.0}},
            r"\$\.angler\.weight_oz is '1.0': with a head of 1.5 oz it must be 0.62 oz or less",
        ),
        ({"origin": {"latitude_deg": 91}}, r"\$\.origin\.latitude_deg is '91': it must be a number, -80 to 80 deg"),
        ({"origin": {"zone": "../Moon"}}, r"\$\.origin\.zone is '../Moon': it must be the name of a time zone"),
    ],
)
def test_a_bad_key_is_told_by_path_value_and_range(change, said):
    with pytest.raises(SceneError, match=said):
        parse_scene(json.dumps(SMALLEST | change))


@given(st.text(max_size=60))
def test_no_text_breaks_the_reader(text):
    try:
        parse_scene(text)
    except SceneError as error:
        assert str(error).startswith("$")


def test_stock_scenes_load_and_say_what_they_teach():
    for scene in stock_scenes():
        assert scene.title
        assert scene.teaches
        assert scene.fish_count > 0
    assert load_scene("lone").targets[0].ts_db == -40.0


def test_the_published_schema_and_the_page_of_scenes_are_current():
    published = json.loads((DOCS / "scene.schema.json").read_text())
    # Made by: ./lamp scenes --schema > docs/scene.schema.json
    assert published == scene_schema()
    page = (DOCS / "scenes.md").read_text()
    for scene in stock_scenes():
        assert f"| `{scene.name}` | {scene.title} | {scene.teaches} |" in page


def test_an_unknown_name_and_a_missing_file_are_refused_by_name(tmp_path):
    with pytest.raises(SceneError, match=r"scene is nowhere: it must be one of pear-tree"):
        load_scene("nowhere")
    with pytest.raises(SceneError, match=r"gone\.json cannot be read"):
        load_scene(str(tmp_path / "gone.json"))


def test_a_file_is_refused_with_its_name(tmp_path):
    path = tmp_path / "mine.json"
    path.write_text("{")
    with pytest.raises(SceneError, match=r"mine\.json: \$ is not JSON"):
        load_scene(str(path))
    path.write_bytes(b"\xff\xfe\x00")
    with pytest.raises(SceneError, match=r"mine\.json is no text"):
        load_scene(str(path))
