"""`./lamp track`: tracks and reactions from a recording alone."""

import sys
from pathlib import Path

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, ranged
from mudlamp.core.tracking.classes import OF_FISH, FishClass, Priors
from mudlamp.core.tracking.track import Kind
from mudlamp.core.units import degc_from_degf
from mudlamp.formats.hand import read_hand
from mudlamp.formats.learned import shipped
from mudlamp.services.quarantine.inspect import inspect_recording
from mudlamp.services.recordings.track import as_answer, track_recording
from mudlamp.services.words.fish import NO_LENGTH, inches
from mudlamp.services.words.trouble import NOTHING_LEARNED


def run(words: list[str]) -> int:
    """Track a recording."""
    parser = Parser(prog="lamp track", description="Tracks and reactions from a recording alone; across is taken as zero.")
    parser.add_argument("file", type=Path, help="the recording (.nc)")
    parser.add_argument("--hand", type=Path, help="what the angler's hand did (.jsonl), as ./lamp sim --hand writes it")
    parser.add_argument("--temp-f", type=ranged(32.0, 100.0, "deg F"), help="how warm the water was: what fish are likelier")
    parser.add_argument("--target", choices=[one.value for one in OF_FISH], help="what was fished for: it is likelier there")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    inspect_recording(options.file)
    priors = Priors.of(
        temperature_degc=None if options.temp_f is None else degc_from_degf(options.temp_f),
        target=None if options.target is None else FishClass(options.target),
    )
    hand = () if options.hand is None else read_hand(options.hand)
    answer = as_answer(*track_recording(options.file, hand=hand, priors=priors))
    if not shipped().tells_kinds:
        print(f"lamp: {NOTHING_LEARNED}", file=sys.stderr)
    lines = [
        f"track {row.id}: {row.fish_class if row.kind == Kind.FISH and row.fish_class else row.kind}, "
        f"{NO_LENGTH if row.length_m is None else f'{inches(row.length_m)} in'}, {len(row.points)} pings"
        for row in answer.tracks
    ]
    lines += [f"{row.t:.1f} s: track {row.track} {row.event} ({row.cause}, {row.confidence:.0%})" for row in answer.reactions]
    give(answer, as_json=options.json, lines=lines)
    return 0
