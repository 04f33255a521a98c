"""How a lure falls: straight down on a slack line, in an arc toward the rod on a tight one; and how it is kept at one height."""

import math
from dataclasses import dataclass

from mudlamp.core.casting import _kernels

# Steps of the arc that a lure swings along.
ARC_STEPS = 200
# No path is steeper than this to the fall [rad]: near the bottom of its arc a lure hangs and hardly sinks.
LEAST_SHARE = 1e-3
# A turn of a spinning reel's handle brings in so much line [m]; one reels a turn a second, and no faster with a jig (common practice).
REEL_TURN_M = 0.65
REEL_M_S = REEL_TURN_M
# A lure that is reeled is followed in steps of so long [s].
RISE_STEP_S = 0.05


@dataclass(frozen=True, slots=True, kw_only=True)
class Fall:
    """A fall from the splash to a depth: how long it takes [s], and how much nearer to the rod the lure is then [m]."""

    seconds: float
    toward_rod_m: float


def slack_fall(*, depth_m: float, sink_m_s: float) -> Fall:
    """Return the fall to a depth on a slack line: straight, at the lure's own speed."""
    return Fall(seconds=depth_m / sink_m_s, toward_rod_m=0.0)


def tight_line_m(*, away_m: float, depth_m: float, rod_tip_m: float) -> float:
    """Return the line [m] between a rod tip so high over the water and a lure so far from it and so deep."""
    return math.hypot(away_m, depth_m + rod_tip_m)


def splash_m(*, away_m: float, depth_m: float, rod_tip_m: float) -> float:
    """Return how far from the rod tip [m] a lure must hit the water to hang at `away_m` and `depth_m` on the same tight line."""
    line = tight_line_m(away_m=away_m, depth_m=depth_m, rod_tip_m=rod_tip_m)
    return math.sqrt(line**2 - rod_tip_m**2)


def swing_m_s(*, sink_m_s: float, slope: float) -> float:
    """Return how fast a lure swings along its arc [m/s] where the arc runs down by `slope` a meter (0 to 1).

    Along the arc pulls what weight the slope leaves, against drag that grows with the square of the speed: the sink speed times the root of
    the slope. What drag the line has is in the sink speed of a dressed head. Source: a pendulum at its terminal speed.
    """
    return sink_m_s * math.sqrt(slope)


def tight_fall(*, away_m: float, depth_m: float, rod_tip_m: float, sink_m_s: float) -> Fall:
    """Return the fall on a tight line that ends `away_m` from the rod tip and `depth_m` deep.

    The lure swings on an arc about the rod tip, at the speed that `swing_m_s` says.
    """
    line = tight_line_m(away_m=away_m, depth_m=depth_m, rod_tip_m=rod_tip_m)
    start, end = math.asin(rod_tip_m / line), math.asin((depth_m + rod_tip_m) / line)
    seconds = float(_kernels.swing_seconds(start, end, line, sink_m_s, ARC_STEPS, LEAST_SHARE))
    return Fall(seconds=seconds, toward_rod_m=splash_m(away_m=away_m, depth_m=depth_m, rod_tip_m=rod_tip_m) - away_m)


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """A lure kept at one height: how fast line comes in [m/s], how fast the lure then swims toward the rod [m/s]."""

    reel_m_s: float
    swims_m_s: float


def level_reel(*, away_m: float, depth_m: float, rod_tip_m: float, sink_m_s: float) -> Level:
    """Return the reeling that holds a lure at its depth where it is now: what the line lifts is what the swing drops.

    With the line `angle` under the horizontal, reeling lifts by reel * sin(angle), the swing drops by sink * cos(angle)^1.5.
    """
    angle = math.atan2(depth_m + rod_tip_m, away_m)
    swing = swing_m_s(sink_m_s=sink_m_s, slope=math.cos(angle))
    reel = swing * math.cos(angle) / math.sin(angle)
    return Level(reel_m_s=reel, swims_m_s=reel * math.cos(angle) + swing * math.sin(angle))


def risen_depth_m(*, from_m: float, to_m: float, depth_m: float, rod_tip_m: float, sink_m_s: float, reel_m_s: float) -> float:
    """Return how deep [m] a lure is, reeled at one speed from one distance to another, nearer one; 0 where it has come up."""
    return float(_kernels.risen_depth(from_m, to_m, depth_m, rod_tip_m, sink_m_s, reel_m_s, RISE_STEP_S))


def arc(*, splash_m: float, toward_rod_m: float, depth_m: float, rod_tip_m: float, steps: int) -> list[tuple[float, float]]:
    """Return where a falling lure is [m], out and deep, in even steps of depth: on an arc about the rod tip, or straight under the splash."""
    depths = [depth_m * step / steps for step in range(steps + 1)]
    if toward_rod_m <= 0.0:
        return [(splash_m, depth) for depth in depths]
    line = tight_line_m(away_m=splash_m - toward_rod_m, depth_m=depth_m, rod_tip_m=rod_tip_m)
    return [(math.sqrt(max(line**2 - (depth + rod_tip_m) ** 2, 0.0)), depth) for depth in depths]
