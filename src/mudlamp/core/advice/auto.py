"""Auto: a rule that sets Gain or Down to from the picture itself, and says why it chose."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.advice.styles import STYLES, Figures, Style, cleaning_steps, score
from mudlamp.core.arrays import FloatArray
from mudlamp.core.controls import DOWN_TO, GAIN
from mudlamp.core.ping import Fan, Ping
from mudlamp.core.plane import FanPlane
from mudlamp.core.receiver.inks import ink_lightness
from mudlamp.core.receiver.law import BLACK_DB, gain_db, gain_for, near_cut_profile_db, shows_over_db, span_db, tvg_db
from mudlamp.core.receiver.open_water import OpenWater
from mudlamp.core.receiver.readings import parting_m
from mudlamp.core.setup import ReceiverSetup

AUTO_CONTROLS = (GAIN, DOWN_TO)
# Of the cells of open water so many of a hundred stay dark where speckle just clears (common practice).
DARK_PCT = 95.0
NEAREST_M = 1.5
# What Auto has in mind: a 1/16 oz jig where nothing better is known, and a foot-long fish end-on [dB re 1 m^2]; a mark swings about its
# mean, and stands so much over it on the average (by comparison with the simulator).
USUAL_LURE_DB = -55.5
FISH_DB = -43.0
MARK_DB = -0.5
GAINS = np.arange(40.0, 93.0)
CELLS = 6000
MARGIN_SHARE = 1.15
LEAST_MARGIN_M = 0.6
# What is so strong after TVG is bottom [dB re 1 m^2]; so many beams of a ping must show it.
BOTTOM_DB = -42.0
LEAST_BEAMS = 12


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """What auto chose, in the core's unit, with the figures behind it.

    `measured_db` is the level that DARK_PCT of a hundred cells of open water stay under (Gain), `deepest_m` the deepest bottom in sight
    (Down to).
    """

    value: float
    measured_db: float | None = None
    deepest_m: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class _Levels:
    """Levels after TVG and Near cut [dB re 1 m^2]: (N,) of open water beyond the near field, of all open water, and of all cells."""

    far: FloatArray
    water: FloatArray
    all: FloatArray


def _levels(pings: Sequence[Ping], setup: ReceiverSetup) -> _Levels | None:
    open_water = OpenWater()
    for ping in pings:
        open_water.learn(ping)
    water = open_water.cells()
    if water is None:
        return None
    beyond, inside, every = [], [], []
    for ping in pings:
        sonar = ping.setup
        level = ping.echo_level_db + tvg_db(sonar.range_m, sonar.absorption_db_m) - near_cut_profile_db(sonar.range_m, setup.near_cut_db)
        far = np.broadcast_to(sonar.range_m > NEAREST_M, level.shape)
        beyond.append(level[water & far])
        inside.append(level[water])
        every.append(level.ravel())
    found = np.concatenate(beyond)
    if not len(found):
        return None
    return _Levels(far=_some(found), water=_some(np.concatenate(inside)), all=_some(np.concatenate(every)))


def _some(values: FloatArray) -> FloatArray:
    return values[:: max(1, len(values) // CELLS)]


def speckle_gain(pings: Sequence[Ping], setup: ReceiverSetup) -> Choice | None:
    """Return the Gain at which open water's speckle just stays dark, or None where no open water is seen; bottom and cover are left out."""
    levels = _levels(pings, setup)
    if levels is None:
        return None
    speckle = float(np.percentile(levels.far, DARK_PCT))
    gain = gain_for(BLACK_DB + float(shows_over_db(setup.ink, setup.punch, 0.0)) - speckle)
    return Choice(value=GAIN.held(float(round(gain))), measured_db=speckle)


def auto_gain(pings: Sequence[Ping], setup: ReceiverSetup, *, lure_mark_db: float = USUAL_LURE_DB) -> Choice | None:
    """Return the Gain that the balanced style likes best on these pings, or None where no open water is seen.

    Clutter and what is blown out are counted on the pings, bottom and cover left out of open water; how far the lure tied on
    (`lure_mark_db`, its strongest part, dB re 1 m^2) and a fish would stand out is worked out over that water. Source: the style's own objective.
    """
    levels = _levels(pings, setup)
    if levels is None:
        return None
    sonar = pings[-1].setup
    floor, span = float(shows_over_db(setup.ink, setup.punch, setup.hide_below_db)), float(span_db(setup.punch))
    table = ink_lightness(setup.ink)
    best: tuple[float, float] | None = None
    for gain in GAINS:
        lift = float(gain_db(gain)) - BLACK_DB
        water = np.clip(levels.water + lift, 0.0, span)
        ground = float(np.clip(levels.far + lift, 0.0, span).mean())
        lure, fish = (min(max(ts + MARK_DB + lift, 0.0), span) - ground for ts in (lure_mark_db, FISH_DB))
        lit = float(np.mean(levels.all + lift >= floor))
        figures = Figures(
            lure_over_db=lure,
            lure_shown=float(np.clip((lure - floor) / 2.0 + 0.5, 0.0, 1.0)),
            fish_over_db=fish,
            fish_shown=float(np.clip((fish - floor) / 2.0 + 0.5, 0.0, 1.0)),
            clutter=float(np.mean(water >= floor)),
            blown=float(np.mean(levels.all + lift >= 0.98 * span)) / max(lit, 1e-6),
            lag_s=0.0,
            parting_m=parting_m(
                replace(setup, gain=float(gain)), range_m=0.6 * float(sonar.range_m[-1]), beam_width_rad=sonar.beam_width_rad
            ),
            steps=cleaning_steps(setup.near_cut_db, setup.quieting_pings, setup.ghost_cut_db, setup.hide_below_db),
            contrast=float(np.abs(np.subtract(*np.interp(255.0 * np.array([ground + lure, ground]) / span, np.arange(256.0), table)))),
        )
        worth = float(score(STYLES[Style.BALANCED], figures))
        if best is None or worth > best[0]:
            best = (worth, float(gain))
    speckle = float(np.percentile(levels.far, DARK_PCT))
    return None if best is None else Choice(value=GAIN.held(best[1]), measured_db=speckle)


def auto_down_to(pings: Sequence[Ping]) -> Choice | None:
    """Return the Down to [m] that keeps the deepest bottom in sight with a margin, or None under a Flat fan or without a bottom."""
    if not pings or pings[-1].setup.fan is Fan.FLAT:
        return None
    depths = []
    for ping in pings:
        tvg = tvg_db(ping.setup.range_m, ping.setup.absorption_db_m)
        _, downward = FanPlane.of(ping).shares(ping.setup.beam_angle_rad)
        steep = downward > math.cos(math.radians(60.0))
        if not steep.any():
            return None
        lifted = ping.echo_level_db[steep] + tvg
        brightest = np.argmax(lifted, axis=1)
        sure = lifted[np.arange(len(lifted)), brightest] > BOTTOM_DB
        depths.append((ping.setup.range_m[brightest] * downward[steep] + ping.pose.z_m)[sure])
    if sum(len(one) for one in depths) < LEAST_BEAMS * len(pings):
        return None
    deepest = float(np.percentile(np.concatenate(depths), 90.0))
    wanted = max(deepest * MARGIN_SHARE, deepest + LEAST_MARGIN_M)
    return Choice(value=DOWN_TO.held(wanted), deepest_m=deepest)
