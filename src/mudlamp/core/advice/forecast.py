"""The forecast: what a set-up will show in this water, worked out from mean levels without a ping. It answers in milliseconds.

What the simulator measures on pings, this estimates from the same equations: speckle is exponential in power about the mean
reverberation, fish and lure swing a few decibels about their target strength, the bottom is Lambert's. Where it differs from a
measurement, the measurement is right.
"""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.advice.answers import CoverKind, Situation
from mudlamp.core.advice.styles import Figures, cleaning_steps
from mudlamp.core.advice.windows import AHEAD_SHARE
from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.controls import NEAR_CUT, RECEIVER_NUMBERS
from mudlamp.core.ping import Fan
from mudlamp.core.plane import FanPlane
from mudlamp.core.receiver import law
from mudlamp.core.receiver.inks import SHOWN_LIGHTNESS, ink_lightness
from mudlamp.core.receiver.law import BLACK_DB, near_cut_profile_db, tvg_db
from mudlamp.core.receiver.readings import MARK_M, PARTING_GAPS_M, pair_db
from mudlamp.core.scene.bottom import LAMBERT_DB, REFLECTION_DB, Ground
from mudlamp.core.scene.species import Species, side_target_strength_db
from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.core.sonar import reverberation
from mudlamp.core.sonar.pattern import equivalent_across_rad
from mudlamp.core.sonar.transducer import Profile, usual_tilt_rad
from mudlamp.core.water.clarity import suspension
from mudlamp.core.water.sound import absorption_db_per_m, sound_speed_m_s
from mudlamp.core.water.thermocline import Thermocline

RANGES = 26
LOOKS = 14
NEAREST_M = 1.5
# A median of an exponential lies so far under its mean [dB].
MEDIAN_DB = 10.0 * math.log10(math.log(2.0))
# Marks are the greatest of a few cells, fish and lure swing (3 dB, and end-on fish lose most): ours, by comparison with the simulator.
MARK_DB = 1.5
SWING_DB = 3.0
END_ON_DB = 12.0
# The faintest of several fish shows so much less over what is about it than one seen end-on (by comparison with the simulator).
FAINTEST_UNDER_DB = 4.5
# Levels of exponential power about its mean, by five quantiles [dB].
QUANTILE_DB = 10.0 * np.log10(-np.log1p(-np.array([0.1, 0.3, 0.5, 0.7, 0.9])))
# What stands in a picture besides open water, as a share of its cells; what of it is cover (ours).
SOLID_SHARE = 0.10
COVER_SHARE = {
    CoverKind.OPEN: 0.0,
    CoverKind.BRUSH: 0.25,
    CoverKind.TIMBER: 0.3,
    CoverKind.WEEDS: 0.35,
    CoverKind.DOCK: 0.2,
    CoverKind.ROCKS: 0.2,
}
COVER_DB = -40.0
# Among trunks a lure hangs before wood half of the time, elsewhere beside it: so much is left of how far it stands over what is about it, of
# its chance to be shown, and of its contrast. It swings, and shows some decibels fainter than its strongest part. All by comparison with
# the simulator.
LEFT_AMONG_COVER = {CoverKind.TIMBER: (0.36, 0.75, 0.5)}
SWUNG_DB = 1.9
# Of the bottom's lit cells so many are in the middle of its echo; of its echo so much leaks into the other beams (both by comparison
# with the simulator).
CORE_SHARE = 0.3
# Over so much of the height over it the bottom's echo comes up, from so far under its own level (ours).
ONSET_SHARE, ONSET_DB = 0.35, 90.0
LEAK_UNDER_FLOOR_DB = 6.0
# Between open water and the bottom, weeds or bubbles lies a fringe that is neither: of open water so much is lit by it for each decibel
# that what shows comes down below its upper end, and how much less of it is left by the middle of so many pings (all by comparison with the
# simulator). Under ice nothing moves: there is less of it, nothing of what wind and murk add, and Quieting takes none away.
FRINGE_DB = -56.0
FRINGE_SHARE, FRINGE_SHARE_M, FRINGE_SHARE_WIND, FRINGE_SHARE_WEEDS, FRINGE_SHARE_MUD = 0.0016, 0.0099, 0.0005, 0.0016, 0.0008
FRINGE_SHARE_MURKY, FRINGE_MURKY_M = 0.0015, 0.8
FRINGE_UNDER_ICE = 0.15
FRINGE_LEFT = {1: 1.0, 2: 0.6, 3: 0.35, 5: 0.35}
# The strongest of a range, which Ghost cut counts from, is so far over the bottom's mean there (by comparison with the simulator).
STRONGEST_OVER_DB = 4.0
# Spokes of one other live sonar: the share of the cells they light, single pings at a time (ours).
SPOKE_SHARE = 0.05
# Bounces off hard shallow bottom: cells they fall on, and how far under the bottom's own reflection they come back (ours).
GHOST_SHARE = 0.03
GHOST_DB = -34.0
# In deeper water they fade [m]: from all to none (ours).
GHOSTS_FADE_M = (4.5, 7.5)
GHOST_LEFT = {0.0: 1.0, 34.0: 0.5, 28.0: 0.3, 22.0: 0.2}
# How much of a slow fish or lure is lost by taking the middle of so many pings [dB].
SMEAR_DB = {1: 0.0, 2: 0.4, 3: 1.0, 5: 2.0}
TYPICAL_FISH_M = {
    Species.CRAPPIE: 0.28,
    Species.BLUEGILL: 0.16,
    Species.LARGEMOUTH: 0.40,
    Species.CARP: 0.6,
    Species.DRUM: 0.5,
    Species.GAR: 0.8,
    Species.CATFISH: 0.5,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Gear:
    """What of the rig the forecast needs: transducer profile, its depth [m], the lure's target strength [dB re 1 m^2] or None, pings a second."""

    profile: Profile
    depth_m: float = 0.4
    lure_ts_db: float | None = -55.5
    ping_hz: float = 20.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Candidates:
    """Set-ups side by side, (N,) arrays in the core's units, all of one ink."""

    gain: FloatArray
    near_cut_db: FloatArray
    quieting_pings: FloatArray
    ghost_cut_db: FloatArray
    punch: FloatArray
    hide_below_db: FloatArray
    ink: str


def candidates(setups: list[ReceiverSetup]) -> Candidates:
    """Return set-ups, all of one ink, as arrays."""
    return Candidates(
        **{control.name: np.array([float(getattr(one, control.name)) for one in setups]) for control in RECEIVER_NUMBERS}, ink=setups[0].ink
    )


def varied(setup: ReceiverSetup, control: str, values: FloatArray) -> Candidates:
    """Return a set-up with one control at (N,) values, as arrays."""
    given = {one.name: values if one.name == control else np.full(len(values), float(getattr(setup, one.name))) for one in RECEIVER_NUMBERS}
    return Candidates(**given, ink=setup.ink)


def _over_threshold(share: FloatArray, pings: int) -> FloatArray:
    """Return the chance that speckle whose mean is 1 exceeds a power threshold `share`, in the middle of so many independent pings.

    Source: exponential power; two: geometric mean, 2 t K1(2 t); three and five: order statistics.
    """
    if pings == 2:
        # Imported here: special functions are slow to load, and the first page should not wait for them.
        from scipy.special import k1

        safe = 2.0 * np.clip(share, 1e-9, 300.0)
        return np.asarray(safe * k1(safe), dtype=np.float64)
    single = np.exp(-np.minimum(share, 700.0))
    if pings == 3:
        return np.asarray(3.0 * single**2 - 2.0 * single**3, dtype=np.float64)
    if pings == 5:
        return np.asarray(10.0 * single**3 - 15.0 * single**4 + 6.0 * single**5, dtype=np.float64)
    return np.asarray(single, dtype=np.float64)


class Forecast:
    """Mean levels of this water through this window; asked for the figures of any set-up."""

    def __init__(self, here: Situation, gear: Gear, window: Window) -> None:
        self._here, self._gear, self._window = here, gear, window
        profile = gear.profile
        speed = float(sound_speed_m_s(temperature_degc=here.temperature_degc))
        self._absorption_db_m = float(absorption_db_per_m(carrier_hz=profile.carrier_hz, temperature_degc=here.temperature_degc))
        floating = suspension(secchi_m=here.secchi_m)
        loss_db_m = self._absorption_db_m + floating.attenuation_db_m
        farthest = window.farthest_m(gear.depth_m)
        self.range_m = np.linspace(NEAREST_M, farthest, RANGES)
        self._tvg = tvg_db(self.range_m, self._absorption_db_m)
        # Turbid water takes more than the built-in TVG gives back.
        self._fade_db = 2.0 * floating.attenuation_db_m * self.range_m
        self._pulse_m = max(speed * profile.pulse_s / 2.0, 2.0 * farthest / 700.0)
        self._wavelength_m = speed / profile.carrier_hz
        tilt = usual_tilt_rad(Fan.AHEAD, profile)
        plane, angles = FanPlane(fan=Fan.AHEAD, tilt_rad=tilt, depth_m=gear.depth_m), np.linspace(-0.46, 0.46, LOOKS) * profile.fan_rad
        self._directions = np.column_stack((np.zeros(LOOKS), *plane.shares(angles)))
        self.speckle_db, self._still = self._speckle(here, speed, loss_db_m)
        self._median_db = np.median(self.speckle_db, axis=1) + MEDIAN_DB
        _, z = plane.place(self.range_m[:, None], angles[None, :])
        wet = plane.inside(self.range_m[:, None], angles[None, :], window) & (z > 0.0) & (z < here.depth_m)
        # Cells are counted, not areas: every beam has as many cells near as far.
        self._weight = wet / max(float(np.count_nonzero(wet)), 1.0)
        self.bottom_db = self._bottom(here, loss_db_m)
        self.interval_s = 1.0 / min(gear.ping_hz, speed / (2.0 * farthest))
        self._place_targets()

    def _speckle(self, here: Situation, speed: float, loss_db_m: float) -> tuple[FloatArray, BoolArray]:
        """Return the mean level of all that is not a target, (range, look), after TVG [dB re 1 m^2], and where it is the same in every ping."""
        gear, profile = self._gear, self._gear.profile
        power = reverberation.mean_power(
            reverberation.Sounding(
                profile=profile,
                range_m=self.range_m,
                directions=self._directions,
                depth_m=gear.depth_m,
                pulse_m=self._pulse_m,
                wavelength_m=self._wavelength_m,
                absorption_db_m=self._absorption_db_m,
                suspension=suspension(secchi_m=here.secchi_m),
                wind=None if here.ice else reverberation.wind_effects(here.wind_m_s),
                thermocline=None if here.thermocline_m is None else Thermocline(depth_m=here.thermocline_m),
            )
        ).astype(np.float64)
        noise = reverberation.noise_power(profile=profile, temperature_degc=here.temperature_degc, speed_m_s=speed)
        leak = 10.0 ** ((self._bottom(here, loss_db_m) - self._tvg + profile.taper.floor_db - LEAK_UNDER_FLOOR_DB) / 10.0)
        # Under ice nothing moves: all but noise is the same in every ping.
        still = (leak[:, None] + power > noise) & here.ice
        return 10.0 * np.log10(power + noise + leak[:, None]) + self._tvg[:, None], still

    def _bottom(self, here: Situation, loss_db_m: float) -> FloatArray:
        """Return the bottom's level by slant range (range,), after TVG [dB re 1 m^2]; nothing nearer than the bottom."""
        height = max(here.depth_m - self._gear.depth_m, 0.3)
        sine = np.clip(height / self.range_m, 0.0, 1.0)
        cell = reverberation.pulse_cell_m(self._pulse_m)
        cosine = np.sqrt(np.maximum(1.0 - sine**2, 0.02))
        area = self.range_m * equivalent_across_rad(self._gear.profile.thickness_rad) * cell / cosine
        level = LAMBERT_DB[here.ground] + 20.0 * np.log10(np.maximum(sine, 1e-3)) + 10.0 * np.log10(area)
        level = level - 2.0 * (loss_db_m - self._absorption_db_m) * self.range_m
        # Before the bottom comes its echo through the beams' skirts, weaker the nearer: nothing jumps as fish come down to it.
        before = np.clip((height - self.range_m) / (ONSET_SHARE * height), 0.0, 1.0)
        return np.asarray(level - ONSET_DB * before)

    def _place_targets(self) -> None:
        """Put fish and lure where they are fished: by technique some way ahead, at the depth of the fish."""
        here = self._here
        depth = max(here.fish_m - self._gear.depth_m, 0.3)
        ahead = AHEAD_SHARE[here.technique] * self._window.reach_m
        self.target_range_m = min(max(math.hypot(ahead, depth), NEAREST_M), float(self.range_m[-1]))
        # Between the ranges beside it, so that nothing jumps as it moves.
        between = np.clip((self.target_range_m - self.range_m[0]) / (self.range_m[1] - self.range_m[0]), 0.0, RANGES - 1.001)
        self._near, self._toward = int(between), float(between) - int(between)
        look = math.atan2(ahead, depth)
        looks = np.arctan2(self._directions[:, 1], self._directions[:, 2])
        order = np.argsort(looks)
        self._along = np.array([np.interp(look, looks[order], row[order]) for row in self.speckle_db])
        fish = side_target_strength_db(species=here.target, length_m=TYPICAL_FISH_M[here.target], carrier_hz=self._gear.profile.carrier_hz)
        self.fish_db = fish - float(self._there(self._fade_db))
        self.lure_db = None if self._gear.lure_ts_db is None else self._gear.lure_ts_db - float(self._there(self._fade_db))
        self.clutter_db = float(self._there(self._along))
        self._strongest_db = max(float(self._there(self.bottom_db)) + STRONGEST_OVER_DB, self.fish_db)
        # Every third gap: for a forecast it is fine enough.
        self._gaps_m = PARTING_GAPS_M[::3]
        self._pair_db = pair_db(self._gear.profile.beam_width_rad(self._wavelength_m) * self.target_range_m)[:, ::3]

    def _there(self, values: FloatArray) -> FloatArray:
        """Return values (..., range) at the targets' range (...)."""
        return np.asarray((1.0 - self._toward) * values[..., self._near] + self._toward * values[..., self._near + 1])

    @property
    def mark_m(self) -> tuple[float, float]:
        """How large a small target is drawn, across and along the beam [m]."""
        across = self._gear.profile.beam_width_rad(self._wavelength_m) * self.target_range_m
        return across, max(self._pulse_m, MARK_M)

    def clutter_at_db(self, range_m: float) -> float:
        """Return the mean level of all that is not a target at a range [m], where the fish are looked for [dB re 1 m^2]."""
        return float(np.interp(range_m, self.range_m, self._along))

    def fade_at_db(self, range_m: float) -> float:
        """Return what turbid water takes of an echo beyond what TVG gives back, there and back over a range [m] [dB]."""
        return float(np.interp(range_m, self.range_m, self._fade_db))

    def figures(self, asked: Candidates) -> Figures:
        """Return the estimated readings of (N,) candidates."""
        lift = self._lift(asked)
        span = law.span_db(asked.punch)
        floor = law.shows_over_db(asked.ink, asked.punch, asked.hide_below_db)
        quiet = self._quiet(asked)
        clutter = self._clutter(asked, lift, floor, quiet)
        levels = [self.fish_db, self.fish_db - END_ON_DB, *([] if self.lure_db is None else [self.lure_db - SWUNG_DB])]
        over, shown, apart = self._targets(asked, lift, floor, span, quiet, np.array(levels))
        left_over, left_shown, left_apart = LEFT_AMONG_COVER.get(self._here.cover, (1.0, 1.0, 1.0))
        return Figures(
            lure_over_db=None if self.lure_db is None else left_over * over[2],
            lure_shown=None if self.lure_db is None else left_shown * shown[2],
            fish_over_db=over[1] - FAINTEST_UNDER_DB,
            fish_shown=0.6 * shown[0] + 0.4 * shown[1],
            clutter=clutter,
            blown=self._blown(lift, span, clutter),
            lag_s=law.lag_s(asked.quieting_pings, self.interval_s),
            parting_m=self._parting(asked, lift, span),
            steps=np.array(
                [
                    cleaning_steps(*one)
                    for one in zip(asked.near_cut_db, asked.quieting_pings, asked.ghost_cut_db, asked.hide_below_db, strict=True)
                ]
            ),
            contrast=apart[1] if self.lure_db is None else left_apart * apart[2],
        )

    def _lift(self, asked: Candidates) -> FloatArray:
        """Return what is added to a level after TVG (N, range) [dB]."""
        near = np.zeros((len(asked.gain), RANGES))
        for step in NEAR_CUT.steps[1:]:
            near[asked.near_cut_db == step] = near_cut_profile_db(self.range_m, step)
        return law.gain_db(asked.gain)[:, None] - near

    def _quiet(self, asked: Candidates) -> FloatArray:
        """Return Quieting's threshold by range (N, range), after TVG [dB]: its estimate, a median over beams, and some decibels more."""
        over = np.array([law.quieting_over_db(int(count)) for count in asked.quieting_pings])
        return self._median_db[None, :] + over[:, None]

    def _clutter(self, asked: Candidates, lift: FloatArray, floor: FloatArray, quiet: FloatArray) -> FloatArray:
        visible = BLACK_DB + floor[:, None] - lift
        cut = np.where(asked.ghost_cut_db > 0.0, STRONGEST_OVER_DB - asked.ghost_cut_db, law.NEVER_DB)[:, None] + self.bottom_db[None, :]
        threshold = np.maximum(np.maximum(visible, quiet), cut)
        lit = np.zeros(len(asked.gain))
        for count in np.unique(asked.quieting_pings):
            mine = asked.quieting_pings == count
            over = 10.0 ** ((threshold[mine][:, :, None] - self.speckle_db[None, :, :]) / 10.0)
            shown = np.where(self._still, _over_threshold(over, 1), _over_threshold(over, int(count)))
            lit[mine] = np.sum(shown * self._weight, axis=(1, 2))
        spokes = SPOKE_SHARE * self._here.other_sonars * np.select([asked.quieting_pings >= 3, asked.quieting_pings == 2], [0.02, 0.5], 1.0)
        return np.minimum(lit + spokes + self._fringe(asked, floor) + self._ghosts(asked, visible), 1.0)

    def _fringe(self, asked: Candidates, floor: FloatArray) -> FloatArray:
        """Return the share of open water that is lit by what is neither water nor bottom (N,)."""
        here = self._here
        shallow = FRINGE_SHARE_M / min(max(here.depth_m, 1.5), 20.0)
        murky = FRINGE_SHARE_MURKY * min(max(2.0 - here.secchi_m / FRINGE_MURKY_M, 0.0), 1.0)
        share = FRINGE_SHARE + shallow
        share = FRINGE_UNDER_ICE * share if here.ice else share + FRINGE_SHARE_WIND * here.wind_m_s + murky
        share += FRINGE_SHARE_WEEDS * (here.cover is CoverKind.WEEDS) + FRINGE_SHARE_MUD * (here.ground is Ground.MUD)
        left = 1.0 if here.ice else np.select([asked.quieting_pings == count for count in FRINGE_LEFT], list(FRINGE_LEFT.values()), 1.0)
        shows = BLACK_DB + floor - law.gain_db(asked.gain)
        return np.asarray(share * left * np.maximum(FRINGE_DB - shows, 0.0))

    def _ghosts(self, asked: Candidates, visible: FloatArray) -> FloatArray:
        here = self._here
        if here.ground not in (Ground.GRAVEL, Ground.ROCK):
            return np.zeros(len(asked.gain))
        fades = float(np.interp(here.depth_m, GHOSTS_FADE_M, (1.0, 0.0)))
        level = GHOST_DB + REFLECTION_DB[here.ground]
        shows = 1.0 / (1.0 + np.exp((self._there(visible) - level) / SWING_DB))
        left = np.select([asked.ghost_cut_db == step for step in GHOST_LEFT], list(GHOST_LEFT.values()), 1.0)
        return GHOST_SHARE * (6.0 / max(here.depth_m, 1.5)) * shows * left * fades

    def _targets(
        self, asked: Candidates, lift: FloatArray, floor: FloatArray, span: FloatArray, quiet: FloatArray, level_db: FloatArray
    ) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return the levels over clutter [dB] of (T,) targets, the chances that they are shown, and their differences in CIE L*, (T, N) each."""
        smear = np.array([SMEAR_DB[int(count)] for count in asked.quieting_pings])
        level = level_db[:, None] + MARK_DB - smear
        at = self._there(lift)
        cut = np.where(asked.ghost_cut_db > 0.0, self._strongest_db - asked.ghost_cut_db, -300.0)
        stop = np.maximum(self._there(quiet), cut)
        passed = 1.0 / (1.0 + np.exp(-(level - stop) / (0.6 * SWING_DB)))
        mark = np.clip(level + at - BLACK_DB, 0.0, span)
        # The ground about it: speckle by a few quantiles, as far as it shows.
        around = self.clutter_db + QUANTILE_DB
        shown = np.clip(around[None, :] + at[:, None] - BLACK_DB, 0.0, span[:, None])
        ground = np.where((shown >= asked.hide_below_db[:, None]) & (around[None, :] >= stop[:, None]), shown, 0.0).mean(axis=1)
        over = np.where(mark >= asked.hide_below_db, mark, 0.0) * passed - ground
        chance = passed / (1.0 + np.exp(-(over - floor) / (0.8 * SWING_DB)))
        # A mark counts as shown when it is so most of the time.
        table = ink_lightness(asked.ink)
        marks, about = (np.interp(255.0 * level / span, np.arange(256.0), table) for level in (mark, ground))
        return over, np.clip((chance - 0.3) / 0.6, 0.0, 1.0), np.abs(marks - about) * passed

    def _blown(self, lift: FloatArray, span: FloatArray, clutter: FloatArray) -> FloatArray:
        """Return the share of lit cells at full brightness (N,): of bottom, cover and speckle."""
        here = self._here
        cover = COVER_SHARE[here.cover]
        full = BLACK_DB + 0.98 * span[:, None] - lift
        there = self.range_m >= 0.95 * max(here.depth_m - self._gear.depth_m, 0.3)
        chance = np.exp(-np.minimum(10.0 ** ((full - self.bottom_db[None, :]) / 10.0), 700.0))
        bottom = chance[:, there].mean(axis=1) if there.any() else np.zeros(len(span))
        branches = 1.0 / (1.0 + np.exp((self._there(full) - COVER_DB) / SWING_DB))
        solid = SOLID_SHARE * ((1.0 - cover) * bottom + cover * branches)
        lit = SOLID_SHARE + (1.0 - SOLID_SHARE) * clutter
        return CORE_SHARE * solid / lit

    def _parting(self, asked: Candidates, lift: FloatArray, span: FloatArray) -> FloatArray:
        """Return the least gap at which two fish part (N,) [m], by `readings.parting_m`'s rule."""
        table = ink_lightness(asked.ink)
        light = []
        for pair in self._pair_db:
            level = pair[None, :] + self._there(lift)[:, None]
            light.append(table[np.rint(255.0 * np.clip(law.share_of(level, span[:, None]), 0.0, 1.0)).astype(np.int64)])
        apart = np.abs(light[0] - light[1])
        parts = apart >= SHOWN_LIGHTNESS
        first = np.argmax(parts, axis=1)
        row, before = np.arange(len(first)), np.maximum(first - 1, 0)
        # Between two gaps, so that nothing jumps from one to the next.
        rise = np.maximum(apart[row, first] - apart[row, before], 1e-9)
        share = np.where(first > 0, np.clip((SHOWN_LIGHTNESS - apart[row, before]) / rise, 0.0, 1.0), 1.0)
        gap = self._gaps_m[before] + share * (self._gaps_m[first] - self._gaps_m[before])
        return np.where(parts.any(axis=1), gap, 4.0)
