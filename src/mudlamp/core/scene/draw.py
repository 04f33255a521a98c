"""A water from a seed, over the whole range that an angler meets. Where things stand is plausible; the shares are ours."""

import math
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.casting.lures import Material
from mudlamp.core.chance import stream
from mudlamp.core.controls import DOWN_TO
from mudlamp.core.ping import Fan
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import Bottom, Feature, FeatureKind, Ground, Patch, make_bottom
from mudlamp.core.scene.draw_shares import AT_HOME, HEADS_OZ, HEAVY, HEAVY_OZ, LENGTHS_M, LINES, LURES, PACES_M_S, SCHOOLS
from mudlamp.core.scene.kinds_of_water import DEPTHS_M, WATER_KINDS, Deep, Stands, WaterKind
from mudlamp.core.scene.species import Species
from mudlamp.core.sonar.interference import OtherSonar
from mudlamp.core.sonar.transducer import usual_tilt_rad
from mudlamp.core.units import OUNCE_KG
from mudlamp.core.water.thermocline import SUMMER_DEGC, Thermocline

# Waters with no fish, with no lure; with each of the lesser troubles.
NO_FISH = 0.06
NO_LURE = 0.12
BAIT_SHARE, INSECTS_SHARE, WAKE_SHARE, SONAR_SHARE, DRIFTING_SHARE = 0.4, 0.15, 0.12, 0.12, 0.2
# Anglers who look out far over shallow water; who see no bottom under deep water; who mounted the fan steeper or flatter than usual.
FAR_SHARE, BOTTOMLESS_SHARE, TILTED_SHARE = 0.3, 0.2, 0.3
# Rough bottoms; groups of a species that is not at home there; what stands beside the cover that a kind of water is named for.
ROUGH_SHARE, STRAY_SHARE, BESIDE_SHARE = 0.2, 0.15, 0.35
LEAST_TALL_M = 0.4


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnWater:
    """A drawn water: its kind, the scene, how often the sounder pings [Hz]."""

    kind: WaterKind
    scene: model.Scene
    ping_hz: float


def draw_water(seed: int, kind: WaterKind | None = None, *, evenly: bool = False) -> DrawnWater:
    """Return the water of a seed: one of WATER_KINDS, or of the kind given; `evenly`: all species as often, wherever they are at home."""
    rng = stream(seed, "draw")
    chosen = WATER_KINDS[int(rng.integers(len(WATER_KINDS)))]
    return _Draw(seed, kind or chosen, rng, evenly=evenly).water()


class _Draw:
    """One draw: what is drawn later stands on what was drawn before. Figures are rounded, so that a scene file holds them whole."""

    def __init__(self, seed: int, kind: WaterKind, rng: np.random.Generator, *, evenly: bool) -> None:
        self._evenly = evenly
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
        self._cover: list[model.Cover] = []

    def water(self) -> DrawnWater:
        """Draw all of it."""
        rng = self._rng
        self._put_cover()
        wind = round(float(rng.gamma(2.0, 1.4)), 1)
        scene = model.Scene(
            name=f"drawn-{self._seed}",
            title=f"Drawn water {self._seed}: {self._kind}",
            teaches="",
            water=model.Water(
                temperature_degc=self._temperature_degc,
                secchi_m=round(0.25 * 2.0 ** float(rng.uniform(0.0, 5.0)), 2),
                wind_m_s=min(wind, 8.0),
                thermocline=self._thermocline(),
            ),
            bottom=self._plan,
            surface=True,
            noise=True,
            boat=self._boat(),
            transducer=self._transducer(),
            cover=tuple(self._cover),
            fish=self._fish(),
            bait=self._bait(),
            insects=self._insects(),
            wakes=self._wakes(),
            angler=self._angler(),
            faults=self._faults(),
        )
        most_hz = min(20.0, 0.95 * 1430.0 / (2.0 * (self._reach_m + 1.0)))
        return DrawnWater(kind=self._kind, scene=scene, ping_hz=round(float(rng.uniform(8.0, max(most_hz, 8.5))), 1))

    def _between(self, low: float, high: float) -> float:
        return round(float(self._rng.uniform(low, high)), 2)

    def _happens(self, share: float) -> bool:
        return float(self._rng.random()) < share

    # The ground.

    def _bottom(self) -> model.BottomPlan:
        rng = self._rng
        ground = Ground.ROCK if self._kind.stands is Stands.ROCK else tuple(Ground)[int(rng.choice(4, p=[0.35, 0.35, 0.2, 0.1]))]
        features = []
        # A ledge and, now and then, another.
        for _ in range(int(self._happens(0.4)) + int(self._happens(0.1)) if self._kind.fan is not Fan.FLAT else 0):
            shape = tuple(FeatureKind)[int(rng.integers(3))]
            change = (
                self._between(0.12, 0.7 if shape is FeatureKind.LEDGE else 0.4)
                * self._depth_m
                * (-1.0 if shape is FeatureKind.HUMP else 1.0)
            )
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

    # The boat and its sonar.

    def _boat(self) -> model.Boat:
        held = not self._happens(DRIFTING_SHARE)
        return model.Boat(
            x_m=0.0,
            y_m=0.0,
            heading_rad=0.0,
            speed_m_s=0.0,
            sway_rad=math.radians(self._between(1.0, 13.0)),
            drift_m=self._between(0.15, 1.0),
            pitch_rad=math.radians(self._between(0.1, 1.5)),
            held=held,
            wind_from_rad=math.radians(self._between(-180.0, 180.0)),
            current_m_s=0.0 if held else self._between(0.0, 0.08),
            current_toward_rad=math.radians(self._between(-180.0, 180.0)),
        )

    def _transducer(self) -> model.Transducer:
        rng, fan = self._rng, self._kind.fan
        own = self._happens(0.5)
        found = model.Transducer(
            profile="demo" if self._happens(0.7) else "test",
            fan=fan,
            depth_m=self._between(0.2, 1.0),
            reach_m=self._reach_m,
            down_to_m=DOWN_TO.held(round(self._down_to_m, 1)),
            look_back_m=0.6,
            tilt_rad=math.radians(self._between(74.0, 86.0)) if fan is Fan.FLAT else None,
            fan_rad=math.radians(self._between(95.0, 145.0)) if own else None,
            thickness_rad=math.radians(self._between(11.0, 26.0)) if own else None,
            carrier_hz=1000.0 * round(float(rng.uniform(500.0, 1200.0)), 0) if own else None,
            facets=int(rng.integers(1, 5)) if own else None,
        )
        if fan is not Fan.AHEAD or not self._happens(TILTED_SHARE):
            return found
        usual_deg = math.degrees(usual_tilt_rad(fan, found.shape))
        return replace(found, tilt_rad=math.radians(round(max(usual_deg + self._between(-8.0, 8.0), 5.0), 1)))

    def _faults(self) -> model.Faults:
        if not self._happens(SONAR_SHARE):
            return model.Faults()
        other = OtherSonar(
            ping_hz=self._between(8.0, 20.0), angle_rad=math.radians(self._between(-55.0, 55.0)), level_db=self._between(-98.0, -85.0)
        )
        return model.Faults(other_sonar=other)

    # What stands there.

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
            radius, pocket = self._between(1.0, 3.4), self._happens(0.3)
            self._cover.append(
                model.Weeds(
                    x_m=round(x + self._between(-2.0, 2.0), 2),
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

    # What lives there.

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
        """Return where fish hold: at cover, more often than not, else anywhere."""
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

    def _angler(self) -> model.ScriptedAngler | None:
        if self._happens(NO_LURE):
            return None
        lure = LURES[int(self._rng.integers(len(LURES)))]
        heads = HEAVY_OZ if lure in HEAVY else HEADS_OZ
        return model.ScriptedAngler(
            head_kg=heads[int(self._rng.integers(len(heads)))] * OUNCE_KG,
            lure=lure,
            material=Material.TUNGSTEN if self._happens(0.3) else Material.LEAD,
            line=tuple(LINES)[int(self._rng.choice(len(LINES), p=list(LINES.values())))],
            weight_kg=1 / 32 * OUNCE_KG if self._happens(0.1) else 0.0,
        )
