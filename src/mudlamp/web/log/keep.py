"""In and out: tables, sheets, share copies, the archive, and what was deleted."""

import asyncio
import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, HTMLResponse, Response
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.texts import mended
from mudlamp.services.jobs import Job, JobView
from mudlamp.services.keep.kinds import KINDS, MEDIA, formats_of
from mudlamp.services.keep.sheet_in import SHEETS, Looked
from mudlamp.web.context import At, Form, Who, go_to, in_place, render
from mudlamp.web.times import when_with_year, zone

router = APIRouter(prefix="/log", include_in_schema=False)
ARCHIVE_PATH = "/log/keep/archive"
MOST_PROBLEMS = 20
PIECE = 1_000_000


@dataclass(frozen=True, slots=True, kw_only=True)
class KeepView:
    """The page: what can be taken along in which formats, what a sheet can hold, what was deleted."""

    kinds: Sequence[tuple[str, Sequence[str]]]
    sheets: Sequence[str]
    deleted: Sequence[tuple[str, str, str, str]]
    reading: "ArchiveView | None"


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetView:
    """A sheet that waits for its mapping: columns with what each is taken as, what they can be, first rows, problems."""

    key: str
    kind: str
    columns: Sequence[tuple[str, str]]
    fields: Sequence[tuple[str, str]]
    first: Sequence[Sequence[str]]
    problems: Sequence[str]
    more: int
    rows: int


@dataclass(frozen=True, slots=True, kw_only=True)
class ArchiveView:
    """An archive that is being made or read, or is ready."""

    job: str
    state: str
    share: int
    error: str
    said: str


@router.get("/keep")
def keep(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show what can be taken along and brought in."""
    return render(request, "log/keep.html", _view(house, who))


def _view(house: At, who: Who, reading: ArchiveView | None = None) -> KeepView:
    return KeepView(
        kinds=[(kind, formats_of(kind)) for kind in KINDS],
        sheets=list(SHEETS),
        deleted=[(one.kind, str(one.id), one.name, when_with_year(one.deleted_at)) for one in house.trips.deleted(who.owner)],
        reading=reading,
    )


@router.get("/keep/{kind}.{form}")
def table(house: At, who: Who, kind: str, form: str) -> Response:
    """Return one's own rows of a kind as a file."""
    data = house.keep.written(who.owner, kind, form)
    return Response(data, media_type=MEDIA[form], headers={"Content-Disposition": f'attachment; filename="{kind}.{form}"'})


@router.get("/trips/{key}/share.zip")
def share_trip(house: At, who: Who, key: uuid.UUID, words: bool = False) -> Response:
    """Return a trip as a copy to be shown, without any place."""
    data = house.keep.shared_trip(who.owner, key, with_words=words)
    return Response(data, media_type="application/zip", headers={"Content-Disposition": 'attachment; filename="trip.zip"'})


@router.get("/recordings/{key}/share.nc")
def share_recording(house: At, who: Who, key: uuid.UUID) -> FileResponse:
    """Return a recording as a copy to be shown, without its place."""
    path = house.keep.shared_recording(who.owner, key)
    return FileResponse(
        path, media_type="application/x-netcdf", filename="recording.nc", background=BackgroundTask(path.unlink, missing_ok=True)
    )


# The archive.


@router.post("/keep/archive/start")
def start_archive(request: Request, house: At, who: Who) -> HTMLResponse:
    """Start putting everything into one archive."""
    return _archive(request, house, who, house.keep.start_archive(who.device, who.owner).id)


@router.get("/keep/archive/{job}")
def follow_archive(request: Request, house: At, who: Who, job: uuid.UUID) -> HTMLResponse:
    """Show how an archive stands."""
    return _archive(request, house, who, job)


@router.delete("/keep/archive/{job}")
def stop_archive(request: Request, house: At, who: Who, job: uuid.UUID) -> HTMLResponse:
    """Stop making an archive."""
    _job(house, who, job).cancel()
    return _archive(request, house, who, job)


def _job(house: At, who: Who, key: uuid.UUID) -> Job:
    found = house.jobs.find(who.device, key)
    if found is None:
        raise MissingError("That work is not there any more.")
    return found


def _archive(request: Request, house: At, who: Who, job: uuid.UUID) -> HTMLResponse:
    return render(request, "log/_archive.html", _archive_view(_job(house, who, job).view()))


def _archive_view(found: JobView) -> ArchiveView:
    return ArchiveView(
        job=str(found.id), state=found.state.value, share=round(100 * found.share), error=found.error or "", said=found.result or ""
    )


@router.get("/keep/archive/{job}/mud-lamp.zip")
def take_archive(house: At, who: Who, job: uuid.UUID) -> FileResponse:
    """Return an archive that was made."""
    return FileResponse(house.keep.archive(who.device, job), media_type="application/zip", filename="mud-lamp.zip")


@router.post("/keep/archive")
async def read_archive(request: Request, house: At, who: Who) -> HTMLResponse:
    """Read an archive into one's own account, all or nothing."""
    async with request.form(max_files=1) as form:
        file = chosen_file(form.get("archive"), "archive")
        path = await run_in_threadpool(house.keep.receiving)
        try:
            with path.open("wb") as out:
                while piece := await file.read(PIECE):
                    await asyncio.to_thread(out.write, piece)
            job = await run_in_threadpool(house.keep.start_reading, who.device, who.owner, path)
        except BaseException:
            path.unlink(missing_ok=True)
            raise
    reading = _archive_view(job.view())
    return await run_in_threadpool(lambda: render(request, "log/keep.html", _view(house, who, reading)))


@router.get("/keep/reading/{job}")
def follow_reading(request: Request, house: At, who: Who, job: uuid.UUID) -> HTMLResponse:
    """Show how the reading of an archive stands."""
    return render(request, "log/_reading.html", _archive_view(_job(house, who, job).view()))


@router.delete("/keep/reading/{job}")
def stop_reading(request: Request, house: At, who: Who, job: uuid.UUID) -> HTMLResponse:
    """Stop reading an archive: then nothing of it is kept."""
    _job(house, who, job).cancel()
    return follow_reading(request, house, who, job)


def chosen_file(given: object, name: str) -> UploadFile:
    """Return the file that a form gave under a name; raise DomainError where none was chosen."""
    if not isinstance(given, UploadFile) or not given.filename:
        raise DomainError(f"{name}: none was chosen; choose a file")
    return given


# Sheets.


@router.post("/keep/sheet")
async def look(request: Request, house: At, who: Who) -> HTMLResponse:
    """Look at a CSV file: which column is what."""
    async with request.form(max_files=1) as form:
        data, kind = await chosen_file(form.get("sheet"), "sheet").read(), mended(str(form.get("kind", "")))
    key, found = await run_in_threadpool(house.keep.look, who.owner, kind, data, zone())
    return await run_in_threadpool(lambda: render(request, "log/sheet.html", _sheet(key, found)))


@router.post("/keep/sheet/{key}/look")
def look_again(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Look at a sheet under another mapping."""
    found = house.keep.look_again(who.owner, key, _mapping(given), zone())
    return in_place(render(request, "log/_sheet.html", _sheet(key, found)), "#_sheet")


@router.post("/keep/sheet/{key}")
def take(house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Keep a sheet's rows, all or none."""
    house.keep.take(who.owner, key, _mapping(given), zone())
    return go_to("/log/catches" if given.get("kind") == "catches" else "/log")


def _mapping(given: Form) -> dict[str, str]:
    return {name.removeprefix("column:"): value for name, value in given.items() if name.startswith("column:")}


def _sheet(key: uuid.UUID, found: Looked) -> SheetView:
    return SheetView(
        key=str(key),
        kind=found.kind,
        columns=[(column, found.mapping[column]) for column in found.columns],
        fields=[
            (one.field.name, f"{one.field.label}{f', {one.field.unit.name}' if one.field.unit.name else ''}") for one in SHEETS[found.kind]
        ],
        first=found.first,
        problems=found.problems[:MOST_PROBLEMS],
        more=max(len(found.problems) - MOST_PROBLEMS, 0),
        rows=found.rows,
    )
