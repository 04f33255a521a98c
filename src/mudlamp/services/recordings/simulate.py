"""Recordings of simulated water."""

from collections.abc import Callable
from pathlib import Path

from mudlamp.core.errors import DomainError, require_range
from mudlamp.core.scene.model import Scene
from mudlamp.core.sonar.transducer import Acquisition
from mudlamp.core.water.sound import ping_limit_hz
from mudlamp.formats.hand import hand_line
from mudlamp.formats.recording import RecordingWriter
from mudlamp.formats.truth import event_line, row_line, write_truth_lines
from mudlamp.heads.simulated import SimulatedHead

DEFAULT_PING_HZ = 15.0
SECONDS = (0.05, 3600.0)
SEED = (0, 2**53)


def record_simulation(
    scene: Scene,
    *,
    seconds: float,
    seed: int,
    ping_hz: float,
    acquisition: Acquisition,
    out: Path,
    truth: Path | None = None,
    hand: Path | None = None,
    compress: bool = False,
    progress: Callable[[float], None] | None = None,
) -> int:
    """Simulate a scene into a recording, its truth and what the angler's hand did beside it; return the number of pings.

    The files appear whole or not at all. Raises DomainError for an argument out of range or a folder that cannot be written.
    """
    require_range("seconds", seconds, *SECONDS, "s")
    if not SEED[0] <= seed <= SEED[1]:
        raise DomainError(f"seed is {seed}: it must be {SEED[0]} to {SEED[1]}")
    head = SimulatedHead(scene, seed=seed, acquisition=acquisition)
    setup = head.listen(0.0).setup
    limit = ping_limit_hz(range_m=setup.farthest_m, speed_m_s=setup.sound_speed_m_s)
    require_range("ping_hz", ping_hz, 0.5, limit, "Hz")
    for path in (out, truth, hand):
        if path is not None and not path.absolute().parent.is_dir():
            raise DomainError(f"{path} cannot be written: its folder must exist")
    head = SimulatedHead(scene, seed=seed, acquisition=acquisition)
    count = max(1, round(seconds * ping_hz))
    lines: list[bytes] = []
    done: list[bytes] = []
    with RecordingWriter(out, setup, compress=compress) as writer:
        for number in range(count):
            writer.write(head.listen(number / ping_hz))
            if hand is not None:
                done += [hand_line(event) for event in head.world.hand()]
            if truth is not None:
                rows, events = head.truth()
                lines += [row_line(row) for row in rows] + [event_line(event) for event in events]
            if progress is not None:
                progress((number + 1) / count)
        if truth is not None:
            lines += [event_line(event) for event in head.world.last_reactions()]
            write_truth_lines(truth, lines)
        if hand is not None:
            write_truth_lines(hand, done)
    return count
