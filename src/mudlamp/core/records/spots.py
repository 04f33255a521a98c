"""A spot as it is kept."""

import datetime as dt
import uuid
from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Spot:
    """A place worth coming back to: on which water, kind, note, place and depth [m] (None: not known), covariance of the place [m^2], from how many

    looks, and where it comes from; of one that was tapped on a picture, its bearing [rad from north] and distance [m] from the boat then.
    """

    id: uuid.UUID
    owner: uuid.UUID | None
    water: str
    kind: str
    note: str
    x_m: float
    y_m: float
    depth_m: float | None
    xx_m2: float
    xy_m2: float
    yy_m2: float
    looks: int
    source: str
    created_at: dt.datetime
    bearing_rad: float | None = None
    away_m: float | None = None


# What a spot can be.
SPOT_KINDS = ("school", "brush", "timber", "piling", "dock", "weeds", "ledge", "rock", "other")
MOST_SPOTS = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnChart:
    """An angler's own chart of a water: its name, its middle [deg], and soundings, flat: longitude, latitude [deg], depth [m]."""

    id: uuid.UUID
    owner: uuid.UUID | None
    name: str
    latitude_deg: float
    longitude_deg: float
    soundings: Sequence[float]
    created_at: dt.datetime
