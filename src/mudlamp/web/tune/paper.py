"""A set-up card on one sheet of paper: the sheet that the print page shows, by an engine that takes HTML and CSS."""

from mudlamp.core.errors import UnavailableError
from mudlamp.web.context import HERE, templates
from mudlamp.web.tune.card_view import CardView

STATIC = HERE / "static"


def card_pdf(view: CardView) -> bytes:
    """Return a card as the bytes of a PDF: one page of US letter; raise UnavailableError where the engine's libraries are missing."""
    try:
        # Imported here: fonts are slow to load, and the first page should not wait for them.
        from weasyprint import CSS, HTML
    except OSError as error:
        raise UnavailableError("PDFs need Debian's Pango libraries, which are missing here: print the page instead") from error
    page = templates.get_template("tune/paper.html").render(view=view)
    content: bytes = HTML(string=page, base_url=STATIC.as_uri() + "/").write_pdf(stylesheets=[CSS(filename=STATIC / "sheet.css")])
    return content
