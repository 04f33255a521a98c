"""A set-up card on one sheet of paper, by a library of pure Python."""

from typing import TYPE_CHECKING

from mudlamp.web.tune.views import CardView

if TYPE_CHECKING:
    from fpdf import FPDF

MARGIN_MM = 12.0
# How high a step and a control's line are, and where what to look for begins.
STEP_MM, ROW_MM, CUE_MM = 12.0, 17.0, 124.0
# What the built-in fonts cannot print, and what stands for it.
PLAIN = {"→": "to", "±": "+/-", "°": " deg", "–": "-", "·": "-", "…": "...", "’": "'"}


def _plain(text: str) -> str:
    for letter, instead in PLAIN.items():
        text = text.replace(letter, instead)
    return text.encode("latin-1", "replace").decode("latin-1")


def card_pdf(view: CardView) -> bytes:
    """Return a card as the bytes of a PDF: one page of US letter, start values large enough for arm's length."""
    # Imported here: fonts are slow to load, and the first page shall not wait for them.
    from fpdf import FPDF

    paper = FPDF(format="letter", unit="mm")
    paper.set_auto_page_break(False)
    paper.set_margins(MARGIN_MM, MARGIN_MM)
    paper.add_page()
    paper.set_title(_plain(view.headline))
    paper.set_font("Helvetica", "B", 16)
    paper.multi_cell(0, 7, _plain(view.name or view.headline), new_x="LMARGIN", new_y="NEXT")
    paper.set_font("Helvetica", "", 10)
    paper.multi_cell(0, 5, _plain(f"{view.headline}. {view.style}. {view.lure} {view.at}"), new_x="LMARGIN", new_y="NEXT")
    for step in view.before:
        _step(paper, step.step, step.label, step.cue)
    for row in view.rows:
        _row(paper, row.step, row.label, row.start, row.theirs, row.band, row.cue)
    _step(paper, view.after.step, view.after.label, view.after.cue)
    paper.set_font("Helvetica", "I", 9)
    paper.multi_cell(0, 4, _plain(view.caution), new_x="LMARGIN", new_y="NEXT")
    return bytes(paper.output())


def _step(paper: "FPDF", number: int, label: str, cue: str) -> None:
    top = paper.get_y()
    paper.set_font("Helvetica", "B", 12)
    paper.cell(10, STEP_MM - 2.0, str(number))
    paper.cell(CUE_MM - 10.0, STEP_MM - 2.0, _plain(label))
    _cue(paper, cue, top, STEP_MM)


def _row(paper: "FPDF", number: int, label: str, start: str, theirs: str, band: str, cue: str) -> None:
    top = paper.get_y()
    paper.set_font("Helvetica", "B", 15)
    paper.cell(10, ROW_MM - 3.0, str(number))
    paper.cell(34, ROW_MM - 3.0, _plain(label))
    paper.set_font("Helvetica", "B", 26)
    paper.cell(40, ROW_MM - 3.0, _plain(start))
    paper.set_font("Helvetica", "", 10)
    for at, text in enumerate((f"band {band}" if band else "", f"yours: {theirs}"[:26] if theirs else "")):
        paper.set_xy(MARGIN_MM + 84.0, top + 2.0 + 5.0 * at)
        paper.cell(38, 5, _plain(text))
    _cue(paper, cue, top, ROW_MM)


def _cue(paper: "FPDF", cue: str, top: float, height: float) -> None:
    """Print what to look for on the right, and a rule under the line, which is at least so high [mm]."""
    paper.set_font("Helvetica", "", 9)
    paper.set_xy(MARGIN_MM + CUE_MM, top + 1.0)
    paper.multi_cell(0, 4, _plain(cue), align="L", new_x="LMARGIN", new_y="NEXT")
    bottom = max(paper.get_y(), top + height - 2.0)
    paper.set_draw_color(120)
    paper.line(MARGIN_MM, bottom, paper.w - MARGIN_MM, bottom)
    paper.set_y(bottom + 1.5)
