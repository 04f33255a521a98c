"""`./lamp scenes`: the stock scenes."""

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.formats.scene.file import scene_schema
from mudlamp.services.water.sound import scene_rows


def run(words: list[str]) -> int:
    """List the stock scenes."""
    parser = Parser(prog="lamp scenes", description="The stock scenes.")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    parser.add_argument("--schema", action="store_true", help="the scene file's JSON schema instead")
    options = parser.parse_args(words)
    if options.schema:
        give(scene_schema(), as_json=True, lines=[])
        return 0
    rows = scene_rows()
    give({"scenes": rows}, as_json=options.json, lines=[f"{row.name}: {row.title}. {row.teaches}" for row in rows])
    return 0
