"""Page margin boxes: the sixteen around the page area (CSS Paged Media 3 §5)."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import partial
from typing import Final, NamedTuple

from fleetquill.layout.boxes.boxes import BlockBox, Box, PictureBox, TextBox
from fleetquill.layout.boxes.replaced_elements import remark_damage
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import MODELS, content_widths, layout
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.sizing import (
    clamp_height,
    clamp_width,
    edges_of,
    length_or_zero,
    limits,
    margin_left_right,
    own_height,
    own_width,
)
from fleetquill.layout.contract.space import SLACK, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.paragraph_builder import measured_paragraph
from fleetquill.layout.pages.page_area import PageArea
from fleetquill.layout.pages.page_marks import PageMarks, Uses
from fleetquill.style import generated
from fleetquill.style.lengths import resolve_auto
from fleetquill.style.page_selectors import MARGIN_BOXES
from fleetquill.style.properties import INHERITED, ComputedStyle


class PageNumbers(NamedTuple):
    """What page counters say: this page and all pages, and the same within the section that has pages of its own."""

    page: int
    pages: int
    section_page: int = 0
    section_pages: int = 0

    def value(self, name: str) -> int | None:
        """The value of a counter; None for one that pages do not count."""
        section = (self.section_page, self.section_pages) if self.section_pages else (self.page, self.pages)
        found = {"page": self.page, "pages": self.pages}
        return {**found, "-fq-section-page": section[0], "-fq-section-pages": section[1]}.get(name)


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
) -> dict[str, Fragment]:
    """The margin boxes that have content, placed on the page, by name."""
    boxes: dict[str, Box] = {}
    for name in MARGIN_BOXES:
        style = styles.get(name)
        if style is not None and isinstance(style.content, tuple):
            boxes[name] = _box(_aligned(style, name), numbers, marks, context)
    rects = _rectangles(boxes, area, context)
    return {name: _lay_out(name, box, rects[name], context) for name, box in boxes.items()}


def room_for_margin_boxes(
    styles: dict[str, ComputedStyle], area: PageArea, numbers: PageNumbers, marks: PageMarks, context: Context
) -> PageArea:
    """The page area as it is where what stands in the margins above and below is taller than they are.

    Measured before the page is filled: running elements as they are on the page before, else the first of the name.
    """
    known = marks.following()
    for name, box in context.found.running.items():
        known.running.setdefault(name, Uses(box, [], False))
    needed = {"top": area.top, "bottom": area.bottom}
    for name, style in styles.items():
        side = name.split("-")[0]
        if side not in needed or name.endswith("corner") or not isinstance(style.content, tuple):
            continue
        if style.height != "auto":
            continue
        box = _box(_aligned(style, name), numbers, known, context)
        rect = _rectangles({name: box}, area, context)[name]
        natural = layout(box, Space(context, rect[2], None, fixed_width=rect[2]), None).fragment
        margins = sum(length_or_zero(m, area.width) for m in (style.margin_top, style.margin_bottom))
        high = (natural.height if natural is not None else 0.0) + margins
        margin = area.top if side == "top" else area.bottom
        if high > margin + LEAST_OVER:
            needed[side] = max(needed[side], high)
            _remark_tall(name, box, high - margin, context)
    return area._replace(top=needed["top"], bottom=needed["bottom"])


def _remark_tall(name: str, box: Box, over: float, context: Context) -> None:
    if (name, "tall") not in context.said:
        context.said.add((name, "tall"))
        element = next((child.element for child in box.children if child.element is not None), None)
        message = (
            f"What stands in the margin is taller than the margin box '{name}' by {over * 0.75:.1f} pt; "
            "the page's content makes way."
        )
        context.remark("overflow", message, element)


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
                remark_damage(context, part.url, picture, None)
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
        value = numbers.value(part.name)
        return context.represent(marks.counters.get(part.name, 0) if value is None else value, part.style)
    if isinstance(part, generated.NamedString):
        uses = marks.strings.get(part.name)
        return (uses.pick(part.which) if uses is not None else None) or ""
    return ""


def _rectangles(boxes: Mapping[str, Box], area: PageArea, context: Context) -> dict[str, Rect]:
    """The border boxes of the margin boxes of a page (§5.3)."""
    width, height, top, right, bottom, left = area[:6]
    inner_width = width - left - right
    inner_height = height - top - bottom
    rects: dict[str, Rect] = {}
    for name, x, y in (
        ("top-left-corner", 0.0, 0.0), ("top-right-corner", width - right, 0.0),
        ("bottom-left-corner", 0.0, height - bottom), ("bottom-right-corner", width - right, height - bottom),
    ):  # fmt: skip
        box = boxes.get(name)
        if box is not None:
            wide, high = left if "left" in name else right, top if "top" in name else bottom
            rects[name] = _inside(box, x, y, wide, high, along=None)
    for side, y, high in (("top", 0.0, top), ("bottom", height - bottom, bottom)):
        names = (f"{side}-left", f"{side}-center", f"{side}-right")
        if boxes.keys().isdisjoint(names):
            continue
        widths = _share(
            [boxes.get(n) for n in names], inner_width, partial(_wide, available=inner_width, context=context)
        )
        x_of = (left, left + (inner_width - widths[1]) / 2, left + inner_width - widths[2])
        for name, x, wide in zip(names, x_of, widths, strict=True):
            if name in boxes:
                rects[name] = _inside(boxes[name], x, y, wide, high, along="x")
    for side, x, wide in (("left", 0.0, left), ("right", width - right, right)):
        names = (f"{side}-top", f"{side}-middle", f"{side}-bottom")
        if boxes.keys().isdisjoint(names):
            continue
        ask = partial(_high, available=inner_height, room=wide, context=context)
        heights = _share([boxes.get(n) for n in names], inner_height, ask)
        y_of = (top, top + (inner_height - heights[1]) / 2, top + inner_height - heights[2])
        for name, y, high in zip(names, y_of, heights, strict=True):
            if name in boxes:
                rects[name] = _inside(boxes[name], x, y, wide, high, along="y")
    return rects


class Asked(NamedTuple):
    """What a margin box asks for along its edge of the page: its outer size (None: auto), what its content needs at
    least and at most, and its limits."""

    given: float | None
    least: float
    most: float
    low: float
    high: float


def _wide(box: Box, available: float, context: Context) -> Asked:
    style = box.style
    across = edges_of(style, available).across
    margins = sum(margin_left_right(style, available, None))
    given = own_width(style, available, across)
    least, most = content_widths(box, context)
    low, high = limits(style, available, across)
    outer = None if given is None else given + margins
    return Asked(outer, least + margins, most + margins, low + margins, high + margins)


def _high(box: Box, available: float, room: float, context: Context) -> Asked:
    """As for widths; the content needs the height that it has in a margin of that width."""
    style = box.style
    down = edges_of(style, room).down
    margins = length_or_zero(style.margin_top, room) + length_or_zero(style.margin_bottom, room)
    given = own_height(style, available, down)
    width = _inside(box, 0.0, 0.0, room, available, along="y")[2]
    plain = Space(context, width, None, fixed_width=width)
    fragment = layout(box, plain, None).fragment
    need = (fragment.height if fragment is not None else 0.0) + margins
    low = clamp_height(style, 0.0, available, down) + margins
    high = clamp_height(style, math.inf, available, down) + margins
    if given is not None:
        given = clamp_height(style, given, available, down) + margins
    return Asked(given, need, need, low, high)


def _share(boxes: list[Box | None], available: float, ask: Callable[[Box], Asked]) -> list[float]:
    """Outer sizes of the three boxes along one edge (§5.3.2); those that their limits change count as given."""
    asked = [ask(box) if box is not None else None for box in boxes]
    for _ in range(len(boxes) + 1):
        sizes = _shared(asked, available)
        changed = False
        for index, (wish, size) in enumerate(zip(asked, sizes, strict=True)):
            if wish is not None and wish.given is None:
                limited = max(wish.low, min(size, wish.high))
                if abs(limited - size) > SLACK:
                    asked[index] = wish._replace(given=limited)
                    changed = True
                    break
        if not changed:
            break
    return sizes


def _shared(asked: list[Asked | None], available: float) -> list[float]:
    start, middle, end = asked
    pairs = [_pair(wish) for wish in asked]
    if middle is None:
        first, last = _two(pairs[0], pairs[2], _is_auto(start), _is_auto(end), available)
        return [first, 0.0, last]
    sides = (2 * max(pairs[0][0], pairs[2][0]), 2 * max(pairs[0][1], pairs[2][1]))
    centre, _ = _two(pairs[1], sides, _is_auto(middle), True, available)
    rest = (available - centre) / 2
    left = rest if _is_auto(start) else pairs[0][0]
    right = rest if _is_auto(end) else pairs[2][0]
    return [left, centre, right]


def _is_auto(asked: Asked | None) -> bool:
    return asked is not None and asked.given is None


def _pair(asked: Asked | None) -> tuple[float, float]:
    if asked is None:
        return 0.0, 0.0
    return (asked.least, asked.most) if asked.given is None else (asked.given, asked.given)


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


def _inside(box: Box, x: float, y: float, width: float, height: float, *, along: str | None) -> Rect:
    """The border box in an outer size: whole along the page's edge, and across it as the box asks (§5.3.3)."""
    style = box.style
    edges = edges_of(style, width)
    wide = None if along == "x" else own_width(style, width, edges.across)
    high = None if along == "y" else own_height(style, height, edges.down)
    left, wide = _along(
        resolve_auto(style.margin_left, width), resolve_auto(style.margin_right, width), wide, width,
        lambda size: size if along == "x" else clamp_width(style, size, width, edges.across),
    )  # fmt: skip
    top, high = _along(
        resolve_auto(style.margin_top, width), resolve_auto(style.margin_bottom, width), high, height,
        lambda size: size if along == "y" else clamp_height(style, size, height, edges.down),
    )  # fmt: skip
    return x + left, y + top, wide, high


def _along(
    before: float | None, after: float | None, own: float | None, room: float, limit: Callable[[float], float]
) -> tuple[float, float]:
    """The margin before a box and its size: auto margins take what it leaves."""
    size = limit(max(0.0, room - (before or 0.0) - (after or 0.0)) if own is None else own)
    if before is not None:
        return before, size
    spare = max(0.0, room - size - (after or 0.0))
    return (spare / 2 if after is None else spare), size


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
