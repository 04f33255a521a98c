"""Auto: a rule that sets Gain or Down to from the picture itself, and says why it chose."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.controls import DOWN_TO, GAIN
from mudlamp.core.ping import Fan, Ping
from mudlamp.core.plane import FanPlane
from mudlamp.core.receiver.bounces import bottom_under_m
from mudlamp.core.receiver.law import BLACK_DB, gain_for, near_cut_profile_db, shows_over_db, tvg_db
from mudlamp.core.setup import ReceiverSetup

AUTO_CONTROLS = (GAIN, DOWN_TO)
# Of the cells of open water so many of a hundred should stay dark: speckle just clears (common practice).
DARK_PCT = 95.0
MARGIN_SHARE = 1.15
LEAST_MARGIN_M = 0.6
NEAREST_M = 1.5
OPEN_SHARE = 0.8
# What is so strong after TVG is bottom [dB re 1 m^2]; so many beams of a ping must show it.
BOTTOM_DB = -42.0
LEAST_BEAMS = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """What auto chose, in the core's unit, with the figures behind it.

    `measured_db` is the level that DARK_PCT of a hundred cells stay under (Gain), `deepest_m` the deepest bottom in sight (Down to).
    """

    value: float
    measured_db: float | None = None
    deepest_m: float | None = None


def auto_gain(pings: Sequence[Ping], setup: ReceiverSetup) -> Choice | None:
    """Return the Gain at which open water's speckle just stays dark, or None where no open water is seen.

    Open water: cells over four fifths of the depth under the boat (all, under a Flat fan), beyond the first 1.5 m.
    """
    levels = []
    for ping in pings:
        sonar = ping.setup
        tvg = tvg_db(sonar.range_m, sonar.absorption_db_m)
        bottom = None if sonar.fan is Fan.FLAT else bottom_under_m(ping.echo_level_db, tvg, ping)
        _, downward = FanPlane.of(ping).shares(ping.setup.beam_angle_rad)
        open_water = np.broadcast_to(sonar.range_m > NEAREST_M, ping.echo_level_db.shape)
        if bottom is not None:
            open_water = open_water & (downward[:, None] * sonar.range_m < OPEN_SHARE * bottom)
        if open_water.any():
            levels.append((ping.echo_level_db + tvg - near_cut_profile_db(sonar.range_m, setup.near_cut_db))[open_water])
    if not levels:
        return None
    speckle = float(np.percentile(np.concatenate(levels), DARK_PCT))
    gain = gain_for(BLACK_DB + float(shows_over_db(setup.ink, setup.punch, 0.0)) - speckle)
    return Choice(value=GAIN.held(float(round(gain))), measured_db=speckle)


def auto_down_to(pings: Sequence[Ping]) -> Choice | None:
    """Return the Down to [m] that keeps the deepest bottom in sight with a margin, or None under a Flat fan or without a bottom."""
    if not pings or pings[-1].setup.fan is Fan.FLAT:
        return None
    depths = []
    for ping in pings:
        tvg = tvg_db(ping.setup.range_m, ping.setup.absorption_db_m)
        _, downward = FanPlane.of(ping).shares(ping.setup.beam_angle_rad)
        steep = downward > math.cos(math.radians(60.0))
        if not steep.any():
            return None
        lifted = ping.echo_level_db[steep] + tvg
        brightest = np.argmax(lifted, axis=1)
        sure = lifted[np.arange(len(lifted)), brightest] > BOTTOM_DB
        depths.append((ping.setup.range_m[brightest] * downward[steep] + ping.pose.z_m)[sure])
    if sum(len(one) for one in depths) < LEAST_BEAMS * len(pings):
        return None
    deepest = float(np.percentile(np.concatenate(depths), 90.0))
    wanted = max(deepest * MARGIN_SHARE, deepest + LEAST_MARGIN_M)
    return Choice(value=DOWN_TO.held(wanted), deepest_m=deepest)
