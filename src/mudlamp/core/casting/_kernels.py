"""How a lure swings and rises on a tight line, step by step. Source: a pendulum at its terminal speed (`fall.swing_m_s`)."""

import math

from numba import njit


@njit(cache=True)
def swing_seconds(start_rad, end_rad, line_m, sink_m_s, steps, least_share):
    step = (end_rad - start_rad) / steps
    seconds = 0.0
    for n in range(steps):
        # At an angle under the horizontal the arc runs down as steeply as the cosine says.
        share = max(math.cos(start_rad + (n + 0.5) * step), least_share)
        seconds += line_m * step / (sink_m_s * math.sqrt(share))
    return seconds


@njit(cache=True)
def risen_depth(from_m, to_m, depth_m, rod_tip_m, sink_m_s, reel_m_s, step_s):
    away, depth = from_m, depth_m
    while away > to_m and depth > 0.0:
        angle = math.atan2(depth + rod_tip_m, away)
        cosine, sine = math.cos(angle), math.sin(angle)
        swing = sink_m_s * math.sqrt(cosine)
        away -= (reel_m_s * cosine + swing * sine) * step_s
        depth += (swing * cosine - reel_m_s * sine) * step_s
    return max(depth, 0.0)
