"""`./lamp bench`: the benchmark tables."""

import argparse
from typing import TYPE_CHECKING, Any

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.core.errors import DomainError, require_range
from mudlamp.formats.scene.file import LISTED
from mudlamp.services.bench.engine import bench_engine
from mudlamp.services.bench.following import bench_following, jobs_of
from mudlamp.services.bench.tracker import bench_tracker
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.quarantine.inspect import strange_scene
from mudlamp.services.recordings.simulate import SEED
from mudlamp.services.warm import warm_up

if TYPE_CHECKING:
    from mudlamp.services.bench.cards import TuneBench

NAMES = ("engine", "tracker", "tune", "live", "sessions", "soak", "faults")
# Without a name, all but those that take minutes.
USUAL = NAMES[:-2]
HEAVIEST = "winter-timber"


def run(words: list[str]) -> int:
    """Measure what is asked for; without a name, all that takes no minutes."""
    parser = Parser(
        prog="lamp bench",
        description="Benchmarks: engine, tracker and tune need no server; live starts one and a browser, sessions and soak one and plain viewers; faults attacks one of its own.",
    )
    parser.add_argument(
        "names", nargs="*", metavar="NAME", help="engine, tracker, tune, live, sessions, soak, faults (default: all but soak and faults)"
    )
    parser.add_argument("--scene", help=f"stock scene or scene file (default: pear-tree; engine also {HEAVIEST}, the heaviest)")
    parser.add_argument("--minutes", type=float, default=10.0, help="how long the soak and the faults run (default: 10)")
    parser.add_argument("--quick", action="store_true", help="each at most 50 s")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    parser.add_argument("--scenes", nargs="*", metavar="S", help="tracker: the scenes to follow fish on (default: all stock scenes)")
    parser.add_argument(
        "--seeds", default="900:912", metavar="FROM:TO", help="tracker: the drawn waters to follow fish on (default 900:912)"
    )
    options = parser.parse_args(words)
    for name in options.names:
        if name not in NAMES:
            raise DomainError(f"bench is {name[:30]}: it must be one of {', '.join(NAMES)}")
    require_range("minutes", options.minutes, 0.1, 600.0, "min")
    answer: dict[str, Any] = {}
    for name in options.names or USUAL:
        answer |= _measured(name, options)
    give(answer, as_json=options.json, lines=_lines(answer))
    return 0


def _measured(name: str, options: argparse.Namespace) -> dict[str, Any]:
    quick: bool = options.quick
    if name in ("engine", "tracker"):
        warm_up()
        scenes = [strange_scene(one) for one in ([options.scene] if options.scene else ["pear-tree", HEAVIEST])]
        if name == "engine":
            return {"engine": [row for scene in scenes for row in bench_engine(scene, pings=30 if quick else 200)]}
        quick_seeds = _seeds(options.seeds)[:4] if quick else _seeds(options.seeds)
        named = LISTED if options.scenes is None else options.scenes
        jobs = jobs_of(
            [strange_scene(one) for one in (named[:4] if quick else named)],
            quick_seeds,
            seconds=10.0 if quick else 30.0,
            drawn=True,
        )
        following = bench_following(jobs)
        found = bench_tracker(scenes[0], seeds=(1,) if quick else (1, 2, 3), seconds=45.0 if quick else 180.0)
        return {"following": following, "tracker": found.tracker, "reactions": found.reactions, "macro_f1": found.macro_f1}
    if name == "tune":
        # Imported here: its optimizer takes a while to load.
        from mudlamp.services.bench.cards import bench_tune

        warm_up()
        quick_scenes = ["pear-tree", "mud-flat", "clear-deep"]
        return {
            "tune": bench_tune([strange_scene(one) for one in ([options.scene] if options.scene else quick_scenes if quick else LISTED)])
        }
    if name == "live":
        from mudlamp.cli.browser import bench_live

        return {"live": bench_live(seconds=9.0 if quick else 40.0)}
    from mudlamp.cli import load

    if name == "faults":
        # Imported here: it needs a client's libraries that no other bench does.
        from mudlamp.cli.faults import bench_faults

        return {"faults": bench_faults(minutes=options.minutes, quick=quick)}
    if name == "sessions":
        return {"sessions": load.bench_sessions(seconds=15.0 if quick else 60.0)}
    return {"soak": load.bench_soak(minutes=options.minutes, quick=quick)}


def _seeds(text: str) -> list[int]:
    """Return the seeds from one up to another, that left out; raise DomainError for what is none."""
    first, _, last = text.partition(":")
    if not (first.isdecimal() and last.isdecimal() and int(first) < int(last) <= SEED[1]):
        raise DomainError(f"seeds is {text[:30]}: it must be two whole numbers, the lower first, such as 900:912")
    return list(range(int(first), int(last)))


def _lines(answer: dict[str, Any]) -> list[str]:
    lines = [
        f"engine {row.scene} {row.reach_ft:.0f} ft: {row.pings_per_s} pings/s, sound allows {row.sound_limit_hz}, ratio {row.ratio}; "
        + ", ".join(f"{name} {value} ms" for name, value in row.stage_ms.items())
        for row in answer.get("engine", [])
    ]
    for name, row in answer.get("following", {}).items():
        for what, figures in (("hand told", row.with_hand), ("pings alone", row.from_pings)):
            lines.append(f"follow {name} ({row.waters}), {what}: " + ", ".join(f"{key} {value}" for key, value in figures.items()))
    lines += [
        f"tracker {row.scene} seed {row.seed}: GOSPA {row.gospa_m} m, missed {row.missed}, false {row.false}"
        for row in answer.get("tracker", [])
    ]
    lines += [
        f"reaction {name}: F1 {row.f1} (right {row.right}, false {row.false}, missed {row.missed})"
        for name, row in answer.get("reactions", {}).items()
    ]
    lines += _tune_lines(answer["tune"]) if "tune" in answer else []
    for bench in ("live", "sessions", "soak", "faults"):
        lines += [f"{bench} {name}: {value}" for name, value in answer.get(bench, {}).items()]
    return lines


def _tune_lines(tune: "TuneBench") -> list[str]:
    lines = [
        f"tune {row.scene}: mid-band {row.mid_band}, auto-tune {row.tuned} ({row.better_pct:+.1f} %) in {row.seconds} s;"
        f" {LABELS['gain']} starts at {row.start_gain:.0f}"
        for row in tune.scenes
    ]
    costs = f"a plan in {tune.plan_ms} ms, its costs in {tune.costs_s} s"
    return [*lines, f"tune: {costs}; better on {tune.won} of {tune.of}, worst {tune.worst_pct:+.1f} %"]
