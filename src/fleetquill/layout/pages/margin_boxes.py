"""Page margin boxes: the sixteen around the page area (CSS Paged Media 3 §5)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final, NamedTuple

from fleetquill.layout.boxes.boxes import BlockBox, Box, PictureBox, TextBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import MODELS, content_widths, layout
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.sizing import edges_of, own_height, own_width
from fleetquill.layout.contract.space import Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.paragraph_builder import measured_paragraph
from fleetquill.layout.pages.page_area import PageArea
from fleetquill.layout.pages.page_marks import PageMarks
from fleetquill.style import generated
from fleetquill.style.page_selectors import MARGIN_BOXES
from fleetquill.style.properties import INHERITED, ComputedStyle


class PageNumbers(NamedTuple):
    """What page counters say: this page and all pages."""

    page: int
    pages: int


ALIGNMENT: Final = {  # CSS Paged Media 3 §5.2: (text-align, vertical-align)
    "top-left-corner": ("right", "middle"),
    "top-left": ("left", "middle"),
    "top-center": ("center", "middle"),
    "top-right": ("right", "middle"),
    "top-right-corner": ("left", "middle"),
    "right-top": ("center", "top"),
    "right-middle": ("center", "middle"),
    "right-bottom": ("center", "bottom"),
    "bottom-right-corner": ("left", "middle"),
    "bottom-right": ("right", "middle"),
    "bottom-center": ("center", "middle"),
    "bottom-left": ("left", "middle"),
    "bottom-left-corner": ("right", "middle"),
    "left-bottom": ("center", "bottom"),
    "left-middle": ("center", "middle"),
    "left-top": ("center", "top"),
}

LEAST_OVER: Final = 1.0  # px that content may be larger than its box before that is pointed out

Rect = tuple[float, float, float, float]  # x, y, width, height


def lay_out_margin_boxes(
    styles: dict[str, ComputedStyle], area: PageArea, numbers: PageNumbers, marks: PageMarks, context: Context
) -> list[Fragment]:
    """The margin boxes that have content, placed on the page."""
    boxes: dict[str, Box] = {}
    for name in MARGIN_BOXES:
        style = styles.get(name)
        if style is not None and isinstance(style.content, tuple):
            boxes[name] = _box(_aligned(style, name), numbers, marks, context)
    rects = _rectangles(boxes, area, context)
    return [_lay_out(name, box, rects[name], context) for name, box in boxes.items()]


def shown_elements(styles: Mapping[str, ComputedStyle]) -> set[str]:
    """The names of the running elements that margin boxes of those styles show."""
    contents = [style.content for style in styles.values() if isinstance(style.content, tuple)]
    return {part.name for content in contents for part in content if isinstance(part, generated.RunningElement)}


def _aligned(style: ComputedStyle, name: str) -> ComputedStyle:
    """The style with the box's own alignment where none was asked for."""
    if "aligned" in style.kept:
        return style.kept["aligned"]  # type: ignore[no-any-return]
    values = dict(style.__dict__)
    align, vertical = ALIGNMENT[name]
    if style.text_align == "start":
        values["text_align"] = align
    if style.vertical_align == "baseline":
        values["vertical_align"] = vertical
    values["display"] = "block"
    aligned = ComputedStyle(style.parent, values)
    style.kept["aligned"] = aligned
    return aligned


def _box(style: ComputedStyle, numbers: PageNumbers, marks: PageMarks, context: Context) -> Box:
    """A margin box: text and pictures in lines, or the running elements that it shows."""
    inline: list[Box] = []
    running: list[Box] = []
    for part in style.content if isinstance(style.content, tuple) else ():
        if isinstance(part, generated.RunningElement):
            uses = marks.running.get(part.name)
            found = uses.pick(part.which) if uses is not None else None
            if found is not None:
                running.append(found)
        elif isinstance(part, generated.Picture):
            picture = context.pictures.get(part.url)
            if isinstance(picture, str):
                context.remark("picture", f"The picture '{part.url}' is not shown. {picture}", None)
            else:
                inline.append(PictureBox(_plain(style), None, picture, ""))
        else:
            text = _text(part, numbers, marks, context)
            if inline and isinstance(inline[-1], TextBox):
                inline[-1].text += text
            else:
                inline.append(TextBox(style, None, text))
    if running:
        return BlockBox(style, None, running)
    box = LinesBox(style, None, inline)
    box.paragraph = measured_paragraph(style, box.children, context)  # of its own: no other page says the same
    return box


def _plain(style: ComputedStyle) -> ComputedStyle:
    """What a picture in a margin box inherits from it, and nothing else."""
    kept: ComputedStyle | None = style.kept.get("plain")
    if kept is None:
        values = {field: getattr(style, field) for field in INHERITED}
        kept = style.kept["plain"] = ComputedStyle(style, {**values, "display": "inline-block"})
    return kept


def _text(part: generated.ContentPart, numbers: PageNumbers, marks: PageMarks, context: Context) -> str:
    if isinstance(part, generated.Text):
        return part.text
    if isinstance(part, (generated.Counter, generated.Counters)):
        value = {"page": numbers.page, "pages": numbers.pages}.get(part.name, marks.counters.get(part.name, 0))
        return context.represent(value, part.style)
    if isinstance(part, generated.NamedString):
        uses = marks.strings.get(part.name)
        return (uses.pick(part.which) if uses is not None else None) or ""
    return ""


def _rectangles(boxes: Mapping[str, Box], area: PageArea, context: Context) -> dict[str, Rect]:
    """The margin box rectangles of a page (§5.3)."""
    width, height, top, right, bottom, left, _ = area
    inner_width = width - left - right
    inner_height = height - top - bottom
    rects: dict[str, Rect] = {
        "top-left-corner": (0.0, 0.0, left, top),
        "top-right-corner": (width - right, 0.0, right, top),
        "bottom-left-corner": (0.0, height - bottom, left, bottom),
        "bottom-right-corner": (width - right, height - bottom, right, bottom),
    }
    for side, y, high in (("top", 0.0, top), ("bottom", height - bottom, bottom)):
        names = (f"{side}-left", f"{side}-center", f"{side}-right")
        widths = _share_width([boxes.get(n) for n in names], inner_width, context)
        x_of = (left, left + (inner_width - widths[1]) / 2, left + inner_width - widths[2])
        for name, x, wide in zip(names, x_of, widths, strict=True):
            rects[name] = (x, y, wide, high)
    for side, x, wide in (("left", 0.0, left), ("right", width - right, right)):
        names = (f"{side}-top", f"{side}-middle", f"{side}-bottom")
        heights = _share_height([boxes.get(n) for n in names], inner_height)
        y_of = (top, top + (inner_height - heights[1]) / 2, top + inner_height - heights[2])
        for name, y, high in zip(names, y_of, heights, strict=True):
            rects[name] = (x, y, wide, high)
    return rects


def _share_width(boxes: list[Box | None], available: float, context: Context) -> list[float]:
    """Widths of the three boxes along one edge (§5.3.2.2)."""
    start, middle, end = boxes
    fixed = [own_width(box.style, available, edges_of(box.style, available).across) if box else 0.0 for box in boxes]
    sizes = [content_widths(box, context) if box else (0.0, 0.0) for box in boxes]
    sizes = [(f, f) if f is not None else s for f, s in zip(fixed, sizes, strict=True)]
    if middle is None:
        first, last = _two(sizes[0], sizes[2], fixed[0] is None and start is not None,
                           fixed[2] is None and end is not None, available)  # fmt: skip
        return [first, 0.0, last]
    sides = (2 * max(sizes[0][0], sizes[2][0]), 2 * max(sizes[0][1], sizes[2][1]))
    centre, _ = _two(sizes[1], sides, fixed[1] is None, True, available)
    rest = (available - centre) / 2
    left = rest if start is not None and fixed[0] is None else fixed[0] or 0.0
    right = rest if end is not None and fixed[2] is None else fixed[2] or 0.0
    return [left, centre, right]


def _two(
    first: tuple[float, float],
    second: tuple[float, float],
    first_auto: bool,
    second_auto: bool,
    available: float,
) -> tuple[float, float]:
    """Two boxes side by side: by max-content where both fit, else between min and max content."""
    if not first_auto:
        return first[1], max(0.0, available - first[1]) if second_auto else second[1]
    if not second_auto:
        return max(0.0, available - second[1]), second[1]
    most = first[1] + second[1]
    if most <= available:
        share = first[1] / most if most else 0.5
        return first[1] + (available - most) * share, second[1] + (available - most) * (1 - share)
    least = first[0] + second[0]
    spread = most - least
    part = max(0.0, available - least) / spread if spread else 0.0
    return first[0] + (first[1] - first[0]) * part, second[0] + (second[1] - second[0]) * part


def _share_height(boxes: list[Box | None], available: float) -> list[float]:
    """Heights of the three boxes along a side edge: given ones kept, the rest in equal parts."""
    heights: list[float] = []
    present = [box for box in boxes if box is not None]
    for box in boxes:
        if box is None:
            heights.append(0.0)
            continue
        given = own_height(box.style, available, edges_of(box.style, available).down)
        heights.append(available / len(present) if given is None else given)
    return heights


def _lay_out(name: str, box: Box, rect: Rect, context: Context) -> Fragment:
    x, y, width, height = rect
    space = Space(context, width, height, fixed_width=width, fixed_height=height)
    fragment = layout(box, space, None).fragment
    assert fragment is not None
    fragment.x, fragment.y = x, y
    edges = edges_of(box.style, width)
    content = sum(child.height for child in fragment.children)
    spare = height - edges.down - content
    align = box.style.vertical_align
    shift = spare / 2 if align == "middle" else spare if align == "bottom" else 0.0
    for child in fragment.children:
        child.y += shift
    _remark_fit(name, box, max(0.0, width - edges.across), -spare, context)
    return fragment


def _remark_fit(name: str, box: Box, width: float, over: float, context: Context) -> None:
    """What is larger than its margin box is said once for all pages."""
    if over > LEAST_OVER:
        what = f"taller than the margin box '{name}' by {over * 0.75:.1f} pt"
    else:
        over = MODELS[box.__class__][1](box, context)[0] - width
        if over <= LEAST_OVER:
            return
        what = f"wider than the margin box '{name}' by {over * 0.75:.1f} pt"
    if (name, what[:5]) not in context.said:
        context.said.add((name, what[:5]))
        element = next((child.element for child in box.children if child.element is not None), None)
        context.remark("overflow", f"What stands in the margin is {what}.", element)
