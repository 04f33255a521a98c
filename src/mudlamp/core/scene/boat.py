"""Where the boat is and how its transducer looks, at any time."""

import math

from mudlamp.core.ping import Pose
from mudlamp.core.scene.model import Boat

SWAY_PERIOD_S = 41.0
DRIFT_PERIOD_S = 67.0
PITCH_PERIOD_S = 2.7


def pose_at(boat: Boat, *, time_s: float, depth_m: float, tilt_rad: float, aim_rad: float) -> Pose:
    """Return the transducer's pose at a time [s]; the aim adds to the heading."""
    along = boat.speed_m_s * time_s
    turn = 2.0 * math.pi * time_s
    east = boat.drift_m * math.sin(turn / DRIFT_PERIOD_S)
    north = 0.6 * boat.drift_m * math.sin(1.6 * turn / DRIFT_PERIOD_S)
    return Pose(
        x_m=boat.x_m + along * math.sin(boat.heading_rad) + east,
        y_m=boat.y_m + along * math.cos(boat.heading_rad) + north,
        z_m=depth_m,
        heading_rad=boat.heading_rad + boat.sway_rad * math.sin(turn / SWAY_PERIOD_S) + aim_rad,
        pitch_rad=boat.pitch_rad * math.sin(turn / PITCH_PERIOD_S),
        roll_rad=0.7 * boat.pitch_rad * math.sin(1.37 * turn / PITCH_PERIOD_S),
        tilt_rad=tilt_rad,
    )
