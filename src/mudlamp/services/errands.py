"""What the command line does on the database that runs beside it: files brought to an angler by their kind."""

import datetime as dt
import os
import sys
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from mudlamp.core.errors import DomainError
from mudlamp.services.find.waters import DEMO
from mudlamp.services.house import House, house_at
from mudlamp.services.keep.sheet_in import MOST_BYTES, SHEETS
from mudlamp.services.settings import read_settings

IN_KINDS = (*SHEETS, "spots", "recordings")


@contextmanager
def house_from_stdin() -> Iterator[House]:
    """Give the house on the database whose address stands on standard input, as the launcher says it; close it at the end."""
    house = house_at(read_settings(os.environ | {"MUDLAMP_DATABASE_URL": sys.stdin.readline().strip()}))
    try:
        yield house
    finally:
        house.close()
        house.engine.dispose()


def take(house: House, owner: uuid.UUID, kind: str, path: Path, *, mapping: dict[str, str] | None, water: str = DEMO) -> int:
    """Keep what a file holds as an owner's, all or nothing; return how many.

    Raises DomainError or RecordingError naming the first thing wrong.
    """
    if kind == "recordings":
        with house.library.receiving() as part:
            part.write_bytes(path.read_bytes())
            house.library.take(owner, part, name=path.name, source="recorded")
        return 1
    if path.stat().st_size > MOST_BYTES:
        raise DomainError(f"the file has {path.stat().st_size} bytes: it may have {MOST_BYTES} at most")
    data = path.read_bytes()
    if kind == "spots":
        return len(house.spots.read_spots(owner, data, water))
    zone: dt.tzinfo | None = None
    return house.keep.take_file(owner, kind, data, mapping, zone)
