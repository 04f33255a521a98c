"""A cast drawn from the side: the fish, the lure's path from the splash to the fish, the line, the ring it may land in. In feet."""

from dataclasses import dataclass

from mudlamp.core.casting.fall import arc
from mudlamp.core.casting.solve import Cast, CastQuery
from mudlamp.core.units import feet

STEPS = 24


@dataclass(frozen=True, slots=True, kw_only=True)
class CastDrawing:
    """What a template draws, in feet from the rod tip's foot: right is out, down is deep; paths as SVG points."""

    wide: float
    deep: float
    fish: tuple[float, float]
    meets: tuple[float, float]
    splash: float
    ring: float
    tip: float
    path: str
    drawn: str


def drawing_of(query: CastQuery, cast: Cast) -> CastDrawing:
    """Return the drawing of a cast."""
    end = max(cast.cast_m - cast.fall.toward_rod_m, 0.0)
    falls = arc(splash_m=cast.cast_m, toward_rod_m=cast.fall.toward_rod_m, depth_m=cast.down_m, rod_tip_m=query.rod_tip_m, steps=STEPS)
    meets = max(end - cast.run_m, 0.0)
    drawn = [(end, cast.down_m), (meets, cast.hold_m)]
    return CastDrawing(
        wide=round(feet(max(cast.cast_m, cast.horizontal_m)) + 6.0, 1),
        deep=round(feet(query.depth_m) + 5.0, 1),
        fish=(_ft(cast.horizontal_m), _ft(query.depth_m)),
        meets=(_ft(meets), _ft(cast.hold_m)),
        splash=_ft(cast.cast_m),
        ring=_ft(max(cast.ring_m, 0.15)),
        tip=_ft(query.rod_tip_m),
        path=_points(falls),
        drawn=_points(drawn),
    )


def _points(places: list[tuple[float, float]]) -> str:
    return " ".join(f"{feet(x):.2f},{feet(y):.2f}" for x, y in places)


def _ft(length_m: float) -> float:
    return round(feet(length_m), 1)
