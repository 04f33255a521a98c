"""`./lamp bench`: the benchmark tables."""

import argparse
import os
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import CLUSTER_HELP, Parser
from mudlamp.core.errors import DomainError, require_range
from mudlamp.formats.scene.file import LISTED
from mudlamp.services.bench.engine import bench_engine
from mudlamp.services.bench.following import Job, bench_following, jobs_of
from mudlamp.services.bench.reactions import ReactionBench, bench_reactions, reaction_jobs
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.quarantine.inspect import strange_scene
from mudlamp.services.recordings.simulate import SEED
from mudlamp.services.warm import warm_up

if TYPE_CHECKING:
    from mudlamp.services.bench.cards import TuneBench
    from mudlamp.services.bench.compared import Comparison

NAMES = ("engine", "tracker", "class", "reactions", "casts", "tune", "find", "log", "live", "sessions", "soak", "faults")
# Without a name, those that take no minutes.
USUAL = ("engine", "tune", "live", "sessions")
HEAVIEST = "winter-timber"


def run(words: list[str]) -> int:
    """Measure what is asked for; without a name, all that takes no minutes."""
    parser = Parser(
        prog="lamp bench",
        description="Benchmarks: engine, tracker, class, reactions, casts, tune and find need no server; live starts one and a browser, log, sessions and soak one; faults attacks one of its own.",
    )
    parser.add_argument(
        "names",
        nargs="*",
        metavar="NAME",
        help="engine, tracker, class, reactions, casts, tune, find, log, live, sessions, soak, faults (default: engine, tune, live, sessions; the others take minutes)",
    )
    parser.add_argument("--scene", help=f"stock scene or scene file (default: pear-tree; engine also {HEAVIEST}, the heaviest)")
    parser.add_argument("--minutes", type=float, default=10.0, help="how long the soak and the faults run (default: 10)")
    parser.add_argument("--quick", action="store_true", help="each at most 50 s")
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    parser.add_argument(
        "--scenes", nargs="*", metavar="S", help="tracker: the scenes to follow fish on (default: all stock scenes); class: more of them"
    )
    parser.add_argument("--cluster", metavar="ADDRESS", help=CLUSTER_HELP)
    parser.add_argument(
        "--seeds",
        metavar="FROM:TO",
        help="the drawn waters: tracker, class (default 900:912); casts (default 900:960); reactions, as many of them as it takes (default 900:1100); tune: cards of random answers instead of stock scenes",
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
    if name == "engine":
        warm_up()
        scenes = [options.scene] if options.scene else ["pear-tree", HEAVIEST]
        return {"engine": [row for scene in scenes for row in bench_engine(strange_scene(scene), pings=30 if quick else 200)]}
    if name == "tracker":
        return _tracker(options)
    if name == "class":
        # Imported here: the library that it was learned with comes with what the tests need.
        from mudlamp.services.bench.classes import bench_classes

        return {"class": bench_classes(_jobs(options, scenes=(), seconds=12.0 if quick else 20.0), cluster=options.cluster)}
    if name == "reactions":
        warm_up()
        seeds = _seeds(options.seeds or ("900:906" if quick else "900:1100"))
        return {"reactions": bench_reactions(reaction_jobs(seeds, seconds=20.0 if quick else 60.0), cluster=options.cluster)}
    if name == "casts":
        # Imported here: the other benches do without it.
        from mudlamp.services.bench.casts import bench_casts

        return {"casts": bench_casts(_seeds(options.seeds or ("900:912" if quick else "900:960")), cluster=options.cluster)}
    if name == "find":
        # Imported here: the other benches do without it.
        from mudlamp.services.bench.finding import bench_find

        seeds = _seeds(options.seeds or ("950:952" if quick else "950:960"))
        return {"find": bench_find(seeds, quick=quick, workers=os.cpu_count() or 1)}
    if name == "tune":
        # Imported here: its optimizer takes a while to load.
        from mudlamp.services.bench.cards import bench_tune

        warm_up()
        if options.seeds:
            from mudlamp.services.bench.advice import bench_advice

            return {"advice": bench_advice(_seeds(options.seeds), cluster=options.cluster)}
        quick_scenes = ["pear-tree", "mud-flat", "clear-deep"]
        return {
            "tune": bench_tune([strange_scene(one) for one in ([options.scene] if options.scene else quick_scenes if quick else LISTED)])
        }
    if name == "log":
        from mudlamp.cli.log_load import bench_log

        return {"log": bench_log(quick=quick)}
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


def _jobs(options: argparse.Namespace, *, scenes: Sequence[str], seconds: float) -> list[Job]:
    """Return the waters that are asked for: some scenes where none are named, and the drawn ones."""
    warm_up()
    named = scenes if options.scenes is None else options.scenes
    seeds, most = _seeds(options.seeds or "900:912"), 4 if options.quick else None
    return jobs_of([strange_scene(one) for one in named[:most]], seeds[:most], seconds=seconds, drawn=True)


def _tracker(options: argparse.Namespace) -> dict[str, Any]:
    quick: bool = options.quick
    jobs = _jobs(options, scenes=LISTED, seconds=10.0 if quick else 30.0)
    answer: dict[str, Any] = {"following": bench_following(jobs, cluster=options.cluster)}
    stock = [job.scene for job in jobs if not job.drawn]
    if stock and not quick:
        # Imported here: the library comes with what the tests need. It takes a second a ping.
        from mudlamp.services.bench.compared import compare

        answer["compared"] = compare(stock, seed=jobs[0].seed, seconds=8.0, cluster=options.cluster)
    return answer


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
    lines += _compared_lines(answer["compared"]) if "compared" in answer else []
    lines += _reaction_lines(answer["reactions"]) if "reactions" in answer else []
    if "class" in answer:
        row = answer["class"]
        lines.append(
            f"class: macro F1 {row.macro_f1} of {row.tracks} tracks, calibration error {row.error}; "
            + ", ".join(f"{name} {value}" for name, value in row.f1.items())
        )
    if "casts" in answer:
        row = answer["casts"]
        lines.append(f"casts: {row.arrived:.0%} of {row.throws} lures arrive on {row.waters} waters; thrown without advice {row.naive:.0%}")
    if "find" in answer:
        row = answer["find"]
        lines += [
            f"find: {row.ping_ms} ms a ping with three views, {row.pace} times the water's pace on one core; ten minutes' water in {row.ten_minutes_s} s (bar 120);"
            f" {row.gained_mb} MB gained over {row.water_minutes} min",
            f"find on {row.waters} waters with {row.schools} schools: plans showed {row.plan_found} in {row.plan_minutes} min, straight down the middle"
            f" {row.middle_found} in {row.middle_minutes}: {row.times_a_minute} times as many a minute (bar 1.3)",
        ]
    if "advice" in answer:
        row = answer["advice"]
        lines += [
            f"advice on {row.cards} cards: {row.printed_right:.0%} of {row.printed} printed costs hold on fresh waters (bar 95 %);"
            f" of {row.large} true differences of 2 dB {row.large_printed:.0%} are printed (bar 70 %)",
            f"advice, faults dialed in: {row.faults_first:.0%} are named first (bar 15 of 16)",
            f"advice, auto-tune: where a search there finds 2 points ({row.found} cards), it gains half of them on {row.half_found:.0%} (bar 80 %)",
            f"advice, auto-tune: gains {row.gained_mean} points on fresh waters; its claim is off by {row.claim_off_median} (median, bar 1.5),"
            f" {row.claim_off_most} at most; worse than the start by more than 2 in {row.worse_than_start:.0%} (bar 5 %)",
            f"advice, start against mid-band at the same {LABELS['punch']}: {row.start_over_mid_mean:+} on the mean (bar +1.5), {row.start_over_mid_least:+} at least (bar -2)",
            f"advice, {row.cues} cues followed by eye: {row.cues_in_band:.0%} end within the band; lost {row.cue_lost_median} points (median, bar 1),"
            f" {row.cue_lost_nine_in_ten} in nine of ten at most (bar 2)",
        ]
    lines += _tune_lines(answer["tune"]) if "tune" in answer else []
    for bench in ("log", "live", "sessions", "soak", "faults"):
        lines += [f"{bench} {name}: {value}" for name, value in answer.get(bench, {}).items()]
    return lines


def _compared_lines(compared: "Comparison") -> list[str]:
    lines = [
        f"compared {name}: " + ", ".join(f"{who} GOSPA {one.gospa_m} m HOTA {one.hota}" for who, one in row.items())
        for name, row in {**compared.scenes, "mean": compared.mean}.items()
    ]
    return [*lines, f"compared: ours has the lowest GOSPA in {compared.won} of {len(compared.scenes)}"]


def _reaction_lines(found: ReactionBench) -> list[str]:
    lines = [
        f"reaction {name}: F1 {row.f1_visible} of {row.visible} visible, {row.f1_full} of all {row.full}, {row.f1_tracked} of {row.tracked} followed;"
        f" precision {row.precision} of {row.claims} claims"
        for name, row in found.tokens.items()
    ]
    return [
        *lines,
        f"reactions on {found.waters} waters, {found.minutes} min: macro F1 {found.macro_f1_visible} visible, {found.macro_f1_full} full,"
        f" {found.macro_f1_tracked} followed; precision {found.precision}, median error {found.median_error_s} s,"
        f" told within 1 s {found.told_within_1_s}; with nothing to tell {found.null_claims_in_30_min} claims in 30 min",
        *([f"reactions: under 40 visible cases of {', '.join(found.short)}"] if found.short else []),
    ]


def _tune_lines(tune: "TuneBench") -> list[str]:
    lines = [
        f"tune {row.scene}: mid-band {row.mid_band}, auto-tune {row.tuned} ({row.better_pct:+.1f} %) in {row.seconds} s;"
        f" {LABELS['gain']} starts at {row.start_gain:.0f}"
        for row in tune.scenes
    ]
    costs = f"a plan in {tune.plan_ms} ms, its costs in {tune.costs_s} s"
    return [*lines, f"tune: {costs}; better on {tune.won} of {tune.of}, worst {tune.worst_pct:+.1f} %"]
