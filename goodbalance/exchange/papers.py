"""Papers that are taken away: a title, sections of lines and tables; written as PDF, or their tables as XLSX."""

import io
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

import segno
from openpyxl import Workbook
from openpyxl.styles import Alignment, Font
from reportlab.lib import colors
from reportlab.lib.pagesizes import A4
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Image, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

FONTS = Path(__file__).parent / "fonts"
REGULAR, BOLD = "GoodBalance", "GoodBalance-Bold"
MARGIN = 16 * mm
ONE_CELL = 700  # letters a cell of a page may hold
XLSX_CELL = 2000


@dataclass(frozen=True, slots=True)
class PaperTable:
    """A table: its heads, its rows as text, and how wide each column is beside the others."""

    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    widths: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class PaperSection:
    """A heading with lines and a table under it."""

    title: str
    lines: tuple[str, ...] = ()
    table: PaperTable | None = None


@dataclass(frozen=True, slots=True)
class Paper:
    """What is taken away. foot: on every page; code: a text that stands as QR beside the title."""

    title: str
    subtitle: str
    foot: str
    sections: tuple[PaperSection, ...] = field(default=())
    code: str = ""


@lru_cache(maxsize=1)
def _fonts() -> None:
    pdfmetrics.registerFont(TTFont(REGULAR, FONTS / "DejaVuSans.ttf"))
    pdfmetrics.registerFont(TTFont(BOLD, FONTS / "DejaVuSans-Bold.ttf"))
    pdfmetrics.registerFontFamily(REGULAR, normal=REGULAR, bold=BOLD)


def _style(name: str, size: float, bold: bool = False, after: float = 2.0) -> ParagraphStyle:
    return ParagraphStyle(name, fontName=BOLD if bold else REGULAR, fontSize=size, leading=size * 1.28, spaceAfter=after, spaceBefore=0.0)


def pdf_of(paper: Paper) -> bytes:
    """The paper on A4. The same paper always gives the same bytes but for the day in its head."""
    _fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=A4, leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN, bottomMargin=MARGIN + 6 * mm, title=paper.title, author="Good Balance", subject=paper.subtitle
    )

    def foot(canvas: Any, drawn: Any) -> None:
        canvas.saveState()
        canvas.setFont(REGULAR, 7.5)
        canvas.drawString(MARGIN, MARGIN - 2 * mm, paper.foot[:150])
        canvas.drawRightString(A4[0] - MARGIN, MARGIN - 2 * mm, f"page {drawn.page}")
        canvas.restoreState()

    document.build(list(_story(paper)), onFirstPage=foot, onLaterPages=foot)
    return out.getvalue()


def _story(paper: Paper) -> Iterator[Any]:
    head = [Paragraph(escape(paper.title), _style("title", 17, True)), Paragraph(escape(paper.subtitle), _style("under", 9.5))]
    if paper.code:
        side = 26 * mm
        yield Table([[head, Image(_qr(paper.code), side, side)]], colWidths=[A4[0] - 2 * MARGIN - side - 2 * mm, side + 2 * mm], style=TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)]))
    else:
        yield from head
    for section in paper.sections:
        yield Spacer(1, 3 * mm)
        yield Paragraph(escape(section.title), _style("section", 11.5, True))
        for line in section.lines:
            yield Paragraph(escape(line), _style("line", 9))
        if section.table is not None and section.table.rows:
            yield _table(section.table)


def _qr(text: str) -> io.BytesIO:
    drawn = io.BytesIO()
    segno.make(text, error="m", micro=False).save(drawn, kind="png", scale=6, border=2)
    drawn.seek(0)
    return drawn


def _table(table: PaperTable) -> Table:
    """Cells wrap; the head stands on every page."""
    small, head = _style("cell", 8, after=0.0), _style("head", 8, True, after=0.0)
    shares = table.widths or (1.0,) * len(table.heads)
    width = A4[0] - 2 * MARGIN
    rows = [[Paragraph(escape(text), head) for text in table.heads], *([Paragraph(escape(text[:ONE_CELL]), small) for text in row] for row in table.rows)]
    style = TableStyle([
        ("LINEBELOW", (0, 0), (-1, 0), 0.9, colors.black), ("LINEBELOW", (0, 1), (-1, -1), 0.3, colors.grey), ("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 2),
        ("RIGHTPADDING", (0, 0), (-1, -1), 2), ("TOPPADDING", (0, 0), (-1, -1), 1.5), ("BOTTOMPADDING", (0, 0), (-1, -1), 2),
    ])  # fmt: skip
    return Table(rows, colWidths=[width * share / sum(shares) for share in shares], repeatRows=1, style=style)


def xlsx_of(sheets: Sequence[tuple[str, PaperTable]]) -> bytes:
    """Tables as sheets of one workbook, every cell as text so that nothing is taken for a formula."""
    book = Workbook()
    book.remove(book.active)
    for title, table in sheets:
        sheet = book.create_sheet(title[:31])
        sheet.append(list(table.heads))
        for cell in sheet[1]:
            cell.font = Font(bold=True)
        for row in table.rows:
            sheet.append([text[:XLSX_CELL] for text in row])
            for cell in sheet[sheet.max_row]:
                cell.data_type = "s"
                cell.alignment = Alignment(wrap_text=True, vertical="top")
        for place, column in enumerate(sheet.columns):
            longest = max(len(str(cell.value or "")) for cell in column)
            sheet.column_dimensions[column[0].column_letter].width = min(60, max(9, longest + 2)) if place < len(table.heads) else 9
        sheet.freeze_panes = "A2"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def qr_svg(text: str) -> str:
    """A text as QR for a page."""
    return str(segno.make(text, error="m", micro=False).svg_inline(scale=3, border=2, dark="#000", light="#fff", omitsize=True))
