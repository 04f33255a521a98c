"""The desk of set-up cards: asked, kept, measured, tuned, moved, compared, tried; each card keeps the gear it was made for."""

import datetime as dt
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Engine

from mudlamp.core.advice.asking import Question, questions_by_worth
from mudlamp.core.advice.own_start import SPREADS, Ended, Kind, Shift, shift_of
from mudlamp.core.advice.retune import Move, StaleCause, Watch, bands_of, kept, moved, stale
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Cause, Facts, Suspect, Symptom, ranked
from mudlamp.core.controls import AIM, DOWN_TO, REACH, SOUND_SPEED, Control
from mudlamp.core.errors import DomainError, require_choice
from mudlamp.core.records.cards import KeptCard
from mudlamp.core.rig.power import power_budget
from mudlamp.core.setup import Setting, Setup, settings_of, stored_setup, values_of, with_settings
from mudlamp.formats.scene.parts import SceneFile
from mudlamp.services.cards import advising, questions
from mudlamp.services.cards.advising import CardAnswer
from mudlamp.services.cards.measuring import answered, measured
from mudlamp.services.cards.pictures import Pictures
from mudlamp.services.cards.questions import Asked
from mudlamp.services.cards.shows import SHOWS, shown_controls, shown_scene
from mudlamp.services.cards.sight import lure_waters, sight
from mudlamp.services.cards.stored import (
    Measured,
    StoredPlan,
    StoredTuned,
    answers_json,
    made_plan,
    measured_json,
    measured_of,
    plan_json,
    plan_of,
    stored_tuned_of,
    texts_of,
    tuned_json,
    tuned_of,
)
from mudlamp.services.jobs import Job, Jobs, WorkedOut
from mudlamp.services.rig.desk import RigDesk
from mudlamp.services.words import card as words
from mudlamp.services.words.labels import labels_of
from mudlamp.store import cards as store
from mudlamp.store import ended as ended_store

NAME_LENGTH = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenCard:
    """A card with all that belongs to it: its row, the plan it was made by, what is set, and what was measured and found."""

    kept: KeptCard
    plan: StoredPlan
    setup: Setup
    measured: Measured | None
    tuned: StoredTuned | None

    @property
    def texts(self) -> Mapping[str, str]:
        """The answers as they were typed."""
        return texts_of(self.kept)

    @property
    def labels(self) -> Mapping[str, str]:
        """What to call each control: the angler's own words where they were typed."""
        return labels_of(self.plan.aboard.rig if self.kept.rig_id is not None else None)


@dataclass(frozen=True, slots=True, kw_only=True)
class OnTheLamp:
    """What is to be opened on the Lamp: a water, set-up A on it, and set-up B beside it."""

    scene: SceneFile
    a: tuple[Setting, ...]
    b: tuple[Setting, ...]


class CardDesk:
    """Set-up cards of all owners; long work goes to the jobs."""

    def __init__(self, engine: Engine, jobs: Jobs, rigs: RigDesk) -> None:
        self._engine = engine
        self._jobs = jobs
        self._rigs = rigs
        self._worked_out: WorkedOut[CardAnswer] = WorkedOut()
        self.pictures = Pictures()

    # Asking.

    def ask(
        self, owner: uuid.UUID, given: Mapping[str, object], *, style: Style, now: dt.datetime, before: OpenCard | None = None
    ) -> tuple[OpenCard | None, Asked]:
        """Return a new card of a form's answers, kept; None where something in them is wrong, which the form says then.

        After a move (`before`) what need not change is left as it was set.
        """
        asked = questions.ask(given, now=now)
        if asked.answers is None:
            return None, asked
        aboard, rig_id = self._rigs.aboard(owner, asked.answers)
        plan = made_plan(asked.answers, aboard, style=style, ends=ended_store.ends(self._engine, owner))
        setup = plan.card.start if before is None else kept(plan.card, before.setup)
        row = store.add_card(
            self._engine,
            owner,
            rig_id=rig_id,
            parent_id=None if before is None else before.kept.id,
            style=style.value,
            answers=answers_json(asked.texts, aboard),
            plan=plan_json(plan),
            values=values_of(setup.window, setup.receiver),
            now=now,
        )
        return _opened(row), asked

    def ask_moved(self, owner: uuid.UUID, before: OpenCard, given: Mapping[str, str], *, now: dt.datetime) -> tuple[OpenCard | None, Asked]:
        """Return the card after a move: the former answers with those that changed."""
        return self.ask(owner, questions.after_move(before.texts, given), style=before.plan.card.style, now=now, before=before)

    def next_question(self, one: OpenCard, without: Sequence[str]) -> Question | None:
        """Return the question whose answer could change a card most, those left out that were skipped; None where none would."""
        plan = one.plan
        start = advising.start_for(plan.answers, plan.aboard, style=plan.card.style)
        found = questions_by_worth(
            plan.answers, start, lambda answers: advising.start_for(answers, plan.aboard, style=plan.card.style), without=without
        )
        return found[0] if found else None

    def ask_more(self, owner: uuid.UUID, one: OpenCard, given: Mapping[str, str], *, now: dt.datetime) -> tuple[OpenCard | None, Asked]:
        """Return the card of the same answers and one more."""
        more = {name: text for name, text in given.items() if name in questions.BY_NAME}
        return self.ask(owner, dict(one.texts) | more, style=one.plan.card.style, now=now)

    def open(self, owner: uuid.UUID, key: uuid.UUID) -> OpenCard | None:
        """Return one of the owner's cards, or None."""
        row = store.card(self._engine, owner, key)
        return None if row is None else _opened(row)

    def newest(self, owner: uuid.UUID) -> OpenCard | None:
        """Return the owner's newest card, or None."""
        row = store.newest_card(self._engine, owner)
        return None if row is None else _opened(row)

    def before(self, one: OpenCard) -> OpenCard | None:
        """Return the card that was set before a move led to this one, or None."""
        return None if one.kept.parent_id is None else self.open(one.kept.owner, one.kept.parent_id)

    def answer(self, client: uuid.UUID, owner: uuid.UUID, given: Mapping[str, object], *, style: Style, now: dt.datetime) -> CardAnswer:
        """Return the card of some answers with its measured costs, on the owner's active rig; nothing is kept.

        The same answers on the same gear are worked out once. Raises DomainError naming a wrong answer, UnavailableError where too much is
        asked at once.
        """
        for name in given:
            if name not in questions.BY_NAME:
                raise DomainError(f"answers.{name[:30]} is not a question: it must be one of {', '.join(questions.BY_NAME)}")
        asked = questions.ask(given, now=now)
        if asked.answers is None:
            name, message = next(iter(asked.problems.items()))
            raise DomainError(f"answers.{name}: {message}")
        answers = asked.answers
        aboard, _ = self._rigs.aboard(owner, answers)
        return self._worked_out.of(
            (repr(answers), repr(aboard), style),
            lambda work: self._jobs.start(client, "a card", work),
            lambda: answered(made_plan(answers, aboard, style=style)),
        )

    # The angler's own hand.

    def ended(self, owner: uuid.UUID, one: OpenCard, setting: Setting, *, now: dt.datetime) -> None:
        """Note where an angler ended with a control on a card's water; raise DomainError for one that no hand shifts, or a value out of range."""
        control = setting.control
        require_choice("control", control.name, tuple(each.name for each in SPREADS))
        value = float(control.checked(setting.value))
        shift = one.plan.own.get(control.name)
        ours = float(one.plan.card.row(control.name).start) - (0.0 if shift is None else round(shift.steps))
        found = Ended(control=control, over=value - ours, kind=Kind.of(one.plan.card.here), day=now.date())
        ended_store.add_ended(self._engine, owner, found, now=now)

    def own_shift(self, owner: uuid.UUID, one: OpenCard, control: Control) -> Shift | None:
        """Return how far the next card like this one will start from ours, or None where nothing was noted."""
        return shift_of(ended_store.ends(self._engine, owner), Kind.of(one.plan.card.here), control)

    def forget_hand(self, owner: uuid.UUID, control: Control) -> None:
        """Forget where an angler ended with a control."""
        ended_store.forget_ends(self._engine, owner, control)

    # Baselines.

    def baselines(self, owner: uuid.UUID) -> Sequence[KeptCard]:
        """Return the owner's named cards by name, each name's newest first."""
        return store.baselines(self._engine, owner)

    def name(self, owner: uuid.UUID, key: uuid.UUID, name: str) -> bool:
        """Name a card: a baseline. Return whether there is one; raise DomainError for a name that cannot be."""
        return store.set_name(self._engine, owner, key, _named(name)) is not None

    def copy(self, owner: uuid.UUID, key: uuid.UUID, name: str) -> bool:
        """Copy a card under a name; return whether there is one. Raises DomainError for a name that cannot be."""
        return store.copy_card(self._engine, owner, key, _named(name)) is not None

    def remove(self, owner: uuid.UUID, key: uuid.UUID) -> bool:
        """Delete a card; return whether there was one."""
        return store.remove_card(self._engine, owner, key)

    # Long work.

    def measure(self, device: uuid.UUID, one: OpenCard) -> Job:
        """Start measuring a card's costs; return the job that is under way, where there is one."""
        return self._job(device, one, "costs", "measure what each setting costs here", self._measure)

    def tune(self, device: uuid.UUID, one: OpenCard) -> Job:
        """Start searching the receiver for a card; return the job that is under way, where there is one."""
        return self._job(device, one, "tuned", "auto-tune", self._tune)

    def _job(self, device: uuid.UUID, one: OpenCard, kind: str, title: str, work: Callable[[Job, OpenCard], str]) -> Job:
        return self._jobs.start(device, title, lambda running: work(running, one), same=(one.kept.id, kind))

    def _measure(self, job: Job, one: OpenCard) -> str:
        found = measured(one.plan, one.labels, progress=job.progress)
        store.set_costs(self._engine, one.kept.owner, one.kept.id, measured_json(found))
        return str(one.kept.id)

    def _tune(self, job: Job, one: OpenCard) -> str:
        plan, seed = one.plan, advising.seed_of(one.plan.answers, one.plan.aboard)
        count = advising.TUNED_WATERS
        batches = advising.batches_of(plan.card, plan.aboard, seed=seed, count=count, progress=lambda share: job.progress(0.1 * share))
        found = advising.tuned(plan.card, batches, seed=seed, progress=lambda share: job.progress(0.1 + 0.8 * share))
        lures = lure_waters(plan.card, plan.aboard, seed=seed)
        far, start_far = (sight(setup, lures) for setup in (found.setup, plan.card.setup))
        store.set_tuned(self._engine, one.kept.owner, one.kept.id, tuned_json(tuned_of(found, plan.card, sight=far, start_sight=start_far)))
        return str(one.kept.id)

    def take_tuned(self, one: OpenCard) -> OpenCard:
        """Set what auto-tune found; raise DomainError where it was not asked yet."""
        if one.tuned is None:
            raise DomainError("auto-tune has not been run on this card: run it first")
        return self._set(one, replace(one.setup, receiver=replace(one.tuned.values, ink=one.setup.receiver.ink)))

    def take_style(self, one: OpenCard, style: Style) -> OpenCard:
        """Set the card as another style would."""
        return self._set(one, replace(one.setup, receiver=one.plan.card.setups[style]))

    def _set(self, one: OpenCard, setup: Setup) -> OpenCard:
        row = store.set_values(self._engine, one.kept.owner, one.kept.id, values_of(setup.window, setup.receiver))
        return one if row is None else _opened(row)

    # Moves, symptoms, staleness.

    def move(self, one: OpenCard, before: OpenCard) -> Move:
        """Return what changes from one card as it was set to another as it is set."""
        return moved(before.setup, one.setup, bands_of(one.plan.card))

    def suspects(self, one: OpenCard, symptom: Symptom, now_set: Sequence[Setting]) -> list[Suspect]:
        """Return the causes of a symptom for a card, with the controls as they stand now."""
        rig, is_told = one.plan.aboard.rig, one.kept.rig_id is not None
        facts = Facts(
            card=one.plan.card,
            setup=with_settings(one.setup.receiver, *now_set),
            window=with_settings(one.setup.window, *now_set),
            thickness_rad=rig.transducer.thickness_rad,
            unit_v=power_budget(rig.power.supply, rig.power.loads).unit_v if is_told else None,
            mount=rig.mount.kind if is_told else None,
            stow=rig.mount.stow,
            console=rig.others.console if is_told else None,
            assumed_speed_m_s=next((float(set_to.value) for set_to in now_set if set_to.control is SOUND_SPEED), None),
        )
        return ranked(symptom, facts)

    def stale(self, one: OpenCard, *, now: dt.datetime, shot_out: bool) -> StaleCause | None:
        """Return why a card has grown stale; None while it holds, or while nobody may be disturbed."""
        then = one.plan.answers.sun_rad
        later = questions.with_sun(one.plan.answers, one.texts, now).sun_rad
        told = one.kept.noticed_at
        watch = Watch(
            sun_then_rad=0.5 if then is None else then,
            sun_now_rad=0.5 if later is None else later,
            age_s=(now - one.kept.created_at).total_seconds(),
            since_notice_s=None if told is None else (now - told).total_seconds(),
            shot_out=shot_out,
        )
        return stale(watch)

    def note_stale(self, owner: uuid.UUID, key: uuid.UUID, *, now: dt.datetime) -> bool:
        """Note that the angler was shown that a card has grown stale; return whether there is such a card."""
        return store.set_noticed(self._engine, owner, key, now) is not None

    # On the Lamp.

    def to_try(self, one: OpenCard) -> OnTheLamp:
        """Return a card's water with its set-up, beside the former one: the card before a move, else another style's.

        The aim check's correction is dialed in: the mount of this water points as wrong as the angler's.
        """
        card, before = one.plan.card, self.before(one)
        former = card.setup if before is None else before.setup.receiver
        if former == one.setup.receiver:
            others = (setup for style, setup in card.setups.items() if style is not card.style and setup != former)
            former = next(others, former)
        scene = advising.scene_for(card, one.plan.aboard, title=words.headline(card))
        window = {control.name: one.setup.value(control) for control in (DOWN_TO, REACH)}
        scene = scene.model_copy(update={"transducer": scene.transducer.model_copy(update=window)})
        return OnTheLamp(scene=scene, a=_aimed(one, settings_of(values_of(one.setup.receiver))), b=settings_of(values_of(former)))

    def to_show(self, one: OpenCard, cause: Cause) -> OnTheLamp:
        """Return a card's water with a fault in it, the cure beside it; raise DomainError for one that the bench cannot show."""
        if cause not in SHOWS:
            raise DomainError(f"cause is {cause.value}: it must be one that the bench can show")
        scene = advising.scene_for(one.plan.card, one.plan.aboard, title="")
        a, b = shown_controls(cause, one.setup.receiver)
        return OnTheLamp(scene=shown_scene(cause, scene), a=_aimed(one, a), b=b)


def _aimed(one: OpenCard, settings: Sequence[Setting]) -> tuple[Setting, ...]:
    """Return settings with the rig's aim correction dialed in, on top of what they turn themselves: the water points as wrong as the rig."""
    turned = sum(float(setting.value) for setting in settings if setting.control is AIM)
    aim = Setting(control=AIM, value=AIM.held(turned + one.plan.aboard.rig.mount.aim_rad))
    return (*(setting for setting in settings if setting.control is not AIM), aim)


def _opened(row: KeptCard) -> OpenCard:
    plan = plan_of(row)
    return OpenCard(
        kept=row, plan=plan, setup=stored_setup(row.values, plan.card.start), measured=measured_of(row), tuned=stored_tuned_of(row)
    )


def _named(name: str) -> str:
    cleaned = " ".join(name.split())
    if not 1 <= len(cleaned) <= NAME_LENGTH:
        raise DomainError(f"name is {len(cleaned)} characters long: it must be 1 to {NAME_LENGTH} characters")
    return cleaned
