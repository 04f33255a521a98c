"""What goes over the pipe between a session's process and the web process: a frozen dataclass a message."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass

from mudlamp.core.errors import MudLampError
from mudlamp.core.records.log import Record
from mudlamp.services.live.messages import Command
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.recordings.picture import Shown

# From the session.


@dataclass(frozen=True, slots=True)
class Ready:
    """The water is made."""


@dataclass(frozen=True, slots=True)
class Failed:
    """The water could not be made, and why."""

    error: MudLampError


@dataclass(frozen=True, slots=True)
class Text:
    """A text for all viewers, and what it is."""

    kind: str
    message: str


@dataclass(frozen=True, slots=True)
class Latest:
    """A text of which only the newest of its kind counts."""

    kind: str
    message: str


@dataclass(frozen=True, slots=True)
class FrameOf:
    """A picture of a side."""

    data: bytes
    side: int


@dataclass(frozen=True, slots=True)
class RowOut:
    """A record for the log."""

    record: Record


@dataclass(frozen=True, slots=True)
class Stages:
    """What a ping costs by stage [ms], and how many came late."""

    mean_ms: Mapping[str, float]
    late: int


@dataclass(frozen=True, slots=True)
class Answer:
    """The answer to a question, by its number."""

    number: int
    answer: Minute | Shown | None


@dataclass(frozen=True, slots=True)
class Alive:
    """The process is there, whether or not there is anything to tell."""


@dataclass(frozen=True, slots=True)
class Over:
    """The session ended in good order."""


Told = Ready | Failed | Text | Latest | FrameOf | RowOut | Stages | Answer | Alive | Over

# To the session.


@dataclass(frozen=True, slots=True)
class Watched:
    """Whether anybody looks on."""

    by_anybody: bool


@dataclass(frozen=True, slots=True)
class Do:
    """Carry out a command."""

    command: Command


@dataclass(frozen=True, slots=True)
class AskMinute:
    """Send the last minute."""

    number: int


@dataclass(frozen=True, slots=True)
class AskPicture:
    """Send what is shown."""

    number: int


@dataclass(frozen=True, slots=True)
class WriterState:
    """How many rows are not committed yet, and whether the database is away."""

    waiting: int
    away: bool


@dataclass(frozen=True, slots=True)
class Stop:
    """End."""


ToSession = Watched | Do | AskMinute | AskPicture | WriterState | Stop


def slot_of(message: Told | ToSession) -> Hashable | None:
    """Return the slot of a message of which only the newest counts; None for one that is never left out."""
    match message:
        case Latest(kind=kind):
            return ("latest", kind)
        case FrameOf(side=side):
            return ("picture", side)
        case Alive() | Stages() | WriterState() | Watched():
            return type(message).__name__
        case _:
            return None
