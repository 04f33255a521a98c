"""What each control gives and takes, in words, and the band that common practice works in."""

from collections.abc import Mapping
from dataclasses import dataclass

from mudlamp.core.controls import (
    AIM,
    DOWN_TO,
    FAN,
    GAIN,
    GHOST_CUT,
    HIDE_BELOW,
    INK,
    LOOK_BACK,
    NEAR_CUT,
    PUNCH,
    QUIETING,
    REACH,
    SOUND_SPEED,
    STEADY,
    TILT,
    Control,
)

# Deeper than this the slider ends, and a band would run off it [ft].
DEEPEST_BAND_FT = 55.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Explained:
    """What a control gives, what it takes."""

    gives: str
    takes: str


# Texts name controls by their core names in braces.
EXPLAINED: Mapping[Control, Explained] = {
    FAN: Explained(
        gives="Which way the fan stands: forward, straight down, or on its side for a view from above.",
        takes="Below moves the seams out of the way but sees nothing ahead. Flat shows left and right but no depth.",
    ),
    DOWN_TO: Explained(
        gives="How deep the picture goes. Keep the bottom in view with 2 to 5 ft to spare: fish hold on it.",
        takes="Too deep wastes screen. Too shallow cuts off fish.",
    ),
    REACH: Explained(
        gives="How far ahead it looks. Shorter is bigger and clearer, and pings come faster.",
        takes="Longer shows more and makes all of it smaller. Past the end there is nothing.",
    ),
    GAIN: Explained(
        gives="Lifts every echo by 0.6 dB a step, the jig included.",
        takes="Lifts clutter just as much, and strong echoes run together.",
    ),
    NEAR_CUT: Explained(
        gives="Takes out clutter near the transducer: full to 3 ft, tapering to none at 20, 33 or 50 ft.",
        takes="The jig under the boat goes with it.",
    ),
    QUIETING: Explained(
        gives="Combines pings and hides what is near the noise. Spokes from another sonar go, and the picture calms down.",
        takes="It lags, leaves dead patches where its noise estimate runs high, takes 20 minutes to settle, and loses small movers.",
    ),
    GHOST_CUT: Explained(
        gives="Cuts what is far weaker than the strongest echo at its range, and where a bounce off the bottom is expected.",
        takes="Real but weak fish in those places go too.",
    ),
    PUNCH: Explained(
        gives="How fast echoes go to full brightness. More is bolder, so {gain} can stay low.",
        takes="Bottom and fish turn solid and run together, and fish tight to the bottom disappear in it.",
    ),
    HIDE_BELOW: Explained(
        gives="Draws nothing weaker than this. It goes with a very hot {gain}.",
        takes="Leave it off nearly always: the jig goes first.",
    ),
    INK: Explained(gives="The colors. Terrace has three strengths, for a small screen.", takes="Only for the eye: it changes no echo."),
    AIM: Explained(gives="Turns the fan from the bow. Minus is left.", takes="Whatever was in it goes dark. Brightest is centered."),
    TILT: Explained(
        gives="Tilts the fan's center line forward from plumb.",
        takes="Flat: too near level picks up the surface; too steep leaves a thin slice of bottom.",
    ),
    LOOK_BACK: Explained(gives="Shows what is behind the boat.", takes="More of it shrinks the rest."),
    SOUND_SPEED: Explained(
        gives="Set it by water temperature, and echoes land where they are.",
        takes="Set wrong, it stretches range, bends the bottom and breaks the seams.",
    ),
    STEADY: Explained(
        gives="Levels the fan by the boat's motion sensor, so the bottom holds still.",
        takes="If the sensor is late it makes the sway worse. Toggle it and look.",
    ),
}
# What common practice works between, in the edge's unit.
BANDS: Mapping[Control, tuple[float, float]] = {
    REACH: (25.0, 45.0),
    GAIN: (60.0, 72.0),
    PUNCH: (50.0, 70.0),
    LOOK_BACK: (1.0, 3.0),
}


def band_of(control: Control, *, depth_ft: float | None) -> tuple[float, float] | None:
    """Return the band of common practice for a control over water of a depth [ft], in the edge's unit; None where there is none."""
    if control is not DOWN_TO:
        return BANDS.get(control)
    return None if depth_ft is None or depth_ft > DEEPEST_BAND_FT else (round(depth_ft + 2.0), round(depth_ft + 5.0))
