"""The pages' views: everything a template shows, worked out beforehand."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from mudlamp.core.reactions import Reaction
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.scene.model import Scene
from mudlamp.core.units import OUNCE_KG, degf_from_degc, feet
from mudlamp.core.water.clarity import clarity_of
from mudlamp.services.edge.controls import LOOK_BACK, REACH, RECEIVER
from mudlamp.services.water.plans import Plan
from mudlamp.store.library import Recording
from mudlamp.store.log import LoggedReaction, LoggedSetup, LoggedShot, SessionDetail, SessionSummary

TOKEN_WORDS = {
    Reaction.NOT_SHOWN.value: "not shown",
    Reaction.NO_ANSWER.value: "no answer",
    Reaction.LOOKED.value: "looked",
    Reaction.FOLLOWED.value: "followed",
    Reaction.BIT.value: "bit",
    Reaction.HIT_WEIGHT.value: "hit the weight",
    Reaction.BACKED_OFF.value: "backed off",
    Reaction.REFUSED.value: "refused",
    Reaction.SPOOKED.value: "spooked",
    Reaction.LEFT_WITH_SCHOOL.value: "left with school",
}
SOURCE_WORDS = {"demo": "demo", "simulated": "simulated", "recorded": "recording", "real": "on the water"}


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice:
    """One step of a stepped control."""

    value: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ControlView:
    """A row of the rail: our word, the engineering term, unit, bounds, steps, the band of common practice, what it gives and takes."""

    name: str
    label: str
    term: str
    unit: str
    low: float = 0.0
    high: float = 100.0
    step: float = 1.0
    band: tuple[float, float] | None = None
    choices: tuple[Choice, ...] = ()
    gives: str = ""
    takes: str = ""
    auto: str = ""
    priced: bool = False

    @property
    def hint(self) -> str:
        """What it gives and takes, in one breath."""
        return f"{self.gives} {self.takes}".strip()


@dataclass(frozen=True, slots=True, kw_only=True)
class SceneChoice:
    """A stock scene in the list of waters."""

    name: str
    title: str
    teaches: str
    facts: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LampView:
    """The Lamp page. `simulated`: the truth is known and there is a rod."""

    water: str
    source: str
    simulated: bool
    name: str
    fan: ControlView
    controls: Sequence[ControlView]
    aim: Sequence[ControlView]
    scenes: Sequence[SceneChoice]


def _steps(*values: float, zero: str = "0") -> tuple[Choice, ...]:
    return tuple(Choice(value=f"{value:g}", label=zero if value == 0 else f"{value:g}") for value in values)


def lamp_view(water: Plan | None, first: Scene, scenes: Sequence[dict[str, Any]]) -> LampView:
    """Return the Lamp page's view of the water that is open, or of the one that will be opened first. Bands: common practice."""
    scene = first if water is None else water.scene
    if scene is not None:
        clarity = clarity_of(secchi_m=scene.water.secchi_m).value
        title = f"{scene.title} · {clarity} · {degf_from_degc(scene.water.temperature_degc):.0f} °F"
        depth: float | None = feet(scene.depth_m or scene.transducer.reach_m)
    else:
        title, depth = water.title if water is not None else "", None
    return LampView(
        water=title,
        source="simulated" if scene is not None else "recording",
        simulated=scene is not None,
        name=first.name if water is None else water.name,
        fan=FAN,
        controls=_rail(depth),
        aim=AIM,
        scenes=tuple(
            SceneChoice(
                name=row["name"],
                title=row["title"],
                teaches=row["teaches"],
                facts=f"{row['depth_ft'] or 0:.0f} ft deep, {row['fish']} fish",
            )
            for row in scenes
        ),
    )


FAN = ControlView(
    name="fan", label="Fan", term="orientation", unit="",
    choices=(Choice(value="ahead", label="Ahead"), Choice(value="below", label="Below"), Choice(value="flat", label="Flat")),
    gives="Which way the fan stands: forward, straight down, or laid on its side for a view from above.",
    takes="Below moves the seams out of the way and sees nothing ahead; Flat shows left and right and no depth.",
)  # fmt: skip

AIM = (
    ControlView(
        name="aim_deg", label="aim", term="left or right", unit="°", low=-60, high=60, step=1,
        gives="Turns the fan from the bow; minus is left.", takes="What was in it goes dark: brightest is centered.",
    ),
    ControlView(
        name="tilt_deg", label="Tilt", term="from plumb", unit="°", low=0, high=110, step=1,
        gives="Tilts the fan's center line forward from plumb.", takes="Flat: too near level brings the surface, too steep leaves a thin slice of bottom.",
    ),
    ControlView(
        name="look_back_ft", label="Look-back", term="behind the boat", unit="ft", low=0, high=min(30.0, LOOK_BACK.high), step=1, band=(1.0, 3.0),
        gives="Shows what is behind the boat.", takes="More of it shrinks the rest.",
    ),
    ControlView(
        name="sound_speed_ft_s", label="Sound speed", term="assumed", unit="ft/s", low=4560, high=5060, step=10,
        gives="Set by the water's temperature, it puts echoes where they are.", takes="Wrong, it stretches ranges, bends the bottom and breaks the seams.",
    ),
    ControlView(
        name="steady", label="Steady", term="motion leveling", unit="", choices=(Choice(value="0", label="off"), Choice(value="1", label="on")),
        gives="Levels the fan by the boat's motion sensor, so that the bottom stands still.",
        takes="Where the sensor is late it makes the sway worse: toggle it and look.",
    ),
)  # fmt: skip


def _rail(depth_ft: float | None) -> tuple[ControlView, ...]:
    near = tuple(RECEIVER["near_cut_db"].choices)
    return (
        ControlView(
            name="down_to_ft", label="Down to", term="range, depth", unit="ft", low=8, high=60, step=1, auto="down_to",
            band=None if depth_ft is None or depth_ft > 55.0 else (round(depth_ft + 2), round(depth_ft + 5)),
            gives="How deep the picture goes: keep the bottom in view with 2 to 5 ft to spare, for fish hold on it.",
            takes="Too deep wastes glass, too shallow cuts off fish.",
        ),
        ControlView(
            name="reach_ft", label="Reach", term="range, forward", unit="ft", low=12, high=min(110.0, REACH.high), step=1, band=(25, 45),
            gives="How far ahead it looks; shorter is bigger and clearer, and pings can follow faster.",
            takes="Longer shows more and makes all of it smaller; what is farther than the Reach is not there.",
        ),
        ControlView(
            name="gain", label="Gain", term="gain", unit="", band=(60, 72), auto="gain", priced=True,
            gives="Lifts every echo by 0.6 dB a step, the jig among them.",
            takes="It lifts the clutter as much, and strong echoes run together.",
        ),
        ControlView(
            name="near_cut_db", label="Near cut", term="time-varied gain", unit="dB at 3 ft", choices=_steps(*near), priced=True,
            gives="Takes the clutter out near the transducer, full to 3 ft and tapering to none at 20, 33 or 50 ft.",
            takes="The jig under the boat goes with it.",
        ),
        ControlView(
            name="quieting_pings", label="Quieting", term="noise rejection", unit="pings", choices=_steps(1, 2, 3, 5), priced=True,
            gives="Integrates pings and hides what is near the noise: spokes of another sonar go, the picture is calm.",
            takes="It lags, leaves dead patches where the noise estimate is high, needs some 20 minutes to settle, and small movers are lost.",
        ),
        ControlView(
            name="ghost_cut_db", label="Ghost cut", term="ghost rejection", unit="dB under", choices=_steps(*RECEIVER["ghost_cut_db"].choices, zero="off"), priced=True,
            gives="Cuts what is far weaker than the strongest echo at its range, and where a bounce off the bottom is predicted.",
            takes="Real weak fish in those places go too.",
        ),
        ControlView(
            name="punch", label="Punch", term="contrast", unit="", band=(50, 70), priced=True,
            gives="How fast echoes go to full brightness: more is bolder, so that Gain can stay low.",
            takes="Bottom and fish turn solid and run together, and huggers vanish in it.",
        ),
        ControlView(
            name="hide_below_db", label="Hide below", term="threshold", unit="dB", high=30, priced=True,
            gives="Draws nothing weaker than this; the partner of a very hot Gain.",
            takes="Off nearly always: the jig goes first.",
        ),
        ControlView(
            name="ink", label="Ink", term="color map", unit="", choices=tuple(Choice(value=name, label=ink.title) for name, ink in INKS.items()),
            gives="The color map; Terrace has three strengths, for a small glass.", takes="Ink is for the eye: it changes no echo.",
        ),
    )  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionView:
    """A reaction in the log: its word, the machine's word where it was corrected, when, how sure."""

    id: str
    track: str
    at: str
    token: str
    word: str
    machine_word: str | None
    cause: str
    sure: str
    choices: Sequence[Choice]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotView:
    """A shot in the log."""

    number: int
    source: str
    at: str
    ahead: str
    head: str
    seconds: str
    outcome: str
    reactions: Sequence[ReactionView]


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionView:
    """A session in the list."""

    id: str
    title: str
    source: str
    state: str
    angler: str
    started_text: str
    length: str
    shots: int
    tally: Sequence[tuple[str, int]]


@dataclass(frozen=True, slots=True, kw_only=True)
class LogView:
    """The Log page: sessions, and what is left to say where there are none."""

    sessions: Sequence[SessionView]
    with_demo: bool
    next_before: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class SetupView:
    """A change of set-up in the log: when, and the differences in words."""

    at: str
    changes: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionPageView:
    """One session's page."""

    session: SessionView
    with_demo: bool
    setups: Sequence[SetupView]
    shots: Sequence[ShotView]
    loose: Sequence[ReactionView]


def clock(seconds: float) -> str:
    """Return seconds as minutes and seconds."""
    return f"{int(seconds // 60)}:{int(seconds % 60):02d}"


def reaction_view(one: LoggedReaction) -> ReactionView:
    """Return a reaction for the log."""
    token = one.corrected or one.token
    return ReactionView(
        id=str(one.id),
        track=one.track,
        at=clock(one.session_s),
        token=token,
        word=TOKEN_WORDS.get(token, token),
        machine_word=TOKEN_WORDS.get(one.token, one.token) if one.corrected and one.corrected != one.token else None,
        cause=one.cause,
        sure=f"{100 * one.confidence:.0f} %",
        choices=tuple(Choice(value=name, label=word) for name, word in TOKEN_WORDS.items()),
    )


def session_view(one: SessionSummary) -> SessionView:
    """Return a session for the list."""
    order = {name: i for i, name in enumerate(TOKEN_WORDS)}
    tally = sorted(one.reactions.items(), key=lambda item: order.get(item[0], 99))
    seconds = ((one.ended_at or one.started_at) - one.started_at).total_seconds()
    return SessionView(
        id=str(one.id),
        title=one.title,
        source=SOURCE_WORDS[one.source],
        state=one.state,
        angler=one.angler or "",
        started_text=one.started_at.strftime("%b %-d, %Y · %H:%M UTC"),
        length=clock(seconds) if one.ended_at else "going on",
        shots=one.shots,
        tally=tuple((TOKEN_WORDS.get(name, name), count) for name, count in tally),
    )


def log_view(sessions: Sequence[SessionSummary], *, with_demo: bool, page: int) -> LogView:
    """Return the Log page's view."""
    views = tuple(session_view(one) for one in sessions)
    return LogView(
        sessions=views,
        with_demo=with_demo,
        next_before=sessions[-1].started_at.isoformat() if len(sessions) == page else None,
    )


def session_page_view(detail: SessionDetail, *, with_demo: bool) -> SessionPageView:
    """Return one session's page."""
    return SessionPageView(
        session=session_view(detail.summary),
        with_demo=with_demo,
        setups=_setup_views(detail.setups),
        shots=tuple(_shot_view(one) for one in detail.shots),
        loose=tuple(reaction_view(one) for one in detail.loose),
    )


def _shot_view(one: LoggedShot) -> ShotView:
    ounces = one.head_kg / OUNCE_KG
    head = f"1/{round(1.0 / ounces)} oz" if 0 < ounces < 0.9 else f"{ounces:.2f} oz"
    return ShotView(
        number=one.number,
        source=SOURCE_WORDS[one.source],
        at=clock(one.start_s),
        ahead=f"{feet(one.ahead_m):.0f} ft out",
        head=head,
        seconds="" if one.end_s is None else f"{one.end_s - one.start_s:.0f} s",
        outcome=one.outcome or "",
        reactions=tuple(reaction_view(each) for each in one.reactions),
    )


CONTROL_WORDS = {
    "fan": "Fan",
    "down_to_ft": "Down to",
    "reach_ft": "Reach",
    "look_back_ft": "Look-back",
    "tilt_deg": "Tilt",
    "aim_deg": "aim",
    "sound_speed_ft_s": "Sound speed",
    "gain": "Gain",
    "near_cut_db": "Near cut",
    "quieting_pings": "Quieting",
    "ghost_cut_db": "Ghost cut",
    "punch": "Punch",
    "hide_below_db": "Hide below",
    "ink": "Ink",
}


def _setup_views(setups: Sequence[LoggedSetup]) -> tuple[SetupView, ...]:
    views = []
    before: dict[str, object] = {}
    for one in setups:
        if not before:
            shown = [name for name in ("down_to_ft", "reach_ft", "gain", "quieting_pings", "punch") if name in one.values]
            changes = [f"{CONTROL_WORDS[name]} {_shown(one.values[name])}" for name in shown]
        else:
            changes = [
                f"{CONTROL_WORDS.get(name, name)} {_shown(before.get(name))} → {_shown(value)}"
                for name, value in one.values.items()
                if before.get(name) != value
            ]
        before = dict(one.values)
        if changes:
            views.append(SetupView(at=clock(one.session_s), changes=tuple(changes)))
    return tuple(views)


def _shown(value: object) -> str:
    return f"{value:g}" if isinstance(value, int | float) else str(value)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingView:
    """A recording in the list: what it is, how long, how large, whether it is kept or when it goes."""

    id: str
    name: str
    facts: str
    kept: bool
    until: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingsView:
    """This browser's recordings."""

    recordings: Sequence[RecordingView]


def recordings_view(recordings: Sequence[Recording]) -> RecordingsView:
    """Return the list of recordings."""
    return RecordingsView(
        recordings=tuple(
            RecordingView(
                id=str(one.id),
                name=one.name,
                facts=f"{SOURCE_WORDS.get(one.source, one.source)} · {one.fan} · {one.seconds:.0f} s, {one.pings} pings · {one.size_bytes / 1e6:.0f} MB",
                kept=one.expires_at is None,
                until="" if one.expires_at is None else f"goes on {one.expires_at:%b %d}",
            )
            for one in recordings
        )
    )
