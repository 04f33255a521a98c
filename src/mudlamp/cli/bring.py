"""`./lamp import`: a file into an angler's log, all or nothing."""

import sys
from pathlib import Path

from mudlamp.cli.arguments import Parser
from mudlamp.core.errors import DomainError
from mudlamp.services.errands import IN_KINDS, house_from_stdin, take
from mudlamp.services.find.waters import DEMO
from mudlamp.services.keep.desk import angler_named


def run(words: list[str]) -> int:
    """Import."""
    parser = Parser(prog="lamp import", description="Read a file into an angler's log: all of it, or nothing.")
    parser.add_argument("kind", choices=IN_KINDS, metavar="KIND", help=", ".join(IN_KINDS))
    parser.add_argument(
        "file", type=Path, metavar="FILE", help="CSV for catches and trips; GeoJSON or GPX for spots; netCDF for recordings"
    )
    parser.add_argument("--angler", metavar="NAME", help="whose (not needed where there is only one)")
    parser.add_argument("--water", default=DEMO, metavar="NAME", help="the water that spots are on (default: the demo's)")
    parser.add_argument(
        "--map", nargs="+", action="extend", default=[], metavar="COLUMN=FIELD", help="which column is what (default: by their names)"
    )
    options = parser.parse_args(words)
    mapping = dict(_pair(word) for word in options.map) or None
    with house_from_stdin() as house:
        owner = angler_named(house.engine, options.angler)
        count = take(house, owner, options.kind, options.file, mapping=mapping, water=options.water)
    print(f"{count} {options.kind} from {options.file}", file=sys.stderr)
    return 0


def _pair(word: str) -> tuple[str, str]:
    column, equals, name = word.partition("=")
    if not (column and equals):
        raise DomainError(f"--map is {word[:60]}: it must be COLUMN=FIELD")
    return column, name
