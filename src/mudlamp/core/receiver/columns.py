"""The receiver of a console's pictures: columns of levels become brightness by the same law as the live picture's."""

import numpy as np

from mudlamp.core.arrays import ByteArray, Float32Array, FloatArray
from mudlamp.core.receiver import law
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.console import ViewKind

# What each view's levels are lifted by at Gain 65 [dB], so that its usual bottom is in the middle of the ink: calibrated once, on the demo's reach.
VIEW_LIFT_DB = {ViewKind.SCROLLING: -4.0, ViewKind.DOWN: 0.0, ViewKind.SIDE: -7.0}


def brightness_of(levels_db: Float32Array, view: ViewKind, range_m: FloatArray, absorption_db_m: float, setup: ReceiverSetup) -> ByteArray:
    """Return how bright columns are, 0 to 255.

    Parameters
    ----------
    levels_db : (ping, beam, range_bin) array
        Echo levels before time-varied gain [dB]. The first `quieting_pings` - 1 pings are only there to be averaged in.
    view : ViewKind
        Which view they are of.
    range_m : (range_bin,) array
        Ranges of the cells [m].
    absorption_db_m : float
        What the built-in time-varied gain takes for the water's absorption [dB/m].

    Returns
    -------
    (ping - quieting_pings + 1, beam, range_bin) ndarray of uint8
        Each column the mean power of itself and those before it.
    """
    quiet = setup.quieting_pings
    if quiet > 1:
        power = np.cumsum(10.0 ** (levels_db.astype(np.float64) / 10.0), axis=0)
        sums = power[quiet - 1 :].copy()
        sums[1:] -= power[:-quiet]
        levels_db = (10.0 * np.log10(np.maximum(sums / quiet, 1e-30))).astype(np.float32)
    lift = (law.tvg_db(range_m, absorption_db_m) + law.lift_db(setup, range_m) + VIEW_LIFT_DB[view]).astype(np.float32)
    gone = np.full(len(range_m), law.NEVER_DB, np.float32)
    return law.brightness(levels_db, lift, gone, setup).astype(np.uint8)
