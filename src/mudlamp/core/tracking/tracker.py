"""The tracker: from one ping to the next, which tracks are there and what each is."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.errors import DomainError
from mudlamp.core.hand import HandEvent
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane, Travel
from mudlamp.core.tracking import _kernels_filter, associate, filter, lure_choice, second_marks
from mudlamp.core.tracking.bolts import DOUBT, Bolts, may_bolt
from mudlamp.core.tracking.changes import Changes
from mudlamp.core.tracking.classes import FishClass, Priors, kind_of
from mudlamp.core.tracking.clutter import ClutterMap
from mudlamp.core.tracking.detect import Detections, Detector
from mudlamp.core.tracking.ghosts import note_ghosts
from mudlamp.core.tracking.hand_watch import HandWatch
from mudlamp.core.tracking.health import HANGS_M, HANGS_S, PingWatch, Trouble
from mudlamp.core.tracking.identify import Identifier
from mudlamp.core.tracking.learned import NOTHING, Learned
from mudlamp.core.tracking.line_watch import LineWatch
from mudlamp.core.tracking.motion import note_motion
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.side import WINDOW_S, side_of
from mudlamp.core.tracking.sizing import Sizer
from mudlamp.core.tracking.sway import Sway
from mudlamp.core.tracking.telling import KindTeller
from mudlamp.core.tracking.track import BAIT, COVER, FISH, LURE, Kind, Track, Tracks
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
MOST_TRACKS = 300
LEVEL_COST_DB = 7.0
# So near to the lure a fish may dart [m] (ours).
STIRRED_M = 2.0
# So long after it darted off a fish may still brake and turn hard [s] (ours).
DARTS_S = 2.0
# Of so many pings a track is described at one; what has been wood for so many tellings, as likely as this, at fewer: it stays wood.
DESCRIBE_EVERY, SETTLED_EVERY = 3, 9
SETTLED_TOLD, SETTLED = 20, 0.97
# How likely a fish must be to be named, and to keep its name.
NAMED, LET_GO = 0.7, 0.1
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
        self.roster = Roster()
        self.tracks = Tracks(self.roster)
        self.detections: Detections | None = None
        self._next = 1
        self._turn = 0
        # What no confirmed track took of the newest ping.
        self._left: IntArray = np.zeros(0, np.int64)
        self._bolts = Bolts()
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
            return views_of(self._confirmed(), plane, ping, self.detector.bottom)
        at = self.line.place
        self.line.advance(ping.time_s, plane, ping.pose, None if at is None else self.detector.bottom.depth_m(at[0]))
        self._sway.look_at(plane, ping)
        found = self.detections = self.detector.detect(ping, plane)
        self.clutter.update(ping, plane, self.detector.power)
        dt = 0.0 if self._last_s is None else max(ping.time_s - self._last_s, 0.0)
        self._last_s = ping.time_s
        self._aim_rad = ping.pose.heading_rad
        used = self._associate(found, *self._predict(dt, ping.time_s), ping.time_s)
        self._find_bolts(found, used, ping.time_s)
        self._carry_the_lure(ping.time_s)
        self._give_birth(found, used, ping.time_s)
        self._live_on(found, plane, ping, dt)
        self.changes.remember(ping, plane)
        self._find_sides(ping, plane)
        return views_of(self._confirmed(), plane, ping, self.detector.bottom)

    def hold(self, number: int, said: FishClass | None) -> None:
        """Let a track be what the angler says it is, for as long as it lives; None lets the tracker say again. Raises DomainError."""
        track = self.followed(number)
        if said is FishClass.LURE:
            # There is one lure: who was called it is not.
            for other in self.tracks:
                other.said = None if other.said is FishClass.LURE else other.said
        track.said = said
        self._name(Tracks(self.roster, [track]))

    def followed(self, number: int) -> Track:
        """Return a track by its number; raise DomainError where it is followed no more."""
        track = next((one for one in self.tracks if one.confirmed and one.number == number), None)
        if track is None:
            raise DomainError(f"track is {number}: it is not followed any more; tap the mark again")
        return track

    def _start_anew(self) -> None:
        """Let all tracks go: what was followed may be anywhere by now, and the map of the ground is of another place."""
        self._keep(np.zeros(len(self.tracks), np.bool_))
        self._last_s = None
        self.clutter, self.changes, self._bolts = ClutterMap(), Changes(), Bolts()

    def _wait(self, time_s: float) -> None:
        """Let a ping pass that tells nothing."""
        self._keep(~self._are_lost(self.tracks.rows, time_s))

    def _confirmed(self) -> Tracks:
        return self.tracks.those(self.roster.confirmed[self.tracks.rows])

    def _keep(self, kept: BoolArray) -> None:
        """Go on with some of the tracks (N,); the others' rows are free."""
        self.roster.give_back(self.tracks.rows[~kept])
        self.tracks = self.tracks.those(kept)

    def _predict(self, dt_s: float, time_s: float) -> tuple[FloatArray, FloatArray]:
        """Move all tracks on by a time step; return their states (N, 4) and covariances (N, 4, 4)."""
        rows = self.tracks.rows
        state, covariance = self.roster.state[rows], self.roster.covariance[rows]
        if not len(self.tracks) or dt_s == 0.0:
            return state, covariance
        state, covariance = filter.predict(state, covariance, dt_s, self._accelerations(rows, state, time_s))
        self._put_back(rows, state, covariance)
        return state, covariance

    def _accelerations(self, rows: IntArray, state: FloatArray, time_s: float) -> FloatArray:
        """Return how hard tracks may accelerate (N,) [m/s^2]: a fish that is known as one, away from the lure, mostly keeps on as it does."""
        roster = self.roster
        calm = roster.confirmed[rows] & (second_marks.goes_as(roster, rows) == FISH)
        for lure in state[roster.kind[rows] == LURE]:
            calm &= np.hypot(state[:, 0] - lure[0], state[:, 1] - lure[1]) > STIRRED_M
        darts = roster.bolted_s[rows] > time_s - DARTS_S
        return np.where(darts, filter.DART_M_S2, np.where(calm, filter.FISH_M_S2, filter.ACCELERATION_M_S2))

    def _put_back(self, rows: IntArray, state: FloatArray, covariance: FloatArray) -> None:
        self.roster.state[rows], self.roster.covariance[rows] = state, covariance

    def _associate(self, found: Detections, state: FloatArray, covariance: FloatArray, time_s: float) -> set[int]:
        """Match confirmed tracks first, then tentative ones with what is left; return the numbers of the used detections."""
        self._left = np.arange(len(found))
        if not len(self.tracks) or not len(found):
            return set()
        distance, cost = self._cost(found, state, covariance)
        own = self.tracks.rows
        sure = self.roster.confirmed[own]
        first, second = np.flatnonzero(sure), np.flatnonzero(~sure)
        rows, columns = associate.assign(cost[first])
        self._left = left = np.delete(np.arange(len(found)), columns)
        more_rows, more_columns = associate.assign(cost[np.ix_(second, left)])
        rows, columns = np.concatenate((first[rows], second[more_rows])), np.concatenate((columns, left[more_columns]))
        if not len(rows):
            return set()
        self._put_back(own[rows], *filter.update(state[rows], covariance[rows], found.place[columns], found.covariance[columns]))
        self._note(own[rows], found, columns, np.sqrt(distance[rows, columns]), time_s)
        self._share_echoes(found, distance, rows, columns, time_s)
        return set(columns.tolist())

    def _find_bolts(self, found: Detections, used: set[int], time_s: float) -> None:
        """Let fish that darted off go on from where they are now; whoever is on the way there is not confirmed yet, and starves."""
        roster = self.roster
        for bolt in self._bolts.look_for(roster, may_bolt(roster, self.tracks.rows, FISH, time_s), found, self._left, time_s):
            row, column = np.array([bolt.row]), np.array([bolt.column])
            roster.state[row] = [*found.place[bolt.column], *bolt.velocity]
            roster.covariance[row] = DOUBT
            self._note(row, found, column, np.ones(1), time_s)
            roster.bolted_s[row] = time_s
            used.add(bolt.column)

    def _note(self, rows: IntArray, found: Detections, columns: IntArray, miss: FloatArray, time_s: float) -> None:
        """Let tracks take in, by their rows (N,), what was measured of the echoes that they got (N,), and by how much each missed (N,)."""
        self.roster.note(
            rows,
            place=found.place[columns],
            level_db=found.level_db[columns],
            length_m=found.length_m[columns],
            measured=found.measured(columns, miss),
            time_s=time_s,
            aim_rad=self._aim_rad,
        )

    def _share_echoes(self, found: Detections, distance: FloatArray, rows: IntArray, columns: IntArray, time_s: float) -> None:
        """Let a fish that got no echo share that of another fish beside it for a while, and the lure that of whatever it is beside: the

        two have merged, and will part again. The echo lies between them, so it counts little for its place, and nothing for what it
        looks like.
        """
        own = self.tracks.rows
        kind = second_marks.goes_as(self.roster, own)
        silent = self.roster.confirmed[own] & (time_s - self.roster.own_s[own] <= SHARE_S)
        silent[rows] = False
        for who, others in ((FISH, columns[kind[rows] == FISH]), (LURE, columns)):
            sharing = np.flatnonzero(silent & (kind == who))
            if not len(sharing) or not len(others):
                continue
            away = distance[np.ix_(sharing, others)]
            nearest, within = others[away.argmin(axis=1)], away.min(axis=1) < associate.GATE
            sharers, echoes = own[sharing[within]], nearest[within]
            state, covariance = self.roster.state[sharers], self.roster.covariance[sharers]
            self._put_back(sharers, *filter.update(state, covariance, found.place[echoes], SHARED_NOISE * found.covariance[echoes]))
            self.roster.seen_s[sharers] = time_s

    def _cost(self, found: Detections, state: FloatArray, covariance: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return distances and what it costs to take each detection for each track (track, detection); the gate or more is out of the question."""
        distance = filter.distances(state, covariance, found.place, found.covariance)
        # Outside the gate stays outside: the level only decides among echoes that could be the track's.
        cost = np.empty_like(distance)
        _kernels_filter.costs(distance, self.roster.level_db[self.tracks.rows], found.level_db, LEVEL_COST_DB, associate.GATE, cost)
        return distance, cost

    def _give_birth(self, found: Detections, used: set[int], time_s: float) -> None:
        left = np.setdiff1d(np.arange(len(found)), np.array(sorted(used), dtype=np.int64))
        fresh = left[: max(MOST_TRACKS - len(self.tracks), 0)]
        roster, rows = self.roster, self.roster.take(len(fresh))
        place, level_db = found.place[fresh], found.level_db[fresh]
        roster.state[rows, :2] = place
        roster.covariance[rows, :2, :2] = found.covariance[fresh]
        roster.covariance[rows, 2, 2] = roster.covariance[rows, 3, 3] = filter.START_SPEED_M_S**2
        roster.born_s[rows] = roster.seen_s[rows] = time_s
        roster.level_db[rows], roster.length_m[rows] = level_db, found.length_m[fresh]
        roster.means[rows] = found.measured(fresh, np.ones(len(fresh)))
        roster.history.add(rows, time_s=time_s, place=place, level_db=level_db, aim_rad=self._aim_rad)
        self.tracks = Tracks(roster, [*self.tracks, *(Track(roster, row) for row in rows.tolist())])

    def _live_on(self, found: Detections, plane: GroundPlane, ping: Ping, dt_s: float) -> None:
        time_s, roster, rows = ping.time_s, self.roster, self.tracks.rows
        share = math.exp(-dt_s / STEADINESS_S)
        roster.score[rows] = share * roster.score[rows] + (1.0 - share) * (roster.seen_s[rows] == time_s)
        proven = rows[~roster.confirmed[rows] & (roster.hits[rows] >= CONFIRM_HITS) & (roster.score[rows] >= CONFIRM_SHARE)]
        roster.confirmed[proven] = True
        roster.number[proven] = np.arange(self._next, self._next + len(proven))
        self._next += len(proven)
        lost = self._are_lost(rows, time_s)
        if not plane.plane.is_flat:
            # Lifted out of the water.
            lost |= (time_s - roster.seen_s[rows] > LIFTED_OUT_S) & (roster.state[rows, 1] < LIFTED_OUT_M)
        self._keep(~lost)
        self._describe(found, plane, ping, dt_s)

    def _find_sides(self, ping: Ping, plane: GroundPlane) -> None:
        """Work out how far to a side fish and lure are, each every few pings; a flat fan sweeps up and down at no turn of the boat."""
        if plane.plane.is_flat:
            return
        roster, rows = self.roster, self.tracks.rows
        shown = roster.confirmed[rows] & ((roster.kind[rows] == FISH) | (roster.kind[rows] == LURE))
        for track in self.tracks.those(shown & ((roster.number[rows] + self._turn) % DESCRIBE_EVERY == 0)):
            aim, level = track.fixes.sweep(since_s=ping.time_s - WINDOW_S)
            turn = np.mod(aim - self._aim_rad + math.pi, math.tau) - math.pi
            out_m, deep_m = track.state[0] - plane.origin[0], track.state[1] - plane.origin[1]
            track.side = side_of(turn, level, thickness_rad=ping.setup.thickness_rad, out_m=float(out_m), deep_m=float(deep_m))

    def _are_lost(self, rows: IntArray, time_s: float) -> BoolArray:
        """Return which tracks (N,) were not heard for too long."""
        roster = self.roster
        silent = time_s - roster.seen_s[rows]
        most = np.where(roster.number[rows] == (self._carried or -1), lure_choice.HIDDEN_S, LOSE_S)
        unproven = (silent > LOSE_TENTATIVE_S) | ((time_s - roster.born_s[rows] > 1.0) & (roster.score[rows] < 0.35))
        return np.where(roster.confirmed[rows], silent > most, unproven)

    def _describe(self, found: Detections, plane: GroundPlane, ping: Ping, step_s: float) -> None:
        """Bring kinds up to date: each track every few pings, in turn, for kinds change slowly."""
        setup, time_s, roster = ping.setup, ping.time_s, self.roster
        self._turn += 1
        everyone = self._confirmed()
        told = roster.told[everyone.rows]
        settled = (told > SETTLED_TOLD) & (roster.odds[everyone.rows, COVER] > SETTLED)
        turn = (roster.number[everyone.rows] + self._turn) % np.where(settled, SETTLED_EVERY, DESCRIBE_EVERY)
        due = everyone.those((told == 0) | (turn == 0))
        if len(due):
            note_motion(roster, due.rows, time_s)
            self.changes.look_at(roster, due.rows, ping, plane)
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
            if not plane.plane.is_flat:
                note_ghosts(due, everyone, plane=plane, bottom=self.detector.bottom, beam_width_rad=setup.beam_width_rad)
            self._teller.tell(due, everyone, gap, plane=plane, beam_width_rad=setup.beam_width_rad, time_s=time_s)
            second_marks.note(due, everyone, gap, power=self.detector.power, setup=setup, plane=plane)
            self._name(due)
            self.identifier.look_at(due, time_s=time_s)
            self.sizer.look_at(due, self.detector.power, setup, plane, time_s=time_s)
        self._name_the_lure(time_s)
        self._watch_the_lure(time_s)

    @staticmethod
    def _name(tracks: Tracks) -> None:
        """Call tracks what they are, the lure aside; what the angler says stands."""
        roster, rows = tracks.roster, tracks.rows
        named = _named(roster.odds[rows], told=roster.told[rows], before=roster.kind[rows])
        roster.kind[rows] = second_marks.called(roster, rows, named)
        for track in tracks.those(roster.is_said[rows]):
            if track.said is not None:
                track.kind = kind_of(track.said)

    def _name_the_lure(self, time_s: float) -> None:
        """Name the lure; with it in the angler's hand nothing in the water is it."""
        chosen = None if self.hand.known and not self.hand.is_out else self._likeliest_lure(time_s)
        self._lure = None if chosen is None else chosen.number
        self._name(Tracks(self.roster, (track for track in self.tracks.of_kind(Kind.LURE) if track is not chosen)))
        if chosen is not None:
            chosen.kind = Kind.LURE

    def _carry_the_lure(self, time_s: float) -> None:
        """Let a lure that gave no echo of its own be where the hand says it should be: the fish beside it hides it.

        What the angler called the lure stays where it was heard: the word may go against the reckoning.
        """
        at = self.line.place
        lure = next((track for track in self.tracks.of_kind(Kind.LURE) if track.said is None), None)
        self._carried = None if at is None or lure is None else lure.number
        if at is not None and lure is not None and lure.own_s < time_s:
            lure.state = np.array((*at, 0.0, 0.0))
            lure.covariance = np.diag((*self.line.spread_m**2, filter.START_SPEED_M_S**2, filter.START_SPEED_M_S**2))

    def _watch_the_lure(self, time_s: float) -> None:
        """Note a lure that stays where it is though the line runs or the reel turns."""
        lure = next(iter(self.tracks.of_kind(Kind.LURE)), None)
        if lure is None or not self.hand.should_move(time_s, for_s=HANGS_S) or time_s - lure.born_s < HANGS_S:
            return
        travel = lure.fixes.travel(since_s=time_s - HANGS_S)
        if travel is not None and travel[2] > 0.7 * HANGS_S and math.hypot(*travel[:2]) < HANGS_M:
            self.health.note(Trouble.SNAGGED, time_s)

    def _likeliest_lure(self, time_s: float) -> Track | None:
        """Return the lure: the track that the angler says it is, else the likeliest, where it is likely enough."""
        told = next((track for track in self.tracks.of_kind(Kind.LURE) if track.said is FishClass.LURE), None)
        if self.line.place is None:
            return told or lure_choice.by_look(self.tracks, before=self._lure, is_out=self.hand.known, time_s=time_s)
        chosen, sure = (told, True) if told else lure_choice.by_line(self.tracks, self.line, before=self._lure, time_s=time_s)
        if chosen is not None and sure and chosen.own_s == time_s:
            self.line.lean_on(chosen.place)
        return chosen


def _named(odds: FloatArray, *, told: IntArray, before: IntArray) -> IntArray:
    """Return what to call tracks (N,) that are not the lure, numbered as in KINDS, by their odds (N, K), how often they were told and what they

    were called (N,): fish where likely enough, and as long as it is not unlikely (names must not flicker).
    """
    needed = np.where(told >= FISH_TOLD, NAMED, SURELY)
    is_fish = (told > 0) & (odds[:, FISH] > np.where((before == FISH) & (told > 1), LET_GO, needed))
    return np.where(is_fish, FISH, np.where(odds[:, BAIT] >= odds[:, COVER], BAIT, COVER))
