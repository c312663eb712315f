"""Pages of finished PDFs as pictures: vectors stay vectors where the output is a PDF, too."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING, Final

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture, png_picture
from fleetquill.errors import OptionError, SourceError
from fleetquill.pdf.finished import FinishedPage
from fleetquill.pdf.reading import PdfReader
from fleetquill.pdf.syntax import DAMAGE
from fleetquill.units import POINTS_PER_INCH, POINTS_PER_PX

if TYPE_CHECKING:
    from fleetquill.drawing.canvas import Canvas

START: Final = b"%PDF-"
BEGINNING: Final = 1024  # bytes within which that stands
WANTED: Final = re.compile(r"(?:^|[#&])page=(\d+)")  # of an address's fragment (ISO 32000-2 annex O)
FINE: Final = 200.0  # dots an inch of a page that is made pixels
MOST_PIXELS: Final = 40_000_000


def is_finished(content: bytes) -> bool:
    """Whether a file is a PDF."""
    return START in content[:BEGINNING]


def page_drawing(content: bytes, address: str) -> Drawing | str:
    """The page of a file that an address names, '…#page=2', else the first; a message where it cannot be shown."""
    page = finished_page(content, address)
    if isinstance(page, str):
        return page
    wide, high = page.size
    drawing = Drawing(wide / POINTS_PER_PX, high / POINTS_PER_PX)
    drawing.finished_page(page, 0.0, 0.0, drawing.width, drawing.height)
    if page.has_more:
        drawing.note("Fields, links and notes on a page of a finished file are left out.")
    return drawing


def finished_page(content: bytes, address: str) -> FinishedPage | str:
    found = WANTED.search(address.partition("#")[2])
    wanted = int(found[1]) if found is not None else 1
    name = address.partition("#")[0]
    try:
        reader = PdfReader(content, name)
        pages = list(reader.pages())
    except (SourceError, OptionError) as error:
        return f"{error.what} {error.remedy}".rstrip()
    except DAMAGE as error:
        return f"The PDF is damaged: {error}"
    if not 1 <= wanted <= len(pages):
        return f"The PDF has no page {wanted}: it has {len(pages)}."
    return FinishedPage(reader, pages[wanted - 1], name)


def page_picture(page: FinishedPage, dpi: float = FINE, *, fields: bool = False) -> Picture:
    """A page as pixels, for what cannot hold it otherwise, with its `fields` or without. Raises OptionError where what
    draws it is not installed."""
    try:
        import pypdfium2
    except ImportError as error:
        raise OptionError(
            "A page of a PDF in a file of another kind needs the package pypdfium2.",
            remedy='Install "fleetquill[pages]".',
        ) from error
    wide, high = page.size
    scale = min(dpi / POINTS_PER_INCH, (MOST_PIXELS / max(1.0, wide * high)) ** 0.5)
    try:
        document = pypdfium2.PdfDocument(page.reader.content, password=page.reader.password)
        if fields:
            document.init_forms()
        image = document[page.page.number - 1].render(scale=scale, fill_color=(0, 0, 0, 0), may_draw_forms=fields)
        return png_picture(image.to_pil().convert("RGBA"), wide / POINTS_PER_PX, high / POINTS_PER_PX, effort=6)
    except pypdfium2.PdfiumError as error:
        raise SourceError(f"A page of '{page.name}' cannot be drawn ({error}).") from error


def draw_pixels(canvas: Canvas, page: FinishedPage, x: float, y: float, width: float, height: float) -> None:
    """Draws a page on what can only hold its pixels."""
    canvas.picture(page_picture(page), x, y, width, height)
