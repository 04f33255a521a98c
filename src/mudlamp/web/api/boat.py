"""The boat by the HTTP API: the pack, and the entries that a phone brings home."""

import uuid

from fastapi import APIRouter
from fastapi.responses import JSONResponse, Response

from mudlamp.core.errors import MissingError
from mudlamp.core.water.clarity import clarity_of
from mudlamp.services.boat.desk import Receipt
from mudlamp.services.boat.given import BatchGiven
from mudlamp.services.boat.pack import VERSION
from mudlamp.services.example import example_card
from mudlamp.services.jobs import JobView
from mudlamp.services.trips.review import last_time_words
from mudlamp.web.context import At, Who
from mudlamp.web.times import local, zone

router = APIRouter(prefix="/api/v1/boat")


@router.get("/pack")
def pack(house: At, who: Who) -> Response:
    """Return the trip pack, to be kept on the phone; null where there is none yet, or one of before."""
    kept = house.boat.pack(who.owner)
    return JSONResponse(None if kept is None or kept.content.get("version") != VERSION else dict(kept.content))


@router.post("/pack")
def make_pack(house: At, who: Who, card: uuid.UUID | None = None) -> JobView:
    """Start computing the pack of a card (else of the newest one, else of the demo's), and return the job to be followed."""
    found = house.cards.newest(who.owner) if card is None else house.cards.open(who.owner, card)
    if found is None and card is not None:
        raise MissingError("You have no card with that key.")
    chosen = found or example_card()
    told = chosen.plan.answers
    like = house.review.last_time_like(
        who.owner,
        clarity="" if told.secchi_m is None else clarity_of(secchi_m=told.secchi_m).value,
        water_degc=told.temperature_degc,
        source="real",
        now=house.now(),
    )
    words = last_time_words(like, zone())
    return house.boat.make_pack(who.device, who.owner, chosen, now=local(house.now()), last_time=words).view()


@router.post("/entries")
def entries(house: At, who: Who, batch: BatchGiven) -> Receipt:
    """Take in a phone's queue: each entry once, in its order, at its own time, whatever was sent before."""
    return house.boat.take_in(who.owner, who.device, batch)
