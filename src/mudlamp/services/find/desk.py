"""The desk for searching: charts, plans, searches under way, marks in every view, spots, and the way to the live fan."""

import datetime as dt
import math
import secrets
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.casting.solve import Mood
from mudlamp.core.controls import GAIN, NEAR_CUT, PUNCH, QUIETING
from mudlamp.core.errors import DomainError, require_choice, require_range
from mudlamp.core.receiver.columns import brightness_of
from mudlamp.core.records.spots import SPOT_KINDS, Spot
from mudlamp.core.searching.boat import Standing
from mudlamp.core.searching.coverage import Coverage
from mudlamp.core.searching.marks import Fix, together
from mudlamp.core.searching.search import ViewSetting
from mudlamp.core.searching.sizes import by_reference, extent_of
from mudlamp.core.setup import ReceiverSetup, with_settings
from mudlamp.core.sonar.console import BINS, REACH_M, VIEWS, ViewKind
from mudlamp.core.units import FOOT_M, MPH_M_S
from mudlamp.core.water.sound import absorption_db_per_m
from mudlamp.services.edge.controls import read_settings
from mudlamp.services.find import line, plans
from mudlamp.services.find.columns import decoded, told, truly
from mudlamp.services.find.gpx_file import track_gpx
from mudlamp.services.find.handoff import HandOff, hand_off
from mudlamp.services.find.marks import Marked, mark_at
from mudlamp.services.find.odds import odds_for
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.find.voyage import VoyageHandle, Voyages
from mudlamp.services.find.waters import DEMO, reach_named
from mudlamp.services.water.plans import WindowPlan

PACES = (0.0, 1.0, 2.0, 4.0, 8.0)
MOST_PATH = 4000
MOST_COLUMNS = 1200
MOST_POINTS = 40_000
# The controls that a console's pictures have.
CONTROLS = (GAIN, NEAR_CUT, QUIETING, PUNCH)
# What is pointed at is looked for so far about [m].
POINTED_M = 3.0
# A mark is measured within so many pings and cells of where it was pointed at.
LOOK_PINGS, LOOK_CELLS = 60, 50
# How long a thing of a known size may be [ft].
REFERENCE_FT = (0.5, 60.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Columns:
    """Columns of a view, ready to be drawn: the first one's number, how bright (ping, beam, range_bin), every column at the view's present Reach."""

    first: int
    brightness: np.ndarray


class FindDesk:
    """Charts, plans, searches, spots."""

    def __init__(self, voyages: Voyages, book: SpotBook, *, now: Callable[[], dt.datetime]) -> None:
        self.voyages = voyages
        self.book = book
        self._now = now

    # Searches.

    def push_off(
        self, device: uuid.UUID, *, water: str = DEMO, asked: plans.PlanAsked | None = None, seed: int | None = None
    ) -> VoyageHandle:
        """Return a new search of a browser: the boat at the ramp, the views open that a plan would open, standing still."""
        reach = reach_named(water)
        wanted = (asked or plans.first_ask(reach)).checked()
        chosen = secrets.randbelow(2**31) if seed is None else seed
        voyage = self.voyages.open(device, water, seed=chosen, views=plans.views_for(wanted), band_m=wanted.band_m)
        voyage.tell(line.SetSpeed(wanted.speed_mph * MPH_M_S))
        return voyage

    def steer(
        self,
        device: uuid.UUID,
        *,
        pace: float | None = None,
        speed_mph: float | None = None,
        path: Sequence[tuple[float, float]] | None = None,
    ) -> None:
        """Set the pace of time, the boat's speed [mph], its path [m]; raise DomainError for what is out of range."""
        voyage = self.voyages.require(device)
        if pace is not None:
            require_choice("pace", pace, PACES)
        speed = None if speed_mph is None else plans.speed_of(speed_mph)
        if path is not None:
            if len(path) > MOST_PATH:
                raise DomainError(f"path has {len(path)} places: it may have {MOST_PATH} at most")
            reach = reach_named(voyage.water)
            for x, y in path:
                if not (math.isfinite(x) and math.isfinite(y)) or not reach.is_afloat(x, y):
                    raise DomainError(f"path goes to {x:.0f}, {y:.0f}: no boat floats there")
            voyage.tell(line.SetPath(tuple((float(x), float(y)) for x, y in path)))
        if speed is not None:
            voyage.tell(line.SetSpeed(speed))
        if pace is not None:
            voyage.tell(line.SetPace(pace))

    def open_views(self, device: uuid.UUID, views: Sequence[ViewSetting]) -> None:
        """Open these views; raise DomainError for a carrier or a Reach that a view does not have, or for one named twice."""
        voyage = self.voyages.require(device)
        if len({view.kind for view in views}) != len(views) or not views:
            raise DomainError(f"views are {', '.join(view.kind.value for view in views) or 'none'}: each must be named once, one at least")
        for view in views:
            require_choice("carrier_hz", view.carrier_hz, VIEWS[view.kind].carriers_hz)
            require_range("reach_m", view.reach_m, *REACH_M, "m")
        voyage.tell(line.SetViews(tuple(views)))

    def columns(self, device: uuid.UUID, view: ViewKind, first: int, last: int, settings: Mapping[str, object]) -> Columns:
        """Return a view's columns from `first` to before `last`, made bright by a set-up of the receiver (edge names); those that there are."""
        voyage = self.voyages.require(device)
        setup = with_settings(ReceiverSetup(), *read_settings(settings, CONTROLS, what="a console's picture"))
        newest = voyage.columns.count
        first, last = max(first, 0), min(last, newest)
        if last - first > MOST_COLUMNS:
            raise DomainError(f"{last - first} columns are asked for: it must be {MOST_COLUMNS} at most")
        state = voyage.state
        now = next((one for one in state.views if one.kind is view), None)
        own = [one for one in state.epochs if one.setting.kind is view]
        beams = len(VIEWS[view].shapes)
        out = np.zeros((max(last - first, 0), beams, BINS), dtype=np.uint8)
        if not own or last <= first:
            return Columns(first=first, brightness=out)
        present = now or own[-1].setting
        lead = setup.quieting_pings - 1
        ends = [*(one.from_number for one in own[1:]), newest]
        for epoch, end in zip(own, ends, strict=True):
            low, high = max(first, epoch.from_number), min(last, end)
            if low >= high:
                continue
            start = max(low - lead, epoch.from_number)
            raw = voyage.columns.levels(view, start, high)
            bright = self._bright(raw, epoch.setting, setup, voyage.water, missing=lead - (low - start))
            out[low - first : high - first] = _at_reach(bright, epoch.setting.reach_m, present.reach_m)
        return Columns(first=first, brightness=out)

    @staticmethod
    def _bright(raw: np.ndarray, setting: ViewSetting, setup: ReceiverSetup, water: str, *, missing: int) -> np.ndarray:
        range_m = (np.arange(BINS) + 0.5) * setting.reach_m / BINS
        temperature = reach_named(water).water.temperature_degc
        absorption = float(absorption_db_per_m(carrier_hz=setting.carrier_hz, temperature_degc=temperature))
        levels = decoded(raw)
        if missing > 0:
            # The very first columns have none before them to be averaged with.
            levels = np.concatenate((np.repeat(levels[:1], missing, axis=0), levels))
        bright = brightness_of(levels, setting.kind, range_m, absorption, setup)
        bright[raw[len(raw) - len(bright) :, :, :1].repeat(BINS, axis=2) == 0] = 0
        return bright

    # Marks and spots.

    def mark(self, device: uuid.UUID, *, view: ViewKind, number: int, beam: int, slant_m: float) -> Marked:
        """Return where a point of a picture is, and where the same place stands in the other views."""
        voyage = self.voyages.require(device)
        return mark_at(voyage.columns, voyage.state.epochs, reach_named(voyage.water), view=view, number=number, beam=beam, slant_m=slant_m)

    def looks(self, device: uuid.UUID, mark: Marked) -> list[tuple[float, float] | None]:
        """Return how large a mark looks in each of its views, along the track and across it [m]; None where nothing is drawn at its place."""
        found: list[tuple[float, float] | None] = []
        shown_m = {view.kind: view.reach_m for view in self.voyages.require(device).state.views}
        for one in mark.views:
            # Columns come at the Reach that a view has now, whatever it had then.
            reach_m = shown_m.get(one.view, BINS / one.meter_cells)
            first = max(one.number - LOOK_PINGS, 0)
            columns = self.columns(device, one.view, first, one.number + LOOK_PINGS + 1, {})
            cell = round(one.slant_m / reach_m * BINS)
            low = max(cell - LOOK_CELLS, 0)
            block = columns.brightness[:, one.beam, low : cell + LOOK_CELLS + 1]
            extent = extent_of(block, one.number - columns.first, cell - low)
            found.append(None if extent is None else (extent[0] / one.meter_pings, extent[1] * reach_m / BINS))
        return found

    def sized(self, device: uuid.UUID, mark: Marked, reference: Marked, true_m: float) -> list[float | None]:
        """Return how long a mark is along the track in each of its views [m], by a reference of a known length there; None where either is not drawn.

        Raises DomainError for a length that no reference has.
        """
        require_range("reference_ft", true_m / FOOT_M, *REFERENCE_FT, "ft")
        known = {
            one.view: (look[0], 2.0 * one.smear_pings / one.meter_pings)
            for one, look in zip(reference.views, self.looks(device, reference), strict=True)
            if look is not None
        }
        found: list[float | None] = []
        for one, look in zip(mark.views, self.looks(device, mark), strict=True):
            ref = known.get(one.view)
            found.append(
                None if look is None or ref is None else by_reference(look[0], 2.0 * one.smear_pings / one.meter_pings, *ref, true_m)
            )
        return found

    def reveal(self, device: uuid.UUID, x_m: float, y_m: float) -> tuple[line.Thing, ...]:
        """Return what is really about a place [m] now: simulated water knows."""
        require_range("x_m", x_m, -2000.0, 2000.0, "m")
        require_range("y_m", y_m, -2000.0, 2000.0, "m")
        return self.voyages.require(device).truth(x_m, y_m, POINTED_M)

    def show_points(self, device: uuid.UUID, reach_m: float) -> None:
        """Make points for the 3-D view from here on, to a range [m], or no more (0)."""
        if reach_m != 0.0:
            require_range("reach_m", reach_m, *REACH_M, "m")
        self.voyages.require(device).tell(line.SetPoints(reach_m))

    def points(self, device: uuid.UUID, first: int) -> np.ndarray:
        """Return the points of the 3-D view (N, field) from the `first` on, a stretch at a time."""
        return self.voyages.require(device).columns.points(first, MOST_POINTS)

    def all_round(self, device: uuid.UUID, reach_m: float, settings: Mapping[str, object]) -> np.ndarray:
        """Return one turn of the all-round scan from where the boat is, to a Reach [m], made bright: (step, range_bin), clockwise from the bow."""
        require_range("reach_m", reach_m, *REACH_M, "m")
        setup = with_settings(ReceiverSetup(), *read_settings(settings, CONTROLS, what="a console's picture"))
        found = self.voyages.require(device).scan(reach_m)
        # Of one turn nothing can be averaged.
        alone = replace(setup, quieting_pings=1)
        return brightness_of(found.levels_db[None], ViewKind.SIDE, found.range_m, found.absorption_db_m, alone)[0]

    def add_spot(self, owner: uuid.UUID, device: uuid.UUID, mark: Marked, *, kind: str, note: str, again: uuid.UUID | None = None) -> Spot:
        """Keep a mark as a spot; `again` is one of one's own that this is a second look at: both together are kept.

        Raises DomainError for a kind that is none or too many spots, MissingError for a spot that is not one's own.
        """
        require_choice("kind", kind, SPOT_KINDS)
        water = self.voyages.require(device).water
        if again is not None:
            first = self.book.own_spot(owner, again)
            if first.water != water:
                raise DomainError(f"again is a spot on {first.water}: it must be one on {water}")
            fix = together(_fix_of(first), mark.fix)
            spot = replace(_spot_at(first, fix), looks=first.looks + 1)
        else:
            self.book.require_room(owner)
            new = Spot(
                id=uuid.uuid4(), owner=owner, water=water, kind=kind, note=note[:400], x_m=0.0, y_m=0.0, depth_m=None, xx_m2=0.0, xy_m2=0.0,
                yy_m2=0.0, looks=1, source="simulated", created_at=self._now(),
            )  # fmt: skip
            spot = _spot_at(new, mark.fix)
        self.book.put([spot])
        return spot

    def track_file(self, device: uuid.UUID) -> bytes:
        """Return where a browser's search went, a place a second, as a GPX track."""
        voyage = self.voyages.require(device)
        every = max(round(voyage.state.ping_hz), 1)
        return track_gpx(voyage.columns.track(0, voyage.columns.count)[::every, 1:3])

    # Plans and the way to the live fan.

    def plan(self, device: uuid.UUID, asked: plans.PlanAsked, *, water: str = DEMO) -> plans.SearchPlan:
        """Return a plan from where the boat is, or from the ramp."""
        voyage = self.voyages.of_device(device)
        if voyage is not None:
            at = self.where(voyage)
            reach = reach_named(voyage.water)
            voyage.tell(line.SetBand(asked.checked().band_m))
            return plans.plan(reach, asked, start_m=(at.x_m, at.y_m), missed=self._missed(voyage, asked.checked()))
        reach = reach_named(water)
        return plans.plan(reach, asked, start_m=reach.launch_m)

    def _missed(self, voyage: VoyageHandle, asked: plans.PlanAsked) -> np.ndarray:
        """Return what the search so far has left unseen of each cell of a band: its track, gone through a place a second."""
        reach = reach_named(voyage.water)
        coverage = Coverage(odds_for(reach, asked.band_m, asked.season), plans.curve_of(voyage.state.views, asked.band_m))
        every = max(round(voyage.state.ping_hz), 1)
        for row in voyage.columns.track(0, voyage.columns.count)[::every]:
            coverage.pass_by(float(row[1]), float(row[2]))
        return coverage.missed

    def where(self, voyage: VoyageHandle) -> Standing:
        """Return where the boat is told to be; at the ramp before its first ping."""
        return self._standing(voyage, told)

    def _standing(self, voyage: VoyageHandle, reading: Callable[[np.ndarray], Standing]) -> Standing:
        count = voyage.columns.count
        rows = voyage.columns.track(count - 1, count) if count else np.zeros((0, 0))
        if len(rows):
            return reading(rows[0])
        x, y = reach_named(voyage.water).launch_m
        return Standing(time_s=0.0, x_m=x, y_m=y, heading_rad=math.pi / 2.0, speed_m_s=0.0)

    def hand_off(self, owner: uuid.UUID, device: uuid.UUID, key: uuid.UUID, mood: Mood = Mood.USUAL) -> HandOff:
        """Return how to come to a spot from where the boat is."""
        voyage = self.voyages.require(device)
        return hand_off(self.book.any_spot(owner, key), self.where(voyage), reach_named(voyage.water), mood)

    def lower(self, owner: uuid.UUID, device: uuid.UUID, key: uuid.UUID) -> WindowPlan:
        """Return the water that the live fan is lowered into: where the boat is, its bow turned to the spot, all fish where they are now."""
        voyage = self.voyages.require(device)
        way = self.hand_off(owner, device, key)
        voyage.tell(line.SetPace(0.0))
        at, by_its_fix = self._standing(voyage, truly), self._standing(voyage, told)
        return WindowPlan(
            scene=voyage.window(at.x_m, at.y_m, way.heading_rad),
            seed=reach_named(voyage.water).seed,
            # Spots stand where the boat's own fix puts them.
            middle_m=(by_its_fix.x_m, by_its_fix.y_m),
        )


def _at_reach(bright: np.ndarray, own_m: float, shown_m: float) -> np.ndarray:
    """Return columns that were sounded to one Reach [m] as they stand in a picture of another: nothing where they did not reach."""
    if own_m == shown_m:
        return bright
    source = (np.arange(BINS) + 0.5) / BINS * shown_m / own_m * BINS
    inside = source < BINS
    found = np.zeros_like(bright)
    found[..., inside] = bright[..., source[inside].astype(np.int64)]
    return found


def _fix_of(spot: Spot) -> Fix:
    return Fix(
        x_m=spot.x_m,
        y_m=spot.y_m,
        depth_m=spot.depth_m,
        out_m=0.0,
        covariance=np.array([[spot.xx_m2, spot.xy_m2], [spot.xy_m2, spot.yy_m2]]),
    )


def _spot_at(spot: Spot, fix: Fix) -> Spot:
    """Return a spot with its place and what is known of it taken from a fix."""
    return replace(
        spot,
        x_m=fix.x_m,
        y_m=fix.y_m,
        depth_m=fix.depth_m,
        xx_m2=float(fix.covariance[0, 0]),
        xy_m2=float(fix.covariance[0, 1]),
        yy_m2=float(fix.covariance[1, 1]),
    )


def ellipse_of(spot: Spot) -> tuple[float, float, float]:
    """Return the ellipse that holds a spot nine times in ten: half axes [m] and the bearing of the longer [rad]."""
    return _fix_of(spot).ellipse


def in_feet(length_m: float) -> float:
    """Return a length [m] in feet, to a tenth."""
    return round(length_m / FOOT_M, 1)
