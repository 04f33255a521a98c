"""The door: what to trust, a code shown on this machine, a code typed on another, devices listed and turned away."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

import segno
from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.services.doors.names import Doors
from mudlamp.web.context import At, Form, Visitor, Who, go_to, render
from mudlamp.web.cookies import ANGLER, set_cookie
from mudlamp.web.times import when

router = APIRouter(include_in_schema=False)
NOT_HERE = "code is not shown on this device: it must be shown on the machine that Mud Lamp runs on"
SAY_WHO = "name is missing: say who fishes first, on the Log page; the device that is paired acts as them"


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceView:
    """A paired device."""

    id: str
    name: str
    at: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DoorView:
    """The door as it is seen: from this machine with a code to show, or from outside with what to trust."""

    address: str
    other_addresses: Sequence[str]
    qr: str
    is_open: bool
    is_inside: bool
    angler: str
    code: str
    devices: Sequence[DeviceView]


@dataclass(frozen=True, slots=True, kw_only=True)
class PairView:
    """The page where a code is typed; `problem` is what was wrong with the last."""

    problem: str
    name: str


def _is_here(request: Request) -> bool:
    """Return whether who asks is on this machine: a code is shown nowhere else, so that a phone that is lost lets no other in."""
    return bool(request.scope["state"].get("is_here"))


def _door(request: Request, house: At, who: Visitor, *, code: str = "") -> HTMLResponse:
    doors: Doors | None = request.app.state.doors
    inside = _is_here(request)
    devices = house.pairing.of(who.angler_id) if inside and who.angler_id is not None else ()
    address = "" if doors is None else doors.address
    view = DoorView(
        address=address,
        other_addresses=() if doors is None else doors.others,
        qr="" if doors is None else segno.make(address).svg_data_uri(scale=5, dark="#141f1e", light="#fffdf7"),
        is_open=doors is not None,
        is_inside=inside,
        angler=who.angler or "",
        code=code,
        devices=[DeviceView(id=str(one.id), name=one.name or "a device", at=when(one.paired_at)) for one in devices],
    )
    return render(request, "door/page.html", view)


@router.get("/door")
def door(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show how another device comes in."""
    return _door(request, house, who)


@router.get("/door/authority.crt")
def authority(request: Request) -> Response:
    """Return the authority's certificate, for a device to trust."""
    doors: Doors | None = request.app.state.doors
    if doors is None:
        raise MissingError("Other machines are not let in: start Mud Lamp with --host 0.0.0.0.")
    headers = {"Content-Disposition": 'attachment; filename="mud-lamp-authority.crt"'}
    return Response(doors.authority, media_type="application/x-x509-ca-cert", headers=headers)


@router.post("/door/code")
def code(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show a new code, by which one device comes in as the angler who showed it."""
    if not _is_here(request):
        raise DomainError(NOT_HERE)
    if who.angler_id is None:
        raise DomainError(SAY_WHO)
    return _door(request, house, who, code=house.pairing.show(who.angler_id))


@router.post("/door/devices/{key}")
def revoke(house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Turn a device away."""
    if who.angler_id is None:
        raise MissingError("You have no device with that key.")
    house.pairing.revoke(who.angler_id, key)
    return go_to("/door")


@router.get("/pair")
def pair_page(request: Request) -> HTMLResponse:
    """Show where a code is typed."""
    return render(request, "door/pair.html", PairView(problem="", name=""))


@router.post("/pair")
def pair(request: Request, house: At, who: Who, given: Form) -> Response:
    """Let this device in by a code, once."""
    name = given.get("name", "")
    try:
        angler = house.pairing.pair(given.get("code", ""), who.device, name)
    except DomainError as error:
        return render(request, "door/pair.html", PairView(problem=str(error), name=name), status=422)
    answer = RedirectResponse("/boat", status_code=303)
    secure = request.url.scheme == "https"
    answer.headers.append("set-cookie", set_cookie(ANGLER, request.app.state.seal.signed(ANGLER, angler), is_secure=secure))
    return answer
