"""The desk of set-up cards: asked, kept, measured, tuned, moved, compared; each card keeps the gear it was made for."""

import datetime as dt
import threading
import uuid
from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import Engine

from mudlamp.core.advice.answers import Answers
from mudlamp.core.advice.autotune import Tuned
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.retune import Move, StaleCause, Value, Watch, kept, moved, stale, values_of
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Facts, Suspect, Symptom, ranked
from mudlamp.core.casting.lures import Line
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.setup import ReceiverSetup, Window
from mudlamp.core.rig.power import power_budget
from mudlamp.core.rig.profile import BoxedLure, RigProfile
from mudlamp.services.cards import advising
from mudlamp.services.cards import questions as asking
from mudlamp.services.cards.advising import Aboard, Costs, batch_of, card_of, costs_of, doubts_of, off_band, seed_of, usual_lure
from mudlamp.services.cards.questions import Asked
from mudlamp.services.jobs import Job, Jobs
from mudlamp.services.rig.form import restored
from mudlamp.services.words import card as card_words
from mudlamp.store import cards as store
from mudlamp.store import rigs as rig_store
from mudlamp.store.cards import KeptCard

_ABOARD = TypeAdapter(Aboard)
REMEMBERED = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenCard:
    """A card with all that belongs to it: as it is kept, the answers, the gear, the card itself; `fresh` where no rig is behind it."""

    kept: KeptCard
    answers: Answers
    aboard: Aboard
    card: Card

    @property
    def values(self) -> dict[str, Value]:
        """The values that are set, by the controls' core names."""
        return dict(self.kept.values)

    @property
    def setup(self) -> ReceiverSetup:
        """The receiver's set-up as it is set."""
        receiver = {name: value for name, value in self.kept.values.items() if name not in ("down_to_m", "reach_m")}
        return ReceiverSetup(**receiver | {"quieting_pings": int(receiver["quieting_pings"])})

    @property
    def window(self) -> Window:
        """The window as it is set."""
        return replace(self.card.window, down_to_m=float(self.kept.values["down_to_m"]), reach_m=float(self.kept.values["reach_m"]))


class Cards:
    """Set-up cards of all owners; long work goes to the jobs."""

    def __init__(self, engine: Engine, jobs: Jobs) -> None:
        self._engine = engine
        self._jobs = jobs
        self._open: OrderedDict[uuid.UUID, OpenCard] = OrderedDict()
        self._running: dict[tuple[uuid.UUID, str], Job] = {}
        self._lock = threading.Lock()

    # Asking.

    def aboard(self, owner: uuid.UUID, answers: Answers) -> tuple[Aboard, uuid.UUID | None]:
        """Return what is aboard: the active rig with the lure on the rod in hand, and its key; what is usual where nothing was told."""
        rig = rig_store.active_rig(self._engine, owner)
        if rig is None:
            return Aboard(lure=usual_lure(answers)), None
        box = {lure.id: lure for lure in rig_store.lures(self._engine, rig.id)}
        hand = next((rod for rod in rig_store.rods(self._engine, rig.id) if rod.in_hand), None)
        lure = None if hand is None or hand.lure_id is None else box.get(hand.lure_id)
        tied = usual_lure(answers) if lure is None else boxed(lure)
        return Aboard(rig=restored(rig.values), lure=tied, line=Line.FLUOROCARBON if hand is None else Line(hand.line)), rig.id

    def ask(
        self, owner: uuid.UUID, given: Mapping[str, Any], *, style: Style, now: dt.datetime, before: OpenCard | None = None
    ) -> tuple[OpenCard | None, Asked]:
        """Return a new card of a form's answers, kept; None where something in them is wrong, which the form says then.

        After a move (`before`) what need not change is left as it was set.
        """
        asked = asking.ask(given, now=now)
        if asked.answers is None:
            return None, asked
        aboard, rig_id = self.aboard(owner, asked.answers)
        answers = _with_own_sonars(asked.answers, aboard)
        card = card_of(answers, aboard, style=style)
        setup, window = (card.setup, card.window) if before is None else kept(card, before.values)
        row = store.add_card(
            self._engine,
            owner,
            rig_id=rig_id,
            parent_id=None if before is None else before.kept.id,
            style=style.value,
            answers={"texts": dict(asked.texts), "gear": _ABOARD.dump_python(aboard, mode="json")},
            values=values_of(setup, window),
            now=now,
        )
        return self._remember(OpenCard(kept=row, answers=answers, aboard=aboard, card=card)), asked

    def open(self, owner: uuid.UUID, key: uuid.UUID) -> OpenCard | None:
        """Return one of the owner's cards, or None."""
        row = store.card(self._engine, owner, key)
        return None if row is None else self._restored(row)

    def newest(self, owner: uuid.UUID) -> OpenCard | None:
        """Return the owner's newest card, or None."""
        row = store.newest_card(self._engine, owner)
        return None if row is None else self._restored(row)

    def _restored(self, row: KeptCard) -> OpenCard:
        with self._lock:
            known = self._open.get(row.id)
        if known is not None:
            return self._remember(replace(known, kept=row))
        aboard = _ABOARD.validate_python(dict(row.answers["gear"]))
        asked = asking.ask(row.answers["texts"], now=row.created_at)
        if asked.answers is None:
            raise DomainError(f"card {row.id} was made by other rules: ask again")
        answers = _with_own_sonars(asked.answers, aboard)
        card = card_of(answers, aboard, style=Style(row.style))
        return self._remember(OpenCard(kept=row, answers=answers, aboard=aboard, card=card))

    def _remember(self, one: OpenCard) -> OpenCard:
        with self._lock:
            self._open[one.kept.id] = one
            self._open.move_to_end(one.kept.id)
            while len(self._open) > REMEMBERED:
                self._open.popitem(last=False)
        return one

    # Long work.

    def measuring(self, device: uuid.UUID, one: OpenCard) -> Job:
        """Return the job that measures a card's costs; the one that is under way, where there is one."""
        return self._job(device, one, "costs", "measure what each setting costs here", self._measure)

    def tuning(self, device: uuid.UUID, one: OpenCard) -> Job:
        """Return the job that searches the receiver for a card; the one that is under way, where there is one."""
        return self._job(device, one, "tuned", "auto-tune", self._tune)

    def _job(self, device: uuid.UUID, one: OpenCard, kind: str, title: str, work: Any) -> Job:
        with self._lock:
            for key in [key for key, job in self._running.items() if job.over]:
                del self._running[key]
            job = self._running.get((one.kept.id, kind))
            if job is None:
                job = self._running[one.kept.id, kind] = self._jobs.start(device, title, lambda running: work(running, one))
            return job

    def _measure(self, job: Job, one: OpenCard) -> str:
        batch = batch_of(one.card, one.aboard, seed=seed_of(one.answers, one.aboard), progress=lambda share: job.progress(0.4 * share))
        costs = costs_of(one.card, batch, progress=lambda share: job.progress(0.4 + 0.5 * share))
        doubts = card_words.doubt_lines(doubts_of(one.answers, one.aboard, one.card))
        store.set_costs(self._engine, one.kept.owner, one.kept.id, {"costs": costs_json(costs), "doubts": doubts})
        return str(one.kept.id)

    def _tune(self, job: Job, one: OpenCard) -> str:
        seed = seed_of(one.answers, one.aboard)
        batch = batch_of(one.card, one.aboard, seed=seed, progress=lambda share: job.progress(0.1 * share))
        found = advising.tuned(one.card, batch, seed=seed, progress=job.progress)
        store.set_tuned(self._engine, one.kept.owner, one.kept.id, tuned_json(found, one.card))
        return str(one.kept.id)

    def take_tuned(self, one: OpenCard) -> OpenCard:
        """Set what auto-tune found; raise DomainError where it was not asked yet."""
        if one.kept.tuned is None:
            raise DomainError("auto-tune has not been run on this card: run it first")
        return self._set_values(one, dict(one.kept.values) | dict(one.kept.tuned["values"]))

    def take_style(self, one: OpenCard, style: Style) -> OpenCard:
        """Set the card as another style would."""
        return self._set_values(one, values_of(one.card.setups[style], one.window))

    def _set_values(self, one: OpenCard, values: Mapping[str, Any]) -> OpenCard:
        row = store.set_values(self._engine, one.kept.owner, one.kept.id, values)
        return one if row is None else self._remember(replace(one, kept=row))

    # Moves, symptoms, staleness.

    def move(self, one: OpenCard, before: OpenCard) -> Move:
        """Return what changes from one card as it was set to another as it is set."""
        return moved(before.values, one.values)

    def suspects(self, one: OpenCard, symptom: Symptom, now_set: Mapping[str, Value]) -> list[Suspect]:
        """Return the causes of a symptom for a card, with the controls as they stand now."""
        values = one.values | dict(now_set)
        receiver = {name: value for name, value in values.items() if name not in ("down_to_m", "reach_m")}
        rig = one.aboard.rig
        facts = Facts(
            card=one.card,
            setup=ReceiverSetup(**receiver | {"quieting_pings": int(float(receiver["quieting_pings"]))}),  # type: ignore[arg-type]
            window=replace(one.window, down_to_m=float(values["down_to_m"]), reach_m=float(values["reach_m"])),
            thickness_rad=rig.transducer.thickness_rad,
            unit_v=None if one.kept.rig_id is None else power_budget(rig.power.supply, rig.power.loads).unit_v,
            mount=None if one.kept.rig_id is None else rig.mount.kind,
            stow=rig.mount.stow,
        )
        return ranked(symptom, facts)

    def stale(self, one: OpenCard, *, now: dt.datetime, shot_out: bool) -> StaleCause | None:
        """Return why a card has grown stale, noting that it was told; None while it holds, or while nobody may be disturbed."""
        then = one.answers.sun_rad
        later = asking.with_sun(one.answers, one.kept.answers["texts"], now).sun_rad
        told = one.kept.noticed_at
        watch = Watch(
            sun_then_rad=0.5 if then is None else then,
            sun_now_rad=0.5 if later is None else later,
            age_s=(now - one.kept.created_at).total_seconds(),
            since_notice_s=None if told is None else (now - told).total_seconds(),
            shot_out=shot_out,
        )
        cause = stale(watch)
        if cause is not None:
            store.set_noticed(self._engine, one.kept.owner, one.kept.id, now)
        return cause


def _with_own_sonars(answers: Answers, aboard: Aboard) -> Answers:
    """Return the answers with the rig's own other transducers, where nobody told of others."""
    live = aboard.rig.others.live
    return replace(answers, other_sonars=live) if answers.other_sonars is None and live else answers


def boxed(lure: rig_store.KeptLure) -> BoxedLure:
    """Return a kept lure as the core has it."""
    return TypeAdapter(BoxedLure).validate_python({name: getattr(lure, name) for name in BoxedLure.__slots__})


def rig_of(kept_rig: rig_store.KeptRig) -> RigProfile:
    """Return a kept rig as the core has it."""
    return restored(kept_rig.values)


def costs_json(costs: Costs) -> dict[str, Any]:
    """Return costs as plain figures by control and style."""
    return {control: {style.value: advising.cost_json(cost) for style, cost in by_style.items()} for control, by_style in costs.items()}


def tuned_json(found: Tuned, card: Card) -> dict[str, Any]:
    """Return what auto-tune found as plain figures: values, scores, readings beside the start's, and what lies outside the trade's bands."""
    names = ("lure_over_clutter_db", "faintest_fish_db", "fish_shown_pct", "clutter_fill_pct", "blown_out_pct", "lag_ms", "parting_m")
    values = values_of(found.setup, card.window)
    return {
        "values": {name: value for name, value in values.items() if name not in ("down_to_m", "reach_m")},
        "score": round(found.score, 1),
        "start_score": round(found.start_score, 1),
        "readings": {name: getattr(found.readings, name) for name in names},
        "start_readings": {name: getattr(found.start_readings, name) for name in names},
        "off_band": {name: list(band) for name, band in off_band(card, found.setup).items()},
    }
