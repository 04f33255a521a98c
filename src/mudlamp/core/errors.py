"""The errors of the core, in one tree.

MudLampError
├── DomainError (ValueError)      a number or choice outside what a function accepts
│   └── SceneError                a scene that cannot be built; names its JSON path
├── RecordingError (ValueError)   a file that is not a recording this program can replay
├── MissingError                  a thing that is not there, or not the asker's
├── ConflictError                 a thing that another hand changed in the meantime
└── UnavailableError              something that exists but is not available now (a full house, a lost database)
"""

import math
from collections.abc import Collection
from typing import TypeVar

Choice = TypeVar("Choice")


class MudLampError(Exception):
    """The root of all errors raised on purpose."""


class DomainError(MudLampError, ValueError):
    """A value outside its allowed range: the message names the field, the value and the range."""


class SceneError(DomainError):
    """A scene description that cannot be built."""


class RecordingError(MudLampError, ValueError):
    """A file that is broken, foreign or too large to be replayed."""


class MissingError(MudLampError):
    """A thing that is not there, or not the asker's: the message is for people."""


class ConflictError(MudLampError):
    """A thing that was changed elsewhere since it was read."""


class UnavailableError(MudLampError):
    """A thing that exists but is not available right now."""


def require_range(name: str, value: float, low: float, high: float, unit: str = "") -> float:
    """Return `value` as a float where it lies in [low, high]; raise DomainError where it does not, or is NaN."""
    if not (math.isfinite(value) and low <= value <= high):
        shown_unit = f" {unit}" if unit else ""
        raise DomainError(f"{name} is {value:g}{shown_unit}: it must be {low:g} to {high:g}{shown_unit}")
    return float(value)


def require_choice(name: str, value: Choice, choices: Collection[Choice]) -> Choice:
    """Return `value` where it is one of `choices`; raise DomainError where it is not."""
    if value not in choices:
        raise DomainError(f"{name} is {value}: it must be one of {', '.join(str(choice) for choice in choices)}")
    return value
