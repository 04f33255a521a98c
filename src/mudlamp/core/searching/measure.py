"""The lateral range curve, measured: a boat idles straight over a level bottom past schools at every distance to the side."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.chance import stream
from mudlamp.core.receiver.columns import brightness_of
from mudlamp.core.scene.bottom import GROUNDS, Ground
from mudlamp.core.scene.draw_reach import COUNTS, SIZES, SPREADS_M, charted
from mudlamp.core.scene.model import Water
from mudlamp.core.scene.places import PlaceKind, Season
from mudlamp.core.scene.reach import Reach, SchoolPlan
from mudlamp.core.scene.roaming import School
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.survey import Survey
from mudlamp.core.searching.boat import IdlingBoat
from mudlamp.core.searching.found import COLUMNS, cells_of, is_shown
from mudlamp.core.searching.search import Search, Sounded, ViewSetting
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.console import BINS, ConsoleView, Keel, ViewKind, two_way_width_rad

# Schools stand so far apart along the strip [m], so far to the side at most [m]; the boat idles at [m/s].
APART_M = 14.0
IDLE_M_S = 1.88
RELIEF_M = 0.06


@dataclass(frozen=True, slots=True, kw_only=True)
class Passed:
    """A school that was passed: how far to the side [m], and whether each view showed it in three columns."""

    off_m: float
    found: Mapping[ViewKind, bool]


def level_strip(seed: int, *, depth_m: float, schools: int, most_off_m: float, water: Water) -> Reach:
    """Return a strip of level bottom with schools at random distances to the side of its middle line, which runs east."""
    rng = stream(seed, "strip")
    long = (schools + 2) * APART_M
    step, half = 1.0, most_off_m + 40.0
    rows, columns = round(2.0 * half / step) + 1, round(long / step) + 41
    depth = depth_m + RELIEF_M * rng.standard_normal((rows, columns))
    survey = Survey(
        west_m=-20.0,
        south_m=-half,
        step_m=step,
        depth_m=depth,
        kind=np.full((rows, columns), GROUNDS.index(Ground.MUD), dtype=np.int64),
    )
    plans = []
    for i in range(schools):
        size = tuple(SIZES)[int(rng.choice(len(SIZES), p=list(SIZES.values())))]
        spread = float(rng.uniform(*SPREADS_M[size]))
        rise = min(0.45 * spread, 0.2 * depth_m)
        up = max(float(rng.uniform(0.12, 0.5)) * depth_m, rise + 0.25)
        plans.append(
            SchoolPlan(
                species=Species.CRAPPIE,
                count=int(rng.integers(*COUNTS[size])),
                x_m=(i + 1) * APART_M,
                y_m=float(rng.uniform(-most_off_m, most_off_m)),
                z_m=max(depth_m - up, 0.8 + rise),
                spread_m=spread,
                rise_m=rise,
                shortest_m=0.22,
                longest_m=0.36,
                mood=0.5,
                at=PlaceKind.FLAT,
            )
        )
    return Reach(
        name="strip", title="strip", seed=seed, water=water, season=Season.FALL, survey=survey, chart=charted(survey, seed), cover=(), places=(), schools=tuple(plans),
        bait=(), launch_m=(0.0, 0.0),
    )  # fmt: skip


class Watch:
    """Who was shown in which view so far: what a search found, by the truth."""

    def __init__(self, schools: Sequence[School], views: Mapping[ViewKind, ConsoleView], setup: ReceiverSetup, *, near_m: float) -> None:
        self._schools, self._views, self._setup, self._near_m = schools, views, setup, near_m
        self.columns = {(school.number, kind): 0 for school in schools for kind in views}

    def look(self, ping: Sounded) -> None:
        """Take one ping in."""
        x, y, z = ping.truly.transducer_m
        keel = Keel(origin_m=np.array([x, y, z]), heading_rad=ping.truly.heading_rad)
        near = [one for one in self._schools if math.dist((x, y), one.middle_m(ping.truly.time_s)[:2]) < self._near_m + one.plan.spread_m]
        if not near:
            return
        for kind, levels in ping.levels_db.items():
            view = self._views[kind]
            bright = brightness_of(levels[None], kind, view.range_m, view.absorption_db_m, self._setup)[0].astype(np.float64)
            for school in near:
                self._look(school, kind, view, bright, keel, ping.truly.time_s)

    def _look(self, school: School, kind: ViewKind, view: ConsoleView, bright: FloatArray, keel: Keel, time_s: float) -> None:
        places = school.places_m(time_s)
        for beam, shape in enumerate(view.profile.shapes):
            half = 0.5 * two_way_width_rad(shape, view.wavelength_m)
            cells = cells_of(places, keel, shape, half, view.bin_m, BINS)
            if cells is not None and is_shown(bright[beam], cells, self._setup.ink):
                self.columns[school.number, kind] += 1
                return

    def found(self, school: School, kind: ViewKind) -> bool:
        """Return whether a view showed a school in three columns."""
        return self.columns[school.number, kind] >= COLUMNS


def pass_schools(
    seed: int, *, depth_m: float, views: Sequence[ViewSetting], schools: int, most_off_m: float, water: Water, setup: ReceiverSetup
) -> list[Passed]:
    """Return what each view showed of schools passed at random distances over water of a depth [m]."""
    reach = level_strip(seed, depth_m=depth_m, schools=schools, most_off_m=most_off_m, water=water)
    boat = IdlingBoat((0.0, 0.0), math.pi / 2.0, rng=stream(seed, "boat"))
    boat.speed_m_s = IDLE_M_S
    search = Search(reach, views, boat=boat, seed=seed)
    watch = Watch(search.water.roaming.schools, search.views, setup, near_m=most_off_m)
    end = (schools + 1.5) * APART_M
    while boat.x_m < end:
        watch.look(search.ping())
    return [
        Passed(off_m=abs(school.plan.y_m), found={kind: watch.found(school, kind) for kind in search.views})
        for school in search.water.roaming.schools
    ]
