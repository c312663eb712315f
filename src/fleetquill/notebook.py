"""An edition as a notebook shows it: its first pages as pictures, its remarks below."""

from __future__ import annotations

import base64
import io
from collections.abc import Sequence
from html import escape
from typing import Final

from fleetquill.remarks import Remark

MOST_SHOWN: Final = 4  # pages
SCALE: Final = 1.0  # pixels for each point
FRAME: Final = "border:1px solid #ccc;margin:0 8px 8px 0;max-width:48%"


def shown_pages(title: str, content: bytes, remarks: Sequence[Remark]) -> str:
    """HTML with pictures of the first pages of a PDF, where pypdfium2 can draw them, and the remarks."""
    parts = [f"<p>{escape(title)}</p>", *_pictures(content)]
    if remarks:
        items = "".join(f"<li><b>{escape(remark.kind)}</b> {escape(str(remark))}</li>" for remark in remarks)
        parts.append(f"<ul>{items}</ul>")
    return "".join(parts)


def _pictures(content: bytes) -> list[str]:
    try:
        import pypdfium2
    except ImportError:
        return ["<p>With pypdfium2 installed the pages are shown here.</p>"]
    document = pypdfium2.PdfDocument(content)
    found = []
    for number in range(min(len(document), MOST_SHOWN)):
        stream = io.BytesIO()
        document[number].render(scale=SCALE).to_pil().save(stream, "PNG")
        data = base64.b64encode(stream.getvalue()).decode("ascii")
        found.append(f'<img alt="page {number + 1}" style="{FRAME}" src="data:image/png;base64,{data}">')
    if len(document) > MOST_SHOWN:
        found.append(f"<p>… and {len(document) - MOST_SHOWN} more.</p>")
    return found
