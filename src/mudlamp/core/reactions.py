"""What a fish did about the lure: one list of reactions, and one table of the limits behind the words. `core/judge.py` judges by it.

Source of the definitions: common practice, put in figures (ours).
"""

import math
from dataclasses import dataclass, replace
from enum import StrEnum


class Reaction(StrEnum):
    """The only list of reactions."""

    NOT_SHOWN = "not_shown"
    NO_ANSWER = "no_answer"
    LOOKED = "looked"
    FOLLOWED = "followed"
    BIT = "bit"
    HIT_WEIGHT = "hit_weight"
    BACKED_OFF = "backed_off"
    REFUSED = "refused"
    SPOOKED = "spooked"
    LEFT_WITH_SCHOOL = "left_with_school"


class ReactionCause(StrEnum):
    """What a fish ran from, or toward."""

    LURE = "lure"
    BOAT = "boat"
    SCHOOL = "school"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """The figures behind the words: lengths in m or body lengths (`_l`), times in s.

    `notice_m` is how near a fish takes notice of a lure, `follow_m` how near it follows one: `limits_of` tells them for a kind and a water.
    """

    notice_m: float = 0.61
    missed_by_m: float = 1.39
    no_answer_s: float = 5.0
    no_answer_l: float = 0.5
    look_within_m: float = 1.8
    look_l: float = 0.5
    look_s: float = 3.0
    look_turn_rad: float = math.radians(30.0)
    look_hold_s: float = 0.5
    follow_m: float = 0.91
    follow_s: float = 1.0
    follow_share: float = 0.5
    lure_moves_m_s: float = 0.1
    bite_s: float = 0.3
    back_off_l: float = 1.0
    back_off_l_s: float = 1.5
    refuse_l: float = 0.5
    refuse_s: float = 2.0
    spook_l_s: float = 3.0
    spook_s: float = 0.3
    school_count: int = 3
    school_m: float = 1.5
    school_s: float = 0.7
    repeat_s: float = 6.0
    after_bite_s: float = 4.0
    touch_m: float = 0.0914
    weight_within_m: float = 8.0


# What the simulator's truth goes by. Frozen: a score against a moving truth says nothing. The tracker has limits of its own.
TRUTH_LIMITS = Limits()


class Eye(StrEnum):
    """How far a kind of fish minds a lure: panfish little, bass much, others between."""

    PANFISH = "panfish"
    BASS = "bass"
    OTHER = "other"


# Notice and follow distances [m] in stained or cold water, and in clear and warm water (common practice, no source: 2 ft for crappie there,
# 6 ft for bass here; follow 3 ft and 8 ft).
NOTICE_M = {Eye.PANFISH: (0.61, 1.22), Eye.BASS: (1.22, 1.83), Eye.OTHER: (0.91, 1.52)}
FOLLOW_M = {Eye.PANFISH: (0.91, 1.22), Eye.BASS: (1.52, 2.44), Eye.OTHER: (0.91, 1.83)}
# Where water counts as stained and as clear (Secchi depth [m]), as cold and as warm [deg C] (common practice, no source).
STAINED_M, CLEAR_M = 0.6, 2.4
COLD_DEGC, WARM_DEGC = 8.0, 18.0


def limits_of(eye: Eye, *, secchi_m: float, temperature_degc: float) -> Limits:
    """Return the limits of truth for a kind of fish in a water: distances grow from the first to the second figure of the tables with both

    clarity and warmth.
    """
    clear = min(max((secchi_m - STAINED_M) / (CLEAR_M - STAINED_M), 0.0), 1.0)
    warm = min(max((temperature_degc - COLD_DEGC) / (WARM_DEGC - COLD_DEGC), 0.0), 1.0)
    share = clear * warm
    notice, follow = (low + share * (high - low) for low, high in (NOTICE_M[eye], FOLLOW_M[eye]))
    return replace(TRUTH_LIMITS, notice_m=notice, follow_m=follow, look_within_m=max(TRUTH_LIMITS.look_within_m, follow))


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionEvent:
    """A reaction: when it was fulfilled [s], whose, what, why, in which shot; `visible`, of a true one, whether a perfect picture shows it."""

    time_s: float
    fish: str
    token: Reaction
    cause: ReactionCause
    shot: int | None
    visible: bool = False
