import re
from collections import defaultdict
from dataclasses import fields, is_dataclass

import numpy as np
import pytest

from mudlamp.core.ping import Fan
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.kinds_of_water import DEPTHS_M, NEVER_LEARNED, WATER_KINDS, Stands
from mudlamp.core.scene.world import World
from mudlamp.formats.scene.file import parse_scene, scene_text, stock_scenes
from mudlamp.formats.scene.write import file_of
from mudlamp.services.bench.following import HARD_M

SEEDS = range(1, 241)


@pytest.fixture(scope="module")
def waters():
    return [draw_water(seed) for seed in SEEDS]


def test_the_same_seed_draws_the_same_water(waters):
    assert draw_water(7) == waters[6]
    assert draw_water(8) != waters[6]


def test_all_kinds_of_water_are_drawn_within_what_anglers_meet(waters):
    assert {water.kind for water in waters} == set(WATER_KINDS)
    for water in waters:
        low, high = DEPTHS_M[water.kind.deep]
        assert low <= water.scene.depth_m <= high
        assert water.scene.transducer.fan is water.kind.fan
        assert 8.0 <= water.ping_hz <= 20.0
        assert 0 <= water.scene.fish_count <= 330
        assert (water.kind.stands is Stands.OPEN) == (not water.scene.cover)
    temperature = [water.scene.water.temperature_degc for water in waters]
    assert min(temperature) < 6.0
    assert max(temperature) > 28.0
    assert any(not water.scene.fish for water in waters)
    assert any(water.scene.angler is None for water in waters)


def test_a_third_of_the_kinds_is_never_learned_on_one_flat_one_timber_one_dock_among_them():
    assert len(NEVER_LEARNED) / len(WATER_KINDS) == pytest.approx(1 / 3, abs=0.05)
    assert any(kind.fan is Fan.FLAT for kind in NEVER_LEARNED)
    assert {Stands.TIMBER, Stands.DOCK} <= {kind.stands for kind in NEVER_LEARNED}


def leaves(part, path=""):
    """Every figure and word of a scene with where it stands: items of a list stand at one place, by what they are."""
    if is_dataclass(part):
        for field in fields(part):
            yield from leaves(getattr(part, field.name), f"{path}.{field.name}")
    elif isinstance(part, tuple):
        for one in part:
            yield from leaves(one, f"{path}[{type(one).__name__}]")
    else:
        yield path, part


# What stock scenes teach beyond what anglers mostly meet: deep clear water, a big boat's wake, the longest float.
BEYOND = {".bottom.depth_m", ".wakes[Wake].depth_m", ".cover[Float].length_m"}
WORDS = {".name", ".title", ".teaches"}


def test_nothing_stands_in_a_stock_scene_that_is_never_drawn(waters):
    drawn = defaultdict(list)
    for water in waters:
        for path, value in leaves(water.scene):
            drawn[path].append(value)
    never = []
    for scene in stock_scenes():
        for path, value in leaves(scene):
            if isinstance(value, float | int) and not isinstance(value, bool):
                figures = [one for one in drawn[path] if isinstance(one, float | int)]
                slack = 0.1 * (max(figures, default=0.0) - min(figures, default=0.0))
                there = bool(figures) and min(figures) - slack <= value <= max(figures) + slack
            else:
                there = value in drawn[path]
            if not there and path not in BEYOND | WORDS:
                never.append((scene.name, path, value))
    assert never == []


def numbers(part):
    return np.array([float(text) for text in re.findall(r"-?\d+\.?\d*(?:e-?\d+)?", repr(part))])


@pytest.mark.parametrize("seed", [3, 20, 33, 901])
def test_a_drawn_water_is_the_same_from_its_scene_file(seed):
    scene = draw_water(seed).scene
    again = parse_scene(scene_text(file_of(scene)))
    for field in fields(scene):
        np.testing.assert_allclose(numbers(getattr(again, field.name)), numbers(getattr(scene, field.name)), atol=1e-9, err_msg=field.name)


def test_a_good_part_of_the_fish_is_hard_to_follow(waters):
    near = there = 0
    for water in waters[:60]:
        world = World(water.scene, seed=1)
        places = np.array([fish.position_m for fish in world.fish]).reshape(-1, 3)
        cover = world.cover_places()
        for i, place in enumerate(places):
            others = np.concatenate((np.delete(places, i, axis=0), cover))
            near += bool(len(others) and np.linalg.norm(others - place, axis=1).min() < HARD_M)
        there += len(places)
    assert near / there > 0.3
