"""What lives and drifts in a drawn water."""

import math

import numpy as np

from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.draw_cover import CoverDraw
from mudlamp.core.scene.draw_shares import AT_HOME, LENGTHS_M, PACES_M_S, SCHOOLS
from mudlamp.core.scene.kinds_of_water import WaterKind
from mudlamp.core.scene.species import Species

# Waters with no fish; groups of a species that is not at home there; waters with bait, with insects, with a wake.
NO_FISH, STRAY_SHARE = 0.06, 0.15
BAIT_SHARE, INSECTS_SHARE, WAKE_SHARE = 0.4, 0.15, 0.12


class LifeDraw(CoverDraw):
    """Draws fish, bait, insects and wakes, about the cover that was drawn; `evenly`: all species as often."""

    def __init__(self, seed: int, kind: WaterKind, rng: np.random.Generator, *, evenly: bool) -> None:
        super().__init__(seed, kind, rng)
        self._evenly = evenly

    def _fish(self) -> tuple[model.FishGroup, ...]:
        if self._happens(NO_FISH):
            return ()
        homes = dict.fromkeys(Species, 1.0 / len(Species)) if self._evenly else AT_HOME[self._kind.stands]
        kinds, shares = list(homes), np.array(list(homes.values()))
        groups = []
        for _ in range(int(self._rng.integers(1, 6))):
            stray = tuple(Species)[int(self._rng.integers(len(Species)))] if self._happens(STRAY_SHARE) else None
            species = stray or kinds[int(self._rng.choice(len(kinds), p=shares))]
            groups.append(self._school(species) if species in SCHOOLS else self._few(species))
        return tuple(groups)

    def _home(self) -> tuple[float, float, float]:
        """Return where fish hold: at cover, more often than not, along a ledge or what else the bottom has, else anywhere."""
        if self._cover and self._happens(0.6):
            at = self._cover[int(self._rng.integers(len(self._cover)))]
            x, y = round(at.x_m + self._between(-0.5, 0.5), 2), round(at.y_m + self._between(-0.8, 0.8), 2)
            up = at.height_m if isinstance(at, model.Tree | model.Weeds) else None
            if isinstance(at, model.Float):
                along = self._between(-0.4, 0.4) * at.length_m
                x, y = round(x + along * math.sin(at.bearing_rad), 2), round(y + along * math.cos(at.bearing_rad), 2)
                return x, y, self._between(0.8, max(0.6 * self._floor(x, y), 1.0))
            rise = self._between(0.3, 1.2) * up if up is not None else self._between(0.1, 0.7) * self._floor(x, y)
            return x, y, self._held(x, y, self._floor(x, y) - rise)
        x, y = self._spot()
        if self._plan.features and self._happens(0.5):
            y = round(self._plan.features[0].y_m + self._between(-2.0, 3.5), 2)
            return x, y, self._held(x, y, self._floor(x, y) - self._between(0.2, 1.2))
        if self._kind.fan is Fan.FLAT:
            return x, y, self._held(x, y, 0.45 + 0.17 * math.hypot(x, y) + self._between(-0.5, 0.5))
        return x, y, self._held(x, y, self._between(0.2, 0.95) * min(self._floor(x, y), self._down_to_m))

    def _held(self, x_m: float, y_m: float, z_m: float) -> float:
        return round(min(max(z_m, 0.5), self._floor(x_m, y_m) - 0.25), 2)

    def _school(self, species: Species) -> model.FishGroup:
        rng = self._rng
        # Most schools are small and tight, a few are huge.
        count = int(rng.integers(40, 90)) if self._happens(0.06) else 1 + int(rng.geometric(0.16))
        spread = min(0.25 + 0.16 * count ** (1.0 / 2.0), 1.6)
        spread *= self._between(0.5, 1.2)
        return self._group(species, min(count, 110), spread, min(self._between(0.25, 1.0) * spread, 0.25 * self._depth_m), cruises=0.25)

    def _few(self, species: Species) -> model.FishGroup:
        return self._group(species, int(self._rng.integers(1, 4)), self._between(0.15, 1.5), self._between(0.1, 0.5), cruises=0.55)

    def _group(self, species: Species, count: int, spread_m: float, rise_m: float, *, cruises: float) -> model.FishGroup:
        x, y, z = self._home()
        shortest, longest = LENGTHS_M[species]
        usual = self._between(shortest, longest)
        return model.FishGroup(
            species=species,
            count=count,
            x_m=x,
            y_m=y,
            z_m=z if species is not Species.CATFISH else self._held(x, y, self._floor(x, y) - 0.3),
            spread_m=round(spread_m, 2),
            rise_m=round(rise_m, 2),
            shortest_m=round(max(0.85 * usual, shortest), 3),
            longest_m=round(min(1.15 * usual, longest), 3),
            mood=self._between(0.02, 0.95),
            cruise_m=self._between(0.6, 3.0) if self._happens(cruises) else 0.0,
            pace_m_s=self._between(*PACES_M_S[species]),
        )

    def _bait(self) -> tuple[model.BaitCloud, ...]:
        clouds = []
        for _ in range(int(self._rng.integers(1, 4)) if self._happens(BAIT_SHARE) else 0):
            x, y = self._spot()
            radius = self._between(0.3, 1.6)
            z = self._held(x, y, self._between(0.2, 0.75) * min(self._floor(x, y), self._down_to_m))
            count = int((40 + 130 * radius**2) * self._between(0.6, 1.5))
            clouds.append(model.BaitCloud(x_m=x, y_m=y, z_m=z, radius_m=radius, count=count))
        return tuple(clouds)

    def _insects(self) -> tuple[model.Insects, ...]:
        if not self._happens(INSECTS_SHARE):
            return ()
        count = int(self._rng.integers(80, 750))
        y, radius = self._between(4.0, 9.0), self._between(4.0, 10.0)
        return (model.Insects(x_m=0.0, y_m=y, radius_m=radius, count=count, rise_m_s=self._between(0.02, 0.08)),)

    def _wakes(self) -> tuple[model.Wake, ...]:
        if not self._happens(WAKE_SHARE):
            return ()
        # An old one lies there, or a boat crosses while it is fished.
        crosses = self._happens(0.35)
        return (
            model.Wake(
                x_m=self._between(-1.0, 1.0),
                y_m=self._between(5.0, 12.0),
                radius_m=self._between(0.8, 3.0),
                depth_m=round(min(self._between(0.8, 4.0), 0.75 * self._depth_m), 2),
                strength_db=self._between(-60.0, -43.0),
                age_s=0.0 if crosses else self._between(0.0, 60.0),
                crosses_s=self._between(0.0, 40.0) if crosses else None,
                length_m=self._between(20.0, 45.0) if crosses else 30.0,
                bearing_rad=math.radians(self._between(30.0, 150.0)),
            ),
        )
