"""The coin of the realm: one ping, as the transducer heard it from where it was."""

from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.arrays import Float32Array, FloatArray


class Fan(StrEnum):
    """The fan's orientation: vertical and forward, straight down, or laid on its side."""

    AHEAD = "ahead"
    BELOW = "below"
    FLAT = "flat"


@dataclass(frozen=True, slots=True, kw_only=True)
class Pose:
    """Where the transducer was and how it looked: x east, y north, z down [m]; angles [rad].

    `heading_rad` is clockwise from north and includes the aim; `tilt_rad` is the fan's center line from plumb toward the bow.
    """

    x_m: float
    y_m: float
    z_m: float
    heading_rad: float
    pitch_rad: float
    roll_rad: float
    tilt_rad: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SonarSetup:
    """What stays the same from ping to ping, as the sounder assumed it.

    Parameters
    ----------
    beam_angle_rad : (beam,) array
        Beam centers in the fan's plane from its center line [rad]; negative forward (Ahead, Below) or to port (Flat).
    range_m : (range_bin,) array
        Cell centers [m], by the assumed sound speed.
    thickness_rad : float
        Full width across the fan at which the two-way level is 3 dB down [rad].
    beam_width_rad : float
        Width of a beam in the fan's plane at the middle of a facet, between its half-power points [rad].
    """

    fan: Fan
    beam_angle_rad: FloatArray
    range_m: FloatArray
    carrier_hz: float
    pulse_s: float
    source_level_db: float
    absorption_db_m: float
    sound_speed_m_s: float
    thickness_rad: float
    beam_width_rad: float

    @property
    def bin_m(self) -> float:
        """The length of a range cell [m]."""
        return float(self.range_m[1] - self.range_m[0])

    @property
    def farthest_m(self) -> float:
        """The far end of the last range cell [m]."""
        return float(self.range_m[-1]) + self.bin_m / 2.0

    @property
    def beam_step_rad(self) -> float:
        """The angle between neighboring beams [rad]."""
        return float(self.beam_angle_rad[1] - self.beam_angle_rad[0])


@dataclass(frozen=True, slots=True, kw_only=True)
class Ping:
    """One ping.

    `echo_level_db` is a (beam, range_bin) float32 array: echo level minus source level [dB], before any
    receiver step, without TVG. Truth never travels in it.
    """

    number: int
    time_s: float
    pose: Pose
    setup: SonarSetup
    echo_level_db: Float32Array
