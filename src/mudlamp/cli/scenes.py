"""`./lamp scenes`: the stock scenes, and waters drawn from a seed."""

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, ranged
from mudlamp.cli.outputs import output
from mudlamp.core.scene.draw import draw_water
from mudlamp.formats.scene.file import scene_schema, scene_text
from mudlamp.formats.scene.write import file_of
from mudlamp.services.recordings.simulate import SEED
from mudlamp.services.water.sound import row_of, scene_rows


def run(words: list[str]) -> int:
    """List the stock scenes, or draw a water."""
    parser = Parser(prog="lamp scenes", description="The stock scenes; with --draw a water of a seed.")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    parser.add_argument("--schema", action="store_true", help="the scene file's JSON schema instead")
    parser.add_argument("--draw", type=ranged(*SEED, whole=True), metavar="SEED", help="draw the water of a seed instead")
    parser.add_argument("--out", type=output(), metavar="FILE.json", help="write the drawn water as a scene file")
    options = parser.parse_args(words)
    if options.out is not None and options.draw is None:
        parser.error("argument --out is given without --draw: it must go with a seed to draw")
    if options.schema:
        give(scene_schema(), as_json=True, lines=[])
        return 0
    if options.draw is not None:
        scene = draw_water(options.draw).scene
        if options.out is not None:
            options.out.write_text(scene_text(file_of(scene)))
        rows = [row_of(scene)]
    else:
        rows = scene_rows()
    give({"scenes": rows}, as_json=options.json, lines=[f"{row.name}: {row.title}. {row.teaches}".strip() for row in rows])
    return 0
