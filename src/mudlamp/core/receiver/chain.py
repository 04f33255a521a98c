"""The receiver: every control a real operation on the levels, in the order of a real one."""

import numpy as np

from mudlamp.core.arrays import ByteArray, Float32Array, FloatArray
from mudlamp.core.ping import Ping, SonarSetup
from mudlamp.core.receiver import _kernels, law
from mudlamp.core.receiver.bounces import BounceFilter
from mudlamp.core.setup import ReceiverSetup, checked_setup

# The noise estimate starts this much too high and settles with this time constant: some 20 minutes until it is done (common practice).
QUIETING_START_DB = 3.0
QUIETING_SETTLING_S = 300.0
QUIETING_FAST_S = 8.0
MOST_PINGS = 5
# The noise changes slowly: it is learned anew after so long.
NOISE_EVERY_S = 0.4


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
        self._tvg = law.tvg_db(sonar.range_m, sonar.absorption_db_m)
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
        gone = np.full(len(ping.setup.range_m), law.NEVER_DB)
        if setup.quieting_pings > 1:
            gone = np.maximum(gone, self._noise(ping.time_s) + law.quieting_over_db(setup.quieting_pings))
        if setup.ghost_cut_db > 0.0:
            gone = np.maximum(gone, self._strongest() + law.ghost_under_db(setup.ghost_cut_db))
            self._bounces.cut(self._level, ping, self._tvg, ghost_cut_db=setup.ghost_cut_db)
        picture = np.empty(self._level.shape, np.uint8)
        lift = self._tvg + law.lift_db(setup, ping.setup.range_m)
        span = float(law.span_db(setup.punch))
        _kernels.develop(
            self._level,
            lift.astype(np.float32),
            gone.astype(np.float32),
            np.float32(law.BLACK_DB),
            np.float32(1.0 / span),
            np.float32(setup.hide_below_db / span),
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
