"""`./lamp unarchive`: an archive back into an installation, all or nothing."""

import sys
from pathlib import Path

from mudlamp.cli.arguments import Parser
from mudlamp.services.errands import house_from_stdin
from mudlamp.services.keep.desk import angler_named


def run(words: list[str]) -> int:
    """Unarchive."""
    parser = Parser(prog="lamp unarchive", description="Read an archive back: all of it, or nothing.")
    parser.add_argument("file", type=Path, metavar="FILE.zip", help="the archive to read")
    parser.add_argument("--angler", metavar="NAME", help="into whose account (default: that of the angler who made it)")
    options = parser.parse_args(words)
    with house_from_stdin() as house:
        owner = None if options.angler is None else angler_named(house.engine, options.angler)
        found = house.keep.read_archive(options.file, owner=owner)
    print(f"{found.new_rows} of {found.rows} rows were new, {found.files} files came along", file=sys.stderr)
    return 0
