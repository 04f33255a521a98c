"""Tracks made by hand, and a plane for them to lie in, for what looks at tracks alone."""

import numpy as np

from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane
from mudlamp.core.tracking.detect import Detections
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.track import Track, Tracks

# All of them stand in one roster, unless a tracker's own is asked for.
ROSTER = Roster()


def a_track(number, place, *, roster=ROSTER, **more):
    """A resting track that was heard at time zero; `more` are figures of its own."""
    track = Track(roster, int(roster.take(1)[0]))
    usual = {"covariance": np.eye(4), "state": [*place, 0.0, 0.0], "level_db": -40.0, "length_m": 0.3}
    for name, value in ({"number": number} | usual | more).items():
        setattr(track, name, value)
    return track


def together(*tracks):
    """Tracks of one roster, taken together."""
    return Tracks(tracks[0].roster if tracks else ROSTER, tracks)


def a_plane(*, fan=Fan.AHEAD):
    """The plane of a fan at the world's origin, 0.4 m deep."""
    pose = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=1.2)
    return GroundPlane(FanPlane(fan=fan, tilt_rad=pose.tilt_rad, depth_m=pose.z_m), pose)


def one_echo(ahead):
    """The echo of a fish so far ahead, 3 m deep."""
    one = np.array([1.0])
    return Detections(
        place=np.array([[ahead, 3.0]]), covariance=0.0025 * np.eye(2)[None], range_m=8.0 * one, angle_rad=0.0 * one, level_db=-38.0 * one,
        length_m=0.4 * one, extent_m=np.array([[0.4, 0.1]]), spread_m=np.array([[0.1, 0.1]]), cells=20.0 * one, fullness_db=-3.0 * one,
        contrast_db=np.array([[12.0, 9.0]]),
    )  # fmt: skip
