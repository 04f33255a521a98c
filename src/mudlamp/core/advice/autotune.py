"""Auto-tune: a search of the receiver's controls on one batch of recorded pings, for the set-up that a style likes best.

The windows stay with the rules. What a search tries hundreds of times is worked out on a sample of the batch's cells, where the
receiver's law is pointwise once Quieting's integration is done; what it finds is measured on the whole pictures by the real receiver.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from mudlamp.core.advice.repeats import repeated
from mudlamp.core.advice.styles import Figures, Objective, cleaning_steps, figures_of, score
from mudlamp.core.arrays import BoolArray, Float32Array, FloatArray, IntArray
from mudlamp.core.controls import GHOST_CUT, NEAR_CUT, QUIETING
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Ping
from mudlamp.core.receiver import _kernels, law
from mudlamp.core.receiver.bounces import GONE_DB, BounceFilter
from mudlamp.core.receiver.chain import MOST_PINGS
from mudlamp.core.receiver.inks import SHOWN_LIGHTNESS, first_shown, ink_lightness
from mudlamp.core.receiver.readings import BLOWN_OUT, Cells, Readings, ReadingsMeter, parting_m, patches
from mudlamp.core.receiver.trial import Sample, readings_under
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import ReceiverSetup, Window

if TYPE_CHECKING:
    from scipy.optimize import OptimizeResult

GAIN_BOUNDS = (40.0, 92.0)
PUNCH_BOUNDS = (40.0, 95.0)
HIDE_BOUNDS = (0.0, 12.0)
# Of the pings that truth stands beside every second is sampled: what differs from water to water matters more. The lure, which swings, is
# looked at on all of them, of a school so many fish: what is found is judged on all.
EVERY, MOST_FISH = 2, 12
CELLS_A_PING = 1400
RING_CELLS = 60
# Quieting's noise estimate has settled: what is tuned is to last.
SETTLED_S = 0.02
POPULATION = 9
GENERATIONS = 20
FINALISTS = 6
# Of finds that differ by no more than so many steps of Gain and Punch, and in Hide below, the best alone is judged.
ALIKE_GAIN, ALIKE_PUNCH = 3.0, 10.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Batch:
    """Pings recorded on one water, their truth where it was looked up, the window they are seen through, the time between them [s].

    `cells` are those of the samples in that window, where they were worked out beforehand.
    """

    samples: tuple[Sample, ...]
    window: Window
    interval_s: float
    cells: tuple[Cells | None, ...] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Tuned:
    """What the search found: the set-up, its readings and score on the whole pictures, and those of the set-up it started from."""

    setup: ReceiverSetup
    readings: Readings
    score: float
    start_readings: Readings
    start_score: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Cells:
    """Cells of a batch: levels for every count of pings (count, cell), with what the receiver's law needs of each.

    `noise_db` and `strongest_db` are (count, cell), `bounced` (step of Ghost cut, cell), the others (cell,).
    """

    level_db: Float32Array
    noise_db: Float32Array
    strongest_db: Float32Array
    bounced: BoolArray
    tvg_db: Float32Array
    range_m: FloatArray


def _joined(parts: Sequence[_Cells]) -> _Cells:
    return _Cells(**{name: np.concatenate([getattr(part, name) for part in parts], axis=-1) for name in _Cells.__slots__})


class _Developed:
    """One ping with those before it, integrated for every count of pings."""

    def __init__(self, ping: Ping, ring: Float32Array) -> None:
        shape = ring.shape[1:]
        self._sonar = ping.setup
        self._levels = np.empty((len(QUIETING.steps), *shape), np.float32)
        self._noise = np.empty((len(QUIETING.steps), shape[1]))
        self._strongest = np.empty((len(QUIETING.steps), shape[1]), np.float32)
        scratch = np.zeros(shape[0])
        for i, count in enumerate(QUIETING.steps):
            _kernels.integrate(ring, len(ring) - 1, int(count), self._levels[i])
            _kernels.range_medians(self._levels[i], 6, scratch, self._noise[i])
            _kernels.range_maxima(self._levels[i], self._strongest[i])
        self._tvg = law.tvg_db(ping.setup.range_m, ping.setup.absorption_db_m)
        self._bounced = _bounced(self._levels[0], ping, self._tvg)

    def cells(self, flat: IntArray) -> _Cells:
        """Return the cells of these flat numbers of a (beam, range_bin) picture."""
        bins = flat % self._levels.shape[2]
        return _Cells(
            level_db=self._levels.reshape(len(self._levels), -1)[:, flat],
            noise_db=self._noise[:, bins].astype(np.float32),
            strongest_db=self._strongest[:, bins],
            bounced=self._bounced.reshape(len(self._bounced), -1)[:, flat],
            tvg_db=self._tvg[bins].astype(np.float32),
            range_m=self._sonar.range_m[bins],
        )


class CellSample:
    """A sample of a batch's cells: some of all that lie in the window, and each object's mark and surround."""

    def __init__(self, batch: Batch, *, seed: int) -> None:
        self._rng = np.random.default_rng(seed)
        self._interval_s = batch.interval_s
        chosen = [at for at, (_, truth) in enumerate(batch.samples) if truth is not None and at >= MOST_PINGS - 1]
        if not chosen:
            raise DomainError(
                f"the batch has {len(batch.samples)} pings: it must have {MOST_PINGS} or more, with truth beside the later ones"
            )
        sampled: list[_Cells] = []
        marks: list[_Cells] = []
        water: list[BoolArray] = []
        who: list[str] = []
        meter, blank = ReadingsMeter(), np.zeros(batch.samples[0][0].echo_level_db.shape, np.uint8)
        for at, (ping, truth) in enumerate(batch.samples):
            meter.add(ping, blank, ReceiverSetup(), batch.window, truth)
            if at not in chosen or truth is None:
                continue
            whole = at in chosen[::EVERY]
            ring = np.stack([each.echo_level_db for each, _ in batch.samples[at - MOST_PINGS + 1 : at + 1]])
            developed = _Developed(ping, ring)
            if whole:
                inside, open_water = meter.open_cells(ping, batch.window, truth)
                flat = np.flatnonzero(inside)
                picked = self._rng.choice(flat, min(CELLS_A_PING, len(flat)), replace=False)
                sampled.append(developed.cells(picked))
                water.append(open_water.ravel()[picked])
            for row in _looked_at(truth, fish=MOST_FISH if whole else 0):
                who.append(row.id)
                marks += [developed.cells(part) for part in self._mark_and_ring(row, ping)]
        self._cells = _joined([*sampled, *marks])
        self._water = np.concatenate(water)
        self._names = sorted(set(who))
        self._who = np.array([self._names.index(name) for name in who], dtype=np.int64)
        sizes = [len(part.range_m) for part in marks]
        # Where each mark and each surround begins; they stand behind the sample, so that the last runs to the end.
        self._edges = len(self._water) + np.concatenate(([0], np.cumsum(sizes)[:-1])).astype(np.int64) if sizes else np.zeros(0, np.int64)
        self._ring_sizes = np.array(sizes[1::2])
        self._near = {step: law.near_cut_profile_db(self._cells.range_m, step).astype(np.float32) for step in NEAR_CUT.steps}
        sonar = batch.samples[-1][0].setup
        self._middle_m, self._beam_width_rad = float(sonar.range_m[-1]) * 0.6, sonar.beam_width_rad

    def _mark_and_ring(self, row: TruthRow, ping: Ping) -> tuple[IntArray, IntArray]:
        """Return the flat numbers of an object's mark and of a sample of its surround."""
        shape = ping.echo_level_db.shape
        numbers = np.arange(shape[0] * shape[1]).reshape(shape)
        near, far, skip = patches(row, ping.setup)
        mark = numbers[near].ravel()
        ring = np.setdiff1d(numbers[far].ravel(), numbers[skip].ravel())
        return mark, self._rng.choice(ring, min(RING_CELLS, len(ring)), replace=False) if len(ring) else mark

    def brightness(self, setup: ReceiverSetup) -> Float32Array:
        """Return the brightness of the cells (cell,), 0 to 255, under a set-up: the receiver's law, cell by cell."""
        cells, at = self._cells, QUIETING.strength(setup.quieting_pings)
        lift = cells.tvg_db - self._near[setup.near_cut_db] + np.float32(law.gain_db(setup.gain))
        gone = np.maximum(
            cells.noise_db[at] + np.float32(law.quieting_over_db(setup.quieting_pings)),
            cells.strongest_db[at] + np.float32(law.ghost_under_db(setup.ghost_cut_db)),
        )
        bright = law.brightness(cells.level_db[at], lift.astype(np.float32, copy=False), gone, setup)
        if setup.ghost_cut_db > 0.0:
            bright[cells.bounced[GHOST_CUT.strength(setup.ghost_cut_db) - 1]] = 0.0
        return bright

    def figures(self, setup: ReceiverSetup) -> Figures:
        """Return the readings of a set-up on the sample, as figures for a score."""
        bright = self.brightness(setup)
        inside = bright[: len(self._water)]
        table = ink_lightness(setup.ink)
        visible = max(first_shown(setup.ink), 1)
        lit = inside >= visible - 0.5
        over, shown, apart = self._objects(bright, setup, table)
        fish = [name for name in self._names if name != "lure"]
        return Figures(
            lure_over_db=over.get("lure"),
            lure_shown=None if "lure" not in over else float(shown["lure"]),
            fish_over_db=min((over[name] for name in fish), default=None),
            fish_shown=float(np.mean([shown[name] for name in fish])) if fish else None,
            clutter=np.count_nonzero(lit & self._water) / max(int(np.count_nonzero(self._water)), 1),
            blown=np.count_nonzero(inside >= BLOWN_OUT - 0.5) / max(int(np.count_nonzero(lit)), 1),
            lag_s=law.lag_s(setup.quieting_pings, self._interval_s),
            parting_m=parting_m(setup, range_m=self._middle_m, beam_width_rad=self._beam_width_rad),
            steps=cleaning_steps(setup.near_cut_db, setup.quieting_pings, setup.ghost_cut_db, setup.hide_below_db),
            contrast=apart.get("lure", min(apart.values(), default=None)),
        )

    def _objects(
        self, bright: Float32Array, setup: ReceiverSetup, table: FloatArray
    ) -> tuple[dict[str, float], dict[str, bool], dict[str, float]]:
        """Return each object's mean level over its surround [dB], whether it is shown most of the time, its mean difference in CIE L*."""
        if not self._names:
            return {}, {}, {}
        mark = np.maximum.reduceat(bright, self._edges)[::2]
        ground = np.add.reduceat(bright, self._edges)[1::2] / self._ring_sizes
        over = (mark - ground) / 255.0 * float(law.span_db(setup.punch))
        apart = np.abs(table[mark.astype(np.int64)] - table[ground.astype(np.int64)])
        shown = apart >= SHOWN_LIGHTNESS
        count = np.bincount(self._who)
        share = np.bincount(self._who, shown.astype(np.float64)) / count
        mean = np.bincount(self._who, over) / count
        light = np.bincount(self._who, apart) / count
        found = (mean.tolist(), (share >= 0.5).tolist(), light.tolist())
        over_of, shown_of, light_of = (dict(zip(self._names, values, strict=True)) for values in found)
        return over_of, shown_of, light_of


def _looked_at(truth: Sequence[TruthRow], *, fish: int) -> list[TruthRow]:
    """Return the rows of the lure and of so many fish, where they are seen."""
    some = {row.id for row in [row for row in truth if row.kind == "fish" and row.seen][:fish]}
    return [row for row in truth if row.seen and (row.kind == "lure" or row.id in some)]


def _bounced(level: Float32Array, ping: Ping, tvg: FloatArray) -> BoolArray:
    """Return which cells (step, beam, range_bin) each step of Ghost cut takes for bounces."""
    found = np.zeros((len(GHOST_CUT.steps) - 1, *level.shape), bool)
    for i, step in enumerate(GHOST_CUT.steps[1:]):
        copy = level.copy()
        BounceFilter().cut(copy, ping, tvg, ghost_cut_db=step)
        found[i] = (copy == GONE_DB) & (level != GONE_DB)
    return found


def _setup_of(genes: FloatArray, ink: str) -> ReceiverSetup:
    return ReceiverSetup(
        gain=float(np.round(genes[0])),
        near_cut_db=NEAR_CUT.steps[int(genes[1])],
        quieting_pings=int(QUIETING.steps[int(genes[2])]),
        ghost_cut_db=GHOST_CUT.steps[int(genes[3])],
        punch=float(5.0 * np.round(genes[4] / 5.0)),
        hide_below_db=float(np.round(genes[5])) if genes[5] >= 1.0 else 0.0,
        ink=ink,
    )


def _genes_of(setup: ReceiverSetup) -> FloatArray:
    return np.array(
        [
            min(max(setup.gain, GAIN_BOUNDS[0]), GAIN_BOUNDS[1]),
            NEAR_CUT.strength(setup.near_cut_db),
            QUIETING.strength(setup.quieting_pings),
            GHOST_CUT.strength(setup.ghost_cut_db),
            min(max(setup.punch, PUNCH_BOUNDS[0]), PUNCH_BOUNDS[1]),
            min(setup.hide_below_db, HIDE_BOUNDS[1]),
        ]
    )


def measured(setup: ReceiverSetup, batch: Batch, objective: Objective) -> tuple[Readings, float]:
    """Return the readings and the score of a set-up on whole pictures of a batch, by the real receiver, its noise estimate settled."""
    readings = readings_under(setup, batch.samples, batch.window, settling_s=SETTLED_S, cells=batch.cells)
    return readings, float(score(objective, figures_of(readings, setup)))


def _joint(samples: Sequence[CellSample], setup: ReceiverSetup, objective: Objective) -> float:
    return float(np.mean([score(objective, sample.figures(setup)) for sample in samples]))


def autotune(
    batches: Sequence[Batch],
    objective: Objective,
    start: ReceiverSetup,
    *,
    judges: Sequence[Batch],
    allowed: Callable[[ReceiverSetup], bool] = lambda setup: True,
    seed: int = 0,
    progress: Callable[[float], None] = lambda share: None,
) -> Tuned:
    """Return the set-up that an objective likes best: searched on `batches`, judged on `judges`; the start where nothing beats it surely.

    What is taken gains on the judges by more than chance explains, keeps the lure shown on all of them where the start does, and is
    `allowed`. `progress` is called with how far the search is (0 to 1) and may raise to stop it. Equal batches and seeds give equal answers.
    Source: differential evolution (Storn and Price 1997), by SciPy.
    """
    # Imported here: the optimizers take most of a second to load, and the first page should not wait for them.
    from scipy.optimize import differential_evolution

    samples = [CellSample(batch, seed=seed) for batch in batches]
    tried: dict[ReceiverSetup, float] = {}

    def cost(genes: FloatArray) -> float:
        setup = _setup_of(genes, start.ink)
        if not allowed(setup):
            return 0.0
        if setup not in tried:
            tried[setup] = -_joint(samples, setup, objective)
        return tried[setup]

    done = 0

    def note(intermediate_result: "OptimizeResult") -> None:
        nonlocal done
        done += 1
        progress(min(0.1 + 0.7 * done / GENERATIONS, 0.8))

    progress(0.1)
    steps = [(0.0, float(len(steps) - 1)) for steps in (NEAR_CUT.steps, QUIETING.steps, GHOST_CUT.steps)]
    differential_evolution(
        cost,
        [GAIN_BOUNDS, *steps, PUNCH_BOUNDS, HIDE_BOUNDS],
        integrality=[True, True, True, True, False, False],
        x0=_genes_of(start),
        popsize=POPULATION,
        maxiter=GENERATIONS,
        tol=0.0,
        polish=False,
        rng=np.random.default_rng(seed),
        callback=note,
    )
    progress(0.8)
    first = _Judged.on(judges, start, objective)
    best = first
    # The search saw a sample of a few waters: of its best few, the one that does best where it did not look is taken, if it surely does.
    for setup in _finalists(tried):
        found = _Judged.on(judges, setup, objective)
        if found.beats(first) and found.score > best.score:
            best = found
        progress(0.9)
    return Tuned(
        setup=best.setup,
        readings=best.readings[0],
        score=best.score,
        start_readings=first.readings[0],
        start_score=first.score,
    )


def _finalists(tried: Mapping[ReceiverSetup, float]) -> list[ReceiverSetup]:
    """Return the best of what was tried, by its cost, no two of them alike."""
    found: list[ReceiverSetup] = []
    for setup in sorted(tried, key=tried.__getitem__):
        if not any(_is_alike(setup, other) for other in found):
            found.append(setup)
        if len(found) == FINALISTS:
            break
    return found


def _is_alike(setup: ReceiverSetup, other: ReceiverSetup) -> bool:
    near = abs(setup.gain - other.gain) <= ALIKE_GAIN and abs(setup.punch - other.punch) <= ALIKE_PUNCH
    return near and replace(setup, gain=other.gain, punch=other.punch, hide_below_db=other.hide_below_db) == other


@dataclass(frozen=True, slots=True, kw_only=True)
class _Judged:
    """A set-up as it did on each of the judging batches."""

    setup: ReceiverSetup
    readings: tuple[Readings, ...]
    points: tuple[float, ...]

    @classmethod
    def on(cls, judges: Sequence[Batch], setup: ReceiverSetup, objective: Objective) -> "_Judged":
        found = [measured(setup, batch, objective) for batch in judges]
        return cls(setup=setup, readings=tuple(one for one, _ in found), points=tuple(points for _, points in found))

    @property
    def score(self) -> float:
        return float(np.mean(self.points))

    def beats(self, start: "_Judged") -> bool:
        """Return whether it surely does better, and hides no lure that the start shows; on one batch, whether it does better there."""
        if any(
            "lure" in (mine.erased or ()) and "lure" not in (its.erased or ())
            for mine, its in zip(self.readings, start.readings, strict=True)
        ):
            return False
        gains = [mine - its for mine, its in zip(self.points, start.points, strict=True)]
        return gains[0] > 1e-9 if len(gains) == 1 else repeated(gains) > 0.0
