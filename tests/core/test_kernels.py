import math

import numpy as np
import pytest

from mudlamp.core.ping import Fan, Pose
from mudlamp.core.scene.bottom import Ground, make_bottom
from mudlamp.core.sonar import _kernels as sonar
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.synthesis import Synthesizer, WaterBody
from mudlamp.core.sonar.transducer import PROFILES, Acquisition, usual_tilt_rad
from mudlamp.core.tracking import _kernels as tracking

PROFILE = PROFILES["test"]
POSE = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=usual_tilt_rad(Fan.AHEAD, PROFILE))


def bare_synthesizer(bottom=None):
    acquisition = Acquisition(
        fan=Fan.AHEAD, reach_m=12.0, down_to_m=7.0, look_back_m=0.5, tilt_rad=POSE.tilt_rad, aim_rad=0.0, sound_speed_m_s=1482.38
    )
    water = WaterBody(temperature_degc=20.0, secchi_m=8.0, wind_m_s=None, noise=False)
    return Synthesizer(profile=PROFILE, acquisition=acquisition, water=water, bottom=bottom, depth_m=0.4, rng=np.random.default_rng(1))


def test_expected_cell_power_is_the_mean_of_many_coherent_sums():
    # Twenty echoes of random phase in one cell: the mean of |sum|^2 over phases is the sum of powers (closed form).
    rng = np.random.default_rng(3)
    synthesizer = bare_synthesizer()
    center = np.array([0.0, 6.0, 3.4])
    place = center + rng.normal(0.0, 0.004, (20, 3))
    amplitude = rng.uniform(0.001, 0.01, 20)
    powers = []
    scatterers = Scatterers(64)
    for number in range(400):
        scatterers.clear()
        scatterers.add(place, amplitude, rng.uniform(0, 2 * math.pi, 20), owner=4)
        ping = synthesizer.ping(scatterers, pose=POSE, number=number, time_s=number * 0.1)
        powers.append(10.0 ** (ping.echo_level_db.max() / 10.0))
    expected = synthesizer.cell_power(scatterers, pose=POSE, position_m=center[None, :], owner=np.array([4])).own[0]
    # 400 exponential draws: one standard error is 5 %; the cell is up to half a cell off its center.
    assert np.mean(powers) == pytest.approx(expected, rel=0.25)


def test_bottom_cells_lie_on_the_bottom_in_the_fan_and_stay_on_the_ground():
    bottom = make_bottom(
        ground=Ground.SAND, depth_m=6.0, slope_east=0.0, slope_north=0.02, relief_m=0.1, relief_length_m=6.0, rng=np.random.default_rng(2)
    )
    synthesizer = bare_synthesizer(bottom)
    first, moved = Scatterers(), Scatterers()
    synthesizer.add_bottom(first, POSE)
    synthesizer.add_bottom(moved, Pose(x_m=0.3, y_m=0.2, z_m=0.4, heading_rad=0.05, pitch_rad=0.0, roll_rad=0.0, tilt_rad=POSE.tilt_rad))
    n = first.count
    assert n > 300
    for i in range(0, n, 37):
        assert first.z[i] == pytest.approx(bottom.depth_at(first.x[i], first.y[i]), abs=1e-9)
    spots = {(round(x, 6), round(y, 6)): a for x, y, a in zip(first.x[:n], first.y[:n], first.phase[:n], strict=True)}
    m = moved.count
    shared = [
        (spots[key], phase)
        for x, y, phase in zip(moved.x[:m], moved.y[:m], moved.phase[:m], strict=True)
        if (key := (round(x, 6), round(y, 6))) in spots
    ]
    # Most of the ground is lit from both places, by the same scatterers with the same phases.
    assert len(shared) > 0.6 * n
    assert all(a == b for a, b in shared)


def test_depth_and_slope_kernel_agrees_with_differences():
    bottom = make_bottom(
        ground=Ground.MUD, depth_m=5.0, slope_east=0.03, slope_north=-0.01, relief_m=0.2, relief_length_m=5.0, rng=np.random.default_rng(4)
    )
    field = bottom._field()
    depth, east, north = sonar.depth_and_slope(1.3, 2.7, *field)
    step = 1e-5
    assert east == pytest.approx((bottom.depth_at(1.3 + step, 2.7) - bottom.depth_at(1.3 - step, 2.7)) / (2 * step), abs=1e-6)
    assert north == pytest.approx((bottom.depth_at(1.3, 2.7 + step) - bottom.depth_at(1.3, 2.7 - step)) / (2 * step), abs=1e-6)
    assert sonar.depth_and_slope.py_func(1.3, 2.7, *field) == pytest.approx((depth, east, north))


def test_a_component_with_two_far_peaks_is_parted_and_its_power_kept():
    power = np.zeros((30, 60), np.float32)
    b, k = np.meshgrid(np.arange(30), np.arange(60), indexing="ij")
    for beam, bin_, level in ((8, 20, 1.0), (16, 30, 0.6)):
        power += (level * np.exp(-(((b - beam) / 3.0) ** 2 + ((k - bin_) / 4.0) ** 2))).astype(np.float32)
    hit = power > 0.02
    runs = [np.zeros(200, np.int32) for _ in range(4)]
    table, parts = np.zeros((10, 7)), np.zeros((10, 7))
    count, found = tracking.components(hit, power, 1, *runs, table)
    assert count == 1
    range_m = (np.arange(60) + 0.5) * 0.03 + 8.0
    split = tracking.split_components(power, found, *runs, count, table, range_m, 0.012, 0.33, 0.05, 2000, parts)
    assert split == 2
    assert parts[:2, 0].sum() == pytest.approx(table[0, 0], rel=1e-6)
    whole = tracking.split_components(power, found, *runs, count, table, range_m, 0.012, 9.0, 0.05, 2000, parts)
    assert whole == 1
    brush = tracking.split_components(power, found, *runs, count, table, range_m, 0.012, 0.33, 0.05, 10, parts)
    assert brush == 1
