"""Hand files: JSON lines, one per thing that the angler's hand did."""

from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Annotated, Any

import orjson
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from mudlamp.core.casting.lures import LureKind
from mudlamp.core.errors import RecordingError
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.units import OUNCE_KG
from mudlamp.formats.fields import Within, first_problem

LARGEST_BYTES = 20_000_000
LONGEST_CAST_M = 200.0


class _Line(BaseModel):
    """A line of a hand file."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    t: Annotated[float, Field(ge=0.0, allow_inf_nan=False)]
    do: Doing
    ahead_m: Annotated[float, Within(-LONGEST_CAST_M, LONGEST_CAST_M, "m")] | None = None
    across_m: Annotated[float, Within(-LONGEST_CAST_M, LONGEST_CAST_M, "m")] | None = None
    lure: LureKind | None = None
    head_oz: Annotated[float, Within(0.0078, 2.0, "oz")] | None = None


def hand_line(event: HandEvent) -> bytes:
    """Return an event as one line of JSON; what it has not is left out."""
    row: dict[str, Any] = {"t": round(event.time_s, 3), "do": event.do.value}
    if event.do is Doing.THROW:
        row |= {"ahead_m": round(event.ahead_m or 0.0, 2), "across_m": round(event.across_m or 0.0, 2)}
    if event.do is Doing.TIED and event.lure is not None and event.head_kg is not None:
        row |= {"lure": event.lure.value, "head_oz": round(event.head_kg / OUNCE_KG, 5)}
    return orjson.dumps(row) + b"\n"


def read_hand(path: Path) -> list[HandEvent]:
    """Return the events of a hand file in the order of time; raise RecordingError naming the line that is not of it."""
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise RecordingError(f"hand file {path} is {path.stat().st_size} bytes: it must be at most {LARGEST_BYTES} bytes")
        lines = path.read_bytes().splitlines()
    except OSError as error:
        raise RecordingError(f"hand file {path} cannot be read ({error.strerror}): it must be a readable .jsonl file") from None
    return sorted(_events(lines, str(path)), key=lambda event: event.time_s)


def _events(lines: Iterable[bytes], shown: str) -> Sequence[HandEvent]:
    found = []
    for number, line in enumerate(lines, start=1):
        try:
            row = _Line.model_validate_json(line)
            if row.do is Doing.THROW and (row.ahead_m is None or row.across_m is None):
                raise RecordingError(
                    f"hand file {shown}: line {number} is a throw without ahead_m and across_m: it must say where it was aimed"
                )
        except ValidationError as error:
            where, what = first_problem(error)
            path = ".".join(str(part) for part in where) or "it"
            raise RecordingError(f"hand file {shown}: line {number}: {path} {what}") from None
        found.append(
            HandEvent(
                time_s=row.t,
                do=row.do,
                ahead_m=row.ahead_m,
                across_m=row.across_m,
                lure=row.lure,
                head_kg=None if row.head_oz is None else row.head_oz * OUNCE_KG,
            )
        )
    return found
