"""What a session tells its viewers beside pictures: a frozen dataclass a message, each a JSON object with its `type`."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import orjson

from mudlamp.core.casting.lure_on_line import ROD_AHEAD_M, ROD_HEIGHT_M
from mudlamp.core.controls import Value
from mudlamp.core.setup import Window
from mudlamp.services.water.role import Outline
from mudlamp.services.words.readings import Difference, Worded


@dataclass(frozen=True, slots=True, kw_only=True)
class PaneTold:
    """A picture's controls by their edge names, what it shows of the window, its ink's colors, what auto does and why, Quieting settled [%]."""

    controls: Mapping[str, Value]
    window: Window
    ink: Sequence[Sequence[int]]
    auto: Sequence[str]
    why: Mapping[str, str]
    settled_pct: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ScreenTold:
    """The angler's own screen: pixels across and down."""

    width_px: int
    height_px: int


@dataclass(frozen=True, slots=True, kw_only=True)
class RodTold:
    """Where the rod tip is: ahead of the bow and above the water [m]."""

    ahead_m: float = ROD_AHEAD_M
    up_m: float = ROD_HEIGHT_M


@dataclass(frozen=True, slots=True, kw_only=True)
class StateTold:
    """How a session stands: what a page must know of the water to draw it, the transducer's controls, the pictures."""

    type: Literal["state"] = "state"
    session: str
    revision: int
    acknowledged: Sequence[int]
    scene: str
    title: str
    source: str
    fan: str
    tilt_rad: float
    fan_rad: float
    thickness_rad: float
    depth_m: float
    farthest_m: float
    window: Window
    scripted: bool
    # The head that is tied on, as it is sold; empty without a rod.
    head: str
    controls: Mapping[str, Value]
    panes: Sequence[PaneTold]
    pace: str
    fast: bool
    screen: ScreenTold
    rod: RodTold = RodTold()


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackTold:
    """A track as the page draws it: `other_m` is down (or, under a flat fan, to the right); `called` is the word on its mark, `who`, `size` and `facts` are lines

    about it, `size_in` its length where that is sure, `guess_in` what the angler guessed it, `guess` how far off that is, `side` the interval of how far right of the middle it is [m], `said` what the angler called it.
    """

    id: int
    kind: str
    called: str
    who: str
    odds: float
    ahead_m: float
    other_m: float
    range_m: float
    angle_rad: float
    length_in: float
    size_in: int | None
    size: str
    guess_in: float | None
    guess: str
    facts: str
    side: Sequence[float] | None
    said: str | None
    toward: Sequence[float]
    coasting: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class GroupTold:
    """A school or a cloud of bait as the page draws it: its middle, its reach [m], and the words on it; `members` are the fish in it.

    `did` is whether it has just done something worth a ring in any case.
    """

    ahead_m: float
    other_m: float
    radius_m: float
    words: str
    members: Sequence[int]
    did: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotTold:
    """A spot that the fan looks at: where it is ahead and to the right, how deep (null: not known), how sure that is across [m], and its words."""

    id: str
    words: str
    ahead_m: float
    across_m: float
    depth_m: float | None
    doubt_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthTold:
    """An object that is really there: where, how large, whether any picture could show it, whether the present one has erased it."""

    id: str
    kind: str
    species: str | None
    across_m: float
    range_m: float
    angle_rad: float
    radius_m: float | None
    length_m: float | None
    heading_rad: float
    seen: bool
    erased: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TracksTold:
    """What goes with a ping: what is followed, what is really there, what the lure does; `guessing` is how the angler's guesses run."""

    type: Literal["tracks"] = "tracks"
    ping: int
    time_s: float
    tracks: Sequence[TrackTold]
    schools: Sequence[GroupTold]
    bait: Sequence[GroupTold]
    spots: Sequence[SpotTold]
    lure: str
    heading_rad: float
    truth: Sequence[TruthTold]
    cover: Sequence[Outline]
    shot: int | None
    guessing: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class ScreenAnswer:
    """The angler's own screen in words: its two scales, and the lure on it."""

    across_px_ft: float
    down_px_ft: float
    stretch: float
    shape: str
    lure: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CastTold:
    """The cast for a fish: what to do, where the lure hits the water, how far off a throw may be, how far to a side it is still seen [m],

    and its way down, ahead and deep [m].
    """

    id: int
    said: str
    splash_m: float
    ring_m: float
    tolerance_m: float
    path: Sequence[tuple[float, float]]


@dataclass(frozen=True, slots=True, kw_only=True)
class CallTold:
    """What to do now about the fish that the lure is at."""

    id: int
    said: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ReadingsTold:
    """The readings in words, what is wrong with the pings (empty: nothing), what the settings hide, the twin's table, the screen, and how the session does."""

    type: Literal["readings"] = "readings"
    readings: Sequence[Worded]
    trouble: str
    casts: Sequence[CastTold]
    call: CallTold | None
    erased: str
    anything_erased: bool
    twin: Sequence[Difference]
    screen: ScreenAnswer
    settled_pct: Sequence[int]
    waiting: int
    away: bool
    ping_hz: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionTold:
    """What a fish did."""

    type: Literal["reaction"] = "reaction"
    id: str
    time_s: float
    track: int
    token: str
    cause: str
    confidence: float
    shot: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitTold:
    """What a cloud of bait did, and in words where and why."""

    type: Literal["bait"] = "bait"
    time_s: float
    doing: str
    said: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PlaceTold:
    """Where in the last minute the picture is: a share of it, how long it is [s], and where in it fish did something."""

    type: Literal["place"] = "place"
    share: float
    seconds: float
    acted: Sequence[float]


@dataclass(frozen=True, slots=True, kw_only=True)
class ChangeTold:
    """A control, by its edge name, at a value."""

    control: str
    value: Value


@dataclass(frozen=True, slots=True, kw_only=True)
class RemedyTold:
    """The cheapest change that brings back what the settings hide, in words and as a change; empty where there is none to tell."""

    type: Literal["remedy"] = "remedy"
    words: str
    change: ChangeTold | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PriceTold:
    """What a control costs now, in words."""

    type: Literal["price"] = "price"
    control: str
    now: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RefusedTold:
    """A command that was refused, and why."""

    type: Literal["refused"] = "refused"
    message: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EndedTold:
    """The session ended."""

    type: Literal["ended"] = "ended"
    state: str


Message = StateTold | TracksTold | ReadingsTold | ReactionTold | BaitTold | PlaceTold | RemedyTold | PriceTold | RefusedTold | EndedTold


def text_of(message: Message) -> str:
    """Return a message as JSON."""
    return orjson.dumps(message, option=orjson.OPT_SERIALIZE_NUMPY).decode()
