"""The trip pack: all that a phone takes along to look up where there is no link, computed for one card, one rig, its rods."""

import datetime as dt
import math
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from pydantic import TypeAdapter

from mudlamp.core.advice.answers import Goal
from mudlamp.core.advice.own_start import shifted_start
from mudlamp.core.casting.habit import Habit
from mudlamp.core.controls import INK, ON_CARD
from mudlamp.core.fishing.moving import Spell
from mudlamp.core.records.rigs import Json, KeptLure, KeptRod
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.units import MPH_M_S, degf_from_degc, feet
from mudlamp.core.water.clarity import clarity_of
from mudlamp.services.boat.staying import StayTable, stay_table
from mudlamp.services.boat.tables import (
    CAST_DEPTHS_FT,
    CAST_FT,
    CastTable,
    Progress,
    RetuneTable,
    Thrown,
    WindyTable,
    cast_table,
    retune_table,
    windy_tables,
)
from mudlamp.services.cards.advising import start_for
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.edge.controls import of
from mudlamp.services.edge.sun import SunTimes
from mudlamp.services.edge.weights import ounces
from mudlamp.services.rig.box import KINDS, boxed
from mudlamp.services.rig.desk import OpenRig
from mudlamp.services.water.from_answers import fish_place
from mudlamp.services.words import boat as boat_words
from mudlamp.services.words import card as card_words
from mudlamp.services.words import cues

VERSION = 1
# What a wind is taken for where nobody said, and from where on it counts [mph]; for so many lures, those tied on first.
BREEZE_MPH, LEAST_WIND_MPH = 10.0, 4.0
MOST_WINDY = 4
USUAL_ROD_FT = 7.0
# Of the lures in the box, and of the rods, so many are worked out.
MOST_LURES, MOST_RODS = 8, 6
# What a color's name looks like on a chip; any other is left blank.
SWATCHES = {
    "white": "#f4f4f0", "black": "#22262a", "pink": "#dd8fb0", "olive": "#7f8a4a", "chartreuse": "#c6dd3a", "green": "#3f7d4a", "blue": "#4a6fb5",
    "red": "#b5443f", "orange": "#d98a3d", "purple": "#7a5aa0", "gray": "#9aa0a0", "grey": "#9aa0a0", "silver": "#c3c9cc", "gold": "#c8a84b",
    "brown": "#7d5b3f", "yellow": "#e3cf55", "smoke": "#6d7375", "pearl": "#ebe6da", "shad": "#b9c0bf", "watermelon": "#58764b",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class CardLine:
    """A line of the card as it is set: what the angler's unit calls the control, the value, what to look for."""

    name: str
    label: str
    shown: str
    cue: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PackedLure:
    """A lure with its cast rows, in a calm and in winds."""

    id: str
    name: str
    swatch: str
    table: CastTable
    windy: Sequence[WindyTable] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class PackedRod:
    """A rod and which lure is tied on it; `in_hand` is the one taken first."""

    id: str
    name: str
    lure: str
    in_hand: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Here:
    """The water that the pack's card is for, by the edges of its tables."""

    depth_ft: int
    clarity: str
    sky: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """A word for scripts and the words for people."""

    token: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Pack:
    """A trip pack. Distances and depths of the cast rows begin at `cast_from_ft` and `cast_depth_from_ft`, a foot a row."""

    version: int
    made_at: dt.datetime
    title: str
    card: Sequence[CardLine]
    good_enough: str
    caution: str
    here: Here
    reach_ft: float
    down_to_ft: float
    usual_ft: float
    retune: RetuneTable
    cast_from_ft: int
    cast_depth_from_ft: int
    cast_depths: int
    lures: Sequence[PackedLure]
    rods: Sequence[PackedRod]
    sun: Sequence[Named]
    outcomes: Sequence[Named]
    after_bite: Sequence[Named]
    boat_caution: str
    recording: str
    last_time: Sequence[str] = ()
    stay: StayTable | None = None
    after_hooked: Sequence[Named] = ()


_PACK = TypeAdapter(Pack)


def pack_json(pack: Pack) -> Json:
    """Return a pack for the store and the phone."""
    return dict(_PACK.dump_python(pack, mode="json"))


def pack_of(content: Json) -> Pack | None:
    """Return a stored pack; None where it is of another version: it must be made anew."""
    return _PACK.validate_python(content) if content.get("version") == VERSION else None


def made_pack(
    one: OpenCard,
    rig: OpenRig | None,
    habit: Habit,
    sun: SunTimes | None,
    *,
    now: dt.datetime,
    last_time: Sequence[str] = (),
    record: Spell | None = None,
    progress: Progress = lambda share: None,
) -> Pack:
    """Return the pack of a card, on a rig with its rods and box, with what the last time like this brought and the angler's own `record`.

    `progress` may raise to stop it.
    """
    plan, card = one.plan, one.plan.card
    lures = _lures(rig, plan.aboard.lure)
    retune = retune_table(
        plan.answers,
        one.setup,
        lambda answers: shifted_start(start_for(answers, plan.aboard, style=card.style), plan.own),
        one.labels,
        progress=lambda share: progress(0.6 * share),
    )
    usual_ft = min(max(round(feet(fish_place(card.here, card.window)[0])), CAST_FT[0]), CAST_FT[-1])
    packed = []
    for number, (key, lure) in enumerate(lures):

        def done(share: float, number: int = number) -> None:
            progress(0.6 + 0.4 * (number + share) / len(lures))

        packed.append(_packed(one, key, _thrown(one, rig, lure, habit, usual_ft), with_wind=number < MOST_WINDY, progress=done))
    return Pack(
        version=VERSION,
        made_at=now,
        title=card_words.headline(card),
        card=[_line(one, control.name) for control in ON_CARD],
        good_enough=card_words.good_enough(card, hidden=False),
        caution=card_words.around(card).caution,
        here=Here(
            depth_ft=min(retune.depths_ft, key=lambda depth: abs(depth - feet(card.here.depth_m))),
            clarity=clarity_of(secchi_m=card.here.secchi_m).value,
            sky=card.here.sky.value,
        ),
        reach_ft=round(feet(one.setup.window.reach_m)),
        down_to_ft=round(feet(one.setup.window.down_to_m)),
        usual_ft=usual_ft,
        retune=retune,
        cast_from_ft=CAST_FT[0],
        cast_depth_from_ft=CAST_DEPTHS_FT[0],
        cast_depths=len(CAST_DEPTHS_FT),
        lures=packed,
        rods=_rods(rig, lures),
        sun=[] if sun is None else [Named(token=name, label=text) for name, text in sun.lines],
        outcomes=[Named(token=token, label=label) for token, label in boat_words.OUTCOMES.items()],
        after_bite=[Named(token=token, label=label) for token, label in boat_words.AFTER_BITE.items()],
        after_hooked=[Named(token=token, label=label) for token, label in boat_words.AFTER_HOOKED.items()],
        boat_caution=boat_words.CAUTION,
        recording=boat_words.RECORDING,
        last_time=list(last_time),
        stay=stay_table(record or Spell(takes=0, minutes=0.0), is_trophy=one.texts.get("goal") == Goal.TROPHY),
    )


def _packed(one: OpenCard, key: str, thrown: Thrown, *, with_wind: bool, progress: Progress) -> PackedLure:
    """Return a lure's rows; a wind is worked out for the lures that are tied on: the others are changed to in a calm moment."""
    lure = thrown.lure
    calm = cast_table(thrown, progress=lambda share: progress(0.3 * share))
    windy = windy_tables(thrown, _wind_mph(one), progress=lambda share: progress(0.3 + 0.7 * share)) if with_wind else ()
    return PackedLure(id=key, name=lure_name(lure), swatch=_swatch(lure.color), table=calm, windy=windy)


def _wind_mph(one: OpenCard) -> float:
    """Return the wind that casts are worked out for: the card's where it was answered and can be felt, else a breeze."""
    here = one.plan.card.here
    told = 0.0 if "wind_m_s" in here.assumed else here.wind_m_s / MPH_M_S
    return float(round(told)) if told >= LEAST_WIND_MPH else BREEZE_MPH


def lure_name(lure: BoxedLure) -> str:
    """Return a lure as a chip says it: its color and weight, its kind where it is no jig."""
    kind = "" if lure.kind.value == "jig" and lure.color else KINDS[lure.kind.value]
    return " ".join(part for part in (lure.color, ounces(lure.head_kg).removesuffix(" oz"), kind) if part)


def _swatch(color: str) -> str:
    """Return what a color looks like, by the first of its words that is known; empty where none is."""
    return next((SWATCHES[word] for word in color.lower().split() if word in SWATCHES), "")


def _line(one: OpenCard, name: str) -> CardLine:
    control = of(name)
    cue = "" if name == INK.name else cues.stop_cue(name, one.labels)
    return CardLine(name=name, label=one.labels[name], shown=control.shown(one.setup.value(control.control)), cue=cue)


def _lures(rig: OpenRig | None, aboard: BoxedLure) -> list[tuple[str, BoxedLure]]:
    """Return the lures that casts are worked out for: those tied on first, then the box's; what the card assumes where there are none."""
    kept: Sequence[KeptLure] = () if rig is None else rig.lures
    tied = {rod.lure_id for rod in (() if rig is None else rig.rods)}
    ordered = sorted(kept, key=lambda lure: lure.id not in tied)[:MOST_LURES]
    return [(str(lure.id), boxed(lure)) for lure in ordered] or [(str(uuid.UUID(int=0)), aboard)]


def _rods(rig: OpenRig | None, lures: Sequence[tuple[str, BoxedLure]]) -> list[PackedRod]:
    known = [key for key, _ in lures]
    rods: Sequence[KeptRod] = () if rig is None else sorted(rig.rods, key=lambda rod: not rod.in_hand)[:MOST_RODS]
    found = [
        PackedRod(id=str(rod.id), name=rod.name, lure=str(rod.lure_id) if str(rod.lure_id) in known else known[0], in_hand=rod.in_hand)
        for rod in rods
    ]
    return found or [PackedRod(id=str(uuid.UUID(int=1)), name="Rod", lure=known[0], in_hand=True)]


def _thrown(one: OpenCard, rig: OpenRig | None, lure: BoxedLure, habit: Habit, usual_ft: float) -> Thrown:
    profile, here = one.plan.aboard.rig, one.plan.card.here
    rods: Mapping[str, KeptRod] = (
        {} if rig is None else {lure_name(boxed(each)): rod for rod in rig.rods for each in rig.lures if each.id == rod.lure_id}
    )
    rod = rods.get(lure_name(lure))
    return Thrown(
        lure=lure,
        rod_ft=USUAL_ROD_FT if rod is None else feet(rod.length_m),
        clarity=clarity_of(secchi_m=here.secchi_m),
        temp_f=None if "temperature_degc" in here.assumed else degf_from_degc(here.temperature_degc),
        transducer_ft=feet(profile.mount.depth_m),
        thickness_deg=math.degrees(profile.transducer.thickness_rad),
        habit=habit,
        usual_ft=usual_ft,
        fish_ft=feet(here.fish_m),
    )
