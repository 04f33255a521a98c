"""A general-purpose library's way of giving echoes to tracks, in place of our own: to be compared with it on the same echoes.

Births, deaths, kinds and names stay as they are: what differs is who gets which echo, and what that does to the state.
The library comes with what the tests need, never with what serves.
"""

import datetime as dt
from enum import StrEnum

import numpy as np
from stonesoup.dataassociator.base import DataAssociator
from stonesoup.dataassociator.neighbour import GNNWith2DAssignment
from stonesoup.dataassociator.probability import JPDAwithEHM2
from stonesoup.dataassociator.tree import DetectionKDTreeMixIn
from stonesoup.functions import gm_reduce_single
from stonesoup.hypothesiser.distance import DistanceHypothesiser
from stonesoup.hypothesiser.probability import PDAHypothesiser
from stonesoup.measures import Mahalanobis
from stonesoup.models.measurement.linear import LinearGaussian
from stonesoup.models.transition.linear import CombinedLinearGaussianTransitionModel, RandomWalk
from stonesoup.predictor.kalman import KalmanPredictor
from stonesoup.types.array import StateVectors
from stonesoup.types.detection import Detection
from stonesoup.types.hypothesis import SingleHypothesis
from stonesoup.types.multihypothesis import MultipleHypothesis
from stonesoup.types.state import GaussianState
from stonesoup.types.track import Track as LibraryTrack
from stonesoup.updater.kalman import KalmanUpdater

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking import associate, filter
from mudlamp.core.tracking.detect import Detections
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.tracker import Tracker

# Echoes farther than this from where a track should be are not looked at [m].
REACH_M = 0.8
# What the probabilistic way assumes: the chance that a track is heard, and clutter by area [1/m^2].
HEARD, CLUTTER_M2 = 0.8, 0.5
# The echo a track got (its number), and the track's state and covariance after it.
Taken = tuple[int, FloatArray, FloatArray]
START = dt.datetime(2000, 1, 1, tzinfo=dt.UTC)


class Way(StrEnum):
    """Ways of the library."""

    GNN = "gnn"
    JPDA = "jpda"


class _NearGNN(DetectionKDTreeMixIn, GNNWith2DAssignment):
    """Global nearest neighbor among the echoes near each track."""


class _NearJPDA(DetectionKDTreeMixIn, JPDAwithEHM2):
    """Joint probabilistic association among the echoes near each track."""


class LibraryTracker(Tracker):
    """Our tracker with the library's association and update in it."""

    def __init__(self, learned: Learned, way: Way) -> None:
        """Make a tracker that goes a way of the library's."""
        super().__init__(learned)
        self._way = way
        still = CombinedLinearGaussianTransitionModel([RandomWalk(0.0)] * 4)
        # States come predicted: the library's own prediction stands still.
        self._predictor = KalmanPredictor(still)
        self._model = LinearGaussian(ndim_state=4, mapping=(0, 1), noise_covar=np.diag([0.05**2, 0.05**2]))
        self._updater = KalmanUpdater(self._model)
        self._associator = self._made()

    def _made(self) -> DataAssociator:
        near = {"predictor": self._predictor, "updater": self._updater, "max_distance": REACH_M}
        if self._way is Way.GNN:
            by_distance = DistanceHypothesiser(self._predictor, self._updater, Mahalanobis(), missed_distance=associate.GATE**0.5)
            return _NearGNN(hypothesiser=by_distance, **near)
        by_odds = PDAHypothesiser(
            self._predictor, self._updater, clutter_spatial_density=CLUTTER_M2, prob_detect=HEARD, prob_gate=0.997, include_all=False
        )
        return _NearJPDA(hypothesiser=by_odds, **near)

    def _associate(self, found: Detections, state: FloatArray, covariance: FloatArray, time_s: float) -> set[int]:
        """Match and update by the library; return the numbers of the used detections."""
        if not len(self.tracks) or not len(found):
            return set()
        now = START + dt.timedelta(seconds=time_s)
        states = [GaussianState(one.reshape(4, 1), spread, timestamp=now) for one, spread in zip(state, covariance, strict=True)]
        tracks = [LibraryTrack([one]) for one in states]
        echoes = [Detection(place.reshape(2, 1), timestamp=now, measurement_model=self._model) for place in found.place]
        chosen = self._associator.associate(set(tracks), set(echoes), now)
        numbers = {id(echo): number for number, echo in enumerate(echoes)}
        take = self._whole if self._way is Way.GNN else self._in_parts
        taken = [take(chosen[track], numbers) for track in tracks]
        miss = np.sqrt(filter.distances(state, covariance, found.place, found.covariance))
        return self._take(found, taken, miss, time_s)

    def _whole(self, chosen: SingleHypothesis, numbers: dict[int, int]) -> Taken | None:
        """Return the echo that a track got, and its state by it."""
        if not chosen:
            return None
        after = self._updater.update(chosen)
        return numbers[id(chosen.measurement)], np.asarray(after.mean, dtype=float).ravel(), np.asarray(after.covar, dtype=float)

    def _in_parts(self, chosen: MultipleHypothesis, numbers: dict[int, int]) -> Taken | None:
        """Return the likeliest echo of a track's, and its state by all of them, each by its odds; None where likeliest it was not heard."""
        best = max(chosen, key=lambda one: float(one.probability))
        if not best:
            return None
        after = [self._updater.update(one) if one else one.prediction for one in chosen]
        shares = np.array([float(one.probability) for one in chosen])
        shares /= shares.sum()
        mean, spread = gm_reduce_single(
            StateVectors([one.state_vector for one in after]), np.stack([one.covar for one in after], axis=2), shares
        )
        return numbers[id(best.measurement)], np.asarray(mean, dtype=float).ravel(), np.asarray(spread, dtype=float)

    def _take(self, found: Detections, taken: list[Taken | None], miss: FloatArray, time_s: float) -> set[int]:
        """Give each track its new state and the echo that counts most for it; return the numbers of the echoes."""
        got = [(row, one) for row, one in enumerate(taken) if one is not None]
        if not got:
            return set()
        rows = np.array([row for row, _ in got])
        columns = np.array([number for _, (number, _, _) in got])
        self._put_back(
            self.tracks.rows[rows], np.array([state for _, (_, state, _) in got]), np.array([spread for _, (_, _, spread) in got])
        )
        self._note(self.tracks.rows[rows], found, columns, miss[rows, columns], time_s)
        return set(columns.tolist())
