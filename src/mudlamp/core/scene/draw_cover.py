"""What stands in a drawn water."""

import math

import numpy as np

from mudlamp.core.scene import model
from mudlamp.core.scene.draw_ground import GroundDraw
from mudlamp.core.scene.kinds_of_water import Stands, WaterKind

# How often something of another kind stands beside the cover that a kind of water is named for.
BESIDE_SHARE = 0.35


class CoverDraw(GroundDraw):
    """Draws the cover, on the ground that was drawn."""

    def __init__(self, seed: int, kind: WaterKind, rng: np.random.Generator) -> None:
        super().__init__(seed, kind, rng)
        self._cover: list[model.Cover] = []

    def _put_cover(self) -> None:
        stands = self._kind.stands
        putting = {
            Stands.OPEN: self._nothing,
            Stands.BRUSH: self._brush,
            Stands.TIMBER: self._timber,
            Stands.WEEDS: self._weeds,
            Stands.ROCK: self._rock,
            Stands.DOCK: self._dock,
            Stands.PILINGS: self._pilings,
        }
        putting[stands]()
        if self._cover and self._happens(BESIDE_SHARE):
            beside = (self._stump, self._stump, self._brush, self._weeds, self._rock, self._pilings)
            beside[int(self._rng.integers(len(beside)))]()

    def _nothing(self) -> None:
        """Open water."""

    def _stump(self) -> None:
        x, y = self._spot()
        self._cover.append(model.Post(x_m=x, y_m=y, radius_m=self._between(0.08, 0.25), height_m=self._between(0.35, 1.0)))

    def _brush(self) -> None:
        for _ in range(int(self._rng.integers(1, 4))):
            x, y = self._spot()
            self._cover.append(model.Tree(x_m=x, y_m=y, height_m=min(self._tall(x, y, 0.15, 0.55), 3.5), spread_m=self._between(0.4, 1.5)))

    def _timber(self) -> None:
        for _ in range(int(self._rng.integers(3, 8))):
            x, y = self._spot()
            if self._happens(0.4):
                self._cover.append(model.Tree(x_m=x, y_m=y, height_m=self._tall(x, y, 0.4, 0.8), spread_m=self._between(0.6, 1.6)))
            else:
                self._cover.append(model.Post(x_m=x, y_m=y, radius_m=self._between(0.06, 0.2), height_m=self._tall(x, y, 0.4, 0.9)))

    def _weeds(self) -> None:
        for _ in range(int(self._rng.integers(1, 4))):
            x, y = self._spot(4.0)
            habit = model.FishHabit.PACKED if self._happens(0.6) else model.FishHabit.BROAD
            x = round(x + self._between(-2.0, 2.0), 2)
            radius, pocket = self._between(1.0, 3.4), self._happens(0.3)
            self._cover.append(
                model.Weeds(
                    x_m=x,
                    y_m=y,
                    radius_m=radius,
                    height_m=min(self._tall(x, y, 0.2, 0.65), 2.5),
                    habit=habit,
                    pocket_x_m=round(x + self._between(-0.5, 0.5) * radius, 2) if pocket else 0.0,
                    pocket_y_m=round(y + self._between(-0.5, 0.5) * radius, 2) if pocket else 0.0,
                    pocket_m=round(self._between(0.25, 0.55) * radius, 2) if pocket else 0.0,
                )
            )

    def _rock(self) -> None:
        for _ in range(int(self._rng.integers(1, 4))):
            x, y = self._spot()
            self._cover.append(
                model.Boulders(
                    x_m=x,
                    y_m=y,
                    length_m=self._between(1.0, 5.0),
                    width_m=self._between(1.0, 4.0),
                    bearing_rad=math.radians(self._between(-90.0, 90.0)),
                    count=int(self._rng.integers(3, 20)),
                    smallest_m=self._between(0.08, 0.25),
                    largest_m=self._between(0.25, 1.0),
                )
            )
        if self._happens(0.25):
            x, y = self._spot(5.0)
            self._cover.append(
                model.Wall(
                    x_m=x,
                    y_m=y,
                    length_m=self._between(3.0, 9.0),
                    height_m=self._between(0.4, 1.2),
                    bearing_rad=math.radians(self._between(-90.0, 90.0)),
                )
            )

    def _dock(self) -> None:
        ahead, aside = self._between(5.5, 12.0), self._between(-1.5, 1.5)
        length, width = self._between(3.0, 13.0), self._between(1.5, 3.5)
        # Along the shore, out from it, or askew.
        bearing = math.radians(90.0 if self._happens(0.4) else 0.0 if self._happens(0.5) else self._between(-80.0, 80.0))
        self._cover.append(
            model.Float(x_m=aside, y_m=ahead, length_m=length, width_m=width, draft_m=self._between(0.15, 0.6), bearing_rad=bearing)
        )
        for side in (-0.45, 0.45):
            x, y = aside + side * length * math.sin(bearing), ahead + side * length * math.cos(bearing)
            self._cover.append(model.Post(x_m=round(x, 2), y_m=round(y, 2), radius_m=self._between(0.08, 0.2), height_m=None))

    def _pilings(self) -> None:
        for _ in range(int(self._rng.integers(2, 6))):
            x, y = self._spot(4.5)
            self._cover.append(model.Post(x_m=x, y_m=y, radius_m=self._between(0.08, 0.32), height_m=None))
