"""`./lamp export`: an angler's rows of a kind as a file."""

import sys
from pathlib import Path

from mudlamp.cli.arguments import Parser
from mudlamp.cli.outputs import WHILE_WRITING, output
from mudlamp.core.errors import DomainError
from mudlamp.services.errands import house_from_stdin
from mudlamp.services.keep.desk import angler_named
from mudlamp.services.keep.kinds import KINDS, formats_of


def run(words: list[str]) -> int:
    """Export."""
    parser = Parser(prog="lamp export", description="Write an angler's rows of a kind into a file; its ending says the format.")
    parser.add_argument("kind", choices=tuple(KINDS), metavar="KIND", help=", ".join(KINDS))
    parser.add_argument("file", type=output(), metavar="FILE", help="the file to write: .csv, .json, .parquet; spots also .geojson, .gpx")
    parser.add_argument("--angler", metavar="NAME", help="whose (not needed where there is only one)")
    options = parser.parse_args(words)
    form = options.file.suffix.lower().removeprefix(".")
    if form not in formats_of(options.kind):
        raise DomainError(f"file is {str(options.file)[:60]}: of {options.kind} it must end in .{', .'.join(formats_of(options.kind))}")
    with house_from_stdin() as house:
        data = house.keep.written(angler_named(house.engine, options.angler), options.kind, form)
    write_whole(options.file, data)
    print(f"{options.file}: {len(data)} bytes", file=sys.stderr)
    return 0


def write_whole(path: Path, data: bytes) -> None:
    """Write a file, whole or not at all."""
    part = path.with_name(path.name + WHILE_WRITING)
    try:
        part.write_bytes(data)
        part.replace(path)
    finally:
        part.unlink(missing_ok=True)
