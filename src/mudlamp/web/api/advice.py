"""Advice by the HTTP API: set-up cards, rigs."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.advice.styles import Style
from mudlamp.core.errors import MissingError
from mudlamp.core.records.cards import KeptCard
from mudlamp.core.records.rigs import Json, KeptLure, KeptRod
from mudlamp.formats.fields import PlainText
from mudlamp.services.cards import questions
from mudlamp.services.cards.advising import CardAnswer
from mudlamp.web.context import At, Who
from mudlamp.web.tune.routes import NO_CARD

router = APIRouter(prefix="/api/v1")


class TuneRequest(BaseModel):
    """The answers by their edge names (depth_ft, clarity, target, technique, ...), each of which may be left out, and the style."""

    model_config = ConfigDict(extra="forbid")

    answers: dict[str, PlainText | float | bool | None] = Field(default={}, max_length=len(questions.FIELDS))
    style: Style = Style.BALANCED


@dataclass(frozen=True, slots=True, kw_only=True)
class CardsAnswer:
    """Cards as they are kept."""

    cards: Sequence[KeptCard]


@dataclass(frozen=True, slots=True, kw_only=True)
class RigAnswer:
    """A rig with its box and rods, in SI."""

    id: uuid.UUID
    name: str
    active: bool
    version: int
    values: Json
    lures: Sequence[KeptLure]
    rods: Sequence[KeptRod]


@dataclass(frozen=True, slots=True, kw_only=True)
class RigsAnswer:
    """The owner's rigs."""

    rigs: Sequence[RigAnswer]


@router.post("/tune")
def tune(house: At, who: Who, wanted: TuneRequest) -> CardAnswer:
    """Return the set-up card of these answers with measured costs; the rig is the owner's active one. Nothing is kept."""
    return house.cards.answer(who.client, who.owner, wanted.answers, style=wanted.style, now=house.now())


@router.get("/cards")
def baselines(house: At, who: Who) -> CardsAnswer:
    """List the owner's baselines."""
    return CardsAnswer(cards=house.cards.baselines(who.owner))


@router.get("/cards/{key}")
def card(house: At, who: Who, key: uuid.UUID) -> KeptCard:
    """Return one of the owner's cards as it is kept."""
    found = house.cards.open(who.owner, key)
    if found is None:
        raise MissingError(NO_CARD)
    return found.kept


@router.get("/rigs")
def rigs(house: At, who: Who) -> RigsAnswer:
    """List the owner's rigs with their boxes and rods."""
    opened = [house.rigs.open(who.owner, one.id) for one in house.rigs.all(who.owner)]
    return RigsAnswer(
        rigs=[
            RigAnswer(
                id=one.kept.id,
                name=one.kept.name,
                active=one.kept.active,
                version=one.kept.version,
                values=one.kept.values,
                lures=one.lures,
                rods=one.rods,
            )
            for one in opened
        ]
    )
