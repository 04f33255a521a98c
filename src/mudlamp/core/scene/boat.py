"""Where the boat is and how its transducer looks, at any time."""

import math
from dataclasses import replace

from mudlamp.core.ping import Pose
from mudlamp.core.scene.model import Boat

SWAY_PERIOD_S = 41.0
DRIFT_PERIOD_S = 67.0
# Holding: a boat drifts off for most of a period and is brought back in the rest, at so much thrust (ours).
HOLD_PERIOD_S = 23.0
HOLD_DRIFTS = 0.75
HOLD_THRUST = 0.35
PITCH_PERIOD_S = 2.7
# The share of the wind's speed at which a boat that nothing holds drifts (common practice).
LEEWAY = 0.03


def drift_m_s(boat: Boat, wind_m_s: float) -> tuple[float, float]:
    """Return how fast a boat that is not held drifts, east and north [m/s]: with the current and a share of the wind."""
    if boat.held:
        return (0.0, 0.0)
    leeway = LEEWAY * wind_m_s
    east = boat.current_m_s * math.sin(boat.current_toward_rad) - leeway * math.sin(boat.wind_from_rad)
    north = boat.current_m_s * math.cos(boat.current_toward_rad) - leeway * math.cos(boat.wind_from_rad)
    return (east, north)


def pose_at(boat: Boat, *, time_s: float, depth_m: float, tilt_rad: float, aim_rad: float, wind_m_s: float = 0.0) -> Pose:
    """Return the transducer's pose at a time [s]; the aim adds to the heading.

    A boat held in place is blown off downwind and brought back by a burst of thrust, again and again, and swings as it goes.
    """
    along = boat.speed_m_s * time_s
    drift = drift_m_s(boat, wind_m_s)
    downwind, burst = _hold(time_s)
    aside = 0.6 * math.sin(2.0 * math.pi * time_s / DRIFT_PERIOD_S)
    toward = boat.wind_from_rad + math.pi
    east = boat.drift_m * (downwind * math.sin(toward) + aside * math.cos(toward))
    north = boat.drift_m * (downwind * math.cos(toward) - aside * math.sin(toward))
    swing = 0.75 * math.sin(2.0 * math.pi * time_s / SWAY_PERIOD_S) + 0.25 * burst
    return Pose(
        x_m=boat.x_m + along * math.sin(boat.heading_rad) + east + drift[0] * time_s,
        y_m=boat.y_m + along * math.cos(boat.heading_rad) + north + drift[1] * time_s,
        z_m=depth_m,
        heading_rad=boat.heading_rad + boat.sway_rad * swing + aim_rad,
        pitch_rad=_pitch(boat, time_s),
        roll_rad=_roll(boat, time_s),
        tilt_rad=tilt_rad,
    )


def _hold(time_s: float) -> tuple[float, float]:
    """Return how far downwind a held boat is, -1 to 1, and how hard it pushes, 0 to 1: blown off, then brought back faster."""
    share = math.fmod(time_s / HOLD_PERIOD_S + 0.35, 1.0)
    if share < HOLD_DRIFTS:
        return 2.0 * share / HOLD_DRIFTS - 1.0, 0.0
    back = (share - HOLD_DRIFTS) / (1.0 - HOLD_DRIFTS)
    return 1.0 - 2.0 * back * back * (3.0 - 2.0 * back), math.sin(math.pi * back)


def hold_thrust(boat: Boat, time_s: float) -> float:
    """Return how hard the motor pushes to hold a boat (0 to 1): nothing where it holds still anyway, or is not held."""
    return HOLD_THRUST * _hold(time_s)[1] if boat.held and boat.drift_m > 0.0 else 0.0


def _pitch(boat: Boat, time_s: float) -> float:
    return boat.pitch_rad * math.sin(2.0 * math.pi * time_s / PITCH_PERIOD_S)


def _roll(boat: Boat, time_s: float) -> float:
    return 0.7 * boat.pitch_rad * math.sin(2.0 * math.pi * 1.37 * time_s / PITCH_PERIOD_S)


def steadied(pose: Pose, boat: Boat, *, time_s: float, lag_s: float) -> tuple[Pose, Pose]:
    """Return where a fan steadied by the boat's motion sensor really looks, and where the sounder believes it looks: level.

    The fan is steered against the pitch and roll that the sensor showed `lag_s` ago: too late, it adds to the sway it should take out.
    """
    late = time_s - lag_s
    left = replace(pose, pitch_rad=pose.pitch_rad - _pitch(boat, late), roll_rad=pose.roll_rad - _roll(boat, late))
    return left, replace(pose, pitch_rad=0.0, roll_rad=0.0)
