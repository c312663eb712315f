"""Inline layout: a paragraph filled into lines, and the lines into pages (CSS 2.2 §9.4.2, §10.8)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.layout.block.ends import end_box
from fleetquill.layout.block.margins import is_root_of_context
from fleetquill.layout.block.slices import LEAST_ROOM, slice_line
from fleetquill.layout.boxes.boxes import Box, TextBox
from fleetquill.layout.contract.box_edges import box_edges
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths, layout, natural_widths, within_words
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, InlineFragment, LineFragment, TextSpan
from fleetquill.layout.contract.resume import BrokenAtomic, BrokenLine, Inner, Resume, SlicedLine
from fleetquill.layout.contract.sizing import (
    Edges,
    clamp_width,
    edges_of,
    margin_left_right,
    own_width,
)
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, LineGrid, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.first_line import first_line_children, on_first_line
from fleetquill.layout.inline.inline_items import (
    Anchor,
    Atomic,
    FloatItem,
    Item,
    metrics_of,
)
from fleetquill.layout.inline.line_filler import Line, LineFiller, atomic_space, may_wrap_anywhere
from fleetquill.layout.inline.paragraph import EPSILON, Paragraph
from fleetquill.layout.inline.paragraph_builder import measured_paragraph, shared_paragraph
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle

BUTTONS: Final = ("button", "input")  # blocks that are as wide as what they say (HTML §15.5.10)
MOST_SPANS: Final = 8  # places of one short text that are kept


def paragraph_of(box: LinesBox, context: Context) -> Paragraph:
    """The measured content of the box, made once; short texts in the same style share theirs."""
    paragraph = box.paragraph
    if box.moving:
        for text in box.moving:
            text.text = context.moving_text(text)
        return measured_paragraph(box.style, box.children, context)
    if paragraph is None:
        children = box.children
        if len(children) == 1 and isinstance(children[0], TextBox) and box.first_line is None:
            paragraph = shared_paragraph(box.style, children[0], context)
        else:
            paragraph = measured_paragraph(box.style, children, context)
        box.paragraph = paragraph
        if box.first_line is not None:
            style = on_first_line(box.style, box.style, box.first_line)
            first = measured_paragraph(style, first_line_children(box, box.first_line), context)
            first.hyphenates = False  # its items stay those of the paragraph
            if len(first.items) == len(paragraph.items):
                for index in paragraph.atomics:
                    first.items[index] = paragraph.items[index]
                paragraph.first_line = first
    return paragraph


def single_line(box: LinesBox, width: float, context: Context) -> LineFragment | None:
    """The box's content as one line where it fits on one: the short way for the cells of a table."""
    paragraph = paragraph_of(box, context)
    if not paragraph.simple or paragraph.ends[-1] > width + EPSILON:
        return None
    spare = max(0.0, width - paragraph.ends[-1])
    align = paragraph.last_alignment
    x = 0.0 if align == "left" else spare if align == "right" else spare / 2
    ascent, descent = paragraph.line_extent
    line = LineFragment(width, ascent + descent, ascent)
    span = paragraph.spans.get(x)
    if span is None:
        run = paragraph.runs[0]
        words = paragraph.items
        spaced = None if all(paragraph.glues[:-1]) else [bool(glue) for glue in paragraph.glues]
        span = TextSpan(run, words, x, paragraph.ends[-1], ascent - run.shift, run.space, spaced)  # type: ignore[arg-type]
        if len(paragraph.spans) < MOST_SPANS:
            paragraph.spans[x] = span
    line.items.append(span)
    return line


def layout_lines(box: LinesBox, space: Space, resume: Resume | None) -> Laid:
    """Lays out as many lines as fit; `resume.at` is the first item of the next line."""
    trials = space.context.trials
    beside = space.floats is not None and bool(space.floats.floats.rects)
    if trials is None or resume is not None or space.grid is not None or beside:
        return _lay_out_lines(box, space, resume)
    key = (box, (space.width, space.height, space.fixed_width, space.fixed_height))
    whole = trials.paragraphs.get(key)
    if whole is not None and max(whole.height, _end_of_lines(whole, space.width)) <= space.room:
        return Laid(whole.twin(), None)
    laid = _lay_out_lines(box, space, resume)
    whole = laid.fragment
    if whole is not None and laid.resume is None and box.paragraph is not None and not box.paragraph.floats:
        trials.paragraphs[key] = whole.twin()
    return laid


def _end_of_lines(fragment: Fragment, width: float) -> float:
    """How far down the last line reaches, in a box that may be lower than its lines."""
    last = fragment.children[-1] if fragment.children else fragment
    bottom = edges_of(fragment.box.style, width).bottom
    return last.y + last.height + bottom if isinstance(last, LineFragment) else 0.0


def _lay_out_lines(box: LinesBox, space: Space, resume: Resume | None) -> Laid:
    style = box.style
    edges = box_edges(box, space.width)
    width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
    paragraph = paragraph_of(box, space.context)
    inner = max(0.0, width - edges.across)
    clone = style.box_decoration_break == "clone"
    top = edges.top if resume is None or clone else 0.0
    below = edges.bottom if clone else 0.0
    whole = space.height_of(style, edges.down)
    room = (UNBOUNDED if space.cuts_off(style, whole, resume) else space.room - top - below) + SLACK
    around = None
    if space.floats is not None and not is_root_of_context(box):
        around = space.floats.moved(edges.left, top)
    if paragraph.anchors and not paragraph.floats and paragraph.is_empty:
        return _only_anchors(box, paragraph, width, space, resume)
    within = space._replace(
        width=inner, height=_inner_height(box, space, edges), room=room, grid=grid_within(style, space, top)
    )
    filler = LineFiller(box, paragraph, inner, within, around)
    start = resume.at if resume else 0
    going_on = filler.go_on(resume) if resume is not None else []
    above, used, cut = _rest_of_line(box, resume.inner if resume is not None else None, filler)
    lines, end = (list[Line](), start) if cut is not None else filler.fill(start, room, used)
    count = len(paragraph.items)
    edge = edges.bottom - below if end >= count else 0.0  # the last lines stand with the edge below them
    if end < count or (lines and filler.height_of(lines) + used + edge > room):
        kept = _lines_kept(lines, room - used - edge, style, filler, end, space.at_top, start)
        stands = bool(going_on or above)
        if not kept and not stands:
            waits = bool(lines) and lines[0].fragment.y > SLACK and not filler.placed_floats  # below floats around it
            if not space.at_top or not lines or waits:
                return Laid(None, resume or Resume())
            kept = 1
            lines[0], above, cut = _cut_first_line(box, lines[0], start, filler)
        filler.forget_floats(lines[kept - 1].end if kept else start)
        lines = lines[:kept]
        end = lines[-1].end if lines else start
        if above and not stands:
            lines = []  # the line stands in slices
    fragment = Fragment(box, width, 0.0)
    for part in going_on:
        _add_float(fragment, part, edges.left, top)
    _join_parts([line.fragment for line in lines])
    y = _stand(fragment, above, lines, filler, edges.left, top)
    if filler.own_floats:
        y = max(y, top + filler.around.floats.bottom)
    goes_on = filler.resume(end, cut)
    if lines:
        fragment.baseline = lines[0].fragment.y + lines[0].fragment.baseline
    elif box.marker and not count:  # a marker stands on a line
        y = max(y, top + sum(paragraph.strut))
    laid = end_box(fragment, space, resume, goes_on, y, below if goes_on else edges.bottom, count)
    if box.marker and fragment.first:
        place_marker(box.marker, fragment, space)
    return laid


def _inner_height(box: LinesBox, space: Space, edges: Edges) -> float | None:
    """The height that shares refer to of what stands in the lines: that of the block, where it is known."""
    if box.element is None:
        return space.height
    height = space.height_of(box.style, edges.down)
    return None if height is None else max(0.0, height - edges.down)


CutLine = BrokenLine | SlicedLine | None  # what goes on of a line


def _rest_of_line(
    box: LinesBox, place: Inner, filler: LineFiller
) -> tuple[list[Fragment | LineFragment], float, CutLine]:
    """What stands here of a line that the page before has cut through, its height, and what goes on still."""
    if isinstance(place, BrokenLine):
        rest = _go_on_line(place.atomics, filler.width, filler.space)
        return [rest.line], rest.line.height, BrokenLine(rest.atomics) if rest.atomics else None
    if isinstance(place, SlicedLine):
        part, cut = slice_line(place.line, box, place.taken, filler.space.room)
        return [part], part.height, cut
    return [], 0.0, None


def _cut_first_line(
    box: LinesBox, line: Line, start: int, filler: LineFiller
) -> tuple[Line, list[Fragment | LineFragment], CutLine]:
    """A line that is taller than its page: its boxes are broken, else it stands in slices. The line, its first slice,
    and what goes on."""
    room = filler.space.room
    broken = filler.break_line(line, start, room)
    if broken is not None:
        return filler.line(start), [], broken
    if line.fragment.fault is None or room <= LEAST_ROOM:
        return line, [], None
    part, cut = slice_line(line.fragment, box, 0.0, room)
    return line, [part], cut


def _stand(
    fragment: Fragment,
    above: list[Fragment | LineFragment],
    lines: list[Line],
    filler: LineFiller,
    left: float,
    top: float,
) -> float:
    """Puts what is left of a cut line, and the lines with their floats, into a fragment; gives where they end."""
    y = top
    for part in above:
        part.x += left
        part.y = y
        y += part.height
        fragment.children.append(part)
    floating = filler.placed_floats
    for line in lines:
        while floating and floating[0].item < line.end:
            _add_float(fragment, floating.pop(0).fragment, left, top)
        built = line.fragment
        built.x += left
        y += built.y  # what a line was moved down below floats
        built.y = y
        y += built.height
        fragment.children.append(built)
    for placed in floating:  # those of a line that stands in slices
        _add_float(fragment, placed.fragment, left, top)
    return y


def _join_parts(lines: list[LineFragment]) -> None:
    """Tells parts of inline boxes that are broken over lines where they stand in the whole (Fragmentation 3 §5.4)."""
    parts: dict[Box, list[InlineFragment]] = {}
    for line in lines:
        for item in line.items:
            if not isinstance(item, InlineFragment):
                break  # they stand before all else
            if not (item.first and item.last):
                parts.setdefault(item.box, []).append(item)
    for same in parts.values():
        whole = sum(part.width for part in same)
        before = 0.0
        for part in same:
            from_right = part.box.style.direction == "rtl"
            part.before, part.whole = whole - before - part.width if from_right else before, whole
            before += part.width


def _only_anchors(box: LinesBox, paragraph: Paragraph, width: float, space: Space, resume: Resume | None) -> Laid:
    """No line at all, but places of boxes that were taken out of the flow (CSS 2.2 §9.4.2)."""
    edges = box_edges(box, space.width)
    fragment = Fragment(box, width, 0.0)
    for index in paragraph.anchors if resume is None else ():
        item = paragraph.items[index]
        assert isinstance(item, Anchor)
        stood = AnchorFragment(item.box)
        stood.x, stood.y = width - edges.right if stood.from_right else edges.left, edges.top
        fragment.children.append(stood)
    top = edges.top if resume is None else 0.0
    return end_box(fragment, space, resume, None, top, edges.bottom, len(paragraph.items))


def _add_float(fragment: Fragment, floating: Fragment, x: float, y: float) -> None:
    """A float of the paragraph, before the line that it stands in."""
    floating.x += x
    floating.y += y
    fragment.children.append(floating)


def grid_within(style: ComputedStyle, space: Space, top: float) -> LineGrid | None:
    """The rows that lines in a box snap to: those around it, or its own, as high as its lines (CSS Line Grid 1 §2)."""
    if style.line_grid == "create":
        ascent, descent = metrics_of(style, space.context.font(style))
        return LineGrid(ascent + descent, ascent, 0.0) if ascent + descent > SLACK else None
    return space.grid.moved(top) if space.grid is not None else None


def border_box_width(box: Box, space: Space) -> float:
    """The used width of a block-level box in flow (CSS 2.2 §10.3.3)."""
    style = box.style
    across = edges_of(style, space.width).across
    width = own_width(style, space.width, across)
    left, right = margin_left_right(style, space.width, None)
    room = space.width - left - right
    if width is None and isinstance(style.width, str) and style.width != "auto":
        width = clamp_width(style, width_by_word(box, style.width, room, space.context), space.width, across)
    elif width is None and box.element is not None and box.element.tag in BUTTONS:
        width = clamp_width(style, width_by_word(box, "fit-content", room, space.context), space.width, across)
    elif width is None:
        width = clamp_width(style, max(across, room), space.width, across)
    return within_words(box, width, room, space.context)


def width_by_word(box: Box, word: str, room: float, context: Context) -> float:
    """The border box width that min-content, max-content or fit-content stands for (CSS Sizing 3 §5.1)."""
    least, most = natural_widths(box, context, room)
    if word == "min-content":
        return least
    return most if word == "max-content" else max(least, min(most, room))


def place_marker(marker: Box, fragment: Fragment, space: Space) -> None:
    """Hangs an outside list marker to the left of the first line (CSS Lists 3 §3.1)."""
    _, wide = content_widths(marker, space.context)
    laid = layout(marker, Space(space.context, wide, fixed_width=wide), None).fragment
    if laid is None:
        return
    gap = marker.style.font_size * 0.5
    rtl = fragment.box.style.direction == "rtl"
    laid.x = fragment.width + gap if rtl else -wide - gap
    laid.y = max(0.0, (fragment.baseline or 0.0) - (laid.baseline or 0.0))
    fragment.children.insert(0, laid)


class GoingOn(NamedTuple):
    """What stands on this page of a line that was cut through, and what goes on still."""

    line: LineFragment
    atomics: tuple[BrokenAtomic, ...]


def _go_on_line(broken: tuple[BrokenAtomic, ...], width: float, space: Space) -> GoingOn:
    """The boxes of a line that the page before has cut through: its words stand there."""
    line = LineFragment(width, 0.0, 0.0)
    rest: list[BrokenAtomic] = []
    for atomic in broken:
        around = atomic_space(atomic.box, width, space, space.room)._replace(at_top=space.at_top)
        laid = layout(atomic.box, around, atomic.resume)
        if laid.fragment is None:
            rest.append(atomic)
            continue
        laid.fragment.x = atomic.x
        line.items.append(laid.fragment)
        line.height = line.baseline = max(line.height, laid.fragment.height)
        if laid.resume is not None:
            rest.append(atomic._replace(resume=laid.resume))
    return GoingOn(line, tuple(rest))


def _lines_kept(
    lines: list[Line],
    room: float,
    style: ComputedStyle,
    filler: LineFiller,
    end: int,
    at_top: bool,
    start: int,
) -> int:
    """How many lines stay on this page: what fits, less what orphans and widows ask for."""
    fit = 0
    used = 0.0
    for line in lines:
        used += line.fragment.y + line.fragment.height
        if used > room:
            break
        fit += 1
    if fit == len(lines) and end >= len(filler.paragraph.items):
        return fit
    full = fit
    rest = len(lines) - fit
    if end < len(filler.paragraph.items):
        rest += filler.count_more(end, style.widows - rest)
    if rest < style.widows:
        fit -= style.widows - rest
    if fit > 0 and (start or fit >= style.orphans):
        return fit
    if not at_top:
        return 0
    return fit if fit > 0 else full  # what cannot be met on a whole page is not asked for


def lines_content_widths(box: LinesBox, context: Context) -> tuple[float, float]:
    """Min-content and max-content widths of the content box."""
    paragraph = paragraph_of(box, context)
    indent = resolve(box.style.text_indent, 0.0)
    paragraph.set_shares(0.0)
    narrow, wide = paragraph.content_widths(indent)
    narrow = narrowed(narrow, box.style, context)
    if paragraph.atomics:
        narrow = _with_atomics(paragraph, indent, context, 0)[0]
        wide = _with_atomics(paragraph, indent, context, 1)[1]
    if paragraph.floats:
        floating = [_float_widths(paragraph.items[index], context) for index in paragraph.floats]
        narrow, wide = max([narrow, *(pair[0] for pair in floating)]), wide + sum(pair[1] for pair in floating)
    return max(0.0, narrow), max(0.0, wide)  # which a hanging indent makes less


def narrowed(narrow: float, style: ComputedStyle, context: Context) -> float:
    """The narrowest that lines may be, where a word that is wider than the page may be broken."""
    if narrow > context.paper and not context.shrinking and may_wrap_anywhere(style):
        return context.paper / 2  # in a table, other columns want room beside it
    return narrow


def _float_widths(item: Item, context: Context) -> tuple[float, float]:
    """The narrowest and widest margin box of a float among the words."""
    assert isinstance(item, FloatItem)
    narrow, wide = content_widths(item.box, context)
    margins = sum(margin_left_right(item.box.style, 0.0, None))
    return narrow + margins, wide + margins


def _with_atomics(paragraph: Paragraph, indent: float, context: Context, which: int) -> tuple[float, float]:
    """The paragraph's widths where its atomic boxes are as narrow as they can be (0), or as wide as they want (1)."""
    for index in paragraph.atomics:
        atomic = paragraph.items[index]
        assert isinstance(atomic, Atomic)
        left, right = margin_left_right(atomic.box.style, 0.0, None)
        paragraph.set_width(index, content_widths(atomic.box, context)[which] + left + right)
    return paragraph.content_widths(indent)
