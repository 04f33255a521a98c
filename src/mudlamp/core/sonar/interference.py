"""What disturbs the receiver: a second live transducer, the motor, a low battery. All levels are invented, their order is common practice."""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray

HEALTHY_SUPPLY_V = 11.5
MOTOR_DB = 24.0
BLADE_HZ = 55.0
OTHER_TAIL_S = 0.006
OTHER_PULSE_S = 150e-6
OTHER_TAIL_DB = -5.0
OTHER_ELSEWHERE_DB = -22.0
OTHER_WIDTH_RAD = math.radians(5.0)
# A console sonar's carrier and harmonics [dB under its carrier]; its pulse, and how its bottom's echo rings on after it.
HARMONICS_DB = (0.0, -26.0, -36.0, -42.0)
CONSOLE_PULSE_S = 250e-6
CONSOLE_TAIL_S = 0.0015
CONSOLE_TAIL_DB = -8.0


@dataclass(frozen=True, slots=True, kw_only=True)
class OtherSonar:
    """A second live transducer: its pings a second, where it lies as an angle of our fan [rad], and how loud it arrives there.

    `level_db` is its pulse in the beam that looks at it, relative to our own source level at 1 m.
    """

    ping_hz: float
    angle_rad: float
    level_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Console:
    """A console sonar on the same boat: its carrier [Hz], pings a second, and how loud its carrier arrives.

    Its cone is wide and near: all our beams hear it alike. `level_db` is relative to our own source level at 1 m.
    """

    carrier_hz: float
    ping_hz: float
    level_db: float

    def in_band_db(self, *, carrier_hz: float, band_hz: float) -> float:
        """Return how loud its pulse is within our band [dB]: the best placed of its carrier and harmonics, less what falls beside the band.

        Source: harmonics invented, their order common practice; the splatter of a short pulse falls by 20 dB a decade
        beside its line, and our receiver's band takes as much again.
        """
        half = band_hz / 2.0
        return self.level_db + max(
            under - 20.0 * math.log10(1.0 + ((number * self.carrier_hz - carrier_hz) / half) ** 2)
            for number, under in enumerate(HARMONICS_DB, start=1)
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Disturbance:
    """What disturbs: another live sonar, a console sonar, the motor's thrust (0 to 1), the voltage at the unit [V]."""

    other: OtherSonar | None = None
    console: Console | None = None
    thrust: float = 0.0
    supply_v: float = 12.6

    @property
    def weakness_v(self) -> float:
        """How far the supply lies under what the unit needs [V]."""
        return max(0.0, HEALTHY_SUPPLY_V - self.supply_v)

    @property
    def source_db(self) -> float:
        """What the source level changes by [dB]: 3 dB less for every half volt too little."""
        return -6.0 * self.weakness_v

    @property
    def noise_db(self) -> float:
        """What the noise rises by [dB], from motor and supply."""
        return MOTOR_DB * self.thrust**1.5 + 8.0 * self.weakness_v

    @property
    def dropout_chance(self) -> float:
        """The chance that a ping is lost, from the supply: a quarter for every volt too little."""
        return min(0.6, 0.25 * self.weakness_v)


def noise_profile(disturbance: Disturbance, *, quiet_power: float, range_m: FloatArray, speed_m_s: float, turn_rad: float) -> FloatArray:
    """Return the noise power at each range (range_bin,): the quiet one raised, beating with the propeller's blades from phase `turn_rad`."""
    power = np.full(len(range_m), quiet_power * 10.0 ** (disturbance.noise_db / 10.0))
    if disturbance.thrust > 0.0:
        beat = np.sin(2.0 * math.pi * BLADE_HZ * 2.0 * range_m / speed_m_s + turn_rad)
        power *= 1.0 + 0.8 * min(1.0, 2.0 * disturbance.thrust) * beat
    return power


def other_beams(other: OtherSonar, beam_angle_rad: FloatArray) -> Float32Array:
    """Return how much of another sonar each beam hears (beam,), as an amplitude, 1 in the beam that looks at it."""
    floor = 10.0 ** (OTHER_ELSEWHERE_DB / 20.0)
    return np.maximum(np.exp(-(((beam_angle_rad - other.angle_rad) / OTHER_WIDTH_RAD) ** 2)), floor).astype(np.float32)


def burst_starts(ping_hz: float, *, window_s: float, rng: np.random.Generator) -> list[float]:
    """Return when another sounder's pings arrive in our listening window [s after our ping]: its clock knows nothing of ours."""
    period = 1.0 / ping_hz
    first = float(rng.uniform(0.0, period)) - OTHER_TAIL_S
    return [float(at) for at in np.arange(first, window_s, period)]
