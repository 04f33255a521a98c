"""How the boat moves under the transducer: still cover flickers as the beams sweep over it."""

import math

from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane

# How much the newest step counts: half a second's worth.
SHARE = 0.12
LEAST_STEP_S = 1e-3


class Sway:
    """How fast the fan turns [rad/s] and its origin glides along the plane [m/s], lately."""

    def __init__(self) -> None:
        self.swing_rad_s = 0.0
        self.glide_m_s = 0.0
        self._last: tuple[float, float, tuple[float, float]] | None = None

    def look_at(self, plane: GroundPlane, ping: Ping) -> None:
        """Take in a ping's pose."""
        now = (ping.time_s, ping.pose.heading_rad, plane.origin)
        last, self._last = self._last, now
        if last is None:
            return
        step_s = max(now[0] - last[0], LEAST_STEP_S)
        turned = abs(math.remainder(now[1] - last[1], math.tau))
        self.swing_rad_s += SHARE * (turned / step_s - self.swing_rad_s)
        self.glide_m_s += SHARE * (math.dist(now[2], last[2]) / step_s - self.glide_m_s)
