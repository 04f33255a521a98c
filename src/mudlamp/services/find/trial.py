"""A water to judge a search on: drawn from a seed in one of the seasons, with the plan for it and the way straight down its middle."""

from dataclasses import dataclass

from mudlamp.core.scene.places import Season
from mudlamp.core.scene.reach import Reach
from mudlamp.core.units import MPH_M_S
from mudlamp.services.find import plans
from mudlamp.services.find.record import Searched, search_along
from mudlamp.services.find.waters import DRAWN, reach_named


@dataclass(frozen=True, slots=True, kw_only=True)
class Trial:
    """A water, what a plan was asked for on it, the plan, and straight down the middle and back [m]."""

    reach: Reach
    asked: plans.PlanAsked
    plan: plans.SearchPlan
    middle: tuple[tuple[float, float], ...]
    seed: int

    @property
    def ways(self) -> tuple[tuple[tuple[float, float], ...], ...]:
        """The plan's way, and the one down the middle."""
        return self.plan.path, self.middle

    def searched(self, way: tuple[tuple[float, float], ...]) -> Searched:
        """Return what a search along a way comes to in the time that was asked for, by pings."""
        return search_along(
            self.reach,
            way,
            self.plan.views,
            speed_m_s=self.asked.speed_mph * MPH_M_S,
            seed=self.seed,
            out=None,
            progress=lambda _: None,
            most_s=self.asked.minutes * 60.0,
        )


def trial_of(seed: int, minutes: float) -> Trial:
    """Return the trial of a seed, of so many minutes at an idle."""
    season = tuple(Season)[seed % len(Season)]
    reach = reach_named(f"{DRAWN}{seed}-{season.value}")
    first = plans.first_ask(reach)
    asked = plans.PlanAsked(low_ft=first.low_ft, high_ft=first.high_ft, minutes=minutes, speed_mph=first.speed_mph)
    start, end = reach.middle_line_m
    return Trial(
        reach=reach,
        asked=asked,
        plan=plans.plan(reach, asked, start_m=reach.launch_m),
        middle=(start, end, (start[0], start[1] + 2.0), (end[0], end[1] + 2.0)),
        seed=seed,
    )
