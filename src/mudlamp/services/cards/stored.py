"""What is kept of a card beside its row: the plan it was made by, its measured costs, what auto-tune found."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from pydantic import TypeAdapter

from mudlamp.core.advice.answers import Answers
from mudlamp.core.advice.autotune import Tuned
from mudlamp.core.advice.looks import Look
from mudlamp.core.advice.lure_seen import LureSeen
from mudlamp.core.advice.own_start import SPREADS, Ended, Kind, Shift, shift_of, shifted
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.sight import Sight
from mudlamp.core.advice.styles import Style
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.records.cards import KeptCard
from mudlamp.core.records.rigs import Json
from mudlamp.core.setup import ReceiverSetup
from mudlamp.services.cards import questions
from mudlamp.services.cards.advising import Costs, card_of, off_band, with_own_sonars
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.words.cues import Stops

# Raised when a plan of before would no longer be understood: such cards are planned anew from their answers.
VERSION = 2


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredPlan:
    """A card as it was planned: the answers, the gear, the card itself, and how far the angler's own hand shifted its starts, by core name."""

    version: int
    answers: Answers
    aboard: Aboard
    card: Card
    own: Mapping[str, Shift] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Sights:
    """How far out the lure shows under each style's set-up, and a fish of the kind sought under the card's."""

    lure: Mapping[Style, Sight]
    fish: Sight


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What was measured of a card; those of before know no more than their costs.

    What each setting costs, how the lure shows, the Gain at which mid-water turns grainy and the Punch at which marks fill in solid (None:
    nowhere), how much of mid-water may be lit where each stepped control stops [%] (None: a step less looks the same), what each gap in the answers does, in lines, how far out things show, how each control looks when it is off, by core name, and
    how far out the lure shows with one control as a style would set it, of those that dim or brighten it.
    """

    costs: Costs
    lure: LureSeen | None = None
    speckle_gain: float | None = None
    solid_punch: float | None = None
    lit_limits_pct: Mapping[str, float | None] = field(default_factory=dict)
    doubts: Sequence[str] = ()
    sights: Sights | None = None
    looks: Mapping[str, tuple[Look, ...]] = field(default_factory=dict)
    settings: Mapping[str, Mapping[Style, Sight]] = field(default_factory=dict)

    @property
    def stops(self) -> Stops:
        """Where Gain and Punch show that they are too high, and where the stepped controls stop."""
        return Stops(speckle_gain=self.speckle_gain, solid_punch=self.solid_punch, lit_limits_pct=self.lit_limits_pct)

    @property
    def hides_lure(self) -> bool:
        """Whether the lure is hidden on any of the waters."""
        return self.lure is not None and self.lure.hidden > 0


@dataclass(frozen=True, slots=True, kw_only=True)
class TunedFigures:
    """Readings of a set-up in figures; None where there is no such thing."""

    lure_over_clutter_db: float | None
    faintest_fish_db: float | None
    fish_shown_pct: float | None
    clutter_fill_pct: float
    blown_out_pct: float
    lag_ms: float
    parting_m: float

    @classmethod
    def of(cls, readings: Readings) -> "TunedFigures":
        """Return the figures of readings."""
        return cls(**{name: getattr(readings, name) for name in cls.__slots__})


@dataclass(frozen=True, slots=True, kw_only=True)
class StoredTuned:
    """What auto-tune found: the set-up, scores and readings beside the start's, what lies outside the usual bands, how far each shows the lure."""

    values: ReceiverSetup
    score: float
    start_score: float
    readings: TunedFigures
    start_readings: TunedFigures
    off_band: Mapping[str, tuple[float, float]]
    sight: Sight | None = None
    start_sight: Sight | None = None


_PLAN = TypeAdapter(StoredPlan)
_MEASURED = TypeAdapter(Measured)
_TUNED = TypeAdapter(StoredTuned)
_ABOARD = TypeAdapter(Aboard)


def tuned_of(found: Tuned, card: Card, *, sight: Sight, start_sight: Sight) -> StoredTuned:
    """Return what auto-tune found as it is kept, with how far the lure shows under it and under the start."""
    return StoredTuned(
        values=found.setup,
        score=round(found.score, 1),
        start_score=round(found.start_score, 1),
        readings=TunedFigures.of(found.readings),
        start_readings=TunedFigures.of(found.start_readings),
        off_band=off_band(card, found.setup),
        sight=sight,
        start_sight=start_sight,
    )


def plan_json(plan: StoredPlan) -> Json:
    """Return a plan for the store."""
    return dict(_PLAN.dump_python(plan, mode="json"))


def measured_json(measured: Measured) -> Json:
    """Return measured costs for the store."""
    return dict(_MEASURED.dump_python(measured, mode="json"))


def tuned_json(tuned: StoredTuned) -> Json:
    """Return what auto-tune found for the store."""
    return dict(_TUNED.dump_python(tuned, mode="json"))


def made_plan(answers: Answers, aboard: Aboard, *, style: Style, ends: Sequence[Ended] = ()) -> StoredPlan:
    """Return the plan of answers and gear, its starts shifted by where the angler ended before."""
    whole = with_own_sonars(answers, aboard)
    card = card_of(whole, aboard, style=style)
    kind = Kind.of(card.here)
    own = {control.name: shift for control in SPREADS if (shift := shift_of(ends, kind, control)) is not None}
    return StoredPlan(version=VERSION, answers=whole, aboard=aboard, card=shifted(card, own), own=own)


def plan_of(row: KeptCard) -> StoredPlan:
    """Return a card's plan as it was made; one of another version, or from before plans were kept, is planned anew from its answers.

    Raises DomainError where its answers are no longer understood.
    """
    if row.plan is not None and row.plan.get("version") == VERSION:
        return _PLAN.validate_python(row.plan)
    asked = questions.ask(texts_of(row), now=row.created_at)
    if asked.answers is None:
        raise DomainError(f"card {row.id} was made by an older version: build it again")
    return made_plan(asked.answers, _ABOARD.validate_python(row.answers["gear"]), style=Style(row.style))


def texts_of(row: KeptCard) -> dict[str, str]:
    """Return a card's answers as they were typed."""
    texts = row.answers["texts"]
    return {str(name): str(text) for name, text in texts.items()} if isinstance(texts, Mapping) else {}


def measured_of(row: KeptCard) -> Measured | None:
    """Return a card's measured costs, or None where they are not measured yet."""
    return None if row.costs is None else _MEASURED.validate_python(row.costs)


def stored_tuned_of(row: KeptCard) -> StoredTuned | None:
    """Return what auto-tune found for a card, or None where it was not run."""
    return None if row.tuned is None else _TUNED.validate_python(row.tuned)


def answers_json(texts: Mapping[str, str], aboard: Aboard) -> Json:
    """Return the answers as typed, and the gear, for the store."""
    return {"texts": dict(texts), "gear": _ABOARD.dump_python(aboard, mode="json")}
