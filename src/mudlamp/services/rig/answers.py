"""What the Rig page answers: tilt and aim, the smallest head on the screen, voltage and hours, lures to the sonar, our Gain in theirs."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from mudlamp.core.advice.answers import Answers, CoverKind, Technique, situation
from mudlamp.core.advice.auto import speckle_gain
from mudlamp.core.advice.autotune import CellSample
from mudlamp.core.advice.forecast import Forecast
from mudlamp.core.advice.planner import plan
from mudlamp.core.casting.lures import tackle
from mudlamp.core.controls import CONTROLS, GAIN, Part, Value
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.readings import MARK_M
from mudlamp.core.receiver.screen import Screen, scales
from mudlamp.core.rig.matching import Joined, Match, joined
from mudlamp.core.rig.mount import center_reach_m, flat_tilt, lit_strip_m
from mudlamp.core.rig.profile import BoxedLure, GainMatch, Mount, OwnControl, OwnTransducer, RigProfile, ScaleKind
from mudlamp.core.rig.tackle import smallest_head_kg, tangles
from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.core.sonar.transducer import RANGE_BINS
from mudlamp.core.units import FOOT_M, OUNCE_KG, feet, meters
from mudlamp.core.water.sound import sound_speed_m_s
from mudlamp.formats.scene.build import scene_of
from mudlamp.services.edge.controls import of
from mudlamp.services.edge.weights import sold_from
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.water.from_answers import record_batch, scene_from

FLAT_DEPTHS_FT = (4, 6, 8, 10, 12, 15)
REACHES_FT = (15, 20, 25, 30, 40, 50, 60, 80)
# The procedure's jig: an eighth of an ounce, hung at 15 ft, or 3 ft off a shallower bottom.
MATCH_HEAD_KG = OUNCE_KG / 8.0
MATCH_DEPTH_M = 15.0 * FOOT_M
MATCH_LEAST_DEPTH_M = 10.0 * FOOT_M
MATCH_SEEDS = (1, 2, 3)
MATCH_GAINS = np.arange(20.0, 96.0, 1.0)
# What the simulator itself may be wrong by, in steps of our Gain (a head's echo swings by 3 dB; ours).
MODEL_ERROR = 2.0
NOT_MATCHED = "not matched yet"


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatRow:
    """A depth [ft]: how far ahead the center ray meets the bottom, and from where on its thickness lights it [ft]."""

    depth_ft: float
    center_ft: float
    near_ft: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatAnswer:
    """The tilt for Flat: degrees wanted, clicks, degrees that those give, and what it lights at each depth."""

    wanted_deg: float
    clicks: int
    given_deg: float
    rows: tuple[FlatRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScreenRow:
    """A Reach [ft]: pixels a foot across and down, their ratio, and the smallest lead head sold that can still be seen; empty: none can."""

    reach_ft: float
    across_px_ft: float
    down_px_ft: float
    ratio: float
    head: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LureAnswer:
    """A lure to the sonar: target strength [dB], how fast it sinks [ft/s], whether it tangles with the weight above it."""

    ts_db: float
    sink_ft_s: float
    tangles: bool


def flat_answer(rig: RigProfile) -> FlatAnswer:
    """Return the starting tilt of a flat fan on this mount, and what it lights."""
    mount = rig.mount
    tilt = flat_tilt(click_rad=mount.click_rad, turned=mount.turned)
    rows = []
    for depth in FLAT_DEPTHS_FT:
        over = max(meters(depth) - mount.depth_m, 0.1)
        near, _ = lit_strip_m(tilt_rad=tilt.given_rad, thickness_rad=rig.transducer.thickness_rad, over_bottom_m=over)
        center = center_reach_m(tilt_rad=tilt.given_rad, over_bottom_m=over)
        rows.append(FlatRow(depth_ft=depth, center_ft=feet(center), near_ft=feet(near)))
    return FlatAnswer(
        wanted_deg=math.degrees(tilt.wanted_rad), clicks=tilt.clicks, given_deg=math.degrees(tilt.given_rad), rows=tuple(rows)
    )


def screen_rows(rig: RigProfile, answers: Answers) -> tuple[ScreenRow, ...]:
    """Return what each reach makes of the angler's screen, a head being two thirds of the Reach out."""
    return _screen_rows(rig.screen, rig.transducer, rig.mount.depth_m, rig.ink, answers)


@lru_cache(maxsize=32)
def _screen_rows(screen: Screen, transducer: OwnTransducer, depth_m: float, ink: str | None, answers: Answers) -> tuple[ScreenRow, ...]:
    """Return the rows of those parts of a rig that they depend on; a tenth of a second's work, kept while nothing of it changes."""
    rig = RigProfile(transducer=transducer, mount=Mount(depth_m=depth_m), screen=screen, ink=ink)
    aboard = Aboard(rig=rig)
    here = situation(answers)
    card = plan(here, aboard.gear, screen=rig.screen, own_ink=rig.ink)
    speed = float(sound_speed_m_s(temperature_degc=here.temperature_degc))
    wide = aboard.profile.beam_width_rad(speed / rig.transducer.carrier_hz)
    rows = []
    for reach in REACHES_FT:
        window = replace(card.window, reach_m=meters(reach))
        scale = scales(rig.screen, window)
        forecast = Forecast(here, aboard.gear, window)
        at = 0.67 * window.reach_m
        cell = window.farthest_m(rig.mount.depth_m) / RANGE_BINS
        head = smallest_head_kg(
            rig.screen,
            window,
            card.setup,
            range_m=at,
            mark_across_m=at * wide,
            mark_down_m=max(MARK_M, 2.0 * cell),
            clutter_db=forecast.clutter_at_db(at),
            fade_db=forecast.fade_at_db(at),
        )
        rows.append(
            ScreenRow(
                reach_ft=reach,
                across_px_ft=scale.across_px_m * FOOT_M,
                down_px_ft=scale.down_px_m * FOOT_M,
                ratio=scale.stretch,
                head="" if head is None else sold_from(head),
            )
        )
    return tuple(rows)


def lure_answer(lure: BoxedLure) -> LureAnswer:
    """Return what the sonar and the water make of a lure."""
    tied = tackle(kind=lure.kind, head_kg=lure.head_kg, material=lure.material, weight_kg=lure.weight_kg)
    return LureAnswer(
        ts_db=tied.ts_db,
        sink_ft_s=feet(tied.sink_m_s),
        tangles=tangles(kind=lure.kind, head_kg=lure.head_kg, weight_kg=lure.weight_kg),
    )


def match_depth_m(answers: Answers) -> float:
    """Return how deep the procedure's jig hangs [m]; raise DomainError where there is too little water for it."""
    depth = situation(answers).depth_m
    if depth < MATCH_LEAST_DEPTH_M:
        raise DomainError(f"depth_ft is {feet(depth):g} ft: for this procedure it must be {feet(MATCH_LEAST_DEPTH_M):g} ft or more")
    return min(MATCH_DEPTH_M, depth - 3.0 * FOOT_M)


def our_points(answers: Answers, rig: RigProfile, *, progress: Callable[[float], None] = lambda share: None) -> GainMatch:
    """Return our Gain at which speckle first shows in this water, and at which a hung 1/8 oz head vanishes, each with its error.

    Both are measured on simulated pings of the same water, over a few seeds; raise DomainError where it is too shallow.
    """
    hang = match_depth_m(answers)
    calm = replace(answers, technique=Technique.VERTICAL, cover=CoverKind.OPEN, other_sonars=0, fish_from_m=None, fish_to_m=None)
    here = situation(calm)
    aboard = Aboard(rig=rig, lure=BoxedLure(head_kg=MATCH_HEAD_KG))
    # The picture as it is before anything is set: all that cleans it is off.
    window = Window(down_to_m=here.depth_m + 3.0 * FOOT_M, reach_m=max(30.0 * FOOT_M, here.depth_m), look_back_m=2.0 * FOOT_M)
    scene = scene_of(scene_from(here, window, aboard, title="Matching").model_copy(update={"fish": []}))
    speckle, jig = [], []
    for done, seed in enumerate(MATCH_SEEDS):
        batch = record_batch(scene, hang_m=(0.8, hang), seed=seed)
        choice = speckle_gain([ping for ping, _ in batch.samples[-4:]], ReceiverSetup())
        if choice is not None:
            speckle.append(choice.value)
        sample = CellSample(batch, seed=seed)
        shown = [sample.figures(ReceiverSetup(gain=float(gain))).lure_shown for gain in MATCH_GAINS]
        if shown[0] is not None and 1.0 in shown:
            jig.append(float(MATCH_GAINS[shown.index(1.0)]))
        progress((done + 1) / len(MATCH_SEEDS))
    if not speckle or not jig:
        raise DomainError("this water hides the hung jig: match over clearer or calmer water")
    return GainMatch(
        speckle_ours=float(np.mean(speckle)),
        speckle_error=math.hypot(float(np.std(speckle)), MODEL_ERROR / 2.0),
        jig_ours=float(np.mean(jig)),
        jig_error=math.hypot(float(np.std(jig)), MODEL_ERROR),
        water=f"{feet(here.depth_m):.0f} ft, white jig gone at {feet(here.secchi_m):.0f} ft, hung at {feet(hang):.0f} ft",
    )


def gain_line(rig: RigProfile) -> Joined | None:
    """Return the line from our Gain to theirs, or None until it is matched; raise DomainError where the two points make none."""
    own, match = rig.words.get(GAIN.name), rig.match
    if own is None or match is None or match.speckle_theirs is None or match.jig_theirs is None:
        return None
    # Half a step either way, as a uniform error.
    error = own.step / 2.0 / math.sqrt(3.0)
    return joined(
        Match(ours=match.speckle_ours, ours_error=match.speckle_error, theirs=match.speckle_theirs, theirs_error=error),
        Match(ours=match.jig_ours, ours_error=match.jig_error, theirs=match.jig_theirs, theirs_error=error),
    )


def in_their_words(rig: RigProfile, control: str, value: Value) -> str:
    """Return a value in the words of the angler's unit; NOT_MATCHED until it can be said, never a guess."""
    own, known = rig.words.get(control), CONTROLS[control]
    if own is None or isinstance(value, str):
        return NOT_MATCHED
    if known.part is Part.WINDOW:
        return f"{own.label} {of(control).shown(value)}"
    if known.steps:
        is_named = own.kind is ScaleKind.STEPS and value in known.steps
        return f"{own.label} {own.steps[known.strength(value)]}" if is_named else NOT_MATCHED
    line = gain_line(rig) if known is GAIN else None
    return NOT_MATCHED if line is None else _on_scale(own, *line.at(value))


def _on_scale(own: OwnControl, value: float, error: float) -> str:
    """Return a figure on their scale, rounded to their step and held within it, with its doubt."""
    rounded = own.step * round(value / own.step)
    held = min(max(rounded, own.low), own.high)
    sign = "+" if own.kind is ScaleKind.OFFSET and held > 0 else ""
    return f"{own.label} {sign}{held:g} ± {max(error, own.step / 2.0):.0f}"
