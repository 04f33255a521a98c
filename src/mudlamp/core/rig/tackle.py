"""Rules of the lure box: what tangles, how small a head can still be seen."""

import numpy as np

from mudlamp.core.casting.heads import HEAD_KG, LEAD_KG_M3, head_target_strength_db
from mudlamp.core.casting.lures import LureKind
from mudlamp.core.receiver.inks import SHOWN_LIGHTNESS
from mudlamp.core.receiver.law import BLACK_DB, lift_db, shows_over_db
from mudlamp.core.receiver.screen import LEAST_ARCMIN, Screen, mark_on_screen
from mudlamp.core.setup import ReceiverSetup, Window

# A head's echo swings by so much (physics of the simulator), and must stand so far over clutter to be told from it (ours).
SWING_DB = 3.0
OVER_DB = 3.0
# Kinds whose weight sits above or below the lure by their nature: the rule does not speak of them.
WEIGHTED_KINDS = (LureKind.DROP_SHOT, LureKind.SPLIT_SHOT)


def tangles(*, kind: LureKind, head_kg: float, weight_kg: float) -> bool:
    """Return whether a lure will tangle with the weight above it: it does where the weight is as heavy or heavier. Source: common practice."""
    return kind not in WEIGHTED_KINDS and weight_kg > 0.0 and weight_kg >= head_kg


def faintest_db(setup: ReceiverSetup, *, range_m: float) -> float:
    """Return the faintest target strength [dB re 1 m^2] that a set-up shows at a range [m] on bare ground. Source: the receiver's own law."""
    lift = float(lift_db(setup, np.array([range_m]))[0])
    return BLACK_DB + float(shows_over_db(setup.ink, setup.punch, setup.hide_below_db)) - lift


def smallest_head_kg(
    screen: Screen,
    window: Window,
    setup: ReceiverSetup,
    *,
    range_m: float,
    mark_across_m: float,
    mark_down_m: float,
    clutter_db: float,
    fade_db: float = 0.0,
) -> float | None:
    """Return the mass [kg] of the smallest lead head that can be seen at a range [m] on a screen; None where not even the largest can.

    Its echo, less `fade_db` that the water takes beyond TVG and SWING_DB by which it swings, must be the faintest that shows, and OVER_DB
    over `clutter_db`, the mean of all else in its cell after TVG [dB re 1 m^2]; its mark, `mark_across_m` by `mark_down_m` in the water [m], must span an arc minute. Source: 20 log(a / 2), the receiver's law, acuity.
    """
    mark = mark_on_screen(
        screen, window, across_m=mark_across_m, down_m=mark_down_m, contrast=SHOWN_LIGHTNESS, least_contrast=SHOWN_LIGHTNESS
    )
    if mark.arcmin < LEAST_ARCMIN:
        return None
    needed = max(faintest_db(setup, range_m=range_m), clutter_db + OVER_DB) + SWING_DB + fade_db
    masses = np.geomspace(*HEAD_KG, 120)
    levels = np.array([head_target_strength_db(mass_kg=float(mass), density_kg_m3=LEAD_KG_M3) for mass in masses])
    enough = levels >= needed
    return float(masses[int(np.argmax(enough))]) if enough.any() else None
