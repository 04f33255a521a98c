"""The planner: a set-up card for this water. Windows by common practice, receiver controls by a style's objective on the forecast."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np

from mudlamp.core.advice.answers import Goal, Situation, Sky, Technique
from mudlamp.core.advice.eye import enough_contrast
from mudlamp.core.advice.forecast import Forecast, Gear, candidates, varied
from mudlamp.core.advice.lure_seen import CLEAR_DB
from mudlamp.core.advice.styles import Objective, Style, objective_of, score
from mudlamp.core.advice.windows import Band, Reason, down_to, look_back, reach
from mudlamp.core.arrays import FloatArray
from mudlamp.core.controls import CONTROLS, DOWN_TO, GAIN, INK, REACH, RECEIVER_NUMBERS, Value
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.setup import ReceiverSetup, Setting, Setup, Window, with_control, with_settings
from mudlamp.core.units import INCH_M

CLEAR_M, MURKY_M, MUDDY_M = 3.0, 0.8, 0.35
# Hard bottom throws a false tree down to here [m] (ours).
HARD_SHALLOW_M = 6.0
SMALL_GLASS_M = 9.0 * INCH_M
LOW_SUN_RAD = math.radians(10.0)
# Clutter is worth a little more under a low sun: Gain starts so many steps lower (common practice: dawn lower, up as the sun climbs).
LOW_SUN_STEPS = 2.0
GAIN_SEARCH = (44.0, 88.0)
STYLE_STEPS = 8.0
# The usual band is a prior: ten steps of Gain off its middle cost so many points, a hundred being all (ours).
PRIOR_POINTS = 4.0
ROUNDS = 2
# Gain and Punch are the middle of all that are about as good, each counted by how many points it is under the best: a small change of the water moves
# them a little and never from one end to another (ours).
ABOUT_AS_GOOD_POINTS = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class TradeBand:
    """What common practice sets a control between here, and from which steps each style chooses."""

    low: float
    high: float
    choices: Mapping[Style, tuple[float, ...]]

    def of(self, style: Style) -> tuple[float, float]:
        """Return the band that a style works in: from the least to the most of its choices."""
        return min(self.choices[style]), max(self.choices[style])


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """A line of the card: control, start value, working band (None for an ink), why, and how each style would set it."""

    control: str
    start: Value
    low: float | None
    high: float | None
    reasons: tuple[Reason, ...]
    styles: Mapping[Style, Value]


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """A set-up card: the situation it is for, the style it starts from, its rows in order, and the forecast's levels for the words."""

    here: Situation
    style: Style
    rows: tuple[Row, ...]
    setups: Mapping[Style, ReceiverSetup]
    window: Window
    lure_over_db: float | None
    faintest_fish_db: float
    speckle_gain: float
    target_range_m: float
    enough_contrast: float

    @property
    def setup(self) -> ReceiverSetup:
        """The receiver's start."""
        return self.setups[self.style]

    @property
    def start(self) -> Setup:
        """The set-up that the card starts from."""
        return Setup(receiver=self.setup, window=self.window)

    def row(self, control: str) -> Row:
        """Return the row of a control."""
        return next(row for row in self.rows if row.control == control)


def gain_band(here: Situation) -> tuple[float, float]:
    """Return the Gain that common practice works with here. Source: common practice, which contradicts itself on dirt."""
    low, high = (62.0, 70.0) if here.secchi_m >= CLEAR_M else (62.0, 72.0)
    if here.secchi_m < MURKY_M:
        low, high = 64.0, 74.0
    if here.secchi_m < MUDDY_M:
        low, high = 66.0, 76.0
    if here.goal is Goal.TROPHY or (here.target is Species.LARGEMOUTH and here.fish_to_m > 0.9 * here.depth_m):
        low, high = 50.0, 68.0
    return low, high


def style_gain_band(here: Situation, style: Style) -> tuple[float, float]:
    """Return the Gain that a style works with here: Raw up to some steps hotter than is usual, Clean down to as many cooler (ours)."""
    low, high = gain_band(here)
    return low - (STYLE_STEPS if style is Style.CLEAN else 0.0), high + (STYLE_STEPS if style is Style.RAW else 0.0)


def trade_bands(here: Situation) -> dict[str, TradeBand]:
    """Return what common practice sets each stepped control and Punch between here, and what each style may choose from.

    Source: common practice: the lightest step that does; two steps more beside another live sonar; one more in silt, one less in crystal
    water; Near cut for vertical work and ice; Ghost cut over hard shallow bottom; Punch less over weed and rock.
    """
    hard_shallow = here.ground in (Ground.GRAVEL, Ground.ROCK) and here.depth_m < HARD_SHALLOW_M
    close = here.ice or here.technique is Technique.VERTICAL
    gentle = here.ground is Ground.ROCK or here.cover.value == "weeds"
    quiet: dict[Style, tuple[float, ...]] = {Style.RAW: (1.0,), Style.BALANCED: (1.0, 2.0), Style.CLEAN: (3.0, 5.0)}
    quiet_band = (1.0, 2.0)
    if here.other_sonars:
        quiet, quiet_band = {Style.RAW: (2.0, 3.0), Style.BALANCED: (3.0,), Style.CLEAN: (5.0,)}, (3.0, 5.0)
    elif here.secchi_m < MURKY_M:
        quiet, quiet_band = {Style.RAW: (1.0,), Style.BALANCED: (2.0,), Style.CLEAN: (3.0, 5.0)}, (2.0, 3.0)
    elif here.secchi_m >= CLEAR_M:
        quiet, quiet_band = {Style.RAW: (1.0,), Style.BALANCED: (1.0,), Style.CLEAN: (2.0, 3.0)}, (1.0, 2.0)
    near: dict[Style, tuple[float, ...]] = {
        Style.RAW: (0.0,),
        Style.BALANCED: (0.0, 6.0) if close else (0.0,),
        Style.CLEAN: (0.0, 6.0, 12.0),
    }
    ghost: dict[Style, tuple[float, ...]] = {
        Style.RAW: (0.0,),
        # A step that would take the lure with the false tree is left out.
        Style.BALANCED: (34.0, 0.0) if hard_shallow else (0.0,),
        Style.CLEAN: (28.0, 22.0) if hard_shallow else (0.0, 34.0),
    }
    punch = tuple(float(value) for value in (range(40, 66, 5) if gentle else range(50, 91, 5)))
    hide: dict[Style, tuple[float, ...]] = {Style.RAW: (0.0,), Style.BALANCED: (0.0,), Style.CLEAN: (0.0, 3.0, 6.0)}
    return {
        "near_cut_db": TradeBand(low=0.0, high=6.0, choices=near),
        "quieting_pings": TradeBand(low=quiet_band[0], high=quiet_band[1], choices=quiet),
        "ghost_cut_db": TradeBand(low=28.0 if hard_shallow else 0.0, high=34.0, choices=ghost),
        "punch": TradeBand(low=punch[0], high=punch[-1], choices=dict.fromkeys(Style, punch)),
        "hide_below_db": TradeBand(low=0.0, high=0.0, choices=hide),
    }


def mid_band(here: Situation) -> ReceiverSetup:
    """Return the usual mid-band set-up here: the middle of each band, the lighter of two steps."""
    bands, (low, high) = trade_bands(here), gain_band(here)
    return ReceiverSetup(
        gain=round(0.5 * (low + high)),
        near_cut_db=0.0,
        quieting_pings=int(bands["quieting_pings"].low),
        ghost_cut_db=34.0 if bands["ghost_cut_db"].low > 0.0 else 0.0,
        punch=round(0.5 * (bands["punch"].low + bands["punch"].high)),
        ink=ink_for(here, None)[0],
    )


def ink_for(here: Situation, screen: Screen | None) -> tuple[str, tuple[Reason, ...]]:
    """Return the ink: dark on paper in sun, light on dark after it, three strengths on a screen of nine inches or less. Common practice."""
    dark = here.sky is Sky.DARK or here.sun_rad < 0.0
    small = screen is not None and screen.diagonal_m <= SMALL_GLASS_M + 1e-6
    name = ("terrace-dusk" if dark else "terrace") if small else ("chalk" if dark else "soot")
    return name, (*((Reason.INK_SMALL,) if small else ()), Reason.INK_DARK if dark else Reason.INK_SUN)


def window_of_bands(deep: Band, far: Band) -> Window:
    """Return the window that the bands start with."""
    return Window(down_to_m=deep.start, reach_m=far.start, look_back_m=look_back().start)


def search(
    objective: Objective, forecast: Forecast, start: ReceiverSetup, choices: Mapping[str, tuple[float, ...]], *, middle_gain: float
) -> ReceiverSetup:
    """Return the set-up that an objective likes best on a forecast, control by control, round after round; ties go to the earlier choice.

    Where the figures hardly differ common practice decides: Gain is drawn to `middle_gain`.
    """
    best = start
    for _ in range(ROUNDS):
        before = best
        for name in ("gain", *choices):
            values = np.arange(GAIN_SEARCH[0], GAIN_SEARCH[1] + 1.0) if name == "gain" else np.array(choices[name])
            if len(values) == 1:
                continue
            asked = varied(best, name, values)
            points = score(objective, forecast.figures(asked)) - PRIOR_POINTS * ((asked.gain - middle_gain) / 10.0) ** 2
            best = with_control(best, name, float(values[int(np.argmax(np.round(points, 6)))]))
        if best == before:
            break
    punches = choices["punch"]
    fine = np.arange(min(punches), max(punches) + 1.0)
    best = replace(best, punch=5.0 * round(_about_as_good(fine, score(objective, forecast.figures(varied(best, "punch", fine)))) / 5.0))
    gains = np.arange(GAIN_SEARCH[0], GAIN_SEARCH[1] + 1.0)
    points = score(objective, forecast.figures(varied(best, "gain", gains))) - PRIOR_POINTS * ((gains - middle_gain) / 10.0) ** 2
    return replace(best, gain=float(round(_about_as_good(gains, points))))


def _about_as_good(values: FloatArray, points: FloatArray) -> float:
    """Return the middle of all values (N,) that are about as good as the best by their points (N,)."""
    return float(np.average(values, weights=np.exp((points - points.max()) / ABOUT_AS_GOOD_POINTS)))


@dataclass(frozen=True, slots=True, kw_only=True)
class _Desk:
    """What the planner works on: the situation, its windows, the forecast through them, the bands, the ink, the contrast that the eye needs."""

    here: Situation
    deep: Band
    far: Band
    forecast: Forecast
    bands: Mapping[str, TradeBand]
    ink: str
    ink_reasons: tuple[Reason, ...]
    needed: float

    @classmethod
    def of(cls, here: Situation, gear: Gear, screen: Screen | None, own_ink: str | None) -> "_Desk":
        deep, far = down_to(here), reach(here)
        window = window_of_bands(deep, far)
        forecast = Forecast(here, gear, window)
        across_m, along_m = forecast.mark_m
        ink, reasons = ink_for(here, screen) if own_ink is None else (own_ink, (Reason.INK_OWN,))
        return cls(
            here=here,
            deep=deep,
            far=far,
            forecast=forecast,
            bands=trade_bands(here),
            ink=ink,
            ink_reasons=reasons,
            needed=enough_contrast(here, screen or Screen(), window, across_m=across_m, along_m=along_m),
        )

    @property
    def window(self) -> Window:
        return window_of_bands(self.deep, self.far)

    def objective(self, style: Style) -> Objective:
        return objective_of(style, self.here.technique, self.here.goal, enough_contrast=self.needed)

    def setup(self, style: Style) -> ReceiverSetup:
        """Return what a style starts with, by itself."""
        here = self.here
        choices = {name: band.choices[style] for name, band in self.bands.items()}
        start = with_settings(
            ReceiverSetup(ink=self.ink), *(Setting(control=CONTROLS[name], value=values[0]) for name, values in choices.items())
        )
        found = search(self.objective(style), self.forecast, start, choices, middle_gain=0.5 * sum(gain_band(here)))
        return replace(found, gain=found.gain - (LOW_SUN_STEPS if 0.0 <= here.sun_rad < LOW_SUN_RAD else 0.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Start:
    """What a card would start with, without the card: the set-up, and what it is worth there; `off` is how far a hand shifts bands."""

    setup: Setup
    here: Situation
    desk: _Desk
    style: Style
    off: Mapping[str, float] = field(default_factory=dict)

    @property
    def bands(self) -> dict[str, tuple[float, float]]:
        """The working bands of the controls that have one, by core name, as the card's rows would show them."""
        desk = self.desk
        windows = {DOWN_TO.name: (desk.deep.low, desk.deep.high), REACH.name: (desk.far.low, desk.far.high)}
        receiver = {name: band.of(self.style) for name, band in desk.bands.items()}
        found = windows | receiver | {GAIN.name: style_gain_band(self.here, self.style)}
        return {name: (low + self.off.get(name, 0.0), high + self.off.get(name, 0.0)) for name, (low, high) in found.items()}

    def points(self, setup: Setup) -> float:
        """Return how well a set-up of the receiver would do here, 0 to 100, by the forecast."""
        figures = self.desk.forecast.figures(candidates([setup.receiver]))
        return float(score(self.desk.objective(self.style), figures)[0])


def start_of(
    here: Situation, gear: Gear, *, style: Style = Style.BALANCED, screen: Screen | None = None, own_ink: str | None = None
) -> Start:
    """Return what the card of a situation would start with, in a third of the time that the card takes."""
    desk = _Desk.of(here, gear, screen, own_ink)
    setups = _in_order({one: desk.setup(one) for one in {style, Style.BALANCED}})
    return Start(setup=Setup(receiver=setups[style], window=desk.window), here=here, desk=desk, style=style)


def plan(here: Situation, gear: Gear, *, style: Style = Style.BALANCED, screen: Screen | None = None, own_ink: str | None = None) -> Card:
    """Return the set-up card of a situation, in milliseconds and without a ping; `own_ink` is the only one that the unit has."""
    desk = _Desk.of(here, gear, screen, own_ink)
    forecast = desk.forecast
    setups = _in_order({one: desk.setup(one) for one in Style})
    chosen = setups[style]
    figures = forecast.figures(candidates([chosen]))
    lure_over = None if figures.lure_over_db is None else float(np.asarray(figures.lure_over_db)[0])
    speckle = float(speckle_gain(forecast, chosen))
    rows = (
        _window_row(DOWN_TO.name, desk.deep),
        _window_row(REACH.name, desk.far),
        *(_receiver_row(one.name, desk, setups, style, speckle, lure_over) for one in RECEIVER_NUMBERS),
        Row(control=INK.name, start=desk.ink, low=None, high=None, reasons=desk.ink_reasons, styles=dict.fromkeys(Style, desk.ink)),
    )
    return Card(
        here=here,
        style=style,
        rows=rows,
        setups=setups,
        window=desk.window,
        lure_over_db=lure_over,
        faintest_fish_db=float(np.asarray(figures.fish_over_db)[0]),
        speckle_gain=speckle,
        target_range_m=forecast.target_range_m,
        enough_contrast=desk.needed,
    )


def _in_order(setups: Mapping[Style, ReceiverSetup]) -> dict[Style, ReceiverSetup]:
    """Return set-ups, Balanced's among them, of which Clean is never hotter than that, and Raw never cooler."""
    middle = setups[Style.BALANCED].gain

    def held(style: Style, gain: float) -> float:
        return max(gain, middle) if style is Style.RAW else min(gain, middle) if style is Style.CLEAN else gain

    return {style: replace(setup, gain=held(style, setup.gain)) for style, setup in setups.items()}


def speckle_gain(forecast: Forecast, setup: ReceiverSetup) -> float:
    """Return the Gain at which a twentieth of open water is lit under a set-up: where speckle first shows."""
    gains = np.arange(0.0, 101.0, 2.0)
    clutter = np.asarray(forecast.figures(varied(setup, "gain", gains)).clutter)
    return float(gains[int(np.argmax(clutter >= 0.05))]) if (clutter >= 0.05).any() else 100.0


def _window_row(name: str, band: Band) -> Row:
    return Row(control=name, start=band.start, low=band.low, high=band.high, reasons=band.reasons, styles=dict.fromkeys(Style, band.start))


def _receiver_row(
    name: str, desk: _Desk, setups: Mapping[Style, ReceiverSetup], style: Style, speckle: float, lure_over_db: float | None
) -> Row:
    low, high = style_gain_band(desk.here, style) if name == "gain" else desk.bands[name].of(style)
    start = float(getattr(setups[style], name))
    return Row(
        control=name,
        start=start,
        low=low,
        high=high,
        reasons=_why_gain(start, desk.here, (low, high), speckle, lure_over_db) if name == "gain" else _reasons(name, start, desk.here),
        styles={one: float(getattr(setup, name)) for one, setup in setups.items()},
    )


def _why_gain(start: float, here: Situation, band: tuple[float, float], speckle: float, lure_over_db: float | None) -> tuple[Reason, ...]:
    if start >= speckle - 6.0:
        first = Reason.GAIN_SPECKLE
    elif lure_over_db is not None and lure_over_db < CLEAR_DB:
        first = Reason.GAIN_NO_HELP
    else:
        first = Reason.GAIN_STRONG if here.secchi_m >= CLEAR_M else Reason.GAIN_JIG
    low_sun = (Reason.GAIN_LOW_SUN,) if 0.0 <= here.sun_rad < LOW_SUN_RAD else ()
    off = (Reason.GAIN_OFF_BAND,) if not band[0] <= start <= band[1] else ()
    return (first, *low_sun, *off)


def _reasons(name: str, start: float, here: Situation) -> tuple[Reason, ...]:
    if name == "near_cut_db":
        return (Reason.NEAR_STEP if start > 0.0 else Reason.NEAR_NONE,)
    if name == "quieting_pings":
        return (_why_quiet(start, here),)
    if name == "ghost_cut_db":
        return (_why_ghost(start, here),)
    if name == "punch":
        gentle = here.ground is Ground.ROCK or here.cover.value == "weeds"
        return (Reason.PUNCH_GENTLE if gentle else Reason.PUNCH_BRIGHT,)
    return (Reason.HIDE_PARTNER if start > 0.0 else Reason.HIDE_OFF,)


def _why_quiet(start: float, here: Situation) -> Reason:
    if here.other_sonars:
        # The middle of two pings halves a spoke, that of three takes it out.
        return Reason.QUIET_SPOKES if start >= 3.0 else Reason.QUIET_HALF_SPOKES
    if start > 2.0:
        return Reason.QUIET_CALM
    if start > 1.0:
        return Reason.QUIET_SILT if here.secchi_m < MURKY_M else Reason.QUIET_STEP
    return Reason.QUIET_NONE


def _why_ghost(start: float, here: Situation) -> Reason:
    hard_shallow = here.ground in (Ground.GRAVEL, Ground.ROCK) and here.depth_m < HARD_SHALLOW_M
    if start > 0.0:
        return Reason.GHOST_HARD_SHALLOW if hard_shallow else Reason.GHOST_CALM
    return Reason.GHOST_READ_THROUGH if hard_shallow else Reason.GHOST_NONE
