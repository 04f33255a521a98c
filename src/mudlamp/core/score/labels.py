"""What tracks really are, by truth: for learning and for scoring kinds."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.gospa import matched
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView

OWN_M = 0.35
# A second track so near to a fish or the lure is neither it nor anything else.
DOUBTFUL_M = 0.5
CLOUD_RIM_M = 0.25


def polar_places(rows: Sequence[TruthRow] | Sequence[TrackView]) -> FloatArray:
    """Return the places (N, 2) [m] of rows or views in the fan's plane: range by angle, as seen from the transducer."""
    return np.array([(row.range_m * math.cos(row.angle_rad), row.range_m * math.sin(row.angle_rad)) for row in rows]).reshape(-1, 2)


@dataclass(frozen=True, slots=True)
class Label:
    """What a track is, and of a fish or the lure its row of truth; a double is a second track of one that has its own."""

    kind: Kind
    row: TruthRow | None = None
    double: bool = False


def labels_of(views: Sequence[TrackView], truth: Sequence[TruthRow]) -> list[Label | None]:
    """Return what each of a ping's tracks is, None where that cannot be said.

    Each fish and the lure own the track nearest to them, a cloud all within it, the rest is cover. What owns a track but cannot be seen
    makes it doubtful: what is heard there may be wood.
    """
    return [None if label is not None and label.double else label for label in labels_with_doubles(views, truth)]


def labels_with_doubles(views: Sequence[TrackView], truth: Sequence[TruthRow]) -> list[Label | None]:
    """Return what each of a ping's tracks is, as `labels_of` does, with those that are doubles of a fish or the lure told as cover."""
    at = polar_places(views)
    owners = [row for row in truth if (row.kind == "fish" and row.in_fan) or row.kind == "lure"]
    places = polar_places(owners)
    owned = {j: owners[i] for i, j in matched(places, at, cut_m=OWN_M)}
    clouds = [row for row in truth if row.kind == "bait"]
    middles = polar_places(clouds)
    radii = np.array([row.radius_m or 0.0 for row in clouds])
    found: list[Label | None] = []
    for j, place in enumerate(at):
        row = owned.get(j)
        if row is not None:
            found.append(Label(Kind.LURE if row.kind == "lure" else Kind.FISH, row) if row.seen else None)
        elif len(places) and np.linalg.norm(places - place, axis=1).min() < DOUBTFUL_M:
            nearest = owners[int(np.linalg.norm(places - place, axis=1).argmin())]
            followed = any(one is nearest for one in owned.values())
            found.append(Label(Kind.COVER, nearest, double=True) if followed and nearest.seen else None)
        elif len(clouds) and bool((np.linalg.norm(middles - place, axis=1) < radii + CLOUD_RIM_M).any()):
            found.append(Label(Kind.BAIT))
        else:
            found.append(Label(Kind.COVER))
    return found
