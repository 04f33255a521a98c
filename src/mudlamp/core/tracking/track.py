"""A track: a filtered place on the ground, what it looked like, how long it has lived. Its figures stand in a row of the roster."""

import math
from collections.abc import Iterable, Iterator
from enum import StrEnum
from typing import TYPE_CHECKING, Any

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.tracking.cuts import Cuts
from mudlamp.core.tracking.history import Fixes
from mudlamp.core.tracking.roster import Roster

if TYPE_CHECKING:
    from mudlamp.core.tracking.classes import FishClass, Identity
    from mudlamp.core.tracking.side import Side
    from mudlamp.core.tracking.sizing import Size


class Kind(StrEnum):
    """What a track may be."""

    FISH = "fish"
    LURE = "lure"
    BAIT = "bait"
    COVER = "cover"


KINDS = tuple(Kind)
# Where each stands among them: the roster keeps kinds by number.
FISH, LURE, BAIT, COVER = range(len(KINDS))


class _Cell:
    """A track's cell of a column of the roster."""

    def __set_name__(self, owner: type, name: str) -> None:
        self._name = name

    def __set__(self, track: "Track", value: Any) -> None:
        getattr(track.roster, self._name)[track.row] = value


class _Figure(_Cell):
    """A number."""

    def __get__(self, track: "Track", owner: type) -> float:
        return float(getattr(track.roster, self._name)[track.row])


class _Count(_Cell):
    """A count."""

    def __get__(self, track: "Track", owner: type) -> int:
        return int(getattr(track.roster, self._name)[track.row])


class _Flag(_Cell):
    """Whether something is so."""

    def __get__(self, track: "Track", owner: type) -> bool:
        return bool(getattr(track.roster, self._name)[track.row])


class _Figures(_Cell):
    """Several numbers: as they stand in the roster, and change there."""

    def __get__(self, track: "Track", owner: type) -> FloatArray:
        row: FloatArray = getattr(track.roster, self._name)[track.row]
        return row


class Track:
    """One track: its row of the roster, and what of it is no figure. What each figure is, `Roster` tells."""

    __slots__ = (
        "_odds", "_said", "context", "cuts", "identity", "lure_context", "roster", "row", "said_s", "side", "size", "traits",
    )  # fmt: skip

    number = _Count()
    hits = _Count()
    told = _Count()
    confirmed = _Flag()
    born_s = _Figure()
    seen_s = _Figure()
    own_s = _Figure()
    score = _Figure()
    level_db = _Figure()
    length_m = _Figure()
    lead = _Figure()
    state = _Figures()
    covariance = _Figures()
    means = _Figures()
    steps = _Figures()
    newest = _Figures()
    changes = _Figures()
    leads = _Figures()
    ways = _Figures()
    shift_m = _Figures()

    def __init__(self, roster: Roster, row: int) -> None:
        """Make the track of a row that nobody else has."""
        self.roster, self.row = roster, row
        self._odds: dict[Kind, float] = {}
        self._said: FishClass | None = None
        self.traits: FloatArray | None = None
        self.context: FloatArray | None = None
        self.lure_context: FloatArray | None = None
        self.identity: Identity | None = None
        self.said_s = -math.inf
        self.cuts: Cuts | None = None
        self.size: Size | None = None
        self.side: Side | None = None

    @property
    def fixes(self) -> Fixes:
        """Its measured moments."""
        return Fixes(self.roster.history, self.row)

    @property
    def kind(self) -> Kind:
        """What it is called."""
        return KINDS[int(self.roster.kind[self.row])]

    @kind.setter
    def kind(self, kind: Kind) -> None:
        self.roster.kind[self.row] = KINDS.index(kind)

    @property
    def odds(self) -> dict[Kind, float]:
        """How likely it is each kind; empty before it was told."""
        return self._odds

    @odds.setter
    def odds(self, odds: dict[Kind, float]) -> None:
        self._odds = odds
        self.roster.odds[self.row] = [odds.get(kind, 0.0) for kind in KINDS]

    @property
    def said(self) -> "FishClass | None":
        """What the angler says it is."""
        return self._said

    @said.setter
    def said(self, said: "FishClass | None") -> None:
        self._said = said
        self.roster.is_said[self.row] = said is not None

    @property
    def place(self) -> tuple[float, float]:
        """Where it is in the plane [m]."""
        return (float(self.state[0]), float(self.state[1]))


class Tracks:
    """Tracks of one roster, in an order, and their rows (N,): they are brought up to date together."""

    __slots__ = ("_tracks", "roster", "rows")

    def __init__(self, roster: Roster, tracks: Iterable[Track] = ()) -> None:
        """Take tracks of a roster together."""
        self.roster, self._tracks = roster, list(tracks)
        self.rows: IntArray = np.fromiter((track.row for track in self._tracks), np.int64, len(self._tracks))

    def __len__(self) -> int:
        return len(self._tracks)

    def __iter__(self) -> Iterator[Track]:
        return iter(self._tracks)

    def __getitem__(self, number: int) -> Track:
        return self._tracks[number]

    def those(self, chosen: BoolArray) -> "Tracks":
        """Return the chosen ones (N,) of them."""
        found = Tracks(self.roster)
        found._tracks = [self._tracks[number] for number in np.flatnonzero(chosen).tolist()]
        found.rows = self.rows[chosen]
        return found

    def of_kind(self, kind: Kind) -> "Tracks":
        """Return those of a kind."""
        return self.those(self.roster.kind[self.rows] == KINDS.index(kind))

    def give_odds(self, odds: FloatArray) -> None:
        """Let them be as likely each kind as said (N, K)."""
        self.roster.odds[self.rows] = odds
        for track, row in zip(self._tracks, odds.tolist(), strict=True):
            track._odds = dict(zip(KINDS, row, strict=True))
