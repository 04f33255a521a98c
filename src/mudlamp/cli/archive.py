"""`./lamp archive`: an angler's whole account as one file."""

import sys

from mudlamp.cli.arguments import Parser
from mudlamp.cli.outputs import WHILE_WRITING, output
from mudlamp.services.errands import house_from_stdin
from mudlamp.services.keep.archive import write_archive
from mudlamp.services.keep.desk import angler_named


def run(words: list[str]) -> int:
    """Archive."""
    parser = Parser(prog="lamp archive", description="Put an angler's whole account, with recordings and photos, into one file.")
    parser.add_argument("file", type=output(suffix=".zip"), metavar="FILE.zip", help="the archive to write")
    parser.add_argument("--angler", metavar="NAME", help="whose (not needed where there is only one)")
    options = parser.parse_args(words)
    part = options.file.with_name(options.file.name + WHILE_WRITING)
    try:
        with house_from_stdin() as house:
            owner = angler_named(house.engine, options.angler)
            write_archive(house.engine, owner, part, run_dir=house.settings.run_dir, now=house.now(), progress=lambda share: None)
        part.replace(options.file)
    finally:
        part.unlink(missing_ok=True)
    print(f"{options.file}: {options.file.stat().st_size / 1e6:.1f} MB", file=sys.stderr)
    return 0
