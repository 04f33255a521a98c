"""The review of all trips, and the last time like this, in words and plots."""

from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.errors import require_choice
from mudlamp.core.fishing.reviewing import SHOWN, Agreement, CastError, FactorRates, InForce, ValueRates
from mudlamp.core.units import feet
from mudlamp.services.edge.controls import of
from mudlamp.services.edge.forms import INCHES
from mudlamp.services.log.reviewing import LongReview
from mudlamp.services.words.deciding import OF_WORDS, STAGE_WORDS, all_words, rate_words
from mudlamp.services.words.fish import guessing_words
from mudlamp.services.words.log import SOURCE_WORDS
from mudlamp.web.context import At, Who, is_part, render
from mudlamp.web.times import local, zone

router = APIRouter(prefix="/log", include_in_schema=False)
# Lengths are drawn up to here [in].
LONGEST_IN = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class BarView:
    """A value of a factor at a stage: its words, and where the interval's bar lies [%]."""

    value: str
    rate: str
    low_pct: float
    wide_pct: float
    middle_pct: float


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorView:
    """A factor: its name, and of each stage its words and its bars."""

    name: str
    stages: Sequence[tuple[str, Sequence[BarView]]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShellView:
    """The page around the review: which source, which others there are."""

    source: str
    sources: Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class LongReviewView:
    """The review: sentences, factors, set-ups in force, guesses, casts."""

    shots: int
    findings: Sequence[str]
    factors: Sequence[FactorView]
    in_force: Sequence[tuple[str, str, str, str]]
    guesses: str
    by_echo: str
    points: Sequence[tuple[float, float, str]]
    casts: Sequence[tuple[str, str, float, float, float]]


@router.get("/review")
def review(request: Request, house: At, who: Who, source: str = "") -> HTMLResponse:
    """Show the review of a source; its figures come a moment later, by themselves."""
    there = house.review.sources(who.owner)
    wanted = source or (there[0] if there else "real")
    require_choice("source", wanted, ("real", "recorded", "simulated"))
    if is_part(request):
        return render(request, "log/_review.html", long_view(house.review.review(who.owner, who.client, wanted, zone())))
    return render(request, "log/review.html", ShellView(source=wanted, sources=[(name, SOURCE_WORDS[name]) for name in there]))


def long_view(one: LongReview) -> LongReviewView:
    """Return the review's view."""
    return LongReviewView(
        shots=one.shots,
        findings=all_words(one.findings, one.shots),
        factors=[_factor(each) for each in one.factors],
        in_force=[_in_force(each) for each in one.in_force],
        guesses=agreement_words(one.agreement),
        by_echo=guessing_words(one.by_echo),
        points=[
            (round(100.0 * INCHES.from_core(measured) / LONGEST_IN, 1), round(100.0 - 100.0 * INCHES.from_core(guess) / LONGEST_IN, 1), "")
            for guess, measured in one.lengths
        ],
        casts=_casts(one.casts),
    )


def _factor(one: FactorRates) -> FactorView:
    stages = [
        (f"{STAGE_WORDS[stage]}, {OF_WORDS[stage]}", [_bar(value, i) for value in one.values if value.counts[i].of])
        for i, stage in enumerate(SHOWN)
    ]
    return FactorView(name=one.factor, stages=stages)


def _bar(one: ValueRates, stage: int) -> BarView:
    rate = one.rates[stage]
    return BarView(
        value=one.value,
        rate=rate_words(rate, one.counts[stage]),
        low_pct=round(100.0 * rate.low, 1),
        wide_pct=round(100.0 * (rate.high - rate.low), 1),
        middle_pct=round(100.0 * rate.middle, 1),
    )


def _in_force(one: InForce) -> tuple[str, str, str, str]:
    control = of(one.control)
    return (
        f"{control.label} {control.shown(one.value)}",
        f"{one.minutes:.0f} min",
        f"{one.seen} came up, {one.seen_a_minute:.1f} a minute",
        f"{one.lost} lost",
    )


def agreement_words(one: Agreement) -> str:
    """Return how guessed lengths agree with measured ones, in a sentence."""
    if not one.is_told:
        return f"{one.pairs} fish with a guess and a measure: too few to say how good the guesses are."
    bias, low, high, spread = (INCHES.from_core(value) for value in (one.bias_m, one.low_m, one.high_m, one.spread_m))
    way = "long" if bias > 0.0 else "short"
    if low <= 0.0 <= high:
        return f"{one.pairs} fish: guesses are neither long nor short that chance does not explain; single ones stray by {spread:.1f} in."
    return f"{one.pairs} fish: guesses are {abs(bias):.1f} in too {way} ({min(abs(low), abs(high)):.1f} to {max(abs(low), abs(high)):.1f}); single ones stray by {spread:.1f} in."


def _casts(found: Sequence[CastError]) -> list[tuple[str, str, float, float, float]]:
    most = max((one.high_m for one in found), default=1.0) or 1.0
    return [
        (
            local(one.since).strftime("%b %-d, %Y"),
            f"{one.casts} casts: {feet(one.middle_m):.1f} ft off ({feet(one.low_m):.1f} to {feet(one.high_m):.1f})",
            round(100.0 * one.low_m / most, 1),
            round(100.0 * (one.high_m - one.low_m) / most, 1),
            round(100.0 * one.middle_m / most, 1),
        )
        for one in found
    ]
