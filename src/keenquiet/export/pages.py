"""Pages of print: our typeface, text in one line and wrapped, bars to scale. Shared by every PDF."""

from collections.abc import Sequence
from importlib import resources
from io import BytesIO
from typing import Final

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.cidfonts import UnicodeCIDFont
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from keenquiet.documents.plain import one_line

INK: Final = "#20242b"
PALE: Final = "#4c4f55"
LEFT, RIGHT = 18 * mm, A4[0] - 18 * mm
REGULAR, BOLD, EAST = "KQ", "KQ-Bold", "STSong-Light"


def fonts() -> None:
    """Registers our typeface once."""
    if REGULAR in pdfmetrics.getRegisteredFontNames():
        return
    folder = resources.files("keenquiet.export") / "fonts"
    for name, file in ((REGULAR, "regular"), (BOLD, "bold")):
        with resources.as_file(folder / f"atkinson-hyperlegible-next-{file}.ttf") as path:
            pdfmetrics.registerFont(TTFont(name, str(path)))
    pdfmetrics.registerFont(UnicodeCIDFont(EAST))


def font_for(text: str, *, bold: bool) -> str:
    """Ours where it has every letter; else one that readers of PDF bring for the scripts of East Asia."""
    face = pdfmetrics.getFont(REGULAR).face  # type: ignore[attr-defined]
    known = all(ord(letter) in face.charToGlyph for letter in text)
    return (BOLD if bold else REGULAR) if known else EAST


def canvas(out: BytesIO, title: str) -> Canvas:
    """An empty page of A4 that says what it is and when it was printed."""
    page = Canvas(out, pagesize=A4)
    page.setTitle(one_line(title))
    page.setAuthor("Keen Quiet")
    page.setCreator("Keen Quiet")
    return page


def put(page: Canvas, x: float, y: float, text: str, size: float, *, bold: bool = False, ink: str = INK) -> None:
    """One line of text from x on."""
    words = one_line(text)
    page.setFillColor(ink)
    page.setFont(font_for(words, bold=bold), size)
    page.drawString(x, y, words)


def put_right(page: Canvas, x: float, y: float, text: str, size: float, *, bold: bool = False) -> None:
    """One line of text that ends at x."""
    words = one_line(text)
    page.setFillColor(INK)
    page.setFont(font_for(words, bold=bold), size)
    page.drawRightString(x, y, words)


def wrapped(texts: Sequence[str], size: float, width: float = RIGHT - LEFT) -> list[str]:
    """Texts in lines of a width."""
    lines: list[str] = []
    for text in texts:
        line = ""
        for word in text.split():
            longer = f"{line} {word}".strip()
            if pdfmetrics.stringWidth(longer, REGULAR, size) > width:
                lines.append(line)
                line = word
            else:
                line = longer
        lines.append(line)
    return lines
