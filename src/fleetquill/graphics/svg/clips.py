"""Clips and masks of SVG (CSS Masking 1 §5, §6)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area, Drawing, Segment
from fleetquill.drawing.matrices import moved
from fleetquill.drawing.paths import rectangle
from fleetquill.graphics.color_filters import dyed
from fleetquill.graphics.svg.measures import attribute, shape_of
from fleetquill.graphics.svg.painter import SvgPainter
from fleetquill.graphics.svg.paths import length_of
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.text import draw_text
from fleetquill.graphics.svg.transforms import transform_of
from fleetquill.style.box_values import multiply, translation
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import WHITE


def clip_to(painter: SvgPainter, name: str, box: Area) -> None:
    """Clips what follows to a clipPath, for an element with that box; one that is not there clips nothing."""
    server = painter.styles.ids.get(name)
    if server is None or server.tag != "clippath" or server in painter.busy:
        return
    painter.busy.append(server)
    style = painter.styles.in_place(server)
    if isinstance(style.clip_path, str) and style.clip_path:
        clip_to(painter, style.clip_path, box)
    matrix = transform_of(server.get("transform", ""))
    if is_boxed(server, "clippathunits"):
        matrix = multiply((box[2], 0.0, 0.0, box[3], box[0], box[1]), matrix)
    parts = [child for child in server if isinstance(child.tag, str)]
    simple = _simple_path(painter, parts[0], style) if len(parts) == 1 else None
    if simple is not None:
        path, even_odd = simple
        painter.out.clip([moved(segment, matrix) for segment in path], even_odd)
    elif not parts:
        painter.out.clip([("m", 0.0, 0.0), ("h",)])
    else:
        painter.out.begin_group()
        painter.out.save()
        painter.out.transform(matrix)
        for part in parts:
            _silhouette(painter, part, style, box)
        painter.out.restore()
        painter.out.end_mask()
    painter.busy.pop()


def draw_clip(painter: SvgPainter, server: Element) -> None:
    """What a clipPath lets through, in white."""
    style = painter.styles.in_place(server)
    painter.out.save()
    painter.out.transform(transform_of(server.get("transform", "")))
    for part in server:
        if isinstance(part.tag, str):
            _silhouette(painter, part, style, (0.0, 0.0, *painter.out.extent))
    painter.out.restore()


def is_boxed(server: Element, name: str) -> bool:
    """Whether what stands in an element is measured in shares of a box."""
    return (server.get(name) or "").lower() == "objectboundingbox"


def _simple_path(painter: SvgPainter, part: Element, around: ComputedStyle) -> tuple[list[Segment], bool] | None:
    """The path of a lone shape that nothing else is done to."""
    style = painter.styles.below(part, around)
    path = shape_of(part, painter.size, style)
    if path is None or style.clip_path or style.display == "none" or style.visibility != "visible":
        return None
    own = transform_of(part.get("transform", ""))
    path = [moved(segment, own) for segment in path]
    return path or [("m", 0.0, 0.0), ("h",)], style.clip_rule == "evenodd"


def _silhouette(painter: SvgPainter, part: Element, around: ComputedStyle, box: Area) -> None:
    """A child of a clipPath, in white."""
    style = painter.styles.below(part, around)
    if style.display == "none" or style.visibility != "visible":
        return
    out = painter.out
    out.save()
    out.transform(transform_of(part.get("transform", "")))
    if isinstance(style.clip_path, str) and style.clip_path:
        clip_to(painter, style.clip_path, box)
    if part.tag == "text":
        whole, painter.out = out, Drawing(*out.extent)
        draw_text(painter, part, style)
        letters, painter.out = painter.out, whole
        out.add(dyed(WHITE).drawing(letters))
    elif part.tag == "use":
        target = painter.styles.ids.led_to(part)
        if target is not None and target.tag != "g":
            size = painter.size
            out.transform(translation(attribute(part, "x", 0, size), attribute(part, "y", 1, size)))
            _silhouette(painter, target, style, box)
    else:
        path = shape_of(part, painter.size, style)
        if path:
            out.fill_path(path, WHITE, style.clip_rule == "evenodd")
    out.restore()


def mask_with(painter: SvgPainter, name: str, box: Area) -> None:
    """Masks what follows with what a mask draws, for an element with that box."""
    server = painter.styles.ids.get(name)
    if server is None or server.tag != "mask" or server in painter.busy:
        return
    painter.busy.append(server)
    whole, style = painter.out, painter.styles.in_place(server)
    by_alpha = style.mask_type == "alpha"
    drawn = painter.out = Drawing(*whole.extent)
    drawn.save()
    drawn.clip(rectangle(*region(server, box, painter.size, "maskunits")))
    if style.mask_image:
        outer = mask_name(style)
        if outer:
            mask_with(painter, outer, box)
    if is_boxed(server, "maskcontentunits"):
        drawn.transform((box[2], 0.0, 0.0, box[3], box[0], box[1]))
    painter.children(server, style, len(painter.busy))
    drawn.restore()
    painter.out = whole
    for fault in drawn.faults:
        whole.note(fault)
    if by_alpha:
        drawn = dyed(WHITE).drawing(drawn)
    whole.begin_group()
    whole.add(drawn)
    whole.end_mask()
    painter.busy.pop()


def mask_name(style: ComputedStyle) -> str:
    """The id of the mask element that a style names; '' where it names none."""
    url = str(getattr(style.mask_image[0], "url", "")) if style.mask_image else ""
    return url[1:] if url.startswith("#") else ""


def region(server: Element, box: Area, size: tuple[float, float], units: str) -> Area:
    """The area that a mask or filter takes effect in (§6.2, Filter Effects 1 §8): a tenth more on every side."""
    if (server.get(units) or "").lower() == "userspaceonuse":
        basis = size
        origin = (0.0, 0.0)
        scale = (1.0, 1.0)
    else:
        basis, origin, scale = (1.0, 1.0), box[:2], box[2:]
    x, y, width, height = (
        length_of(server.get(name) or default, basis[axis]) or 0.0
        for name, default, axis in (("x", "-10%", 0), ("y", "-10%", 1), ("width", "120%", 0), ("height", "120%", 1))
    )
    return origin[0] + x * scale[0], origin[1] + y * scale[1], width * scale[0], height * scale[1]
