"""`./lamp bench`: the benchmark tables."""

from typing import Any

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.core.errors import DomainError
from mudlamp.formats.scene_file import load_scene
from mudlamp.services.bench import bench_engine, bench_tracker
from mudlamp.services.warm import warm_up

NAMES = ("engine", "tracker", "live")


def run(words: list[str]) -> int:
    """Measure what is asked for; all of it without a name."""
    parser = Parser(prog="lamp bench", description="Benchmarks: engine and tracker need no server; live starts one and a browser.")
    parser.add_argument("names", nargs="*", metavar="NAME", help="engine, tracker, live (default: all)")
    parser.add_argument("--scene", default="pear-tree", help="stock scene or scene file")
    parser.add_argument("--quick", action="store_true", help="at most 50 s")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    for name in options.names:
        if name not in NAMES:
            raise DomainError(f"bench is {name[:30]}: it must be one of {', '.join(NAMES)}")
    scene = load_scene(options.scene)
    answer: dict[str, Any] = {}
    for name in options.names or NAMES:
        if name == "live":
            from mudlamp.cli.browser import bench_live

            answer["live"] = bench_live(seconds=15.0 if options.quick else 40.0)
            continue
        warm_up()
        if name == "engine":
            answer["engine"] = bench_engine(scene, pings=60 if options.quick else 200)
        else:
            answer |= bench_tracker(scene, seeds=(1,) if options.quick else (1, 2, 3), seconds=45.0 if options.quick else 180.0)
    give(answer, as_json=options.json, lines=_lines(answer))
    return 0


def _lines(answer: dict[str, Any]) -> list[str]:
    lines = [
        f"engine {row['scene']} {row['reach_ft']:.0f} ft: {row['pings_per_s']} pings/s, sound allows {row['sound_limit_hz']}, ratio {row['ratio']}; "
        + ", ".join(f"{name} {value} ms" for name, value in row["stage_ms"].items())
        for row in answer.get("engine", [])
    ]
    lines += [
        f"tracker {row['scene']} seed {row['seed']}: GOSPA {row['gospa_m']} m, missed {row['missed']}, false {row['false']}"
        for row in answer.get("tracker", [])
    ]
    lines += [
        f"reaction {name}: F1 {row['f1']} (right {row['right']}, false {row['false']}, missed {row['missed']})"
        for name, row in answer.get("reactions", {}).items()
    ]
    if "live" in answer:
        lines += [f"live {name}: {value}" for name, value in answer["live"].items()]
    return lines
