"""The rig in words: what a mount costs, where it points wrong, volts and hours."""

from mudlamp.core.rig.mount import MountKind
from mudlamp.core.rig.power import PowerBudget, Verdict
from mudlamp.services.words.labels import say

MOUNT_COSTS = {
    MountKind.MOTOR_SHAFT: "Turning the beam turns the boat, and position hold fights your aim. Needs the compass calibrated.",
    MountKind.MOTOR_HEAD: "Low: it sees 40 to 60 ft back under dock floats, but stumps can hit it. Needs the compass calibrated.",
    MountKind.POLE: "Independent of the motor, and the handle shows the direction. It takes one hand.",
    MountKind.TURRET: "Holds position while you aim. About 10 turns a minute for a quick pan, and more draw on the battery.",
    MountKind.STERN: "At anchor only: it looks where the stern looks.",
    MountKind.ICE: "Your hand turns it. Straight down is cleanest. Ice: thickness by local advice, and never alone.",
}
MOUNT_CAUTION = "Hands off the propeller. Change clicks and stow only with the motor off."
POWER_CAUTION = "Fuse at the battery, and wiring by a qualified person to the marine standard that applies. Lithium above all."
CONSOLE = "Turn off the console sonar before the first cast: it is step 1 of every card."
ON_MOTOR = "It rides on the motor: two slow circles the same way in open water until the heading settles, then check your aim on a post."
VERDICTS = {
    Verdict.GOOD: ("Good: 12 V or more at the unit", "good"),
    Verdict.THIN: ("Thin: between 11.5 and 12 V at the unit", "fair"),
    Verdict.LOW: ("Too low: under 11.5 V the live picture degrades for no visible reason", "bad"),
    Verdict.NOT_POSSIBLE: ("Not possible: the cable cannot carry this load", "bad"),
}
DAYS_H = 48.0


def other_live() -> str:
    """Return what another live transducer aboard does."""
    return say("Another live transducer makes spokes. Cards raise {quieting_pings} two steps for it.")


def thick_line(out_ft: float, thick_ft: float) -> str:
    """Return how thick the fan is at a distance [ft]."""
    return f"At {out_ft:g} ft the fan is {thick_ft:.1f} ft thick. A lure more than half that off to the side is dim or dark."


def _turn(amount: float) -> str:
    return "clockwise" if amount > 0 else "counterclockwise"


def stowed_line(clicks: int) -> str:
    """Return how to right a transducer on a motor that is stowed, by clicks, clockwise positive."""
    return f"Stowed with the propeller inboard it points wrong: {abs(clicks)} clicks {_turn(clicks)}, then check your aim."


def aim_line(degrees: float) -> str:
    """Return the aim correction to be dialed in [deg], clockwise positive."""
    return f"Dial in an aim correction of {abs(degrees):.0f}° {_turn(degrees)}. Water made for your cards points as wrong, and opens with it dialed in."


def power_lines(budget: PowerBudget) -> list[str]:
    """Return volts and hours."""
    hours = min(budget.hours, budget.good_hours)
    left = "Days" if hours > DAYS_H else f"{hours:.1f} hours"
    until = "the unit drops under 11.5 V" if budget.good_hours < budget.hours else "the battery is down to what you should keep"
    return [
        f"{budget.unit_v:.2f} V at the unit: {budget.battery_v:.2f} V at the battery,"
        f" {budget.drop_v:.2f} V lost in both conductors at {budget.cable_a:.1f} A",
        f"{left} left at {budget.battery_a:.1f} A, until {until}",
    ]
