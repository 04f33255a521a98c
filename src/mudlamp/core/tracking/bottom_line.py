"""The bottom line, learned from pings: the strong layer, deep and long-standing, on which neighboring stretches of ground agree."""

import math
from collections import deque
from statistics import median

import numpy as np

from mudlamp.core.arrays import BoolArray, Float32Array, FloatArray, IntArray
from mudlamp.core.ping import Fan, Ping, SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_ground
from mudlamp.core.tracking.clutter import slid

STRETCH_M = 0.4
STEP_M = 0.08
STRETCHES = 200
# The ground so near before the boat [m] is taken for that under it, where the fan does not look straight down.
UNDER_BOAT_M = 4.8
STEPS = 460
# A bottom returns at least this much [dB re 1 m^2, after TVG, mean of its cells]; one that is near or grazed less: of a softer one, a meter
# under the sonar and a meter away, this much comes back, by Lambert's law over the ground that a ping lights (ours).
LEAST_DB, LEAST_NEAR_DB, FAINT_DB = -50.0, -54.8, -66.0
# No bottom lies nearer under the sonar [m].
UNDER_SONAR_M = 0.3
# What a line's step costs [dB a step of depth], a ledge at most; how many decibels more a layer is worth at the greatest depth.
STEP_COST_DB, LEDGE_COST_DB = 0.9, 30.0
DEEPER_DB = 6.0
# The second echo of a bottom lies twice as deep and is weaker: it loses so much.
SECOND_DB = 12.0
# What hangs over a bottom, so far over it [m], hides it not: a layer that has another under it, hardly weaker, loses so much.
UNDER_M, UNDER_WEAKER_DB, OVER_ANOTHER_DB = (0.3, 0.9), 12.0, 6.0
# A line that is known in fewer stretches than this in all is a school's.
LEAST_KNOWN = 8
# Among branches and fish the line runs on from where it is known, over so many stretches: where it steps by no more than this from one to the
# next, and in all [m], is not much weaker than the median of so many before it, and is not drowned by what hangs over it.
RUNS_ON, RUNS_STEP_M, RUNS_OFF_M, RUNS_AFTER, RUNS_WEAKER_DB, DROWNED_DB = 12, 0.2, 0.35, 4, 9.0, 6.0
# A layer so much weaker than another at half its depth is that one's second echo.
SECOND_WEAKER_DB = 3.0
# A bottom stands out from the water over it by so much, where nothing hangs there; that water begins and ends so far over it [m].
OVER_WATER_DB = 9.0
WATER_M = (0.5, 1.8)
# Of so many stretches about one, this share must be strong, sharp and on the line: a school over deep water is not.
ABOUT, AGREE = 6, 0.55
# Nor is it much weaker than what is known of so many stretches to each side.
NEIGHBORS, WEAKER_DB = 8, 9.0
# What all of it is that much weaker than so many stretches before, up to so many at an end of the line, is no bottom where it falls off at
# once by so much, or after a gap of more than so many stretches: fish past a ledge's lip. A bottom that is ever more grazed fades.
ENDS_BEFORE, FAINT_END, AT_ONCE_DB, GAP = 4, 7, 8.0, 3
# A piece of the line of so few stretches, within which it steps by no more than so much from one to the next [m], is fish that hang past a
# lip where it lies over the deepest of so many stretches before it by so much [m], and is weaker than those by so much.
FLOATS, PIECE_STEP_M, LIP, OVER_LIP_M, FLOATS_WEAKER_DB = 6, 0.24, 4, 0.2, 2.0
# Stretches that do not agree, a tree's say, are bridged up to so many, where the depths to both sides differ by so little [m].
BRIDGE, BRIDGE_M = 10, 0.5
# Where the line is not known, but is so few stretches away, what a beam no farther off plumb than this [rad] shows so many times as deep is
# the bottom's second echo: on drawn and stock waters no fish was (ours). Farther out it comes back too faint, and a ledge may fall off there.
ALMOST_KNOWN, SECOND_SHARE, SECOND_RAD = 12, 1.5, math.radians(50)
# A beam no deeper under the line than this grazes it [m], where the line ends so many stretches before the beam does.
GRAZES_M, BEYOND = 0.45, 5
# No bottom is shallower [m]: the surface's own echo. Nor is it under this share of the usual depth: a float.
LEAST_M, LEAST_SHARE = 0.7, 0.35
EVERY = 10
# So much of the line lies behind the boat; farther off than this [m], the line moves after it.
BEHIND, SLACK_M = 0.4, 6.0
KEEP = 0.64
MARGIN_M = 0.22
MARGIN_SHARE = 0.012


class BottomLine:
    """Depth of the bottom by place ahead, on the ground. Nothing is known of it under a Flat fan."""

    def __init__(self) -> None:
        self._mean = np.zeros((STRETCHES, STEPS))
        self._depth: FloatArray | None = None
        self._start_u: float | None = None
        self._pings = 0
        self._last: IntArray | None = None
        self._sonar: SonarSetup | None = None

    def depth_m(self, ahead_m: float) -> float | None:
        """Return the depth of the bottom [m] at a place ahead in the plane [m], or None where it is not known."""
        if self._depth is None or self._start_u is None:
            return None
        i = int((ahead_m - self._start_u) / STRETCH_M)
        if not 0 <= i < STRETCHES or not np.isfinite(self._depth[i]):
            return None
        return float(self._depth[i])

    def under_m(self, ahead_m: float) -> float | None:
        """Return the depth of the bottom [m] under the boat, by where it is along its way [m]: the nearest that is known before it, within UNDER_BOAT_M."""
        if self._depth is None or self._start_u is None:
            return None
        first = max(int((ahead_m - self._start_u) / STRETCH_M), 0)
        near = self._depth[first : first + round(UNDER_BOAT_M / STRETCH_M)]
        known = near[np.isfinite(near)]
        return float(known[0]) if len(known) else None

    def last_bins(self, ping: Ping, plane: GroundPlane, power: Float32Array) -> IntArray:
        """Learn from a ping's power (beam, range_bin) and return the (beam,) bins at which the bottom, or its dead zone, begins."""
        bins = len(ping.setup.range_m)
        everything = np.full(len(ping.setup.beam_angle_rad), bins, dtype=np.int64)
        if ping.setup.fan is Fan.FLAT:
            return everything
        origin = plane.origin[0]
        ahead, down = plane.directions(ping.setup.beam_angle_rad)
        if self._start_u is None:
            self._start_u = origin - BEHIND * STRETCHES * STRETCH_M
        self._go_along(origin)
        if self._pings % EVERY == 0:
            self._learn(ping, origin, ahead, down, power)
        self._pings += 1
        if self._depth is None:
            return everything
        if self._last is None or self._sonar is not ping.setup or self._pings % EVERY == 1:
            self._last, self._sonar = self._cut(ping, origin, ahead, down, everything), ping.setup
        return self._last

    def _go_along(self, origin: float) -> None:
        """Move the line after a boat that drifted off."""
        start = self._start_u or 0.0
        off_m = origin - BEHIND * STRETCHES * STRETCH_M - start
        if abs(off_m) < SLACK_M:
            return
        cells = round(off_m / STRETCH_M)
        self._mean, self._start_u = slid(self._mean, cells, 0, 0.0), start + cells * STRETCH_M
        self._depth = None if self._depth is None else slid(self._depth, cells, 0, np.nan)
        self._last = None

    def _learn(self, ping: Ping, origin: float, ahead: FloatArray, down: FloatArray, power: Float32Array) -> None:
        grid, hits = np.zeros((STRETCHES, STEPS)), np.zeros((STRETCHES, STEPS))
        start = 0.0 if self._start_u is None else self._start_u
        _kernels_ground.ground_map(power, ping.setup.range_m, ahead, down, origin - start, ping.pose.z_m, STRETCH_M, STEP_M, grid, hits)
        seen = hits > 0
        fresh = np.where(seen, grid / np.maximum(hits, 1.0), 0.0)
        first = self._mean == 0.0
        self._mean = np.where(seen, np.where(first, fresh, KEEP * self._mean + (1.0 - KEEP) * fresh), self._mean)
        ahead_m = (np.arange(STRETCHES, dtype=np.float64) + 0.5) * STRETCH_M + start - origin
        self._depth = _line(self._mean, ahead_m=ahead_m, sonar_m=ping.pose.z_m)

    def _cut(self, ping: Ping, origin: float, ahead: FloatArray, down: FloatArray, everything: IntArray) -> IntArray:
        range_m = ping.setup.range_m[::4]
        place = origin + range_m[None, :] * ahead[:, None]
        index = ((place - (self._start_u or 0.0)) / STRETCH_M).astype(np.int64)
        known = (index >= 0) & (index < STRETCHES)
        depth = np.full(place.shape, np.inf)
        if self._depth is not None:
            depth[known] = self._depth[index[known]]
        depth[~np.isfinite(depth)] = np.inf
        limit = depth - MARGIN_M - MARGIN_SHARE * range_m[None, :]
        under = ping.pose.z_m + range_m[None, :] * down[:, None] - limit
        below = under > 0.0
        # A beam that only grazes the ground before the line ends, at a ledge's lip, sees what is over the deep water behind it.
        first = np.where(below.any(axis=1) & ~self._grazes(under, index), 4 * np.argmax(below, axis=1), everything)
        deepest = np.append(self._second_echo_m(), np.inf)[np.where(known, index, STRETCHES)]
        second = (ping.pose.z_m + range_m[None, :] * down[:, None] > deepest) & (down > math.cos(SECOND_RAD))[:, None]
        return np.where(second.any(axis=1), np.minimum(first, 4 * np.argmax(second, axis=1)), first)

    def _second_echo_m(self) -> FloatArray:
        """Return from what depth on [m] there is but the bottom's second echo, in each stretch where the line is not known: infinity far from it."""
        depth = np.full(STRETCHES, np.nan) if self._depth is None else self._depth
        known = np.flatnonzero(np.isfinite(depth))
        if not len(known):
            return np.full(STRETCHES, np.inf)
        at = np.arange(STRETCHES)
        after = np.searchsorted(known, at)
        # The deeper of both sides: a ledge steps down.
        sides = [known[np.maximum(after - 1, 0)], known[np.minimum(after, len(known) - 1)]]
        deeper = np.max([np.where(np.abs(side - at) <= ALMOST_KNOWN, depth[side], -np.inf) for side in sides], axis=0)
        return np.where(np.isfinite(depth) | np.isinf(deeper), np.inf, SECOND_SHARE * deeper)

    def _grazes(self, under: FloatArray, index: IntArray) -> BoolArray:
        """Return which beams (beam,) leave the known line, well before their end, no deeper under it than GRAZES_M."""
        if self._depth is None or not np.isfinite(self._depth).any():
            return np.zeros(len(under), dtype=bool)
        last = int(np.flatnonzero(np.isfinite(self._depth))[-1])
        return (under.max(axis=1) < GRAZES_M) & (index[:, -1] - last > BEYOND)


def _line(mean: FloatArray, *, ahead_m: FloatArray, sonar_m: float) -> FloatArray:
    """Return the depth [m] of the bottom in each stretch of a map of power (stretch, step of depth), not a number where it is not known.

    The stretches lie so far ahead of the sonar (stretch,) [m], which is so deep [m]. The bottom is the deep strong layer: deeper ones weigh a
    little more, for a tree's crown is strong too.
    """
    found = np.full(len(mean), np.nan)
    heard = mean > 0.0
    stretches, steps = (np.flatnonzero(heard.any(axis=axis)) for axis in (1, 0))
    if len(stretches):
        # Most of the map was never heard. About what was, there is room for those about it.
        first = max(min(int(stretches[0]) - ABOUT, len(mean) - 2 * ABOUT - 1), 0)
        box = slice(first, max(int(stretches[-1]) + ABOUT + 1, first + 2 * ABOUT + 1))
        found[box] = _line_of_heard(mean[box, : int(steps[-1]) + 2], ahead_m[box], sonar_m)
    return found


def _line_of_heard(mean: FloatArray, ahead_m: FloatArray, sonar_m: float) -> FloatArray:
    """Return the depth [m] of the bottom in each stretch of a map that was mostly heard, see `_line`."""
    line = _likeliest(mean)
    layer_db, over_water_db = _layers(mean, line)
    strong = layer_db > _least_db(line, ahead_m, sonar_m)
    good = strong & (over_water_db > OVER_WATER_DB)
    good &= _is_like_its_neighbors(layer_db, good)
    heard = (mean > 0.0).any(axis=1)
    width = np.ones(2 * ABOUT + 1)
    agree = np.convolve(good, width, mode="same") >= AGREE * np.maximum(np.convolve(heard, width, mode="same"), ABOUT)
    known = _without_floating(_without_faint_ends(good & agree, layer_db), layer_db, line)
    depth = np.where(known, (line + 0.5) * STEP_M, np.nan)
    known = np.isfinite(depth)
    if known.any():
        depth[depth < LEAST_SHARE * np.median(depth[known])] = np.nan
    # Smoothed, but no farther than it is known: past its last stretch may lie a ledge.
    depth = _bridged(np.where(np.isfinite(depth), _smoothed(depth), np.nan))
    if np.isfinite(depth).sum() < LEAST_KNOWN:
        return np.full(len(mean), np.nan)
    return _bridged(_run_on(depth, line, layer_db, strong & (over_water_db > -DROWNED_DB)))


def _likeliest(mean: FloatArray) -> IntArray:
    """Return the step of depth at which the likeliest line through a map of power (stretch, step of depth) passes each stretch (stretch,)."""
    level = 10.0 * np.log10(np.maximum(mean, 1e-30))
    worth = np.maximum(level, FAINT_DB) - FAINT_DB
    steps = np.arange(mean.shape[1])
    half = steps // 2
    worth = np.where(level[:, half] > level, np.maximum(worth - SECOND_DB, 0.0), worth)
    worth = np.where(_has_another_under(level, half), np.maximum(worth - OVER_ANOTHER_DB, 0.0), worth)
    worth += np.where(worth > 0.0, DEEPER_DB * steps / (STEPS - 1), 0.0)
    worth[:, : int(LEAST_M / STEP_M)] = 0.0
    line = np.zeros(len(mean), np.int64)
    _kernels_ground.likeliest_line(worth, STEP_COST_DB, LEDGE_COST_DB, np.zeros(mean.shape, np.int32), np.zeros((2, mean.shape[1])), line)
    return line


def _has_another_under(level: FloatArray, half: IntArray) -> BoolArray:
    """Return which layers, of levels (stretch, step of depth) [dB], have one hardly weaker a little deeper: fish over the bottom have.

    `half` (step,) is the step at half the depth: a layer much weaker than that one is its second echo, and no bottom.
    """
    first, last = (round(far / STEP_M) for far in UNDER_M)
    own = np.where(level[:, half] > level + SECOND_WEAKER_DB, -np.inf, level)
    under = np.full(level.shape, -np.inf)
    for deeper in range(first, last + 1):
        np.maximum(under[:, :-deeper], own[:, deeper:], out=under[:, :-deeper])
    found: BoolArray = (under > level - UNDER_WEAKER_DB) & (under > FAINT_DB)
    return found


def _layers(mean: FloatArray, line: IntArray) -> tuple[FloatArray, FloatArray]:
    """Return for each stretch the level of the line's layer, and how it stands out from the water over it: (stretch,) each [dB]."""
    at = np.arange(len(line))
    layer = np.max([mean[at, np.clip(line + off, 0, mean.shape[1] - 1)] for off in (-1, 0, 1)], axis=0)
    sums = np.concatenate((np.zeros((len(line), 1)), np.cumsum(mean, axis=1)), axis=1)
    first, last = (np.maximum(line - round(far / STEP_M), 0) for far in (WATER_M[1], WATER_M[0]))
    water = (sums[at, last] - sums[at, first]) / np.maximum(last - first, 1)
    layer_db = 10.0 * np.log10(np.maximum(layer, 1e-30))
    return layer_db, layer_db - 10.0 * np.log10(np.maximum(water, 1e-30))


def _least_db(line: IntArray, ahead_m: FloatArray, sonar_m: float) -> FloatArray:
    """Return how loud the line's layer must be at least to be a bottom (stretch,) [dB].

    Lambert's law: what a square meter returns falls with the square of the sine of the grazing angle; a ping lights the more ground the
    farther off it is, and TVG makes up for the way there and back (the falloff from memory, the figure ours).
    """
    under_m = np.maximum((line + 0.5) * STEP_M - sonar_m, UNDER_SONAR_M)
    found: FloatArray = np.minimum(LEAST_DB, LEAST_NEAR_DB + 20.0 * np.log10(under_m) - 10.0 * np.log10(np.hypot(ahead_m, under_m)))
    return found


def _run_on(depth: FloatArray, line: IntArray, level_db: FloatArray, may: BoolArray) -> FloatArray:
    """Return depths (stretch,) [m] with the line followed on from where it is known, either way, through stretches that `may` be bottom."""
    onward = _followed_on(depth, line, level_db, may)
    back = _followed_on(depth[::-1], line[::-1], level_db[::-1], may[::-1])[::-1]
    return np.where(np.isfinite(onward), onward, back)


def _followed_on(depth: FloatArray, line: IntArray, level_db: FloatArray, may: BoolArray) -> FloatArray:
    """Return depths (stretch,) [m] with the line followed on from the known ones to those after them."""
    found = depth.copy()
    lately: deque[float] = deque(maxlen=RUNS_AFTER)
    beyond, last_m = 0, math.nan
    for at in range(len(depth)):
        if np.isfinite(depth[at]):
            beyond, last_m = 0, depth[at]
        else:
            beyond += 1
            passes_m = (line[at] + 0.5) * STEP_M
            # False as well where it is not known just before.
            near = at > 0 and abs(passes_m - found[at - 1]) <= RUNS_STEP_M and abs(passes_m - last_m) <= RUNS_OFF_M
            if not (near and may[at] and beyond <= RUNS_ON and level_db[at] >= median(lately) - RUNS_WEAKER_DB):
                continue
            found[at] = passes_m
        lately.append(level_db[at])
    return found


def _is_like_its_neighbors(level_db: FloatArray, known: BoolArray) -> BoolArray:
    """Return which stretches are not much weaker than the strongest half of the known ones about them: fish in the shadow of a ledge are."""
    padded = np.pad(np.where(known, level_db, np.nan), NEIGHBORS, constant_values=np.nan)
    about = np.stack([padded[i : i + len(level_db)] for i in range(2 * NEIGHBORS + 1)])
    # Nothing known sorts as nothing heard; the median is that of the known ones.
    about = np.sort(np.where(np.isfinite(about), about, -np.inf), axis=0)[::-1]
    count = np.isfinite(about).sum(axis=0)
    middle = about[np.maximum(count - 1, 0) // 2, np.arange(len(level_db))]
    return known & (level_db > middle - WEAKER_DB)


def _without_faint_ends(known: BoolArray, level_db: FloatArray) -> BoolArray:
    """Return the known stretches without those at either end that are all much weaker than the ones before them."""
    left = known.copy()
    for outward in (np.flatnonzero(known), np.flatnonzero(known)[::-1]):
        for many in range(FAINT_END, 0, -1):
            before, end = outward[:-many][-NEIGHBORS:], outward[-many:]
            if len(before) < ENDS_BEFORE or level_db[end].max() >= np.median(level_db[before]) - WEAKER_DB:
                continue
            if level_db[before[-1]] - level_db[end[0]] > AT_ONCE_DB or abs(end[0] - before[-1]) > GAP:
                left[end] = False
                break
    return left


def _without_floating(known: BoolArray, level_db: FloatArray, line: IntArray) -> BoolArray:
    """Return the known stretches without short pieces that hang over what lies before them, seen from either side: fish past a ledge's lip do.

    A bottom that rises faces the sonar, and is louder than the one before it.
    """
    left = known.copy()
    at = np.flatnonzero(known)
    pieces = np.split(at, np.flatnonzero((np.diff(at) > 1) | (np.abs(np.diff(line[at])) > round(PIECE_STEP_M / STEP_M))) + 1)
    for outward in (pieces, [piece[::-1] for piece in pieces[::-1]]):
        kept: list[int] = []
        for piece in outward:
            before = np.array(kept[-NEIGHBORS:], dtype=np.int64)
            if len(before) >= ENDS_BEFORE and 0 < len(piece) <= FLOATS:
                over_m = (line[before[-LIP:]].max() - line[piece].max()) * STEP_M
                if over_m > OVER_LIP_M and level_db[piece].max() < np.median(level_db[before]) - FLOATS_WEAKER_DB:
                    left[piece] = False
                    continue
            kept += piece.tolist()
    return left


def _bridged(depth: FloatArray) -> FloatArray:
    """Return depths with gaps of up to BRIDGE stretches between known ones filled by straight lines."""
    known = np.flatnonzero(np.isfinite(depth))
    if len(known) < 2:
        return depth
    at = np.arange(len(depth))
    after = np.searchsorted(known, at)
    between = (after > 0) & (after < len(known))
    right, left = known[np.minimum(after, len(known) - 1)], known[np.maximum(after - 1, 0)]
    bridges = between & (right - left <= BRIDGE + 1) & (np.abs(depth[right] - depth[left]) < BRIDGE_M)
    return np.where(np.isnan(depth) & bridges, np.interp(at, known, depth[known]), depth)


def _smoothed(depth: FloatArray) -> FloatArray:
    """Return the running median of five over what is known; gaps stay gaps unless both neighbors know."""
    padded = np.pad(depth, 2, constant_values=np.nan)
    stack = np.stack([padded[i : i + len(depth)] for i in range(5)])
    known = np.isfinite(stack)
    filled = np.where(known, stack, np.inf)
    filled.sort(axis=0)
    count = known.sum(axis=0)
    middle = filled[np.maximum(count - 1, 0) // 2, np.arange(len(depth))]
    return np.where(count >= 3, middle, np.nan)
