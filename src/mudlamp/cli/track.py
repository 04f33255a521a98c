"""`./lamp track`: tracks and reactions from a recording alone."""

import sys
from pathlib import Path

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.core.units import INCH_M
from mudlamp.formats.hand import read_hand
from mudlamp.formats.learned import shipped_forest
from mudlamp.services.quarantine.inspect import inspect_recording
from mudlamp.services.recordings.track import as_answer, track_recording


def run(words: list[str]) -> int:
    """Track a recording."""
    parser = Parser(prog="lamp track", description="Tracks and reactions from a recording alone; across is taken as zero.")
    parser.add_argument("file", type=Path, help="the recording (.nc)")
    parser.add_argument("--hand", type=Path, help="what the angler's hand did (.jsonl), as ./lamp sim --hand writes it")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    inspect_recording(options.file)
    answer = as_answer(*track_recording(options.file, hand=() if options.hand is None else read_hand(options.hand)))
    if shipped_forest() is None:
        print(
            "lamp: nothing learned is there (./lamp train tracker makes it): kinds are told by weights of our own, which are worse",
            file=sys.stderr,
        )
    lines = [f"track {row.id}: {row.kind}, {row.length_m / INCH_M:.0f} in, {len(row.points)} pings" for row in answer.tracks]
    lines += [f"{row.t:.1f} s: track {row.track} {row.event} ({row.cause}, {row.confidence:.0%})" for row in answer.reactions]
    give(answer, as_json=options.json, lines=lines)
    return 0
