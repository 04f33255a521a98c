"""Advice by the HTTP API: set-up cards, rigs."""

import uuid
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.advice.styles import Style
from mudlamp.core.errors import DomainError
from mudlamp.services.cards import questions as asking
from mudlamp.services.cards.advising import batch_of, card_json, card_of, costs_of, seed_of
from mudlamp.store import cards as store
from mudlamp.store import rigs as rig_store
from mudlamp.web.context import Context, context_of, owner_of

router = APIRouter(prefix="/api/v1")
Own = Annotated[Context, Depends(context_of)]


class TuneRequest(BaseModel):
    """The answers by their edge names (depth_ft, clarity, target, technique, ...), each of which may be left out, and the style."""

    model_config = ConfigDict(extra="forbid")

    answers: dict[str, str | float | bool | None] = Field(default={}, max_length=len(asking.FIELDS))
    style: Style = Style.BALANCED


@router.post("/tune")
def tune(request: Request, context: Own, wanted: TuneRequest) -> dict[str, Any]:
    """Return the set-up card of these answers with measured costs; the rig is the owner's active one. Nothing is kept."""
    for name in wanted.answers:
        if name not in asking.BY_NAME:
            raise DomainError(f"answers.{name[:30]} is not a question: it must be one of {', '.join(asking.BY_NAME)}")
    asked = asking.ask(wanted.answers, now=context.now())
    if asked.answers is None:
        name, message = next(iter(asked.problems.items()))
        raise DomainError(f"answers.{name}: {message}")
    aboard, _ = context.cards.aboard(owner_of(request, context), asked.answers)
    card = card_of(asked.answers, aboard, style=wanted.style)
    return card_json(card, costs_of(card, batch_of(card, aboard, seed=seed_of(asked.answers, aboard))))


@router.get("/cards")
def baselines(request: Request, context: Own) -> dict[str, Any]:
    """List the owner's baselines."""
    return {"cards": [asdict(one) for one in store.baselines(context.engine, owner_of(request, context))]}


@router.get("/cards/{key}")
def card(request: Request, context: Own, key: uuid.UUID) -> dict[str, Any]:
    """Return one of the owner's cards as it is kept."""
    found = store.card(context.engine, owner_of(request, context), key)
    if found is None:
        raise HTTPException(404, "There is no card of that key of yours.")
    return asdict(found)


@router.get("/rigs")
def rigs(request: Request, context: Own) -> dict[str, Any]:
    """List the owner's rigs with their boxes and rods."""
    found = rig_store.rigs(context.engine, owner_of(request, context))
    return {
        "rigs": [
            asdict(one)
            | {
                "lures": [asdict(lure) for lure in rig_store.lures(context.engine, one.id)],
                "rods": [asdict(rod) for rod in rig_store.rods(context.engine, one.id)],
            }
            for one in found
        ]
    }
