"""`./lamp sim`: a recording of simulated water, and the truth beside it."""

import sys

from mudlamp.cli.arguments import Parser, ranged, settings
from mudlamp.cli.outputs import output, require_apart
from mudlamp.core.controls import STEADY, TRANSDUCER, WINDOW
from mudlamp.core.scene.world import first_acquisition
from mudlamp.core.sonar.transducer import changed
from mudlamp.services.edge.controls import EDGE, read_settings
from mudlamp.services.quarantine.inspect import strange_scene
from mudlamp.services.recordings.simulate import DEFAULT_PING_HZ, SECONDS, SEED, record_simulation

# What shapes a ping; Steady has no sounder's motion to level in a recording.
SETTABLE = (*WINDOW, *(control for control in TRANSDUCER if control is not STEADY))


def run(words: list[str]) -> int:
    """Simulate and record."""
    parser = Parser(prog="lamp sim", description="Simulate a scene into a recording (netCDF-4).")
    parser.add_argument("--scene", required=True, metavar="NAME|FILE.json", help="a stock scene (see ./lamp scenes) or a scene file")
    parser.add_argument("--seconds", type=ranged(*SECONDS, "s"), required=True, help="how long, 0.05 to 3600 s")
    parser.add_argument("--seed", type=ranged(*SEED, whole=True), required=True, help="whole number; the same seed gives the same bytes")
    parser.add_argument(
        "--ping-hz", type=ranged(0.5, 250.0, "Hz"), default=DEFAULT_PING_HZ, help="pings a second (default 15, at most c / 2R)"
    )
    parser.add_argument(
        "--set",
        nargs="*",
        action="extend",
        default=[],
        metavar="KEY=VALUE",
        help=" ".join(EDGE[control].name for control in SETTABLE),
    )
    parser.add_argument("--out", type=output(), required=True, help="the recording to write")
    parser.add_argument("--truth", type=output(), help="the truth file to write (.jsonl)")
    parser.add_argument("--hand", type=output(), help="what the angler's hand did, to write (.jsonl)")
    parser.add_argument("--compress", action="store_true", help="compress the recording (smaller, slower)")
    options = parser.parse_args(words)
    require_apart(out=options.out, truth=options.truth, hand=options.hand)
    scene = strange_scene(options.scene)
    wanted = read_settings(settings(options.set), SETTABLE, what="of the transducer")
    acquisition = changed(first_acquisition(scene), wanted, scene.transducer.shape)
    show = sys.stderr.isatty()

    def progress(share: float) -> None:
        if show:
            print(f"\rsimulating {share:.0%}", end="" if share < 1.0 else "\n", file=sys.stderr, flush=True)

    count = record_simulation(
        scene,
        seconds=options.seconds,
        seed=options.seed,
        ping_hz=options.ping_hz,
        acquisition=acquisition,
        out=options.out,
        truth=options.truth,
        hand=options.hand,
        compress=options.compress,
        progress=progress,
    )
    print(f"{count} pings in {options.out}", file=sys.stderr)
    return 0
