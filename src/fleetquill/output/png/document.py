"""Pages as pictures, drawn from their PDF by a reader."""

from __future__ import annotations

import io
from collections.abc import Iterator

from fleetquill.errors import LimitError, OptionError
from fleetquill.output.how import How
from fleetquill.units import POINTS_PER_INCH

MOST_PIXELS = 100_000_000  # of one page


def pictures_of(pdf: bytes, how: How) -> Iterator[bytes]:
    """The PNG file of each page. Raises OptionError where what draws them is not installed."""
    try:
        import pypdfium2
    except ImportError as error:
        raise OptionError(
            "Pictures of pages need the package pypdfium2.", remedy='Install "fleetquill[pages]".'
        ) from error
    document = pypdfium2.PdfDocument(pdf)
    document.init_forms()  # fields are drawn, too
    scale = how.dpi / POINTS_PER_INCH
    for page in document:
        if page.get_width() * page.get_height() * scale * scale > MOST_PIXELS:
            raise LimitError(
                f"At {how.dpi:g} dpi a page would have more than {MOST_PIXELS // 1_000_000} million pixels.",
                remedy="Ask for fewer with 'dpi'.",
            )
        stream = io.BytesIO()
        page.render(scale=scale).to_pil().save(stream, "PNG", dpi=(how.dpi, how.dpi))
        yield stream.getvalue()
