"""From what a session knows to what it tells: tracks, truth, pictures and the angler's screen as messages."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.controls import TRANSDUCER
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.receiver.screen import MarkOnScreen, Scales
from mudlamp.core.records.spots import Spot
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.searching.pictured import in_fan
from mudlamp.core.setup import Window
from mudlamp.core.tracking.bait_watch import BaitDoing
from mudlamp.core.tracking.groups import Cloud, School, schools_of
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView
from mudlamp.core.units import FOOT_M, INCH_M, feet
from mudlamp.services.edge.controls import EDGE, edge_values
from mudlamp.services.live.guesses import Guesses
from mudlamp.services.live.pane import Pane
from mudlamp.services.live.told import GroupTold, PaneTold, ScreenAnswer, SpotTold, TracksTold, TrackTold, TruthTold
from mudlamp.services.water.role import LiveWater
from mudlamp.services.words.bait import cloud_words
from mudlamp.services.words.fish import Measured, fact_words, guess_words, guessing_words, inches, size_words
from mudlamp.services.words.identity import called, school_words, who_words
from mudlamp.services.words.readings import Estimate
from mudlamp.services.words.screen import lure_words, shape_words

SURE = 0.6
MOST_SPOTS_SHOWN = 12
NO_COVER: FloatArray = np.zeros((0, 3))


def pane_told(pane: Pane, whole: Window) -> PaneTold:
    """Return a picture as the page needs it; `whole` is the window that the pings cover."""
    seen = pane.seen(whole)
    return PaneTold(
        controls=edge_values(pane.setup, seen),
        window=seen,
        ink=INKS[pane.setup.ink].table.tolist(),
        auto=sorted(EDGE[control].name for control in pane.auto),
        why={EDGE[control].name: why for control, why in pane.why.items()},
        settled_pct=round(pane.receiver.settled_pct),
    )


def transducer_values(water: LiveWater) -> dict[str, float | str]:
    """Return the transducer's controls and Look-back by their edge names: what is one for all pictures."""
    names = {EDGE[control].name for control in TRANSDUCER}
    return {name: value for name, value in edge_values(water.acquisition).items() if name in names}


def track_told(
    track: TrackView, plane: GroundPlane, lure: TrackView | None = None, cover: FloatArray = NO_COVER, guess_m: float | None = None
) -> TrackTold:
    """Return a track as the page draws it, its facts by where the lure is and the `cover`: places and half lengths (N, 3) [m]; `guess_m` is what it was guessed."""
    is_fish = track.kind is Kind.FISH
    ahead_m, other_m = plane.from_boat(track.place)
    toward = plane.turned(track.velocity_m_s)
    return TrackTold(
        id=track.number,
        kind=track.kind.value,
        called=called(track.identity) if is_fish else track.kind.value,
        who=who_words(track.identity) if is_fish else "",
        odds=round(track.odds[track.kind], 2),
        ahead_m=round(ahead_m, 3),
        other_m=round(other_m, 3),
        range_m=round(track.range_m, 3),
        angle_rad=round(track.angle_rad, 4),
        length_in=round(feet(track.length_m) * 12.0 * 4.0) / 4.0,
        size_in=inches(track.size.length_m) if track.size is not None and track.size.sure else None,
        size=size_words(track.size, track.identity) if is_fish else "",
        guess_in=None if guess_m is None else round(guess_m / INCH_M, 1),
        guess="" if guess_m is None or not is_fish else guess_words(guess_m, track.size),
        facts=fact_words(_measured(track, plane, cover), None if lure is None else _measured(lure, plane)) if is_fish else "",
        side=None if track.side is None or not track.side.known else (round(track.side.low_m, 2), round(track.side.high_m, 2)),
        said=None if track.said is None else track.said.value,
        toward=(round(toward[0], 2), round(toward[1], 2)),
        coasting=track.coasting,
    )


def _cover_of(tracks: Sequence[TrackView]) -> FloatArray:
    """Return the places and half lengths (N, 3) [m] of the tracks that are cover."""
    rows = [(*track.place, 0.5 * track.length_m) for track in tracks if track.kind is Kind.COVER and not track.apparent]
    return np.array(rows) if rows else NO_COVER


def _off_cover_m(track: TrackView, cover: FloatArray) -> float | None:
    if not len(cover):
        return None
    away = np.hypot(cover[:, 0] - track.place[0], cover[:, 1] - track.place[1]) - cover[:, 2] - 0.5 * track.length_m
    return max(float(away.min()), 0.0)


def _measured(track: TrackView, plane: GroundPlane, cover: FloatArray = NO_COVER) -> Measured:
    ahead_m, other_m = plane.from_boat(track.place)
    return Measured(
        ahead_m=ahead_m,
        depth_m=None if plane.plane.is_flat else other_m,
        over_bottom_m=track.over_bottom_m,
        toward=plane.turned(track.velocity_m_s),
        size=track.size,
        side=track.side,
        identity=track.identity,
        off_cover_m=_off_cover_m(track, cover),
        right_m=other_m if plane.plane.is_flat else None,
    )


def _school_told(school: School, plane: GroundPlane) -> GroupTold:
    ahead_m, other_m = plane.from_boat(school.place)
    return GroupTold(
        ahead_m=round(ahead_m, 2),
        other_m=round(other_m, 2),
        radius_m=round(school.radius_m, 2),
        words=school_words(school),
        members=sorted(school.members),
    )


def _cloud_told(cloud: Cloud, doing: BaitDoing | None, plane: GroundPlane) -> GroupTold:
    ahead_m, other_m = plane.from_boat(cloud.place)
    return GroupTold(
        ahead_m=round(ahead_m, 2),
        other_m=round(other_m, 2),
        radius_m=round(cloud.radius_m, 2),
        words=cloud_words(cloud, doing),
        members=[],
        did=doing is not None,
    )


def truth_told(row: TruthRow, erased: Sequence[str]) -> TruthTold:
    """Return an object that is really there."""
    return TruthTold(
        id=row.id,
        kind=row.kind,
        species=row.species,
        across_m=round(row.range_m * math.sin(row.across_rad), 3),
        range_m=round(row.range_m, 3),
        angle_rad=round(row.angle_rad, 4),
        radius_m=row.radius_m,
        length_m=row.length_m,
        heading_rad=0.0 if row.heading_rad is None else round(row.heading_rad, 2),
        seen=row.seen,
        erased=row.id in erased,
    )


def _spots_told(spots: Sequence[Spot], ping: Ping, window: Window) -> list[SpotTold]:
    found = in_fan(
        spots,
        ping.pose,
        is_flat=GroundPlane.of(ping).plane.is_flat,
        thickness_rad=ping.setup.thickness_rad,
        reach_m=window.reach_m,
        back_m=window.look_back_m,
    )
    return [
        SpotTold(
            id=str(one.spot.id),
            words=one.spot.note[:24] or one.spot.kind,
            ahead_m=round(one.ahead_m, 2),
            across_m=round(one.across_m, 2),
            depth_m=None if one.spot.depth_m is None else round(one.spot.depth_m, 2),
            doubt_m=round(one.doubt_m, 2),
        )
        for one in found[:MOST_SPOTS_SHOWN]
    ]


def tracks_told(
    ping: Ping,
    water: LiveWater,
    tracks: Sequence[TrackView],
    bait: Sequence[tuple[Cloud, BaitDoing | None]],
    truth: Sequence[TruthRow] | None,
    erased: Sequence[str],
    spots: Sequence[Spot],
    guesses: Guesses,
) -> TracksTold:
    """Return what goes with a ping; `bait` are its clouds, each with what it has just done."""
    plane = GroundPlane.of(ping)
    shots = water.shots
    lure, cover = next((track for track in tracks if track.kind is Kind.LURE), None), _cover_of(tracks)
    return TracksTold(
        ping=ping.number,
        time_s=ping.time_s,
        tracks=[
            track_told(track, plane, lure, cover, guesses.of(track.number)) for track in tracks if track.kind in (Kind.FISH, Kind.LURE)
        ],
        schools=[_school_told(one, plane) for one in schools_of(tracks, beam_width_rad=ping.setup.beam_width_rad)],
        bait=[_cloud_told(cloud, doing, plane) for cloud, doing in bait],
        spots=_spots_told(spots, ping, water.acquisition.window) if spots else (),
        lure=water.lure,
        heading_rad=ping.pose.heading_rad,
        truth=[truth_told(row, erased) for row in truth or ()],
        cover=water.outlines(),
        shot=shots[-1].number if shots and shots[-1].end_s is None else None,
        guessing=guessing_words(guesses.said()),
    )


def estimate_of(tracks: Sequence[TrackView]) -> Estimate:
    """Return what the tracker makes of a ping: how many fish it follows, how many surely, whether it has the lure."""
    fish = [track for track in tracks if track.kind is Kind.FISH]
    sure = sum(track.odds[Kind.FISH] >= SURE and not track.coasting for track in fish)
    return Estimate(sure=sure, followed=len(fish), lure=any(track.kind is Kind.LURE for track in tracks))


def screen_answer(scale: Scales, mark: MarkOnScreen | None) -> ScreenAnswer:
    """Return the angler's own screen in words."""
    return ScreenAnswer(
        across_px_ft=round(scale.across_px_m * FOOT_M, 1),
        down_px_ft=round(scale.down_px_m * FOOT_M, 1),
        stretch=round(scale.stretch, 3),
        shape=shape_words(scale.stretch),
        lure=lure_words(mark),
    )
