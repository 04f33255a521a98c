"""The window by common practice: Down to, Reach, Look-back, and the tilt where the fan lies flat. Source of all: common practice."""

import math
from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.advice.answers import BottomShape, CoverKind, Goal, Habit, Situation, Technique
from mudlamp.core.controls import DOWN_TO, LOOK_BACK, REACH
from mudlamp.core.scene.species import Species
from mudlamp.core.units import FOOT_M


class Reason(StrEnum):
    """Why a start value is what it is; the edge has the words."""

    BOTTOM_IN_VIEW = "bottom_in_view"
    SLOPE_MARGIN = "slope_margin"
    BROKEN_MARGIN = "broken_margin"
    DEEPEST_TODAY = "deepest_today"
    NEVER_UNDER = "never_under"
    SUSPENDED = "suspended"
    THERMOCLINE = "thermocline"
    VERTICAL = "vertical"
    OVER_BRUSH = "over_brush"
    PITCH = "pitch"
    SEARCH = "search"
    TROPHY_SEARCH = "trophy_search"
    CAST = "cast"
    CAST_FAR = "cast_far"
    SHALLOW = "shallow"
    DEEP = "deep"
    SEES_DOWN_TO = "sees_down_to"
    AT_LIMIT = "at_limit"
    LOOK_BACK_LEAST = "look_back_least"
    GAIN_SPECKLE = "gain_speckle"
    GAIN_OVER_SPECKLE = "gain_over_speckle"
    GAIN_JIG = "gain_jig"
    GAIN_STRONG = "gain_strong"
    GAIN_NO_HELP = "gain_no_help"
    GAIN_LOW_SUN = "gain_low_sun"
    GAIN_OFF_BAND = "gain_off_band"
    NEAR_NONE = "near_none"
    NEAR_STEP = "near_step"
    QUIET_NONE = "quiet_none"
    QUIET_STEP = "quiet_step"
    QUIET_SPOKES = "quiet_spokes"
    QUIET_HALF_SPOKES = "quiet_half_spokes"
    QUIET_CALM = "quiet_calm"
    QUIET_SILT = "quiet_silt"
    GHOST_NONE = "ghost_none"
    GHOST_HARD_SHALLOW = "ghost_hard_shallow"
    GHOST_READ_THROUGH = "ghost_read_through"
    GHOST_CALM = "ghost_calm"
    PUNCH_BRIGHT = "punch_bright"
    PUNCH_GENTLE = "punch_gentle"
    HIDE_OFF = "hide_off"
    HIDE_PARTNER = "hide_partner"
    INK_OWN = "ink_own"
    INK_SUN = "ink_sun"
    INK_DARK = "ink_dark"
    INK_SMALL = "ink_small"


@dataclass(frozen=True, slots=True, kw_only=True)
class Band:
    """A start value with its working band, in the core's unit, and why."""

    start: float
    low: float
    high: float
    reasons: tuple[Reason, ...]


# Where the fish are that are fished for, as a share of the Reach (ours).
AHEAD_SHARE = {Technique.VERTICAL: 0.15, Technique.PITCH: 0.55, Technique.CAST: 0.75, Technique.SCAN: 0.7}
# The transducer hangs about so deep [m]: for where a range ends it is near enough.
HANGS_M = 0.4
SEARCH_M = {Species.CRAPPIE: 40.0 * FOOT_M, Species.LARGEMOUTH: 45.0 * FOOT_M}
SHALLOW_M = 12.0 * FOOT_M
DEEP_M = 30.0 * FOOT_M
MARGIN_M = 3.0 * FOOT_M
MARGINS_M = (2.0 * FOOT_M, 5.0 * FOOT_M)
UNEVEN_M = 5.0 * FOOT_M


def whole_feet_m(length_m: float) -> float:
    """Return a length [m] rounded up to whole feet, as anglers set it; a hundredth of a foot over is not rounded up."""
    return math.ceil(round(length_m / FOOT_M, 2)) * FOOT_M


def _band(start: float, low: float, high: float, bounds: tuple[float, float], *reasons: Reason) -> Band:
    least, most = math.ceil(bounds[0] / FOOT_M) * FOOT_M, math.floor(bounds[1] / FOOT_M) * FOOT_M
    clipped = [min(max(whole_feet_m(value), least), most) for value in (start, low, high)]
    if whole_feet_m(start) > most:
        reasons = (Reason.AT_LIMIT, *reasons)
    return Band(start=clipped[0], low=min(clipped[0], clipped[1]), high=max(clipped[0], clipped[2]), reasons=reasons)


def down_to(here: Situation) -> Band:
    """Return Down to [m]: the bottom in view with 2 to 5 ft to spare, more where it is uneven; suspended fish over deep water excepted."""
    if here.suspended:
        on_layer = here.thermocline_m is not None and here.fish_to_m <= here.thermocline_m + MARGIN_M
        band_reasons = (Reason.SUSPENDED, *((Reason.THERMOCLINE,) if on_layer else ()))
        return _floor(
            here, _band(here.fish_to_m + 5.0 * FOOT_M, here.fish_to_m, here.fish_to_m + 10.0 * FOOT_M, DOWN_TO.bounds, *band_reasons)
        )
    reasons = [Reason.BOTTOM_IN_VIEW]
    deepest = here.deepest_m
    if deepest > here.depth_m:
        reasons.append(Reason.DEEPEST_TODAY)
    margin, most = MARGIN_M, MARGINS_M[1]
    if here.shape is BottomShape.SLOPE and deepest == here.depth_m:
        # What the bottom falls as far out as the fish are: a cast's distance, not a pitch's.
        out = max(AHEAD_SHARE[here.technique] * _usual_reach(here).start, 20.0 * FOOT_M)
        fall = max(math.tan(here.slope_rad) * out, 3.0 * FOOT_M)
        margin, most = margin + fall, margin + fall + 2.0 * FOOT_M
        reasons.append(Reason.SLOPE_MARGIN)
    elif here.shape is BottomShape.BROKEN:
        margin, most = margin + UNEVEN_M / 2.0, UNEVEN_M + MARGINS_M[1]
        reasons.append(Reason.BROKEN_MARGIN)
    if here.habit is Habit.SET_ONCE:
        # Set once, it must do for the deepest of the day: the upper end of the band.
        margin = most
    return _floor(here, _band(deepest + margin, deepest + MARGINS_M[0], deepest + most, DOWN_TO.bounds, *reasons))


def _floor(here: Situation, band: Band) -> Band:
    """Return `band` lifted to the least that the angler allows."""
    if band.start >= here.never_under_m:
        return band
    least = whole_feet_m(here.never_under_m)
    return Band(start=least, low=least, high=max(least, band.high), reasons=(Reason.NEVER_UNDER, *band.reasons))


def reach(here: Situation) -> Band:
    """Return Reach [m]: the usual one, and more where the deepest fish would else be out of the picture where they are fished for."""
    usual = _usual_reach(here)
    share, down = AHEAD_SHARE[here.technique], max(here.fish_to_m - HANGS_M, 0.0)
    if math.hypot(share * usual.start, down) <= max(usual.start, down_to(here).start - HANGS_M):
        return usual
    least = down / math.sqrt(1.0 - share**2)
    return _band(least, usual.low, max(usual.high, least), REACH.bounds, *usual.reasons, Reason.SEES_DOWN_TO)


def _usual_reach(here: Situation) -> Band:
    """Return the usual Reach [m]: 15 to 32 ft over the fish, 25 to 35 for a pitch, 38 to 52 to search, 45 to 85 to cast; shallow short, deep long."""
    if here.technique is Technique.VERTICAL:
        return _vertical(here)
    if here.technique is Technique.PITCH:
        extra, reason = (-3.0, Reason.SHALLOW) if here.depth_m < SHALLOW_M else (4.0, Reason.DEEP) if here.depth_m > DEEP_M else (0.0, None)
        return _band((30.0 + extra) * FOOT_M, 25.0 * FOOT_M, 38.0 * FOOT_M, REACH.bounds, Reason.PITCH, *([reason] if reason else []))
    if here.technique is Technique.SCAN:
        return _search(here)
    return _cast(here)


def _vertical(here: Situation) -> Band:
    over_brush = here.cover in (CoverKind.BRUSH, CoverKind.TIMBER)
    base = 15.0 * FOOT_M if over_brush else 20.0 * FOOT_M
    wanted = max(base, here.fish_to_m + 5.0 * FOOT_M)
    start = min(max(wanted, 15.0 * FOOT_M), 32.0 * FOOT_M)
    reasons = [Reason.VERTICAL, *([Reason.OVER_BRUSH] if over_brush else []), *([Reason.SEES_DOWN_TO] if wanted > base else [])]
    return _band(start, 15.0 * FOOT_M, 32.0 * FOOT_M, REACH.bounds, *reasons)


def _search(here: Situation) -> Band:
    start = SEARCH_M.get(here.target, 42.0 * FOOT_M)
    reasons = [Reason.SEARCH]
    if here.goal is Goal.TROPHY:
        start, reasons = 50.0 * FOOT_M, [Reason.TROPHY_SEARCH]
    if here.depth_m < SHALLOW_M:
        start, reasons = max(start - 4.0 * FOOT_M, 38.0 * FOOT_M), [*reasons, Reason.SHALLOW]
    return _band(start, 38.0 * FOOT_M, 52.0 * FOOT_M, REACH.bounds, *reasons)


def _cast(here: Situation) -> Band:
    start, reasons = 60.0 * FOOT_M, [Reason.CAST]
    if here.suspended or here.shape is not BottomShape.FLAT:
        start, reasons = 70.0 * FOOT_M, [Reason.CAST_FAR]
    if here.depth_m < SHALLOW_M:
        start, reasons = 48.0 * FOOT_M, [*reasons, Reason.SHALLOW]
    return _band(start, 45.0 * FOOT_M, 85.0 * FOOT_M, REACH.bounds, *reasons)


def look_back() -> Band:
    """Return Look-back [m]: about 2 ft, so that what is under the boat stays in view."""
    return _band(2.0 * FOOT_M, 1.0 * FOOT_M, 3.0 * FOOT_M, LOOK_BACK.bounds, Reason.LOOK_BACK_LEAST)


def flat_suits(here: Situation) -> bool:
    """Return whether a fan laid flat would work here too: 3 to 15 ft of water, nothing that hangs far above the bottom."""
    return 3.0 * FOOT_M <= here.depth_m <= 15.0 * FOOT_M and not here.ice
