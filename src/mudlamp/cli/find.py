"""`./lamp find`: search along a path, into a recording; what it found by the truth."""

import sys
from pathlib import Path

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser, ranged
from mudlamp.cli.outputs import output
from mudlamp.core.units import FOOT_M, MPH_M_S
from mudlamp.services.find.record import default_views, read_path, search_along
from mudlamp.services.find.waters import DEMO, reach_named
from mudlamp.services.recordings.simulate import SEED


def run(words: list[str]) -> int:
    """Search, and record."""
    parser = Parser(
        prog="lamp find", description="Idle along a path over a reach of water with the console's views open, into a recording."
    )
    parser.add_argument("--scene", default=DEMO, metavar="NAME", help=f"{DEMO} (the demo's), or drawn-SEED, drawn-SEED-winter ...")
    parser.add_argument("--path", type=Path, required=True, metavar="FILE.geojson", help="where to go: the file's first LineString")
    parser.add_argument(
        "--views", default="scrolling,side", help="some of scrolling, down, side, with commas between (default: scrolling,side)"
    )
    parser.add_argument("--speed-mph", type=ranged(1.0, 8.0, "mph"), default=4.2, help="how fast, 1 to 8 mph (default 4.2)")
    parser.add_argument("--side-reach-ft", type=ranged(15.0, 190.0, "ft"), default=100.0, help="how far to each side (default 100)")
    parser.add_argument("--down-reach-ft", type=ranged(15.0, 190.0, "ft"), default=45.0, help="how far down (default 45)")
    parser.add_argument("--seed", type=ranged(*SEED, whole=True), default=1, help="whole number; the same seed gives the same bytes")
    parser.add_argument("--out", type=output(), required=True, help="the recording to write (netCDF-4, a group a view)")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = parser.parse_args(words)
    reach = reach_named(options.scene)
    places = read_path(options.path, reach)
    views = default_views(
        options.views.split(","), side_reach_m=options.side_reach_ft * FOOT_M, down_reach_m=options.down_reach_ft * FOOT_M
    )
    show = sys.stderr.isatty()

    def progress(share: float) -> None:
        if show:
            print(f"\rsearching {share:.0%}", end="" if share < 1.0 else "\n", file=sys.stderr, flush=True)

    found = search_along(
        reach, places, views, speed_m_s=options.speed_mph * MPH_M_S, seed=int(options.seed), out=options.out, progress=progress
    )
    give(
        found,
        as_json=options.json,
        lines=[
            f"{found.pings} pings over {found.length_ft:.0f} ft in {found.seconds / 60.0:.1f} min, in {options.out}",
            f"{found.found} of {found.schools} schools were shown in three columns: "
            + ", ".join(f"{name} {count}" for name, count in found.found_by.items()),
        ],
    )
    return 0
