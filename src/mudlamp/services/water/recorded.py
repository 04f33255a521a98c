"""Recorded water: a recording that plays, with neither truth nor rod."""

from collections.abc import Sequence

from mudlamp.core.advice.auto import auto_down_to
from mudlamp.core.controls import DOWN_TO, REACH, Part
from mudlamp.core.errors import DomainError
from mudlamp.core.hand import HandEvent
from mudlamp.core.ping import Ping
from mudlamp.core.scene.shots import Shot
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import Setting, Window, with_settings
from mudlamp.core.sonar.transducer import Acquisition
from mudlamp.core.tracking.classes import Priors
from mudlamp.formats.recording import RecordingReader
from mudlamp.heads.recorded import RecordedHead
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.water.hands import Hand
from mudlamp.services.water.role import FanLook, Outline

FIRST_PINGS = 4
LOOK_BACK_M = 0.6
# A reach typed in feet may be this much over what was recorded [m].
SLACK_M = 0.05


class RecordedWater:
    """A recording that plays. A shorter Reach is a crop of it; what it was recorded with cannot be changed."""

    source = "recorded"
    processor_lag_s = 0.0
    lure = "stowed"
    scripted = False
    head_kg = 0.0
    lure_mark_db = None
    # Nobody knows how warm it was.
    priors = Priors()
    temperature_degc = None

    def __init__(self, reader: RecordingReader, *, title: str, from_s: float = 0.0) -> None:
        self.name = "recording"
        self.title = title
        self.head = RecordedHead(reader, from_s=from_s)
        setup = self.head.setup
        self._farthest_m = REACH.held(setup.farthest_m)
        self._pose = reader.ping(0).pose
        whole = DOWN_TO.held(self._farthest_m + self._pose.z_m)
        # Down to the bottom where the first pings show one.
        found = auto_down_to([reader.ping(number) for number in range(min(FIRST_PINGS, len(reader)))])
        self._window = Window(down_to_m=whole if found is None else found.value, reach_m=self._farthest_m, look_back_m=LOOK_BACK_M)

    @property
    def acquisition(self) -> Acquisition:
        """The controls as they were, and the crop."""
        setup, window = self.head.setup, self._window
        return Acquisition(
            fan=setup.fan,
            reach_m=window.reach_m,
            down_to_m=window.down_to_m,
            look_back_m=window.look_back_m,
            tilt_rad=self._pose.tilt_rad,
            aim_rad=0.0,
            sound_speed_m_s=setup.sound_speed_m_s,
        )

    @property
    def look(self) -> FanLook:
        """How the fan stood when it was recorded."""
        setup = self.head.setup
        return FanLook(
            fan=setup.fan,
            tilt_rad=self._pose.tilt_rad,
            fan_rad=float(setup.beam_angle_rad[-1] - setup.beam_angle_rad[0]) + setup.beam_step_rad,
            thickness_rad=setup.thickness_rad,
            depth_m=self._pose.z_m,
            farthest_m=setup.farthest_m,
        )

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping that the recording has at a time [s], if one came since the last."""
        return self.head.listen(time_s)

    def rows(self) -> list[TruthRow] | None:
        """Nobody knows what was really there."""
        return None

    def change(self, settings: Sequence[Setting]) -> None:
        """Crop; anything else that shapes the ping is refused with the reason."""
        for one in settings:
            if one.control.part is not Part.WINDOW:
                raise DomainError(f"{EDGE[one.control].label} cannot be changed: this is a recording, and its pings were made with it")
        wanted = with_settings(self._window, *settings)
        if wanted.reach_m > self._farthest_m + SLACK_M:
            reach = EDGE[REACH]
            raise DomainError(
                f"{reach.name} is {reach.shown(wanted.reach_m)}: it must be at most {reach.shown(self._farthest_m)}, as far as was recorded"
            )
        self._window = wanted

    def hand(self, hand: Hand, time_s: float) -> None:
        """There is no rod."""
        raise DomainError("this is a recording: there is no rod in it")

    def done(self) -> list[HandEvent]:
        """A recording knows nothing of hands."""
        return []

    def outlines(self) -> list[Outline]:
        """Nobody knows what stands there."""
        return []

    @property
    def shots(self) -> list[Shot]:
        """No shots."""
        return []

    def thrown_m(self, shot: Shot) -> float:
        """No shots."""
        return 0.0

    def close(self) -> None:
        """Close the file."""
        self.head.close()
