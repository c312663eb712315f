"""SVG as vectors (SVG 2): walks the elements and hands each to the file of its construct."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.svg.clips import clip_to, mask_with
from fleetquill.graphics.svg.measures import attribute, shape_of
from fleetquill.graphics.svg.painter import Draw
from fleetquill.graphics.svg.paths import length_of
from fleetquill.graphics.svg.reading import Element, natural_size, view_box
from fleetquill.graphics.svg.shapes import draw_shape
from fleetquill.graphics.svg.styles import CascadeOf, DrawingStyles
from fleetquill.graphics.svg.text import draw_text
from fleetquill.graphics.svg.transforms import element_transform, fit_view
from fleetquill.graphics.svg.uses import draw_picture, draw_use
from fleetquill.style.box_values import IDENTITY, translation
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.shaping import FontSetting

SILENT: Final = frozenset(
    "defs title desc metadata style symbol lineargradient radialgradient pattern clippath mask marker script "
    "animate animatetransform animatemotion set namedview page".split()
)
MOST_DEPTH: Final = 60  # of groups and uses
MOST_ELEMENTS: Final = 200_000  # that are drawn, uses counted each time


class SvgRoom(NamedTuple):
    """What drawings need of the document that they stand in."""

    cascade_of: CascadeOf
    font_of: Callable[[ComputedStyle], FontSetting]
    picture: Callable[[str], Picture | Drawing | str]  # by address; what is wrong with it as a text


def draw_svg(root: Element, room: SvgRoom, style: ComputedStyle | None = None) -> Drawing:
    """The drawing of an svg element with plain names.

    `style` is that of an element in a document, whose box shows its opacity and transform; a file has none.
    """
    return _Painter(root, room, style).drawing()


class _Painter:
    def __init__(self, root: Element, room: SvgRoom, style: ComputedStyle | None) -> None:
        self.root = root
        self.room = room
        self.in_document = style is not None
        self.styles = DrawingStyles(root, room.cascade_of, style)
        self.busy: list[Element] = []
        self.count = 0
        self.out = Drawing(*natural_size(root))
        self.out.fills = not {"width", "height"} & set(root.attrib) and view_box(root.get("viewbox")) is not None
        self.size = (self.out.width, self.out.height)

    def drawing(self) -> Drawing:
        out, root, style = self.out, self.root, self.styles.root_style
        view = view_box(root.get("viewbox"))
        if view is not None:
            out.transform(fit_view(view, (0.0, 0.0, out.width, out.height), root.get("preserveaspectratio", "")))
            self.size = view[2:]
        opacity = 1.0 if self.in_document else style.opacity
        self._around(root, style, lambda: self.children(root, style, 0), opacity)
        return out

    def font_of(self, style: ComputedStyle) -> FontSetting:
        return self.room.font_of(style)

    def picture(self, url: str) -> Picture | Drawing | str:
        return self.room.picture(url)

    def children(self, element: Element, style: ComputedStyle, depth: int) -> None:
        for child in element:
            if isinstance(child.tag, str):
                self.element(child, style, depth + 1)

    def element(self, element: Element, parent: ComputedStyle, depth: int) -> None:
        tag = str(element.tag)
        if tag in SILENT:
            return
        self.count += 1
        if depth > MOST_DEPTH or self.count > MOST_ELEMENTS:
            self.out.note("The SVG is nested too deep or has too many parts; some of it is not drawn.")
            return
        style = self.styles.below(element, parent)
        if style.display == "none":
            return
        draw = self._container(element, style, depth)
        if draw is None:
            path = shape_of(element, self.size)
            if path is None:
                self.out.note(f"The SVG element '{tag}' is not drawn.")
                return
            draw = lambda: draw_shape(self, tag, path, style, depth)  # noqa: E731
        self.grouped(element, style, draw)

    def _container(self, element: Element, style: ComputedStyle, depth: int) -> Draw | None:
        """How an element is drawn that is no shape."""
        tag = element.tag
        if tag in ("g", "a"):
            return lambda: self.children(element, style, depth)
        if tag == "text":
            return lambda: draw_text(self, element, style)
        if tag == "use":
            return lambda: draw_use(self, element, style, depth)
        if tag == "image":
            return lambda: draw_picture(self, element)
        if tag == "svg":
            return lambda: self.viewport(element, style, depth, None)
        if tag == "switch":
            return lambda: self._switch(element, style, depth)
        return None

    def grouped(self, element: Element, style: ComputedStyle, draw: Draw) -> None:
        matrix = element_transform(element, style, self.size)
        if matrix == IDENTITY:
            self._around(element, style, draw, style.opacity)
            return
        self.out.save()
        self.out.transform(matrix)
        self._around(element, style, draw, style.opacity)
        self.out.restore()

    def _around(self, element: Element, style: ComputedStyle, draw: Draw, opacity: float) -> None:
        """Draws with an element's clip, mask and opacity."""
        out = self.out
        if style.filter != "none":
            out.note("SVG filters are not drawn.")
        saved = style.clip_path or style.mask
        if saved:
            out.save()
        if style.clip_path:
            clip_to(self, style.clip_path, element)
        if style.mask:
            mask_with(self, style.mask, element)
        if opacity < 1:
            out.begin_group()
        draw()
        if opacity < 1:
            out.end_group(opacity)
        if saved:
            out.restore()

    def _switch(self, element: Element, style: ComputedStyle, depth: int) -> None:
        first = next((child for child in element if isinstance(child.tag, str) and child.tag != "foreignobject"), None)
        if first is not None:
            self.element(first, style, depth + 1)

    def viewport(self, element: Element, style: ComputedStyle, depth: int, size: tuple[float, float] | None) -> None:
        """A nested svg or a symbol: a viewport of its own (SVG 2 §8.2)."""
        outer = self.size
        width = size[0] if size else length_of(element.get("width", "100%"), outer[0]) or 0.0
        height = size[1] if size else length_of(element.get("height", "100%"), outer[1]) or 0.0
        x, y = (0.0, 0.0) if size else (attribute(element, "x", 0, outer), attribute(element, "y", 1, outer))
        if width <= 0 or height <= 0:
            return
        self.out.save()
        if style.overflow not in ("visible", "auto"):
            self.out.clip(rectangle(x, y, width, height))
        view = view_box(element.get("viewbox"))
        if view is not None:
            self.out.transform(fit_view(view, (x, y, width, height), element.get("preserveaspectratio", "")))
            self.size = view[2:]
        else:
            self.out.transform(translation(x, y))
            self.size = (width, height)
        self.children(element, style, depth)
        self.out.restore()
        self.size = outer
