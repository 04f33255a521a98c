"""The rig as a drawing: the boat and its fan from the side and from above, volts along the cable, the unit's screen. Feet, degrees, volts."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.answers import Answers, situation
from mudlamp.core.controls import REACH
from mudlamp.core.ping import Fan
from mudlamp.core.receiver.screen import scales
from mudlamp.core.rig.mount import dead_zone_m
from mudlamp.core.rig.power import LEAST_V, power_budget
from mudlamp.core.rig.profile import RigProfile
from mudlamp.core.setup import Window
from mudlamp.core.sonar.transducer import Profile, usual_tilt_rad
from mudlamp.core.units import FOOT_M, INCH_M, feet
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.rig.answers import screen_rows
from mudlamp.services.water.aboard import Aboard

REACH_FT = 40.0
SIDE_STEPS = 40
LOW_V, HIGH_V = 9.5, 14.0
SCREEN_WIDE = 200.0
# Of sound, on a drawing: the water's own temperature moves it by 3 % at most.
SPEED_M_S = 1480.0
# How far out the smallest head is drawn, as a share of the Reach; its echo fills a beam's width there.
HEAD_AT_SHARE = 0.67


@dataclass(frozen=True, slots=True, kw_only=True)
class SideView:
    """From the side, in feet: depths of water and transducer, the fan's outline, the dead zone's, both as points; in words what they say."""

    depth: float
    mount: float
    fan: str
    dead: str
    upper: str
    dead_words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class AboveView:
    """From above, in feet: half the fan's width at the Reach, how far the aim is turned [deg], the fan's outline, in words."""

    fan: str
    aim: str


@dataclass(frozen=True, slots=True, kw_only=True)
class PowerView:
    """Volts along the cable: where battery, unit and limit stand on the gauge [%], in words; hours left."""

    battery: float
    unit: float
    limit: float
    battery_words: str
    unit_words: str
    hours: str
    is_low: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ScreenView:
    """The unit's screen in its true shape: how high at a width of 200, where the smallest head stands on it and how large, in words."""

    high: float
    x: float
    y: float
    head_wide: float
    head_high: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawingView:
    """The whole drawing."""

    side: SideView
    above: AboveView
    power: PowerView
    screen: ScreenView


def drawing_view(rig: RigProfile, answers: Answers) -> DrawingView:
    """Return the drawing of a rig over the water of some answers."""
    depth = min(max(feet(situation(answers).depth_m), 6.0), 60.0)
    return DrawingView(side=_side(rig, depth), above=_above(rig), power=_power(rig), screen=_screen(rig, answers, depth))


def _pulse_m(profile: Profile) -> float:
    """Half a pulse's length in the water [m]: what an echo is deep."""
    return 0.5 * SPEED_M_S * profile.pulse_s


def _points(places: Sequence[tuple[float, float]]) -> str:
    return " ".join(f"{x:.2f},{y:.2f}" for x, y in places)


def _side(rig: RigProfile, depth: float) -> SideView:
    profile, under = Aboard(rig=rig).profile, feet(rig.mount.depth_m)
    tilt = usual_tilt_rad(Fan.AHEAD, profile)
    looks = [tilt + profile.fan_rad * (0.5 - step / SIDE_STEPS) for step in range(SIDE_STEPS + 1)]
    floor = depth - under
    edge, dead = [], []
    for look in looks:
        to_floor = floor / math.cos(look) if math.cos(look) > 1e-6 else math.inf
        far = min(REACH_FT, to_floor)
        edge.append((far * math.sin(look), under + far * math.cos(look)))
        if to_floor <= REACH_FT and look >= 0.0:
            dead.append((to_floor * math.sin(look), look, to_floor))
    width = profile.beam_width_rad(SPEED_M_S / profile.carrier_hz)
    pulse = _pulse_m(profile)
    rims = [(x, feet(dead_zone_m(range_m=r * FOOT_M, look_rad=look, beam_width_rad=width, pulse_m=pulse))) for x, look, r in dead]
    outline = [(x, depth - high) for x, high in rims] + [(x, depth) for x, _ in reversed(rims)]
    far_x, far_high = rims[0] if rims else (0.0, 0.0)
    return SideView(
        depth=round(depth, 1),
        mount=round(under, 2),
        fan=_points([(0.0, under), *edge]),
        dead=_points(outline),
        upper=f"{math.degrees(profile.fan_rad):.0f}° fan, its upper edge level",
        dead_words=f"A fish within {far_high:.1f} ft of the bottom, {far_x:.0f} ft out, is part of the bottom." if rims else "",
    )


def _above(rig: RigProfile) -> AboveView:
    half, aim = rig.transducer.thickness_rad / 2.0, rig.mount.aim_rad
    corners = [(0.0, 0.0), *((REACH_FT * math.cos(turn), REACH_FT * math.sin(turn)) for turn in (aim - half, aim, aim + half))]
    wide = 2.0 * REACH_FT * math.tan(half)
    turned = (
        "straight off the bow" if abs(aim) < math.radians(0.5) else f"{abs(math.degrees(aim)):.0f}° to {'starboard' if aim > 0 else 'port'}"
    )
    return AboveView(fan=_points(corners), aim=f"{wide:.0f} ft wide at {REACH_FT:.0f} ft, aimed {turned}")


def _power(rig: RigProfile) -> PowerView:
    budget = power_budget(rig.power.supply, rig.power.loads)

    def at(volts: float) -> float:
        return round(100.0 * min(max((volts - LOW_V) / (HIGH_V - LOW_V), 0.0), 1.0), 1)

    hours = min(budget.hours, budget.good_hours)
    return PowerView(
        battery=at(budget.battery_v),
        unit=at(budget.unit_v),
        limit=at(LEAST_V),
        battery_words=f"{budget.battery_v:.1f} V at the battery",
        unit_words=f"{budget.unit_v:.1f} V at the unit",
        hours="more than a day left" if hours > 24.0 else f"{hours:.1f} hours left",
        is_low=budget.unit_v < LEAST_V,
    )


def _screen(rig: RigProfile, answers: Answers, depth: float) -> ScreenView:
    rows = screen_rows(rig, answers)
    row = min(rows, key=lambda one: abs(one.reach_ft - REACH_FT))
    high = SCREEN_WIDE * rig.screen.height_px / rig.screen.width_px
    window = Window(down_to_m=1.15 * depth * FOOT_M, reach_m=row.reach_ft * FOOT_M, look_back_m=0.0)
    pixel = SCREEN_WIDE / rig.screen.width_px
    scale = scales(rig.screen, window)
    profile = Aboard(rig=rig).profile
    wide_m = HEAD_AT_SHARE * window.reach_m * profile.beam_width_rad(SPEED_M_S / profile.carrier_hz)
    inches = rig.screen.diagonal_m / INCH_M
    head = f"smallest head to be seen two thirds out: {row.head}" if row.head else "no head can be seen two thirds out"
    return ScreenView(
        high=round(high, 1),
        x=round(HEAD_AT_SHARE * SCREEN_WIDE, 1),
        y=round(0.45 * high, 1),
        head_wide=round(max(wide_m * scale.across_px_m, 1.0) * pixel, 2),
        head_high=round(max(_pulse_m(profile) * scale.down_px_m, 1.0) * pixel, 2),
        words=f"{inches:.0f} in, {rig.screen.width_px} by {rig.screen.height_px}, {LABELS[REACH.name]} {row.reach_ft:.0f} ft: {head}",
    )
