"""SVG as vectors (SVG 2): walks the elements and hands each to the file of its construct."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final, NamedTuple

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Area, Drawing
from fleetquill.drawing.extents import extent_of
from fleetquill.drawing.paths import bounds, rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.clip_shapes import shape_path_in
from fleetquill.graphics.svg.clips import clip_to, draw_clip, is_boxed, mask_name, mask_with
from fleetquill.graphics.svg.foreign import draw_foreign
from fleetquill.graphics.svg.measures import attribute, shape_of
from fleetquill.graphics.svg.painter import Draw, SvgPainter
from fleetquill.graphics.svg.paths import length_of
from fleetquill.graphics.svg.reading import Element, natural_size, view_box
from fleetquill.graphics.svg.shapes import draw_shape
from fleetquill.graphics.svg.styles import CascadeOf, DrawingStyles
from fleetquill.graphics.svg.text import draw_text
from fleetquill.graphics.svg.transforms import element_transform, fit_view
from fleetquill.graphics.svg.uses import draw_picture, draw_use
from fleetquill.style.box_values import IDENTITY, Matrix, multiply, translation
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.shape_values import Clip
from fleetquill.text.shaping import FontSetting

SILENT: Final = frozenset(
    "defs title desc metadata style symbol lineargradient radialgradient pattern clippath mask marker script "
    "animate animatetransform animatemotion set namedview page filter font font-face".split()
)
FURTHEST: Final = 10_000.0  # px that a clipPath of the document reaches
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
    drawing = _Painter(root, room, style).drawing()
    drawing.scales = view_box(root.get("viewbox")) is not None
    if style is not None and not drawing.stretches:  # its viewport is as large as its box will be
        drawing.redraw = lambda width, height: _Painter(root, room, style, (width, height)).drawing()
    return drawing


def draw_svg_at(root: Element, room: SvgRoom, width: float, height: float) -> Drawing:
    """The drawing of a file in a place of that size, whatever it says of its own."""
    return _Painter(root, room, None, (width, height)).drawing()


def draw_part(part: Element, room: SvgRoom, style: ComputedStyle) -> Drawing | None:
    """What a clipPath or mask of a drawing lets through, for a box in the document whose style names it.

    One that is measured in the box is 1 × 1 px and fills it. None for another kind of element.
    """
    if part.tag not in ("clippath", "mask"):
        return None
    root = next(iter(part.iterancestors("svg")), part)
    painter = _Painter(root, room, style)
    boxed = is_boxed(part, "clippathunits" if part.tag == "clippath" else "maskcontentunits")
    drawing = Drawing(1.0, 1.0) if boxed else Drawing(FURTHEST, FURTHEST)
    drawing.fills = boxed
    painter.out = drawing
    if part.tag == "clippath":
        draw_clip(painter, part)
    else:
        painter.children(part, painter.styles.in_place(part), 0)
    return drawing


def element_filter(server: Element, room: SvgRoom, style: ComputedStyle) -> ElementFilter | None:
    """A filter of a drawing for boxes in the document whose style names it; None for another kind of element."""
    from fleetquill.graphics.svg.filters.drawing import note_faults

    if server.tag != "filter":
        return None
    root = next(iter(server.iterancestors("svg")), server)
    painter = _Painter(root, room, style)
    note_faults(painter, server)
    return ElementFilter(server, painter.out.faults, lambda size: _Painter(root, room, style, size))


class ElementFilter:
    """A filter element at work on boxes of the document (Filter Effects 1 §5)."""

    def __init__(
        self, server: Element, faults: list[str], painter_for: Callable[[tuple[float, float]], SvgPainter]
    ) -> None:
        self._server = server
        self._painter_for = painter_for
        self.faults = faults

    def drawn(self, drawing: Drawing, box: Area) -> Drawing:
        """The filter's own space begins at the corner of the box."""
        from fleetquill.graphics.svg.filters.drawing import filtered_by

        x, y, width, height = box
        own = Drawing(*drawing.extent)
        own.transform(translation(-x, -y))
        own.add(drawing)
        found = Drawing(*drawing.extent)
        found.save()
        found.transform(translation(x, y))
        found.add(filtered_by(self._painter_for((width, height)), self._server, (0.0, 0.0, width, height), own))
        found.restore()
        return found


def _speaks(languages: str | None, wanted: str) -> bool:
    """Whether an element is for readers of a language (SVG 2 §5.9)."""
    if languages is None:
        return True
    said = [name.strip().lower() for name in languages.split(",")]
    return any(name == wanted.lower() or wanted.lower().partition("-")[0] == name for name in said)


class DrawnPart(Drawing):
    """A drawing that knows through which matrix it is drawn on."""

    __slots__ = ("_matrices", "matrix")

    def __init__(self, width: float, height: float) -> None:
        super().__init__(width, height)
        self.matrix = IDENTITY
        self._matrices: list[Matrix] = []

    def save(self) -> None:
        super().save()
        self._matrices.append(self.matrix)

    def restore(self) -> None:
        super().restore()
        self.matrix = self._matrices.pop()

    def transform(self, matrix: Matrix) -> None:
        super().transform(matrix)
        self.matrix = multiply(self.matrix, matrix)


class _Painter:
    def __init__(
        self, root: Element, room: SvgRoom, style: ComputedStyle | None, size: tuple[float, float] | None = None
    ) -> None:
        self.root = root
        self.room = room
        self.in_document = style is not None
        self.styles = DrawingStyles(root, room.cascade_of, style)
        self.busy: list[Element] = []
        self.context: dict[str, object] = {}
        self.count = 0
        self.out: Drawing = DrawnPart(*(size or natural_size(root)))
        self.out.fills = not {"width", "height"} & set(root.attrib) and view_box(root.get("viewbox")) is not None
        self.out.stretches = root.get("preserveaspectratio", "").strip().lower() == "none"
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
        heed()
        self.count += 1
        if depth > MOST_DEPTH or self.count > MOST_ELEMENTS:
            self.out.note("The SVG is nested too deep or has too many parts; some of it is not drawn.")
            return
        style = self.styles.below(element, parent)
        if style.display == "none":
            return
        draw = self._container(element, style, depth)
        if draw is None:
            path = shape_of(element, self.size, style)
            if path is None:
                self.out.note(f"The SVG element '{tag}' is not drawn.")
                return
            draw = lambda: draw_shape(self, element, path, style, depth)  # noqa: E731
        self.grouped(element, style, draw)

    def _container(self, element: Element, style: ComputedStyle, depth: int) -> Draw | None:
        """How an element is drawn that is no shape."""
        tag = element.tag
        if tag in ("g", "a"):
            return lambda: self.children(element, style, depth)
        if tag == "text":
            return lambda: draw_text(self, element, style, depth)
        if tag == "use":
            return lambda: draw_use(self, element, style, depth)
        if tag == "foreignobject":
            return lambda: draw_foreign(self, element, style)
        if tag == "image":
            return lambda: draw_picture(self, element, style)
        if tag == "svg":
            return lambda: self.viewport(element, style, depth, None)
        if tag == "switch":
            return lambda: self._switch(element, style, depth)
        return None

    def grouped(self, element: Element, style: ComputedStyle, draw: Draw) -> None:
        matrix = element_transform(element, style, self.size, lambda: self._box(element, style, draw))
        if matrix == IDENTITY:
            self._around(element, style, draw, style.opacity)
            return
        self.out.save()
        self.out.transform(matrix)
        self._around(element, style, draw, style.opacity)
        self.out.restore()

    def recorded(self, draw: Draw) -> Drawing:
        """What is drawn, by itself."""
        whole, self.out = self.out, DrawnPart(*self.out.extent)
        draw()
        drawn, self.out = self.out, whole
        for fault in drawn.faults:
            whole.note(fault)
        return drawn

    def _box(self, element: Element, style: ComputedStyle, draw: Draw) -> Area:
        """The box around an element's shapes without its transform (SVG 2 §8.10)."""
        path = shape_of(element, self.size, style)
        return bounds(path) if path else extent_of(self.recorded(draw)) or (0.0, 0.0, 0.0, 0.0)

    def _around(self, element: Element, style: ComputedStyle, draw: Draw, opacity: float) -> None:
        """Draws with an element's filter, clip, mask, opacity and blending."""
        out = self.out
        of_box = self.in_document and element is self.root  # its box in the document shows them
        mask = "" if of_box else mask_name(style)
        clip = "" if of_box else style.clip_path
        filtered = bool(style.filter) and not of_box
        grouped = opacity < 1 or (not of_box and (style.mix_blend_mode != "normal" or style.isolation == "isolate"))
        box = self._box(element, style, draw) if mask or clip or filtered else (0.0, 0.0, 0.0, 0.0)
        if mask or clip:
            out.save()
        if isinstance(clip, Clip):
            out.clip(*shape_path_in(clip, box))
        elif clip:
            clip_to(self, clip, box)
        if mask:
            mask_with(self, mask, box)
        if grouped:
            out.begin_group()
        if filtered:
            from fleetquill.graphics.svg.filters.drawing import draw_filtered  # pixels, that few drawings need

            draw_filtered(self, style, box, self.recorded(draw))
        else:
            draw()
        if grouped:
            out.end_group(opacity, "normal" if of_box else style.mix_blend_mode)
        if mask or clip:
            out.restore()

    def _switch(self, element: Element, style: ComputedStyle, depth: int) -> None:
        language = style.language or "en"
        fits = [
            child
            for child in element
            if isinstance(child.tag, str)
            and child.tag != "foreignobject"
            and _speaks(child.get("systemlanguage"), language)
        ]
        first = next(iter(fits), None)
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
