"""The transducer: what it is (profile), how it is set (acquisition), where it looks (axes)."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.controls import TILT, TRANSDUCER, WINDOW
from mudlamp.core.errors import require_choice, require_range
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.setup import Setting, Window, value_of, with_settings
from mudlamp.core.sonar.pattern import Taper, half_power_width_x

BEAMS = 192
RANGE_BINS = 700
FLAT_TILT_RAD = math.radians(80.0)
FAN_RAD = (math.radians(60.0), math.radians(150.0))
THICKNESS_RAD = (math.radians(8.0), math.radians(40.0))
CARRIER_HZ = (4e5, 1.2e6)
FACETS = (1, 2, 3, 4)


@dataclass(frozen=True, slots=True, kw_only=True)
class Profile:
    """A transducer. Levels are invented: no maker publishes them.

    `fan_rad` whole fan; `thickness_rad` full width across it (two-way, 3 dB down); `aperture_m` of one facet;
    `noise_over_thermal_db` electronic noise above the thermal noise of the water. Facets differ a little: `facet_gain_db` each,
    `facet_bore_rad` how far each looks off its nominal direction; `seam_dip_db` is what a facet loses at its edge.
    """

    name: str
    fan_rad: float
    thickness_rad: float
    carrier_hz: float
    aperture_m: float
    facets: int
    source_level_db: float
    band_hz: float
    pulse_s: float
    noise_over_thermal_db: float
    facet_gain_db: tuple[float, ...]
    facet_bore_rad: tuple[float, ...]
    seam_dip_db: float
    taper: Taper

    def beam_width_rad(self, wavelength_m: float) -> float:
        """Return how wide a beam is at the middle of a facet, between its half-power points [rad]."""
        return half_power_width_x(self.taper) * wavelength_m / self.aperture_m

    @property
    def facet_rad(self) -> float:
        """The sector of one facet [rad]."""
        return self.fan_rad / self.facets

    def beam_angle_rad(self) -> FloatArray:
        """Return the (beam,) centers of the beams from the fan's center line [rad]."""
        step = self.fan_rad / BEAMS
        return (np.arange(BEAMS, dtype=np.float64) + 0.5) * step - self.fan_rad / 2.0

    def like(
        self,
        *,
        fan_rad: float | None = None,
        thickness_rad: float | None = None,
        carrier_hz: float | None = None,
        facets: int | None = None,
    ) -> "Profile":
        """Return this profile with other measures, where given; raise DomainError for one out of range.

        Other facets differ as much among themselves as these do.
        """
        found = self
        if fan_rad is not None:
            found = replace(found, fan_rad=require_range("fan_rad", fan_rad, *FAN_RAD, "rad"))
        if thickness_rad is not None:
            found = replace(found, thickness_rad=require_range("thickness_rad", thickness_rad, *THICKNESS_RAD, "rad"))
        if carrier_hz is not None:
            found = replace(found, carrier_hz=require_range("carrier_hz", carrier_hz, *CARRIER_HZ, "Hz"))
        if facets is not None and facets != self.facets:
            require_choice("facets", facets, FACETS)
            places = np.linspace(0.0, 1.0, facets) if facets > 1 else np.array([0.5])
            known = np.linspace(0.0, 1.0, self.facets)
            found = replace(
                found,
                facets=facets,
                facet_gain_db=tuple(float(value) for value in np.interp(places, known, self.facet_gain_db)),
                facet_bore_rad=tuple(float(value) for value in np.interp(places, known, self.facet_bore_rad)),
            )
        return found

    def facet_rad_nominal(self) -> FloatArray:
        """Return the (facet,) directions [rad] that the facets should look in, from the fan's center line."""
        return (np.arange(self.facets, dtype=np.float64) - (self.facets - 1) / 2.0) * self.facet_rad

    def facet_rad_true(self) -> FloatArray:
        """Return the (facet,) directions [rad] that the facets do look in."""
        return self.facet_rad_nominal() + np.array(self.facet_bore_rad)

    def seam_gain(self, off_rad: FloatArray) -> FloatArray:
        """Return the amplitude a facet hears with, off its middle by (N,) angles [rad]: 1, falling by `seam_dip_db` at its edge.

        Source: invented, 16th power of the sine, so that the dip is narrow.
        """
        share = np.minimum(np.abs(np.sin(off_rad)) / math.sin(self.facet_rad / 2.0), 1.2)
        return np.asarray(np.exp(share**16 * (-self.seam_dip_db * math.log(10.0) / 20.0)), dtype=np.float64)


def _profile(
    name: str, fan_deg: float, thickness_deg: float, *, gain_db: float, bore_deg: float, seam_dip_db: float, taper: Taper
) -> Profile:
    return Profile(
        name=name,
        fan_rad=math.radians(fan_deg),
        thickness_rad=math.radians(thickness_deg),
        carrier_hz=900e3,
        aperture_m=0.10,
        facets=3,
        source_level_db=205.0,
        band_hz=20e3,
        pulse_s=50e-6,
        noise_over_thermal_db=10.0,
        facet_gain_db=(gain_db, -0.5 * gain_db, -gain_db),
        facet_bore_rad=(math.radians(bore_deg), 0.0, math.radians(-bore_deg)),
        seam_dip_db=seam_dip_db,
        taper=taper,
    )


# The test profile's facets are matched well, so that levels can be held against theory; the demo's seams can be seen. The demo's elements
# are shaded harder: with -30 dB side lobes the bottom's own range would be the brightest arc of the picture.
PROFILES = {
    "demo": _profile(
        "demo", 126.0, 18.0, gain_db=0.9, bore_deg=0.25, seam_dip_db=2.5, taper=Taper(nbar=6, side_lobe_db=38.0, floor_db=-60.0)
    ),
    "test": _profile(
        "test", 135.0, 20.0, gain_db=0.1, bore_deg=0.03, seam_dip_db=1.0, taper=Taper(nbar=4, side_lobe_db=30.0, floor_db=-40.0)
    ),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Acquisition:
    """The controls that shape the ping: Fan, aim, Tilt, Reach, Down to, Look-back, Sound speed, Steady.

    `tilt_rad` is from plumb toward the bow; `sound_speed_m_s` is what the sounder assumes. `steady` levels the
    fan by the boat's motion sensor.
    """

    fan: Fan
    reach_m: float
    down_to_m: float
    look_back_m: float
    tilt_rad: float
    aim_rad: float
    sound_speed_m_s: float
    steady: bool = False

    @property
    def window(self) -> Window:
        """What of the ping the picture shows."""
        return Window(down_to_m=self.down_to_m, reach_m=self.reach_m, look_back_m=self.look_back_m)


def checked(acquisition: Acquisition) -> Acquisition:
    """Return `acquisition` where every control is in its range; raise DomainError naming the first that is not."""
    for control in (*TRANSDUCER, *WINDOW):
        control.checked(value_of(acquisition, control))
    return acquisition


def usual_tilt_rad(fan: Fan, profile: Profile) -> float:
    """Return the tilt [rad] a fan is mounted with: Below plumb, Ahead with its upper edge level, Flat 80 deg. Source: common practice."""
    return {Fan.BELOW: 0.0, Fan.AHEAD: math.pi / 2.0 - profile.fan_rad / 2.0, Fan.FLAT: FLAT_TILT_RAD}[fan]


def changed(acquisition: Acquisition, settings: Sequence[Setting], profile: Profile) -> Acquisition:
    """Return `acquisition` with settings; another Fan brings its usual tilt along, unless a tilt is set too."""
    found = with_settings(acquisition, *settings)
    if found.fan is acquisition.fan or any(one.control is TILT for one in settings):
        return found
    return replace(found, tilt_rad=usual_tilt_rad(found.fan, profile))


def range_cells_m(farthest: float) -> FloatArray:
    """Return the (range_bin,) cell centers [m] of a ping that covers `farthest` meters."""
    step = farthest / RANGE_BINS
    return (np.arange(RANGE_BINS, dtype=np.float64) + 0.5) * step


@dataclass(frozen=True, slots=True, kw_only=True)
class Axes:
    """Unit vectors in the world frame, (3,) each: the fan's center line, its edge (toward +beam_angle), its normal."""

    center: FloatArray
    edge: FloatArray
    normal: FloatArray

    def directions(self, beam_angle_rad: FloatArray) -> FloatArray:
        """Return the (beam, 3) unit vectors of beams at these angles [rad]."""
        return np.cos(beam_angle_rad)[:, None] * self.center + np.sin(beam_angle_rad)[:, None] * self.edge

    def locate(self, offset_m: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return range [m], beam angle [rad] and angle across the fan [rad] of (N, 3) offsets from the transducer [m]."""
        range_m = np.linalg.norm(offset_m, axis=1)
        angle_rad = np.arctan2(offset_m @ self.edge, offset_m @ self.center)
        across_rad = np.arcsin(np.clip(offset_m @ self.normal / np.maximum(range_m, 1e-9), -1.0, 1.0))
        return range_m, angle_rad, across_rad


def axes(pose: Pose, fan: Fan) -> Axes:
    """Return the fan's axes in the world for a pose.

    Pitch is bow up, roll is starboard down. Without them beam a points along sin(tilt - a) f + cos(tilt - a) d
    (Ahead, Below) or cos a (sin tilt f + cos tilt d) + sin a s (Flat), with f the heading, d down, s starboard.
    """
    heading, pitch, roll = pose.heading_rad, pose.pitch_rad, pose.roll_rad
    forward = np.array([math.sin(heading), math.cos(heading), 0.0])
    starboard = np.array([math.cos(heading), -math.sin(heading), 0.0])
    down = np.array([0.0, 0.0, 1.0])
    bow = math.cos(pitch) * forward - math.sin(pitch) * down
    keel = math.cos(pitch) * down + math.sin(pitch) * forward
    side = math.cos(roll) * starboard + math.sin(roll) * keel
    keel = math.cos(roll) * keel - math.sin(roll) * starboard
    center = math.sin(pose.tilt_rad) * bow + math.cos(pose.tilt_rad) * keel
    other = math.sin(pose.tilt_rad) * keel - math.cos(pose.tilt_rad) * bow
    if fan is Fan.FLAT:
        return Axes(center=center, edge=side, normal=-other)
    return Axes(center=center, edge=other, normal=side)
