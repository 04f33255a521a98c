"""Truth files: JSON lines, one per object and ping, and one per reaction."""

import json
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

import orjson

from mudlamp.core.errors import RecordingError
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.scene.truth import TruthRow

_NAMES = {"time_s": "t", "x_m": "x", "y_m": "y", "z_m": "z"}
_FIELDS = tuple(TruthRow.__dataclass_fields__)


def row_line(row: TruthRow) -> bytes:
    """Return a truth row as one line of JSON; figures rounded to what is physical."""
    values = {}
    for name in _FIELDS:
        value = getattr(row, name)
        if name == "radius_m" and value is None:
            continue
        values[_NAMES.get(name, name)] = round(value, 5) if isinstance(value, float) else value
    return orjson.dumps(values) + b"\n"


def event_line(event: ReactionEvent) -> bytes:
    """Return a reaction as one line of JSON."""
    row = {
        "t": round(event.time_s, 5),
        "id": event.fish,
        "kind": "event",
        "event": event.token.value,
        "cause": event.cause.value,
        "shot": event.shot,
    }
    return orjson.dumps(row) + b"\n"


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthEvent:
    """A reaction as a truth file tells it."""

    time_s: float
    id: str
    event: str
    cause: str
    shot: int | None


def read_truth(path: Path) -> tuple[list[TruthRow], list[TruthEvent]]:
    """Return the rows and events of a truth file; raise RecordingError naming the line that is not of it."""
    rows, events = [], []
    back = {short: name for name, short in _NAMES.items()}
    number = 0
    try:
        with path.open() as file:
            for number, line in enumerate(file, start=1):  # noqa: B007 - the error below names it
                values = json.loads(line)
                if values["kind"] == "event":
                    events.append(
                        TruthEvent(time_s=values["t"], id=values["id"], event=values["event"], cause=values["cause"], shot=values["shot"])
                    )
                else:
                    rows.append(TruthRow(**{back.get(name, name): value for name, value in values.items()}))
    except OSError as error:
        raise RecordingError(f"truth file {path} cannot be read ({error.strerror}): it must be a readable .jsonl file") from None
    except (ValueError, KeyError, TypeError) as error:
        raise RecordingError(
            f"truth file {path}: line {number} is not a truth line ({error}): it must be as docs/recordings.md says"
        ) from None
    return rows, events


def write_truth_lines(path: Path, lines: Iterable[bytes]) -> None:
    """Write lines to a truth file, whole or not at all."""
    part = path.with_name(path.name + ".part")
    try:
        with part.open("wb") as file:
            file.writelines(lines)
        part.replace(path)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
