"""Faults dialed in on cards nobody tuned on: how often the ranked causes of their symptom name them first."""

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.advice.answers import clashes
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.symptoms import Cause, Facts, Symptom, ranked
from mudlamp.core.controls import DOWN_TO, GAIN, GHOST_CUT, NEAR_CUT, PUNCH, QUIETING, REACH, Control
from mudlamp.core.setup import Setting, value_of, with_settings
from mudlamp.core.water.sound import sound_speed_m_s
from mudlamp.services.bench.askers import drawn_answers
from mudlamp.services.cards.advising import card_of
from mudlamp.services.water.aboard import Aboard

Draw = Callable[[float, float], float]
THICKNESS_RAD = math.radians(18.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Fault:
    """How a fault is dialed in on what is known of a card, how badly by chance, and the symptom that an angler would pick."""

    symptom: Symptom
    dial: Callable[[Facts, Draw], Facts]


def _set(facts: Facts, *settings: Setting) -> Facts:
    return replace(facts, setup=with_settings(facts.setup, *settings), window=with_settings(facts.window, *settings))


def _gain(sign: float) -> Callable[[Facts, Draw], Facts]:
    return lambda facts, draw: _set(facts, Setting(control=GAIN, value=GAIN.held(facts.setup.gain + sign * draw(15.0, 30.0))))


def _edge(edge: Control, low: float, high: float) -> Callable[[Facts, Draw], Facts]:
    return lambda facts, draw: _set(facts, Setting(control=edge, value=edge.held(float(value_of(facts.window, edge)) * draw(low, high))))


FAULTS: Mapping[Cause, Fault] = {
    Cause.GAIN_LOW: Fault(symptom=Symptom.NO_LURE, dial=_gain(-1.0)),
    Cause.GAIN_HIGH: Fault(symptom=Symptom.BLOB, dial=_gain(1.0)),
    Cause.PUNCH_LOW: Fault(symptom=Symptom.NO_LURE, dial=lambda facts, draw: _set(facts, Setting(control=PUNCH, value=draw(0.0, 10.0)))),
    Cause.PUNCH_HIGH: Fault(symptom=Symptom.SOLID_BOTTOM, dial=lambda facts, draw: _set(facts, Setting(control=PUNCH, value=100.0))),
    Cause.NEAR_CUT_HIGH: Fault(symptom=Symptom.NO_LURE, dial=lambda facts, draw: _set(facts, Setting(control=NEAR_CUT, value=18.0))),
    Cause.QUIETING_HIGH: Fault(symptom=Symptom.TARGET_LAGS, dial=lambda facts, draw: _set(facts, Setting(control=QUIETING, value=5))),
    Cause.GHOST_HIGH: Fault(symptom=Symptom.NO_LURE, dial=lambda facts, draw: _set(facts, Setting(control=GHOST_CUT, value=22.0))),
    Cause.DOWN_TO_DEEP: Fault(symptom=Symptom.TINY, dial=_edge(DOWN_TO, 1.6, 3.0)),
    Cause.DOWN_TO_SHALLOW: Fault(symptom=Symptom.BOTTOM_GONE, dial=_edge(DOWN_TO, 0.4, 0.7)),
    Cause.REACH_LONG: Fault(symptom=Symptom.TINY, dial=_edge(REACH, 1.6, 3.0)),
    Cause.SOUND_SPEED: Fault(
        symptom=Symptom.BENT_BOTTOM,
        dial=lambda facts, draw: replace(
            facts, assumed_speed_m_s=draw(0.95, 0.97) * float(sound_speed_m_s(temperature_degc=facts.card.here.temperature_degc))
        ),
    ),
    Cause.LOW_VOLTAGE: Fault(symptom=Symptom.WEAK, dial=lambda facts, draw: replace(facts, unit_v=draw(10.0, 11.4))),
}


def named_first(seeds: Iterable[int]) -> dict[Cause, float]:
    """Return for each fault the share of cards, of drawn answers that can be true, on which its symptom's ranking names it first."""
    hits: dict[Cause, list[bool]] = {cause: [] for cause in FAULTS}
    for seed in seeds:
        answers, rng = drawn_answers(seed), np.random.default_rng(seed)
        if clashes(answers):
            continue
        plain = _facts(card_of(answers, Aboard()))
        for cause, fault in FAULTS.items():
            facts = fault.dial(plain, rng.uniform)
            hits[cause].append(ranked(fault.symptom, facts)[0].cause is cause)
    return {cause: float(np.mean(found)) for cause, found in hits.items()}


def _facts(card: Card) -> Facts:
    return Facts(card=card, setup=card.setup, window=card.window, thickness_rad=THICKNESS_RAD)
