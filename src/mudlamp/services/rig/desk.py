"""The desk of rigs: profiles, their sections, the aim check, the unit's own words with the Gain procedure, lure box and rods."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Engine

from mudlamp.core.advice.answers import Answers
from mudlamp.core.casting.lures import Line
from mudlamp.core.controls import GAIN, Control
from mudlamp.core.errors import DomainError, MissingError, UnavailableError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.rigs import KeptLure, KeptRig, KeptRod
from mudlamp.core.rig.mount import aim_correction_rad
from mudlamp.core.rig.profile import RigProfile
from mudlamp.services.edge import forms
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.edge.forms import Read
from mudlamp.services.jobs import Job, Jobs
from mudlamp.services.rig.answers import our_points
from mudlamp.services.rig.box import LURE_FIELDS, ROD_FIELDS, boxed, new_lure, new_rod
from mudlamp.services.rig.form import BEARINGS, Section, read_section, restored, stored
from mudlamp.services.rig.unit_words import THEIRS, read_words
from mudlamp.services.water.aboard import Aboard, usual_lure
from mudlamp.store import rigs as store
from mudlamp.store.scope import EVERYBODY, Whose

NAME_LENGTH = 60
NO_RIG = "You have no rig with that key."
NO_LURE = "There is no lure with that key in this box."
NO_ROD = "There is no rod with that key on this rig."


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenRig:
    """A rig with what belongs to it: whose it is, its row, the profile, box and rods."""

    owner: uuid.UUID
    kept: KeptRig
    profile: RigProfile
    lures: Sequence[KeptLure]
    rods: Sequence[KeptRod]


class RigDesk:
    """Rigs of all owners."""

    def __init__(self, engine: Engine, jobs: Jobs) -> None:
        self._engine = engine
        self._jobs = jobs

    def all(self, owner: uuid.UUID) -> Sequence[KeptRig]:
        """Return the owner's rigs by name."""
        return store.rigs(self._engine, owner)

    def active(self, owner: uuid.UUID) -> OpenRig | None:
        """Return the owner's active rig, or None."""
        kept = store.active_rig(self._engine, owner)
        return None if kept is None else self._opened(owner, kept)

    def demo(self, key: uuid.UUID) -> OpenRig | None:
        """Return the demo's rig, to be looked at; None while it is still loading, or turned off."""
        kept = store.rig(self._engine, EVERYBODY, key)
        if kept is None:
            return None
        return self._opened(key, kept, seen_as=EVERYBODY)

    def open(self, owner: uuid.UUID, key: uuid.UUID) -> OpenRig:
        """Return one of the owner's rigs; raise MissingError where there is none of that key."""
        kept = store.rig(self._engine, owner, key)
        if kept is None:
            raise MissingError(NO_RIG)
        return self._opened(owner, kept)

    def _opened(self, owner: uuid.UUID, kept: KeptRig, *, seen_as: Whose | None = None) -> OpenRig:
        whose = owner if seen_as is None else seen_as
        return OpenRig(
            owner=owner,
            kept=kept,
            profile=restored(kept.values),
            lures=store.lures(self._engine, whose, kept.id),
            rods=store.rods(self._engine, whose, kept.id),
        )

    def aboard(self, owner: uuid.UUID, answers: Answers) -> tuple[Aboard, uuid.UUID | None]:
        """Return what is aboard: the active rig with the lure on the rod in hand, and its key; a typical rig where there is none."""
        rig = self.active(owner)
        if rig is None:
            return Aboard(lure=usual_lure(answers)), None
        hand = next((rod for rod in rig.rods if rod.in_hand), None)
        tied = None if hand is None else next((lure for lure in rig.lures if lure.id == hand.lure_id), None)
        lure = usual_lure(answers) if tied is None else boxed(tied)
        line = Line.FLUOROCARBON if hand is None else Line(hand.line)
        return Aboard(rig=rig.profile, lure=lure, line=line), rig.kept.id

    def try_active(self, owner: uuid.UUID) -> OpenRig | None:
        """Return the owner's active rig; None where there is none, and while the database is away: a page can do without it."""
        try:
            return self.active(owner)
        except UnavailableError:
            return None

    @staticmethod
    def screen_of(rig: OpenRig | None) -> Screen:
        """Return a rig's screen, a usual one where there is no rig."""
        return Screen() if rig is None else rig.profile.screen

    # Profiles.

    def add(self, owner: uuid.UUID, name: str, *, copy_of: uuid.UUID | None, now: dt.datetime) -> None:
        """Make a rig of a name, the active one: usual values, nothing of the angler's own words; or a copy, box and rods too, of another.

        Raises DomainError for a name that cannot be, UnavailableError where the rig to be copied is not there.
        """
        cleaned = " ".join(name.split())
        if not 1 <= len(cleaned) <= NAME_LENGTH:
            raise DomainError(f"name is {len(cleaned)} characters long: it must be 1 to {NAME_LENGTH} characters")
        if copy_of is None:
            store.add_rig(self._engine, owner, cleaned, stored(RigProfile()), now=now)
        elif store.copy_rig(self._engine, owner, copy_of, cleaned, now=now) is None:
            raise UnavailableError("the demo's rig is not there: it is still loading, or turned off (MUDLAMP_DEMO=0)")

    def activate(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Make a rig the active one; raise MissingError where there is none of that key."""
        if store.activate(self._engine, owner, key) is None:
            raise MissingError(NO_RIG)

    def remove(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Delete a rig with its box and rods; raise MissingError where there is none of that key."""
        if not store.remove_rig(self._engine, owner, key):
            raise MissingError(NO_RIG)

    def _save(self, rig: OpenRig, profile: RigProfile, *, version: int | None, now: dt.datetime) -> OpenRig:
        """Save a rig's parts; raise ConflictError where another hand changed them since `version`."""
        found = store.change_rig(self._engine, rig.owner, rig.kept.id, stored(profile), version=version, now=now)
        if found is None:
            raise MissingError(NO_RIG)
        return replace(rig, kept=found, profile=profile)

    def save_section(
        self, rig: OpenRig, section: Section, given: Mapping[str, object], *, version: int | None, now: dt.datetime
    ) -> tuple[OpenRig, Read]:
        """Save a section; where something in it is wrong the rig stays as it was, and the form says what."""
        profile, found = read_section(section, rig.profile, given)
        return (rig if found.problems else self._save(rig, profile, version=version, now=now)), found

    def check_aim(self, rig: OpenRig, given: Mapping[str, object], *, version: int | None, now: dt.datetime) -> OpenRig:
        """Work out the aim check's correction and keep it; raise DomainError for a bearing that is not right."""
        bearing_rad, shown_rad = _numbers(BEARINGS, given)
        turn = aim_correction_rad(bearing_rad=bearing_rad, shown_rad=shown_rad)
        return self._save(rig, replace(rig.profile, mount=replace(rig.profile.mount, aim_rad=turn)), version=version, now=now)

    # The unit's own words.

    def save_words(
        self, rig: OpenRig, control: Control, given: Mapping[str, object], *, version: int | None, now: dt.datetime
    ) -> tuple[OpenRig, Mapping[str, str]]:
        """Keep what the angler's unit calls a control; an empty name forgets it. What is wrong is said by field, and nothing changes."""
        own, problems = read_words(control, given)
        if problems:
            return rig, problems
        words = {name: one for name, one in rig.profile.words.items() if name != control.name}
        if own is not None:
            words[control.name] = own
        return self._save(rig, replace(rig.profile, words=words), version=version, now=now), {}

    def match(self, device: uuid.UUID, rig: OpenRig, answers: Answers, *, now: dt.datetime) -> Job:
        """Start computing our two points of the Gain procedure, in the water of some answers."""

        def work(job: Job) -> str:
            points = our_points(answers, rig.profile, progress=job.progress)
            newest = self.open(rig.owner, rig.kept.id)
            self._save(newest, replace(newest.profile, match=points), version=newest.kept.version, now=now)
            return str(rig.kept.id)

        return self._jobs.start(device, f"match {LABELS[GAIN.name]}", work, same=("match", rig.kept.id))

    def match_theirs(self, rig: OpenRig, given: Mapping[str, object], *, version: int | None, now: dt.datetime) -> OpenRig:
        """Keep the angler's two numbers; raise DomainError where our points are not computed yet, or a number is not right."""
        match = rig.profile.match
        if match is None:
            raise DomainError("our two points are not computed yet: compute them first, for the water you are on")
        speckle, jig = _numbers(THEIRS, given)
        return self._save(rig, replace(rig.profile, match=replace(match, speckle_theirs=speckle, jig_theirs=jig)), version=version, now=now)

    # Box and rods.

    def add_lure(self, rig: OpenRig, given: Mapping[str, object], *, now: dt.datetime) -> tuple[OpenRig, Read]:
        """Put a lure into the box; where something in the form is wrong, it says what."""
        found = forms.read(LURE_FIELDS, given)
        if not found.problems:
            store.add_lure(self._engine, rig.owner, new_lure(rig.kept.id, found, now=now))
        return self._opened(rig.owner, rig.kept), found

    def remove_lure(self, rig: OpenRig, key: uuid.UUID) -> OpenRig:
        """Take a lure out of the box; raise MissingError where there is none of that key."""
        if not store.remove_lure(self._engine, rig.owner, rig.kept.id, key):
            raise MissingError(NO_LURE)
        return self._opened(rig.owner, rig.kept)

    def add_rod(self, rig: OpenRig, given: Mapping[str, object], *, now: dt.datetime) -> tuple[OpenRig, Read]:
        """Put a rod aboard; where something in the form is wrong, it says what."""
        found = forms.read(ROD_FIELDS, given)
        if not found.problems:
            store.add_rod(self._engine, rig.owner, new_rod(rig.kept.id, found, now=now))
        return self._opened(rig.owner, rig.kept), found

    def tie(self, rig: OpenRig, rod: uuid.UUID, lure: str) -> OpenRig:
        """Tie a lure, by the text of its key, on a rod (or none) and take it in hand; raise MissingError where there is no such rod or lure."""
        try:
            wanted = uuid.UUID(lure) if lure else None
        except ValueError:
            raise DomainError(f"lure is {lure[:40]}: it must be one from the box") from None
        if not store.tie(self._engine, rig.owner, rig.kept.id, rod, wanted):
            raise MissingError("There is no such rod or lure on this rig.")
        return self._opened(rig.owner, rig.kept)

    def remove_rod(self, rig: OpenRig, key: uuid.UUID) -> OpenRig:
        """Take a rod off the boat; raise MissingError where there is none of that key."""
        if not store.remove_rod(self._engine, rig.owner, rig.kept.id, key):
            raise MissingError(NO_ROD)
        return self._opened(rig.owner, rig.kept)


def _numbers(fields: Sequence[forms.Field], given: Mapping[str, object]) -> tuple[float, ...]:
    """Return the numbers of a small form; raise DomainError for the first that is wrong."""
    found = forms.read(fields, given)
    if found.problems:
        raise DomainError(next(iter(found.problems.values())))
    return tuple(found.number(one.name) or 0.0 for one in fields)
