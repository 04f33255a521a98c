"""A reach of water from a seed: a drowned creek between flats, with what was there before the water came. The shares are ours."""

import math
from dataclasses import replace

import numpy as np
from scipy.ndimage import gaussian_filter

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.chance import stream
from mudlamp.core.scene import model
from mudlamp.core.scene.bottom import GROUNDS, Ground
from mudlamp.core.scene.places import BAND_M, SCHOOLS_AT, Place, PlaceKind, Season
from mudlamp.core.scene.reach import LENGTH_M, WIDTH_M, Reach, SchoolPlan
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.survey import Survey
from mudlamp.core.units import FOOT_M

STEP_M = 0.5
DEEPEST_M = 38.0 * FOOT_M
SHORE_M = 0.3
RELIEF_M = 0.09
RELIEF_LENGTH_M = 5.0
# How far a chart's depths are off [m], and over what length that changes [m] (ours).
CHART_OFF_M = 0.25
CHART_LENGTH_M = 30.0
# Shallower than this it is the less off, down to nothing at the shore [m].
CHART_SURE_M = 1.5
# Schools of a reach: how many, how large they are and how likely each size is (small and tight ones bite better: common practice).
SCHOOLS = 14
SIZES = {"small": 0.55, "middle": 0.3, "huge": 0.15}
COUNTS = {"small": (6, 16), "middle": (16, 40), "huge": (70, 140)}
SPREADS_M = {"small": (0.5, 1.1), "middle": (1.0, 2.0), "huge": (2.5, 4.5)}
LONERS = 9
ROUGH = 7
BAIT = 6
# So many of the schools hold where the season says; the others could be anywhere deep enough.
BY_THE_RULE = 0.8
TRIES = 400


def charted(survey: Survey, seed: int) -> Survey:
    """Return a bottom as a chart has it: its depths a little off, over long lengths; where its shores are it knows."""
    white = stream(seed, "chart").standard_normal(survey.depth_m.shape)
    off = gaussian_filter(white, CHART_LENGTH_M / survey.step_m / 2.0)
    share = np.clip((survey.depth_m - SHORE_M) / CHART_SURE_M, 0.0, 1.0)
    return replace(survey, depth_m=survey.depth_m + share * CHART_OFF_M * off / max(float(np.std(off)), 1e-9))


def draw_reach(seed: int, *, water: model.Water, season: Season, name: str, title: str) -> Reach:
    """Return the reach of water of a seed, its fish where a season puts them."""
    return _Draw(seed, water, season).reach(name, title)


class _Draw:
    """One draw: the ground first, then what stands on it, then who lives there, each by a stream of its own."""

    def __init__(self, seed: int, water: model.Water, season: Season) -> None:
        self._seed, self._water, self._season = seed, water, season
        self._rng = stream(seed, "reach")
        self._phase = self._rng.uniform(0.0, 2.0 * math.pi, 8)
        self._survey = self._ground()
        self._cover: list[model.Cover] = []
        self._places: list[Place] = []

    def reach(self, name: str, title: str) -> Reach:
        """Draw all of it."""
        for put in (self._bridge, self._village, self._orchard, self._docks, self._points, self._bluff, self._channel, self._flats):
            put()
        self._weeds()
        self._brush()
        return Reach(
            name=name,
            title=title,
            seed=self._seed,
            water=self._water,
            season=self._season,
            survey=self._survey,
            chart=charted(self._survey, self._seed),
            cover=tuple(self._cover),
            places=tuple(self._places),
            schools=(*self._schools(), *self._loners(), *self._rough_fish()),
            bait=self._bait(),
            launch_m=self._launch(),
        )

    def _between(self, low: float, high: float) -> float:
        return round(float(self._rng.uniform(low, high)), 2)

    # The ground.

    def _creek_y(self, x_m: FloatArray | float) -> FloatArray:
        """Return where the old creek runs at (N,) places eastward [m]: it winds, and leans on the north shore in its middle bend."""
        x = np.asarray(x_m, dtype=np.float64)
        bends = 42.0 * np.sin(2.0 * math.pi * x / 330.0 + self._bend) + 9.0 * np.sin(2.0 * math.pi * x / 140.0 + self._phase[1])
        return np.asarray(bends + 14.0, dtype=np.float64)

    @property
    def _bend(self) -> float:
        return 0.5 * math.pi + 0.5 * math.sin(self._phase[0])

    def _shores(self, x_m: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return where the north and south shores are at (N,) places eastward [m]."""
        north = (
            88.0 + 10.0 * np.sin(2.0 * math.pi * x_m / 210.0 + self._phase[2]) + 5.0 * np.sin(2.0 * math.pi * x_m / 71.0 + self._phase[3])
        )
        south = (
            -96.0 + 9.0 * np.sin(2.0 * math.pi * x_m / 240.0 + self._phase[4]) + 6.0 * np.sin(2.0 * math.pi * x_m / 83.0 + self._phase[5])
        )
        return north, south

    def _ground(self) -> Survey:
        columns, rows = round(LENGTH_M / STEP_M) + 1, round(WIDTH_M / STEP_M) + 1
        x: FloatArray = np.linspace(-LENGTH_M / 2.0, LENGTH_M / 2.0, columns)
        y: FloatArray = np.linspace(-WIDTH_M / 2.0, WIDTH_M / 2.0, rows)[:, None]
        north, south = self._shores(x)
        from_shore = np.minimum(north[None, :] - y, y - south[None, :])
        # A shelf along the shores, then a break down to the flats by the creek; it wanders in and out.
        out = np.maximum(from_shore, 0.0)
        edge = 50.0 + 11.0 * np.sin(2.0 * math.pi * x / 190.0 + self._phase[6]) + 6.0 * np.sin(2.0 * math.pi * x / 67.0 + self._phase[7])
        flats = 1.0 + 2.1 * (1.0 - np.exp(-out / 16.0)) + 2.9 / (1.0 + np.exp(-(out - edge[None, :]) / 6.0))
        # The creek deepens toward the dam, in the east; its bed is flat and its edge is a break.
        from_creek = np.abs(y - self._creek_y(x)[None, :])
        bed = 3.4 + 3.0 * (x[None, :] + LENGTH_M / 2.0) / LENGTH_M
        depth = flats + bed / (1.0 + np.exp((from_creek - 13.0) / 3.2))
        self._tips = [self._tip(x_m, north_side) for x_m, north_side in ((-205.0, False), (-40.0, False), (95.0, True), (215.0, False))]
        for tip_x, tip_y, toward in self._tips:
            # A point: a ridge that runs out from the shore and falls off at its tip.
            inside = (tip_y - y) * toward
            depth -= 2.3 * np.exp(-(((x[None, :] - tip_x) / 13.0) ** 2)) / (1.0 + np.exp(-(inside + 2.0) / 4.0))
        self._hump = (self._between(-120.0, -70.0), self._between(-50.0, -35.0))
        depth -= 1.7 * np.exp(-((x[None, :] - self._hump[0]) ** 2 + (y - self._hump[1]) ** 2) / 14.0**2)
        relief = gaussian_filter(stream(self._seed, "relief").standard_normal((rows, columns)), RELIEF_LENGTH_M / STEP_M / 2.0)
        depth += RELIEF_M * relief / float(np.std(relief))
        wet = from_shore > 0.0
        shore = SHORE_M + np.maximum(from_shore, 0.0) * 0.55
        depth = np.where(wet, np.clip(np.minimum(depth, shore + 0.9), 0.5, DEEPEST_M), SHORE_M)
        return Survey(
            west_m=-LENGTH_M / 2.0, south_m=-WIDTH_M / 2.0, step_m=STEP_M, depth_m=depth, kind=self._kinds(x, y, from_creek, from_shore)
        )

    def _tip(self, x_m: float, north_side: bool) -> tuple[float, float, float]:
        """Return a point's tip [m], and which way it runs out: -1 from the north shore, 1 from the south."""
        x = x_m + self._between(-14.0, 14.0)
        creek = float(self._creek_y(x))
        north, south = (float(side[0]) for side in self._shores(np.array([x])))
        if north_side:
            return x, max(creek + 20.0, 0.5 * (creek + north)), -1.0
        return x, min(creek - 20.0, 0.5 * (creek + south)), 1.0

    def _kinds(self, x: FloatArray, y: FloatArray, from_creek: FloatArray, from_shore: FloatArray) -> IntArray:
        """Return the kinds of ground: mud in the creek's bed and on the flats, gravel along its edge, on points, sand near the shore, rock at bluffs."""
        kind = np.full(from_creek.shape, GROUNDS.index(Ground.MUD), dtype=np.int64)
        kind[(from_creek > 11.0) & (from_creek < 18.0)] = GROUNDS.index(Ground.GRAVEL)
        kind[from_shore < 16.0] = GROUNDS.index(Ground.SAND)
        for tip_x, tip_y, toward in self._tips:
            kind[(np.abs(x[None, :] - tip_x) < 12.0) & ((tip_y - y) * toward > -8.0)] = GROUNDS.index(Ground.GRAVEL)
        kind[(from_creek < 22.0) & (from_shore < 26.0)] = GROUNDS.index(Ground.ROCK)
        return kind

    # What stands there.

    def _place(self, kind: PlaceKind, x_m: float, y_m: float, radius_m: float) -> Place:
        place = Place(kind=kind, x_m=round(x_m, 2), y_m=round(y_m, 2), depth_m=round(self._survey.depth_at(x_m, y_m), 2), radius_m=radius_m)
        self._places.append(place)
        return place

    def _bridge(self) -> None:
        """Two rows of legs across the creek, with riprap at both ends."""
        x = self._bridge_x = 148.0 + self._between(-8.0, 8.0)
        north, south = (float(side[0]) for side in self._shores(np.array([x])))
        for y in np.arange(south + 8.0, north - 7.0, 15.0):
            for aside in (-2.5, 2.5):
                self._cover.append(model.Post(x_m=x + aside, y_m=round(float(y), 2), radius_m=0.35, height_m=None))
            self._place(PlaceKind.BRIDGE, x, float(y), 5.0)
        for y in (south + 6.0, north - 6.0):
            self._cover.append(
                model.Boulders(
                    x_m=x,
                    y_m=round(y, 2),
                    length_m=12.0,
                    width_m=6.0,
                    bearing_rad=math.pi / 2.0,
                    count=26,
                    smallest_m=0.2,
                    largest_m=0.6,
                )
            )

    def _village(self) -> None:
        """The foundations of the mill village: walls at right angles, on the southern flat."""
        middle = (-150.0 + self._between(-10.0, 10.0), float(self._creek_y(-150.0)) - 46.0)
        for house in range(6):
            x = middle[0] + 17.0 * (house % 3 - 1) + self._between(-2.0, 2.0)
            y = middle[1] + 13.0 * (house // 3) + self._between(-1.5, 1.5)
            height = self._between(0.5, 1.3)
            for aside, ahead, bearing, long in ((0.0, 3.0, 90.0, 7.0), (-3.5, 0.0, 0.0, 6.0), (3.5, 0.0, 0.0, 6.0)):
                self._cover.append(
                    model.Wall(
                        x_m=round(x + aside, 2),
                        y_m=round(y + ahead, 2),
                        length_m=long,
                        height_m=height,
                        bearing_rad=math.radians(bearing),
                    )
                )
            self._place(PlaceKind.VILLAGE, x, y, 4.0)

    def _orchard(self) -> None:
        """The pear orchard: rows of drowned trees on the northern flat, some of them gone."""
        x0, y0 = 12.0 + self._between(-8.0, 8.0), float(self._creek_y(20.0)) - 62.0
        for row in range(3):
            for tree in range(6):
                if float(self._rng.random()) < 0.25:
                    continue
                x, y = x0 + 9.0 * tree + self._between(-0.8, 0.8), y0 + 10.0 * row + self._between(-0.8, 0.8)
                floor = self._survey.depth_at(x, y)
                tall = min(self._between(0.45, 0.7) * floor, 3.2)
                self._cover.append(model.Tree(x_m=round(x, 2), y_m=round(y, 2), height_m=round(tall, 2), spread_m=self._between(0.9, 1.6)))
                self._place(PlaceKind.ORCHARD, x, y, 2.0)

    def _docks(self) -> None:
        for x_m, north_side in ((-255.0, True), (250.0, True)):
            x = x_m + self._between(-8.0, 8.0)
            north, south = (float(side[0]) for side in self._shores(np.array([x])))
            y = north - 13.0 if north_side else south + 13.0
            self._cover.append(
                model.Float(x_m=round(x, 2), y_m=round(y, 2), length_m=9.0, width_m=2.4, draft_m=0.3, bearing_rad=0.0),
            )
            for aside in (-1.0, 1.0):
                self._cover.append(model.Post(x_m=round(x + aside, 2), y_m=round(y - 3.5, 2), radius_m=0.12, height_m=None))
            self._place(PlaceKind.DOCK, x, y, 6.0)

    def _points(self) -> None:
        for tip_x, tip_y, _ in self._tips:
            self._place(PlaceKind.POINT, tip_x, tip_y, 9.0)

    def _bluff(self) -> None:
        """Where the creek runs under the steepest shore: boulders that fell, and a wall of water to hold on."""
        xs = np.arange(-280.0, 281.0, 4.0)
        north, _ = self._shores(xs)
        gap = north - self._creek_y(xs)
        for x in sorted(xs[np.argsort(gap)[:14]])[::2]:
            y = float(self._creek_y(x)) + 14.0
            self._cover.append(
                model.Boulders(
                    x_m=float(x),
                    y_m=round(y, 2),
                    length_m=5.0,
                    width_m=4.0,
                    bearing_rad=0.0,
                    count=int(self._rng.integers(4, 10)),
                    smallest_m=0.3,
                    largest_m=0.9,
                )
            )
            self._place(PlaceKind.BLUFF, float(x), y, 5.0)

    def _channel(self) -> None:
        """The edges of the creek's bed, every so often on both sides."""
        for x in np.arange(-270.0, 271.0, 36.0):
            for side in (-1.0, 1.0):
                at = float(x) + self._between(-8.0, 8.0)
                self._place(PlaceKind.CHANNEL, at, float(self._creek_y(at)) + side * 15.0, 6.0)

    def _flats(self) -> None:
        for _ in range(14):
            found = self._somewhere(1.6, 3.2)
            if found is not None:
                self._place(PlaceKind.FLAT, *found, 10.0)

    def _weeds(self) -> None:
        """Weed beds along the shores, down to some 9 ft; dead and gone in winter."""
        for _ in range(16):
            found = self._somewhere(1.5, 2.8)
            if found is None:
                continue
            self._place(PlaceKind.WEEDS, *found, 5.0)
            if self._season is not Season.WINTER:
                habit = model.FishHabit.PACKED if float(self._rng.random()) < 0.6 else model.FishHabit.BROAD
                self._cover.append(
                    model.Weeds(
                        x_m=round(found[0], 2),
                        y_m=round(found[1], 2),
                        radius_m=self._between(2.0, 4.0),
                        height_m=self._between(0.5, 1.1),
                        habit=habit,
                    )
                )

    def _brush(self) -> None:
        """Sunken brush: near the channel's edges and points more often than not; most of it holds nobody."""
        for _ in range(18):
            near = self._places[int(self._rng.integers(len(self._places)))]
            x, y = near.x_m + self._between(-12.0, 12.0), near.y_m + self._between(-12.0, 12.0)
            floor = self._survey.depth_at(x, y)
            if not self._inside(x, y) or not 2.2 < floor < 7.5:
                continue
            for _ in range(int(self._rng.integers(1, 4))):
                tall = min(self._between(0.2, 0.42) * floor, 2.0)
                self._cover.append(
                    model.Tree(
                        x_m=round(x + self._between(-1.2, 1.2), 2),
                        y_m=round(y + self._between(-1.2, 1.2), 2),
                        height_m=max(tall, 0.5),
                        spread_m=self._between(0.6, 1.3),
                    )
                )
            self._place(PlaceKind.BRUSH, x, y, 2.5)

    # Who lives there.

    @staticmethod
    def _inside(x_m: float, y_m: float) -> bool:
        return abs(x_m) < LENGTH_M / 2.0 - 12.0 and abs(y_m) < WIDTH_M / 2.0 - 12.0

    def _somewhere(self, shallowest_m: float, deepest_m: float) -> tuple[float, float] | None:
        """Return a place over a bottom of such a depth [m], or None where there is none to be found."""
        for _ in range(TRIES):
            x, y = self._between(-LENGTH_M / 2.0 + 15.0, LENGTH_M / 2.0 - 15.0), self._between(-WIDTH_M / 2.0 + 15.0, WIDTH_M / 2.0 - 15.0)
            if shallowest_m <= self._survey.depth_at(x, y) <= deepest_m:
                return x, y
        return None

    def _home(self) -> tuple[float, float, PlaceKind] | None:
        """Return where a school holds: at one of the season's places, over its depth band where it can, else anywhere."""
        low, high = BAND_M[self._season]
        if float(self._rng.random()) < BY_THE_RULE:
            shares = SCHOOLS_AT[self._season]
            kinds = [kind for kind in shares if any(place.kind is kind for place in self._places)]
            weight = np.array([shares[kind] for kind in kinds])
            kind = kinds[int(self._rng.choice(len(kinds), p=weight / weight.sum()))]
            places = [place for place in self._places if place.kind is kind]
            for _ in range(TRIES):
                place = places[int(self._rng.integers(len(places)))]
                x, y = place.x_m + self._rng.normal(0.0, place.radius_m), place.y_m + self._rng.normal(0.0, place.radius_m)
                if self._inside(x, y) and 0.85 * low <= self._survey.depth_at(x, y) <= 1.2 * high:
                    return float(x), float(y), kind
        found = self._somewhere(2.0, DEEPEST_M)
        return None if found is None else (*found, PlaceKind.FLAT)

    def _schools(self) -> list[SchoolPlan]:
        found = []
        for _ in range(SCHOOLS):
            home = self._home()
            if home is None:
                continue
            size = tuple(SIZES)[int(self._rng.choice(len(SIZES), p=list(SIZES.values())))]
            spread = self._between(*SPREADS_M[size])
            species = (
                Species.BLUEGILL if home[2] in (PlaceKind.WEEDS, PlaceKind.DOCK) and float(self._rng.random()) < 0.4 else Species.CRAPPIE
            )
            lengths = (0.12, 0.2) if species is Species.BLUEGILL else (0.22, 0.36)
            found.append(
                self._school(
                    home, species, count=int(self._rng.integers(*COUNTS[size])), spread_m=spread, lengths_m=lengths, mood=0.15 if size == "huge" else self._between(0.35, 0.75)
                )
            )  # fmt: skip
        return found

    def _school(
        self,
        home: tuple[float, float, PlaceKind],
        species: Species,
        *,
        count: int,
        spread_m: float,
        lengths_m: tuple[float, float],
        mood: float,
    ) -> SchoolPlan:
        x, y, kind = home
        floor = self._survey.depth_at(x, y)
        rise = min(0.45 * spread_m, 0.2 * floor)
        up = self._between(0.12, 0.5) * floor if count > 2 else self._between(0.05, 0.5) * floor
        return SchoolPlan(
            species=species,
            count=count,
            x_m=round(x, 2),
            y_m=round(y, 2),
            z_m=round(max(floor - max(up, rise + 0.25), 0.8 + rise), 2),
            spread_m=spread_m,
            rise_m=round(rise, 2),
            shortest_m=lengths_m[0],
            longest_m=lengths_m[1],
            mood=mood,
            at=kind,
        )

    def _loners(self) -> list[SchoolPlan]:
        """Single large bass."""
        found = []
        for _ in range(LONERS):
            home = self._home()
            if home is not None:
                found.append(
                    self._school(home, Species.LARGEMOUTH, count=1, spread_m=0.1, lengths_m=(0.38, 0.6), mood=self._between(0.1, 0.5))
                )
        return found

    def _rough_fish(self) -> list[SchoolPlan]:
        found = []
        for _ in range(ROUGH):
            where = self._somewhere(2.0, DEEPEST_M)
            if where is not None:
                species = (Species.CARP, Species.DRUM, Species.CATFISH, Species.GAR)[int(self._rng.integers(4))]
                count = int(self._rng.integers(1, 4))
                found.append(self._school((*where, PlaceKind.FLAT), species, count=count, spread_m=1.5, lengths_m=(0.4, 0.75), mood=0.05))
        return found

    def _bait(self) -> tuple[model.BaitCloud, ...]:
        found = []
        for _ in range(BAIT):
            where = self._somewhere(3.5, DEEPEST_M)
            if where is None:
                continue
            floor, radius = self._survey.depth_at(*where), self._between(0.8, 2.0)
            z = self._between(radius * 0.6 + 0.6, max(0.6 * floor, radius * 0.6 + 0.7))
            found.append(model.BaitCloud(x_m=where[0], y_m=where[1], z_m=z, radius_m=radius, count=int(self._rng.integers(80, 260))))
        return tuple(found)

    def _launch(self) -> tuple[float, float]:
        """The ramp is at the western end, in the creek."""
        x = -LENGTH_M / 2.0 + 14.0
        return round(x, 1), round(float(self._creek_y(x)), 1)
