"""What a phone sends: acts in the boat, each checked by itself, so that one that is wrong loses no other."""

import datetime as dt
import uuid
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, field_validator

from mudlamp.core.advice.answers import Sky
from mudlamp.core.errors import DomainError
from mudlamp.core.texts import mended
from mudlamp.core.water.clarity import Clarity
from mudlamp.services.edge.forms import EARLIEST_YEAR, LATEST_YEAR
from mudlamp.services.words.boat import EVERY_OUTCOME

# What is sent at once, and how many can be given another rod in one go.
MOST_AT_ONCE, MOST_REASSIGNED = 500, 10
# Mended as the store would, so that what is sent again is found to be the same.
Short = Annotated[str, AfterValidator(mended), Field(max_length=80)]
Deep = Annotated[float, Field(ge=0.0, le=190.0)]


def _in_our_time(at: dt.datetime) -> dt.datetime:
    """Return a time of this century; raise ValueError for one that no phone's clock shows."""
    if not EARLIEST_YEAR <= at.year < LATEST_YEAR:
        raise ValueError(f"it must be a time from {EARLIEST_YEAR} to {LATEST_YEAR}")
    return at


Moment = Annotated[AwareDatetime, AfterValidator(_in_our_time)]


class _Part(BaseModel):
    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class Outcome(_Part):
    """What became of a cast, with the rod in hand."""

    token: str
    rod: Short = ""
    rod_name: Short = ""
    lure: Short = ""
    depth_ft: Deep | None = None
    out_ft: Deep | None = None

    @field_validator("token")
    @classmethod
    def known(cls, value: str) -> str:
        """Return a token of the list; raise ValueError for any other."""
        if value not in EVERY_OUTCOME:
            raise ValueError(f"it must be one of {', '.join(EVERY_OUTCOME)}")
        return value


class Undo(_Part):
    """An entry taken back."""

    of: uuid.UUID


class Rod(_Part):
    """Entries that were made with another rod than the one that was in hand."""

    of: list[uuid.UUID] = Field(min_length=1, max_length=MOST_REASSIGNED)
    rod: Short
    rod_name: Short = ""
    lure: Short = ""


class Tied(_Part):
    """Another lure on a rod."""

    rod: Short
    rod_name: Short = ""
    lure: Short


class Moved(_Part):
    """A move to other water."""

    depth_ft: Deep
    clarity: Clarity
    sky: Sky


class Recording(_Part):
    """Whether the unit records."""

    on: bool


class EntryGiven(_Part):
    """One act: its key, its number on the phone, when by the phone's own clock, what."""

    id: uuid.UUID
    number: int = Field(ge=1, le=2**31 - 1)
    at: Moment
    kind: Literal["outcome", "undo", "rod", "tied", "move", "recording"]
    values: dict[str, Any]

    def checked(self) -> dict[str, Any]:
        """Return the values as they are kept; raise ValidationError where they are not of the kind."""
        return KINDS[self.kind].model_validate(self.values).model_dump(mode="json", exclude_none=True)


KINDS: dict[str, type[_Part]] = {"outcome": Outcome, "undo": Undo, "rod": Rod, "tied": Tied, "move": Moved, "recording": Recording}
_ENTRY = TypeAdapter(EntryGiven)


class BatchGiven(BaseModel):
    """A queue as it is sent: the phone's own time then, and its entries, each checked by itself."""

    model_config = ConfigDict(extra="forbid")

    sent_at: Moment
    entries: list[dict[str, Any]] = Field(max_length=MOST_AT_ONCE)


class QueueFile(BaseModel):
    """A queue as a file: what waited, and what was refused before, with its reasons."""

    model_config = ConfigDict(extra="ignore")

    sent_at: Moment
    entries: list[dict[str, Any]] = Field(max_length=MOST_AT_ONCE)
    refused: list[dict[str, Any]] = Field(default=[], max_length=MOST_AT_ONCE)

    def batch(self) -> BatchGiven:
        """Return all of it as a queue to be taken in, the reasons left out."""
        again = [{name: value for name, value in one.items() if name != "why"} for one in self.refused]
        return BatchGiven(sent_at=self.sent_at, entries=[*self.entries, *again][:MOST_AT_ONCE])


def batch_of(text: str) -> BatchGiven:
    """Return the queue of a file that a phone saved; raise DomainError for a text that is none."""
    try:
        return QueueFile.model_validate_json(text).batch()
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "the file"
        raise DomainError(f"{where} is not as a phone saves it: {first['msg']}") from None


def entry_of(given: dict[str, Any]) -> tuple[EntryGiven, dict[str, Any]] | str:
    """Return an entry with its values checked, or what is wrong with it: the field, and what is allowed."""
    try:
        entry = _ENTRY.validate_python(given)
        return entry, entry.checked()
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "entry"
        return f"{where} is {str(first.get('input'))[:40]}: {first['msg'].removeprefix('Value error, ')}"


def offset_s(sent_at: dt.datetime, now: dt.datetime) -> float:
    """Return how far a phone's clock is behind ours [s]."""
    return round((now - sent_at).total_seconds(), 1)
