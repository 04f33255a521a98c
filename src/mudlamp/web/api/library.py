"""What a browser keeps: recordings, named set-ups; and the long work that makes them."""

import asyncio
import uuid
from dataclasses import asdict
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Query, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, ConfigDict, Field
from starlette.concurrency import run_in_threadpool

from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.setup import ReceiverSetup
from mudlamp.services.edge.controls import apply_receiver, receiver_values
from mudlamp.services.jobs import Job, JobView
from mudlamp.store import library as store
from mudlamp.store.library import Recording
from mudlamp.web.api.sessions import own_session
from mudlamp.web.context import Context, context_of, device_of

UPLOAD_PATH = "/api/v1/recordings"
router = APIRouter(prefix="/api/v1")
Own = Annotated[Context, Depends(context_of)]


class KeepRequest(BaseModel):
    """Under which name to keep the last minute."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(default="last minute", min_length=1, max_length=80)


class KeptRequest(BaseModel):
    """Whether a recording is kept for good."""

    model_config = ConfigDict(extra="forbid")

    kept: bool


class SetupRequest(BaseModel):
    """A set-up to be saved: its name, the receiver's controls by their edge names."""

    model_config = ConfigDict(extra="forbid")

    name: str = Field(min_length=1, max_length=60)
    values: dict[str, Any]


@router.get("/recordings")
def recordings(request: Request, context: Own) -> dict[str, list[Recording]]:
    """List this browser's recordings, newest first."""
    return {"recordings": context.library.all(device_of(request))}


@router.post("/recordings", status_code=201)
async def upload(request: Request, context: Own, name: Annotated[str, Query(min_length=1, max_length=200)]) -> Recording:
    """Take a recording file, sent as the request's body; a broken or foreign one is refused with the reason."""
    part = await run_in_threadpool(context.library.new_part)
    device = device_of(request)
    try:
        with part.open("wb") as file:
            async for chunk in request.stream():
                await asyncio.to_thread(file.write, chunk)
        return await run_in_threadpool(context.library.take, device, part, name=Path(name).name, source="recorded")
    finally:
        part.unlink(missing_ok=True)


@router.get("/recordings/{key}/file")
def download(request: Request, context: Own, key: uuid.UUID) -> FileResponse:
    """Return a recording's file."""
    found = _recording(request, context, key)
    name = "".join(letter if letter.isalnum() or letter in "-_." else "-" for letter in found.name)
    return FileResponse(context.library.path_of(found), media_type="application/x-netcdf", filename=f"{name.removesuffix('.nc')}.nc")


@router.patch("/recordings/{key}")
def set_kept(request: Request, context: Own, key: uuid.UUID, wanted: KeptRequest) -> Recording:
    """Keep a recording for good, or let it go after the usual days."""
    found = context.library.set_kept(device_of(request), key, wanted.kept)
    if found is None:
        raise HTTPException(404, "There is no recording of that key for this browser.")
    return found


@router.delete("/recordings/{key}")
def delete(request: Request, context: Own, key: uuid.UUID) -> dict[str, bool]:
    """Delete a recording."""
    if not context.library.remove(device_of(request), key):
        raise HTTPException(404, "There is no recording of that key for this browser.")
    return {"deleted": True}


def _recording(request: Request, context: Context, key: uuid.UUID) -> Recording:
    found = context.library.find(device_of(request), key)
    if found is None:
        raise HTTPException(404, "There is no recording of that key for this browser.")
    return found


@router.post("/sessions/{session_id}/minute", status_code=202)
def keep_minute(request: Request, context: Own, session_id: uuid.UUID, wanted: KeepRequest) -> JobView:
    """Start keeping the last minute of this browser's session as a recording; its progress is the job's."""
    session = own_session(request, context, session_id)
    device = device_of(request)

    def work(job: Job) -> str:
        kept = context.library.keep_minute(
            device, session.last_minute(), name=wanted.name, source=session.plan.source, progress=job.progress
        )
        return str(kept.id)

    return context.jobs.start(device, f"keep the last minute as {wanted.name}", work).view()


@router.get("/jobs/{key}")
def job(request: Request, context: Own, key: uuid.UUID) -> JobView:
    """Return how a job stands."""
    return _job(request, context, key).view()


@router.delete("/jobs/{key}")
def cancel(request: Request, context: Own, key: uuid.UUID) -> JobView:
    """Ask a job to stop."""
    found = _job(request, context, key)
    found.cancel()
    return found.view()


def _job(request: Request, context: Context, key: uuid.UUID) -> Job:
    found = context.jobs.find(device_of(request), key)
    if found is None:
        raise HTTPException(404, "There is no work of that key for this browser.")
    return found


@router.get("/setups")
def setups(request: Request, context: Own) -> dict[str, Any]:
    """List this browser's named set-ups."""
    return {"setups": [asdict(one) for one in store.setups(context.engine, device_of(request))]}


@router.post("/setups", status_code=201)
def save_setup(request: Request, context: Own, wanted: SetupRequest) -> dict[str, Any]:
    """Save a set-up under a name; the same name again takes the new values."""
    name = wanted.name.strip()
    if not name:
        raise DomainError("name is blank: it must be 1 to 60 characters")
    values = receiver_values(apply_receiver(ReceiverSetup(), wanted.values))
    return asdict(store.save_setup(context.engine, device_of(request), name, values, now=context.now()))


@router.delete("/setups/{key}")
def remove_setup(request: Request, context: Own, key: uuid.UUID) -> dict[str, bool]:
    """Delete a named set-up."""
    if not store.remove_setup(context.engine, device_of(request), key):
        raise HTTPException(404, "There is no set-up of that key for this browser.")
    return {"deleted": True}
