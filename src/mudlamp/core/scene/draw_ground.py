"""The ground of a drawn water and how far the sonar looks over it: what all else that is drawn stands on."""

import math

import numpy as np

from mudlamp.core.chance import stream
from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import Bottom, Feature, FeatureKind, Ground, Patch, make_bottom
from mudlamp.core.scene.kinds_of_water import DEPTHS_M, Deep, Stands, WaterKind
from mudlamp.core.water.thermocline import SUMMER_DEGC, Thermocline

# Anglers who look out far over shallow water; who see no bottom under deep water; rough bottoms.
FAR_SHARE, BOTTOMLESS_SHARE, ROUGH_SHARE = 0.3, 0.2, 0.2
# How much a feature changes the depth at most, as a share of it: a step down, a trough, a rise.
STEEPEST = {FeatureKind.LEDGE: 0.7, FeatureKind.CHANNEL: 0.4, FeatureKind.HUMP: -0.4}
LEAST_TALL_M = 0.4


class GroundDraw:
    """Draws the ground. Figures are rounded, so that a scene file holds them whole."""

    def __init__(self, seed: int, kind: WaterKind, rng: np.random.Generator) -> None:
        self._seed, self._kind, self._rng = seed, kind, rng
        self._depth_m = self._between(*DEPTHS_M[kind.deep])
        self._reach_m = min(max(self._between(1.1, 2.2) * self._depth_m, self._between(9.0, 14.0)), 26.0)
        if self._happens(FAR_SHARE):
            self._reach_m = max(self._between(9.0, 26.0), min(1.1 * self._depth_m, 26.0))
        if kind.fan is Fan.BELOW:
            self._reach_m = min(1.5 * self._depth_m, 24.0)
        self._reach_m = round(self._reach_m, 1)
        self._down_to_m = min(1.25 * self._depth_m + 0.5, self._reach_m + 1.0)
        if kind.deep is Deep.DEEP and kind.fan is Fan.AHEAD and self._happens(BOTTOMLESS_SHARE):
            self._down_to_m = self._between(0.5, 0.85) * self._depth_m
        self._temperature_degc = self._between(4.0, 30.0)
        self._plan = self._bottom()
        self._level = self._smooth_ground()

    def _between(self, low: float, high: float) -> float:
        return round(float(self._rng.uniform(low, high)), 2)

    def _happens(self, share: float) -> bool:
        return float(self._rng.random()) < share

    def _bottom(self) -> model.BottomPlan:
        rng = self._rng
        ground = Ground.ROCK if self._kind.stands is Stands.ROCK else tuple(Ground)[int(rng.choice(4, p=[0.35, 0.35, 0.2, 0.1]))]
        features = []
        # A ledge and, now and then, another.
        for _ in range(int(self._happens(0.4)) + int(self._happens(0.1)) if self._kind.fan is not Fan.FLAT else 0):
            shape = tuple(FeatureKind)[int(rng.integers(3))]
            change = math.copysign(self._between(0.12, abs(STEEPEST[shape])), STEEPEST[shape]) * self._depth_m
            features.append(
                Feature(
                    kind=shape,
                    x_m=0.0,
                    y_m=self._between(4.0, max(12.0, 0.8 * self._reach_m)),
                    bearing_rad=math.radians(self._between(-90.0, 90.0)),
                    change_m=round(change, 2),
                    width_m=self._between(0.7, 5.0),
                )
            )
        patches = [
            Patch(
                ground=tuple(Ground)[int(rng.integers(4))],
                x_m=self._between(-4.0, 4.0),
                y_m=self._between(2.0, max(14.0, self._reach_m)),
                radius_m=self._between(1.0, 8.0),
            )
            for _ in range(int(rng.integers(3)))
        ]
        return model.BottomPlan(
            ground=ground,
            depth_m=self._depth_m,
            slope_east=self._between(-0.06, 0.06),
            slope_north=self._between(-0.06, 0.12) if self._kind.deep is not Deep.SHALLOW else self._between(-0.02, 0.05),
            relief_m=self._between(0.18, 0.5) if self._happens(ROUGH_SHARE) else self._between(0.02, 0.18),
            relief_length_m=self._between(3.0, 15.0),
            features=tuple(features),
            patches=tuple(patches),
        )

    def _smooth_ground(self) -> Bottom:
        plan = self._plan
        return make_bottom(
            ground=plan.ground,
            depth_m=plan.depth_m,
            slope_east=plan.slope_east,
            slope_north=plan.slope_north,
            relief_m=0.0,
            relief_length_m=plan.relief_length_m,
            features=plan.features,
            rng=stream(self._seed, "level"),
        )

    def _floor(self, x_m: float, y_m: float) -> float:
        return max(self._level.depth_at(x_m, y_m), 0.9)

    def _thermocline(self) -> Thermocline | None:
        if self._temperature_degc < SUMMER_DEGC or self._depth_m < 6.0 or not self._happens(0.5):
            return None
        return Thermocline(depth_m=round(0.6 * self._depth_m, 1), thickness_m=self._between(0.6, 2.5), drop_degc=self._between(3.0, 9.0))

    def _spot(self, near: float = 3.5, far: float = 0.85) -> tuple[float, float]:
        """Return a place in or close by the fan: right and ahead [m]."""
        if self._kind.fan is Fan.FLAT:
            ahead = self._between(near, max(far * self._reach_m, near + 2.0))
            return round(ahead * float(self._rng.uniform(-0.7, 0.7)), 2), ahead
        most = far * math.sqrt(max(self._reach_m**2 - (0.5 * self._depth_m) ** 2, 16.0))
        low, high = (-0.5, 0.8 * most) if self._kind.fan is Fan.BELOW else (near, max(most, near + 2.0))
        ahead = self._between(low, high)
        away = math.hypot(ahead, 0.5 * self._depth_m)
        return round(float(self._rng.normal(0.0, 0.07 * away)), 2), ahead

    def _tall(self, x_m: float, y_m: float, low: float, high: float) -> float:
        return round(max(self._between(low, high) * self._floor(x_m, y_m), LEAST_TALL_M), 2)
