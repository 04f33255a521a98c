"""The set-up card as a service: planned at once, its costs measured on simulated water, the receiver searched, the differences of a move."""

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from mudlamp.core.advice.answers import DOUBTED, Answers, Technique, situation, with_guess
from mudlamp.core.advice.autotune import Batch, Tuned, autotune, measured
from mudlamp.core.advice.forecast import Gear
from mudlamp.core.advice.planner import Card, gain_band, plan, trade_bands
from mudlamp.core.advice.retune import Value, moved, values_of
from mudlamp.core.advice.styles import Style, objective_of
from mudlamp.core.casting.lures import Line, LureKind, tackle
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.receiver.setup import GHOST_CUT_DB, ReceiverSetup, Window
from mudlamp.core.receiver.trial import with_control
from mudlamp.core.rig.power import power_budget
from mudlamp.core.rig.profile import BoxedLure, RigProfile
from mudlamp.core.scene.species import Species
from mudlamp.core.sonar.transducer import PROFILES, Profile
from mudlamp.core.units import OUNCE_KG
from mudlamp.services.water.from_answers import OwnMeasures, TiedOn, fish_place, record_batch, scene_of, scene_values
from mudlamp.services.words import card as card_words

Progress = Callable[[float], None]
COST_NAMES = ("lure_over_clutter_db", "faintest_fish_db", "clutter_fill_pct", "lag_ms")
# The lure hangs so far short of the fish and above them [m]: beside them, not in them.
SHORT_M, ABOVE_M = 1.2, 0.4
# What a scene file takes for the voltage at the unit [V].
LOWEST_V, HIGHEST_V = 9.0, 15.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Aboard:
    """What is aboard: the rig, and what is tied on."""

    rig: RigProfile = field(default_factory=RigProfile)
    lure: BoxedLure = field(default_factory=BoxedLure)
    line: Line = Line.FLUOROCARBON

    @property
    def profile(self) -> Profile:
        """The transducer as the simulator knows it."""
        own = self.rig.transducer
        return PROFILES["demo"].like(fan_rad=own.fan_rad, thickness_rad=own.thickness_rad, carrier_hz=own.carrier_hz, facets=own.facets)

    @property
    def measures(self) -> OwnMeasures:
        """The transducer as a scene file has it."""
        own = self.rig.transducer
        return OwnMeasures(
            fan_rad=own.fan_rad,
            thickness_rad=own.thickness_rad,
            carrier_hz=own.carrier_hz,
            facets=own.facets,
            depth_m=self.rig.mount.depth_m,
        )

    @property
    def tied(self) -> TiedOn:
        """What is tied on."""
        lure = self.lure
        return TiedOn(kind=lure.kind, head_kg=lure.head_kg, material=lure.material, line=self.line, weight_kg=lure.weight_kg)

    @property
    def gear(self) -> Gear:
        """What the forecast needs of it."""
        lure = self.lure
        tied = tackle(kind=lure.kind, head_kg=lure.head_kg, material=lure.material, line=self.line, weight_kg=lure.weight_kg)
        return Gear(profile=self.profile, depth_m=self.rig.mount.depth_m, lure_ts_db=tied.ts_db)


def usual_lure(answers: Answers) -> BoxedLure:
    """Return what is tied on where nobody says: a 1/16 oz jig; for bass a half-ounce swimbait to cast, a 3/8 oz jig nearer. Common practice."""
    here = situation(answers)
    if here.target is not Species.LARGEMOUTH:
        return BoxedLure()
    if here.technique is Technique.CAST:
        return BoxedLure(kind=LureKind.SWIMBAIT, head_kg=OUNCE_KG / 2.0)
    return BoxedLure(head_kg=3.0 * OUNCE_KG / 8.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Cost:
    """What a value costs against the card's own start; None where there is no such figure (no lure, no fish)."""

    lure_over_clutter_db: float | None
    faintest_fish_db: float | None
    clutter_fill_pct: float
    lag_ms: float


Costs = Mapping[str, Mapping[Style, Cost]]
Doubts = Mapping[str, Mapping[str, tuple[Value, Value]]]


def card_of(answers: Answers, aboard: Aboard, *, style: Style = Style.BALANCED, screen: Screen | None = None) -> Card:
    """Return the set-up card of answers and rig."""
    return plan(
        situation(answers), aboard.gear, style=style, screen=aboard.rig.screen if screen is None else screen, own_ink=aboard.rig.ink
    )


def seed_of(answers: Answers, aboard: Aboard) -> int:
    """Return the seed that equal answers and gear share."""
    text = f"{answers}|{aboard.rig.transducer}|{aboard.rig.mount.depth_m}|{aboard.tied}"
    return int.from_bytes(hashlib.sha256(text.encode()).digest()[:4], "big")


def scene_keys(card: Card, aboard: Aboard, *, title: str, faults: Mapping[str, Any] | None = None) -> dict[str, Any]:
    """Return the scene that stands for a card, as the keys of a scene file."""
    power = aboard.rig.power
    volts = min(max(power_budget(power.supply, power.loads).unit_v, LOWEST_V), HIGHEST_V)
    troubles = {"supply_v": round(volts, 2)} | dict(faults or {})
    return scene_values(card.here, card.window, tied=aboard.tied, own=aboard.measures, title=title, faults=troubles)


def batch_of(card: Card, aboard: Aboard, *, seed: int, progress: Progress = lambda share: None) -> Batch:
    """Return a batch of pings on the water that stands for a card, the lure hanging beside the fish."""
    ahead, depth = fish_place(card.here, card.window)
    hang = (max(ahead - SHORT_M, 0.8 * ahead), max(depth - ABOVE_M, 0.5 * depth))
    return record_batch(scene_of(scene_keys(card, aboard, title="A card's water")), hang_m=hang, seed=seed, progress=progress)


def _under(setup: ReceiverSetup, window: Window, batch: Batch, card: Card) -> Readings:
    here = card.here
    seen = Batch(samples=batch.samples, window=window, interval_s=batch.interval_s)
    return measured(setup, seen, objective_of(card.style, here.technique, here.goal))[0]


def _cost(then: Readings, now: Readings) -> Cost:
    def apart(a: float | None, b: float | None) -> float | None:
        return None if a is None or b is None else a - b

    return Cost(
        lure_over_clutter_db=apart(then.lure_over_clutter_db, now.lure_over_clutter_db),
        faintest_fish_db=apart(then.faintest_fish_db, now.faintest_fish_db),
        clutter_fill_pct=then.clutter_fill_pct - now.clutter_fill_pct,
        lag_ms=then.lag_ms - now.lag_ms,
    )


def costs_of(card: Card, batch: Batch, *, progress: Progress = lambda share: None) -> Costs:
    """Return what each control costs as each style would set it, against the card's own start, measured on a batch of its water."""
    start = _under(card.setup, card.window, batch, card)
    known: dict[tuple[str, Value], Cost] = {}
    wanted = [(row, style) for row in card.rows for style in Style]
    found: dict[str, dict[Style, Cost]] = {row.control: {} for row in card.rows}
    for done, (row, style) in enumerate(wanted):
        value = row.styles[style]
        key = (row.control, value)
        if key not in known:
            same = value == row.start or isinstance(value, str) or row.control in ("down_to_m", "reach_m")
            then = start if same else _under(with_control(card.setup, row.control, float(value)), card.window, batch, card)
            known[key] = _cost(then, start)
        found[row.control][style] = known[key]
        progress((done + 1) / len(wanted))
    return found


def tuned(card: Card, batch: Batch, *, seed: int, progress: Progress = lambda share: None) -> Tuned:
    """Return what auto-tune finds on a batch of the card's water, for the card's style."""
    here = card.here
    return autotune(batch, objective_of(card.style, here.technique, here.goal), card.setup, seed=seed, progress=progress)


def off_band(card: Card, setup: ReceiverSetup) -> dict[str, tuple[float, float]]:
    """Return the controls that a set-up has outside the trade's bands here, with those bands."""
    bands = {name: (band.low, band.high) for name, band in trade_bands(card.here).items()} | {"gain": gain_band(card.here)}
    return {name: band for name, band in bands.items() if not _within(name, float(getattr(setup, name)), band)}


def _within(name: str, value: float, band: tuple[float, float]) -> bool:
    if name == "ghost_cut_db":
        # Fewer decibels under the strongest cut more: its steps count, not its figures.
        low, at, high = min(map(GHOST_CUT_DB.index, band)), GHOST_CUT_DB.index(value), max(map(GHOST_CUT_DB.index, band))
        return low <= at <= high
    return band[0] <= value <= band[1]


def doubts_of(answers: Answers, aboard: Aboard, card: Card) -> Doubts:
    """Return what each gap in the answers costs: the controls that move between its plausible ends, with their values at those."""
    found: dict[str, dict[str, tuple[Value, Value]]] = {}
    for name in card.here.assumed:
        ends = [card_of(with_guess(answers, name, end), aboard, style=card.style) for end in (0, 1)]
        low, high = (values_of(one.setup, one.window) for one in ends)
        found[name] = {change.control: (change.before, change.after) for change in moved(low, high).changes}
    return {name: found[name] for name in DOUBTED if name in found}


def card_json(card: Card, costs: Costs) -> dict[str, Any]:
    """Return a card in the shape that other scripts rely on: numbers, never text, in the edge's units."""
    rows = []
    for number, row in enumerate(card.rows):
        rows.append(
            {
                "step": len(card_words.BEFORE) + number + 1,
                "control": card_words.EDGE[row.control],
                "start": card_words.edge_value(row.control, row.start),
                "low": None if row.low is None else card_words.edge_value(row.control, row.low),
                "high": None if row.high is None else card_words.edge_value(row.control, row.high),
                "unit": card_words.UNITS.get(row.control, ""),
                "stop_cue": card_words.STOP_CUES[row.control],
                "why": card_words.why_line(row.reasons),
                "styles": {
                    style.value: {
                        "value": card_words.edge_value(row.control, row.styles[style]),
                        "cost": cost_json(costs[row.control][style]),
                    }
                    for style in Style
                },
            }
        )
    return {"card": rows}


def cost_json(cost: Cost) -> dict[str, float | None]:
    """Return a cost as rounded figures."""
    found: dict[str, float | None] = {}
    for name in COST_NAMES:
        value = getattr(cost, name)
        found[name] = None if value is None else round(value, 2) + 0.0
    return found
