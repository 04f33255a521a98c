"""The questions of a set-up card, as anglers can answer them, and their answers in the core's terms."""

import datetime as dt
from collections.abc import Mapping
from dataclasses import dataclass, replace

from pydantic import TypeAdapter

from mudlamp.core.advice.answers import Answers, BottomShape, Clash, CoverKind, Goal, Habit, Sky, Technique, clashes
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.units import MPH_M_S, degf_from_degc, feet
from mudlamp.core.water.clarity import TYPICAL_SECCHI_M, Clarity
from mudlamp.core.water.thermocline import SUMMER_DEGC
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import DEGREES, FAHRENHEIT, FEET, Field, Read, Unit, multiple
from mudlamp.services.edge.sun import sun_height_rad

_ANSWERS = TypeAdapter(Answers)


def _feet(name: str, label: str, low: float, high: float, *, core: str = "", hint: str = "") -> Field:
    return forms.number(name, label, low, high, FEET, step=0.1, core=core, hint=hint)


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

MPH = multiple("mph", MPH_M_S)
FIELDS = (
    forms.choice("technique", "How you fish", TECHNIQUES, Technique, core="technique"),
    forms.choice(
        "target",
        "Fish",
        {name: name for name in TARGETS},
        TARGETS.__getitem__,
        lambda value: TARGET_NAMES[Species(str(value))],
        core="target",
    ),
    _feet("depth_ft", "Depth here", 4.0, 190.0, core="depth_m", hint="under the boat, or where the fish are"),
    forms.choice("clarity", "Clarity", {one.value: one.value for one in Clarity}, Clarity),
    forms.choice(
        "bottom", "Bottom", {one.value: one.value for one in Ground}, Ground, core="ground", hint="mud holds the anchor, rock rings"
    ),
    _feet("jig_gone_ft", "White jig gone at", 0.3, 60.0, hint="lower a white jig: how deep is it gone? It counts before the word"),
    forms.choice("goal", "What for", GOALS, Goal, core="goal"),
    _feet("fish_from_ft", "Fish from", 0.0, 190.0, core="fish_from_m"),
    _feet("fish_to_ft", "Fish down to", 0.0, 190.0, core="fish_to_m"),
    forms.choice("shape", "The bottom is", {"flat": "flat", "slope": "sloping", "broken": "humps and holes"}, BottomShape, core="shape"),
    forms.number("slope_deg", "Slope", 0.0, 45.0, DEGREES, core="slope_rad"),
    _feet("deepest_ft", "Deepest water in range", 4.0, 190.0, core="deepest_m"),
    forms.choice(
        "cover",
        "Cover",
        {"open": "open water", "brush": "brush pile", "timber": "standing timber", "weeds": "weeds", "dock": "dock", "rocks": "rocks"},
        CoverKind,
        core="cover",
    ),
    forms.choice("sky", "Sky", {"bright": "bright sun", "cloud": "cloudy", "dark": "dusk or night"}, Sky, core="sky"),
    forms.number("wind_mph", "Wind", 0.0, 33.0, MPH, core="wind_m_s"),
    forms.number("water_f", "Water temperature", 32.0, 104.0, FAHRENHEIT, core="temperature_degc"),
    forms.number("other_sonars", "Other live sonars nearby", 0, 6, whole=True, core="other_sonars"),
    forms.check("ice", "Through ice"),
    _feet(
        "never_under_ft", "Never shallower than", 4.0, 120.0, core="never_under_m", hint="some keep 15: shallower, their picture distorts"
    ),
    _feet(
        "thermocline_ft",
        "Thermocline at",
        4.0,
        100.0,
        core="thermocline_m",
        hint="summer: the band that never leaves the picture, where the water turns cold; blank is none",
    ),
    forms.choice("habit", "You set", {"keep_setting": "at every move", "set_once": "once, and leave it"}, Habit, core="habit"),
    forms.number("latitude_deg", "Latitude", -90.0, 90.0, Unit(name="deg"), step=0.01),
    forms.number("longitude_deg", "Longitude", -180.0, 180.0, Unit(name="deg"), step=0.01, hint="west is minus"),
    forms.words("at", "Time", longest=32, hint="on your clock; blank is now"),
)
MAIN = ("technique", "target", "depth_ft", "clarity", "bottom")
BY_NAME = {one.name: one for one in FIELDS}
# What a move can change.
MOVE = ("depth_ft", "bottom", "clarity", "jig_gone_ft", "shape", "cover", "wind_mph", "sky", "fish_from_ft", "fish_to_ft")


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """A form of questions as it was answered: the answers (None where something is wrong), messages by field, the texts as given."""

    answers: Answers | None
    problems: Mapping[str, str]
    texts: Mapping[str, str]


def ask(given: Mapping[str, object], *, now: dt.datetime) -> Asked:
    """Return the answers of a form; what cannot be is named by the field that is wrong, and the rest is kept."""
    found = forms.read(FIELDS, given)
    problems = dict(found.problems)
    moment = _moment(found.texts["at"], now, problems)
    values = {one.core: found.values[one.name] for one in FIELDS if one.core}
    derived = {"ice": found.values["ice"] or None, "secchi_m": _secchi_m(found), "sun_rad": _sun(found, moment, problems)}
    answers = _ANSWERS.validate_python(values | derived)
    for clash in clashes(answers):
        name, message = _clash_words(clash, answers)
        problems.setdefault(name, message)
    return Asked(answers=None if problems else answers, problems=problems, texts=found.texts)


def _secchi_m(found: Read) -> float | None:
    """Return the Secchi depth [m]: where a white jig is gone (about the same, our choice), else the word's."""
    gone = found.number("jig_gone_ft")
    if gone is not None:
        return min(max(gone, 0.05), 20.0)
    clarity = found.values["clarity"]
    return TYPICAL_SECCHI_M[clarity] if isinstance(clarity, Clarity) else None


def _moment(text: str, now: dt.datetime, problems: dict[str, str]) -> dt.datetime:
    if not text:
        return now
    try:
        found = dt.datetime.fromisoformat(text)
    except ValueError:
        problems["at"] = f"Time is {text[:40]}: it must be like 2026-05-01T13:30"
        return now
    # Without a zone of its own it is on the clock that `now` is on.
    return (found.replace(tzinfo=now.tzinfo) if found.tzinfo is None else found).astimezone(dt.UTC)


def _sun(found: Read, moment: dt.datetime, problems: dict[str, str]) -> float | None:
    latitude, longitude = found.number("latitude_deg"), found.number("longitude_deg")
    if latitude is None and longitude is None:
        return None
    if latitude is None or longitude is None:
        name = "latitude_deg" if latitude is None else "longitude_deg"
        problems.setdefault(name, f"{BY_NAME[name].label} is empty: it must be given along with the other")
        return None
    return sun_height_rad(latitude_deg=latitude, longitude_deg=longitude, at=moment)


def _clash_words(clash: Clash, answers: Answers) -> tuple[str, str]:
    """Return the field that is wrong and what to say beside it."""
    depth = feet(answers.deepest_m or answers.depth_m or 0.0)
    if clash is Clash.FISH_UNDER_BOTTOM:
        name = "fish_to_ft" if answers.fish_to_m is not None else "fish_from_ft"
        deep = feet((answers.fish_to_m if answers.fish_to_m is not None else answers.fish_from_m) or 0.0)
        return name, f"{BY_NAME[name].label} is {deep:g} ft: it must be 0 to {depth:g} ft, where the bottom is"
    if clash is Clash.FISH_UPSIDE_DOWN:
        return (
            "fish_from_ft",
            f"Fish from is {feet(answers.fish_from_m or 0.0):g} ft: it must be 0 to {feet(answers.fish_to_m or 0.0):g} ft, where they stop",
        )
    if clash is Clash.DEEPEST_ABOVE_DEPTH:
        return (
            "deepest_ft",
            f"Deepest water in range is {depth:g} ft: it must be {feet(answers.depth_m or 0.0):g} ft, the depth here, or more",
        )
    if clash is Clash.ICE_IN_WARM_WATER:
        warm = degf_from_degc(answers.temperature_degc or 0.0)
        return "water_f", f"Water temperature is {warm:g} deg F: under ice it must be 32 to 41 deg F"
    if clash is Clash.CAST_UNDER_ICE:
        return "technique", f"How you fish is {TECHNIQUES[answers.technique or Technique.CAST]}: through ice it must be drop or scan"
    if clash is Clash.THERMOCLINE_UNDER_BOTTOM:
        band = feet(answers.thermocline_m or 0.0)
        return "thermocline_ft", f"Thermocline at is {band:g} ft: it must be less than {depth:g} ft, where the bottom is"
    if clash is Clash.THERMOCLINE_IN_COLD_WATER:
        return (
            "thermocline_ft",
            f"Thermocline at is {feet(answers.thermocline_m or 0.0):g} ft: it must be blank in water under "
            f"{degf_from_degc(SUMMER_DEGC):g} deg F at the top: only summer makes one",
        )
    return (
        "wind_mph",
        f"Wind is {(answers.wind_m_s or 0.0) / MPH_M_S:g} mph: under ice it must be 0 mph, since ice keeps it off the water",
    )


def after_move(before: Mapping[str, str], given: Mapping[str, str]) -> dict[str, str]:
    """Return the answers after a move: those of before, with what a move can change as it was given, at the time of now."""
    texts = dict(before) | {name: given[name] for name in MOVE if name in given}
    # Another clarity word counts before the jig's depth of the place before.
    if given.get("clarity") != before.get("clarity") and given.get("jig_gone_ft") == before.get("jig_gone_ft"):
        texts["jig_gone_ft"] = ""
    return texts | {"at": ""}


def place_of(texts: Mapping[str, str]) -> tuple[float, float] | None:
    """Return the latitude and longitude [deg] that were entered, or None."""
    found = forms.read((BY_NAME["latitude_deg"], BY_NAME["longitude_deg"]), texts)
    latitude, longitude = found.number("latitude_deg"), found.number("longitude_deg")
    return None if latitude is None or longitude is None else (latitude, longitude)


def with_sun(answers: Answers, texts: Mapping[str, str], at: dt.datetime) -> Answers:
    """Return the answers with the sun where it stands at another time, where the place was entered."""
    place = place_of(texts)
    if place is None:
        return answers
    return replace(answers, sun_rad=sun_height_rad(latitude_deg=place[0], longitude_deg=place[1], at=at))
