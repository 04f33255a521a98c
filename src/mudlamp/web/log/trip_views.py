"""The views of a trip's page and of its forms."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.fishing.bag import Best, Kept, weight_of
from mudlamp.core.fishing.day import Day
from mudlamp.core.records.log import SessionDetail, TripRecord
from mudlamp.core.records.trips import BoatPoint, Catch, Condition, Move
from mudlamp.core.units import MILE_M, degf_from_degc, feet
from mudlamp.formats.nmea import Said
from mudlamp.services.cards.questions import GOALS
from mudlamp.services.edge.forms import INCHES, Field, Read
from mudlamp.services.log.replays import replay
from mudlamp.services.log.timeline import Timeline
from mudlamp.services.trips.desk import OpenTrip
from mudlamp.services.trips.fields import (
    CATCH_FIELDS,
    CONDITION_FIELDS,
    MOVE_FIELDS,
    POUNDS,
    PRESENTATIONS,
    RULE_FIELDS,
    TRIP_FIELDS,
    catch_texts,
    trip_texts,
)
from mudlamp.services.trips.line import condition_words, move_words, trip_line
from mudlamp.services.trips.photo_drop import Dropped
from mudlamp.services.trips.track import gone_m
from mudlamp.services.words.log import SOURCE_WORDS
from mudlamp.web.form_views import FieldView, field_views
from mudlamp.web.log.views import SessionView, TripLineView, first_said, session_view
from mudlamp.web.recording_views import RecordingView, recordings_view
from mudlamp.web.times import local, time_of_day


@dataclass(frozen=True, slots=True, kw_only=True)
class TripFormView:
    """A trip's form; `key` is empty for a new one."""

    key: str
    fields: Sequence[FieldView]


@dataclass(frozen=True, slots=True, kw_only=True)
class CatchFormView:
    """A fish's form."""

    key: str
    trip: str
    fields: Sequence[FieldView]


@dataclass(frozen=True, slots=True, kw_only=True)
class PartView:
    """A condition or a move."""

    id: str
    at: str
    said: str
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CatchView:
    """A fish: what, how long and heavy (and whether that was computed), with what; its photo."""

    id: str
    at: str
    species: str
    length: str
    weight: str
    guess: str
    kept: bool
    tackle: str
    where: str
    note: str
    photo: str
    replay: str
    session: str
    setup: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LandedView:
    """A fish that was landed by the record."""

    id: str
    said: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleView:
    """An own limit as it stands: words, whether it is passed."""

    species: str
    said: str
    is_over: bool
    has_rule: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TripView:
    """A trip's page."""

    id: str
    title: str
    lead: str
    notes: str
    is_own: bool
    state: str
    timeline: Timeline | None
    short: Sequence[str]
    sessions: Sequence[SessionView]
    recordings: Sequence[RecordingView]
    conditions: Sequence[PartView]
    moves: Sequence[PartView]
    track: str
    has_soundings: bool
    catches: Sequence[CatchView]
    landed: Sequence[LandedView]
    bag: Sequence[RuleView]
    tournament: Sequence[str]
    condition_fields: Sequence[FieldView]
    move_fields: Sequence[FieldView]
    catch_fields: Sequence[FieldView]
    rule_fields: Sequence[FieldView]
    open_part: str
    dropped: str
    problems: Sequence[str]


def trip_form(trip: TripRecord | None, *, now: dt.datetime, read: Read | None = None, key: uuid.UUID | None = None) -> TripFormView:
    """Return a trip's form: with what was given and is wrong, with the trip's own answers, or with the last trip's for a new one."""
    if read is not None:
        texts: Mapping[str, str] = read.texts
    elif trip is None:
        texts = {"day": local(now).date().isoformat(), "source": "real"}
    else:
        texts = trip_texts(trip, local(trip.day))
        if key is None:
            texts = {**texts, "day": local(now).date().isoformat(), "title": "", "notes": ""}
    return TripFormView(
        key="" if key is None else str(key), fields=field_views(TRIP_FIELDS, texts, None if read is None else read.problems)
    )


def catch_form(one: Catch, *, read: Read | None = None) -> CatchFormView:
    """Return a fish's form."""
    texts = catch_texts(one, local(one.at)) if read is None else read.texts
    return CatchFormView(
        key=str(one.id),
        trip=str(one.trip_id or ""),
        fields=field_views(CATCH_FIELDS, texts, None if read is None else read.problems, prefix="catch"),
    )


def trip_line_view(one: TripRecord) -> TripLineView:
    """Return a trip for the list."""
    return TripLineView(
        id=str(one.id),
        title=one.title,
        water=one.water,
        day=_day(one.day),
        source=SOURCE_WORDS[one.source],
        state=state_of(one),
    )


def state_of(one: TripRecord) -> str:
    """Return how a trip stands, in a word."""
    if one.owner is None or one.ended_at is not None:
        return "over"
    return "planned" if one.started_at is None else "under way"


def _day(at: dt.datetime) -> str:
    return local(at).strftime("%a %b %-d, %Y")


def trip_view(
    one: OpenTrip, *, fed: Said | None = None, wrong: Mapping[str, Read] | None = None, dropped: Dropped | None = None
) -> TripView:
    """Return a trip's page; `fed` is what the boat's instruments say just now, `wrong` are forms that were given with something wrong in them, by the part of the page."""
    trip, given = one.trip, wrong or {}
    parts = [trip.water, _day(trip.day), ", ".join(trip.people), GOALS.get(trip.goal, ""), one.rig, SOURCE_WORDS[trip.source]]

    def fields(part: str, wanted: Sequence[Field], start: Mapping[str, str]) -> tuple[FieldView, ...]:
        read = given.get(part)
        return field_views(wanted, start if read is None else read.texts, None if read is None else read.problems, prefix=part)

    last = one.catches[-1] if one.catches else None
    return TripView(
        id=str(trip.id),
        title=trip.title,
        lead=" · ".join(part for part in parts if part),
        notes=trip.notes,
        is_own=one.is_own,
        state=state_of(trip),
        timeline=trip_line(one, told=time_of_day),
        short=day_words(one.day),
        sessions=[session_view(each.summary) for each in one.sessions],
        recordings=recordings_view(one.recordings).recordings,
        conditions=[_condition(each) for each in one.conditions],
        moves=[_move(each) for each in one.moves],
        track=_track_words(one.points),
        has_soundings=any(each.depth_m is not None for each in one.points),
        catches=[_catch(each, one) for each in one.catches],
        landed=[
            LandedView(
                id=str(each.caught.id), said=f"{time_of_day(each.caught.at)}, {each.where}, {each.caught.lure or each.caught.species}"
            )
            for each in one.landed
        ],
        bag=[_rule(each) for each in one.kept],
        tournament=tournament_words(one.best) if trip.goal == "tournament" else (),
        condition_fields=fields("conditions", CONDITION_FIELDS, _fed_texts(fed)),
        move_fields=fields("moves", MOVE_FIELDS, {}),
        catch_fields=fields("catches", CATCH_FIELDS, {} if last is None else {"species": last.species, "lure": last.lure, "rod": last.rod}),
        rule_fields=fields("rules", RULE_FIELDS, {}),
        open_part=next(iter(given), ""),
        dropped="" if dropped is None else f"{dropped.kept} photos kept{f', {dropped.same} were there already' if dropped.same else ''}.",
        problems=() if dropped is None else dropped.problems,
    )


def _fed_texts(fed: Said | None) -> dict[str, str]:
    warm = None if fed is None else fed.water_degc
    return {} if warm is None else {"water_f": f"{degf_from_degc(warm):.0f}"}


def _condition(one: Condition) -> PartView:
    fed = " (from the feed)" if one.origin == "feed" else ""
    return PartView(id=str(one.id), at=time_of_day(one.at), said=", ".join(condition_words(one)) + fed, note="")


def _move(one: Move) -> PartView:
    return PartView(id=str(one.id), at=time_of_day(one.at), said=move_words(one), note=one.note)


def _catch(one: Catch, trip: OpenTrip) -> CatchView:
    weight, photo = weight_of(one), trip.photos.get(one.id)
    session = session_at(trip, one)
    return CatchView(
        id=str(one.id),
        at=time_of_day(one.at),
        species=one.species,
        length=inches(one.length_m),
        weight="" if weight is None else f"{pounds(weight.mass_kg)}{' by its length' if weight.is_computed else ''}",
        guess=inches(one.guess_m),
        kept=one.kept,
        tackle=", ".join(part for part in (one.rod, one.lure, PRESENTATIONS.get(one.presentation, "")) if part),
        where="" if one.depth_m is None else f"{feet(one.depth_m):.0f} ft",
        note=one.note,
        photo="" if photo is None else f"/log/photos/{photo.id}.jpg",
        replay="" if session is None else replay(trip.recordings, session.summary.id, _moment(one, session)),
        session="" if session is None else f"/log/{session.summary.id}",
        setup="" if session is None else setup_at(session, _moment(one, session)),
    )


def _moment(one: Catch, session: SessionDetail) -> float:
    """Return the second of its session at which a fish was caught."""
    return (one.at - session.summary.started_at).total_seconds() if one.session_s is None else one.session_s


def _track_words(points: Sequence[BoatPoint]) -> str:
    """Return how far the boat went, in words; empty where nobody said where it was."""
    if not points:
        return ""
    miles = gone_m(points) / MILE_M
    return f"The boat went {miles:.1f} mi, {time_of_day(points[0].at)} to {time_of_day(points[-1].at)}, {len(points)} points"


def session_at(trip: OpenTrip, one: Catch) -> SessionDetail | None:
    """Return the session that a fish was caught in: the one it names, else the one that ran then."""
    named = next((each for each in trip.sessions if each.summary.id == one.session_id), None)
    return named or next((each for each in trip.sessions if each.summary.started_at <= one.at <= (each.summary.ended_at or one.at)), None)


def setup_at(session: SessionDetail, seconds: float) -> str:
    """Return the set-up that was in force at a moment of a session [s], in words; empty where none was written yet."""
    before = [one for one in session.setups if one.session_s <= seconds]
    return ", ".join(first_said(before[-1].values)) if before else ""


def inches(length_m: float | None) -> str:
    """Return a length in words; empty where there is none."""
    return "" if length_m is None else f"{INCHES.from_core(length_m):.1f} in"


def pounds(mass_kg: float) -> str:
    """Return a weight in words."""
    return f"{POUNDS.from_core(mass_kg):.2f} lb"


def day_words(day: Day) -> list[str]:
    """Return a day's fish in short: how many, the best rod, lure and depth, the longest."""
    if not day.fish:
        return []
    found = [f"{day.fish} fish, {day.kept} kept"]
    for word, shares in (("best rod", day.rods), ("best lure", day.lures)):
        if shares:
            found.append(f"{word}: {shares[0].name} ({shares[0].count} of {day.fish})")
    if day.depth_m is not None:
        low, middle, high = (feet(value) for value in day.depth_m)
        found.append(f"depth: {middle:.0f} ft" + (f" (half of them {low:.0f} to {high:.0f})" if high - low >= 1.0 else ""))
    if day.longest is not None:
        found.append(f"longest: {day.longest.species}, {inches(day.longest.length_m)}")
    return found


def _rule(one: Kept) -> RuleView:
    of = "" if one.most is None else f" of {one.most}"
    wanted = "" if one.wanted is None else f", a meal was {one.wanted}"
    short = f"; {one.short} shorter than your own entry allows" if one.short else ""
    over = "; over your own entry" if one.is_over else ""
    return RuleView(
        species=one.species,
        said=f"{one.species}: {one.count}{of}{wanted}{over}{short}",
        is_over=one.is_over or one.short > 0,
        has_rule=one.most is not None,
    )


def tournament_words(best: Best) -> list[str]:
    """Return a tournament's bag in words."""
    found = [
        f"Best {len(best.fish)}: {pounds(best.total_kg)}{' (some by their length)' if any(w.is_computed for _, w in best.fish) else ''}"
    ]
    if best.goes_out is not None:
        weight = best.fish[-1][1]
        found.append(f"A bigger one replaces the {time_of_day(best.goes_out.at)} {best.goes_out.species}, {pounds(weight.mass_kg)}")
    if best.culled:
        found.append(f"{len(best.culled)} kept beyond the five: release what is not in the bag, as the rules say")
    if best.unweighed:
        found.append(f"{best.unweighed} without a weight or a length: not counted")
    return found
