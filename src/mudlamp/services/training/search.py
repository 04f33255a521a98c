"""Lateral range curves measured from pings: schools passed at every distance, over three depths, at each carrier."""

import itertools
import math
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np

from mudlamp.core.scene.model import Water
from mudlamp.core.searching.coverage import seen_from
from mudlamp.core.searching.measure import Passed, pass_schools
from mudlamp.core.searching.search import ViewSetting
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.console import VIEWS, ViewKind
from mudlamp.core.units import FOOT_M, MPH_M_S
from mudlamp.formats.lateral import MeasuredCurve
from mudlamp.services.find.curves import joined
from mudlamp.services.find.trial import trial_of
from mudlamp.services.processes import quickest_context

DEPTHS_M = (3.0, 5.5, 9.0)
SIDE_REACH_M = 100.0 * FOOT_M
DOWN_REACH_M = 15.0
MOST_OFF_M = 33.0
# Lateral ranges are gathered in steps [m]; nearer ones closer, where views that look down change fastest.
EDGES_M = (0.0, 1.0, 2.0, 3.0, 4.5, 6.0, 9.0, 12.0, 15.0, 18.0, 21.0, 24.0, 27.0, 30.0, 33.0)
SCHOOLS = 90
# Learned from these seeds on; whoever judges takes others.
FIRST_SEED = 1
DRAWN_SEEDS, DRAWN_MINUTES = range(60, 72), 8.0
WATER = Water(temperature_degc=14.4, secchi_m=1.4, wind_m_s=2.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Swept:
    """A curve in short: view, carrier [Hz], depth [m], sweep width [m]."""

    view: str
    carrier_hz: float
    depth_m: float
    sweep_m: float


def views_at(step: int) -> list[ViewSetting]:
    """Return all views at their lower (0) or higher (1) carrier."""
    return [
        ViewSetting(kind=kind, carrier_hz=profile.carriers_hz[step], reach_m=SIDE_REACH_M if kind is ViewKind.SIDE else DOWN_REACH_M)
        for kind, profile in VIEWS.items()
    ]


def drawn_share(curves: list[MeasuredCurve], *, workers: int, progress: Callable[[float], None]) -> float:
    """Return which share of what curves promise is found by pings on drawn waters: along plans, and straight down the middle."""
    expected, found = 0.0, 0
    with ProcessPoolExecutor(workers, mp_context=quickest_context()) as pool:
        for done, (promised, shown) in enumerate(pool.map(_on_drawn_water, DRAWN_SEEDS, itertools.repeat(curves))):
            expected, found = expected + promised, found + shown
            progress((done + 1) / len(DRAWN_SEEDS))
    return round(min(found / max(expected, 1.0), 1.0), 3)


def _on_drawn_water(seed: int, curves: list[MeasuredCurve]) -> tuple[float, int]:
    """Return how many schools of a drawn water curves promise along two ways, and how many are found."""
    trial = trial_of(seed, DRAWN_MINUTES)
    curve = joined([(view.kind, view.carrier_hz, view.reach_m) for view in trial.plan.views], 0.5 * sum(trial.asked.band_m), curves)
    homes = np.array([(one.x_m, one.y_m) for one in trial.reach.schools if one.is_school])
    promised, shown = 0.0, 0
    for way in trial.ways:
        missed, left_m = np.ones(len(homes)), trial.asked.speed_mph * MPH_M_S * DRAWN_MINUTES * 60.0
        for start, end in itertools.pairwise(way):
            if left_m > 0.0:
                missed *= 1.0 - seen_from(start, end, homes, curve)
            left_m -= math.dist(start, end)
        promised += float(np.sum(1.0 - missed))
        shown += trial.searched(way).found
    return promised, shown


def _run(seed: int, depth_m: float, step: int, narrow: bool) -> list[Passed]:
    most = 6.0 if narrow else MOST_OFF_M
    return pass_schools(seed, depth_m=depth_m, views=views_at(step), schools=SCHOOLS, most_off_m=most, water=WATER, setup=ReceiverSetup())


def measure(*, workers: int, progress: Callable[[float], None]) -> list[MeasuredCurve]:
    """Return the curves of all views, at both carriers, over all depths. Near the boat as many schools are passed again, where curves are steep."""
    runs = [(depth, step, narrow) for depth in DEPTHS_M for step in (0, 1) for narrow in (False, True)]
    passed: dict[tuple[float, int], list[Passed]] = {}
    with ProcessPoolExecutor(workers, mp_context=quickest_context()) as pool:
        jobs = [(run, pool.submit(_run, FIRST_SEED + i, *run)) for i, run in enumerate(runs)]
        for done, (run, job) in enumerate(jobs):
            passed.setdefault(run[:2], []).extend(job.result())
            progress((done + 1) / len(jobs))
    return [_curve(view, depth, found) for (depth, step), found in passed.items() for view in views_at(step)]


def _curve(view: ViewSetting, depth_m: float, passed: list[Passed]) -> MeasuredCurve:
    off = np.array([one.off_m for one in passed])
    found = np.array([one.found[view.kind] for one in passed], dtype=np.float64)
    at, share, passes = [], [], []
    for low, high in itertools.pairwise(EDGES_M):
        inside = (off >= low) & (off < high)
        if np.any(inside):
            at.append(round(float(np.mean(off[inside])), 2))
            share.append(round(float(np.mean(found[inside])), 3))
            passes.append(int(np.sum(inside)))
    return MeasuredCurve(
        view=view.kind, carrier_hz=view.carrier_hz, depth_m=depth_m, reach_m=view.reach_m, off_m=at, found=share, passes=passes
    )
