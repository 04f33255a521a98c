"""What fish do about the lure, judged on what is really there, in the fan's plane."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import Lure
from mudlamp.core.fish_judge import FishState
from mudlamp.core.judge import TruthJudge
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane, Point, Travel
from mudlamp.core.reactions import ReactionEvent, limits_of
from mudlamp.core.scene.fish import Fish
from mudlamp.core.scene.model import Water
from mudlamp.core.scene.species import EYES


class Watching:
    """Watches fish and lure of a water; call it once a ping."""

    def __init__(self, fish: Sequence[Fish], water: Water) -> None:
        self._judge = TruthJudge()
        self._travel = Travel()
        self._limits = {
            one.name: limits_of(EYES[one.species], secchi_m=water.secchi_m, temperature_degc=water.temperature_degc) for one in fish
        }

    def judge(
        self, fish: Sequence[Fish], lure: Lure | None, *, time_s: float, shot: int | None, pose: Pose, fan: Fan
    ) -> list[ReactionEvent]:
        """Return the reactions of which all is known by now, a second or two late."""
        plane = GroundPlane(FanPlane(fan=fan, tilt_rad=pose.tilt_rad, depth_m=pose.z_m), pose, self._travel.to(pose))

        def seen(position_m: FloatArray) -> Point:
            return plane.point(plane.project(*(float(value) for value in position_m)))

        lure = lure if lure is not None and lure.in_water else None
        above = None if lure is None else lure.tackle.weight_at_m
        states = [
            FishState(
                id=one.name,
                place=seen(one.head_m),
                length_m=one.length_m,
                off_lure_rad=_off_rad(one, lure),
                holds_lure=one.has_lure,
                limits=self._limits[one.name],
            )
            for one in fish
        ]
        return self._judge.update(
            time_s=time_s,
            fish=states,
            middles=[seen(one.position_m) for one in fish],
            lure=None if lure is None else seen(lure.position_m),
            weight=None if lure is None or above is None else seen(lure.position_m - np.array([0.0, 0.0, above])),
            boat=plane.boat,
            shot=shot,
        )

    def close(self) -> list[ReactionEvent]:
        """Return the reactions that were fulfilled but not told yet: the world ends."""
        return self._judge.close()


def _off_rad(fish: Fish, lure: Lure | None) -> float | None:
    """Return how far a fish's heading is off the lure [rad], or None without one."""
    if lure is None:
        return None
    toward = lure.position_m - fish.position_m
    return abs(math.remainder(math.atan2(toward[0], toward[1]) - fish.heading_rad, 2.0 * math.pi))
