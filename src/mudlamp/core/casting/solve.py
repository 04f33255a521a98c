"""The cast solver: from where a fish is to where to throw, how long to count, how far to stay away. All SI; sources beside each figure."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.casting import habit as habits
from mudlamp.core.casting.fall import REEL_M_S, Fall, level_reel, risen_depth_m, slack_fall, tight_fall
from mudlamp.core.casting.heads import SOLD_OZ
from mudlamp.core.casting.lure_on_line import FLIGHT_S
from mudlamp.core.casting.lures import LureKind, tackle
from mudlamp.core.errors import DomainError, require_range
from mudlamp.core.scene.species import Species
from mudlamp.core.units import OUNCE_KG
from mudlamp.core.water.clarity import Clarity


class Technique(StrEnum):
    """Ways to bring a lure to a fish."""

    DROP = "drop"
    PITCH = "pitch"
    CAST = "cast"
    MINNOW = "minnow"
    PAUSE = "pause"
    FLOAT = "float"
    DOCK = "dock"


class Mood(StrEnum):
    """How fish are."""

    WARY = "wary"
    USUAL = "usual"
    ACTIVE = "active"


RANGE_M, DEPTH_M, LONGEST_CAST_M = (0.5, 60.0), (0.3, 60.0), 30.0
SPARE_DB = (0.0, 60.0)
# Without a card a lure is taken to stand so much over what hides it: the edge of the half-power beam.
ASSUMED_SPARE_DB = 3.0
HALF_POWER_DB = 3.0
SPEED_M_S, WIND_M_S, CURRENT_M_S = (0.0, 3.0), (0.0, 25.0), (0.0, 2.0)
# Bring it above and in front, never through, never under (common practice): so far over a fish, so far ahead of it.
ABOVE_M = 0.45
AHEAD_M = {Species.CRAPPIE: 0.6, Species.LARGEMOUTH: 1.4}
USUAL_AHEAD_M = 0.9
# A still fish may face either way: past it by so much, and drawn over it, a lure comes before its nose in either case (ours).
PAST_M = {Species.CRAPPIE: 0.45, Species.LARGEMOUTH: 1.15}
USUAL_PAST_M = 0.6
# A tight line that takes so many times as long as a slack one is too steep to swing on (ours).
TOO_STEEP = 1.6
# Who counts longer than this drifts off the fish meanwhile (ours) [s].
LONG_FALL_S = 20.0
# So near the surface a lure is reeled at once [m]; its start is settled in so many halvings.
AT_ONCE_M, START_STEPS = 0.05, 24
# From here on a fish is cast past and the lure drawn over it, by this run (common practice: 25 ft away cast 40, 35 away not quite 50).
CLOSE_M, RUN_M = 5.5, 1.8
# Ways to fish that draw the lure over the fish on a tight line.
DRAWN = (Technique.CAST, Technique.MINNOW)
# Where they meet hangs on when, and when on where: so many rounds settle it.
MEETING_STEPS = 4
# Nearer than a rod's reach a lure is just lowered.
DROP_M = 4.3
# Water at the surface goes with the wind at some 3 % of its speed (common practice in oceanography); a sinking lure feels half of it.
WIND_DRIFT = 0.015
# Stand-off by the fish's depth: (depth, how far to stay) [m]. Common practice: 6 ft down stay 50 ft off; deep, a 14 ft rod's reach.
STAND_OFF = ((1.8, 15.2), (6.5, 3.7))
COLD_DEGC = 8.0
CLARITY_FACTOR = {Clarity.CLEAR: 1.2, Clarity.STAINED: 1.0, Clarity.MURKY: 0.85, Clarity.MUDDY: 0.75}
MOOD_FACTOR = {Mood.WARY: 1.25, Mood.USUAL: 1.0, Mood.ACTIVE: 0.85}
# Waves hide the boat from here on.
RIPPLE_M_S, RIPPLE_FACTOR = 3.0, 0.85
LEAST_OFF_M = 3.0
# So near a fish is under the boat.
UNDER_THE_BOAT_M = 1.5
# How anglers cast (starting values of ours, until theirs are learned): spread of distance as a share of it, and of direction.
DISTANCE_ERROR, DIRECTION_ERROR_RAD = 0.06, math.radians(3.0)
RING_HOLDS = 0.8
# A fish holds course and speed for a while; beyond it its place is less and less sure, by this share of its speed.
HOLDS_S, COURSE_SPREAD = 6.0, 0.5
# Seconds that a pause bait is left, by the water's temperature (common practice: the colder the longer).
PAUSES = ((4.0, 15.0), (8.0, 8.0), (12.0, 5.0), (18.0, 3.0), (25.0, 1.5))
# A bait shot under a dock flies off a loaded rod: it can hang so much shorter than the rod.
DOCK_SHORTER_M = 0.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Drift:
    """A wind or current: its speed [m/s], and where it goes, from the way to the fish, clockwise [rad]."""

    speed_m_s: float = 0.0
    toward_rad: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CastQuery:
    """What is asked: where the fish is, what it does, what is tied on, the water. Lengths [m], angles [rad], 0 straight to the fish.

    `is_slant`: the unit shows the range along the beam, else along the water. `heading_rad`: which way the fish swims, or faces where it
    holds still, 0 straight away, clockwise. `sink_m_s`: the angler's own timed drops, where there are any. `slack`: whether the line falls
    slack; None: as the technique has it, and slack where a tight one is too steep. `habit`: the angler's own casting error.
    """

    range_m: float
    depth_m: float
    head_kg: float
    lure: LureKind = LureKind.JIG
    sink_m_s: float | None = None
    technique: Technique | None = None
    is_slant: bool = True
    transducer_m: float = 0.4
    thickness_rad: float = math.radians(18.0)
    spare_db: float | None = None
    species: Species = Species.CRAPPIE
    above_m: float = ABOVE_M
    rod_m: float = 2.1
    rod_tip_m: float = 1.5
    slack: bool | None = None
    speed_m_s: float | None = None
    heading_rad: float | None = None
    wind: Drift = Drift()
    current: Drift = Drift()
    clarity: Clarity = Clarity.STAINED
    temperature_degc: float | None = None
    mood: Mood = Mood.USUAL
    habit: habits.Habit = habits.NONE


@dataclass(frozen=True, slots=True, kw_only=True)
class Lead:
    """Leading a moving fish: how far ahead of where it is now the lure must land [m], and from the way to the fish to the right [m]; how

    long until they meet [s], how large the ring is that holds four of five meetings [m], how long the cast can still wait [s]; `in_time`
    is false where the fish is at the boat before the lure is down, `assumed_course` says that nobody told which way it swims.
    """

    ahead_m: float
    right_m: float
    meet_s: float
    ring_m: float
    wait_s: float
    in_time: bool
    assumed_course: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Retrieve:
    """How to bring it on: line in [m/s] over the fish, and how deep the lure is then when it comes near the rod [m]."""

    reel_m_s: float
    near_depth_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Cast:
    """The answer. Lengths [m], times [s]; `past_m` is how far beyond the fish, `right_m` how far to the right of where it is now;

    `aim_m` and `aim_right_m` are where to aim for that, with the angler's own casting error; `run_m` is how far the lure is then drawn to be over the fish,

    from `down_m` deep to `hold_m`: the same, or less where it still falls as it is reeled; `heavier_kg` is a head that falls in good time where this one does not.
    """

    technique: Technique
    horizontal_m: float
    hold_m: float
    down_m: float
    cast_m: float
    past_m: float
    right_m: float
    aim_m: float
    aim_right_m: float
    sink_m_s: float
    fall: Fall
    tolerance_m: float
    spare_db: float
    assumed_spare: bool
    ring_m: float
    stand_off_m: float
    too_close: bool
    lead: Lead | None
    retrieve: Retrieve | None
    pause_s: float | None
    stop_knot_m: float | None
    free_line_m: float | None
    within_reach: bool
    run_m: float
    heavier_kg: float | None


def solve(query: CastQuery) -> Cast:
    """Return the cast for a fish; raise DomainError for figures that cannot be."""
    _check(query)
    horizontal = horizontal_m(query)
    technique = query.technique or _technique(horizontal)
    hold = max(query.depth_m - query.above_m, 0.1)
    sink = query.sink_m_s if query.sink_m_s is not None else tackle(kind=query.lure, head_kg=query.head_kg).sink_m_s
    run = _run_m(query, technique)
    meeting = Meeting(away_m=horizontal, right_m=0.0, ahead_m=0.0, seconds=0.0)
    for _ in range(MEETING_STEPS):
        end = meeting.away_m + run
        down = _down_m(query, end, meeting.away_m, hold, sink) if run else hold
        fall = _fall(query, technique, end, down, sink)
        meeting = _meeting(query, horizontal, FLIGHT_S + fall.seconds)
    along, aside = _drift_m(query, fall.seconds)
    cast = max(end + fall.toward_rod_m - along, 0.0)
    right = meeting.right_m - aside
    aim = query.habit.aim(ahead_m=cast, right_m=right)
    spare = ASSUMED_SPARE_DB if query.spare_db is None else query.spare_db
    stand_off = stand_off_m(query)
    return Cast(
        technique=technique,
        horizontal_m=horizontal,
        hold_m=hold,
        down_m=down,
        cast_m=cast,
        past_m=cast - horizontal,
        right_m=right,
        aim_m=aim[0],
        aim_right_m=aim[1],
        sink_m_s=sink,
        fall=fall,
        tolerance_m=side_tolerance_m(range_m=_slant_m(query, horizontal), thickness_rad=query.thickness_rad, spare_db=spare),
        spare_db=spare,
        assumed_spare=query.spare_db is None,
        ring_m=_ring_m(cast, 0.0),
        stand_off_m=stand_off,
        too_close=horizontal < stand_off,
        lead=_lead(query, horizontal, meeting, cast),
        retrieve=_retrieve(query, end, horizontal, hold, down, sink) if run else None,
        pause_s=_by_table(PAUSES, 15.0 if query.temperature_degc is None else query.temperature_degc)
        if technique is Technique.PAUSE
        else None,
        stop_knot_m=hold if technique is Technique.FLOAT else None,
        free_line_m=min(hold, max(query.rod_m - DOCK_SHORTER_M, 0.1)) if technique is Technique.DOCK else None,
        within_reach=cast <= LONGEST_CAST_M,
        run_m=run,
        heavier_kg=_heavier_kg(query, technique, end, down, sink) if fall.seconds > LONG_FALL_S else None,
    )


def _run_m(query: CastQuery, technique: Technique) -> float:
    """Return how far past the fish a lure comes down that is then drawn over it [m]; 0 where it comes down right before it."""
    if technique in DRAWN:
        return RUN_M
    knows_front = query.speed_m_s or query.heading_rad is not None
    return 0.0 if knows_front or technique not in (Technique.DROP, Technique.PITCH) else PAST_M.get(query.species, USUAL_PAST_M)


def _fall(query: CastQuery, technique: Technique, end: float, down: float, sink: float) -> Fall:
    """Return the fall to where the count ends: tight for what is drawn, unless that is too steep, else slack; or as the angler says."""
    slack = slack_fall(depth_m=down, sink_m_s=sink)
    if query.slack or (query.slack is None and technique not in DRAWN):
        return slack
    tight = tight_fall(away_m=end, depth_m=down, rod_tip_m=query.rod_tip_m, sink_m_s=sink)
    return slack if query.slack is None and tight.seconds > TOO_STEEP * slack.seconds else tight


def _down_m(query: CastQuery, end: float, over: float, hold: float, sink: float) -> float:
    """Return how deep the count ends [m] for a lure that is drawn from `end` to `over` the fish: at the height that it is held at, or so

    much less as it sinks on the way where it is reeled as fast as one reels and that is too slow to hold it level.
    """
    level = level_reel(away_m=max(over, 0.5), depth_m=hold, rod_tip_m=query.rod_tip_m, sink_m_s=sink)
    if level.reel_m_s <= REEL_M_S:
        return hold
    low, high = min(AT_ONCE_M, hold), hold
    for _ in range(START_STEPS):
        middle = 0.5 * (low + high)
        there = risen_depth_m(from_m=end, to_m=over, depth_m=middle, rod_tip_m=query.rod_tip_m, sink_m_s=sink, reel_m_s=REEL_M_S)
        low, high = (middle, high) if there < hold else (low, middle)
    return high


def _heavier_kg(query: CastQuery, technique: Technique, end: float, down: float, sink: float) -> float | None:
    """Return the lightest head that falls in good time [kg], as far from its figure as the one tied on falls by the angler's own drops; None

    where there is none.
    """
    own = sink / tackle(kind=query.lure, head_kg=query.head_kg).sink_m_s
    heads = (float(ounces) * OUNCE_KG for ounces in SOLD_OZ if float(ounces) * OUNCE_KG > query.head_kg)
    for head in heads:
        faster = own * tackle(kind=query.lure, head_kg=head).sink_m_s
        if _fall(query, technique, end, down, faster).seconds <= LONG_FALL_S:
            return head
    return None


def horizontal_m(query: CastQuery) -> float:
    """Return how far along the water a fish is [m]; raise DomainError where it would be deeper under the transducer than it is away."""
    if not query.is_slant:
        return query.range_m
    under = query.depth_m - query.transducer_m
    if abs(under) > query.range_m:
        raise DomainError(
            f"depth_m is {query.depth_m:g}: a fish {query.range_m:g} m away along the beam can be {query.range_m + query.transducer_m:.4g} m deep at most"
        )
    return math.sqrt(query.range_m**2 - under**2)


def _slant_m(query: CastQuery, horizontal: float) -> float:
    return query.range_m if query.is_slant else math.hypot(horizontal, query.depth_m - query.transducer_m)


def side_tolerance_m(*, range_m: float, thickness_rad: float, spare_db: float) -> float:
    """Return how far to either side of the fan's plane a lure is still seen [m]: R tan(half thickness x sqrt(spare / 3)).

    Source: a Gaussian beam, 3 dB down two-way at half its thickness.
    """
    angle = min(0.5 * thickness_rad * math.sqrt(spare_db / HALF_POWER_DB), math.radians(80.0))
    return range_m * math.tan(angle)


def stand_off_m(query: CastQuery) -> float:
    """Return how near the boat may come to a fish [m]: by its depth, then by season, clarity, waves and mood. Source: common practice."""
    off = _by_table(STAND_OFF, query.depth_m)
    if query.temperature_degc is not None and query.temperature_degc < COLD_DEGC:
        off = min(off, STAND_OFF[-1][1] + 0.3 * (off - STAND_OFF[-1][1]))
    off *= CLARITY_FACTOR[query.clarity] * MOOD_FACTOR[query.mood]
    if query.wind.speed_m_s > RIPPLE_M_S:
        off *= RIPPLE_FACTOR
    return max(off, LEAST_OFF_M)


def _technique(horizontal: float) -> Technique:
    return Technique.DROP if horizontal <= DROP_M else Technique.PITCH if horizontal <= CLOSE_M else Technique.CAST


def _drift_m(query: CastQuery, seconds: float) -> tuple[float, float]:
    """Return how far water carries a falling lure: away along the way to the fish, and to its right [m]."""
    along = aside = 0.0
    for drift, share in ((query.wind, WIND_DRIFT), (query.current, 1.0)):
        along += share * drift.speed_m_s * seconds * math.cos(drift.toward_rad)
        aside += share * drift.speed_m_s * seconds * math.sin(drift.toward_rad)
    return along, aside


@dataclass(frozen=True, slots=True, kw_only=True)
class Meeting:
    """Where fish and lure meet: how far from the boat, how far right of the way to where the fish is now, how far ahead of it [m], when [s]."""

    away_m: float
    right_m: float
    ahead_m: float
    seconds: float


def _meeting(query: CastQuery, horizontal: float, seconds: float) -> Meeting:
    """Return the meeting so many seconds on: where the fish will be, and a little ahead; where it is, if nothing is said of its way."""
    if not query.speed_m_s and query.heading_rad is None:
        return Meeting(away_m=horizontal, right_m=0.0, ahead_m=0.0, seconds=seconds)
    heading = query.heading_rad or 0.0
    ahead = (query.speed_m_s or 0.0) * seconds + AHEAD_M.get(query.species, USUAL_AHEAD_M)
    right = ahead * math.sin(heading)
    return Meeting(away_m=math.hypot(horizontal + ahead * math.cos(heading), right), right_m=right, ahead_m=ahead, seconds=seconds)


def _lead(query: CastQuery, horizontal: float, meeting: Meeting, cast: float) -> Lead | None:
    """Return how to lead the fish; None where it is not said to move."""
    if not query.speed_m_s:
        return None
    unsure = COURSE_SPREAD * query.speed_m_s * max(meeting.seconds - HOLDS_S, 0.0)
    wait = _wait_s(query, horizontal, meeting.seconds, query.heading_rad or 0.0)
    return Lead(
        ahead_m=meeting.ahead_m,
        right_m=meeting.right_m,
        meet_s=meeting.seconds,
        ring_m=_ring_m(cast, unsure),
        wait_s=wait,
        in_time=_in_time(query, horizontal, meeting),
        assumed_course=query.heading_rad is None,
    )


def _ring_m(cast: float, unsure: float) -> float:
    """Return the radius [m] of the ring that holds four of five casts at a fish whose place is unsure by so much each way [m].

    Source: a round normal spread, sqrt(-2 ln 0.2) of its standard deviation either way; that of a cast is the root mean square of its two.
    """
    either_way = math.hypot(DISTANCE_ERROR * cast, DIRECTION_ERROR_RAD * cast) / math.sqrt(2.0)
    return math.sqrt(-2.0 * math.log(1.0 - RING_HOLDS)) * math.hypot(either_way, unsure)


def _in_time(query: CastQuery, horizontal: float, meeting: Meeting) -> bool:
    """Return whether the way to the meeting stays out of the boat's reach."""
    heading = query.heading_rad or 0.0
    # How far along its way the fish comes nearest to the boat, and how near that is.
    nearest_at = -horizontal * math.cos(heading)
    nearest = abs(horizontal * math.sin(heading)) if 0.0 < nearest_at < meeting.ahead_m else min(horizontal, meeting.away_m)
    return nearest >= UNDER_THE_BOAT_M


def _wait_s(query: CastQuery, horizontal: float, meet_s: float, heading: float) -> float:
    """Return how long the cast can wait [s]: until the meeting would be out of reach, or nearer than the boat may come."""
    speed = query.speed_m_s or 0.0
    near, far = min(stand_off_m(query), horizontal), LONGEST_CAST_M
    wait, step = 0.0, 0.25
    while wait < 60.0:
        way = speed * (wait + step + meet_s)
        away = math.hypot(horizontal + way * math.cos(heading), way * math.sin(heading))
        if not near <= away <= far:
            break
        wait += step
    return wait


def _retrieve(query: CastQuery, end: float, horizontal: float, hold: float, down: float, sink: float) -> Retrieve:
    """Return the reeling that is level over the fish, and how deep the lure is when it comes within a rod's length."""
    level = level_reel(away_m=max(horizontal, 0.5), depth_m=hold, rod_tip_m=query.rod_tip_m, sink_m_s=sink)
    reel = min(level.reel_m_s, REEL_M_S)
    near = risen_depth_m(from_m=end, to_m=query.rod_m, depth_m=down, rod_tip_m=query.rod_tip_m, sink_m_s=sink, reel_m_s=reel)
    return Retrieve(reel_m_s=reel, near_depth_m=near)


def _by_table(table: tuple[tuple[float, float], ...], at: float) -> float:
    """Return the value of a table at a place, straight between its rows and level beyond them."""
    return float(np.interp(at, [row[0] for row in table], [row[1] for row in table]))


def _check(query: CastQuery) -> None:
    require_range("range_m", query.range_m, *RANGE_M, "m")
    require_range("depth_m", query.depth_m, *DEPTH_M, "m")
    require_range("above_m", query.above_m, 0.0, 3.0, "m")
    require_range("rod_m", query.rod_m, 0.5, 6.0, "m")
    require_range("rod_tip_m", query.rod_tip_m, 0.0, 5.0, "m")
    require_range("wind_m_s", query.wind.speed_m_s, *WIND_M_S, "m/s")
    require_range("current_m_s", query.current.speed_m_s, *CURRENT_M_S, "m/s")
    if query.speed_m_s is not None:
        require_range("speed_m_s", query.speed_m_s, *SPEED_M_S, "m/s")
    if query.spare_db is not None:
        require_range("spare_db", query.spare_db, *SPARE_DB, "dB")
    if query.sink_m_s is not None:
        require_range("sink_m_s", query.sink_m_s, 0.02, 3.0, "m/s")
