"""The demo's spots on its own water: what its search of the creek arm marked. Each stands on something that is really there."""

import datetime as dt
import uuid
from collections.abc import Iterator

from mudlamp.core.chance import stream
from mudlamp.core.records.spots import Spot
from mudlamp.core.scene.places import PlaceKind
from mudlamp.core.searching.boat import FIX_SIGMA_M
from mudlamp.services.find.waters import DEMO, reach_named

# A school of no more than so many is small and tight.
SMALL = 20
MARKED = (
    (PlaceKind.BRUSH, "brush", "Two piles side by side, nobody home. Try at first light."),
    (PlaceKind.ORCHARD, "timber", "Tallest pear tree, dots on its shady side."),
    (PlaceKind.VILLAGE, "rock", "Mill wall, south corner."),
    (PlaceKind.BRIDGE, "piling", "Second leg from the channel."),
    (PlaceKind.CHANNEL, "ledge", "The creek comes in under the flat here."),
)


def demo_spots(made: dt.datetime) -> Iterator[Spot]:
    """Yield the demo's six spots, the first a school."""
    reach, rng = reach_named(DEMO), stream(45, "demo-spots")
    small = next(one for one in reach.schools if one.is_school and one.count <= SMALL and one.at is not PlaceKind.FLAT)
    rows = [
        ("school", f"Small and tight by the {small.at.value}, {small.count} or so. Come back quietly.", small.x_m, small.y_m, small.z_m)
    ]
    for kind, what, note in MARKED:
        place = next(one for one in reach.places if one.kind is kind)
        rows.append((what, note, place.x_m, place.y_m, place.depth_m))
    for number, (what, note, x, y, depth) in enumerate(rows):
        off = rng.normal(0.0, FIX_SIGMA_M, 2)
        yield Spot(
            id=uuid.uuid5(uuid.NAMESPACE_OID, f"mudlamp demo spot {number}"),
            owner=None,
            water=DEMO,
            kind=what,
            note=note,
            x_m=round(x + float(off[0]), 2),
            y_m=round(y + float(off[1]), 2),
            depth_m=round(depth, 2),
            xx_m2=round(1.6 * FIX_SIGMA_M**2, 3),
            xy_m2=0.1,
            yy_m2=round(1.2 * FIX_SIGMA_M**2, 3),
            looks=1,
            source="demo",
            created_at=made + dt.timedelta(minutes=7 * number),
        )
