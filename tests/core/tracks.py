"""A track made by hand, for what looks at tracks alone."""

import numpy as np

from mudlamp.core.tracking.track import Track


def a_track(number, place, **more):
    """A resting track that was heard at time zero; `more` are fields of its own."""
    usual = {"born_s": 0.0, "first": place, "covariance": np.eye(4), "level_db": -40.0, "length_m": 0.3, "seen_s": 0.0}
    return Track(number=number, state=np.array([*place, 0.0, 0.0]), **(usual | more))
