"""`./lamp track`: tracks and reactions from a recording alone."""

from pathlib import Path

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.core.units import INCH_M
from mudlamp.services.quarantine.inspect import inspect_recording
from mudlamp.services.recordings.track import as_answer, track_recording


def run(words: list[str]) -> int:
    """Track a recording."""
    parser = Parser(prog="lamp track", description="Tracks and reactions from a recording alone; across is taken as zero.")
    parser.add_argument("file", type=Path, help="the recording (.nc)")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    inspect_recording(options.file)
    answer = as_answer(*track_recording(options.file))
    lines = [f"track {row.id}: {row.kind}, {row.length_m / INCH_M:.0f} in, {len(row.points)} pings" for row in answer.tracks]
    lines += [f"{row.t:.1f} s: track {row.track} {row.event} ({row.cause}, {row.confidence:.0%})" for row in answer.reactions]
    give(answer, as_json=options.json, lines=lines)
    return 0
