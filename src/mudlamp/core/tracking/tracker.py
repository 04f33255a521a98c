"""The tracker: from one ping to the next, which tracks are there and what each is."""

import itertools
import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.ping import Ping
from mudlamp.core.tracking import associate, filter
from mudlamp.core.tracking.classify import odds
from mudlamp.core.tracking.detect import Detection, Detector, PlaneGeometry
from mudlamp.core.tracking.track import Fix, Kind, Track

CONFIRM_HITS = 5
CONFIRM_SHARE = 0.5
STEADINESS_S = 0.8
STEADY = 0.8
LURE_STEADY = 0.45
LOSE_TENTATIVE_S = 0.4
LOSE_S = 1.3
LOSE_FISH_S = 2.0
MOST_TRACKS = 160
LEVEL_COST_DB = 7.0
CROWD_M = 0.8
COMPANY_M = 0.6
SMALL_DB = -42.0
DESCRIBE_EVERY = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackView:
    """A confirmed track as others see it: world place [m] with across taken as zero, plane place, range, angle, odds, size, speed."""

    number: int
    kind: Kind
    odds: dict[Kind, float]
    place: tuple[float, float]
    world: tuple[float, float, float]
    range_m: float
    angle_rad: float
    velocity_m_s: tuple[float, float]
    length_m: float
    level_db: float
    coasting: bool
    age_s: float


class Tracker:
    """Follows what pings show. Feed it pings in their order."""

    def __init__(self) -> None:
        self.detector = Detector()
        self.tracks: list[Track] = []
        self.detections: list[Detection] = []
        self._next = 1
        self._turn = 0
        self._lure: int | None = None
        self._last_s: float | None = None

    def update(self, ping: Ping) -> list[TrackView]:
        """Take a ping in; return the confirmed tracks."""
        self.detections = self.detector.detect(ping)
        dt = 0.0 if self._last_s is None else max(ping.time_s - self._last_s, 0.0)
        self._last_s = ping.time_s
        self._predict(dt)
        used = self._associate(ping.time_s)
        self._give_birth(used, ping.time_s)
        self._live_on(ping.time_s, dt)
        return self._views(ping)

    def _predict(self, dt_s: float) -> None:
        if not self.tracks or dt_s == 0.0:
            return
        state, covariance = filter.predict(*self._stacked(self.tracks), dt_s)
        self._put_back(self.tracks, state, covariance)

    @staticmethod
    def _stacked(tracks: list[Track]) -> tuple[FloatArray, FloatArray]:
        return np.array([track.state for track in tracks]), np.array([track.covariance for track in tracks])

    @staticmethod
    def _put_back(tracks: list[Track], state: FloatArray, covariance: FloatArray) -> None:
        for i, track in enumerate(tracks):
            track.state, track.covariance = state[i], covariance[i]

    def _associate(self, time_s: float) -> set[int]:
        """Match confirmed tracks first, then tentative ones with what is left; return the numbers of the used detections."""
        used: set[int] = set()
        for confirmed in (True, False):
            tracks = [track for track in self.tracks if track.confirmed is confirmed]
            free = [i for i in range(len(self.detections)) if i not in used]
            if tracks and free:
                used |= self._match(tracks, free, time_s)
        return used

    def _match(self, tracks: list[Track], free: list[int], time_s: float) -> set[int]:
        found = [self.detections[i] for i in free]
        place = np.array([one.place for one in found])
        noise = np.array([[[one.covariance[0], one.covariance[1]], [one.covariance[1], one.covariance[2]]] for one in found])
        state, covariance = self._stacked(tracks)
        _, distance = filter.innovation(state, covariance, place, noise)
        level = np.array([one.level_db for one in found])[None, :] - np.array([track.level_db for track in tracks])[:, None]
        # Outside the gate stays outside: the level only decides among echoes that could be the track's.
        cost = np.where(
            distance < associate.GATE, 0.6 * distance + 0.4 * np.minimum((level / LEVEL_COST_DB) ** 2, associate.GATE), associate.GATE
        )
        rows, columns = associate.assign(cost)
        if len(rows):
            state, covariance = filter.update(state[rows], covariance[rows], place[columns], noise[columns])
            matched = [tracks[row] for row in rows]
            self._put_back(matched, state, covariance)
            for track, column in zip(matched, columns, strict=True):
                track.note(found[column], time_s)
        return {free[column] for column in columns}

    def _give_birth(self, used: set[int], time_s: float) -> None:
        for i, one in enumerate(self.detections):
            if i in used or len(self.tracks) >= MOST_TRACKS:
                continue
            covariance = np.diag([0.0, 0.0, filter.START_SPEED_M_S**2, filter.START_SPEED_M_S**2])
            covariance[0, 0], covariance[0, 1], covariance[1, 0], covariance[1, 1] = (
                one.covariance[0],
                one.covariance[1],
                one.covariance[1],
                one.covariance[2],
            )
            track = Track(
                number=0,
                born_s=time_s,
                first=one.place,
                state=np.array([*one.place, 0.0, 0.0]),
                covariance=covariance,
                level_db=one.level_db,
                length_m=one.length_m,
                seen_s=time_s,
            )
            track.fixes.append(Fix(time_s=time_s, place=one.place, level_db=one.level_db))
            self.tracks.append(track)

    def _live_on(self, time_s: float, dt_s: float) -> None:
        kept = []
        for track in self.tracks:
            if track.seen_s < time_s:
                track.misses += 1
            share = math.exp(-dt_s / STEADINESS_S)
            track.score = share * track.score + (1.0 - share) * (1.0 if track.seen_s == time_s else 0.0)
            if not track.confirmed and track.hits >= CONFIRM_HITS and track.score >= CONFIRM_SHARE:
                track.confirmed = True
                track.number, self._next = self._next, self._next + 1
            if not self._is_lost(track, time_s):
                kept.append(track)
        self.tracks = kept
        self._describe(time_s)

    @staticmethod
    def _is_lost(track: Track, time_s: float) -> bool:
        silent = time_s - track.seen_s
        if not track.confirmed:
            return silent > LOSE_TENTATIVE_S or (time_s - track.born_s > 1.0 and track.score < 0.35)
        return silent > (LOSE_FISH_S if track.kind is Kind.FISH else LOSE_S)

    def _describe(self, time_s: float) -> None:
        """Bring kinds up to date: each track every few pings, in turn, for kinds change slowly."""
        self._turn += 1
        every = np.array([one.place for one in self.detections]).reshape(-1, 2)
        small = np.array([one.level_db < SMALL_DB for one in self.detections], dtype=bool)
        for track in self.tracks:
            if not track.confirmed or (track.odds and (track.number + self._turn) % DESCRIBE_EVERY):
                continue
            gap2 = ((every - track.state[:2]) ** 2).sum(axis=1)
            near = float(np.count_nonzero(gap2[small] < CROWD_M**2))
            around = max(float(np.count_nonzero(gap2 < COMPANY_M**2)) - 1.0, 0.0)
            track.crowd += 0.22 * (near - track.crowd)
            track.company += 0.115 * (around - track.company)
            _note_motion(track, time_s)
            track.odds = odds(track)
            best = max(track.odds, key=lambda kind: track.odds[kind])
            # A kind changes only when it is clearly better: names on a picture must not flicker.
            if not track.odds.get(track.kind, 0.0) > 0.6 * track.odds[best]:
                track.kind = best
        self._keep_one_lure(time_s)

    def _keep_one_lure(self, time_s: float) -> None:
        """There is one lure in the water: of several tracks that look like one, the one that travels keeps the name."""
        lures = [track for track in self.tracks if track.confirmed and track.kind is Kind.LURE]
        if not lures:
            return

        def claim(track: Track) -> float:
            """A steady echo that travels a jig's way counts; one that leaps about the brush does not."""
            travels = 0.1 + min(track.roam_m, 0.6)
            held = 0.25 if track.number == self._lure else 0.0
            return track.score * (track.odds[Kind.LURE] * travels + held) - (0.4 if track.seen_s < time_s - 0.5 else 0.0)

        chosen = max(lures, key=claim)
        self._lure = chosen.number if chosen.score > LURE_STEADY else None
        for track in lures:
            if track.number != self._lure:
                track.kind = max((kind for kind in track.odds if kind is not Kind.LURE), key=lambda kind: track.odds[kind])

    def _views(self, ping: Ping) -> list[TrackView]:
        plane = PlaneGeometry(ping)
        views = []
        for track in self.tracks:
            if not track.confirmed:
                continue
            range_m, angle = plane.polar(track.place)
            views.append(
                TrackView(
                    number=track.number,
                    kind=track.kind,
                    odds=track.odds,
                    place=track.place,
                    world=plane.world(track.place),
                    range_m=range_m,
                    angle_rad=angle,
                    velocity_m_s=(float(track.state[2]), float(track.state[3])),
                    length_m=track.length_m,
                    level_db=track.level_db,
                    coasting=track.seen_s < ping.time_s,
                    age_s=ping.time_s - track.born_s,
                )
            )
        return views


def _note_motion(track: Track, time_s: float) -> None:
    """Work out how far the track roamed lately and how fast it sank, from its fixes."""
    fixes = track.fixes
    recent = list(itertools.takewhile(lambda fix: time_s - fix.time_s < 3.0, reversed(fixes)))[::-1]
    if len(recent) < 6:
        return
    part = max(2, len(recent) // 4)
    start, end = _middle(recent[:part]), _middle(recent[-part:])
    span = recent[-1].time_s - recent[0].time_s
    if span > 0.5:
        track.roam_m = math.dist(start, end)
        if track.score > STEADY:
            track.moved_m = max(track.moved_m, track.roam_m)
        track.sink_m_s = (end[1] - start[1]) / span


def _middle(fixes: list[Fix]) -> tuple[float, float]:
    return (sum(fix.place[0] for fix in fixes) / len(fixes), sum(fix.place[1] for fix in fixes) / len(fixes))
