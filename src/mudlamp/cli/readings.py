"""`./lamp readings`: what the receiver shows of a recording, in figures."""

from dataclasses import asdict
from pathlib import Path

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, settings
from mudlamp.cli.outputs import output
from mudlamp.core.controls import RECEIVER, WINDOW
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.quarantine.inspect import inspect_recording, inspect_truth
from mudlamp.services.recordings.measure import measure_recording


def run(words: list[str]) -> int:
    """Measure a recording under a set-up."""
    parser = Parser(prog="lamp readings", description="The receiver's picture of a recording and its readings.")
    parser.add_argument("file", type=Path, help="the recording (.nc)")
    parser.add_argument("--truth", type=Path, help="the truth beside it (.jsonl); readings that need it are null without")
    parser.add_argument(
        "--set",
        nargs="*",
        action="extend",
        default=[],
        metavar="KEY=VALUE",
        help=f"{' '.join(EDGE[one].name for one in RECEIVER)}, and {' '.join(EDGE[one].name for one in WINDOW)} to crop",
    )
    parser.add_argument("--png", type=output(suffix=".png"), help="write the last picture here")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    inspect_recording(options.file)
    if options.truth is not None:
        inspect_truth(options.truth)
    found = asdict(measure_recording(options.file, truth=options.truth, values=settings(options.set), png=options.png))
    # What other scripts rely on and no more: how it looks to the eye is for the styles, what bare water has for the words.
    del found["contrast"], found["bare_over_clutter_db"]
    rounded = {name: round(value, 3) if isinstance(value, float) else value for name, value in found.items()}
    give(
        {"readings": rounded},
        as_json=options.json,
        lines=[f"{name}: {'needs simulated water' if value is None else value}" for name, value in rounded.items()],
    )
    return 0
