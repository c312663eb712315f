"""WordprocessingML as text (ISO/IEC 29500-1 §17): elements, measures, colours."""

from __future__ import annotations

from collections.abc import Mapping
from html import escape
from typing import Final
from urllib.parse import quote, urlsplit

from fleetquill.style.values import WHITE, Rgba
from fleetquill.tree.texts import clean

NAMESPACES: Final = (
    'xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main" '
    'xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships" '
    'xmlns:wp="http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing" '
    'xmlns:a="http://schemas.openxmlformats.org/drawingml/2006/main" '
    'xmlns:pic="http://schemas.openxmlformats.org/drawingml/2006/picture"'
)
DECLARATION: Final = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n'
LINES: Final = {"solid": "single", "dashed": "dashed", "dotted": "dotted", "double": "double"}
MOST_TWIPS: Final = 31_680  # of an indent or a space: 22 inches
MOST_LINE: Final = 96  # eighths of a point of a border (§17.18.2)


def twips(px: float) -> int:
    """Twentieths of a point."""
    return max(-MOST_TWIPS, min(MOST_TWIPS, round(px * 15)))


def emus(px: float) -> int:
    """The unit of drawings: 914,400 are an inch."""
    return max(1, round(px * 9525))


def text(content: str) -> str:
    return escape(clean(content), quote=False)


def attribute(content: str) -> str:
    return escape(clean(content), quote=True)


def element(name: str, **attributes: object) -> str:
    """An empty element of the main namespace."""
    return f"<w:{name}{_attributes(attributes)}/>"


def _attributes(attributes: Mapping[str, object]) -> str:
    return "".join(f' w:{name}="{attribute(str(value))}"' for name, value in attributes.items())


def color(value: Rgba, below: Rgba = WHITE) -> str:
    """A colour as it is seen on what lies below: the format knows none that lets through."""
    parts = (part * value.alpha + under * (1 - value.alpha) for part, under in zip(value[:3], below[:3], strict=True))
    return "".join(f"{round(min(1.0, max(0.0, part)) * 255):02X}" for part in parts)


def encoded(address: str) -> str:
    """An address with what no URI may hold percent-encoded (RFC 3986 §2.1); '' where it is none."""
    try:
        urlsplit(address)
    except ValueError:
        return ""
    return quote(clean(address), safe="!#$%&'()*+,/:;=?@[]~")


def border(side: str, width: float, style: str, value: Rgba, space: float = 0.0) -> str:
    """A line at a side (§17.3.4); '' for none."""
    if width <= 0 or style in ("none", "hidden") or not value.alpha:
        return ""
    size = max(2, min(MOST_LINE, round(width * 6)))  # px to eighths of a point
    room = f' w:space="{min(31, round(space * 0.75))}"' if space else ' w:space="0"'
    return f'<w:{side} w:val="{LINES.get(style, "single")}" w:sz="{size}"{room} w:color="{color(value)}"/>'
