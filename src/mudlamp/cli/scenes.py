"""`./lamp scenes`: the stock scenes."""

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.services.water import scene_rows


def run(words: list[str]) -> int:
    """List the stock scenes."""
    parser = Parser(prog="lamp scenes", description="The stock scenes.")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    rows = scene_rows()
    give({"scenes": rows}, as_json=options.json, lines=[f"{row['name']}: {row['title']}. {row['teaches']}" for row in rows])
    return 0
