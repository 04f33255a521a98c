"""The page's plane is Python's."""

import json
import os
import subprocess
from pathlib import Path

import numpy as np

from mudlamp.core.ping import Fan
from tests.core.test_plane import HALF_RAD, plane_of
from tools.front_end import node_bin

JS_TEST = Path(__file__).with_name("plane.test.mjs")


def test_the_pages_two_functions_are_pythons(tmp_path):
    rng = np.random.default_rng(5)
    cases = []
    for fan in Fan:
        for _ in range(150):
            plane = plane_of(fan, rng.uniform(), depth_m=rng.uniform(0.2, 2.0))
            range_m, angle = rng.uniform(0.3, 40.0), rng.uniform(-HALF_RAD, HALF_RAD)
            ahead, other = plane.place(np.array(range_m), np.array(angle))
            told = {"fan": fan.value, "tilt_rad": plane.tilt_rad, "depth_m": plane.depth_m}
            cases.append({"plane": told, "range": range_m, "angle": angle, "ahead": float(ahead), "other": float(other)})
    table = tmp_path / "cases.json"
    table.write_text(json.dumps(cases))
    done = subprocess.run(
        [str(node_bin() / "node"), "--test", "--test-reporter=tap", str(JS_TEST)],
        env=os.environ | {"PLANE_CASES": str(table)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stdout[-2000:]
    assert "# pass 3" in done.stdout
