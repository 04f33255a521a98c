"""What crosses the line between the web process and a search's own."""

import uuid
from dataclasses import dataclass
from pathlib import Path

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.scene.model import Scene
from mudlamp.core.searching.search import ViewSetting


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchOrder:
    """What a search begins with: which water, where its columns are kept, where the boat starts [m] and heads [rad]."""

    key: uuid.UUID
    water: str
    seed: int
    folder: Path
    views: tuple[ViewSetting, ...]
    band_m: tuple[float, float]
    run_dir: Path


@dataclass(frozen=True, slots=True)
class SetPace:
    """Go on so many times as fast as the water's time; 0 pauses."""

    pace: float


@dataclass(frozen=True, slots=True)
class SetPath:
    """Follow these places [m]."""

    path: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class SetSpeed:
    """Idle so fast [m/s]."""

    speed_m_s: float


@dataclass(frozen=True, slots=True)
class SetViews:
    """Open these views."""

    views: tuple[ViewSetting, ...]


@dataclass(frozen=True, slots=True)
class SetPoints:
    """Make points of the water under the boat for the 3-D view, to this range [m], or no more (0)."""

    reach_m: float


@dataclass(frozen=True, slots=True)
class SetBand:
    """Search this depth band [m]."""

    band_m: tuple[float, float]


@dataclass(frozen=True, slots=True)
class AskWindow:
    """Send the water about a place [m] as a scene, as it is now, the boat stopped there and heading so [rad]."""

    number: int
    x_m: float
    y_m: float
    heading_rad: float


@dataclass(frozen=True, slots=True)
class AskTruth:
    """Say what is within so far [m] of a place [m] (x, y) now."""

    number: int
    x_m: float
    y_m: float
    within_m: float


@dataclass(frozen=True, slots=True)
class AskScan:
    """Turn the all-round scan once, to a Reach [m]."""

    number: int
    reach_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Scan:
    """A turn of the all-round scan: levels (step, range_bin) [dB] clockwise from the bow, ranges [m], what the built-in gain takes the water to take."""

    levels_db: Float32Array
    range_m: FloatArray
    absorption_db_m: float


@dataclass(frozen=True, slots=True)
class Stop:
    """End."""


ToSearch = SetPace | SetPath | SetSpeed | SetViews | SetPoints | SetBand | AskWindow | AskTruth | AskScan | Stop


@dataclass(frozen=True, slots=True)
class Epoch:
    """From a ping on, a view sounds like this; a view that is closed has none."""

    from_number: int
    setting: ViewSetting


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchState:
    """How a search stands: its newest ping, time [s], pace it keeps, share of the band that is seen, what is left of its path [m], the path itself."""

    newest: int
    time_s: float
    pace: float
    kept_pace: float
    ping_hz: float
    share: float
    left_m: float
    path: tuple[tuple[float, float], ...]
    views: tuple[ViewSetting, ...]
    epochs: tuple[Epoch, ...]
    aground: bool
    is_full: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """Something that is really there: what it is, how many, place and depth [m], how long a fish of it is [m]."""

    what: str
    count: int
    x_m: float
    y_m: float
    z_m: float
    size_m: float


@dataclass(frozen=True, slots=True)
class Answer:
    """An answer to a question."""

    number: int
    answer: Scene | Scan | tuple[Thing, ...]


@dataclass(frozen=True, slots=True)
class Broken:
    """It could not begin, and why."""

    error: str
