"""A set-up card on one sheet of paper, by a library of pure Python."""

from fpdf import FPDF
from fpdf.enums import XPos, YPos

from mudlamp.web.tune_views import CardView

MARGIN_MM = 12.0
# What the built-in fonts cannot print, and what stands for it.
PLAIN = {"→": "to", "±": "+/-", "°": " deg", "–": "-", "·": "-", "…": "...", "’": "'"}


def _plain(text: str) -> str:
    for letter, instead in PLAIN.items():
        text = text.replace(letter, instead)
    return text.encode("latin-1", "replace").decode("latin-1")


def card_pdf(view: CardView) -> bytes:
    """Return a card as the bytes of a PDF: one page of US letter, start values large enough for arm's length."""
    paper = FPDF(format="letter", unit="mm")
    paper.set_auto_page_break(False)
    paper.set_margins(MARGIN_MM, MARGIN_MM)
    paper.add_page()
    paper.set_title(_plain(view.headline))
    paper.set_font("Helvetica", "B", 16)
    paper.multi_cell(0, 7, _plain(view.name or view.headline), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    paper.set_font("Helvetica", "", 10)
    paper.multi_cell(0, 5, _plain(f"{view.headline}. {view.style}. {view.lure} {view.at}"), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    for step in view.before:
        _step(paper, step.step, step.label, step.cue)
    for row in view.rows:
        _row(paper, row.step, row.label, row.start, row.theirs, row.band, row.cue)
    _step(paper, view.after.step, view.after.label, view.after.cue)
    paper.set_font("Helvetica", "I", 8)
    paper.multi_cell(0, 4, _plain(view.caution), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    return bytes(paper.output())


def _step(paper: FPDF, number: int, label: str, cue: str) -> None:
    paper.set_font("Helvetica", "B", 11)
    paper.cell(10, 8, str(number))
    paper.cell(66, 8, _plain(label))
    paper.set_font("Helvetica", "", 8)
    paper.multi_cell(0, 4, _plain(cue), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    _rule(paper)


def _row(paper: FPDF, number: int, label: str, start: str, theirs: str, band: str, cue: str) -> None:
    top = paper.get_y()
    paper.set_font("Helvetica", "B", 13)
    paper.cell(10, 10, str(number))
    paper.cell(32, 10, _plain(label))
    paper.set_font("Helvetica", "B", 20)
    paper.cell(34, 10, _plain(start))
    paper.set_font("Helvetica", "", 10)
    paper.cell(44, 5, _plain(band and f"band {band}"))
    paper.set_xy(MARGIN_MM + 76, top + 5)
    paper.cell(44, 5, _plain(theirs and f"yours: {theirs}")[:34])
    paper.set_xy(MARGIN_MM + 122, top)
    paper.set_font("Helvetica", "", 8)
    paper.multi_cell(0, 4, _plain(cue), new_x=XPos.LMARGIN, new_y=YPos.NEXT)
    paper.set_y(max(paper.get_y(), top + 11))
    _rule(paper)


def _rule(paper: FPDF) -> None:
    paper.set_draw_color(120)
    paper.line(MARGIN_MM, paper.get_y() + 0.6, paper.w - MARGIN_MM, paper.get_y() + 0.6)
    paper.ln(1.6)
