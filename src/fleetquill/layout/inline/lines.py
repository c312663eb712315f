"""Inline layout: a paragraph filled into lines, and the lines into pages (CSS 2.2 §9.4.2, §10.8)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.layout.block.floats import go_on_with_floats, set_float
from fleetquill.layout.block.margins import is_root_of_context
from fleetquill.layout.boxes.boxes import Box, Element, PictureBox, TextBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths, layout
from fleetquill.layout.contract.float_space import Floats, FloatSpace
from fleetquill.layout.contract.fragments import AnchorFragment, Fragment, LineFault, LineFragment, TextSpan
from fleetquill.layout.contract.resume import BrokenAtomic, BrokenLine, Resume
from fleetquill.layout.contract.sizing import (
    clamp_height,
    clamp_width,
    edges_of,
    height_by_ratio,
    margin_left_right,
    own_height,
    own_width,
)
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.first_line import first_line_children
from fleetquill.layout.inline.inline_items import (
    Anchor,
    Atomic,
    FloatItem,
    ForcedBreak,
    TextRun,
    alignment,
    highest,
)
from fleetquill.layout.inline.line_builder import LineBuilder, hyphen_span
from fleetquill.layout.inline.paragraph import EPSILON, Paragraph
from fleetquill.layout.inline.paragraph_builder import measured_paragraph, shared_paragraph
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import resolve
from fleetquill.text.shaping import Word, clusters

MOST_BALANCED_LINES: Final = 10
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
            first = measured_paragraph(box.style, first_line_children(box, box.first_line), context)
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
    if trials is None or resume is not None or (space.floats is not None and space.floats.floats.rects):
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
    edges = edges_of(style, space.width)
    width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
    paragraph = paragraph_of(box, space.context)
    inner = max(0.0, width - edges.across)
    clone = style.box_decoration_break == "clone"
    top = edges.top if resume is None or clone else 0.0
    room = space.room - top - edges.bottom + SLACK
    around = None
    if space.floats is not None and not is_root_of_context(box):
        around = space.floats.moved(edges.left, top)
    if paragraph.anchors and paragraph.is_empty:
        return Laid(_only_anchors(box, paragraph, width, space), None)
    filler = LineFiller(box, paragraph, inner, space._replace(width=inner, room=room), around)
    start = resume.at if resume else 0
    going_on = filler.go_on(resume) if resume is not None else []
    inner_place = resume.inner if resume is not None else None
    broken = _go_on_line(inner_place.atomics, inner, filler.space) if isinstance(inner_place, BrokenLine) else None
    used = broken.line.height if broken is not None else 0.0
    if broken is not None and broken.atomics:
        lines, end = list[Line](), start
    else:
        lines, end = filler.fill(start, room, used)
    count = len(paragraph.items)
    forced: BrokenLine | None = None
    if end < count or (lines and filler.height_of(lines) + used > room):
        kept = _lines_kept(lines, room - used, style, filler, end, space.at_top, start)
        if not kept and not (going_on or broken):
            waits = bool(lines) and lines[0].fragment.y > SLACK and not filler.placed_floats  # below floats around it
            if not space.at_top or not lines or waits:
                return Laid(None, resume or Resume())
            kept = 1
            forced = filler.break_line(lines[0], start, room)
            if forced is not None:
                lines[0] = filler.line(start)
        filler.forget_floats(lines[kept - 1].end if kept else start)
        lines = lines[:kept]
        end = lines[-1].end if lines else start
    fragment = Fragment(box, width, 0.0)
    for part in going_on:
        _add_float(fragment, part, edges.left, top)
    y = top
    if broken is not None:
        broken.line.x, broken.line.y = edges.left, y
        y += broken.line.height
        fragment.children.append(broken.line)
    floating = filler.placed_floats
    for line in lines:
        while floating and floating[0].item < line.end:
            _add_float(fragment, floating.pop(0).fragment, edges.left, top)
        built = line.fragment
        built.x += edges.left
        y += built.y  # what a line was moved down below floats
        built.y = y
        y += built.height
        fragment.children.append(built)
    if filler.own_floats:
        y = max(y, top + filler.around.floats.bottom)
    goes_on = filler.resume(end, forced if broken is None else BrokenLine(broken.atomics))
    fragment.first = resume is None
    fragment.last = goes_on is None
    if lines:
        fragment.baseline = lines[0].fragment.y + lines[0].fragment.baseline
    fragment.height = _height(box, space, y - top, top, edges.bottom, fragment)
    if clone and not fragment.last:
        fragment.height += edges.bottom
    if box.marker and fragment.first:
        place_marker(box.marker, fragment, space)
    return Laid(fragment, goes_on)


def _only_anchors(box: LinesBox, paragraph: Paragraph, width: float, space: Space) -> Fragment:
    """No line at all, but places of boxes that were taken out of the flow (CSS 2.2 §9.4.2)."""
    edges = edges_of(box.style, space.width)
    fragment = Fragment(box, width, 0.0)
    for index in paragraph.anchors:
        item = paragraph.items[index]
        assert isinstance(item, Anchor)
        stood = AnchorFragment(item.box)
        stood.x, stood.y = edges.left, edges.top
        fragment.children.append(stood)
    fragment.height = _height(box, space, 0.0, edges.top, edges.bottom, fragment)
    return fragment


def _add_float(fragment: Fragment, floating: Fragment, x: float, y: float) -> None:
    """A float of the paragraph, before the line that it stands in."""
    floating.x += x
    floating.y += y
    fragment.children.append(floating)


def border_box_width(box: Box, space: Space) -> float:
    """The used width of a block-level box in flow (CSS 2.2 §10.3.3)."""
    style = box.style
    across = edges_of(style, space.width).across
    width = own_width(style, space.width, across)
    if width is not None:
        return width
    if style.width in ("min-content", "max-content", "fit-content"):
        least, most = content_widths(box, space.context)
        if style.width != "fit-content":
            return least if style.width == "min-content" else most
        left, right = margin_left_right(style, space.width, None)
        return max(least, min(most, space.width - left - right))
    left, right = margin_left_right(style, space.width, None)
    return clamp_width(style, max(across, space.width - left - right), space.width, across)


def _height(box: Box, space: Space, content: float, top: float, bottom: float, fragment: Fragment) -> float:
    """The border box height of this fragment."""
    if space.fixed_height is not None and fragment.first and fragment.last:
        return space.fixed_height
    natural = top + content + bottom
    if not (fragment.first and fragment.last):
        return natural if fragment.last else top + content
    given = own_height(box.style, space.height, top + bottom)
    if given is None:
        by_ratio = height_by_ratio(box.style, fragment.width, edges_of(box.style, space.width))
        given = natural if by_ratio is None else max(natural, by_ratio)
    return clamp_height(box.style, given, space.height, top + bottom)


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


class Line(NamedTuple):
    fragment: LineFragment
    end: int  # index after its last item


class PlacedFloat(NamedTuple):
    """A float of the paragraph: its item, where it was placed, and the floats before it."""

    item: int
    fragment: Fragment
    mark: tuple[int, int]


class GoingOn(NamedTuple):
    """What stands on this page of a line that was cut through, and what goes on still."""

    line: LineFragment
    atomics: tuple[BrokenAtomic, ...]


def _go_on_line(broken: tuple[BrokenAtomic, ...], width: float, space: Space) -> GoingOn:
    """The boxes of a line that the page before has cut through: its words stand there."""
    line = LineFragment(width, 0.0, 0.0)
    rest: list[BrokenAtomic] = []
    for atomic in broken:
        laid = layout(atomic.box, _atomic_space(atomic.box, width, space, space.room), atomic.resume)
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
    rest = len(lines) - fit
    if end < len(filler.paragraph.items):
        rest += filler.count_more(end, style.widows - rest)
    if rest < style.widows:
        fit -= style.widows - rest
    if fit < style.orphans and not (start and fit > 0):
        return max(0, fit) if at_top and fit > 0 else 0
    return max(0, fit)


class LineFiller:
    """Fills lines of one width."""

    def __init__(
        self, box: LinesBox, paragraph: Paragraph, width: float, space: Space, around: FloatSpace | None = None
    ) -> None:
        self.box = box
        self.paragraph = paragraph
        self.width = width
        self.own_floats = around is None
        self.around = FloatSpace(Floats(), 0.0, 0.0) if around is None else around
        self.floats = bool(paragraph.floats or self.around.floats.rects)
        self.placed_floats: list[PlacedFloat] = []
        self.space = space
        style = paragraph.style
        self.indent = resolve(style.text_indent, width)
        self.rtl = paragraph.base_level % 2 == 1
        self.align = alignment(style.text_align, self.rtl)
        self.pretty = style.text_wrap == "pretty" and style.white_space not in ("nowrap", "pre")
        if paragraph.atomics:
            self._lay_out_atomics()
        self.fill_width = self._balanced() if style.text_wrap == "balance" else width

    def go_on(self, resume: Resume) -> list[Fragment]:
        """The parts of floats that stand here of those that the page before has cut through."""
        parts = go_on_with_floats(resume.floats, self.around, self.space)
        self.floats = self.floats or bool(parts)
        return parts

    def resume(self, end: int, line: BrokenLine | None) -> Resume | None:
        """Where to go on after the item before `end`: with boxes of its line, or floats, that go on."""
        inner = line if line is not None and line.atomics else None
        floats = tuple(self.around.floats.broken) if self.own_floats else ()
        if end >= len(self.paragraph.items) and inner is None and not floats:
            return None
        return Resume(end, inner, "", floats)

    def fill(self, start: int, room: float, used: float = 0.0) -> tuple[list[Line], int]:
        """Lines from item `start` until one does not fit into `room`; that one is among them.

        Where a float in a line must wait for the next page, the line waits, too, and is not.
        """
        lines: list[Line] = []
        while start < len(self.paragraph.items):
            line = self._beside_floats(start, used, room) if self.floats else self.line(start)
            if line is None:
                break
            lines.append(line)
            start = line.end
            used += line.fragment.y + line.fragment.height
            if used > room:
                break
        return lines, start

    def _beside_floats(self, start: int, y: float, room: float) -> Line | None:
        """A line in what floats leave free at `y`; floats that stand in it are placed first."""
        full, around = self.width, self.around
        height = sum(self.paragraph.strut)
        placed = {placed.item for placed in self.placed_floats}
        pending = [index for index in self.paragraph.floats if index >= start and index not in placed]
        try:
            while True:
                least = self._least_width(start)
                top, left, right = around.floats.find(least, height, around.y + y, around.x, around.x + full)
                self.width = self.fill_width = max(0.0, right - left)
                if not pending or pending[0] >= self._line_end(start):
                    break
                if not self._place_float(pending.pop(0), y):
                    return None
            line = self.line(start)
        finally:
            self.width = self.fill_width = full
        line.fragment.x = left - around.x
        line.fragment.y = top - around.y - y
        return line

    def _least_width(self, start: int) -> float:
        """The width up to the first place where a line from `start` may break."""
        paragraph = self.paragraph
        stop = start
        while stop < len(paragraph.items) - 1 and not paragraph.breaks[stop]:
            stop += 1
        return paragraph.ends[stop] - paragraph.starts[start]

    def _place_float(self, index: int, y: float) -> bool:
        item = self.paragraph.items[index]
        assert isinstance(item, FloatItem)
        mark = self.around.floats.mark()
        at_top = self.space.at_top and y == 0.0 and not self.placed_floats
        placed = set_float(item.box, self.space, self.around, y, at_top=at_top)
        if placed is None:
            return False
        self.placed_floats.append(PlacedFloat(index, placed[0], mark))
        return True

    def forget_floats(self, end: int) -> None:
        """Floats in lines that wait for the next page wait, too."""
        for number, placed in enumerate(self.placed_floats):
            if placed.item >= end:
                self.around.floats.back_to(placed.mark)
                del self.placed_floats[number:]
                return

    def break_line(self, line: Line, start: int, room: float) -> BrokenLine | None:
        """Cuts the boxes of a line that is taller than its page; the line is to be built again. None where it has
        none that can be cut: then it says that it runs off the paper."""
        over = line.fragment.y + line.fragment.height - room
        if over <= SLACK:
            return None
        within = [index for index in self.paragraph.atomics if start <= index < line.end]
        tallest = max((self.paragraph.laid[index].height for index in within), default=0.0)
        limit = max(0.0, tallest - over)  # what the tallest of them may have
        left_edges = {item.box: item.x for item in line.fragment.items if isinstance(item, Fragment)}
        broken: list[BrokenAtomic] = []
        for index in within:
            atomic = self.paragraph.items[index]
            assert isinstance(atomic, Atomic)
            if self.paragraph.laid[index].height <= limit or isinstance(atomic.box, PictureBox):
                continue
            space = _atomic_space(atomic.box, self.width, self.space, limit)
            laid = layout(atomic.box, space, None)
            if laid.fragment is not None and laid.resume is not None:
                self.paragraph.laid[index] = laid.fragment
                broken.append(BrokenAtomic(atomic.box, laid.resume, left_edges.get(atomic.box, 0.0)))
        if not broken:
            message = f"A line is {over * 0.75:.1f} pt taller than its page; it runs off the paper."
            line.fragment.fault = LineFault(message, _element_of(self.box))
            self.space.context.has_faults = True
            return None
        return BrokenLine(tuple(broken))

    def count_more(self, start: int, most: int) -> int:
        """How many lines follow, up to `most`."""
        found = 0
        while found < most and start < len(self.paragraph.items):
            start = self._line_end(start)
            found += 1
        return found

    @staticmethod
    def height_of(lines: list[Line]) -> float:
        return sum([line.fragment.y + line.fragment.height for line in lines])

    def _line_end(self, start: int) -> int:
        if self.pretty and not self.floats:
            plan = self.paragraph.plan(start, self.width, self.indent, self.align == "justify")
            return plan[start]
        return self.paragraph.line_end(start, self.fill_width - (self.indent if start == 0 else 0.0))

    def _balanced(self) -> float:
        """The least width that takes no more lines than the full one (CSS Text 4 §6.4.1)."""
        lines = self._count_lines(self.width)
        if not 1 < lines <= MOST_BALANCED_LINES:
            return self.width
        low, high = 0.0, self.width
        while high - low > 1:
            middle = (low + high) / 2
            if self._count_lines(middle) > lines:
                low = middle
            else:
                high = middle
        return high

    def _count_lines(self, width: float) -> int:
        start = count = 0
        while start < len(self.paragraph.items) and count <= MOST_BALANCED_LINES:
            start = self.paragraph.line_end(start, width - (self.indent if start == 0 else 0.0))
            count += 1
        return count

    def line(self, start: int) -> Line:
        """The line that begins with item `start`."""
        if start == 0 and self.paragraph.first_line is not None:
            return self._first_line(self.paragraph.first_line)
        paragraph = self.paragraph
        indent = self.indent if start == 0 else 0.0
        available = self.width - indent
        end = self._line_end(start)
        natural = paragraph.ends[end - 1] - paragraph.starts[start]
        hyphen = end - 1 in paragraph.soft and end < len(paragraph.items)
        if hyphen:
            run = paragraph.run_at(end - 1)
            natural += run.width(run.hyphen_word)
        over = 0.0
        if natural > available + 0.5:
            if _cuts_off(paragraph.style):
                return Line(self._cut_line(start, end, available, indent), end)
            if self.align != "justify" or not self.pretty:
                over = natural - available
        last = end >= len(paragraph.items) or isinstance(paragraph.items[end - 1], ForcedBreak)
        leaders = sum([start <= index < end for index in paragraph.leaders])
        if leaders:
            runs = paragraph.runs_between(start, end)
            builder = LineBuilder(self, start, end, runs, 0.0, hyphen)
            return Line(builder.build(0.0 if self.rtl else indent, max(0.0, available - natural) / leaders), end)
        x, extra = self._place(start, end, available - natural, last)
        if not self.rtl:
            x += indent
        runs = paragraph.runs if len(paragraph.runs) == 1 else paragraph.runs_between(start, end)
        if paragraph.plain and len(runs) == 1:
            line = self._plain_line(runs[0], start, end, x, extra, hyphen)
        else:
            line = LineBuilder(self, start, end, runs, extra, hyphen).build(x)
        if over:
            self._note_overflow(line, start, end, over)
        return Line(line, end)

    def _first_line(self, first: Paragraph) -> Line:
        """The first line in a style of its own: measured in its own paragraph, item for item the same."""
        whole = self.paragraph
        try:
            self.paragraph = first
            line = self.line(0)
        finally:
            self.paragraph = whole
        for index in range(line.end):  # a word that the first line had to split is split in both
            item, own = first.items[index], whole.items[index]
            if isinstance(item, Word) and isinstance(own, Word) and len(item.text) < len(own.text):
                whole.split(index, [len(item.text)], hyphen=False)
        return line

    def _place(self, start: int, end: int, spare: float, last: bool) -> tuple[float, float]:
        """Where the line starts, and what each space in it grows by."""
        align = self.align
        if align == "justify":
            gaps = end - 1 - start - self.paragraph.glues[start : end - 1].count(0.0)
            if last:
                align = self.paragraph.last_alignment
            if (align == "justify" or (spare < 0 and self.pretty)) and gaps and (spare > 0 or self.pretty):
                return 0.0, spare / gaps
            if align == "justify":
                align = "right" if self.rtl else "left"
        if spare <= 0 or align == "left":
            return (min(0.0, spare) if align == "right" else 0.0), 0.0
        return (spare if align == "right" else spare / 2), 0.0

    def _plain_line(self, run: TextRun, start: int, end: int, x: float, extra: float, hyphen: bool) -> LineFragment:
        """A line of words in one style and nothing else."""
        ascent, descent = highest(self.paragraph.strut, run.metrics, run.shift)
        line = LineFragment(self.width, ascent + descent, ascent)
        stop = end - 1 if isinstance(self.paragraph.items[end - 1], ForcedBreak) else end
        if self.paragraph.has_tabs:
            return LineBuilder(self, start, end, [run], extra, hyphen).build(x)
        if stop > start:
            span = self.span(run, start, stop, x, ascent, extra, ends_line=True)
            line.items.append(span)
            if hyphen:
                line.items.append(hyphen_span(run, x + span.width, ascent))
        return line

    def span(
        self, run: TextRun, start: int, stop: int, x: float, ascent: float, extra: float, *, ends_line: bool
    ) -> TextSpan:
        """Words of one run; the space after the last counts unless the line ends there."""
        paragraph = self.paragraph
        words = paragraph.items[start:stop]
        glues = paragraph.glues[start:stop]
        inner = glues[:-1]
        gaps = len(inner) - inner.count(0.0)
        spaced = None
        if gaps != len(inner) or (glues[-1] and not ends_line):
            spaced = [bool(glue) for glue in glues]
            if ends_line:
                spaced[-1] = False
        width = paragraph.ends[stop - 1] - paragraph.starts[start] + extra * gaps
        return TextSpan(run, words, x, width, ascent - run.shift, run.space + extra, spaced)  # type: ignore[arg-type]

    def _cut_line(self, start: int, end: int, available: float, indent: float) -> LineFragment:
        """A line that ends with an ellipsis where it would run over (CSS Overflow 3 §5.1)."""
        paragraph = self.paragraph
        run = paragraph.run_at(start)
        ellipsis = run.setting.segment("…")
        room = available - run.width(ellipsis)
        stop = start
        while stop < end and paragraph.ends[stop] - paragraph.starts[start] <= room:
            stop += 1
        ascent, descent = highest(paragraph.strut, run.metrics, run.shift)
        line = LineFragment(self.width, ascent + descent, ascent)
        kept = [item for item in paragraph.items[start:stop] if isinstance(item, Word)]
        left = room - (paragraph.starts[stop] - paragraph.starts[start])
        if stop < end and isinstance(paragraph.items[stop], Word):
            kept.append(run.setting.segment(_fitting(paragraph.items[stop], run, left)))  # type: ignore[arg-type]
        words = [*kept, ellipsis]
        spaced = [word.spaced for word in words]
        width = sum(run.width(word) + run.space * word.spaced for word in words)
        line.items.append(TextSpan(run, words, indent, width, ascent - run.shift, run.space, spaced))
        line.fault = LineFault("Text that does not fit its box was cut with an ellipsis.", _element_of(self.box))
        self.space.context.has_faults = True
        return line

    def _note_overflow(self, line: LineFragment, start: int, end: int, by: float) -> None:
        """Becomes a remark where the line stays on its page: layout tries out more than it keeps."""
        words = " ".join(i.text for i in self.paragraph.items[start:end] if isinstance(i, Word))
        shown = words if len(words) <= 40 else f"{words[:37]}…"
        what = f"'{shown}'" if words else "A picture or box"
        line.fault = LineFault(
            f"{what} is {by * 0.75:.1f} pt wider than its line; it runs over the edge.",
            _element_of(self.box),
        )
        self.space.context.has_faults = True

    def _lay_out_atomics(self) -> None:
        paragraph = self.paragraph
        for index in paragraph.atomics:
            atomic = paragraph.items[index]
            assert isinstance(atomic, Atomic)
            fragment = paragraph.laid[index] = _layout_atomic(atomic.box, self.width, self.space)
            left, right = margin_left_right(atomic.box.style, self.width, None)
            paragraph.set_width(index, fragment.width + left + right)
            if paragraph.first_line is not None:
                paragraph.first_line.set_width(index, fragment.width + left + right)
                paragraph.first_line.laid[index] = fragment


def _element_of(box: Box) -> Element | None:
    """The element that the first of a box's content came from."""
    while box.element is None and box.children:
        box = box.children[0]
    return box.element


def _cuts_off(style: ComputedStyle) -> bool:
    """Whether text that runs over is cut with an ellipsis; an anonymous box does as its parent."""
    if style.anonymous and style.parent is not None:
        style = style.parent
    return style.text_overflow == "ellipsis" and style.overflow != "visible"


def _fitting(word: Word, run: TextRun, room: float) -> str:
    """As many clusters of a word as fit."""
    text = ""
    for cluster in clusters(word.text):
        room -= run.width(run.setting.segment(cluster))
        if room < 0:
            break
        text += cluster
    return text


def _layout_atomic(box: Box, width: float, space: Space) -> Fragment:
    """An inline-block or the like, whole."""
    fragment = layout(box, _atomic_space(box, width, space, UNBOUNDED), None).fragment
    assert fragment is not None
    return fragment


def _atomic_space(box: Box, width: float, space: Space, room: float) -> Space:
    """The space of an inline-block or the like, shrunk to fit (CSS 2.2 §10.3.9)."""
    fixed = None
    if not isinstance(box, PictureBox):
        across = edges_of(box.style, width).across
        if own_width(box.style, width, across) is None:
            least, most = content_widths(box, space.context)
            left, right = margin_left_right(box.style, width, None)
            fixed = max(least, min(most, width - left - right))
    return Space(space.context, width, space.height, room, space.page, fixed_width=fixed)


def lines_content_widths(box: LinesBox, context: Context) -> tuple[float, float]:
    """Min-content and max-content widths of the content box."""
    paragraph = paragraph_of(box, context)
    narrow, wide = paragraph.content_widths()
    if paragraph.atomics:
        narrow = _with_atomics(paragraph, context, 0)[0]
        wide = _with_atomics(paragraph, context, 1)[1]
    indent = box.style.text_indent
    if indent == 0.0:
        return narrow, wide
    indent = resolve(indent, 0.0)
    return narrow + max(0.0, indent), wide + max(0.0, indent)


def _with_atomics(paragraph: Paragraph, context: Context, which: int) -> tuple[float, float]:
    """The paragraph's widths where its atomic boxes are as narrow as they can be (0), or as wide as they want (1)."""
    for index in paragraph.atomics:
        atomic = paragraph.items[index]
        assert isinstance(atomic, Atomic)
        left, right = margin_left_right(atomic.box.style, 0.0, None)
        paragraph.set_width(index, content_widths(atomic.box, context)[which] + left + right)
    return paragraph.content_widths()
