"""A set-up card on one sheet of paper: the sheet that the print page shows, by an engine that takes HTML and CSS."""

import base64
from collections.abc import Callable, Mapping
from typing import Any

from mudlamp.core.errors import UnavailableError
from mudlamp.services.jobs import Turnstile
from mudlamp.web.context import HERE, templates
from mudlamp.web.tune.card_view import CardView, LookView

STATIC = HERE / "static"
# A sheet takes a processor for a second.
_PRESS = Turnstile("PDFs", at_once=1, waiting=4)


def card_pdf(view: CardView, picture: Callable[[LookView], bytes]) -> bytes:
    """Return a card as the bytes of a PDF: one page of US letter, its small pictures, as PNGs, inside.

    Raises UnavailableError where the engine's libraries are missing.
    """
    try:
        # Imported here: fonts are slow to load, and the first page should not wait for them.
        from weasyprint import CSS, HTML
    except OSError as error:
        raise UnavailableError("PDFs need Debian's Pango libraries, which are missing here: print the page instead") from error
    with _PRESS.through():
        inline = {
            look.src: f"data:image/png;base64,{base64.b64encode(picture(look)).decode()}"
            for row in view.rows
            if not row.at_rest
            for look in row.looks
        }
        return _printed(view, inline, HTML, CSS)


def _printed(view: CardView, inline: Mapping[str, str], html: Callable[..., Any], css: Callable[..., Any]) -> bytes:
    page = templates.get_template("tune/paper.html").render(view=view, inline=inline)
    content: bytes = html(string=page, base_url=STATIC.as_uri() + "/").write_pdf(stylesheets=[css(filename=STATIC / "sheet.css")])
    return content
