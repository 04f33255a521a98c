"""A set-up card on one sheet of paper: the sheet that the print page shows, by an engine that takes HTML and CSS."""

from collections.abc import Callable
from typing import Any

from mudlamp.core.errors import UnavailableError
from mudlamp.services.jobs import Turnstile
from mudlamp.web.context import HERE, templates
from mudlamp.web.tune.card_view import CardView

STATIC = HERE / "static"
# A sheet takes a processor for a second.
_PRESS = Turnstile("PDFs", at_once=1, waiting=4)


def card_pdf(view: CardView) -> bytes:
    """Return a card as the bytes of a PDF: one page of US letter; raise UnavailableError where the engine's libraries are missing."""
    try:
        # Imported here: fonts are slow to load, and the first page should not wait for them.
        from weasyprint import CSS, HTML
    except OSError as error:
        raise UnavailableError("PDFs need Debian's Pango libraries, which are missing here: print the page instead") from error
    with _PRESS.through():
        return _printed(view, HTML, CSS)


def _printed(view: CardView, html: Callable[..., Any], css: Callable[..., Any]) -> bytes:
    page = templates.get_template("tune/paper.html").render(view=view)
    content: bytes = html(string=page, base_url=STATIC.as_uri() + "/").write_pdf(stylesheets=[css(filename=STATIC / "sheet.css")])
    return content
