"""`./lamp scenes`: the stock scenes."""

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.core.units import feet
from mudlamp.formats.scene_file import stock_scenes


def run(words: list[str]) -> int:
    """List the stock scenes."""
    parser = Parser(prog="lamp scenes", description="The stock scenes.")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    rows = [
        {
            "name": scene.name,
            "title": scene.title,
            "teaches": scene.teaches,
            "depth_ft": None if scene.depth_m is None else round(feet(scene.depth_m), 1),
            "reach_ft": round(feet(scene.transducer.reach_m), 1),
            "fish": scene.fish_count,
        }
        for scene in stock_scenes()
    ]
    give({"scenes": rows}, as_json=options.json, lines=[f"{row['name']}: {row['title']}. {row['teaches']}" for row in rows])
    return 0
