"""Truth files: JSON lines, one per object and ping, and one per reaction."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import orjson

from mudlamp.core.errors import RecordingError
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.scene.truth import TruthRow

_NAMES = {"time_s": "t", "x_m": "x", "y_m": "y", "z_m": "z"}
_LONG = {short: name for name, short in _NAMES.items()}
_FIELDS = tuple(TruthRow.__dataclass_fields__)


def row_line(row: TruthRow) -> bytes:
    """Return a truth row as one line of JSON; figures rounded to what is physical."""
    values = {}
    for name in _FIELDS:
        value = getattr(row, name)
        if name in ("radius_m", "side_on") and value is None:
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
        "visible": event.visible,
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
    visible: bool


def read_truth(path: Path) -> tuple[list[TruthRow], list[TruthEvent]]:
    """Return the rows and events of a truth file; raise RecordingError naming the line that is not of it."""
    try:
        with path.open("rb") as file:
            return read_truth_lines(file, str(path))
    except OSError as error:
        raise RecordingError(f"truth file {path} cannot be read ({error.strerror}): it must be a readable .jsonl file") from None


def read_truth_lines(lines: Iterable[bytes], shown: str) -> tuple[list[TruthRow], list[TruthEvent]]:
    """Return the rows and events of a truth file's lines; raise RecordingError naming the file and the line that is not of it."""
    rows: list[TruthRow] = []
    events: list[TruthEvent] = []
    for number, line in enumerate(lines, start=1):
        try:
            values = orjson.loads(line)
            if values["kind"] == "event":
                events.append(_event(values))
            else:
                rows.append(_row(values))
        except (ValueError, KeyError, TypeError) as error:
            raise RecordingError(
                f"truth file {shown}: line {number} is not a truth line ({str(error)[:80]}): it must be as docs/recordings.md says"
            ) from None
    return rows, events


def _event(values: Mapping[str, Any]) -> TruthEvent:
    return TruthEvent(
        time_s=values["t"],
        id=values["id"],
        event=values["event"],
        cause=values["cause"],
        shot=values["shot"],
        visible=values.get("visible", False),
    )


def _row(values: Mapping[str, Any]) -> TruthRow:
    return TruthRow(**{_LONG.get(name, name): value for name, value in values.items()})


def write_truth_lines(path: Path, lines: Iterable[bytes]) -> None:
    """Write lines to a truth or hand file, whole or not at all."""
    part = path.with_name(path.name + ".part")
    try:
        with part.open("wb") as file:
            file.writelines(lines)
        part.replace(path)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
