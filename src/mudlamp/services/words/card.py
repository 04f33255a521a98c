"""The set-up card in words: why each control starts where it does, what to look for, and what a move changes."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from mudlamp.core.advice.answers import CoverKind, Habit, Situation, Technique
from mudlamp.core.advice.lure_seen import LureSeen, Way
from mudlamp.core.advice.own_start import Shift
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.retune import Move, StaleCause
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Cause
from mudlamp.core.advice.windows import AHEAD_SHARE, Reason, down_to, flat_suits
from mudlamp.core.controls import DOWN_TO, GAIN, GHOST_CUT, HIDE_BELOW, PUNCH, QUIETING, REACH, Control, Value
from mudlamp.core.rig.mount import flat_tilt
from mudlamp.core.rig.power import LEAST_V, Verdict, power_budget
from mudlamp.core.rig.profile import RigProfile
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.units import feet
from mudlamp.services.edge.controls import EDGE, LABELS, of
from mudlamp.services.edge.weights import ounces
from mudlamp.services.words.cast import number
from mudlamp.services.words.labels import say
from mudlamp.services.words.readings import lure_word

STYLE_WORDS = {Style.RAW: "Raw", Style.BALANCED: "Balanced", Style.CLEAN: "Clean"}

# Texts name controls by their core names in braces.
WHY: dict[Reason, tuple[str, str]] = {
    Reason.BOTTOM_IN_VIEW: ("Keep the bottom in view, 2 to 5 ft to spare", "Fish hold on the bottom. Deeper wastes screen, shallower cuts off fish."),
    Reason.SLOPE_MARGIN: ("it falls away ahead: more margin", "A slope is deeper at the far end of {reach_m} than under the boat."),
    Reason.BROKEN_MARGIN: ("humps and holes: more margin", "Over broken bottom the deepest hole within {reach_m} decides."),
    Reason.DEEPEST_TODAY: ("set for the deepest water in range", "The deepest water you entered decides, not the depth under the boat."),
    Reason.NEVER_UNDER: ("you never go shallower than that", "Some never go under 15 ft because the picture distorts: its two scales differ too much."),
    Reason.THERMOCLINE: (
        "They hold on the thermocline and above it: keep that band in view",
        "By midsummer there is little oxygen below it. The band itself is insects and small fish; it does not move with the boat.",
    ),
    Reason.SUSPENDED: ("The fish hang high over deep water: show them, not the bottom", "The one exception: suspended fish in deep water, with nothing to see below them."),
    Reason.VERTICAL: ("Straight down: short is bigger and clearer", "15 ft right above brush, 25 to 30 otherwise."),
    Reason.OVER_BRUSH: ("right above cover", "Close over brush, the shortest {reach_m} splits fish from branches."),
    Reason.PITCH: ("A pitch lands inside it and the fish is large", "25 to 30 ft for a pitch. Shorter is bigger."),
    Reason.SEARCH: ("Far enough to search, close enough to tell what you see", "40 ft for crappie, 45 for bass. Past that everything is a speck."),
    Reason.TROPHY_SEARCH: ("Single roaming fish are found far out", "50 ft for roaming single fish, 40 to 65 in use."),
    Reason.CAST: ("A cast and the fish beyond it", "60 to 80 ft to cast at ledge and suspended fish."),
    Reason.CAST_FAR: ("Ledge or suspended fish: the far cast", "60 to 80 ft. You have to see the fish before the boat gets close."),
    Reason.SHALLOW: ("shallow water: shorter", "80 ft over 10 ft is poor: most of it is grazing echo. Others fish it happily."),
    Reason.DEEP: ("deep water: a little longer", "Deep water wants more {reach_m}: the slant to the fish counts."),
    Reason.SEES_DOWN_TO: ("long enough to see the fish at their depth", "Range is slant: a fish deeper than {reach_m} is not in the picture."),
    Reason.AT_LIMIT: ("As far as this picture goes", "120 ft is the most here. For deeper fish use another tool."),
    Reason.LOOK_BACK_LEAST: ("About 2 ft keeps what is under the boat", "None hides it, all of it shrinks the rest."),
    Reason.GAIN_SPECKLE: ("As hot as speckle allows", "Here the water itself is the limit: a little under where speckle first shows."),
    Reason.GAIN_OVER_SPECKLE: ("Hotter than speckle clears: your lure needs it", "Mid-water turns grainy before it shows well. If the grain bothers you, take Clean's value."),
    Reason.GAIN_JIG: ("Hot enough for your lure, no hotter", "Your lure stands out enough here. More only lifts clutter and runs echoes together."),
    Reason.GAIN_NO_HELP: ("More would not bring your lure out here", "What is about it comes up as it does. More only lifts clutter and runs echoes together."),
    Reason.GAIN_STRONG: ("Clear water: strong echoes are the limit, not speckle", "Speckle is far off. What stops you is bottom and fish running together."),
    Reason.GAIN_LOW_SUN: ("low sun: two steps lower", "Lower at dawn and dusk, up as the sun climbs."),
    Reason.GAIN_OFF_BAND: ("outside the band most people use", "Worked out for this lure and water. The usual band is for the usual jig. Try both and look."),
    Reason.NEAR_NONE: ("None: it would hide the jig near the boat", "That keeps 1/32 and 1/16 oz heads in view."),
    Reason.NEAR_STEP: ("Clutter under the boat is in the way", "Straight down and through ice, the first feet are full of it. Each step more hides small jigs there."),
    Reason.QUIET_NONE: ("None: everything real stays, and nothing lags", "Each step takes something real with it."),
    Reason.QUIET_STEP: ("The lightest step that calms the picture", "Keeps small things, lags a little."),
    Reason.QUIET_SPOKES: ("Another live sonar is close: this takes out its spokes", "A spoke is in one ping alone. The middle of three pings or more has none."),
    Reason.QUIET_HALF_SPOKES: ("Another live sonar is close: this softens its spokes and keeps small things", "A spoke is in one ping alone. Two pings halve it, three take it out."),
    Reason.QUIET_CALM: ("A calm picture, and some lag", "The middle of several pings leaves only what stays."),
    Reason.QUIET_SILT: ("Silt in the water: a little", "Dirty water flickers."),
    Reason.GHOST_NONE: ("Off: this bottom throws few ghosts", "Real but weak fish beside strong echoes would go too."),
    Reason.GHOST_READ_THROUGH: ("Off: read through the false tree", "Cutting it here would take the lure or weak fish with it."),
    Reason.GHOST_CALM: ("A little, for a calm picture", "This bottom throws few ghosts; what is cut is faint."),
    Reason.GHOST_HARD_SHALLOW: ("Hard, shallow bottom throws a false tree", "It cuts what a bounce explains, and weak fish beside strong echoes."),
    Reason.PUNCH_BRIGHT: ("Start where two fish still split, go up if it looks pale", "60 to 70 is usual. Some go to 95 so that {gain} can stay low."),
    Reason.PUNCH_GENTLE: ("Gentle over weeds and rock", "There the bottom turns solid and hides what lies on it."),
    Reason.HIDE_OFF: ("Off: the jig goes first", "It goes with a very hot {gain}, and is off nearly always."),
    Reason.HIDE_PARTNER: ("Takes the last of the snow", "It cuts what faint snow is left, and small jigs with it."),
    Reason.INK_OWN: ("What your unit shows", "You picked it on the Rig page. In other light another one may read faster."),
    Reason.INK_SUN: ("Dark on paper for the sun", "In glare a light background reads faster."),
    Reason.INK_DARK: ("Light on dark after sunset", "It spares your eyes."),
    Reason.INK_SMALL: ("three strengths for a small screen", "On 9 in or less, three strengths beat a single color."),
}  # fmt: skip

BEFORE = (
    (
        "Turn off your other sonar",
        "Console sonar off or on standby: its harmonics ring through this picture, and some say they move fish (one angler).",
    ),
    ("Lower it and see where it points", "The picture's arrow and the housing agree. Stowed with the propeller inboard, it points wrong."),
    ("Take depth and range off auto", "Auto hunts over humps and changes the size of fish while you watch."),
)
# What a step does away with: the bench can show it.
BEFORE_CAUSES = {BEFORE[0][0]: Cause.CONSOLE.value}
AFTER = (
    "Check your aim on a fixed object",
    "A dock post or bridge leg straight off the bow is at its brightest, at its true distance. Then pitch one boat length and watch your lure fall.",
)
# Through ice nobody steers and nobody casts.
ICE_BEFORE = (
    BEFORE[0],
    (
        "Lower it through the hole and see where it points",
        "Turn the pole until its arrow is where the picture says. The ice turns with nobody: mark it.",
    ),
    BEFORE[2],
)
ICE_AFTER = (
    "Check it on your own jig",
    "Let the jig down in the next hole, straight off the arrow: it is at its brightest there. Then watch it fall in yours.",
)
ICE_CAUTION = (
    "Ice first: test it as you go, and stay off what you have not tested. Float suit and picks on, somebody with you. "
    "Local rules and people who know this ice come first."
)
CAUTION = "Stop or hold position while you set up: whoever runs the boat looks out, not down. Life jacket and cut-off lanyard on. Local rules first."

DOUBT_WORDS = {
    "depth_m": "the depth",
    "shape": "how the bottom runs",
    "fish_to_m": "where the fish hold",
    "ground": "what the bottom is",
    "cover": "the cover",
    "secchi_m": "the clarity",
    "sky": "the sky",
    "wind_m_s": "the wind",
    "temperature_degc": "the water temperature",
    "other_sonars": "other sonars",
    "target": "the fish",
    "technique": "how you fish",
}
STALE_WORDS = {
    StaleCause.SUN_UP: "The sun has climbed since you set this.",
    StaleCause.SUN_LOW: "The sun is low now.",
    StaleCause.DUSK: "It is dusk.",
    StaleCause.WIND: "You set this two hours ago. Has the wind changed?",
}
TARGET_WORDS = {Species.LARGEMOUTH: "bass"}
TECHNIQUE_WORDS = {
    Technique.VERTICAL: "Dropping to",
    Technique.PITCH: "Pitching to",
    Technique.CAST: "Casting to",
    Technique.SCAN: "Scanning for",
}

# What a cost says: its field, what it is called, its unit, and the least that is worth saying.
# What bare water shows by chance is worth a word from here on [dB].
LEAST_BARE_DB = 1.0
JIG_COST, LEAST_JIG_DB = "lure_over_clutter_db", 0.5
COSTS = (
    (JIG_COST, "jig", "dB", LEAST_JIG_DB),
    ("faintest_fish_db", "faintest fish", "dB", 0.5),
    ("clutter_fill_pct", "clutter", "%", 0.3),
    ("lag_ms", "lag", "ms", 1.0),
)
JOB_WORDS = {"costs": "Measuring what each setting costs in this water", "tuned": "Searching for a better set-up in this water"}
JOB_GONE = "That work is no longer running. Start it again."
JOB_CANCELED = "Canceled."

Doubts = Mapping[str, Mapping[str, tuple[Value, Value]]]


def shown(control: str, value: Value) -> str:
    """Return a core value of a control, by its core name, as the card prints it."""
    return of(control).shown(value)


def band_words(control: str, low: Value | None, high: Value | None) -> str:
    """Return a working band as the card prints it, its unit said once; nothing where there is none."""
    if low is None or high is None:
        return ""
    first, last = shown(control, low), shown(control, high)
    if first == last:
        return last
    number, _, unit = first.partition(" ")
    return f"{number if unit and unit.rstrip('s') == last.partition(' ')[2].rstrip('s') else first} to {last}"


def why_line(reasons: tuple[Reason, ...], labels: Mapping[str, str] = LABELS) -> str:
    """Return why, in one line: the first reason, then the others after a semicolon each."""
    return say("; ".join(WHY[reason][0] for reason in reasons) + ".", labels)


def why_more(reasons: tuple[Reason, ...], labels: Mapping[str, str] = LABELS) -> str:
    """Return why, in full."""
    return say(" ".join(WHY[reason][1] for reason in reasons), labels)


def spoken(move: Move, labels: Mapping[str, str] = LABELS) -> str:
    """Return a move as spoken to a deckhand: changes first, the biggest ahead, then what of the big three is left."""
    said = [
        f"{labels[change.control]} {of(change.control).bare(change.before)} → {of(change.control).bare(change.after)}."
        for change in move.changes
    ]
    if not said:
        return "Leave everything alone."
    left = [labels[control.name] for control in (DOWN_TO, REACH, GAIN) if control.name in move.left]
    return " ".join([*said, *([f"Leave {_listed(left)} alone."] if left else [])])


def aloud(move: Move, labels: Mapping[str, str] = LABELS) -> str:
    """Return a move as a voice says it: where each control goes, in numbers that are spoken, and that the rest stays."""
    if not move.changes:
        return "Leave everything alone."
    said = []
    for change in move.changes:
        to = of(change.control).bare(change.after)
        way = ""
        if change.control in (REACH.name, GAIN.name) and not isinstance(change.after, str):
            more = float(change.after) > float(change.before)
            way = {REACH.name: ("in to", "out to"), GAIN.name: ("down to", "up to")}[change.control][more] + " "
        elif not labels[change.control].endswith(" to"):
            way = "to "
        said.append(f"{labels[change.control]} {way}{number(int(to)) if to.isdecimal() else to}.")
    return " ".join([*said, "Leave the rest."])


def _listed(names: list[str]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def doubt_lines(doubts: Doubts, labels: Mapping[str, str] = LABELS) -> list[str]:
    """Return what not knowing costs: a line a gap that moves the card, with how far; then one line for all that change nothing here."""
    lines = []
    for name, spread in doubts.items():
        parts = [
            f"{labels[control]} could be {of(control).bare(low)} to {of(control).bare(high)}" for control, (low, high) in spread.items()
        ]
        if parts:
            lines.append(f"You don't know {DOUBT_WORDS[name]}: {', '.join(parts)}.")
    same = [DOUBT_WORDS[name] for name, spread in doubts.items() if not spread]
    if same:
        lines.append(f"Not knowing {_listed(same)} changes nothing on this card.")
    return lines


@dataclass(frozen=True, slots=True, kw_only=True)
class Around:
    """What stands around the rows of a card: what is done before and after, each with what to look for, and the caution."""

    before: Sequence[tuple[str, str]]
    after: tuple[str, str]
    caution: str


def around(card: Card) -> Around:
    """Return what stands around a card's rows: from a boat, or on ice."""
    if card.here.ice:
        return Around(before=ICE_BEFORE, after=ICE_AFTER, caution=ICE_CAUTION)
    return Around(before=BEFORE, after=AFTER, caution=CAUTION)


def fish_word(here: Situation) -> str:
    """Return what the fish that is sought is called."""
    return TARGET_WORDS.get(here.target, here.target.value)


def headline(card: Card) -> str:
    """Return the card's first line: what it is for; what was not told is marked as assumed."""
    here = card.here

    def told(text: str, name: str) -> str:
        return f"{text} (assumed)" if name in here.assumed else text

    fish = told(fish_word(here), "target")
    top, low = f"{feet(here.fish_from_m):.0f}", f"{feet(here.fish_to_m):.0f}"
    hold = told(f"fish at {top} ft" if top == low else f"fish at {top} to {low} ft", "fish_to_m")
    deep, ground = told(f"{feet(here.depth_m):.0f} ft", "depth_m"), told(here.ground.value, "ground")
    return f"{TECHNIQUE_WORDS[here.technique]} {fish}, {deep} over {ground}, {hold}"


def lure_line(card: Card) -> str:
    """Return what the lure will look like, in a word and a figure."""
    over = card.lure_over_db
    if over is None:
        return "No lure is out."
    if card.here.cover is CoverKind.TIMBER:
        hint = " Behind wood it is gone: watch the line there."
    else:
        hint = " Go up a size, or get closer: no setting brings it out." if over < 2.0 else ""
    return f"Your lure: {lure_word(over)[0].lower()} ({over:+.0f} dB over clutter, expected).{hint}"


def seen_line(seen: LureSeen, cover: CoverKind) -> str:
    """Return how the lure showed where it was measured; one that is hidden anywhere is said first, with the cheapest way out.

    Among trunks it was looked at right behind one.
    """
    if seen.way is None:
        word = lure_word(seen.over_db - seen.bare_db)[0].lower()
        bare = f", where bare water has {seen.bare_db:+.0f}" if seen.bare_db >= LEAST_BARE_DB else ""
        return f"Your lure: {word} ({seen.over_db:+.0f} dB over clutter{bare}; measured on {seen.of} waters like this: {seen.low_db:.0f} to {seen.high_db:.0f})."
    ways = {
        Way.GAIN: f"{LABELS[GAIN.name]} at {seen.value:.0f} brings it out on all.",
        Way.HEAD: f"No {LABELS[GAIN.name]} brings it out; {ounces(seen.value)} does.",
        Way.LINE: "No setting brings it out, and no size heavier: watch the line, or come at it from another side.",
    }
    behind = "Behind a trunk your" if cover is CoverKind.TIMBER else "Your"
    return f"{behind} lure is hidden on {seen.hidden} of {seen.of} waters like this. {ways[seen.way]}"


def off_band_reason(control: str, value: Value, band: tuple[float, float], card: Card) -> str:
    """Return why auto-tune left the usual band, most likely."""
    if isinstance(value, str):
        return ""
    # Of Ghost cut fewer decibels are the stronger step.
    over = 0.0 < value < band[1] if control == GHOST_CUT.name else value > band[1]
    more, less = {
        GAIN.name: (
            "hotter than usual: the lure gains by it, and this water is quiet enough to take it",
            "cooler than usual: more would gain the lure little, and strong echoes split better",
        ),
        PUNCH.name: ("bolder than usual: a solid bottom did not hurt in the search", "gentler than usual: two fish split sooner"),
        QUIETING.name: (
            "more than usual: in this water the flicker costs more than the lag",
            "less than usual: nothing here needs it",
        ),
        HIDE_BELOW.name: (
            say("most leave it off: here it hides the snow of a hot {gain}, and will hide a smaller jig"),
            "most leave it off",
        ),
    }.get(
        control,
        ("more than usual: nothing real here was lost to it", f"less than usual: over {card.here.ground.value} it gains little here"),
    )
    return more if over else less


def habit_line(card: Card, labels: Mapping[str, str] = LABELS) -> str:
    """Return what setting once costs against setting at every move, or the other way, in figures of this card."""
    here = card.here
    deep = {habit: down_to(replace(here, habit=habit)).start for habit in Habit}
    keep, once = deep[Habit.KEEP_SETTING], deep[Habit.SET_ONCE]
    if keep == once:
        return "Set once or at every move: the same here."
    smaller, label = 100.0 * (1.0 - keep / once), labels[DOWN_TO.name]
    if here.habit is Habit.SET_ONCE:
        return (
            f"Set once: {label} {feet(once):.0f} ft instead of {feet(keep):.0f}. Everything is {smaller:.0f} % smaller, "
            "and a hole under the boat stays in view."
        )
    return f"Set at every move. Set once, {label} would be {feet(once):.0f} ft: everything {smaller:.0f} % smaller, and no hole missed."


def flat_line(card: Card, rig: RigProfile, labels: Mapping[str, str] = LABELS) -> str:
    """Return how to lay the fan flat here, in the mount's own clicks; nothing where it would not work."""
    if not flat_suits(card.here):
        return ""
    tilt = flat_tilt(click_rad=rig.mount.click_rad, turned=rig.mount.turned)
    gain = "a couple of steps up" if card.here.ground is Ground.MUD else "a couple of steps down"
    return (
        f"Flat works here too: {math.degrees(tilt.wanted_rad):.0f}° from plumb, {tilt.clicks} clicks. "
        + say("{reach_m} 80 to 90 ft to survey, 40 to 60 for detail; ", labels)
        + f"{labels[GAIN.name]} {gain} over {card.here.ground.value}. Some catch fish this way, others only find structure."
    )


def power_line(rig: RigProfile) -> str:
    """Return a warning where the rig's cable gives the unit too little; nothing where it gives enough."""
    budget = power_budget(rig.power.supply, rig.power.loads)
    if budget.verdict is Verdict.GOOD:
        return ""
    return f"Battery first: {budget.unit_v:.1f} V at the unit. Under {LEAST_V:g} V the picture degrades, and no setting fixes that."


def good_enough(card: Card, *, hidden: bool) -> str:
    """Return the test that ends the setting up, and what must be seen for it to be done."""
    here = card.here
    out = max(5 * round(feet(AHEAD_SHARE[here.technique] * card.window.reach_m) / 5), 5)
    deep = f"{feet(here.fish_m):.0f} ft"
    if hidden:
        seen = "If single fish split and the picture holds still, go fish: watch your line for the jig."
    elif here.technique is Technique.VERTICAL:
        seen = "If you watched it all the way down, go fish."
    else:
        seen = "If you watched it fall all the way, go fish."
    if here.technique is Technique.VERTICAL:
        return f"Lower your jig to {deep}. {seen}"
    if here.technique is Technique.SCAN:
        return f"Find one thing {out} ft out and turn off it and back. If it comes back where it was, go look for fish."
    return f"{'Pitch' if here.technique is Technique.PITCH else 'Cast'} {out} ft. {seen}"


def own_line(control: Control, shift: Shift) -> str:
    """Return how an angler's own start lies beside ours."""
    steps, days = round(shift.steps), f"{shift.days} day{'' if shift.days == 1 else 's'}"
    if steps == 0:
        return f"yours: the same as ours ({days})"
    more, less = ("hotter", "cooler") if control is GAIN else ("bolder", "gentler")
    return f"yours: {abs(steps)} {more if steps > 0 else less} than ours, give or take {max(round(shift.doubt), 1)} ({days})"


def leave_line(values: Mapping[str, Value], labels: Mapping[str, str] = LABELS) -> str:
    """Return the controls, by core name, that stay where they rest here, in one line."""
    return f"Leave these: {', '.join(f'{labels[name]} {shown(name, value)}' for name, value in values.items())}."


def values_line(values: Mapping[str, Value]) -> str:
    """Return set values, by core names, in one line: those that say most."""
    chosen = (DOWN_TO, REACH, GAIN, QUIETING, PUNCH)
    return ", ".join(f"{EDGE[control].label} {EDGE[control].shown(values[control.name])}" for control in chosen if control.name in values)


def cost_words(figures: Mapping[str, float | None], *, jig: str = "") -> str:
    """Return a cost, by its fields, in figures; what is nil is left out. `jig` says what it does to the jig, where that is known in feet."""
    parts = [jig] if jig else []
    for name, label, unit, least in COSTS:
        value = figures[name]
        if jig and name == JIG_COST:
            continue
        if value is not None and abs(value) >= least:
            parts.append(f"{label} {value:+.0f} {unit}" if abs(value) >= 2.0 else f"{label} {value:+.1f} {unit}")
    return ", ".join(parts) or "next to nothing"


def better_words(points: float) -> str:
    """Return whether auto-tune's find beats the start, by their scores [points of 100]."""
    return "Better than the start on waters it was not searched on" if points >= 0.5 else "The start stands: nothing found beats it"
