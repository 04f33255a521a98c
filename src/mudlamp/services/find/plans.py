"""A search plan as it is asked for and answered: path, lanes, carrier, Reach, speed, what it will have seen, and the other way of searching."""

import itertools
import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.errors import require_range
from mudlamp.core.scene.places import BAND_M, Season
from mudlamp.core.scene.reach import Reach
from mudlamp.core.searching.boat import SPEED_M_S
from mudlamp.core.searching.charted import Charted
from mudlamp.core.searching.coverage import Odds, seen_from
from mudlamp.core.searching.lateral import LateralCurve
from mudlamp.core.searching.plan import Planned, plan_path
from mudlamp.core.searching.search import ViewSetting
from mudlamp.core.sonar.console import VIEWS, ViewKind
from mudlamp.core.units import FOOT_M, MPH_M_S
from mudlamp.services.find.chart import lanes
from mudlamp.services.find.curves import curve_for
from mudlamp.services.find.odds import odds_for

BAND_FT, MINUTES, SPEED_MPH = (3.0, 38.0), (2.0, 240.0), (1.0, 8.0)
IDLE_MPH = 4.2
SIDE_REACH_M = 100.0 * FOOT_M
# A lane should leave no more than a fifth of what lies between it and the next.
LANE_SHARE = 0.8
MOST_LANES = 6
TIME_USED = 0.85
# Live only: how fast one creeps [mph] and sweeps [rad/s], to how far [m] and wide [rad], how long one looks to tell a mark [s] (common practice;
# an expert tells one in some 2 s).
CREEP_MPH = 1.2
SWEEP_RAD_S = math.radians(30.0)
LIVE_REACH_M = 50.0 * FOOT_M
LIVE_HALF_RAD = math.radians(60.0)
LIVE_THICK_RAD = math.radians(20.0)
TELL_S = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanAsked:
    """What a plan is asked for: depth band [ft], time to spend [min], speed [mph], whether the boat carries a side view,

    and the season (None: the water's own).
    """

    low_ft: float
    high_ft: float
    minutes: float
    speed_mph: float
    has_side: bool = True
    season: Season | None = None

    def checked(self) -> "PlanAsked":
        """Return it where all is in range; raise DomainError naming the first field that is not."""
        require_range("low_ft", self.low_ft, *BAND_FT, "ft")
        require_range("high_ft", self.high_ft, self.low_ft + 1.0, BAND_FT[1], "ft")
        require_range("minutes", self.minutes, *MINUTES, "min")
        require_range("speed_mph", self.speed_mph, *SPEED_MPH, "mph")
        return self

    @property
    def band_m(self) -> tuple[float, float]:
        """The depth band [m]."""
        return self.low_ft * FOOT_M, self.high_ft * FOOT_M


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """A way of searching, and what it would see in the time: the chance that a school of the band is found."""

    name: str
    share: float
    length_ft: float
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchPlan:
    """A plan: path [m], views to open, lane spacing and sweep width [ft], what it sees, and what other ways would."""

    path: tuple[tuple[float, float], ...]
    views: tuple[ViewSetting, ...]
    carrier_khz: float
    reach_ft: float
    spacing_ft: float
    sweep_ft: float
    length_ft: float
    minutes: float
    share: float
    ways: tuple[Way, ...]


def first_ask(reach: Reach) -> PlanAsked:
    """Return what is asked for before anybody says anything: the season's band, twenty minutes at an idle."""
    low, high = BAND_M[reach.season]
    return PlanAsked(low_ft=round(low / FOOT_M), high_ft=round(high / FOOT_M), minutes=20.0, speed_mph=IDLE_MPH, season=reach.season)


def views_for(asked: PlanAsked) -> tuple[ViewSetting, ...]:
    """Return the views to open over a band: side at the carrier with the wider sweep as it was measured, down and scrolling at what fits the depth."""
    depth = 0.5 * sum(asked.band_m)
    deep = min(1.35 * asked.band_m[1] + 1.0, 18.0)
    side = max(VIEWS[ViewKind.SIDE].carriers_hz, key=lambda hz: curve_for([(ViewKind.SIDE, hz, SIDE_REACH_M)], depth).sweep_m)
    found = [
        ViewSetting(kind=ViewKind.SCROLLING, carrier_hz=VIEWS[ViewKind.SCROLLING].carriers_hz[-1], reach_m=round(deep, 1)),
        ViewSetting(kind=ViewKind.DOWN, carrier_hz=VIEWS[ViewKind.DOWN].carriers_hz[-1], reach_m=round(deep, 1)),
    ]
    if asked.has_side:
        found.append(ViewSetting(kind=ViewKind.SIDE, carrier_hz=side, reach_m=SIDE_REACH_M))
    return tuple(found)


def curve_of(views: tuple[ViewSetting, ...], band_m: tuple[float, float]) -> LateralCurve:
    """Return the lateral range curve of views over a band [m]."""
    return curve_for([(view.kind, view.carrier_hz, view.reach_m) for view in views], 0.5 * sum(band_m))


def live_curve() -> LateralCurve:
    """Return the lateral range curve of the live fan swept while creeping: a mark is told where the fan dwells on it long enough.

    It stays on a mark for its thickness over the rate of the sweep, whatever the distance, each time it comes by; the chance to tell it grows
    with the time looked: 1 - exp(-t / TELL_S). Source: ours; the sweep and the time to tell are common practice.
    """
    off = np.arange(0.0, LIVE_REACH_M + 0.5, 0.5)
    dwell = LIVE_THICK_RAD / SWEEP_RAD_S
    abreast = np.sqrt(np.maximum(LIVE_REACH_M**2 - off**2, 0.0))
    # Ahead of the boat it is in reach from here to abreast, less what lies outside the sweep.
    ahead = np.maximum(abreast - off / math.tan(LIVE_HALF_RAD), 0.0)
    looks = ahead / (CREEP_MPH * MPH_M_S) / (2.0 * LIVE_HALF_RAD / SWEEP_RAD_S)
    return LateralCurve(off_m=off, found=1.0 - np.exp(-looks * dwell / TELL_S), passes=np.zeros(len(off)))


def _planned(
    water: Charted,
    asked: PlanAsked,
    odds: Odds,
    curve: LateralCurve,
    *,
    start_m: tuple[float, float],
    speed_mph: float,
    missed: FloatArray | None,
) -> tuple[Planned, float]:
    """Return a plan and the spacing of its lanes [m]."""
    wanted = curve.spacing_for(LANE_SHARE)
    mid = lanes(water, asked.band_m, 1)
    long = sum(math.dist(a, b) for lane in mid for a, b in itertools.pairwise(lane))
    area = len(odds.cells_m) * 16.0
    least = min(max(round(area / max(long, 1.0) / max(wanted, 1.0)), 1), MOST_LANES)
    tried: list[Planned] = []
    for count in range(least, MOST_LANES + 1):
        one = plan_path(
            water, lanes(water, asked.band_m, count), odds, curve,
            start_m=start_m, speed_m_s=speed_mph * MPH_M_S, seconds=asked.minutes * 60.0, missed=missed,
        )  # fmt: skip
        tried.append(one)
        if one.seconds > TIME_USED * asked.minutes * 60.0:
            # More lanes would only be left out; with time to spare they look again from closer by.
            break
    return max(tried, key=lambda one: one.share), wanted


def down_the_middle(water: Charted, odds: Odds, curve: LateralCurve, *, speed_m_s: float, seconds: float) -> Way:
    """Return what an idle straight down the middle of the water sees in a time [s], there and back as often as it fits."""
    length, left = speed_m_s * seconds, speed_m_s * seconds
    missed, (start, end) = np.ones(len(odds.cells_m)), water.middle_line_m
    long = math.dist(start, end)
    while left > 1.0:
        share = min(left / long, 1.0)
        turn = (start[0] + share * (end[0] - start[0]), start[1] + share * (end[1] - start[1]))
        missed *= 1.0 - seen_from(start, turn, odds.cells_m, curve)
        left -= share * long
        start, end = end, start
    return Way(name="middle", share=odds.share(missed), length_ft=length / FOOT_M, minutes=seconds / 60.0)


def plan(water: Charted, asked: PlanAsked, *, start_m: tuple[float, float], missed: FloatArray | None = None) -> SearchPlan:
    """Return the plan for what is asked, from a place [m]; raise DomainError for what is out of range."""
    asked = asked.checked()
    odds = odds_for(water, asked.band_m, asked.season)
    views = views_for(asked)
    curve = curve_of(views, asked.band_m)
    found, spacing = _planned(water, asked, odds, curve, start_m=start_m, speed_mph=asked.speed_mph, missed=missed)
    live, _ = _planned(water, asked, odds, live_curve(), start_m=start_m, speed_mph=CREEP_MPH, missed=missed)
    seconds = asked.minutes * 60.0
    middle = down_the_middle(water, odds, curve, speed_m_s=asked.speed_mph * MPH_M_S, seconds=seconds)
    ways = (
        Way(name="console", share=found.share, length_ft=found.length_m / FOOT_M, minutes=found.seconds / 60.0),
        Way(name="live", share=live.share, length_ft=live.length_m / FOOT_M, minutes=live.seconds / 60.0),
        middle,
    )
    widest = max(views, key=lambda view: view.reach_m)
    return SearchPlan(
        path=found.path,
        views=views,
        carrier_khz=widest.carrier_hz / 1000.0,
        reach_ft=widest.reach_m / FOOT_M,
        spacing_ft=spacing / FOOT_M,
        sweep_ft=curve.sweep_m / FOOT_M,
        length_ft=found.length_m / FOOT_M,
        minutes=found.seconds / 60.0,
        share=found.share,
        ways=ways,
    )


def speed_of(mph: float) -> float:
    """Return a speed [m/s] of so many mph; raise DomainError outside what a boat idles at."""
    return require_range("speed_mph", mph, 0.0, SPEED_M_S[1] / MPH_M_S, "mph") * MPH_M_S
