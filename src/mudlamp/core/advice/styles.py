"""Styles: a way of setting up is an objective over readings, not a table of numbers. Weights are ours; what they weigh is common practice."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.advice.answers import Goal, Technique
from mudlamp.core.arrays import FloatArray, FloatLike
from mudlamp.core.controls import GHOST_CUT, NEAR_CUT, QUIETING
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.setup import ReceiverSetup

# What the smallest target's difference in CIE L* should be where nothing is known of screen and light (ours).
USUAL_CONTRAST = 40.0


class Style(StrEnum):
    """Raw: see all and read through it. Clean: nothing on the screen but targets. Balanced: between."""

    RAW = "raw"
    BALANCED = "balanced"
    CLEAN = "clean"


@dataclass(frozen=True, slots=True, kw_only=True)
class Objective:
    """What is wanted, as weights of eight desires that go from 0 to 1; they need not sum to one.

    `enough_db` is how far over clutter lure and faintest fish should stand: more than that is worth nothing more.
    `lure` and `fish` of standing out over clutter, `shown` of true fish shown, `clutter`, `blown`, `lag` and `parting` of being little,
    `light` of few clean-up steps: each also takes something real with it; `bold` of the smallest target standing out to the eye, which
    takes a difference in CIE L* of `enough_contrast` on this screen in this light.
    """

    enough_db: float
    lure: float
    fish: float
    shown: float
    clutter: float
    blown: float
    lag: float
    parting: float
    light: float
    bold: float
    enough_contrast: float = USUAL_CONTRAST


@dataclass(frozen=True, slots=True, kw_only=True)
class Figures:
    """Readings as numbers or arrays of candidates: dB over clutter, shares (0 to 1), seconds, meters; None where there is no such thing."""

    lure_over_db: FloatLike | None
    lure_shown: FloatLike | None
    fish_over_db: FloatLike | None
    fish_shown: FloatLike | None
    clutter: FloatLike
    blown: FloatLike
    lag_s: FloatLike
    parting_m: FloatLike
    steps: FloatLike
    # The smallest target's difference in CIE L* to what is about it: the lure's, else the faintest fish's.
    contrast: FloatLike | None = None


STYLES = {
    Style.RAW: Objective(enough_db=17.0, lure=3.0, fish=1.5, shown=3.0, clutter=0.9, blown=1.1, lag=1.6, parting=0.8, light=1.5, bold=1.6),
    Style.BALANCED: Objective(
        enough_db=14.5, lure=2.2, fish=1.2, shown=2.4, clutter=2.4, blown=1.3, lag=0.8, parting=0.8, light=0.9, bold=1.6
    ),
    Style.CLEAN: Objective(
        enough_db=11.0, lure=0.8, fish=1.2, shown=2.0, clutter=5.0, blown=1.3, lag=0.25, parting=0.8, light=0.3, bold=1.6
    ),
}
# A desire is fulfilled at the first figure and forlorn at the second. Balanced's `enough_db` was set once, on the pear tree, so that its
# Gain starts in the middle of the usual band there.
LEAST_OVER_DB = 1.0
CLUTTER = (0.0, 0.20)
BLOWN = (0.02, 0.40)
LAG_S = (0.0, 0.30)
PARTING_M = (0.25, 1.2)
STEPS = (0.0, 8.0)
HIDE_STEP_DB = 4.0


def objective_of(style: Style, technique: Technique, goal: Goal, *, enough_contrast: float = USUAL_CONTRAST) -> Objective:
    """Return the objective of a style for what is fished: without a lure out its weight falls, on a trophy hunt the small fish matter less."""
    base = STYLES[style]
    lure = base.lure * (0.4 if technique is Technique.SCAN or goal is Goal.OBSERVING else 1.0)
    return Objective(
        enough_db=base.enough_db,
        lure=lure,
        fish=base.fish * (0.5 if goal is Goal.TROPHY else 1.0),
        shown=base.shown,
        clutter=base.clutter,
        blown=base.blown * (1.6 if goal is Goal.TROPHY else 1.0),
        lag=base.lag * (0.5 if technique is Technique.SCAN else 1.0),
        parting=base.parting,
        light=base.light,
        bold=base.bold,
        enough_contrast=enough_contrast,
    )


def _desire(value: FloatLike, fulfilled: float, forlorn: float) -> FloatArray:
    """Return 1 at `fulfilled`, 0 at `forlorn`, straight between and held beyond, for (N,) values."""
    return np.clip((np.asarray(value, dtype=np.float64) - forlorn) / (fulfilled - forlorn), 0.0, 1.0)


def score(objective: Objective, figures: Figures) -> FloatArray:
    """Return how well (N,) candidates fulfil an objective, 0 to 100: the weighted mean of the desires that there is a figure for."""
    parts: list[tuple[float, FloatArray]] = [
        (objective.clutter, _desire(figures.clutter, *CLUTTER)),
        (objective.blown, _desire(figures.blown, *BLOWN)),
        (objective.lag, _desire(figures.lag_s, *LAG_S)),
        (objective.parting, _desire(figures.parting_m, *PARTING_M)),
        (objective.light, _desire(figures.steps, *STEPS)),
    ]
    if figures.lure_over_db is not None and figures.lure_shown is not None:
        # A lure that is not shown is worth nothing, however far over the clutter it would be.
        parts.append((objective.lure, _desire(figures.lure_over_db, objective.enough_db, LEAST_OVER_DB) * np.asarray(figures.lure_shown)))
    if figures.fish_over_db is not None and figures.fish_shown is not None:
        parts.append((objective.fish, _desire(figures.fish_over_db, objective.enough_db, LEAST_OVER_DB)))
        parts.append((objective.shown, np.asarray(figures.fish_shown, dtype=np.float64)))
    if figures.contrast is not None:
        parts.append((objective.bold, _desire(figures.contrast, objective.enough_contrast, 0.0)))
    total = sum(weight for weight, _ in parts)
    return np.asarray(100.0 * sum(weight * desire for weight, desire in parts) / total, dtype=np.float64)


def cleaning_steps(near_cut_db: float, quieting_pings: float, ghost_cut_db: float, hide_below_db: float) -> float:
    """Return how many clean-up steps controls stand at together; every four decibels of Hide below count as one."""
    steps = NEAR_CUT.strength(near_cut_db) + QUIETING.strength(quieting_pings) + GHOST_CUT.strength(ghost_cut_db)
    return steps + hide_below_db / HIDE_STEP_DB


def figures_of(readings: Readings, setup: ReceiverSetup) -> Figures:
    """Return the readings of a set-up as figures for `score`."""
    erased = readings.erased or ()
    has_fish = readings.fish_shown_pct is not None
    return Figures(
        lure_over_db=readings.lure_over_clutter_db,
        lure_shown=None if readings.lure_over_clutter_db is None else float("lure" not in erased),
        fish_over_db=readings.faintest_fish_db,
        fish_shown=(readings.fish_shown_pct or 0.0) / 100.0 if has_fish else None,
        clutter=readings.clutter_fill_pct / 100.0,
        blown=readings.blown_out_pct / 100.0,
        lag_s=readings.lag_ms / 1000.0,
        parting_m=readings.parting_m,
        steps=cleaning_steps(setup.near_cut_db, setup.quieting_pings, setup.ghost_cut_db, setup.hide_below_db),
        contrast=readings.contrast,
    )
