import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from mudlamp.core.ping import Ping, Pose, SonarSetup
from mudlamp.core.plane import cells_of
from mudlamp.core.setup import ReceiverSetup, Setup, Window
from mudlamp.services.recordings.picture import Shown, true_shape
from tests.core.test_plane import FANS, HALF_RAD, plane_of


def ping_with_one_bright_cell(fan, tilt_rad, beam, cell):
    setup = SonarSetup(
        fan=fan,
        beam_angle_rad=np.linspace(-HALF_RAD, HALF_RAD, 120),
        range_m=(np.arange(300) + 0.5) * 0.1,
        carrier_hz=9e5,
        pulse_s=5e-5,
        source_level_db=210.0,
        absorption_db_m=0.1,
        sound_speed_m_s=1470.0,
        thickness_rad=0.3,
        beam_width_rad=0.0185,
    )
    pose = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=tilt_rad)
    picture = np.zeros((120, 300), np.uint8)
    picture[beam, cell] = 255
    level = np.full((120, 300), -150.0, np.float32)
    return Ping(number=0, time_s=0.0, pose=pose, setup=setup, echo_level_db=level), picture


@settings(max_examples=40, deadline=None)
@given(FANS, st.floats(0, 1), st.integers(20, 100), st.integers(60, 180))
def test_a_saved_picture_puts_a_cell_where_the_plane_says(fan, share, beam, cell):
    plane = plane_of(fan, share)
    ping, picture = ping_with_one_bright_cell(fan, plane.tilt_rad, beam, cell)
    assert cells_of(ping.setup, ping.setup.range_m[cell], ping.setup.beam_angle_rad[beam]) == (beam, cell)
    window = Window(down_to_m=25.0, reach_m=25.0, look_back_m=5.0)
    ahead, other = plane.place(ping.setup.range_m[cell], ping.setup.beam_angle_rad[beam])
    assume(-4.5 < ahead < 24.5 and (plane.is_flat or 0.5 < other < 24.5))
    colors = true_shape(Shown(ping=ping, picture=picture, setup=Setup(receiver=ReceiverSetup(), window=window)))
    lit = np.argwhere(np.any(colors != colors[0, 0], axis=2))
    scale = colors.shape[1] / 30.0
    assert lit.size
    down, across = lit.mean(axis=0) + 0.5
    # Half a cell along the range or across the beam is the most that it may be off.
    slack = 0.05 + 0.5 * ping.setup.range_m[cell] * ping.setup.beam_step_rad
    assert across / scale - 5.0 == pytest.approx(ahead, abs=slack)
    assert down / scale - (25.0 if plane.is_flat else 0.0) == pytest.approx(other, abs=slack)
