"""What the log is owed: rows that were taken and are not in the database yet, kept in a file until they are.

A row is a line of JSON, written before anybody is told of it: neither a killed process nor a database that is away loses it.
"""

import contextlib
import dataclasses
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import orjson
import structlog
from pydantic import TypeAdapter, ValidationError
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from mudlamp.core.records import log
from mudlamp.core.records.log import Record
from mudlamp.store import log as store

_KINDS: Mapping[str, TypeAdapter[Any]] = {
    one.__name__: TypeAdapter(one)
    for one in (log.SessionRecord, log.SetupRecord, log.ShotRecord, log.ReactionRecord, log.TrackRecord, log.BaitRecord)
}


class Owed:
    """The file of one session. It is there only while something is owed."""

    def __init__(self, path: Path) -> None:
        self._path = path
        self._log = structlog.get_logger()

    def note(self, record: Record) -> None:
        """Write a row down; where the disk does not take it, memory alone holds it."""
        line = orjson.dumps({"kind": type(record).__name__, "row": dataclasses.asdict(record)}, option=orjson.OPT_SERIALIZE_NUMPY) + b"\n"
        try:
            self._path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
            with self._path.open("ab") as file:
                file.write(line)
        except OSError as error:
            self._log.error("a row could not be noted", why=error.strerror)

    def rows(self) -> Iterator[Record]:
        """Return the rows, oldest first; a line that was cut off, or is no row, is logged and left out."""
        with self._path.open("rb") as file:
            for line in file:
                try:
                    told = orjson.loads(line)
                    record: Record = _KINDS[told["kind"]].validate_python(told["row"])
                except (ValueError, KeyError, TypeError, ValidationError) as error:
                    self._log.error("an owed row cannot be read", line=line[:200].decode(errors="replace"), why=str(error)[:200])
                else:
                    yield record

    def settle(self) -> None:
        """Nothing is owed any more."""
        with contextlib.suppress(FileNotFoundError):
            self._path.unlink()


def settle_all(engine: Engine, folder: Path) -> int:
    """Write what former runs still owe to the database; return how many rows that were. A row that it refuses is logged and left out."""
    count = 0
    for path in sorted(folder.glob("*.jsonl")):
        owed = Owed(path)
        for record in owed.rows():
            try:
                store.put(engine, [record])
                count += 1
            except SQLAlchemyError:
                structlog.get_logger().exception("row refused", record=type(record).__name__, values=str(record))
        owed.settle()
    return count
