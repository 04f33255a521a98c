"""Trips: the list, a trip's page, and all that is noted on it."""

import uuid
from functools import partial

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import UploadFile

from mudlamp.core.errors import DomainError
from mudlamp.formats.nmea import Said
from mudlamp.services.edge.forms import Read
from mudlamp.services.keep.kinds import MEDIA
from mudlamp.services.trips.photo_drop import MOST_AT_ONCE, drop
from mudlamp.web.context import At, Form, Who, go_to, in_place, render
from mudlamp.web.log.keep import chosen_file
from mudlamp.web.log.trip_views import CatchFormView, TripFormView, catch_form, trip_form, trip_view
from mudlamp.web.times import zone

router = APIRouter(prefix="/log", include_in_schema=False)
PHOTOS_PATH, TRACK_PATH = "/log/photos", "/log/track"


@router.get("/trips/new")
def plan(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show the form of a new trip, its answers those of the last one."""
    last = house.trips.all(who.owner, limit=1)
    return render(request, "log/trip_form.html", trip_form(last[0] if last else None, now=house.now()))


@router.post("/trips")
def add(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Plan a trip; the form comes back with what is wrong."""
    trip, found = house.trips.write(who.owner, given, zone())
    return _wrong(request, trip_form(None, read=found, now=house.now())) if trip is None else go_to(f"/log/trips/{trip.id}")


@router.get("/trips/{key}")
def trip(request: Request, house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Show a trip."""
    return render(request, "log/trip.html", trip_view(house.trips.open(who.owner, key), fed=_fed(house)))


@router.get("/trips/{key}/edit")
def edit(request: Request, house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Show a trip's form."""
    return render(request, "log/trip_form.html", trip_form(house.trips.own(who.owner, key), key=key, now=house.now()))


@router.post("/trips/{key}")
def change(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Change a trip; the form comes back with what is wrong."""
    found, read = house.trips.write(who.owner, given, zone(), key=key)
    return _wrong(request, trip_form(None, read=read, key=key, now=house.now())) if found is None else go_to(f"/log/trips/{key}")


def _wrong(request: Request, view: TripFormView) -> HTMLResponse:
    return in_place(render(request, "log/_trip_form.html", view, status=422), "#_trip_form")


@router.post("/trips/{key}/start")
def start(house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Begin a trip."""
    house.trips.start(who.owner, key)
    return go_to(f"/log/trips/{key}")


@router.post("/trips/{key}/end")
def end(house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """End a trip."""
    house.trips.end(who.owner, key)
    return go_to(f"/log/trips/{key}")


@router.post("/trips/{key}/conditions")
def add_condition(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Note the weather and the water."""
    return _noted(request, house, who, key, "conditions", house.trips.add_condition(who.owner, key, given, zone()))


@router.post("/trips/{key}/moves")
def add_move(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Note a move."""
    return _noted(request, house, who, key, "moves", house.trips.add_move(who.owner, key, given, zone()))


@router.post("/trips/{key}/catches")
def add_catch(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Keep a fish."""
    return _noted(request, house, who, key, "catches", house.trips.add_catch(who.owner, key, given, zone()))


@router.post("/trips/{key}/landed/{landed}")
def take_landed(request: Request, house: At, who: Who, key: uuid.UUID, landed: uuid.UUID) -> HTMLResponse:
    """Make a catch of a fish that the record says was landed."""
    house.trips.take_landed(who.owner, key, landed)
    return _noted(request, house, who, key, "catches", None)


@router.post("/trips/{key}/rules")
def write_rule(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Keep an own limit."""
    return _noted(request, house, who, key, "rules", house.trips.write_rule(who.owner, given))


@router.delete("/trips/{key}/rules/{species}")
def remove_rule(request: Request, house: At, who: Who, key: uuid.UUID, species: str) -> HTMLResponse:
    """Delete an own limit."""
    house.trips.remove_rule(who.owner, species)
    return _noted(request, house, who, key, "rules", None)


@router.delete("/trips/{key}/parts/{part}")
def remove_part(request: Request, house: At, who: Who, key: uuid.UUID, part: uuid.UUID) -> HTMLResponse:
    """Delete a condition or a move."""
    house.trips.remove_part(who.owner, part)
    return _noted(request, house, who, key, "conditions", None)


@router.post("/photos")
async def add_photos(request: Request, house: At, who: Who) -> Response:
    """Take in a trip's photos; its page comes back with how many were kept, and what is wrong with the others."""
    async with request.form(max_files=MOST_AT_ONCE + 1) as form:
        key = _key_of(str(form.get("trip", "")))
        trip = await run_in_threadpool(house.trips.own, who.owner, key)
        files = [(one.filename or "photo", one.file.read) for one in form.getlist("photos") if isinstance(one, UploadFile) and one.filename]
        if not files:
            raise DomainError("photos: none was chosen; choose one or more")
        opened = await run_in_threadpool(house.trips.open, who.owner, trip.id)
        found = await run_in_threadpool(partial(drop, house.trips.photos, opened, files, owner=who.owner, zone=zone(), now=house.now()))
    view = trip_view(await run_in_threadpool(house.trips.open, who.owner, key), dropped=found)
    return await run_in_threadpool(render, request, "log/trip.html", view, status=422 if found.problems else 200)


@router.get("/trips/{key}/track.gpx")
def track(house: At, who: Who, key: uuid.UUID) -> Response:
    """Return where the boat went on one's own trip as GPX: for oneself, with all places."""
    data = house.trips.track_gpx(who.owner, key)
    return Response(data, media_type=MEDIA["gpx"], headers={"Content-Disposition": 'attachment; filename="track.gpx"'})


@router.post("/track")
async def read_track(request: Request, house: At, who: Who) -> HTMLResponse:
    """Keep where the boat went on a trip, by a GPX file."""
    async with request.form(max_files=1) as form:
        key = _key_of(str(form.get("trip", "")))
        await run_in_threadpool(house.trips.own, who.owner, key)
        data = await chosen_file(form.get("track"), "track").read()
    await run_in_threadpool(house.trips.read_track, who.owner, key, data)
    return await run_in_threadpool(lambda: trip(request, house, who, key))


@router.post("/trips/{key}/chart")
def chart(house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Make a chart of one's own of the depths along a trip's track, under its water's name."""
    data = house.trips.soundings(who.owner, key)
    return go_to(f"/log/spots?water={house.spots.read_chart(who.owner, data, house.trips.own(who.owner, key).water[:60])}")


def _key_of(text: str) -> uuid.UUID:
    try:
        return uuid.UUID(text)
    except ValueError:
        raise DomainError(f"trip is {text[:40]}: it must be a trip's key") from None


def _fed(house: At) -> Said | None:
    """Return what the boat's instruments say just now, where they are listened to."""
    return None if house.feed is None else house.feed.heard().said


def _noted(request: Request, house: At, who: Who, key: uuid.UUID, part: str, found: Read | None) -> HTMLResponse:
    """Answer with the trip's page as it stands now, the form with what is wrong in its place."""
    wrong = {part: found} if found is not None and found.problems else {}
    view = trip_view(house.trips.open(who.owner, key), fed=_fed(house), wrong=wrong)
    return in_place(render(request, "log/_trip.html", view, status=422 if wrong else 200), "#_trip")


@router.get("/catches/{key}/edit")
def edit_catch(request: Request, house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Show a fish's form."""
    return render(request, "log/catch_form.html", catch_form(house.trips.catch(who.owner, key)))


@router.post("/catches/{key}")
def change_catch(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Change a fish; the form comes back with what is wrong."""
    found, read = house.trips.change_catch(who.owner, key, given, zone())
    if read.problems:
        view: CatchFormView = catch_form(found, read=read)
        return in_place(render(request, "log/_catch_form.html", view, status=422), "#_catch_form")
    return go_to(f"/log/trips/{found.trip_id}#catch-{key}" if found.trip_id else "/log")


@router.get("/photos/{key}.jpg")
def photo(house: At, who: Who, key: uuid.UUID) -> Response:
    """Return one of one's own photos."""
    data = house.trips.photos.read(who.owner, key)
    return Response(data, media_type="image/jpeg", headers={"Cache-Control": "private, max-age=86400"})


@router.post("/deleted/{kind}/{key}")
def bring_back(house: At, who: Who, kind: str, key: uuid.UUID) -> HTMLResponse:
    """Bring something back that was deleted."""
    house.trips.bring_back(who.owner, kind, key)
    # Without a fragment: one that stands in the address already would only be scrolled to.
    return go_to("/log/keep")


@router.delete("/{kind}/{key}")
def delete(house: At, who: Who, kind: str, key: uuid.UUID) -> HTMLResponse:
    """Delete something for now: it can be brought back for thirty days."""
    house.trips.delete(who.owner, kind, key)
    return go_to("/log/keep#deleted")
