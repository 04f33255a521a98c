"""The receiver: every control a real operation on the levels, in the order of a real one."""

import numpy as np

from mudlamp.core.arrays import ByteArray, Float32Array, FloatArray
from mudlamp.core.ping import Ping, SonarSetup
from mudlamp.core.receiver import _kernels
from mudlamp.core.receiver.bounces import BounceFilter
from mudlamp.core.receiver.setup import ReceiverSetup, checked_setup
from mudlamp.core.units import FOOT_M

GAIN_DB_A_STEP = 0.6
GAIN_REFERENCE = 65.0
# The level [dB re 1 m^2, after TVG] that is just black at Gain 65: calibrated once, on the pear tree.
BLACK_DB = -67.0
NEAR_CUT_FULL_M = 3.0 * FOOT_M
NEAR_CUT_NONE_M = {0.0: 20.0 * FOOT_M, 6.0: 20.0 * FOOT_M, 12.0: 33.0 * FOOT_M, 18.0: 50.0 * FOOT_M}
QUIETING_OVER_NOISE_DB = {1: 0.0, 2: 3.0, 3: 5.0, 5: 7.0}
# The noise estimate starts this much too high and settles with this time constant: some 20 minutes until it is done (common practice).
QUIETING_START_DB = 3.0
QUIETING_SETTLING_S = 300.0
QUIETING_FAST_S = 8.0
MOST_PINGS = 5
# The noise changes slowly: it is learned anew after so long.
NOISE_EVERY_S = 0.4
NEVER_DB = -1e6


def tvg_db(range_m: FloatArray, absorption_db_m: float) -> FloatArray:
    """Return the built-in time-varied gain of a point target, 40 log R + 2 alpha R [dB], at (N,) ranges [m]. Source: sonar equation (Urick 1983)."""
    return 40.0 * np.log10(range_m) + 2.0 * absorption_db_m * range_m


def near_cut_profile_db(range_m: FloatArray, near_cut_db: float) -> FloatArray:
    """Return the attenuation [dB] of Near cut at (N,) ranges [m]: full up to 3 ft, then tapering to none. Source: our choice."""
    none = NEAR_CUT_NONE_M[near_cut_db]
    return near_cut_db * np.clip((none - range_m) / (none - NEAR_CUT_FULL_M), 0.0, 1.0)


def span_db(punch: float) -> float:
    """Return how many dB lie between nothing and full brightness: 60 at Punch 0, 15 at 100. Source: our choice."""
    return 60.0 - 0.45 * punch


def lag_s(quieting_pings: int, ping_interval_s: float) -> float:
    """Return the delay [s] of the middle of so many pings."""
    return 0.5 * (quieting_pings - 1) * ping_interval_s


class Receiver:
    """Turns pings of one sonar set-up into pictures; keeps the last pings for Quieting.

    The same pings under another set-up: another Receiver. A ping of another sonar set-up starts it afresh.
    """

    def __init__(self, setup: ReceiverSetup | None = None) -> None:
        self.setup = checked_setup(setup or ReceiverSetup())
        self.settling_s = QUIETING_SETTLING_S
        self._settled_share = 0.0
        self._bounces = BounceFilter()
        self._sonar: SonarSetup | None = None
        self._filled = 0
        self._newest = -1
        self._noise_db: FloatArray | None = None
        self._noise_s = 0.0

    def change(self, setup: ReceiverSetup) -> None:
        """Receive differently from the next picture on; raise DomainError where a control is not allowed."""
        self.setup = checked_setup(setup)

    def _start(self, sonar: SonarSetup) -> None:
        shape = (len(sonar.beam_angle_rad), len(sonar.range_m))
        self._sonar = sonar
        self._ring = np.zeros((MOST_PINGS, *shape), np.float32)
        self._level = np.zeros(shape, np.float32)
        self._scratch = np.zeros(shape[0])
        self._tvg = tvg_db(sonar.range_m, sonar.absorption_db_m)
        self._filled, self._newest, self._noise_db = 0, -1, None
        self._settled_share = 0.0

    @property
    def settled_pct(self) -> float:
        """How far Quieting's noise estimate has settled [%]; 100 where Quieting is off."""
        return 100.0 if self.setup.quieting_pings == 1 else 100.0 * self._settled_share

    def develop(self, ping: Ping) -> ByteArray:
        """Return the picture of a ping: brightness 0 to 255, a new (beam, range_bin) uint8 array."""
        if self._sonar is not ping.setup:
            self._start(ping.setup)
        self._newest = (self._newest + 1) % MOST_PINGS
        self._filled = min(self._filled + 1, MOST_PINGS)
        self._ring[self._newest] = ping.echo_level_db
        return self.redevelop(ping)

    def redevelop(self, ping: Ping) -> ByteArray:
        """Return the picture of the newest ping again, under the present set-up; `ping` must be that newest ping."""
        setup = self.setup
        count = min(setup.quieting_pings, self._filled)
        _kernels.integrate(self._ring, self._newest, count, self._level)
        never = np.full(len(ping.setup.range_m), NEVER_DB)
        quiet = never if setup.quieting_pings == 1 else self._noise(ping.time_s) + QUIETING_OVER_NOISE_DB[setup.quieting_pings]
        cut = never if setup.ghost_cut_db == 0.0 else self._strongest() - setup.ghost_cut_db
        if setup.ghost_cut_db != 0.0:
            self._bounces.cut(self._level, ping, self._tvg, ghost_cut_db=setup.ghost_cut_db)
        picture = np.empty(self._level.shape, np.uint8)
        lift = self._tvg - near_cut_profile_db(ping.setup.range_m, setup.near_cut_db) + GAIN_DB_A_STEP * (setup.gain - GAIN_REFERENCE)
        span = span_db(setup.punch)
        hide = np.float32(setup.hide_below_db / span)
        _kernels.develop(
            self._level,
            lift.astype(np.float32),
            quiet.astype(np.float32),
            cut.astype(np.float32),
            np.float32(BLACK_DB),
            np.float32(1.0 / span),
            hide,
            picture,
        )
        return picture

    def _noise(self, time_s: float) -> FloatArray:
        """Return the noise estimate per range [dB]: medians over beams, settling with a time constant; learned from a ping now and then."""
        if self._noise_db is not None and 0.0 <= time_s - self._noise_s < NOISE_EVERY_S:
            return self._noise_db
        now = np.zeros(self._level.shape[1])
        _kernels.range_medians(self._level, 6, self._scratch, now)
        if self._noise_db is None:
            self._noise_db = now + QUIETING_START_DB
        else:
            share = 1.0 - float(np.exp(-max(time_s - self._noise_s, 0.0) / self.settling_s))
            self._noise_db = self._noise_db + share * (now - self._noise_db)
            self._settled_share += share * (1.0 - self._settled_share)
        self._noise_s = time_s
        return self._noise_db

    def _strongest(self) -> Float32Array:
        strongest = np.zeros(self._level.shape[1], np.float32)
        _kernels.range_maxima(self._level, strongest)
        return strongest
