"""The tables. Keys are UUIDs made where the record is born; times are UTC; units are SI; every row of fishing has its source."""

from mudlamp.store.models.base import Base, Deletable, OfRig, OfSession, OfTrip, Owned
from mudlamp.store.models.boat import BoatEntryRow, LandingRow, PackRow, PairingRow
from mudlamp.store.models.library import NamedSetupRow, RecordingRow
from mudlamp.store.models.log import AnglerRow, BaitRow, ReactionRow, SessionRow, SetupChangeRow, ShotRow, TrackRow
from mudlamp.store.models.rigs import CardRow, EndedRow, LureRow, RigRow, RodRow
from mudlamp.store.models.spots import ChartRow, SpotRow
from mudlamp.store.models.trips import BagRuleRow, BoatPointRow, CatchRow, ConditionRow, LaunchRow, MoveRow, PhotoRow, TripRow

__all__ = [
    "AnglerRow",
    "BagRuleRow",
    "BaitRow",
    "Base",
    "BoatEntryRow",
    "BoatPointRow",
    "CardRow",
    "CatchRow",
    "ChartRow",
    "ConditionRow",
    "Deletable",
    "EndedRow",
    "LandingRow",
    "LaunchRow",
    "LureRow",
    "MoveRow",
    "NamedSetupRow",
    "OfRig",
    "OfSession",
    "OfTrip",
    "Owned",
    "PackRow",
    "PairingRow",
    "PhotoRow",
    "ReactionRow",
    "RecordingRow",
    "RigRow",
    "RodRow",
    "SessionRow",
    "SetupChangeRow",
    "ShotRow",
    "SpotRow",
    "TrackRow",
    "TripRow",
]
