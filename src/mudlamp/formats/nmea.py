"""NMEA 0183 sentences, read and written: position, heading, depth, water temperature, speed. Framing and checksums by a library (pynmea2)."""

import datetime as dt
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

import pynmea2

from mudlamp.core.errors import DomainError

# With its line's end (NMEA 0183, section 5.3).
LONGEST = 82
KNOT_M_S = 1852.0 / 3600.0
KMH_M_S = 1.0 / 3.6


@dataclass(frozen=True, slots=True, kw_only=True)
class Said:
    """What sentences said (None: nothing): latitude and longitude [deg], heading from true north [rad], depth from the surface [m] where the

    talker says how deep its transducer hangs, else under it, water temperature [deg C], speed [m/s].
    """

    latitude_deg: float | None = None
    longitude_deg: float | None = None
    heading_rad: float | None = None
    depth_m: float | None = None
    water_degc: float | None = None
    speed_m_s: float | None = None


def _number(text: object, low: float, high: float, name: str) -> float | None:
    """Return a field's number, None for an empty one; raise DomainError for one that is none or cannot be."""
    if text in (None, ""):
        return None
    try:
        value = float(str(text))
    except ValueError:
        value = math.nan
    if not low <= value <= high:
        raise DomainError(f"{name} is {str(text)[:20]}: it must be {low:g} to {high:g}")
    return value


def _times(value: float | None, factor: float) -> float | None:
    return None if value is None else value * factor


def _place(one: Any) -> Said:
    if not one.lat or not one.lon:
        return Said()
    try:
        latitude, longitude = float(one.latitude), float(one.longitude)
    except (ValueError, TypeError, AttributeError):
        raise DomainError(f"position is {str(one.lat)[:12]}, {str(one.lon)[:12]}: it must be degrees and minutes") from None
    if not (abs(latitude) <= 90.0 and abs(longitude) <= 180.0):
        raise DomainError(f"position is {latitude:g}, {longitude:g}: it must be a latitude and a longitude")
    return Said(latitude_deg=latitude, longitude_deg=longitude)


def _fix(one: Any) -> Said:
    return _place(one) if str(one.gps_qual or "0") != "0" else Said()


def _minimum(one: Any) -> Said:
    if one.status != "A":
        return Said()
    place = _place(one)
    speed = _times(_number(one.spd_over_grnd, 0.0, 200.0, "speed"), KNOT_M_S)
    return Said(latitude_deg=place.latitude_deg, longitude_deg=place.longitude_deg, speed_m_s=speed)


def _line(one: Any) -> Said:
    return _place(one) if one.status == "A" else Said()


def _true(one: Any) -> Said:
    degrees = _number(one.heading, 0.0, 360.0, "heading")
    return Said(heading_rad=None if degrees is None else math.radians(degrees))


def _under(one: Any) -> Said:
    depth = _number(one.depth, 0.0, 12_000.0, "depth")
    offset = _number(one.offset, -100.0, 100.0, "offset") or 0.0
    # A positive offset is from the waterline down to the transducer, a negative one from the transducer to the keel.
    return Said(depth_m=None if depth is None else depth + max(offset, 0.0))


def _below(one: Any) -> Said:
    return Said(depth_m=_number(one.depth_meters, 0.0, 12_000.0, "depth"))


def _warm(one: Any) -> Said:
    if str(one.units or "C") != "C":
        raise DomainError(f"unit is {str(one.units)[:10]}: it must be C")
    return Said(water_degc=_number(one.temperature, -5.0, 60.0, "water temperature"))


def _over_ground(one: Any) -> Said:
    knots = _number(one.spd_over_grnd_kts, 0.0, 200.0, "speed")
    return Said(speed_m_s=_times(knots, KNOT_M_S))


def _through_water(one: Any) -> Said:
    heading, knots = _number(one.heading_true, 0.0, 360.0, "heading"), _number(one.water_speed_knots, 0.0, 200.0, "speed")
    return Said(heading_rad=None if heading is None else math.radians(heading), speed_m_s=_times(knots, KNOT_M_S))


READERS: Mapping[str, Callable[[Any], Said]] = {
    "GGA": _fix,
    "RMC": _minimum,
    "GLL": _line,
    "HDT": _true,
    "DPT": _under,
    "DBT": _below,
    "MTW": _warm,
    "VTG": _over_ground,
    "VHW": _through_water,
}


def read_sentence(line: bytes) -> Said | None:
    """Return what a sentence says; None for a sound one of a kind that says nothing of ours.

    Raises DomainError for one that is too long, is no sentence, has no checksum or a wrong one, or says what cannot be.
    """
    if len(line) > LONGEST:
        raise DomainError(f"sentence has {len(line)} bytes: it may have {LONGEST} at most")
    text = line.strip(b"\r\n").decode("ascii", errors="replace")
    if not text.startswith(("$", "!")) or "*" not in text or not text.isprintable():
        raise DomainError(f"sentence is {text[:20]!r}: it must begin with $ and end with its checksum")
    try:
        found = pynmea2.parse(text, check=True)
    except pynmea2.ChecksumError:
        raise DomainError(f"sentence {text[:6]}: its checksum does not hold") from None
    except pynmea2.SentenceTypeError:
        return None
    except (pynmea2.ParseError, ValueError, KeyError, IndexError, TypeError, AttributeError):
        raise DomainError(f"sentence is {text[:20]!r}: it is no NMEA 0183") from None
    reader = READERS.get(getattr(found, "sentence_type", ""))
    return None if reader is None else reader(found)


def written(said: Said, *, at: dt.datetime, transducer_m: float) -> list[bytes]:
    """Return sentences that say all of it: GGA, RMC, HDT, DPT, MTW, each with its line's end; `transducer_m` is how deep the sounder hangs [m]."""
    found: list[Any] = []
    if said.latitude_deg is not None and said.longitude_deg is not None:
        time, day = at.strftime("%H%M%S.00"), at.strftime("%d%m%y")
        place = (*_minutes(said.latitude_deg, 2, "NS"), *_minutes(said.longitude_deg, 3, "EW"))
        speed = f"{(said.speed_m_s or 0.0) / KNOT_M_S:.2f}"
        course = f"{math.degrees(said.heading_rad or 0.0) % 360.0:.1f}"
        found.append(pynmea2.GGA("GP", "GGA", (time, *place, "1", "09", "0.9", "120.0", "M", "0.0", "M", "", "")))
        found.append(pynmea2.RMC("GP", "RMC", (time, "A", *place, speed, course, day, "", "")))
    if said.heading_rad is not None:
        found.append(pynmea2.HDT("HE", "HDT", (f"{math.degrees(said.heading_rad) % 360.0:.1f}", "T")))
    if said.depth_m is not None:
        found.append(pynmea2.DPT("SD", "DPT", (f"{max(said.depth_m - transducer_m, 0.0):.2f}", f"{transducer_m:.2f}")))
    if said.water_degc is not None:
        found.append(pynmea2.MTW("YX", "MTW", (f"{said.water_degc:.1f}", "C")))
    return [f"{one}\r\n".encode("ascii") for one in found]


def _minutes(degrees: float, digits: int, signs: str) -> tuple[str, str]:
    whole, part = divmod(round(abs(degrees) * 60.0, 5), 60.0)
    return f"{int(whole):0{digits}d}{part:08.5f}", signs[degrees < 0.0]
