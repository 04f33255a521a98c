"""What somebody keeps: recordings, named set-ups; and the long work that makes them."""

import asyncio
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from mudlamp.core.errors import MissingError
from mudlamp.core.records.library import Recording
from mudlamp.formats.fields import PlainText
from mudlamp.services.house import House
from mudlamp.services.jobs import Job, JobView
from mudlamp.services.live.setups import SetupAnswer
from mudlamp.web.api.sessions import own_session
from mudlamp.web.context import At, Who, device_of, whole_number

UPLOAD_PATH = "/api/v1/recordings"
# Whether there is room is asked again after each so many bytes.
ROOM_BYTES = 16_000_000
router = APIRouter(prefix="/api/v1")


class KeepRequest(BaseModel):
    """Under which name to save the last minute."""

    model_config = ConfigDict(extra="forbid")

    name: PlainText = Field(default="last minute", min_length=1, max_length=80)


class KeptRequest(BaseModel):
    """Whether a recording is kept for good."""

    model_config = ConfigDict(extra="forbid")

    kept: bool


class SetupRequest(BaseModel):
    """A set-up to be saved: its name, the receiver's controls by their edge names."""

    model_config = ConfigDict(extra="forbid")

    name: PlainText = Field(min_length=1, max_length=60)
    values: dict[str, PlainText | float]


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingsAnswer:
    """One's own recordings."""

    recordings: Sequence[Recording]


@dataclass(frozen=True, slots=True, kw_only=True)
class SetupsAnswer:
    """One's own named set-ups."""

    setups: Sequence[SetupAnswer]


@router.get("/recordings")
def recordings(house: At, who: Who) -> RecordingsAnswer:
    """List one's own recordings, newest first."""
    return RecordingsAnswer(recordings=house.library.all(who.owner))


@router.post("/recordings", status_code=201)
async def upload(request: Request, house: At, who: Who, name: Annotated[PlainText, Query(min_length=1, max_length=200)]) -> Recording:
    """Take a recording file, sent as the request's body; a broken or foreign one is refused with the reason."""
    received = 0
    announced = request.headers.get("content-length", "")
    await run_in_threadpool(house.library.room_for, who.owner, whole_number(announced) or 0)
    with house.library.receiving() as part:
        with part.open("wb") as file:
            async for chunk in request.stream():
                received += len(chunk)
                if received // ROOM_BYTES > (received - len(chunk)) // ROOM_BYTES:
                    await run_in_threadpool(house.library.room_for, who.owner, received)
                await asyncio.to_thread(file.write, chunk)
        return await run_in_threadpool(house.library.take, who.owner, part, name=Path(name).name, source="recorded")


@router.get("/recordings/{key}/file")
def download(house: At, who: Who, key: uuid.UUID) -> FileResponse:
    """Return a recording's file."""
    found = house.library.find(who.owner, key)
    name = "".join(letter if letter.isalnum() or letter in "-_." else "-" for letter in found.name)
    return FileResponse(house.library.path_of(found), media_type="application/x-netcdf", filename=f"{name.removesuffix('.nc')}.nc")


@router.patch("/recordings/{key}")
def set_kept(house: At, who: Who, key: uuid.UUID, wanted: KeptRequest) -> Recording:
    """Keep a recording for good, or let it go after the usual days."""
    return house.library.set_kept(who.owner, key, wanted.kept)


@router.delete("/recordings/{key}")
def delete(house: At, who: Who, key: uuid.UUID) -> dict[str, bool]:
    """Delete a recording."""
    house.library.remove(who.owner, key)
    return {"deleted": True}


@router.post("/sessions/{session_id}/minute", status_code=202)
def keep_minute(request: Request, house: At, who: Who, session_id: uuid.UUID, wanted: KeepRequest) -> JobView:
    """Start saving the last minute of this browser's session as a recording; its progress is the job's."""
    session = own_session(request, house, session_id)

    def work(job: Job) -> str:
        kept = house.library.keep_minute(
            who.owner,
            session.last_minute(),
            name=wanted.name,
            source=session.plan.source,
            session_id=session_id,
            progress=job.progress,
        )
        return str(kept.id)

    return house.jobs.start(who.device, f"save the last minute as {wanted.name}", work).view()


@router.get("/jobs/{key}")
def job(request: Request, house: At, key: uuid.UUID) -> JobView:
    """Return how a job stands."""
    return _job(request, house, key).view()


@router.delete("/jobs/{key}")
def cancel(request: Request, house: At, key: uuid.UUID) -> JobView:
    """Ask a job to stop."""
    found = _job(request, house, key)
    found.cancel()
    return found.view()


def _job(request: Request, house: House, key: uuid.UUID) -> Job:
    found = house.jobs.find(device_of(request), key)
    if found is None:
        raise MissingError("There is no job with that key for this browser.")
    return found


@router.get("/setups")
def setups(house: At, who: Who) -> SetupsAnswer:
    """List one's own named set-ups."""
    return SetupsAnswer(setups=house.setups.all(who.owner))


@router.post("/setups", status_code=201)
def save_setup(house: At, who: Who, wanted: SetupRequest) -> SetupAnswer:
    """Save a set-up under a name; the same name again takes the new values."""
    return house.setups.save(who.owner, wanted.name, wanted.values, now=house.now())


@router.delete("/setups/{key}")
def remove_setup(house: At, who: Who, key: uuid.UUID) -> dict[str, bool]:
    """Delete a named set-up."""
    house.setups.remove(who.owner, key)
    return {"deleted": True}
