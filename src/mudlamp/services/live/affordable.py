"""Whether this machine can work a stranger's water out fast enough to be looked at."""

import statistics
import time

from mudlamp.core.errors import SceneError
from mudlamp.services.water.role import LiveWater

LEAST_HZ = 12.0
# What receiver, tracker and telling take of a ping's time beside the water [s].
REST_S = 0.018
PINGS = 4
STEP_S = 0.05


def require_affordable(water: LiveWater) -> None:
    """Take a few pings; raise SceneError where each takes more than leaves 12 pictures a second. Other work on the machine is not counted."""
    # The first one loads what is compiled.
    water.listen(0.0)
    costs = []
    for number in range(1, PINGS + 1):
        begun = time.thread_time()
        water.listen(number * STEP_S)
        costs.append(time.thread_time() - begun)
    most_s = 1.0 / LEAST_HZ - REST_S
    cost_s = statistics.median(costs)
    if cost_s > most_s:
        raise SceneError(
            f"$ takes {1000 * cost_s:.0f} ms a ping on this machine, and {LEAST_HZ:.0f} pictures a second leave {1000 * most_s:.0f} ms:"
            " it must have less in it, or a shorter $.transducer.reach_m"
        )
