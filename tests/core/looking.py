"""What tests of the picture's look share: still water without chance boats, levels after TVG, where a place is in a ping."""

import math
from dataclasses import replace

import numpy as np

from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.scene.model import Boat
from mudlamp.core.scene.world import first_acquisition
from mudlamp.heads.simulated import SimulatedHead

STILL = Boat(x_m=0.0, y_m=0.0, heading_rad=0.0, speed_m_s=0.0, sway_rad=0.0, drift_m=0.0, pitch_rad=0.0)


def bare(scene, **changes):
    """The scene with a boat that stands still and nothing in the water, with changes."""
    plain = {"boat": STILL, "cover": (), "fish": (), "bait": (), "insects": (), "wakes": (), "angler": None}
    return replace(scene, **(plain | changes))


def flat_ground(scene, **changes):
    """The scene's bottom, level and smooth, with changes."""
    return replace(scene.bottom, **({"relief_m": 0.0, "slope_north": 0.0, "slope_east": 0.0, "features": (), "patches": ()} | changes))


def mean_power(scene, *, seeds=range(1, 5), pings=3, ping_hz=5.0, **acquisition):
    """Return the mean power of pings over seeds, after TVG, and the last head and ping."""
    total, count = 0.0, 0
    for seed in seeds:
        head = SimulatedHead(scene, seed=seed, acquisition=replace(first_acquisition(scene), **acquisition))
        for number in range(pings):
            ping = head.listen(0.2 + number / ping_hz)
            total = total + 10.0 ** ((ping.echo_level_db.astype(float) + tvg_db(ping.setup.range_m, ping.setup.absorption_db_m)) / 10.0)
            count += 1
    return total / count, head, ping


def db(power):
    """Return a power as a level [dB]."""
    return 10.0 * np.log10(np.maximum(power, 1e-30))


def cell_of(ping, ahead_m, down_m):
    """Return the (beam, range_bin) of a place straight ahead under an upright fan."""
    down = down_m - ping.pose.z_m
    angle = ping.pose.tilt_rad - math.atan2(ahead_m, down)
    beam = int(np.argmin(np.abs(ping.setup.beam_angle_rad - angle)))
    return beam, int(np.argmin(np.abs(ping.setup.range_m - math.hypot(ahead_m, down))))


def box(power, ping, ahead_m, down_m, *, beams=2, bins=4):
    """Return the part of a picture about a place."""
    beam, cell = cell_of(ping, ahead_m, down_m)
    return power[max(beam - beams, 0) : beam + beams + 1, max(cell - bins, 0) : cell + bins + 1]
