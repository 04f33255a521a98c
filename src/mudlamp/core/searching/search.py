"""A search: a boat idles over a reach of water and its console sounds, a column a ping in every open view."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.chance import stream
from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.scene.reach import Reach
from mudlamp.core.scene.reach_water import ReachWater
from mudlamp.core.searching.boat import IdlingBoat, Standing
from mudlamp.core.searching.points import points_of
from mudlamp.core.sonar.console import (
    ALL_ROUND,
    ALL_ROUND_HZ,
    ALL_ROUND_STEPS,
    FAN,
    FAN_HZ,
    VIEWS,
    ConsoleView,
    Keel,
    ViewKind,
    ViewProfile,
)
from mudlamp.core.sonar.synthesis import WaterBody

PING_HZ = 15.0
# How far a view can hear beyond its Reach without showing it, none; how far the depth sounder looks for the bottom at most [m].
SOUNDER_M = 20.0
SOUNDER_HZ = 200e3
# A boat's own wake: how strong when fresh [dB re 1 m^-1], how fast it clears [dB/s], from which age on it is not the boat's own wash [s].
WAKE_DB, WAKE_CLEARS_DB_S, WAKE_FROM_S, WAKE_CELL_M = -44.0, 0.1, 20.0, 3.0
# Nearer than this nothing is taken for the bottom [m].
NO_BOTTOM_M = 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewSetting:
    """How a view is set: carrier [Hz], and Reach [m]."""

    kind: ViewKind
    carrier_hz: float
    reach_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Sounded:
    """One ping of the search: its number, where the boat was told to be and really was, depth under the transducer [m] as sounded, and the echo

    levels of every open view (beam, range_bin) [dB].
    """

    number: int
    told: Standing
    truly: Standing
    depth_m: float
    levels_db: Mapping[ViewKind, Float32Array]


def body_of(reach: Reach) -> WaterBody:
    """Return the water that a reach's pings travel through."""
    water = reach.water
    return WaterBody(
        temperature_degc=water.temperature_degc, secchi_m=water.secchi_m, wind_m_s=water.wind_m_s, noise=True, thermocline=None
    )


class Search:
    """A boat, its console and the water. The same reach, seed and orders give the same columns."""

    def __init__(self, reach: Reach, views: Sequence[ViewSetting], *, boat: IdlingBoat, seed: int) -> None:
        self.water = ReachWater(reach)
        self.boat = boat
        self._seed = seed
        self._number = 0
        self._opened = 0
        self._wake: dict[tuple[int, int], float] = {}
        self._sounder = self._view(ViewSetting(kind=ViewKind.SCROLLING, carrier_hz=SOUNDER_HZ, reach_m=SOUNDER_M))
        self.views: dict[ViewKind, ConsoleView] = {}
        self._fan: ConsoleView | None = None
        self.open_views(views)

    def _view(self, setting: ViewSetting) -> ConsoleView:
        self._opened += 1
        return ConsoleView(
            VIEWS[setting.kind],
            carrier_hz=setting.carrier_hz,
            reach_m=setting.reach_m,
            water=body_of(self.water.reach),
            survey=self.water.reach.survey,
            seed=self.water.reach.seed,
            rng=stream(self._seed, "console", self._opened),
        )

    def open_views(self, settings: Sequence[ViewSetting]) -> None:
        """Open these views, and close the others; one that stays as it is goes on undisturbed."""
        opened = {}
        for one in settings:
            now = self.views.get(one.kind)
            same = now is not None and now.carrier_hz == one.carrier_hz and now.reach_m == one.reach_m
            opened[one.kind] = now if same and now is not None else self._view(one)
        self.views = opened

    @property
    def ping_hz(self) -> float:
        """How often the console pings: no faster than its farthest echo comes back."""
        return min([PING_HZ, *(view.longest_hz for view in self.views.values())])

    def ping(self) -> Sounded:
        """Go on by one ping."""
        self.boat.advance(1.0 / self.ping_hz)
        truly = self.boat.truly()
        x, y, z = truly.transducer_m
        origin = np.array([x, y, z])
        self.water.roaming.feel((x, y), truly.time_s)
        within = max([SOUNDER_M, *(view.reach_m for view in self.views.values())])
        points, posts = self.water.hear(origin, truly.time_s, within_m=within)
        keel, wake = Keel(origin_m=origin, heading_rad=truly.heading_rad), self._wake_db(x, y, truly.time_s)
        sounding = self._sounder.column(keel, points, posts, wake_db=wake)
        levels = {kind: view.column(keel, points, posts, wake_db=wake) for kind, view in self.views.items()}
        self._number += 1
        return Sounded(
            number=self._number - 1, told=self.boat.told(), truly=truly, depth_m=bottom_of(sounding[0], self._sounder), levels_db=levels
        )

    def points(self, reach_m: float) -> FloatArray:
        """Return the points (N, 5) that a fan of narrow beams across the track makes of the water under the boat now, as `points_of` has them."""
        if self._fan is None or self._fan.reach_m != reach_m:
            self._opened += 1
            reach = self.water.reach
            self._fan = ConsoleView(
                FAN, carrier_hz=FAN_HZ, reach_m=reach_m, water=body_of(reach), survey=reach.survey, seed=reach.seed,
                rng=stream(self._seed, "console", self._opened),
            )  # fmt: skip
        truly = self.boat.truly()
        origin = np.array(truly.transducer_m)
        heard, posts = self.water.hear(origin, truly.time_s, within_m=reach_m)
        levels = self._fan.column(Keel(origin_m=origin, heading_rad=truly.heading_rad), heard, posts)
        return points_of(levels, self._fan, self.boat.told())

    def all_round(self, reach_m: float) -> tuple[Float32Array, ConsoleView]:
        """Return one turn of the all-round scan from where the boat is, (step, range_bin) [dB], clockwise from the bow, and the view it was made by.

        The beam looks to starboard of a keel that is turned step by step.
        """
        profile = ViewProfile(kind=ViewKind.SIDE, shapes=(ALL_ROUND,), carriers_hz=(ALL_ROUND_HZ,))
        self._opened += 1
        reach = self.water.reach
        view = ConsoleView(
            profile, carrier_hz=ALL_ROUND_HZ, reach_m=reach_m, water=body_of(reach), survey=reach.survey, seed=reach.seed,
            rng=stream(self._seed, "console", self._opened),
        )  # fmt: skip
        truly = self.boat.truly()
        origin = np.array(truly.transducer_m)
        points, posts = self.water.hear(origin, truly.time_s, within_m=reach_m)
        turns = truly.heading_rad - 0.5 * math.pi + 2.0 * math.pi * np.arange(ALL_ROUND_STEPS) / ALL_ROUND_STEPS
        levels = [view.column(Keel(origin_m=origin, heading_rad=float(turn)), points, posts)[0] for turn in turns]
        return np.array(levels, dtype=np.float32), view

    def _wake_db(self, x_m: float, y_m: float, time_s: float) -> float:
        """Return how strong the wake is here [dB re 1 m^-1]: the boat came by before, and stirred the water."""
        cell = (math.floor(x_m / WAKE_CELL_M), math.floor(y_m / WAKE_CELL_M))
        last = self._wake.get(cell)
        if last is not None and time_s - last < WAKE_FROM_S:
            return -200.0
        self._wake[cell] = time_s
        return -200.0 if last is None else WAKE_DB - WAKE_CLEARS_DB_S * (time_s - last)


def bottom_of(levels_db: Float32Array, view: ConsoleView) -> float:
    """Return the depth under the transducer [m] that a column (range_bin,) of a view that looks down shows: its strongest echo's upper edge."""
    lifted = levels_db + tvg_db(view.range_m, view.absorption_db_m) - 10.0 * np.log10(view.range_m)
    first = round(NO_BOTTOM_M / view.bin_m)
    smooth = np.convolve(10.0 ** (lifted[first:] / 10.0), np.ones(5) / 5.0, mode="same")
    strongest = int(np.argmax(smooth))
    upper = int(np.argmax(smooth[: strongest + 1] >= 0.25 * smooth[strongest]))
    return float(view.range_m[first + upper])
