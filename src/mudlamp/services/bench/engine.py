"""The benchmark of the engine: how fast it is against the water's own limit."""

import itertools
import statistics
import time
import uuid
from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass, replace

from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.world import first_acquisition
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.tracking.reacting import ReactionWatch
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.units import feet, meters
from mudlamp.core.water.sound import ping_limit_hz
from mudlamp.formats.learned import shipped
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.live import frames

REACHES_FT = (40.0, 60.0, 100.0)
RUNS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class EngineRow:
    """How fast the engine is at one reach: pings a second of CPU time against what sound allows, and what a ping costs by stage [ms]."""

    scene: str
    scatterers: int
    reach_ft: float
    pings_per_s: float
    sound_limit_hz: float
    ratio: float
    stage_ms: Mapping[str, float]


def bench_engine(scene: Scene, *, pings: int) -> list[EngineRow]:
    """Return a row per reach: simulate, receive, track and encode, in CPU time a ping, against c / 2R."""
    return [_engine_row(scene, reach_ft, pings) for reach_ft in REACHES_FT]


def _engine_row(scene: Scene, reach_ft: float, pings: int) -> EngineRow:
    acquisition = replace(first_acquisition(scene), reach_m=meters(reach_ft))
    runs = []
    stages: dict[str, list[float]] = defaultdict(list)
    scatterers = 0
    limit = 0.0
    for run in range(RUNS):
        head = SimulatedHead(scene, seed=run + 1, acquisition=acquisition)
        receiver, tracker, watch = Receiver(ReceiverSetup(quieting_pings=2)), Tracker(shipped()), ReactionWatch()
        key = uuid.UUID(int=run)
        total = 0.0
        for number in range(pings + 5):
            marks = [time.thread_time()]
            ping = head.listen(number / 15.0)
            marks.append(time.thread_time())
            picture = receiver.develop(ping)
            marks.append(time.thread_time())
            tracker.update(ping)
            watch.update(tracker, ping)
            marks.append(time.thread_time())
            frames.frame(key, ping, 0, picture)
            marks.append(time.thread_time())
            if number >= 5:
                total += marks[-1] - marks[0]
                for name, (start, end) in zip(("simulate", "receive", "track", "encode"), itertools.pairwise(marks), strict=True):
                    stages[name].append(end - start)
            limit = ping_limit_hz(range_m=ping.setup.farthest_m, speed_m_s=ping.setup.sound_speed_m_s)
        runs.append(total / pings)
        scatterers = head.scatterers
    pings_per_s = 1.0 / statistics.median(runs)
    return EngineRow(
        scene=scene.name,
        scatterers=scatterers,
        reach_ft=round(feet(acquisition.reach_m), 1),
        pings_per_s=round(pings_per_s, 1),
        sound_limit_hz=round(limit, 1),
        ratio=round(pings_per_s / limit, 2),
        stage_ms={name: round(1000.0 * statistics.mean(values), 2) for name, values in stages.items()},
    )
