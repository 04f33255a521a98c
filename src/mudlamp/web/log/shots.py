"""All shots as a list, and the search of the log."""

from collections.abc import Sequence
from dataclasses import dataclass
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.records.shots import FoundText, ShotLine
from mudlamp.core.texts import mended
from mudlamp.core.units import feet
from mudlamp.services.edge.weights import ounces
from mudlamp.services.log.shot_list import FIELDS, ShotPage
from mudlamp.services.words.log import SOURCE_WORDS, TOKEN_WORDS
from mudlamp.web.context import At, Who, render, whole_number
from mudlamp.web.form_views import FieldView, field_views
from mudlamp.web.times import when_with_year, zone

router = APIRouter(prefix="/log", include_in_schema=False)
MOST_PAGES = 100_000
# Where what was found stands, by its kind.
FOUND_ON = {
    "trip": "/log/trips/{}",
    "catch": "/log/catches/{}/edit",
    "spot": "/log/spots",
    "session": "/log/{}",
    "boat": "/log#boat",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class LineView:
    """A shot in the list."""

    page: str
    at: str
    title: str
    source: str
    out: str
    tackle: str
    lasted: str
    did: Sequence[str]
    outcome: str


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotsView:
    """The list: its form, its lines, where the other pages are."""

    fields: Sequence[FieldView]
    lines: Sequence[LineView]
    said: str
    newer: str
    older: str
    with_demo: bool
    is_narrowed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SearchView:
    """What was searched for, and found."""

    text: str
    found: Sequence[tuple[str, str, str, str, str]]


@router.get("/shots")
def shots(request: Request, house: At, who: Who, demo: bool = False) -> HTMLResponse:
    """Show all shots, narrowed and sorted as asked."""
    given = {mended(name): mended(value) for name, value in request.query_params.items()}
    page = min(whole_number(given.get("page", "")) or 0, MOST_PAGES)
    found = house.log.shots(who.owner, given, page=page, zone=zone(), with_demo=demo)
    return render(request, "log/shots.html", _view(found, with_demo=demo), status=422 if found.asked.problems else 200)


def _view(found: ShotPage, *, with_demo: bool) -> ShotsView:
    asked = {name: text for name, text in found.asked.texts.items() if text}

    def at_page(page: int) -> str:
        return "?" + urlencode(asked | ({"demo": "true"} if with_demo else {}) | {"page": page})

    return ShotsView(
        fields=field_views(FIELDS, found.asked.texts, found.asked.problems),
        lines=[_line(one) for one in found.lines],
        said=f"{found.count:,} shots{f', page {found.page + 1} of {found.pages}' if found.pages > 1 else ''}",
        newer=at_page(found.page - 1) if found.page else "",
        older=at_page(found.page + 1) if found.page + 1 < found.pages else "",
        with_demo=with_demo,
        is_narrowed=bool(asked),
    )


def _line(one: ShotLine) -> LineView:
    known = one.known
    head = ounces(one.head_kg) if one.head_kg > 0.0 else ""
    return LineView(
        page="/log#boat" if one.session_id is None else f"/log/{one.session_id}#shot-{one.number}",
        at=when_with_year(one.at),
        title=one.title,
        source=SOURCE_WORDS[one.source],
        out="–" if one.ahead_m is None else f"{feet(one.ahead_m):.0f} ft",
        tackle=" ".join(part for part in (head, str(known.get("color", "")), str(known.get("lure", ""))) if part),
        lasted="" if one.lasted_s is None else f"{one.lasted_s:.0f} s",
        did=[TOKEN_WORDS.get(token, token) for token in one.tokens],
        outcome=one.outcome or "",
    )


@router.get("/search")
def search(request: Request, house: At, who: Who, q: str = "") -> HTMLResponse:
    """Show what of the log holds some words."""
    text = mended(q)[:200]
    return render(request, "log/search.html", SearchView(text=text, found=[_found(one) for one in house.log.search(who.owner, text)]))


def _found(one: FoundText) -> tuple[str, str, str, str, str]:
    return FOUND_ON[one.kind].format(one.id), one.kind, one.name, one.more[:160], when_with_year(one.at)
