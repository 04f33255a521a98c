"""Whatever a scene file may say within its bounds: it is refused in a line, or it pings, and is followed, in plain numbers."""

import json
import warnings

import numpy as np
import pytest

from mudlamp.core.errors import SceneError
from mudlamp.core.tracking.reacting import ReactionWatch
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.formats.scene.file import parse_scene, scene_schema
from mudlamp.heads.simulated import SimulatedHead

SCHEMA = scene_schema()
# Places are drawn about the boat: elsewhere nothing is heard.
NEAR, MOST_IN_A_LIST, MOST_COUNT = (-12.0, 25.0), 3, 60


def drawn(schema, rng, name=""):
    """Return a value that a schema allows: often one of its bounds."""
    if "$ref" in schema:
        return part(SCHEMA["$defs"][schema["$ref"].rpartition("/")[2]], rng)
    if choices := schema.get("anyOf") or schema.get("oneOf"):
        return drawn(choices[rng.integers(len(choices))], rng, name)
    if "const" in schema:
        return schema["const"]
    if "enum" in schema:
        return schema["enum"][rng.integers(len(schema["enum"]))]
    match schema.get("type"):
        case "null":
            return None
        case "boolean":
            return bool(rng.random() < 0.5)
        case "string":
            return "UTC" if name == "zone" else "x"
        case "array":
            return [drawn(schema["items"], rng) for _ in range(rng.integers(MOST_IN_A_LIST + 1))]
        case "number" | "integer" as kind:
            low, high = NEAR if name in ("x_m", "y_m", "pocket_x_m", "pocket_y_m") else (schema["minimum"], schema["maximum"])
            high = min(high, MOST_COUNT) if name == "count" else high
            value = rng.choice([low, high, low + (high - low) * rng.random() ** 2], p=[0.12, 0.12, 0.76])
            return int(value) if kind == "integer" else float(value)
        case _:
            return part(schema, rng)


def part(schema, rng):
    """Return a part: what it must have, and each second one of what it may have."""
    if "enum" in schema:
        return schema["enum"][rng.integers(len(schema["enum"]))]
    wanted = schema.get("required", [])
    return {
        name: drawn(of, rng, name) for name, of in schema["properties"].items() if name in wanted or "const" in of or rng.random() < 0.5
    }


@pytest.mark.parametrize("first", range(900, 960, 10))
def test_any_scene_file_is_refused_or_pings_and_is_followed(first):
    played = 0
    for seed in range(first, first + 10):
        rng = np.random.default_rng(seed)
        try:
            scene = parse_scene(json.dumps(part(SCHEMA, rng) | {"name": "any"}))
        except SceneError as error:
            assert str(error).startswith("$.")
            continue
        played += 1
        with warnings.catch_warnings():
            warnings.simplefilter("error")
            head, tracker, watch = SimulatedHead(scene, seed=seed), Tracker(shipped()), ReactionWatch()
            for number in range(8):
                ping = head.listen(0.35 * number)
                views = tracker.update(ping, head.world.hand())
                watch.update(tracker, ping)
                rows, _ = head.truth()
                assert np.isfinite(ping.echo_level_db).all(), seed
                assert np.isfinite([(one.range_m, one.angle_rad) for one in rows]).all(), seed
                assert np.isfinite([(one.range_m, one.angle_rad, *one.world) for one in views]).all(), seed
    assert played > 2
