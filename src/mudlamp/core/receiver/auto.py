"""Auto: a rule that sets Gain or Down to from the picture itself, and says why it chose."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.ping import Fan, Ping
from mudlamp.core.receiver.bounces import beam_directions, bottom_under_m
from mudlamp.core.receiver.chain import BLACK_DB, GAIN_DB_A_STEP, GAIN_REFERENCE, near_cut_profile_db, span_db, tvg_db
from mudlamp.core.receiver.inks import ink_lightness
from mudlamp.core.receiver.setup import GAIN, ReceiverSetup
from mudlamp.core.sonar.transducer import DOWN_TO_M

AUTO_CONTROLS = ("gain", "down_to")
# Of the cells of open water so many of a hundred shall stay dark: speckle just clears (common practice).
DARK_PCT = 95.0
SHOWN_LIGHTNESS = 10.0
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
        _, downward = beam_directions(ping)
        open_water = np.broadcast_to(sonar.range_m > NEAREST_M, ping.echo_level_db.shape)
        if bottom is not None:
            open_water = open_water & (downward[:, None] * sonar.range_m < OPEN_SHARE * bottom)
        if open_water.any():
            levels.append((ping.echo_level_db + tvg - near_cut_profile_db(sonar.range_m, setup.near_cut_db))[open_water])
    if not levels:
        return None
    speckle = float(np.percentile(np.concatenate(levels), DARK_PCT))
    table = ink_lightness(setup.ink)
    faintest = int(np.argmax(np.abs(table - table[0]) >= SHOWN_LIGHTNESS)) / 255.0 * span_db(setup.punch)
    gain = GAIN_REFERENCE + (BLACK_DB + faintest - speckle) / GAIN_DB_A_STEP
    return Choice(value=float(min(max(round(gain), GAIN[0]), GAIN[1])), measured_db=speckle)


def auto_down_to(pings: Sequence[Ping]) -> Choice | None:
    """Return the Down to [m] that keeps the deepest bottom in sight with a margin, or None under a Flat fan or without a bottom."""
    if not pings or pings[-1].setup.fan is Fan.FLAT:
        return None
    depths = []
    for ping in pings:
        tvg = tvg_db(ping.setup.range_m, ping.setup.absorption_db_m)
        _, downward = beam_directions(ping)
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
    return Choice(value=min(max(wanted, DOWN_TO_M[0]), DOWN_TO_M[1]), deepest_m=deepest)
