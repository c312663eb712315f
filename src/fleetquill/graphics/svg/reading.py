"""SVG files and elements as they come in: parsed, their names made plain, their natural size (SVG 2 §5, §8)."""

from __future__ import annotations

from typing import Final

from lxml import etree

from fleetquill.graphics.svg.paths import length_of, numbers_of
from fleetquill.tree.html import plain_names

Element = etree._Element
LARGEST: Final = 100_000.0  # px of a drawing: a hundred pages
SVG: Final = "http://www.w3.org/2000/svg"
XHTML: Final = "http://www.w3.org/1999/xhtml"
ViewBox = tuple[float, float, float, float]  # x, y, width, height


def parse_svg(content: bytes) -> Element | str:
    """The root of an SVG file with plain lower-case names; a message where it is none.

    Entities are not expanded and nothing is loaded from elsewhere.
    """
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=True, recover=True)
    try:
        root = etree.fromstring(content, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        return f"The SVG does not parse ({error})."
    if root is None:
        return "The SVG does not parse."
    etree.strip_elements(root, *_foreign(root), with_tail=False)
    plain_names(root)
    return root if root.tag == "svg" else "The file is not an SVG picture."


def _foreign(root: Element) -> list[str]:
    """Patterns of elements of other namespaces, which programs leave for themselves and nobody draws (SVG 2 §5.11)."""
    spaces = {str(element.tag).rpartition("}")[0] for element in root.iter() if isinstance(element.tag, str)}
    known = {root.tag.rpartition("}")[0], f"{{{SVG}", f"{{{XHTML}", ""}
    return [f"{space}}}*" for space in spaces - known]


def natural_size(root: Element) -> tuple[float, float]:
    """Width and height of an svg element in px; those of its view box where none are given."""
    width = length_of(root.get("width", ""), None)
    height = length_of(root.get("height", ""), None)
    view = view_box(root.get("viewbox"))
    wide, high = view[2:] if view else (300.0, 150.0)
    if width is None:
        width = wide if height is None else height * wide / high
    if height is None:
        height = width * high / wide
    return min(max(width, 0.01), LARGEST), min(max(height, 0.01), LARGEST)


def view_box(text: str | None) -> ViewBox | None:
    """The numbers of a viewBox attribute; None where there is none of any size."""
    box = numbers_of(text or "")
    return (box[0], box[1], box[2], box[3]) if len(box) == 4 and box[2] > 0 and box[3] > 0 else None
