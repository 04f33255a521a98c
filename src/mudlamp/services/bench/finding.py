"""The search measured: how fast it pings, whether its memory stays flat, and what a plan finds against an idle straight down the middle."""

import resource
import time
from collections.abc import Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

from mudlamp.core.chance import stream
from mudlamp.core.searching.boat import IdlingBoat
from mudlamp.core.searching.search import PING_HZ, Search
from mudlamp.core.units import MPH_M_S
from mudlamp.services.find import plans
from mudlamp.services.find.trial import trial_of
from mudlamp.services.find.waters import DEMO, reach_named
from mudlamp.services.processes import quickest_context

# The heaviest of what is aboard: side, down and scrolling views together.
FIRST_PINGS = 30
MB = 1024.0


@dataclass(frozen=True, slots=True, kw_only=True)
class FindBench:
    """The figures: ms a ping with three views open, the pace that one core keeps, seconds for ten minutes' water, memory gained over the run [MB],

    and schools found by plans and straight down the middle on so many waters.
    """

    ping_ms: float
    pace: float
    ten_minutes_s: float
    water_minutes: float
    gained_mb: float
    waters: int
    schools: int
    plan_found: int
    plan_minutes: float
    middle_found: int
    middle_minutes: float
    times_a_minute: float


def _memory_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / MB


def _pinged(minutes: float) -> tuple[float, float, float]:
    """Return ms a ping, the water's minutes gone, and memory gained [MB]: back and forth along the demo's plan."""
    reach = reach_named(DEMO)
    asked = plans.first_ask(reach)
    views = plans.views_for(asked)
    boat = IdlingBoat(reach.launch_m, 1.57, rng=stream(1, "fix"))
    search = Search(reach, views, boat=boat, seed=1)
    path = list(plans.plan(reach, asked, start_m=reach.launch_m).path)
    for _ in range(FIRST_PINGS):
        search.ping()
    before, started = _memory_mb(), time.process_time()
    pings = round(minutes * 60.0 * PING_HZ)
    for _ in range(pings):
        if not boat.path:
            path.reverse()
            boat.follow(path)
            boat.speed_m_s = asked.speed_mph * MPH_M_S
        search.ping()
    spent = time.process_time() - started
    return 1000.0 * spent / pings, boat.time_s / 60.0, _memory_mb() - before


def _searched(seed: int, minutes: float) -> tuple[int, int, float, int, float]:
    """Return of a fresh water: its schools, how many a plan found in how many minutes, and straight down the middle."""
    trial = trial_of(seed, minutes)
    planned, middle = (trial.searched(way) for way in trial.ways)
    return planned.schools, planned.found, planned.seconds / 60.0, middle.found, middle.seconds / 60.0


def bench_find(seeds: Sequence[int], *, quick: bool, workers: int) -> FindBench:
    """Return the figures of searches on fresh waters."""
    ping_ms, water_minutes, gained = _pinged(0.7 if quick else 60.0)
    minutes = 1.5 if quick else 8.0
    with ProcessPoolExecutor(workers, mp_context=quickest_context()) as pool:
        rows = list(pool.map(_searched, seeds, [minutes] * len(seeds)))
    plan_found, plan_minutes = sum(row[1] for row in rows), sum(row[2] for row in rows)
    middle_found, middle_minutes = sum(row[3] for row in rows), sum(row[4] for row in rows)
    rate = middle_found / max(middle_minutes, 1e-9)
    return FindBench(
        ping_ms=round(ping_ms, 2),
        pace=round(1000.0 / PING_HZ / ping_ms, 1),
        ten_minutes_s=round(ping_ms * 600.0 * PING_HZ / 1000.0, 1),
        water_minutes=round(water_minutes, 1),
        gained_mb=round(gained, 1),
        waters=len(rows),
        schools=sum(row[0] for row in rows),
        plan_found=plan_found,
        plan_minutes=round(plan_minutes, 1),
        middle_found=middle_found,
        middle_minutes=round(middle_minutes, 1),
        times_a_minute=round(plan_found / max(plan_minutes, 1e-9) / rate, 2) if rate > 0.0 else 99.0,
    )
