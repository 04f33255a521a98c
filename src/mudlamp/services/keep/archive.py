"""A whole account as one file: a zip of its rows as JSON lines, its recordings and its photos, with the digest of each.

What a fresh installation reads back is the same to the last row.
"""

import datetime as dt
import hashlib
import io
import shutil
import uuid
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from pathlib import Path, PurePosixPath
from typing import Any

import orjson
from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError
from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, RecordingError
from mudlamp.formats.fields import first_problem
from mudlamp.services.quarantine.inspect import inspect_photo, inspect_recording
from mudlamp.store import keep as store

FORMAT, VERSION = "mud-lamp archive", 1
CARD = "archive.json"
# A file of a kind stands in the folder of its row's key.
FILES = {"recording": ("recordings", ".nc"), "photo": ("photos", ".jpg")}
# What is made, and what is being taken in: no folder of what is kept, whose own leftovers are swept away at any moment.
WAITING = "archives"
MOST_ROWS, MOST_LINE, MOST_FILES = 300_000, 4_000_000, 20_000
# Rows are held in memory until all of them are sound.
MOST_ROW_BYTES = 150_000_000
MOST_TOTAL_BYTES = 20_000_000_000
PIECE = 1_000_000


class _Angler(BaseModel):
    model_config = ConfigDict(extra="forbid")

    id: uuid.UUID
    name: str | None = Field(default=None, max_length=40)
    since: dt.datetime | None = None


class Card(BaseModel):
    """What stands in an archive about itself: the schema of its rows, whose it is, how many rows of each table, the digest of each file."""

    model_config = ConfigDict(extra="forbid")

    format: str
    version: int
    schema_number: str = Field(max_length=8)
    made_at: dt.datetime
    angler: _Angler
    rows: dict[str, int]
    digests: dict[str, str] = Field(max_length=MOST_FILES)


@dataclass(frozen=True, slots=True, kw_only=True)
class Restored:
    """What became of an archive: whose it is now, how many rows were new, how many were in it, how many files came along."""

    owner: uuid.UUID
    name: str | None
    new_rows: int
    rows: int
    files: int


def write_archive(
    engine: Engine, owner: uuid.UUID, path: Path, *, run_dir: Path, now: dt.datetime, progress: Callable[[float], None]
) -> None:
    """Write an owner's archive; `progress` is called with 0 to 1 and may raise to stop."""
    counts: dict[str, int] = {}
    digests: dict[str, str] = {}
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as archive:
        tables, files = _spooled(engine, owner, run_dir, counts)
        for number, (name, data) in enumerate(tables.items()):
            archive.writestr(f"tables/{name}.jsonl", data)
            digests[f"tables/{name}.jsonl"] = hashlib.sha256(data).hexdigest()
            progress(0.3 * number / len(tables))
        for number, (path_in, source) in enumerate(files):
            if source.is_file():
                archive.write(source, path_in, compress_type=zipfile.ZIP_STORED)
                with source.open("rb") as file:
                    digests[path_in] = hashlib.file_digest(file, "sha256").hexdigest()
            progress(0.3 + 0.7 * number / len(files))
        found = store.angler_of(engine, owner)
        card = Card(
            format=FORMAT,
            version=VERSION,
            schema_number=store.SCHEMA,
            made_at=now,
            angler=_Angler(id=owner) if found is None else _Angler(id=owner, name=found[0], since=found[1]),
            rows=counts,
            digests=digests,
        )
        archive.writestr(CARD, card.model_dump_json(indent=2))
    progress(1.0)


def _spooled(engine: Engine, owner: uuid.UUID, run_dir: Path, counts: dict[str, int]) -> tuple[dict[str, bytes], list[tuple[str, Path]]]:
    tables: dict[str, io.BytesIO] = {}
    files = []
    for name, values in store.all_rows(engine, owner):
        tables.setdefault(name, io.BytesIO()).write(orjson.dumps(values, option=orjson.OPT_APPEND_NEWLINE | orjson.OPT_SERIALIZE_NUMPY))
        counts[name] = counts.get(name, 0) + 1
        if name in FILES:
            folder, suffix = FILES[name]
            files.append((f"{folder}/{values['id']}{suffix}", run_dir / folder / f"{values['id']}{suffix}"))
    return {name: data.getvalue() for name, data in tables.items()}, files


def read_archive(engine: Engine, path: Path, *, run_dir: Path, owner: uuid.UUID | None, progress: Callable[[float], None]) -> Restored:
    """Read an archive back, all or nothing: into an owner's account, or (None) into that of the angler who made it.

    Raises DomainError naming the first thing wrong; then nothing is kept.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _read(engine, archive, run_dir=run_dir, owner=owner, progress=progress)
    except (zipfile.BadZipFile, zipfile.LargeZipFile, zlib.error, NotImplementedError, RuntimeError, EOFError) as error:
        raise DomainError(
            f"the file is no whole archive ({' '.join(str(error).split())[:80]}): it must be one that was made here"
        ) from None
    except ValueError as error:
        if isinstance(error, DomainError | RecordingError):
            raise
        raise DomainError(f"the file is no whole archive ({' '.join(str(error).split())[:80]})") from None


def _read(
    engine: Engine, archive: zipfile.ZipFile, *, run_dir: Path, owner: uuid.UUID | None, progress: Callable[[float], None]
) -> Restored:
    card = _card(archive)
    whose = owner or card.angler.id
    angler = None
    if owner is None:
        angler = _own_angler(engine, card)
    tables = {name: [*_rows(archive, card, name)] for name in store.CLASSES if f"tables/{name}.jsonl" in card.digests}
    progress(0.3)
    placed: list[Path] = []
    waiting = run_dir / WAITING
    waiting.mkdir(mode=0o700, parents=True, exist_ok=True)
    try:
        for number, (name, target) in enumerate(_files(card, tables, run_dir)):
            if not target.exists():
                _place(archive, card, name, target, waiting / f"{target.stem}.{uuid.uuid4()}.part")
                placed.append(target)
            progress(0.3 + 0.6 * number / max(len(card.digests), 1))
        new = store.put_all(engine, whose, tables, angler=angler)
    except BaseException:
        for target in placed:
            target.unlink(missing_ok=True)
        raise
    return Restored(
        owner=whose,
        name=card.angler.name,
        new_rows=sum(new.values()),
        rows=sum(len(rows) for rows in tables.values()),
        files=len(placed),
    )


def _card(archive: zipfile.ZipFile) -> Card:
    infos = archive.infolist()
    if len(infos) > MOST_FILES or sum(one.file_size for one in infos) > MOST_TOTAL_BYTES:
        raise DomainError(
            f"the archive has {len(infos)} files: it may have {MOST_FILES}, and {MOST_TOTAL_BYTES / 1e9:g} GB in all, at most"
        )
    rows_bytes = sum(one.file_size for one in infos if one.filename.startswith("tables/"))
    if rows_bytes > MOST_ROW_BYTES:
        raise DomainError(f"the archive has {rows_bytes} bytes of rows: it may have {MOST_ROW_BYTES} at most")
    if CARD not in archive.namelist():
        raise DomainError(f"the archive has no {CARD}: it must be one that was made here")
    try:
        card = Card.model_validate_json(_limited(archive, CARD, MOST_LINE))
    except ValidationError as error:
        where, why = first_problem(error)
        raise DomainError(f"{CARD}: {'.'.join(str(part) for part in where)} {why}") from None
    if card.format != FORMAT or card.version != VERSION:
        raise DomainError(f"{CARD}: format is {card.format[:40]} {card.version}: it must be {FORMAT} {VERSION}")
    if not card.schema_number.isdecimal() or card.schema_number > store.SCHEMA:
        raise DomainError(
            f"{CARD}: schema_number is {card.schema_number}: it must be {store.SCHEMA} or older; this release is older than the archive"
        )
    return card


def _own_angler(engine: Engine, card: Card) -> tuple[str, dt.datetime] | None:
    name = card.angler.name
    if name is None:
        return None
    here = store.anglers(engine).get(name)
    if here is not None and here != card.angler.id:
        raise DomainError(f"name is {name}: somebody else goes by it here; read the archive into an angler of yours with --angler NAME")
    return name, card.angler.since or card.made_at


def _limited(archive: zipfile.ZipFile, name: str, most: int) -> bytes:
    with archive.open(name) as file:
        data = file.read(most + 1)
    if len(data) > most:
        raise DomainError(f"{name} has over {most} bytes: it may have that at most")
    return data


def _rows(archive: zipfile.ZipFile, card: Card, table: str) -> Iterator[dict[str, Any]]:
    """Yield the rows of a table, each of its columns checked."""
    name = f"tables/{table}.jsonl"
    if name not in archive.namelist():
        raise DomainError(f"{name} is missing: {CARD} names it")
    columns = {
        one.name: (_adapter(store.python_type(one)), bool(one.nullable), one.server_default is not None) for one in store.columns_of(table)
    }
    digest, count = hashlib.sha256(), 0
    with archive.open(name) as file:
        for number, line in enumerate(iter(lambda: file.readline(MOST_LINE), b""), start=1):
            digest.update(line)
            count += 1
            if count > MOST_ROWS:
                raise DomainError(f"{name} has over {MOST_ROWS} rows: it may have that at most")
            yield _row(line, columns, f"{name}, row {number}")
    if digest.hexdigest() != card.digests[name] or count != card.rows.get(table):
        raise DomainError(f"{name} is not as it was written: its digest or its count of rows does not hold")


def _adapter(kind: type) -> TypeAdapter[Any]:
    return TypeAdapter(kind, config=ConfigDict(allow_inf_nan=False))


def _row(line: bytes, columns: Mapping[str, tuple[TypeAdapter[Any], bool, bool]], where: str) -> dict[str, Any]:
    try:
        given = orjson.loads(line)
    except orjson.JSONDecodeError:
        raise DomainError(f"{where} is no JSON") from None
    if not isinstance(given, dict):
        raise DomainError(f"{where} is no object")
    strange = next((name for name in given if name not in columns), None)
    if strange is not None:
        raise DomainError(f"{where}: {str(strange)[:40]} is no column of it")
    values: dict[str, Any] = {}
    for name, (adapter, is_free, has_default) in columns.items():
        if name not in given and has_default:
            continue
        value = given.get(name)
        if value is None and not is_free:
            raise DomainError(f"{where}: {name} is missing: it must be given")
        try:
            values[name] = None if value is None else adapter.validate_python(value, strict=False)
        except ValidationError as error:
            raise DomainError(f"{where}: {name} {first_problem(error)[1]}") from None
    return values


def _files(card: Card, tables: Mapping[str, list[dict[str, Any]]], run_dir: Path) -> Iterator[tuple[str, Path]]:
    """Yield the archive's files and where each goes: its row's key names it, whatever else stands in the archive."""
    for table, (folder, suffix) in FILES.items():
        (run_dir / folder).mkdir(mode=0o700, parents=True, exist_ok=True)
        for row in tables.get(table, ()):
            name = str(PurePosixPath(folder) / f"{row['id']}{suffix}")
            if name in card.digests:
                yield name, run_dir / folder / f"{row['id']}{suffix}"


def _place(archive: zipfile.ZipFile, card: Card, name: str, target: Path, part: Path) -> None:
    """Put a file where it belongs, once its digest holds and it is what it says; until then it waits at `part`, on the same disk."""
    if name not in archive.namelist():
        raise DomainError(f"{name} is missing: {CARD} names it")
    try:
        with archive.open(name) as source, part.open("wb") as file:
            shutil.copyfileobj(source, file, PIECE)
        with part.open("rb") as file:
            if hashlib.file_digest(file, "sha256").hexdigest() != card.digests[name]:
                raise DomainError(f"{name} is not as it was written: its digest does not hold")
        if target.suffix == ".nc":
            inspect_recording(part, shown=name)
        else:
            _check_photo(part, name)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def _check_photo(path: Path, name: str) -> None:
    if not inspect_photo(path, shown=name).is_bare:
        raise DomainError(f"{name} says more than its picture: it must be a photo that was kept here")
