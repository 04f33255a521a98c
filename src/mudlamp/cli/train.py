"""`./lamp train`: learn anew what the tracker knows of kinds."""

import os
import sys
from collections.abc import Sequence
from pathlib import Path

import orjson
from pydantic import TypeAdapter

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import CLUSTER_HELP, Parser, ranged
from mudlamp.core.errors import DomainError
from mudlamp.formats.lateral import FILE, CurvesFile, write_curves
from mudlamp.formats.learned import shipped, write_learned
from mudlamp.services.errands import house_from_stdin
from mudlamp.services.training.corrections import corrections
from mudlamp.services.training.learn import Card, as_json, learn, learn_in_context
from mudlamp.services.training.samples import Samples
from mudlamp.services.training.search import Swept, drawn_share, measure
from mudlamp.services.training.waters import MOST_WATERS
from mudlamp.services.warm import warm_up

CARD = "kinds.json"


def run(words: list[str]) -> int:
    """Learn, and write the file that ships and its card."""
    parser = Parser(
        prog="lamp train", description="Learn on drawn waters; with the usual number one to three hours on two cores, by the machine."
    )
    parser.add_argument(
        "what",
        choices=["tracker", "search"],
        help="what is learned: the tracker's kinds, classes and lengths, or the lateral range curves of a search",
    )
    parser.add_argument(
        "--waters",
        type=ranged(8, MOST_WATERS, whole=True),
        default=400,
        help="how many drawn waters to learn on, from seed 1 on (default 400, what ships; every second one begun in the middle of the fishing; half as many again with all species as often, a quarter begun later once more, each twice more as other kinds; for context a third, as three kinds each; for a flat fan a quarter, as two)",
    )
    parser.add_argument("--seconds", type=ranged(5.0, 60.0, "s"), default=10.0, help="how long each is fished (default 10)")
    parser.add_argument(
        "--corrections",
        action="store_true",
        help="learn from what anglers corrected on this machine as well: marks that they said what they are",
    )
    parser.add_argument(
        "--only",
        choices=["context", "flat"],
        help="learn anew only what weighs kinds in context and tells the lure (about half an hour), or what weighs them under a flat fan (a quarter of an hour), on the kinds that are learned already",
    )
    parser.add_argument("--cluster", metavar="ADDRESS", help=CLUSTER_HELP)
    parser.add_argument("--json", action="store_true", help="answer with the card in JSON")
    options = parser.parse_args(words)
    if options.corrections and options.what != "tracker":
        parser.error("--corrections: anglers correct what a mark is: it goes with tracker alone")
    if options.only and (options.what != "tracker" or options.corrections):
        parser.error("--only: it goes with tracker alone, and without --corrections: kinds are learned from those")
    root = Path(os.environ.get("MUDLAMP_ROOT", "."))

    show = sys.stderr.isatty()

    def progress(share: float) -> None:
        if show:
            print(f"\rlearning {share:.0%}", end="" if share < 1.0 else "\n", file=sys.stderr, flush=True)

    if options.what == "search":
        workers = os.cpu_count() or 1
        curves = measure(workers=workers, progress=lambda share: progress(0.3 * share))
        share = drawn_share(curves, workers=workers, progress=lambda share: progress(0.3 + 0.7 * share))
        write_curves(root / "src" / "mudlamp" / "formats" / "learned_files" / FILE, CurvesFile(curves=curves, drawn_share=share))
        rows = [Swept(view=one.view.value, carrier_hz=one.carrier_hz, depth_m=one.depth_m, sweep_m=one.curve().sweep_m) for one in curves]
        give(
            rows,
            as_json=options.json,
            lines=[
                *(f"{one.view} {one.carrier_hz / 1000.0:.0f} kHz over {one.depth_m} m: sweep {one.sweep_m:.1f} m" for one in rows),
                f"on drawn waters {share:.0%} of what these promise is found",
            ],
        )
        return 0
    warm_up()
    corrected: Sequence[Samples] = ()
    if options.corrections:
        with house_from_stdin() as house:
            corrected = corrections(house.engine)
        if not corrected:
            raise DomainError("--corrections: nobody corrected a mark yet: tap one on Lamp and say what it is")
    to = root / "src" / "mudlamp" / "formats" / "learned_files"
    if options.only:
        before = TypeAdapter(Card).validate_json((to / CARD).read_bytes())
        learned, card = learn_in_context(
            shipped(),
            before,
            only=options.only,
            waters=options.waters,
            workers=os.cpu_count() or 1,
            cluster=options.cluster,
            progress=progress,
        )
    else:
        learned, card = learn(
            waters=options.waters,
            seconds=options.seconds,
            folder=root / ".run" / "learned",
            workers=os.cpu_count() or 1,
            corrections=corrected,
            cluster=options.cluster,
            progress=progress,
        )
    write_learned(to, learned)
    (to / CARD).write_bytes(orjson.dumps(as_json(card), option=orjson.OPT_INDENT_2) + b"\n")
    lines = [f"{name}: recall {one.recall:.2f}, precision {one.precision:.2f} of {one.samples}" for name, one in card.kinds.items()]
    lines += [
        f"{name} {where}: recall {one.recall:.2f}, precision {one.precision:.2f} of {one.samples}"
        for where, figures in (("in context", card.context), ("under a flat fan", card.flat))
        for name, one in figures.kinds.items()
        if one.samples
    ]
    lines.append(
        f"classes: macro F1 {card.classes.macro_f1} {card.classes.f1}, calibration error {card.classes.error} of {card.classes.samples}"
    )
    lines.append(
        f"lengths: median error {card.lengths.median_error:.0%} where told ({card.lengths.given:.0%} of {card.lengths.samples}),"
        f" 80 % intervals hold {card.lengths.held:.0%}"
    )
    give(
        card,
        as_json=options.json,
        lines=[
            *lines,
            f"calibration error {card.error:.3f}, in context {card.context.error:.3f}, under a flat fan {card.flat.error:.3f};"
            f" {card.learned_waters} waters learned, {card.context.waters} for context and {card.flat.waters} for a flat fan, {card.corrected} looks at corrected marks",
        ],
    )
    return 0
