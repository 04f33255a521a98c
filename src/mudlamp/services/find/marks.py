"""One mark in every view: where a point of a picture is, how well that is known, and where the same place stands in the other pictures."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.reach import Reach
from mudlamp.core.searching.boat import Standing
from mudlamp.core.searching.marks import Fix, Lies, Mark, fix_of, seen_by
from mudlamp.core.searching.search import PING_HZ, ViewSetting
from mudlamp.core.sonar.console import BINS, VIEWS, ViewKind, two_way_width_rad
from mudlamp.core.water.sound import sound_speed_m_s
from mudlamp.services.find.columns import ColumnReader, told
from mudlamp.services.find.line import Epoch

# How many pings back a mark is looked for in other views.
BACK = 6000
# In the bottom's echo, or below it: a mark no higher than this over where the bottom begins lies on it [m].
ON_BOTTOM_M = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class InView:
    """Where a place stands in a view: ping, beam, slant range [m]; how many cells (as they were sounded) a meter is across, how many pings along,

    and over how many pings fore and aft the view cannot tell it from others.
    """

    view: ViewKind
    number: int
    beam: int
    slant_m: float
    meter_cells: float
    meter_pings: float
    smear_pings: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Marked:
    """A mark that was pointed at: its view, ping, beam, slant range [m], depth under the boat there [m], what lies where, and the same place

    in every view.
    """

    view: ViewKind
    number: int
    beam: int
    slant_m: float
    lies: Lies
    water_m: float
    fix: Fix
    views: tuple[InView, ...]


def setting_at(epochs: Sequence[Epoch], view: ViewKind, number: int) -> ViewSetting:
    """Return how a view sounded at a ping; raise DomainError where it was closed all along."""
    own = [one for one in epochs if one.setting.kind is view and one.from_number <= number]
    if not own:
        raise DomainError(f"view is {view.value}: it was not open at ping {number}")
    return own[-1].setting


def mark_at(
    columns: ColumnReader, epochs: Sequence[Epoch], reach: Reach, *, view: ViewKind, number: int, beam: int, slant_m: float
) -> Marked:
    """Return what a point of a picture is: ping, beam and slant range [m]; raise DomainError for one that is on no picture."""
    beams = len(VIEWS[view].shapes)
    if not 0 <= beam < beams:
        raise DomainError(f"beam is {beam}: it must be 0 to {beams - 1}")
    rows = columns.track(max(number - BACK, 0), number + BACK)
    first = max(number - BACK, 0)
    if not 0 <= number < first + len(rows):
        raise DomainError(f"number is {number}: it must be 0 to {first + len(rows) - 1}")
    setting = setting_at(epochs, view, number)
    if not 0.0 < slant_m <= setting.reach_m:
        raise DomainError(f"range is {slant_m:.1f} m: it must be over 0 and up to {setting.reach_m:.1f} m")
    row = rows[number - first]
    at, depth = told(row), float(row[8])
    speed = float(sound_speed_m_s(temperature_degc=reach.water.temperature_degc))
    lies = _lies(view, slant_m, depth)
    fix = fix_of(Mark(at=at, view=view, beam=beam, carrier_hz=setting.carrier_hz, slant_m=slant_m, lies=lies), reach.chart, sound_m_s=speed)
    standings = [told(one) for one in rows]
    every_s = float(rows[1][0] - rows[0][0]) if len(rows) > 1 else 1.0 / PING_HZ
    place_m = (fix.x_m, fix.y_m, fix.depth_m if fix.depth_m is not None else fix.arc_m[len(fix.arc_m) // 2][2])
    views = [in_view(view, setting, number, beam, slant_m, at, speed, every_s)]
    for kind in ViewKind:
        if kind is not view and any(one.setting.kind is kind for one in epochs):
            found = _elsewhere(kind, epochs, place_m, standings, first, speed, every_s)
            if found is not None:
                views.append(found)
    return Marked(view=view, number=number, beam=beam, slant_m=slant_m, lies=lies, water_m=depth, fix=fix, views=tuple(views))


def _lies(view: ViewKind, slant_m: float, depth_m: float) -> Lies:
    """Return where a mark lies: in a picture that looks down by the bottom's line, in a side picture in the dark strip or beyond it."""
    return Lies.ABOVE if slant_m < depth_m - (ON_BOTTOM_M if view is not ViewKind.SIDE else 0.0) else Lies.BOTTOM


def in_view(
    kind: ViewKind, setting: ViewSetting, number: int, beam: int, slant_m: float, at: Standing, sound_m_s: float, every_s: float
) -> InView:
    """Return where a slant range stands in a view that sounded so."""
    width = two_way_width_rad(VIEWS[kind].shapes[beam], sound_m_s / setting.carrier_hz) * slant_m
    along = max(at.speed_m_s, 0.3) * every_s
    return InView(
        view=kind,
        number=number,
        beam=beam,
        slant_m=slant_m,
        meter_cells=BINS / setting.reach_m,
        meter_pings=1.0 / along,
        smear_pings=0.5 * width / along,
    )


def _elsewhere(
    kind: ViewKind,
    epochs: Sequence[Epoch],
    place_m: tuple[float, float, float],
    standings: list[Standing],
    first: int,
    sound_m_s: float,
    every_s: float,
) -> InView | None:
    found = seen_by(kind, place_m, standings, beam_count=len(VIEWS[kind].shapes))
    if found is None:
        return None
    index, beam, slant = found
    try:
        setting = setting_at(epochs, kind, first + index)
    except DomainError:
        return None
    if slant > setting.reach_m or not _is_lit(kind, beam, place_m, standings[index], sound_m_s / setting.carrier_hz):
        return None
    return in_view(kind, setting, first + index, beam, slant, standings[index], sound_m_s, every_s)


def _is_lit(kind: ViewKind, beam: int, place_m: tuple[float, float, float], at: Standing, wavelength_m: float) -> bool:
    """Return whether a beam could have heard a place at all: a cone only what it passed over."""
    shape = VIEWS[kind].shapes[beam]
    x, y, z = at.transducer_m
    aside = math.hypot(place_m[0] - x, place_m[1] - y)
    down = max(place_m[2] - z, 0.1)
    if shape.is_round:
        return math.atan2(aside, down) < 0.75 * two_way_width_rad(shape, wavelength_m)
    return abs(math.atan2(aside, down) - abs(shape.toward_rad)) < 0.9 * shape.across_rad
