"""The receiver's law, written once: from a level to a brightness. The chain, the forecast, auto-tune and the readings all build on it.

A level is lifted by the built-in time-varied gain, Near cut and Gain; what lies under Quieting's or Ghost cut's threshold is gone; the rest
is stretched by Punch from nothing to full brightness, and what is dimmer than Hide below is not drawn. `_kernels.develop` does the same for
whole pictures; tests hold the two together.
"""

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, FloatLike
from mudlamp.core.receiver.inks import first_shown
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.units import FOOT_M

GAIN_DB_A_STEP = 0.6
GAIN_REFERENCE = 65.0
# The level [dB re 1 m^2, after TVG] that is just black at Gain 65: calibrated once, on the pear tree.
BLACK_DB = -67.0
FULL = 255.0
NEAR_CUT_FULL_M = 3.0 * FOOT_M
NEAR_CUT_NONE_M = {0.0: 20.0 * FOOT_M, 6.0: 20.0 * FOOT_M, 12.0: 33.0 * FOOT_M, 18.0: 50.0 * FOOT_M}
QUIETING_OVER_NOISE_DB = {1: 0.0, 2: 3.0, 3: 5.0, 5: 7.0}
# A threshold that cuts nothing.
NEVER_DB = -1e6


def tvg_db(range_m: FloatArray, absorption_db_m: float) -> FloatArray:
    """Return the built-in time-varied gain of a point target, 40 log R + 2 alpha R [dB], at (N,) ranges [m]. Source: sonar equation (Urick 1983)."""
    return 40.0 * np.log10(range_m) + 2.0 * absorption_db_m * range_m


def near_cut_profile_db(range_m: FloatArray, near_cut_db: float) -> FloatArray:
    """Return the attenuation [dB] of Near cut at (N,) ranges [m]: full up to 3 ft, then tapering to none. Source: our choice."""
    none = NEAR_CUT_NONE_M[near_cut_db]
    return near_cut_db * np.clip((none - range_m) / (none - NEAR_CUT_FULL_M), 0.0, 1.0)


def gain_db(gain: FloatLike) -> FloatArray:
    """Return what Gain adds to a level [dB], of (N,) settings. Source: our choice."""
    return np.asarray(GAIN_DB_A_STEP * (np.asarray(gain, dtype=np.float64) - GAIN_REFERENCE), dtype=np.float64)


def gain_for(added_db: float) -> float:
    """Return the Gain that adds so much [dB]: the inverse of `gain_db`."""
    return GAIN_REFERENCE + added_db / GAIN_DB_A_STEP


def lift_db(setup: ReceiverSetup, range_m: FloatArray) -> FloatArray:
    """Return what a set-up adds to levels after TVG at (N,) ranges [m]: Gain less Near cut [dB]."""
    return gain_db(setup.gain) - near_cut_profile_db(range_m, setup.near_cut_db)


def span_db(punch: FloatLike) -> FloatArray:
    """Return how many dB lie between nothing and full brightness: 60 at Punch 0, 15 at 100, of (N,) settings. Source: our choice."""
    return np.asarray(60.0 - 0.45 * np.asarray(punch, dtype=np.float64), dtype=np.float64)


def share_of(lifted_db: FloatArray, span: FloatLike) -> FloatArray:
    """Return how bright levels are, lifted and after TVG [dB re 1 m^2]: 0 at black, 1 at full, not held within."""
    return np.asarray((lifted_db - BLACK_DB) / np.asarray(span, dtype=np.float64), dtype=np.float64)


def quieting_over_db(quieting_pings: int) -> float:
    """Return how far over the noise estimate a level must be [dB]; NEVER_DB where Quieting is off."""
    return NEVER_DB if quieting_pings == 1 else QUIETING_OVER_NOISE_DB[quieting_pings]


def ghost_under_db(ghost_cut_db: float) -> float:
    """Return how far under the strongest of its range a level may be, as a level to add [dB]; NEVER_DB where Ghost cut is off."""
    return NEVER_DB if ghost_cut_db == 0.0 else -ghost_cut_db


def shows_over_db(ink: str, punch: FloatLike, hide_below_db: FloatLike) -> FloatArray:
    """Return how far over black a lifted level must be to be seen on bare ground (N,) [dB]: by the eye (CIE L*), or by Hide below."""
    return np.maximum(first_shown(ink) / FULL * span_db(punch), hide_below_db)


def brightness(level_db: Float32Array, lift: Float32Array, gone_below_db: Float32Array, setup: ReceiverSetup) -> Float32Array:
    """Return the brightness (N,), 0 to 255 and not rounded, of levels before TVG [dB].

    `lift` is TVG and `lift_db` together, `gone_below_db` the greater of Quieting's and Ghost cut's thresholds on the level itself [dB].
    """
    span = float(span_db(setup.punch))
    share = (level_db + lift - np.float32(BLACK_DB)) * np.float32(1.0 / span)
    gone = (level_db < gone_below_db) | (share < np.float32(setup.hide_below_db / span))
    return np.where(gone, np.float32(0.0), np.clip(share, 0.0, 1.0) * np.float32(FULL)).astype(np.float32, copy=False)


def lag_s(quieting_pings: FloatLike, ping_interval_s: float) -> FloatArray:
    """Return the delay [s] of the middle of so many pings (N,)."""
    return np.asarray(0.5 * (np.asarray(quieting_pings, dtype=np.float64) - 1.0) * ping_interval_s, dtype=np.float64)
