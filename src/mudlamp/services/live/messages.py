"""What a page asks of a session: commands, parsed once, at the socket, into frozen dataclasses."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field, PlainValidator, TypeAdapter, ValidationError

from mudlamp.core.advice.auto import AUTO_CONTROLS
from mudlamp.core.controls import ORDER, RECEIVER_NUMBERS, Control
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.spots import Spot
from mudlamp.core.setup import Setting
from mudlamp.core.tracking.classes import FishClass
from mudlamp.formats.fields import Within, first_problem
from mudlamp.services.edge.controls import BY_NAME, EDGE, read_settings
from mudlamp.services.water.hands import Bail, Lift, Reel, ShowMe, ThrowAt, Tie

Side = Literal["a", "b"]


def _settings(given: object) -> tuple[Setting, ...]:
    if not isinstance(given, Mapping):
        raise DomainError("values is not a set of controls: it must be an object of names and values")
    return read_settings(given, ORDER)


def _among(controls: tuple[Control, ...]) -> PlainValidator:
    names = [EDGE[control].name for control in controls]

    def check(given: object) -> Control:
        if given not in names:
            raise DomainError(f"control is {str(given)[:30]}: it must be one of {', '.join(names)}")
        return BY_NAME[str(given)].control

    return PlainValidator(check)


@dataclass(frozen=True, slots=True, kw_only=True)
class SetControls:
    """Set controls of a picture; `seq` is said back once they are set."""

    type: Literal["set"] = "set"
    values: Annotated[tuple[Setting, ...], PlainValidator(_settings)]
    side: Side = "a"
    seq: Annotated[int, Within(0, 2**53, whole=True)] = 0


@dataclass(frozen=True, slots=True, kw_only=True)
class SetPace:
    """Run, go slow, freeze, take one ping, or look at the last minute again, from a share of it on."""

    type: Literal["pace"] = "pace"
    pace: Literal["run", "slow", "frozen", "replay", "step"]
    share: Annotated[float, Within(0.0, 1.0)] = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class SetTwin:
    """Open or close the second picture, swap the two set-ups, or copy one across."""

    type: Literal["twin"] = "twin"
    do: Literal["on", "off", "swap", "copy"]
    side: Side = "a"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetAuto:
    """Let a rule set a control from now on, or stop it."""

    type: Literal["auto"] = "auto"
    control: Annotated[Control, _among(AUTO_CONTROLS)]
    on: bool = True
    side: Side = "a"


@dataclass(frozen=True, slots=True, kw_only=True)
class AskPrice:
    """Work out what a control costs now."""

    type: Literal["price"] = "price"
    control: Annotated[Control, _among(RECEIVER_NUMBERS)]
    side: Side = "a"


@dataclass(frozen=True, slots=True, kw_only=True)
class SetSettling:
    """Let Quieting settle in seconds, or in its own time."""

    type: Literal["settle"] = "settle"
    fast: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SayWho:
    """Say what a track is; without `who` the tracker says again."""

    type: Literal["who"] = "who"
    track: Annotated[int, Within(1, 2**31, whole=True)]
    who: FishClass | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class GuessLength:
    """Say how long a fish looks [in]: it is set beside what is measured."""

    type: Literal["guess"] = "guess"
    track: Annotated[int, Within(1, 2**31, whole=True)]
    length_in: Annotated[float, Within(2.0, 70.0, "in")]


@dataclass(frozen=True, slots=True, kw_only=True)
class UseScreen:
    """Judge the picture on another screen: the rig's was changed. No page sends it."""

    screen: Screen


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowSpots:
    """Draw these spots, in the water's own frame. No page sends it."""

    spots: tuple[Spot, ...]


Asked = (
    SetControls | SetPace | SetTwin | SetAuto | AskPrice | SetSettling | SayWho | GuessLength | ThrowAt | Bail | Reel | Lift | ShowMe | Tie
)
Command = Asked | UseScreen | ShowSpots
_PARSER: TypeAdapter[Asked] = TypeAdapter(Annotated[Asked, Field(discriminator="type")])


def parse_command(text: str | bytes) -> Asked:
    """Return the command of a JSON text; raise DomainError naming what is wrong in it."""
    try:
        return _PARSER.validate_json(text)
    except ValidationError as error:
        raise DomainError(_message(error)) from None


def _message(error: ValidationError) -> str:
    detail = error.errors(include_url=False)[0]
    if detail["type"] in ("json_invalid", "union_tag_not_found", "dataclass_type", "model_attributes_type"):
        return "a command was not understood"
    if detail["type"] == "union_tag_invalid":
        context = detail["ctx"]
        return f"command is {str(context['tag'])[:20]}: it must be one of {context['expected_tags']}".replace("'", "")
    cause = detail.get("ctx", {}).get("error")
    if isinstance(cause, DomainError):
        return str(cause)
    # The first part of the place is the command's own name.
    where, what = first_problem(error)
    return f"{'.'.join(str(part) for part in where[1:]) or 'command'} {what}"
