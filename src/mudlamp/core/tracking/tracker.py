"""The tracker: from one ping to the next, which tracks are there and what each is."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.errors import DomainError
from mudlamp.core.hand import HandEvent
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane, Travel
from mudlamp.core.tracking import associate, filter, lure_choice
from mudlamp.core.tracking.changes import Changes
from mudlamp.core.tracking.classes import FishClass, Priors, kind_of
from mudlamp.core.tracking.clutter import ClutterMap
from mudlamp.core.tracking.detect import Detections, Detector
from mudlamp.core.tracking.hand_watch import HandWatch
from mudlamp.core.tracking.health import HANGS_M, HANGS_S, PingWatch, Trouble
from mudlamp.core.tracking.identify import Identifier
from mudlamp.core.tracking.learned import NOTHING, Learned
from mudlamp.core.tracking.line_watch import LineWatch
from mudlamp.core.tracking.motion import note_motion
from mudlamp.core.tracking.side import WINDOW_S, side_of
from mudlamp.core.tracking.sizing import Sizer
from mudlamp.core.tracking.sway import Sway
from mudlamp.core.tracking.telling import KindTeller
from mudlamp.core.tracking.track import Kind, Track
from mudlamp.core.tracking.traits import gaps_to, traits_of
from mudlamp.core.tracking.views import TrackView, views_of

CONFIRM_HITS = 5
CONFIRM_SHARE = 0.5
STEADINESS_S = 0.8
# So long a fish may live on an echo that it shares with another, whose place is so much less sure for it.
SHARE_S, SHARED_NOISE = 2.0, 6.0
LOSE_TENTATIVE_S = 0.4
LOSE_S = 1.3
# What is not seen for so long [s], so near to the surface [m], was lifted out: a jig, or a fish on it. No cover hides it there (ours).
LIFTED_OUT_S, LIFTED_OUT_M = 0.3, 0.5
# Under a flat fan more would only follow the bottom's dots.
MOST_TRACKS, MOST_TRACKS_FLAT = 300, 200
LEVEL_COST_DB = 7.0
# Of so many pings a track is described at one; what has been wood for so many tellings, as likely as this, at fewer: it stays wood.
DESCRIBE_EVERY, SETTLED_EVERY = 3, 9
SETTLED_TOLD, SETTLED = 20, 0.97
# How likely a fish must be to be named, and to keep its name.
NAMED, LET_GO = 0.65, 0.2
# After so many tellings a track may be called fish; at once where it is as likely as this.
FISH_TOLD, SURELY = 4, 0.9


class Tracker:
    """Follows what pings show. Feed it pings in their order."""

    def __init__(self, learned: Learned = NOTHING, priors: Priors | None = None) -> None:
        """Make a tracker. Without learned kinds it goes by weights of our own, which are worse; without learned classes, which `priors`

        lean, fish are just fish; without learned lengths they have none.
        """
        self.identifier, self.sizer = Identifier(learned.classes, priors), Sizer(learned.lengths)
        self.detector = Detector()
        self.clutter = ClutterMap()
        self.changes = Changes()
        self.hand, self.line = HandWatch(), LineWatch()
        self.health = PingWatch()
        self._teller = KindTeller(learned)
        self.tracks: list[Track] = []
        self.detections: Detections | None = None
        self._next = 1
        self._turn = 0
        self._lure: int | None = None
        self._carried: int | None = None
        self._last_s: float | None = None
        self._aim_rad = 0.0
        self._sway = Sway()
        self._travel = Travel()
        self.plane: GroundPlane | None = None

    def update(self, ping: Ping, hand: Sequence[HandEvent] = ()) -> list[TrackView]:
        """Take a ping in, and what the angler's hand did since the last one, where that is known; return the confirmed tracks."""
        plane = self.plane = GroundPlane.of(ping, self._travel.to(ping.pose))
        for event in hand:
            self.hand.take(event, plane)
            self.line.take(event, ping.pose)
        self.health.look_at(ping)
        if self.health.fresh:
            self._start_anew()
        if not self.health.usable:
            self._wait(ping.time_s)
            return views_of([track for track in self.tracks if track.confirmed], plane, ping, self.detector.bottom)
        at = self.line.place
        self.line.advance(ping.time_s, plane, ping.pose, None if at is None else self.detector.bottom.depth_m(at[0]))
        self._sway.look_at(plane, ping)
        found = self.detections = self.detector.detect(ping, plane)
        self.clutter.update(ping, plane, self.detector.power)
        dt = 0.0 if self._last_s is None else max(ping.time_s - self._last_s, 0.0)
        self._last_s = ping.time_s
        self._aim_rad = ping.pose.heading_rad
        used = self._associate(found, *self._predict(dt), ping.time_s)
        self._carry_the_lure(ping.time_s)
        self._give_birth(found, used, ping.time_s, most=MOST_TRACKS_FLAT if plane.plane.is_flat else MOST_TRACKS)
        self._live_on(found, plane, ping, dt)
        self.changes.remember(ping, plane)
        self._find_sides(ping, plane)
        return views_of([track for track in self.tracks if track.confirmed], plane, ping, self.detector.bottom)

    def hold(self, number: int, said: FishClass | None) -> None:
        """Let a track be what the angler says it is, for as long as it lives; None lets the tracker say again. Raises DomainError."""
        track = self.followed(number)
        if said is FishClass.LURE:
            # There is one lure: who was called it is not.
            for other in self.tracks:
                other.said = None if other.said is FishClass.LURE else other.said
        track.said = said
        track.kind = _named(track, track.odds)

    def followed(self, number: int) -> Track:
        """Return a track by its number; raise DomainError where it is followed no more."""
        track = next((one for one in self.tracks if one.confirmed and one.number == number), None)
        if track is None:
            raise DomainError(f"track is {number}: it is not followed any more; tap the mark again")
        return track

    def _start_anew(self) -> None:
        """Let all tracks go: what was followed may be anywhere by now, and the map of the ground is of another place."""
        self.tracks = []
        self._last_s = None
        self.clutter, self.changes = ClutterMap(), Changes()

    def _wait(self, time_s: float) -> None:
        """Let a ping pass that tells nothing."""
        self.tracks = [track for track in self.tracks if not self._is_lost(track, time_s)]

    def _predict(self, dt_s: float) -> tuple[FloatArray, FloatArray]:
        """Move all tracks on by a time step; return their states (N, 4) and covariances (N, 4, 4)."""
        state = np.array([track.state for track in self.tracks]).reshape(-1, 4)
        covariance = np.array([track.covariance for track in self.tracks]).reshape(-1, 4, 4)
        if not self.tracks or dt_s == 0.0:
            return state, covariance
        state, covariance = filter.predict(state, covariance, dt_s)
        self._put_back(self.tracks, state, covariance)
        return state, covariance

    @staticmethod
    def _put_back(tracks: list[Track], state: FloatArray, covariance: FloatArray) -> None:
        for track, one, spread in zip(tracks, state, covariance, strict=True):
            track.state, track.covariance = one, spread

    def _associate(self, found: Detections, state: FloatArray, covariance: FloatArray, time_s: float) -> set[int]:
        """Match confirmed tracks first, then tentative ones with what is left; return the numbers of the used detections."""
        if not self.tracks or not len(found):
            return set()
        distance, cost = self._cost(found, state, covariance)
        sure = np.array([track.confirmed for track in self.tracks])
        first, second = np.flatnonzero(sure), np.flatnonzero(~sure)
        rows, columns = associate.assign(cost[first])
        left = np.delete(np.arange(len(found)), columns)
        more_rows, more_columns = associate.assign(cost[np.ix_(second, left)])
        rows, columns = np.concatenate((first[rows], second[more_rows])), np.concatenate((columns, left[more_columns]))
        measured = found.measured(columns, np.sqrt(distance[rows, columns]))
        if not len(rows):
            return set()
        matched = [self.tracks[row] for row in rows]
        place = found.place[columns]
        self._put_back(matched, *filter.update(state[rows], covariance[rows], place, found.covariance[columns]))
        level_db, length_m = found.level_db[columns].tolist(), found.length_m[columns].tolist()
        for track, (ahead, down), level, length, row in zip(matched, place.tolist(), level_db, length_m, measured, strict=True):
            track.note(place=(ahead, down), level_db=level, length_m=length, time_s=time_s, measured=row, aim_rad=self._aim_rad)
        self._share_echoes(found, distance, dict(zip(rows.tolist(), columns.tolist(), strict=True)), time_s)
        return set(columns.tolist())

    def _share_echoes(self, found: Detections, distance: FloatArray, taken: dict[int, int], time_s: float) -> None:
        """Let a fish that got no echo share that of another fish beside it for a while, and the lure that of whatever it is beside: the

        two have merged, and will part again. The echo lies between them, so it counts little for its place, and nothing for what it
        looks like.
        """
        of_fish = [column for row, column in taken.items() if self.tracks[row].kind is Kind.FISH]
        shared = {Kind.FISH: of_fish, Kind.LURE: list(taken.values())}
        for row, track in enumerate(self.tracks):
            if row in taken or not shared.get(track.kind) or not track.confirmed or time_s - track.own_s > SHARE_S:
                continue
            nearest = min(shared[track.kind], key=distance[row].__getitem__)
            if distance[row, nearest] >= associate.GATE:
                continue
            self._put_back(
                [track],
                *filter.update(
                    track.state[None], track.covariance[None], found.place[nearest][None], SHARED_NOISE * found.covariance[nearest][None]
                ),
            )
            track.seen_s = time_s

    def _cost(self, found: Detections, state: FloatArray, covariance: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return distances and what it costs to take each detection for each track (track, detection); the gate or more is out of the question."""
        distance = filter.distances(state, covariance, found.place, found.covariance)
        level = found.level_db[None, :] - np.array([track.level_db for track in self.tracks])[:, None]
        # Outside the gate stays outside: the level only decides among echoes that could be the track's.
        mixed = 0.6 * distance + 0.4 * np.minimum((level / LEVEL_COST_DB) ** 2, associate.GATE)
        return distance, np.where(distance < associate.GATE, mixed, associate.GATE)

    def _give_birth(self, found: Detections, used: set[int], time_s: float, *, most: int) -> None:
        fresh = [i for i in range(len(found)) if i not in used][: max(most - len(self.tracks), 0)]
        measured = found.measured(np.array(fresh, dtype=np.int64), np.ones(len(fresh)))
        for i, row in zip(fresh, measured, strict=True):
            covariance = np.zeros((4, 4))
            covariance[:2, :2] = found.covariance[i]
            covariance[2, 2] = covariance[3, 3] = filter.START_SPEED_M_S**2
            place = (float(found.place[i, 0]), float(found.place[i, 1]))
            track = Track(
                number=0,
                born_s=time_s,
                first=place,
                state=np.array([*place, 0.0, 0.0]),
                covariance=covariance,
                level_db=float(found.level_db[i]),
                length_m=float(found.length_m[i]),
                seen_s=time_s,
                means=row,
            )
            track.fixes.add(time_s, place, track.level_db, self._aim_rad)
            self.tracks.append(track)

    def _live_on(self, found: Detections, plane: GroundPlane, ping: Ping, dt_s: float) -> None:
        kept, time_s = [], ping.time_s
        share = math.exp(-dt_s / STEADINESS_S)
        for track in self.tracks:
            track.score = share * track.score + (1.0 - share) * (1.0 if track.seen_s == time_s else 0.0)
            if not track.confirmed and track.hits >= CONFIRM_HITS and track.score >= CONFIRM_SHARE:
                track.confirmed = True
                track.number, self._next = self._next, self._next + 1
            if not self._is_lost(track, time_s) and not _left_the_water(track, plane, time_s):
                kept.append(track)
        self.tracks = kept
        self._describe(found, plane, ping, dt_s)

    def _find_sides(self, ping: Ping, plane: GroundPlane) -> None:
        """Work out how far to a side fish and lure are, each every few pings; a flat fan sweeps up and down at no turn of the boat."""
        if plane.plane.is_flat:
            return
        for track in self.tracks:
            if not track.confirmed or track.kind not in (Kind.FISH, Kind.LURE) or (track.number + self._turn) % DESCRIBE_EVERY:
                continue
            aim, level = track.fixes.sweep(since_s=ping.time_s - WINDOW_S)
            turn = np.mod(aim - self._aim_rad + math.pi, math.tau) - math.pi
            out_m, deep_m = track.state[0] - plane.origin[0], track.state[1] - plane.origin[1]
            track.side = side_of(turn, level, thickness_rad=ping.setup.thickness_rad, out_m=float(out_m), deep_m=float(deep_m))

    def _is_lost(self, track: Track, time_s: float) -> bool:
        silent = time_s - track.seen_s
        if not track.confirmed:
            return silent > LOSE_TENTATIVE_S or (time_s - track.born_s > 1.0 and track.score < 0.35)
        return silent > (lure_choice.HIDDEN_S if track.number == self._carried else LOSE_S)

    def _describe(self, found: Detections, plane: GroundPlane, ping: Ping, step_s: float) -> None:
        """Bring kinds up to date: each track every few pings, in turn, for kinds change slowly."""
        setup, time_s = ping.setup, ping.time_s
        self._turn += 1
        everyone = [track for track in self.tracks if track.confirmed]
        due = [track for track in everyone if not (track.odds and (track.number + self._turn) % _described_every(track))]
        if due:
            for track in due:
                note_motion(track, time_s)
            self.changes.look_at(due, ping, plane)
            gap = gaps_to(everyone, due)
            traits = traits_of(
                due,
                everyone,
                found,
                gap,
                plane=plane,
                clutter=self.clutter,
                detector=self.detector,
                setup=setup,
                hand=self.hand,
                time_s=time_s,
                step_s=step_s,
                sway=self._sway,
            )
            for track, row in zip(due, traits, strict=True):
                track.traits = row
            self._teller.tell(due, everyone, gap, plane=plane, beam_width_rad=setup.beam_width_rad, time_s=time_s)
            for track in due:
                track.kind = _named(track, track.odds)
            self.identifier.look_at(due, time_s=time_s)
            self.sizer.look_at(due, self.detector.power, setup, plane, time_s=time_s)
        self._name_the_lure(time_s)
        self._watch_the_lure(time_s)

    def _name_the_lure(self, time_s: float) -> None:
        """Name the lure; with it in the angler's hand nothing in the water is it."""
        chosen = None if self.hand.known and not self.hand.is_out else self._likeliest_lure(time_s)
        self._lure = None if chosen is None else chosen.number
        for track in self.tracks:
            if track.kind is Kind.LURE and track is not chosen:
                track.kind = _named(track, track.odds)
        if chosen is not None:
            chosen.kind = Kind.LURE

    def _carry_the_lure(self, time_s: float) -> None:
        """Let a lure that gave no echo of its own be where the hand says it should be: the fish beside it hides it.

        What the angler called the lure stays where it was heard: the word may go against the reckoning.
        """
        at = self.line.place
        lure = next((track for track in self.tracks if track.kind is Kind.LURE and track.said is None), None)
        self._carried = None if at is None or lure is None else lure.number
        if at is not None and lure is not None and lure.own_s < time_s:
            lure.state = np.array((*at, 0.0, 0.0))
            lure.covariance = np.diag((*self.line.spread_m**2, filter.START_SPEED_M_S**2, filter.START_SPEED_M_S**2))

    def _watch_the_lure(self, time_s: float) -> None:
        """Note a lure that stays where it is though the line runs or the reel turns."""
        lure = next((track for track in self.tracks if track.kind is Kind.LURE), None)
        if lure is None or not self.hand.should_move(time_s, for_s=HANGS_S) or time_s - lure.born_s < HANGS_S:
            return
        travel = lure.fixes.travel(since_s=time_s - HANGS_S)
        if travel is not None and travel[2] > 0.7 * HANGS_S and math.hypot(*travel[:2]) < HANGS_M:
            self.health.note(Trouble.SNAGGED, time_s)

    def _likeliest_lure(self, time_s: float) -> Track | None:
        """Return the lure: the track that the angler says it is, else the likeliest, where it is likely enough."""
        told = next((track for track in self.tracks if track.said is FishClass.LURE), None)
        if self.line.place is None:
            return told or lure_choice.by_look(self.tracks, before=self._lure, is_out=self.hand.known, time_s=time_s)
        chosen, sure = (told, True) if told else lure_choice.by_line(self.tracks, self.line, before=self._lure, time_s=time_s)
        if chosen is not None and sure and chosen.own_s == time_s:
            self.line.lean_on(chosen.place)
        return chosen


def _left_the_water(track: Track, plane: GroundPlane, time_s: float) -> bool:
    """Return whether a track of a standing fan was lifted out of the water."""
    return not plane.plane.is_flat and time_s - track.seen_s > LIFTED_OUT_S and float(track.state[1]) < LIFTED_OUT_M


def _described_every(track: Track) -> int:
    """Return at how manieth ping a track is described."""
    settled = track.told > SETTLED_TOLD and track.odds[Kind.COVER] > SETTLED
    return SETTLED_EVERY if settled else DESCRIBE_EVERY


def _named(track: Track, kinds: dict[Kind, float]) -> Kind:
    """Return what to call a track that is not the lure: fish where likely enough, and as long as it is not unlikely (names must not flicker)."""
    if track.said is not None:
        return kind_of(track.said)
    needed = NAMED if track.told >= FISH_TOLD else SURELY
    if track.told and kinds[Kind.FISH] > (LET_GO if track.kind is Kind.FISH and track.told > 1 else needed):
        return Kind.FISH
    return max((Kind.BAIT, Kind.COVER), key=kinds.__getitem__)
