"""The set-up card as a service: planned at once, its costs measured on simulated water, the receiver searched, the differences of a move."""

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from mudlamp.core.advice.answers import DOUBTED, Answers, clashes, situation, with_guess
from mudlamp.core.advice.autotune import Batch, Tuned, autotune, measured
from mudlamp.core.advice.planner import Card, Start, gain_band, plan, start_of, trade_bands
from mudlamp.core.advice.repeats import repeated
from mudlamp.core.advice.retune import moved
from mudlamp.core.advice.steps import limit_of_off, limit_of_step
from mudlamp.core.advice.styles import Objective, Style, objective_of
from mudlamp.core.controls import CONTROLS, GAIN, GHOST_CUT, NEAR_CUT, PUNCH, QUIETING, Control, Part, Value
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.rig.power import power_budget
from mudlamp.core.setup import ReceiverSetup, Setup, Window, with_control
from mudlamp.formats.scene.build import scene_of
from mudlamp.formats.scene.parts import FaultsPart, FishPart, SceneFile
from mudlamp.services.edge.controls import of
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.water.from_answers import fish_place, record_batch, scene_from
from mudlamp.services.words import card as words
from mudlamp.services.words import cues

Progress = Callable[[float], None]
# The lure hangs so far short of the fish and above them [m]: beside them, not in them.
SHORT_M, ABOVE_M = 1.2, 0.4
# ... and no higher than the fan lights surely, its upper edge being level and the boat pitching: so much deeper a meter ahead.
FALLS = 0.03
# Costs are measured, and auto-tune's find is searched and judged, on so many waters like the card's; of those it is searched on so many.
WATERS, TUNED_WATERS, SEARCHED = 6, 10, 4
# They differ in how large the fish are, where they hold [m], and how far off they are.
SIZES, DEEPER_M, NEARER = (0.7, 1.3), 0.6, (0.9, 1.1)
SEEDS_END = 2**32
# Mid-water looks grainy where so much of it is lit; what is tried for it (ours).
GRAINY_PCT = 5.0
# Marks look solid where so much of what is lit is full.
SOLID_PCT = 15.0
CUE_PUNCHES = tuple(float(punch) for punch in range(30, 101, 10))
STEPPED = (NEAR_CUT, QUIETING, GHOST_CUT)
CUE_GAINS = tuple(float(gain) for gain in range(44, 97, 4))
# What a scene file takes for the voltage at the unit [V].
LOWEST_V, HIGHEST_V = 9.0, 15.0
TITLE_LENGTH = 120


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """What a value costs against the card's own start; None where there is no such figure (no lure, no fish)."""

    lure_over_clutter_db: float | None
    faintest_fish_db: float | None
    clutter_fill_pct: float
    lag_ms: float

    def rounded(self) -> "Cost":
        """Return the cost in figures that are shown and kept."""
        lure, fish = self.lure_over_clutter_db, self.faintest_fish_db
        return Cost(
            lure_over_clutter_db=None if lure is None else round(lure, 2) + 0.0,
            faintest_fish_db=None if fish is None else round(fish, 2) + 0.0,
            clutter_fill_pct=round(self.clutter_fill_pct, 2) + 0.0,
            lag_ms=round(self.lag_ms, 2) + 0.0,
        )


Costs = Mapping[str, Mapping[Style, Cost]]


def card_of(answers: Answers, aboard: Aboard, *, style: Style = Style.BALANCED, screen: Screen | None = None) -> Card:
    """Return the set-up card of answers and rig."""
    return plan(
        situation(answers), aboard.gear, style=style, screen=aboard.rig.screen if screen is None else screen, own_ink=aboard.rig.ink
    )


def start_for(answers: Answers, aboard: Aboard, *, style: Style = Style.BALANCED) -> Start:
    """Return what the card of answers and rig would start with, without the card."""
    return start_of(situation(answers), aboard.gear, style=style, screen=aboard.rig.screen, own_ink=aboard.rig.ink)


def seed_of(answers: Answers, aboard: Aboard) -> int:
    """Return the seed that equal answers and gear share."""
    text = f"{answers}|{aboard.rig.transducer}|{aboard.rig.mount.depth_m}|{aboard.lure}|{aboard.line}"
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:4], "big")


def scene_for(card: Card, aboard: Aboard, *, title: str) -> SceneFile:
    """Return the scene that stands for a card, as a scene file; raise SceneError where a key is out of range."""
    power = aboard.rig.power
    volts = min(max(power_budget(power.supply, power.loads).unit_v, LOWEST_V), HIGHEST_V)
    return scene_from(card.here, card.window, aboard, title=title[:TITLE_LENGTH], faults=FaultsPart(supply_v=round(volts, 2)))


def batch_of(card: Card, aboard: Aboard, *, seed: int, window: Window | None = None, progress: Progress = lambda share: None) -> Batch:
    """Return a batch of pings on the water that stands for a card, the lure hanging beside the fish; heard through another window, if given."""
    scene = scene_for(card, aboard, title="A card's water")
    if window is not None:
        wide = {"reach_m": window.reach_m, "down_to_m": window.down_to_m}
        scene = scene.model_copy(update={"transducer": scene.transducer.model_copy(update=wide)})
    return _recorded(card, scene, seed=seed, progress=progress)


def _recorded(card: Card, scene: SceneFile, *, seed: int, progress: Progress = lambda share: None) -> Batch:
    ahead, depth = fish_place(card.here, card.window)
    lit = scene.transducer.depth_m + FALLS * ahead
    hang = (max(ahead - SHORT_M, 0.8 * ahead), max(depth - ABOVE_M, 0.5 * depth, min(lit, depth)))
    return record_batch(scene_of(scene), hang_m=hang, seed=seed, progress=progress)


def batches_of(card: Card, aboard: Aboard, *, seed: int, count: int = WATERS, progress: Progress = lambda share: None) -> tuple[Batch, ...]:
    """Return batches on so many waters like the card's: the first as it is assumed, the others with fish of other sizes at other places."""
    scene = scene_for(card, aboard, title="A card's water")
    found = []
    for number in range(count):
        rng = np.random.default_rng((seed, number))
        water = scene if number == 0 else scene.model_copy(update={"fish": [_other(one, card, rng) for one in scene.fish]})
        found.append(_recorded(card, water, seed=(seed + number) % SEEDS_END))
        progress((number + 1) / count)
    return tuple(found)


def _other(fish: FishPart, card: Card, rng: np.random.Generator) -> FishPart:
    """Return a group of fish as it may well be instead."""
    size = float(rng.uniform(*SIZES))
    deep = fish.z_m + float(rng.uniform(-DEEPER_M, DEEPER_M))
    return fish.model_copy(
        update={
            "shortest_m": max(fish.shortest_m * size, 0.05),
            "longest_m": min(fish.longest_m * size, 1.5),
            "z_m": min(max(deep, 0.4), card.here.depth_m - 0.1),
            "y_m": fish.y_m * float(rng.uniform(*NEARER)),
        }
    )


def objective_for(card: Card) -> Objective:
    """Return what a card's style wants, on the angler's own screen in this light."""
    return objective_of(card.style, card.here.technique, card.here.goal, enough_contrast=card.enough_contrast)


def readings_of(setup: ReceiverSetup, card: Card, batch: Batch) -> Readings:
    """Return the readings of a set-up through a card's window on a batch."""
    seen = batch if batch.window == card.window else Batch(samples=batch.samples, window=card.window, interval_s=batch.interval_s)
    return measured(setup, seen, objective_for(card))[0]


def _apart(then: Readings, now: Readings) -> Mapping[str, float | None]:
    """Return how far readings are apart, by the names of Cost; None where there is no such figure."""
    pairs = {one.name: (getattr(then, one.name), getattr(now, one.name)) for one in fields(Cost)}
    return {name: None if a is None or b is None else a - b for name, (a, b) in pairs.items()}


def _cost(apart: Sequence[Mapping[str, float | None]]) -> Cost:
    """Return what differences on several waters come to: nothing where they do not repeat, None where there is no such figure anywhere."""
    known = {one.name: [each for row in apart if (each := row[one.name]) is not None] for one in fields(Cost)}
    lure, fish = (repeated(known[name]) if known[name] else None for name in ("lure_over_clutter_db", "faintest_fish_db"))
    return Cost(
        lure_over_clutter_db=lure,
        faintest_fish_db=fish,
        clutter_fill_pct=repeated(known["clutter_fill_pct"]),
        lag_ms=repeated(known["lag_ms"]),
    )


def costs_of(card: Card, batches: Sequence[Batch], *, progress: Progress = lambda share: None) -> Costs:
    """Return what each control costs as each style would set it, against the card's own start, measured on waters like the card's.

    The same pings are read under both; what does not repeat from water to water costs nothing.
    """
    start = [readings_of(card.setup, card, batch) for batch in batches]
    known: dict[tuple[str, Value], Cost] = {}
    wanted = [(row, style) for row in card.rows for style in Style]
    found: dict[str, dict[Style, Cost]] = {row.control: {} for row in card.rows}
    for done, (row, style) in enumerate(wanted):
        value = row.styles[style]
        key = (row.control, value)
        if key not in known:
            same = value == row.start or isinstance(value, str) or CONTROLS[row.control].part is Part.WINDOW
            setup = card.setup if same else with_control(card.setup, row.control, float(value))
            then = start if same else [readings_of(setup, card, batch) for batch in batches]
            known[key] = _cost([_apart(a, b) for a, b in zip(then, start, strict=True)])
        found[row.control][style] = known[key]
        progress((done + 1) / len(wanted))
    return found


def speckle_gain(card: Card, batches: Sequence[Batch]) -> float | None:
    """Return the Gain at which mid-water turns grainy under a card's start, by what is measured; None where it does not."""
    return first_over(CUE_GAINS, lambda gain: _mean(card, batches, GAIN, gain).clutter_fill_pct, GRAINY_PCT)


def solid_punch(card: Card, batches: Sequence[Batch]) -> float | None:
    """Return the Punch at which the strongest marks fill in solid under a card's start, by what is measured; None where they always or never do."""
    return first_over(CUE_PUNCHES, lambda punch: _mean(card, batches, PUNCH, punch).blown_out_pct, SOLID_PCT)


def lit_limits(card: Card, batches: Sequence[Batch]) -> dict[str, float | None]:
    """Return how much of mid-water may be lit [%] where each stepped control stops, by core name; None where a step less looks the same.

    Of those that start off only Quieting has one: the others go by what else they take away.
    """
    found: dict[str, float | None] = {}
    for control in STEPPED:
        start = float(getattr(card.setup, control.name))
        lit = _mean(card, batches, control, start).clutter_fill_pct
        if start != control.off:
            less = control.steps[control.strength(start) - 1]
            found[control.name] = limit_of_step(lit, _mean(card, batches, control, less).clutter_fill_pct)
        elif control is QUIETING:
            found[control.name] = limit_of_off(lit)
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class _Seen:
    """What an eye can tell of a picture by itself: how much of mid-water is lit, how much of all that is lit is full [%]."""

    clutter_fill_pct: float
    blown_out_pct: float


def _mean(card: Card, batches: Sequence[Batch], control: Control, value: float) -> _Seen:
    setup = with_control(card.setup, control.name, value)
    found = [readings_of(setup, card, batch) for batch in batches]
    return _Seen(
        clutter_fill_pct=float(np.mean([one.clutter_fill_pct for one in found])),
        blown_out_pct=float(np.mean([one.blown_out_pct for one in found])),
    )


def first_over(values: Sequence[float], measure: Callable[[float], float], limit: float) -> float | None:
    """Return where a measure that rises with rising values comes up to a limit, between them; None where it never does, or always.

    The place is found by halving.
    """
    low, high = 0, len(values) - 1
    under, over = measure(values[low]), measure(values[high])
    if under >= limit or over < limit:
        return None
    while high - low > 1:
        middle = (low + high) // 2
        found = measure(values[middle])
        if found >= limit:
            high, over = middle, found
        else:
            low, under = middle, found
    return float(values[low] + (limit - under) / (over - under) * (values[high] - values[low]))


def tuned(card: Card, batches: Sequence[Batch], *, seed: int, progress: Progress = lambda share: None) -> Tuned:
    """Return what auto-tune finds for the card's style: searched on the first of the batches, judged on the others."""
    searched = min(SEARCHED, max(len(batches) - 1, 1))
    return autotune(
        batches[:searched],
        objective_for(card),
        card.setup,
        judges=batches[searched:] or batches,
        allowed=hard_rules(card),
        seed=seed,
        progress=progress,
    )


def hard_rules(card: Card) -> Callable[[ReceiverSetup], bool]:
    """Return the rule by which a card takes a set-up, however well it does: enough Quieting against another sonar's spokes."""
    least = trade_bands(card.here)["quieting_pings"].of(card.style)[0] if card.here.other_sonars else 1.0
    return lambda setup: setup.quieting_pings >= least


def off_band(card: Card, setup: ReceiverSetup) -> dict[str, tuple[float, float]]:
    """Return the controls that a set-up has outside the usual bands here, with those bands."""
    bands = {name: (band.low, band.high) for name, band in trade_bands(card.here).items()} | {GAIN.name: gain_band(card.here)}
    return {name: band for name, band in bands.items() if not _within(CONTROLS[name], float(getattr(setup, name)), band)}


def _within(control: Control, value: float, band: tuple[float, float]) -> bool:
    if control is GHOST_CUT:
        low, high = sorted(map(control.strength, band))
        return low <= control.strength(value) <= high
    return band[0] <= value <= band[1]


def doubts_of(answers: Answers, aboard: Aboard, card: Card) -> words.Doubts:
    """Return what each gap in the answers costs: the controls that move between what is assumed and its plausible ends, from least to most."""
    found: dict[str, dict[str, tuple[Value, Value]]] = {}
    for name in card.here.assumed:
        # A guess that cannot be, such as warm water under ice, is none.
        guesses = [with_guess(answers, name, end) for end in (0, 1)]
        found[name] = _spread([card.start, *(start_for(one, aboard, style=card.style).setup for one in guesses if not clashes(one))])
    return {name: found[name] for name in DOUBTED if name in found}


def _spread(setups: Sequence[Setup]) -> dict[str, tuple[Value, Value]]:
    """Return the controls that differ among set-ups, by core name, each from its least value to its most; of names, two that differ."""
    moves = {change.control: change for other in setups for change in moved(setups[0], other).changes}
    values = {name: [one.value(CONTROLS[name]) for one in setups] for name in moves}
    return {
        name: (moves[name].before, moves[name].after) if isinstance(found[0], str) else (min(map(float, found)), max(map(float, found)))
        for name, found in values.items()
    }


def with_own_sonars(answers: Answers, aboard: Aboard) -> Answers:
    """Return the answers with the rig's own other transducers, where nobody mentioned others."""
    live = aboard.rig.others.live
    return replace(answers, other_sonars=live) if answers.other_sonars is None and live else answers


@dataclass(frozen=True, slots=True, kw_only=True)
class StyleAnswer:
    """How a style would set a control, in the edge's unit, and what that costs."""

    value: Value
    cost: Cost


@dataclass(frozen=True, slots=True, kw_only=True)
class RowAnswer:
    """A line of the card in the shape that other scripts rely on: numbers, never text, in the edge's units."""

    step: int
    control: str
    start: Value
    low: Value | None
    high: Value | None
    unit: str
    stop_cue: str
    why: str
    styles: Mapping[Style, StyleAnswer]


@dataclass(frozen=True, slots=True, kw_only=True)
class CardAnswer:
    """A card in the shape that other scripts rely on."""

    card: tuple[RowAnswer, ...]


def card_answer(card: Card, costs: Costs, stops: cues.Stops) -> CardAnswer:
    """Return a card as scripts get it; `stops` is where controls show that they are too high, as it is measured."""
    rows = []
    for number, row in enumerate(card.rows):
        control = of(row.control)
        rows.append(
            RowAnswer(
                step=len(words.BEFORE) + number + 1,
                control=control.name,
                start=_whole(row.control, row.start),
                low=None if row.low is None else _whole(row.control, row.low),
                high=None if row.high is None else _whole(row.control, row.high),
                unit=control.unit,
                stop_cue=cues.cue(row.control, row.start, stops),
                why=words.why_line(cues.reasons_seen(row, stops)),
                styles={
                    style: StyleAnswer(value=_whole(row.control, row.styles[style]), cost=costs[row.control][style].rounded())
                    for style in Style
                },
            )
        )
    return CardAnswer(card=tuple(rows))


def _whole(control: str, value: Value) -> Value:
    """Return a core value in the edge's unit: whole feet for the windows."""
    found = of(control).value(value)
    return float(round(found)) if CONTROLS[control].part is Part.WINDOW and not isinstance(found, str) else found
