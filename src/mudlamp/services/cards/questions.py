"""The questions of a set-up card, as anglers can answer them, and their answers in the core's terms."""

import datetime as dt
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from mudlamp.core.advice.answers import (
    Answers,
    Clash,
    CoverKind,
    Goal,
    Habit,
    Shape,
    Sky,
    Technique,
    clashes,
)
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.units import MPH_M_S, degc_from_degf, degf_from_degc, feet, meters
from mudlamp.core.water.clarity import TYPICAL_SECCHI_M, Clarity
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import Field
from mudlamp.services.edge.sun import sun_height_rad


def _feet(name: str, label: str, low: float, high: float, **more: Any) -> Field:
    return forms.number(name, label, low, high, "ft", step=0.1, to_core=meters, from_core=feet, **more)


TARGETS = {
    "crappie": Species.CRAPPIE,
    "bass": Species.LARGEMOUTH,
    "bluegill": Species.BLUEGILL,
    "catfish": Species.CATFISH,
    "carp": Species.CARP,
    "drum": Species.DRUM,
    "gar": Species.GAR,
}
TARGET_NAMES = {species: name for name, species in TARGETS.items()}

TECHNIQUES = {"vertical": "drop", "pitch": "pitch", "cast": "cast", "scan": "scan"}
GOALS = {
    "table": "a meal of fish",
    "trophy": "one giant",
    "tournament": "a tournament limit",
    "guiding": "guiding clients",
    "learning": "learning to see",
    "observing": "watching at anchor",
}

FIELDS = (
    forms.choice("technique", "How you fish", TECHNIQUES, to_core=Technique, from_core=lambda value: value.value),
    forms.choice("target", "Fish", {name: name for name in TARGETS}, to_core=TARGETS.__getitem__, from_core=TARGET_NAMES.__getitem__),
    _feet("depth_ft", "Depth here", 4.0, 190.0, hint="under the boat, or where the fish are"),
    forms.choice("clarity", "Clarity", {one.value: one.value for one in Clarity}, to_core=Clarity, from_core=lambda value: value.value),
    forms.choice(
        "bottom",
        "Bottom",
        {one.value: one.value for one in Ground},
        to_core=Ground,
        from_core=lambda value: value.value,
        hint="mud holds the anchor, rock rings",
    ),
    _feet("jig_gone_ft", "White jig gone at", 0.3, 60.0, hint="lower a white jig: at how many feet is it gone? It goes before the word"),
    forms.choice("goal", "What for", GOALS, to_core=Goal, from_core=lambda value: value.value),
    _feet("fish_from_ft", "Fish from", 0.0, 190.0),
    _feet("fish_to_ft", "Fish down to", 0.0, 190.0),
    forms.choice(
        "shape",
        "The bottom is",
        {"flat": "flat", "slope": "sloping", "broken": "humps and holes"},
        to_core=Shape,
        from_core=lambda value: value.value,
    ),
    forms.number("slope_deg", "Slope", 0.0, 45.0, "deg", to_core=math.radians, from_core=math.degrees),
    _feet("deepest_ft", "Deepest within reach", 4.0, 190.0),
    forms.choice(
        "cover",
        "Cover",
        {"open": "open water", "brush": "brush", "timber": "standing timber", "weeds": "weeds", "dock": "dock", "rocks": "rocks"},
        to_core=CoverKind,
        from_core=lambda value: value.value,
    ),
    forms.choice(
        "sky", "Sky", {"bright": "bright sun", "cloud": "cloud", "dark": "dusk or night"}, to_core=Sky, from_core=lambda value: value.value
    ),
    forms.number("wind_mph", "Wind", 0.0, 33.0, "mph", to_core=lambda value: value * MPH_M_S, from_core=lambda value: value / MPH_M_S),
    forms.number("water_f", "Water temperature", 32.0, 104.0, "deg F", to_core=degc_from_degf, from_core=degf_from_degc),
    forms.number("other_sonars", "Other live sonars near", 0, 6, to_core=int),
    forms.check("ice", "Through ice"),
    _feet("never_under_ft", "Down to never under", 4.0, 120.0, hint="some keep 15: shallower, their picture distorts"),
    forms.choice(
        "habit",
        "You set",
        {"keep_setting": "at every move", "set_once": "once, and leave it"},
        to_core=Habit,
        from_core=lambda value: value.value,
    ),
    forms.number("latitude_deg", "Latitude", -90.0, 90.0, "deg", step=0.01),
    forms.number("longitude_deg", "Longitude", -180.0, 180.0, "deg", step=0.01, hint="west is minus"),
    forms.words("at", "Time (UTC)", longest=32, hint="empty is now"),
)
MAIN = ("technique", "target", "depth_ft", "clarity", "bottom")
BY_NAME = {one.name: one for one in FIELDS}
# What a move can change.
MOVE = ("depth_ft", "bottom", "clarity", "jig_gone_ft", "shape", "cover", "wind_mph", "sky", "fish_from_ft", "fish_to_ft")

_TO_ANSWERS = {
    "goal": "goal", "target": "target", "technique": "technique", "depth_ft": "depth_m", "deepest_ft": "deepest_m", "shape": "shape",
    "slope_deg": "slope_rad", "fish_from_ft": "fish_from_m", "fish_to_ft": "fish_to_m", "bottom": "ground", "cover": "cover", "sky": "sky",
    "wind_mph": "wind_m_s", "water_f": "temperature_degc", "other_sonars": "other_sonars", "ice": "ice", "never_under_ft": "never_under_m",
    "habit": "habit",
}  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A form of questions as it was answered: the answers (None where something is wrong), messages by field, the texts as given."""

    answers: Answers | None
    problems: Mapping[str, str]
    texts: Mapping[str, str]


def ask(given: Mapping[str, Any], *, now: dt.datetime) -> Asked:
    """Return the answers of a form; what cannot be is told by the field that is wrong, and the rest is kept."""
    found = forms.read(FIELDS, given)
    problems = dict(found.problems)
    moment = _moment(found.texts["at"], now, problems)
    values = {core: found.values[edge] for edge, core in _TO_ANSWERS.items()}
    answers = Answers(
        **{**values, "ice": values["ice"] or None}, secchi_m=_secchi_m(found.values), sun_rad=_sun(found.values, moment, problems)
    )
    for clash in clashes(answers):
        name, message = _clash_words(clash, answers)
        problems.setdefault(name, message)
    return Asked(answers=None if problems else answers, problems=problems, texts=found.texts)


def _secchi_m(values: Mapping[str, Any]) -> float | None:
    """Return the Secchi depth [m]: where a white jig is gone (about the same, our choice), else the word's."""
    if values["jig_gone_ft"] is not None:
        return min(max(float(values["jig_gone_ft"]), 0.05), 20.0)
    clarity = values["clarity"]
    return None if clarity is None else TYPICAL_SECCHI_M[clarity]


def _moment(text: str, now: dt.datetime, problems: dict[str, str]) -> dt.datetime:
    if not text:
        return now
    try:
        found = dt.datetime.fromisoformat(text)
    except ValueError:
        problems["at"] = f"Time (UTC) is {text[:40]}: it must be like 2026-05-01T13:30"
        return now
    return found.replace(tzinfo=dt.UTC) if found.tzinfo is None else found.astimezone(dt.UTC)


def _sun(values: Mapping[str, Any], moment: dt.datetime, problems: dict[str, str]) -> float | None:
    latitude, longitude = values["latitude_deg"], values["longitude_deg"]
    if latitude is None and longitude is None:
        return None
    if latitude is None or longitude is None:
        name = "latitude_deg" if latitude is None else "longitude_deg"
        problems.setdefault(name, f"{BY_NAME[name].label} is empty: with the other given it must be given too")
        return None
    return sun_height_rad(latitude_deg=latitude, longitude_deg=longitude, at=moment)


def _clash_words(clash: Clash, answers: Answers) -> tuple[str, str]:
    """Return the field that is wrong and what to say beside it."""
    depth = feet(answers.deepest_m or answers.depth_m or 0.0)
    if clash is Clash.FISH_UNDER_BOTTOM:
        name = "fish_to_ft" if answers.fish_to_m is not None else "fish_from_ft"
        deep = feet((answers.fish_to_m if answers.fish_to_m is not None else answers.fish_from_m) or 0.0)
        return name, f"{BY_NAME[name].label} is {deep:g} ft: it must be 0 to {depth:g} ft, for there the bottom is"
    if clash is Clash.FISH_UPSIDE_DOWN:
        return (
            "fish_from_ft",
            f"Fish from is {feet(answers.fish_from_m or 0.0):g} ft: it must be 0 to {feet(answers.fish_to_m or 0.0):g} ft, where they end",
        )
    if clash is Clash.DEEPEST_ABOVE_DEPTH:
        return (
            "deepest_ft",
            f"Deepest within reach is {depth:g} ft: it must be {feet(answers.depth_m or 0.0):g} ft, the depth here, or more",
        )
    if clash is Clash.ICE_IN_WARM_WATER:
        warm = degf_from_degc(answers.temperature_degc or 0.0)
        return "water_f", f"Water temperature is {warm:g} deg F: under ice it must be 32 to 41 deg F"
    return (
        "wind_mph",
        f"Wind is {(answers.wind_m_s or 0.0) / MPH_M_S:g} mph: under ice it must be 0 mph, for the ice keeps it off the water",
    )


def with_sun(answers: Answers, texts: Mapping[str, str], at: dt.datetime) -> Answers:
    """Return the answers with the sun where it stands at another time, where the place was told."""
    found = forms.read((BY_NAME["latitude_deg"], BY_NAME["longitude_deg"]), texts)
    latitude, longitude = found.values["latitude_deg"], found.values["longitude_deg"]
    if latitude is None or longitude is None:
        return answers
    return replace(answers, sun_rad=sun_height_rad(latitude_deg=latitude, longitude_deg=longitude, at=at))
