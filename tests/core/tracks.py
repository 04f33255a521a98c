"""A track made by hand, and a plane for it to lie in, for what looks at tracks alone."""

import numpy as np

from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane
from mudlamp.core.tracking.track import Track


def a_track(number, place, **more):
    """A resting track that was heard at time zero; `more` are fields of its own."""
    usual = {"born_s": 0.0, "first": place, "covariance": np.eye(4), "level_db": -40.0, "length_m": 0.3, "seen_s": 0.0}
    return Track(number=number, state=np.array([*place, 0.0, 0.0]), **(usual | more))


def a_plane(*, fan=Fan.AHEAD):
    """The plane of a fan at the world's origin, 0.4 m deep."""
    pose = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=1.2)
    return GroundPlane(FanPlane(fan=fan, tilt_rad=pose.tilt_rad, depth_m=pose.z_m), pose)
