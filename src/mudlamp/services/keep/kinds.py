"""What may be taken along as a table: which rows, which columns, in SI, under which names."""

import uuid
from collections.abc import Mapping

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError
from mudlamp.core.records.spots import Spot
from mudlamp.formats.tables import Column, Table, csv_bytes, json_bytes, parquet_bytes
from mudlamp.services.find.gpx_file import spots_gpx
from mudlamp.services.find.spot_book import origins_of
from mudlamp.services.find.spots_file import spots_bytes
from mudlamp.store import keep as store

# The kind's name and its table's.
KINDS: Mapping[str, str] = {
    "trips": "trip",
    "conditions": "condition",
    "moves": "move",
    "boat_track": "boat_point",
    "catches": "catch",
    "sessions": "session",
    "shots": "shot",
    "reactions": "reaction",
    "setups": "setup_change",
    "tracks": "track",
    "bait": "bait_event",
    "spots": "spot",
    "boat": "boat_entry",
    "casts": "landing",
    "cards": "card",
    "rigs": "rig",
    "lures": "lure",
    "rods": "rod",
}
# Whose row it is, and on which device it was made, is nobody's business in a file.
_LEFT_OUT = ("owner", "angler_id", "device", "deleted_at", "given", "received_at", "clash_of")
TABLE_WRITERS = {"csv": csv_bytes, "json": json_bytes, "parquet": parquet_bytes}
SPOT_WRITERS = {"geojson": spots_bytes, "gpx": spots_gpx}
MEDIA = {
    "csv": "text/csv; charset=utf-8",
    "json": "application/json",
    "parquet": "application/vnd.apache.parquet",
    "geojson": "application/geo+json",
    "gpx": "application/gpx+xml",
}


def formats_of(kind: str) -> tuple[str, ...]:
    """Return the formats that a kind can be written in; raise DomainError for a kind that is none."""
    if kind not in KINDS:
        raise DomainError(f"kind is {kind[:40]}: it must be one of {', '.join(KINDS)}")
    return (*TABLE_WRITERS, *(SPOT_WRITERS if kind == "spots" else ()))


def table_of(engine: Engine, owner: uuid.UUID, kind: str) -> Table:
    """Return an owner's rows of a kind."""
    name = KINDS[kind]
    columns = [Column(name=one.name, type=store.python_type(one)) for one in store.columns_of(name) if one.name not in _LEFT_OUT]
    return Table(kind=kind, columns=columns, rows=store.rows_of(engine, owner, name, and_deleted=False))


def written(engine: Engine, owner: uuid.UUID, kind: str, form: str) -> bytes:
    """Return an owner's rows of a kind as a file's bytes; raise DomainError for a kind or a format that is none."""
    allowed = formats_of(kind)
    if form not in allowed:
        raise DomainError(f"format is {form[:20]}: of {kind} it must be one of {', '.join(allowed)}")
    if form in TABLE_WRITERS:
        return TABLE_WRITERS[form](table_of(engine, owner, kind))
    rows = store.rows_of(engine, owner, "spot", and_deleted=False)
    spots = [Spot(**{name: row[name] for name in Spot.__dataclass_fields__}) for row in rows]
    return SPOT_WRITERS[form](spots, origins_of(engine, owner, spots))
