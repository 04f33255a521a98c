"""What an angler answers about gear, fish and water; every answer may be None, "don't know"."""

from dataclasses import dataclass, fields, replace
from enum import StrEnum

from mudlamp.core.errors import require_range
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.units import FOOT_M
from mudlamp.core.water.clarity import SECCHI_M
from mudlamp.core.water.thermocline import SUMMER_DEGC


class Goal(StrEnum):
    """What the day is for."""

    TABLE = "table"
    TROPHY = "trophy"
    TOURNAMENT = "tournament"
    GUIDING = "guiding"
    LEARNING = "learning"
    OBSERVING = "observing"


class Technique(StrEnum):
    """How the lure gets to the fish, or that none does yet."""

    VERTICAL = "vertical"
    PITCH = "pitch"
    CAST = "cast"
    SCAN = "scan"


class BottomShape(StrEnum):
    """How the depth varies within the Reach."""

    FLAT = "flat"
    SLOPE = "slope"
    BROKEN = "broken"


class CoverKind(StrEnum):
    """What stands in the water."""

    OPEN = "open"
    BRUSH = "brush"
    TIMBER = "timber"
    WEEDS = "weeds"
    DOCK = "dock"
    ROCKS = "rocks"


class Sky(StrEnum):
    """The sky."""

    BRIGHT = "bright"
    CLOUD = "cloud"
    DARK = "dark"


class Habit(StrEnum):
    """How often the angler means to touch the controls."""

    KEEP_SETTING = "keep_setting"
    SET_ONCE = "set_once"


DEPTH_M = (1.0, 60.0)
WIND_M_S = (0.0, 15.0)
TEMPERATURE_DEGC = (0.0, 40.0)
SLOPE_RAD = (0.0, 0.79)
OTHERS = (0, 6)
# Ice does not stand over water warmer than this just under it [degC].
ICE_MOST_DEGC = 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Answers:
    """What was told, in SI; None where the angler does not know.

    `deepest_m` is the deepest water within the Reach; `fish_from_m` and `fish_to_m` are the depths that fish hold between; `never_under_m`
    keeps Down to at that or more; `sun_rad` is the height of the sun; `other_sonars` counts live ones nearby; `thermocline_m` is where in
    summer the thermocline begins.
    """

    goal: Goal | None = None
    target: Species | None = None
    technique: Technique | None = None
    depth_m: float | None = None
    deepest_m: float | None = None
    shape: BottomShape | None = None
    slope_rad: float | None = None
    fish_from_m: float | None = None
    fish_to_m: float | None = None
    ground: Ground | None = None
    cover: CoverKind | None = None
    secchi_m: float | None = None
    sky: Sky | None = None
    sun_rad: float | None = None
    wind_m_s: float | None = None
    temperature_degc: float | None = None
    other_sonars: int | None = None
    ice: bool | None = None
    never_under_m: float | None = None
    thermocline_m: float | None = None
    habit: Habit | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Situation:
    """The answers with every gap filled; `assumed` names the gaps. Without a word of it there is no thermocline."""

    goal: Goal
    target: Species
    technique: Technique
    depth_m: float
    deepest_m: float
    shape: BottomShape
    slope_rad: float
    fish_from_m: float
    fish_to_m: float
    ground: Ground
    cover: CoverKind
    secchi_m: float
    sky: Sky
    sun_rad: float
    wind_m_s: float
    temperature_degc: float
    other_sonars: int
    ice: bool
    never_under_m: float
    thermocline_m: float | None
    habit: Habit
    assumed: tuple[str, ...]

    @property
    def suspended(self) -> bool:
        """Whether the fish hang well above the bottom: deeper by half than the deepest of them, and more than 10 m (our choice)."""
        return self.depth_m > 1.5 * self.fish_to_m and self.depth_m > 10.0

    @property
    def fish_m(self) -> float:
        """The depth in the middle of the fish [m]."""
        return 0.5 * (self.fish_from_m + self.fish_to_m)


class Clash(StrEnum):
    """Two answers that cannot both be true, named by the field that is wrong."""

    FISH_UNDER_BOTTOM = "fish_to"
    FISH_UPSIDE_DOWN = "fish_from"
    DEEPEST_ABOVE_DEPTH = "deepest"
    ICE_IN_WARM_WATER = "temperature"
    WIND_UNDER_ICE = "wind"
    CAST_UNDER_ICE = "technique"
    THERMOCLINE_UNDER_BOTTOM = "thermocline"
    THERMOCLINE_IN_COLD_WATER = "thermocline_cold"


def clashes(answers: Answers) -> list[Clash]:
    """Return what cannot be true together, in the order of the fields."""
    found = []
    floor = answers.deepest_m if answers.deepest_m is not None else answers.depth_m
    if answers.depth_m is not None and answers.deepest_m is not None and answers.deepest_m < answers.depth_m:
        found.append(Clash.DEEPEST_ABOVE_DEPTH)
    if answers.fish_from_m is not None and answers.fish_to_m is not None and answers.fish_from_m > answers.fish_to_m:
        found.append(Clash.FISH_UPSIDE_DOWN)
    deepest_fish = answers.fish_to_m if answers.fish_to_m is not None else answers.fish_from_m
    if floor is not None and deepest_fish is not None and deepest_fish > floor:
        found.append(Clash.FISH_UNDER_BOTTOM)
    if answers.ice and answers.temperature_degc is not None and answers.temperature_degc > ICE_MOST_DEGC:
        found.append(Clash.ICE_IN_WARM_WATER)
    if answers.ice and answers.wind_m_s is not None and answers.wind_m_s > 0.0:
        found.append(Clash.WIND_UNDER_ICE)
    if answers.ice and answers.technique in (Technique.PITCH, Technique.CAST):
        found.append(Clash.CAST_UNDER_ICE)
    if answers.thermocline_m is not None:
        if floor is not None and answers.thermocline_m >= floor:
            found.append(Clash.THERMOCLINE_UNDER_BOTTOM)
        if answers.ice or (answers.temperature_degc is not None and answers.temperature_degc < SUMMER_DEGC):
            found.append(Clash.THERMOCLINE_IN_COLD_WATER)
    return found


def checked_answers(answers: Answers) -> Answers:
    """Return `answers` where every number is in its range; raise DomainError naming the first that is not."""
    limits: tuple[tuple[str, tuple[float, float], str], ...] = (
        ("depth_m", DEPTH_M, "m"),
        ("deepest_m", DEPTH_M, "m"),
        ("slope_rad", SLOPE_RAD, "rad"),
        ("fish_from_m", (0.0, DEPTH_M[1]), "m"),
        ("fish_to_m", (0.0, DEPTH_M[1]), "m"),
        ("secchi_m", SECCHI_M, "m"),
        ("wind_m_s", WIND_M_S, "m/s"),
        ("temperature_degc", TEMPERATURE_DEGC, "degC"),
        ("other_sonars", OTHERS, ""),
        ("never_under_m", DEPTH_M, "m"),
        ("thermocline_m", DEPTH_M, "m"),
    )
    for name, (low, high), unit in limits:
        value = getattr(answers, name)
        if value is not None:
            require_range(name, value, low, high, unit)
    return answers


# What is taken where the angler does not know (common practice: a middling day on a middling lake; ours where nobody says).
TYPICAL_DEPTH_M = 20.0 * FOOT_M
TYPICAL_SLOPE_RAD = {BottomShape.FLAT: 0.0, BottomShape.SLOPE: 0.12, BottomShape.BROKEN: 0.0}
FISH_SHARE = (0.45, 0.85)


def situation(answers: Answers) -> Situation:
    """Return the situation with gaps filled: depth before fish, target before technique, temperature by ice.

    Raises DomainError where a number is out of its range.
    """
    checked_answers(answers)
    given = {one.name: getattr(answers, one.name) for one in fields(Answers)}
    assumed = tuple(name for name, value in given.items() if value is None and name in DOUBTED)
    shape = answers.shape or (BottomShape.SLOPE if answers.slope_rad else BottomShape.FLAT)
    depth = answers.depth_m if answers.depth_m is not None else _depth_from_fish(answers)
    fish_from, fish_to = _fish_between(answers, depth)
    ice = bool(answers.ice)
    usual = 2.0 if ice else 15.0 if answers.thermocline_m is None else 26.0
    return Situation(
        goal=answers.goal or Goal.TABLE,
        target=answers.target or Species.CRAPPIE,
        technique=answers.technique or (Technique.VERTICAL if ice else Technique.PITCH),
        depth_m=depth,
        deepest_m=max(answers.deepest_m or depth, depth),
        shape=shape,
        slope_rad=answers.slope_rad if answers.slope_rad is not None else TYPICAL_SLOPE_RAD[shape],
        fish_from_m=fish_from,
        fish_to_m=fish_to,
        ground=answers.ground or Ground.SAND,
        cover=answers.cover or CoverKind.OPEN,
        secchi_m=answers.secchi_m if answers.secchi_m is not None else 1.4,
        sky=answers.sky or Sky.CLOUD,
        sun_rad=answers.sun_rad if answers.sun_rad is not None else 0.5,
        wind_m_s=0.0 if ice else (answers.wind_m_s if answers.wind_m_s is not None else 2.0),
        temperature_degc=answers.temperature_degc if answers.temperature_degc is not None else usual,
        other_sonars=answers.other_sonars or 0,
        ice=ice,
        never_under_m=answers.never_under_m or 0.0,
        thermocline_m=answers.thermocline_m,
        habit=answers.habit or Habit.KEEP_SETTING,
        assumed=assumed,
    )


def _depth_from_fish(answers: Answers) -> float:
    """Return a depth [m] that leaves room for the fish that were entered."""
    deepest = max(answers.fish_to_m or 0.0, answers.fish_from_m or 0.0)
    return min(max(TYPICAL_DEPTH_M, 1.15 * deepest), DEPTH_M[1])


def _fish_between(answers: Answers, depth_m: float) -> tuple[float, float]:
    low, high = answers.fish_from_m, answers.fish_to_m
    if low is None and high is None and answers.thermocline_m is not None:
        # Under it there is little oxygen by midsummer: fish hold on it and above it (common practice).
        return 0.55 * answers.thermocline_m, answers.thermocline_m
    if low is None:
        low = FISH_SHARE[0] * depth_m if high is None else 0.7 * high
    if high is None:
        high = min(max(FISH_SHARE[1] * depth_m, 1.2 * low), depth_m)
    return low, high


# The answers whose absence changes the card, each with two plausible others: what a gap costs is how far the card moves between them.
DOUBTED: dict[str, tuple[float | int | StrEnum, float | int | StrEnum]] = {
    "depth_m": (12.0 * FOOT_M, 30.0 * FOOT_M),
    "shape": (BottomShape.FLAT, BottomShape.SLOPE),
    "fish_to_m": (0.5, 0.95),
    "ground": (Ground.MUD, Ground.ROCK),
    "cover": (CoverKind.OPEN, CoverKind.BRUSH),
    "secchi_m": (4.0, 0.4),
    "sky": (Sky.BRIGHT, Sky.DARK),
    "wind_m_s": (0.0, 6.0),
    "temperature_degc": (6.0, 26.0),
    "other_sonars": (0, 1),
    "target": (Species.CRAPPIE, Species.LARGEMOUTH),
    "technique": (Technique.VERTICAL, Technique.CAST),
}


def with_guess(answers: Answers, name: str, end: int) -> Answers:
    """Return `answers` with a gap filled by its lower (0) or upper (1) plausible value; fish depths are shares of the depth."""
    value = DOUBTED[name][end]
    if name == "fish_to_m":
        depth = answers.depth_m or TYPICAL_DEPTH_M
        return replace(answers, fish_to_m=float(value) * depth)
    return replace(answers, **{name: value})  # type: ignore[arg-type]  # DOUBTED holds values of the field's own type
