"""The set-up card in words: what each control is, why it starts where it does, what to look for, and what a move changes."""

import math
from collections.abc import Mapping
from dataclasses import replace

from mudlamp.core.advice.answers import Habit
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.retune import Move, StaleCause, Value
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.windows import Reason, down_to, flat_suits
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.rig.mount import flat_tilt
from mudlamp.core.rig.power import LEAST_V, Verdict, power_budget
from mudlamp.core.rig.profile import RigProfile
from mudlamp.core.units import feet
from mudlamp.services.words.readings import setting

LABELS = {
    "down_to_m": "Down to",
    "reach_m": "Reach",
    "gain": "Gain",
    "near_cut_db": "Near cut",
    "quieting_pings": "Quieting",
    "ghost_cut_db": "Ghost cut",
    "punch": "Punch",
    "hide_below_db": "Hide below",
    "ink": "Ink",
}
TERMS = {
    "down_to_m": "range, depth",
    "reach_m": "range, forward",
    "gain": "gain",
    "near_cut_db": "time-varied gain",
    "quieting_pings": "noise rejection",
    "ghost_cut_db": "ghost rejection",
    "punch": "contrast",
    "hide_below_db": "threshold",
    "ink": "color map",
}
# The core's name with the edge's unit.
EDGE = {"down_to_m": "down_to_ft", "reach_m": "reach_ft"} | {name: name for name in LABELS if name not in ("down_to_m", "reach_m")}
UNITS = {"down_to_m": "ft", "reach_m": "ft", "near_cut_db": "dB", "quieting_pings": "pings", "ghost_cut_db": "dB", "hide_below_db": "dB"}
STYLE_WORDS = {Style.RAW: "Raw", Style.BALANCED: "Balanced", Style.CLEAN: "Clean"}

STOP_CUES = {
    "down_to_m": "The bottom line stands clear of the lower edge, with a finger of glass under it. Fish lie on it: never cut it off.",
    "reach_m": "The farthest fish you mean to throw at is two thirds across. Aim first, then shorten as you close.",
    "gain": "Up until speckle shows in mid-water, back until it just clears; single fish still part, branches show.",
    "near_cut_db": "Lower a jig under the boat: if it goes before 5 ft, take the step back.",
    "quieting_pings": "Twitch the rod tip: the mark must move with your hand. Stop at the first step where the flicker is gone.",
    "ghost_cut_db": "The slanting false tree is gone and your jig beside the real one is not. Stop at that step.",
    "punch": "Fish are bold, and the bottom is not one solid band: a bump on it can still be told.",
    "hide_below_db": "Leave it off while the jig is small; with a very hot Gain, up until snow goes and the jig stays.",
    "ink": "At arm's length, in this light: three strengths must be told apart.",
}

WHY: dict[Reason, tuple[str, str]] = {
    Reason.BOTTOM_IN_VIEW: ("Keep the bottom in view, 2 to 5 ft to spare", "Fish hold on the bottom. Deeper wastes glass, shallower cuts off fish."),
    Reason.SLOPE_MARGIN: ("it falls away ahead: more margin", "A slope is deeper at the far end of the Reach than under the boat."),
    Reason.BROKEN_MARGIN: ("humps and holes: more margin", "Over broken bottom the deepest hole within Reach decides."),
    Reason.DEEPEST_TODAY: ("set for the deepest within Reach", "The deepest water you told of decides, not the depth under the boat."),
    Reason.NEVER_UNDER: ("you keep it at that or more", "Some never go under 15 ft because the picture distorts: two scales that differ much."),
    Reason.SUSPENDED: ("The fish hang high over deep water: show them, not the bottom", "The one exception: suspended fish in deep water; below them there is nothing to see."),
    Reason.VERTICAL: ("Straight down: short is bigger and clearer", "15 ft right above brush, 25 to 30 otherwise."),
    Reason.OVER_BRUSH: ("right above cover", "Close over brush the shortest Reach parts fish from branches."),
    Reason.PITCH: ("A pitch lands within it, the fish is large in it", "25 to 30 ft for a pitch; shorter is bigger."),
    Reason.SEARCH: ("Far enough to search, near enough to tell what a mark is", "40 ft for crappie, 45 for bass: beyond, marks are specks."),
    Reason.TROPHY_SEARCH: ("Single roaming fish are found far out", "50 ft for roaming single fish, 40 to 65 in use."),
    Reason.CAST: ("A cast and the fish beyond it", "60 to 80 ft to cast at ledge and suspended fish."),
    Reason.CAST_FAR: ("Ledge or suspended fish: the far cast", "60 to 80 ft; the fish must be seen before the boat is near."),
    Reason.SHALLOW: ("shallow water: shorter", "80 ft over 10 ft is poor: most of it is grazing echo. Others fish it happily."),
    Reason.DEEP: ("deep water: a little longer", "Deep water wants more Reach: the slant to the fish counts."),
    Reason.SEES_DOWN_TO: ("long enough to see the fish at their depth", "Range is slant: a fish deeper than the Reach is not in the picture."),
    Reason.AT_LIMIT: ("As far as this picture goes: what is beyond is not in it", "120 ft is the most here; deeper fish want another tool."),
    Reason.LOOK_BACK_LEAST: ("About 2 ft keeps what is under the boat", "None hides it, all of it shrinks the rest."),
    Reason.GAIN_SPECKLE: ("As hot as speckle allows", "Here the water itself is what limits: a little under where speckle first shows."),
    Reason.GAIN_JIG: ("Hot enough for your lure, no hotter", "Your lure stands out by enough here; more only lifts clutter and runs echoes together."),
    Reason.GAIN_STRONG: ("Clear water: limited by strong echoes, not by speckle", "Speckle is far off: what ends it is bottom and fish that run together."),
    Reason.GAIN_LOW_SUN: ("low sun: two steps lower", "Lower at dawn and dusk, up as the sun climbs."),
    Reason.GAIN_OFF_BAND: ("this is outside the band most use", "Computed for this lure and water; the trade's band is for the usual jig. Try both and look."),
    Reason.NEAR_NONE: ("None: it would hide the jig near the boat", "It keeps 1/32 and 1/16 oz heads in view."),
    Reason.NEAR_STEP: ("One step: the clutter under the boat is in the way", "Straight down and through ice the first feet are full of it."),
    Reason.QUIET_NONE: ("None: everything real stays, and nothing lags", "Each step takes something real with it."),
    Reason.QUIET_STEP: ("The lightest step that calms the picture", "Keeps small things; lags a little."),
    Reason.QUIET_SPOKES: ("Another live sonar is near: two steps take its spokes", "A spoke stands in one ping alone: the middle of three pings has none."),
    Reason.QUIET_SILT: ("Silt in the water: one step", "Dirty water flickers; one step up."),
    Reason.GHOST_NONE: ("Off: this bottom throws few ghosts", "Real weak targets beside strong ones would go too."),
    Reason.GHOST_HARD_SHALLOW: ("Hard, shallow bottom throws a false tree", "One step cuts what a bounce explains."),
    Reason.PUNCH_BRIGHT: ("Start where two fish still part; up if it looks pale", "60 to 70 is usual; some go to 95 so that Gain can be low."),
    Reason.PUNCH_GENTLE: ("Gentle over weed and rock", "There the bottom turns solid and hides what lies on it."),
    Reason.HIDE_OFF: ("Off: the jig goes first", "It is the partner of a very hot Gain, and off nearly always."),
    Reason.HIDE_PARTNER: ("Partner of a hot Gain", "It cuts the snow that the Gain lifts, and small jigs with it."),
    Reason.INK_OWN: ("The ink your unit has", "You told it on the Rig page; in other light another may be read sooner."),
    Reason.INK_SUN: ("Dark on paper for the sun", "In glare a light ground is read sooner."),
    Reason.INK_DARK: ("Light on dark after sunset", "It spares your eyes."),
    Reason.INK_SMALL: ("three strengths for a small glass", "On 9 in or less an ink with three strengths beats a single hue."),
}  # fmt: skip

BEFORE = (
    ("Silence the console", "Console sonar off, or to standby: its pulses make spokes, and some say they move fish (one angler)."),
    ("Lower it and look where it points", "The picture's arrow and the housing agree. Stowed with the propeller inboard it points wrong."),
    ("Both windows off auto", "Auto floats: it hunts over humps and changes the size of fish as you look."),
)
AFTER = (
    "Prove the aim on a fixed object",
    "A dock post or bridge leg straight over the bow stands at its brightest, at its true distance. Then pitch one boat length and watch your lure fall.",
)
CAUTION = (
    "Stop or hold position while you set: whoever runs the boat looks out, not down. Life jacket and cut-off lanyard on; local rules first."
)

DOUBT_WORDS = {
    "depth_m": "the depth",
    "shape": "how the bottom runs",
    "fish_to_m": "where the fish hold",
    "ground": "the bottom's kind",
    "cover": "the cover",
    "secchi_m": "the clarity",
    "sky": "the sky",
    "wind_m_s": "the wind",
    "temperature_degc": "the water's temperature",
    "other_sonars": "other sonars",
    "target": "the fish",
    "technique": "how you fish",
}
STALE_WORDS = {
    StaleCause.SUN_UP: "The sun has climbed since you set this.",
    StaleCause.SUN_LOW: "The sun stands low now.",
    StaleCause.DUSK: "It is dusk.",
    StaleCause.WIND: "This was set two hours ago: has the wind changed?",
}


def edge_value(control: str, value: Value) -> float | str:
    """Return a core value in the edge's unit: whole feet for the windows."""
    if isinstance(value, str):
        return value
    if control in ("down_to_m", "reach_m"):
        return float(round(feet(value)))
    return float(round(value, 1))


def shown(control: str, value: Value) -> str:
    """Return a core value as the card prints it."""
    edge = edge_value(control, value)
    if isinstance(edge, str):
        return INKS[edge].title if edge in INKS else edge
    if control in ("down_to_m", "reach_m"):
        return f"{edge:g} ft"
    return setting(control, edge)


def band_words(control: str, low: Value | None, high: Value | None) -> str:
    """Return a working band as the card prints it, its unit said once; nothing where there is none."""
    if low is None or high is None:
        return ""
    first, last = shown(control, low), shown(control, high)
    if first == last:
        return last
    number, _, unit = first.partition(" ")
    return f"{number if unit and unit.rstrip('s') == last.partition(' ')[2].rstrip('s') else first} to {last}"


def why_line(reasons: tuple[Reason, ...]) -> str:
    """Return why, in one line: the first reason, then the others after a semicolon each."""
    line = "; ".join(WHY[reason][0] for reason in reasons)
    return f"{line}."


def why_more(reasons: tuple[Reason, ...]) -> str:
    """Return why, in full."""
    return " ".join(WHY[reason][1] for reason in reasons)


def spoken(move: Move) -> str:
    """Return a move as spoken to a deck hand: changes first, the biggest ahead, then what of the great three is left."""
    said = [
        f"{LABELS[change.control]} {_bare(change.control, change.before)} → {_bare(change.control, change.after)}."
        for change in move.changes
    ]
    left = [f"{LABELS[name]} leave." for name in ("down_to_m", "reach_m", "gain") if name in move.left]
    return " ".join([*said, *left]) if said else "Leave everything."


def _bare(control: str, value: Value) -> str:
    """Return a value without its unit where everybody knows it."""
    return shown(control, value).removesuffix(" ft")


def doubt_lines(doubts: Mapping[str, Mapping[str, tuple[Value, Value]]]) -> list[str]:
    """Return what not knowing costs: a line a gap that moves the card, with how far; then one line for all that change nothing here."""
    lines = []
    for name, spread in doubts.items():
        parts = [f"{LABELS[control]} could be {_bare(control, low)} to {_bare(control, high)}" for control, (low, high) in spread.items()]
        if parts:
            lines.append(f"You do not know {DOUBT_WORDS[name]}: {', '.join(parts)}.")
    same = [DOUBT_WORDS[name] for name, spread in doubts.items() if not spread]
    if same:
        lines.append(f"Not knowing {', '.join(same)} changes nothing on this card.")
    return lines


def headline(card: Card) -> str:
    """Return the card's first line: what it is for."""
    here = card.here
    fish = here.target.value if here.target.value != "largemouth" else "bass"
    how = {"vertical": "dropping to", "pitch": "pitching to", "cast": "casting to", "scan": "scanning for"}[here.technique.value]
    return f"{how.capitalize()} {fish}, {feet(here.depth_m):.0f} ft over {here.ground.value}, fish at {feet(here.fish_from_m):.0f} to {feet(here.fish_to_m):.0f} ft"


def lure_line(card: Card) -> str:
    """Return what the lure will look like, in a word and a figure."""
    over = card.lure_over_db
    if over is None:
        return "No lure is out."
    word = next((word for limit, word in ((2.0, "lost"), (6.0, "barely there"), (12.0, "clear")) if over < limit), "bright")
    hint = " Go up a size, or closer: no setting brings it out." if over < 2.0 else ""
    return f"Your lure: {word} ({over:+.0f} dB over clutter, expected).{hint}"


def off_band_reason(control: str, value: Value, band: tuple[float, float], card: Card) -> str:
    """Return why auto-tune left the trade's band, most likely."""
    if isinstance(value, str):
        return ""
    # Of Ghost cut fewer decibels are the stronger step.
    over = 0.0 < value < band[1] if control == "ghost_cut_db" else value > band[1]
    if control == "gain":
        if over:
            return "hotter than the trade: this lure is faint here, and the water is quiet enough to bear it"
        return "cooler than the trade: this lure needs no more, and strong echoes part better"
    if control == "punch":
        return (
            "bolder than the trade: the search does not mind a solid bottom" if over else "gentler than the trade: so two fish part sooner"
        )
    if control == "quieting_pings":
        return (
            "more than the trade: in this water the flicker costs more than the lag"
            if over
            else "less than the trade: nothing here needs it"
        )
    if control == "hide_below_db":
        return "the trade leaves it off: it hides the snow of a hot Gain here, and will hide a smaller jig"
    return (
        "more than the trade: nothing real of this batch was lost by it"
        if over
        else f"less than the trade: over {card.here.ground.value} here little is gained by it"
    )


def habit_line(card: Card) -> str:
    """Return what setting once costs against setting at every move, or the other way, in figures of this card."""
    here = card.here
    deep = {habit: down_to(replace(here, habit=habit)).start for habit in Habit}
    keep, once = deep[Habit.KEEP_SETTING], deep[Habit.SET_ONCE]
    if keep == once:
        return "Set once or at every move: here it is the same."
    smaller = 100.0 * (1.0 - keep / once)
    if here.habit is Habit.SET_ONCE:
        return f"Set once: Down to {feet(once):.0f} ft instead of {feet(keep):.0f}; all is {smaller:.0f} % smaller, and a hole under the boat stays in view."
    return f"Setting at every move. Set once, Down to would be {feet(once):.0f} ft: all {smaller:.0f} % smaller, and no hole is missed."


def flat_line(card: Card, rig: RigProfile) -> str:
    """Return how to lay the fan flat here, in the mount's own clicks; nothing where it would not work."""
    if not flat_suits(card.here):
        return ""
    tilt = flat_tilt(click_rad=rig.mount.click_rad, turned=rig.mount.turned)
    gain = "a couple of steps up" if card.here.ground.value == "mud" else "a couple of steps down"
    return (
        f"Flat works here too: {math.degrees(tilt.wanted_rad):.0f}° from plumb, {tilt.clicks} clicks; Reach 80 to 90 ft to survey, 40 to 60 for detail; "
        f"Gain {gain} over {card.here.ground.value}. Some catch fish by it, others find structure only."
    )


def power_line(rig: RigProfile) -> str:
    """Return a warning where the rig's cable gives the unit too little; nothing where it gives enough."""
    budget = power_budget(rig.power.supply, rig.power.loads)
    if budget.verdict is Verdict.GOOD:
        return ""
    return f"First the battery: {budget.unit_v:.1f} V at the unit. Under {LEAST_V:g} V the picture degrades, and no setting mends that."
