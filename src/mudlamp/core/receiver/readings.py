"""Readings: what a set-up shows and what it costs, measured on the picture with the truth at hand."""

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import BoolArray, ByteArray, FloatArray
from mudlamp.core.ping import Ping, SonarSetup
from mudlamp.core.plane import FanPlane, cells_of
from mudlamp.core.receiver.inks import SHOWN_LIGHTNESS, first_shown, ink_lightness
from mudlamp.core.receiver.law import lag_s, lift_db, share_of, span_db
from mudlamp.core.receiver.open_water import OpenWater
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.core.sonar.pattern import half_power_width_x, taylor_pattern
from mudlamp.core.sonar.transducer import PROFILES

MARK_BEAMS = 1
MARK_M = 0.06
SURROUND_BEAMS = 7
SURROUND_M = 0.45
PARTING_TS_DB = -33.0
PARTING_GAPS_M = np.arange(0.05, 4.0, 0.02)
BLOWN_OUT = 250
# Bare water is looked at so far from the lure, nearer, farther and to both sides [m] (ours): by chance something stands out there too.
BESIDE_M = 1.2
# The shape of a beam is taken as the demo's, at the width that the sounder has.
_TAPER = PROFILES["demo"].taper


# Which cells (beam, range_bin) of a ping lie in the window, and which of those are open water.
Cells = tuple[BoolArray, BoolArray]


@dataclass(frozen=True, slots=True, kw_only=True)
class Readings:
    """The readings of one set-up; what needs truth, or fish, or a lure, is None without it.

    `bare_over_clutter_db` is what a mark as small as the lure's would have over its surround in the open water beside it, where nothing is.
    `contrast` is the smallest target's difference in CIE L* to its surround (the lure's, else the faintest fish's); `erased` are the objects
    that could be seen but that this set-up does not show.
    """

    lure_over_clutter_db: float | None
    bare_over_clutter_db: float | None
    faintest_fish_db: float | None
    fish_shown_pct: float | None
    clutter_fill_pct: float
    blown_out_pct: float
    lag_ms: float
    parting_m: float
    contrast: float | None
    erased: tuple[str, ...] | None

    @property
    def lure_stands_out_db(self) -> float | None:
        """How far the lure stands over what bare water shows by chance [dB]; None without a lure."""
        return None if self.lure_over_clutter_db is None else self.lure_over_clutter_db - max(self.bare_over_clutter_db or 0.0, 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class LureMark:
    """How the lure's mark stands out: difference in CIE L* to its surround, and its size in the water, across and along the beam [m]."""

    contrast: float
    across_m: float
    along_m: float


class ReadingsMeter:
    """Gathers readings over pictures: feed it pictures with their pings and truth, ask for the readings."""

    def __init__(self, *, keep: int = 45) -> None:
        self._keep = keep
        self._interval_s = 0.05
        self._last: tuple[int, float] | None = None
        self._water = OpenWater()
        self._inside: tuple[tuple[Window, float, float], BoolArray] | None = None
        self._sonar: SonarSetup | None = None
        self._fill: list[float] = []
        self._blown: list[float] = []
        self._over: dict[str, list[float]] = defaultdict(list)
        self._shown: dict[str, list[bool]] = defaultdict(list)
        self._contrast: dict[str, list[float]] = defaultdict(list)
        self._kind: dict[str, str] = {}
        self._knows_truth = False
        self._lure_mark: list[tuple[float, float]] = []
        self._bare: list[float] = []

    def forget(self) -> None:
        """Start afresh: the set-up changed."""
        self._fill.clear()
        self._blown.clear()
        self._over.clear()
        self._shown.clear()
        self._contrast.clear()
        self._lure_mark.clear()
        self._bare.clear()

    def add(
        self,
        ping: Ping,
        picture: ByteArray,
        setup: ReceiverSetup,
        window: Window,
        truth: Sequence[TruthRow] | None,
        cells: Cells | None = None,
    ) -> None:
        """Take in one picture of a ping; `truth` None where there is none, `cells` where `open_cells` has been asked before."""
        self._meet(ping)
        # Not every ping need be fed: the interval is by ping number.
        if self._last is not None and ping.number > self._last[0] and ping.time_s > self._last[1]:
            self._interval_s = (ping.time_s - self._last[1]) / (ping.number - self._last[0])
        self._last = (ping.number, ping.time_s)
        table = ink_lightness(setup.ink)
        # The faintest brightness that stands out from the bare ground.
        visible = first_shown(setup.ink)
        if cells is None:
            self._water.learn(ping)
            cells = self.open_cells(ping, window, truth)
        self._note_clutter(picture, *cells, visible)
        if truth is not None:
            self._knows_truth = True
            for row in truth:
                if row.kind in ("fish", "lure") and row.seen:
                    self._note_target(row, ping.setup, picture, setup, table)
                if row.kind == "lure" and row.seen:
                    self._note_bare(row, ping.setup, picture, setup, cells[1])

    def _in_window(self, ping: Ping, window: Window) -> BoolArray:
        """Return which cells lie in the window, worked out anew only when something about it has changed."""
        key = (window, ping.pose.tilt_rad, ping.pose.z_m)
        if self._inside is None or self._inside[0] != key:
            sonar = ping.setup
            self._inside = (key, FanPlane.drawn(ping).inside(sonar.range_m[None, :], sonar.beam_angle_rad[:, None], window))
        return self._inside[1]

    def learn(self, ping: Ping) -> None:
        """Learn from a ping where open water is, without a picture."""
        self._meet(ping)
        self._water.learn(ping)

    def _meet(self, ping: Ping) -> None:
        """Start afresh where the sonar's set-up is another."""
        if self._sonar is not ping.setup:
            self._sonar = ping.setup
            self._inside = None
            self.forget()

    def open_cells(self, ping: Ping, window: Window, truth: Sequence[TruthRow] | None) -> Cells:
        """Return which cells (beam, range_bin) of the ping added last lie in the window, and which of those are open water."""
        inside = self._in_window(ping, window)
        return inside, self._open_water(inside, ping, truth)

    def _open_water(self, inside: BoolArray, ping: Ping, truth: Sequence[TruthRow] | None) -> BoolArray:
        water = self._water.cells()
        return np.zeros_like(inside) if water is None else inside & water & ~_object_mask(ping.setup, truth or [])

    def _note_clutter(self, picture: ByteArray, inside: BoolArray, water: BoolArray, visible: int) -> None:
        lit = picture >= max(visible, 1)
        cells = int(np.count_nonzero(water))
        self._append(self._fill, 100.0 * np.count_nonzero(lit & water) / max(cells, 1))
        marks = lit & inside
        self._append(self._blown, 100.0 * np.count_nonzero((picture >= BLOWN_OUT) & marks) / max(int(np.count_nonzero(marks)), 1))

    def _append(self, values: list[float], value: float) -> None:
        values.append(float(value))
        del values[: -self._keep]

    def _note_target(self, row: TruthRow, sonar: SonarSetup, picture: ByteArray, setup: ReceiverSetup, table: FloatArray) -> None:
        mark, ground = _mark_and_surround(row, sonar, picture)
        span = float(span_db(setup.punch))
        self._kind[row.id] = row.kind
        over = self._over[row.id]
        over.append((mark - ground) / 255.0 * span)
        shown = self._shown[row.id]
        contrast = abs(float(table[int(mark)] - table[int(ground)]))
        shown.append(contrast >= SHOWN_LIGHTNESS)
        apart = self._contrast[row.id]
        apart.append(contrast)
        if row.kind == "lure":
            self._lure_mark = [*self._lure_mark[-self._keep :], (contrast, row.range_m)]
        del over[: -self._keep], shown[: -self._keep], apart[: -self._keep]

    def _note_bare(self, lure: TruthRow, sonar: SonarSetup, picture: ByteArray, setup: ReceiverSetup, water: BoolArray) -> None:
        beside = BESIDE_M / lure.range_m
        for nearer, aside in ((-BESIDE_M, 0.0), (BESIDE_M, 0.0), (0.0, -beside), (0.0, beside)):
            row = replace(lure, range_m=lure.range_m + nearer, angle_rad=lure.angle_rad + aside)
            if (
                sonar.range_m[0] < row.range_m < sonar.range_m[-1]
                and sonar.beam_angle_rad[0] < row.angle_rad < sonar.beam_angle_rad[-1]
                and water[_cell(row, sonar)]
            ):
                mark, ground = _mark_and_surround(row, sonar, picture)
                self._bare.append((mark - ground) / 255.0 * float(span_db(setup.punch)))
        del self._bare[: -4 * self._keep]

    def lure_mark(self) -> LureMark | None:
        """Return the lure's mark as the pictures had it, or None where no lure was to be seen."""
        sonar = self._sonar
        if not self._lure_mark or sonar is None:
            return None
        contrast, range_m = np.mean(self._lure_mark, axis=0)
        return LureMark(contrast=float(contrast), across_m=float(range_m * sonar.beam_width_rad), along_m=max(2.0 * sonar.bin_m, MARK_M))

    def readings(self, setup: ReceiverSetup, *, slower_s: float = 0.0) -> Readings:
        """Return the readings of the pictures gathered, all of which were made under `setup`; `slower_s` is a slow processor's lag."""
        mean_over = self.over_db()
        is_shown = {name: float(np.mean(values)) >= 0.5 for name, values in self._shown.items()}
        fish = [name for name in mean_over if self._kind[name] == "fish"]
        lures = [mean_over[name] for name in mean_over if self._kind[name] == "lure"]
        sonar = self._sonar
        middle = float(sonar.range_m[-1]) * 0.6 if sonar is not None else 8.0
        return Readings(
            lure_over_clutter_db=lures[0] if lures else None,
            bare_over_clutter_db=float(np.mean(self._bare)) if self._bare else None,
            faintest_fish_db=min((mean_over[name] for name in fish), default=None),
            fish_shown_pct=100.0 * sum(is_shown[name] for name in fish) / len(fish) if fish else None,
            clutter_fill_pct=float(np.mean(self._fill)) if self._fill else 0.0,
            blown_out_pct=float(np.mean(self._blown)) if self._blown else 0.0,
            lag_ms=1000.0 * (float(lag_s(setup.quieting_pings, self._interval_s)) + slower_s),
            parting_m=parting_m(
                setup,
                range_m=middle,
                beam_width_rad=math.radians(1.1) if sonar is None else sonar.beam_width_rad,
            ),
            contrast=self._smallest_contrast(),
            erased=self.erased() if self._knows_truth else None,
        )

    def _smallest_contrast(self) -> float | None:
        """Return the lure's mean difference in CIE L* to its surround, else the least of the fish's; None without either."""
        mean = {name: float(np.mean(values)) for name, values in self._contrast.items()}
        lures = [value for name, value in mean.items() if self._kind[name] == "lure"]
        return lures[0] if lures else min(mean.values(), default=None)

    def over_db(self) -> dict[str, float]:
        """Return how far each object that could be seen stood over its surround in the pictures [dB], by its name."""
        return {name: float(np.mean(values)) for name, values in self._over.items()}

    def erased(self) -> tuple[str, ...]:
        """Return the objects that could be seen but that the set-up does not show; none where the truth is not known."""
        return tuple(sorted(name for name, values in self._shown.items() if sum(values) < 0.5 * len(values)))

    def counts(self) -> tuple[int, int]:
        """Return how many fish are shown, of how many that could be seen."""
        fish = [name for name in self._shown if self._kind[name] == "fish"]
        return sum(float(np.mean(self._shown[name])) >= 0.5 for name in fish), len(fish)


def cells_of_samples(samples: Sequence[tuple[Ping, Sequence[TruthRow] | None]], window: Window) -> tuple[Cells | None, ...]:
    """Return the cells that a meter would count in each of a row of pings, whatever the set-up: None where the truth is not given."""
    meter = ReadingsMeter()
    found: list[Cells | None] = []
    for ping, truth in samples:
        if truth is None:
            found.append(None)
            continue
        meter.learn(ping)
        found.append(meter.open_cells(ping, window, truth))
    return tuple(found)


def _cell(row: TruthRow, sonar: SonarSetup) -> tuple[int, int]:
    beam, bin_ = cells_of(sonar, np.float64(row.range_m), np.float64(row.angle_rad))
    return min(max(int(beam), 0), len(sonar.beam_angle_rad) - 1), min(max(int(bin_), 0), len(sonar.range_m) - 1)


def _object_mask(sonar: SonarSetup, truth: Sequence[TruthRow]) -> BoolArray:
    """Return the cells (beam, range_bin) that objects of the truth cover, with their smear."""
    mask = np.zeros((len(sonar.beam_angle_rad), len(sonar.range_m)), dtype=bool)
    for row in truth:
        beam, bin_ = _cell(row, sonar)
        size = (row.radius_m or 0.5 * (row.length_m or 0.1)) + 0.25
        beams = math.ceil(size / max(row.range_m, 0.5) / sonar.beam_step_rad) + 2
        bins = math.ceil(size / sonar.bin_m) + 2
        mask[max(beam - beams, 0) : beam + beams + 1, max(bin_ - bins, 0) : bin_ + bins + 1] = True
    return mask


Slices = tuple[slice, slice]


def patches(row: TruthRow, sonar: SonarSetup) -> tuple[Slices, Slices, Slices]:
    """Return where an object's mark and its surround lie in a (beam, range_bin) picture: the mark, all about it, what is left out of that."""
    beam, bin_ = _cell(row, sonar)
    bins = max(1, round((MARK_M + 0.25 * (row.length_m or 0.0)) / sonar.bin_m))
    wide = round(SURROUND_M / sonar.bin_m) + bins

    def about(beams: int, cells: int) -> Slices:
        return slice(max(beam - beams, 0), beam + beams + 1), slice(max(bin_ - cells, 0), bin_ + cells + 1)

    return about(MARK_BEAMS, bins), about(SURROUND_BEAMS, wide), about(2 * MARK_BEAMS + 1, 2 * bins)


def _mark_and_surround(row: TruthRow, sonar: SonarSetup, picture: ByteArray) -> tuple[float, float]:
    """Return the brightness of an object's mark and the mean of its surround, 0 to 255 each."""
    near, far, skip = (picture[where] for where in patches(row, sonar))
    rest = far.size - skip.size
    ground = (float(far.sum()) - float(skip.sum())) / rest if rest > 0 else 0.0
    return float(near.max()), ground


@lru_cache(maxsize=64)
def parting_m(setup: ReceiverSetup, *, range_m: float, beam_width_rad: float) -> float:
    """Return the smallest gap [m] across the beams at which two equal fish still part in the picture, at a range [m].

    They part when the dip between them is SHOWN_LIGHTNESS darker than the weaker: a blown-out pair runs together.
    Source: sum of two one-way receive patterns; visibility by CIE L*.
    """
    table = ink_lightness(setup.ink)
    level = pair_db(beam_width_rad * range_m) + lift_db(setup, np.array([range_m]))
    peak, dip = table[np.rint(255.0 * np.clip(share_of(level, span_db(setup.punch)), 0.0, 1.0)).astype(np.int64)]
    parts = np.abs(peak - dip) >= SHOWN_LIGHTNESS
    return float(PARTING_GAPS_M[np.argmax(parts)]) if parts.any() else 4.0


@lru_cache(maxsize=16)
def pair_db(beam_m: float) -> FloatArray:
    """Return the level of two equal fish side by side (2, gap) [dB re 1 m^2], on one of them and halfway, over PARTING_GAPS_M.

    `beam_m` is how wide a beam is there between its half-power points [m].
    """
    gaps = PARTING_GAPS_M / beam_m * half_power_width_x(_TAPER)
    pair = [taylor_pattern(at * gaps, _TAPER) ** 2 + taylor_pattern((at - 1.0) * gaps, _TAPER) ** 2 for at in (0.0, 0.5)]
    return np.asarray(PARTING_TS_DB + 10.0 * np.log10(np.maximum(pair, 1e-9)), dtype=np.float64)
