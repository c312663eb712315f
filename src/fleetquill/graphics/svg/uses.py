"""Elements that show something else: uses of other elements, and pictures (SVG 2 §5.6, §12.3)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture, rendered
from fleetquill.graphics.svg.measures import attribute
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import length_of
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.transforms import fit_view
from fleetquill.style.box_values import translation
from fleetquill.style.properties import ComputedStyle


def draw_use(painter: SvgPainter, element: Element, style: ComputedStyle, depth: int) -> None:
    """Draws the element that a use refers to, in the style of the use."""
    address = element.get("href", "")
    target = painter.styles.ids.led_to(element)
    if target is None:
        painter.out.note(f"The SVG uses '{address}', which it does not have.")
        return
    if target in painter.busy or any(target is ancestor for ancestor in element.iterancestors()):
        painter.out.note(f"The SVG uses '{address}' in itself.")
        return
    size = painter.size
    painter.busy.append(target)
    painter.out.save()
    painter.out.transform(translation(attribute(element, "x", 0, size), attribute(element, "y", 1, size)))
    if target.tag in ("symbol", "svg"):
        width = length_of(element.get("width", target.get("width", "100%")), size[0]) or size[0]
        height = length_of(element.get("height", target.get("height", "100%")), size[1]) or size[1]
        inner = painter.styles.below(target, style)
        painter.grouped(target, inner, lambda: painter.viewport(target, inner, depth + 1, (width, height)))
    else:
        painter.element(target, style, depth + 1)
    painter.out.restore()
    painter.busy.pop()


def draw_picture(painter: SvgPainter, element: Element, style: ComputedStyle) -> None:
    """Draws the picture of an image element, or notes what is wrong with it."""
    size = painter.size
    x, y = attribute(element, "x", 0, size), attribute(element, "y", 1, size)
    width, height = (length_of(element.get(name, ""), size[axis]) for axis, name in enumerate(("width", "height")))
    draw_picture_in(painter, element, style, (x, y, width or 0.0, height or 0.0))


def draw_picture_in(painter: SvgPainter, element: Element, style: ComputedStyle, area: Area) -> None:
    """Draws the picture that an element leads to in an area; a side that is nought is the picture's own."""
    found = painter.picture(element.get("href", ""))
    if isinstance(found, str):
        painter.out.note(f"A picture in the SVG is not shown. {found}")
        return
    area = (*area[:2], area[2] or found.width, area[3] or found.height)
    view = (0.0, 0.0, found.width, found.height)
    painter.out.save()
    painter.out.clip(rectangle(*area))
    painter.out.transform(fit_view(view, area, element.get("preserveaspectratio", "")))
    if isinstance(found, Picture):
        found = rendered(found, style)
        painter.out.picture(found, 0.0, 0.0, found.width, found.height)
    else:
        painter.out.add(found)
    painter.out.restore()
