"""Fills lines of one width: which words stand on a line, beside which floats, and how it is justified."""

from __future__ import annotations

import math
from typing import Final, NamedTuple

from fleetquill.deadline import heed
from fleetquill.layout.block.floats import go_on_with_floats, margin_box_width, set_float, set_whole_float
from fleetquill.layout.boxes.boxes import Box, Element, PictureBox
from fleetquill.layout.contract.dispatch import fit_content, layout
from fleetquill.layout.contract.float_space import Floats, FloatSpace
from fleetquill.layout.contract.fragments import Fragment, LineFault, LineFragment, TextSpan, end_with_space
from fleetquill.layout.contract.resume import BrokenAtomic, BrokenLine, Resume, SlicedLine
from fleetquill.layout.contract.sizing import (
    edges_of,
    margin_left_right,
    own_width,
)
from fleetquill.layout.contract.space import OUT_OF_SIGHT, SLACK, UNBOUNDED, LineGrid, Space
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.inline_items import (
    Atomic,
    FloatItem,
    ForcedBreak,
    TextRun,
    alignment,
    highest,
)
from fleetquill.layout.inline.line_builder import LineBuilder, hyphen_span
from fleetquill.layout.inline.paragraph import Paragraph
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.shaping import Word, clusters

MOST_BALANCED_LINES: Final = 10
OVERRUN: Final = "↩"  # at the end of a line that goes on where it would run off the page
NO_GAPS: Final[frozenset[int]] = frozenset()
ROUNDED: Final = 1.0  # px that a line may be too wide by and stands where it is aligned: widths that others measured


class Line(NamedTuple):
    fragment: LineFragment
    end: int  # index after its last item


class PlacedFloat(NamedTuple):
    """A float of the paragraph: its item, where it was placed, and the floats before it."""

    item: int
    fragment: Fragment
    mark: tuple[int, int]


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
        paragraph.set_shares(width)
        if paragraph.first_line is not None:
            paragraph.first_line.set_shares(width)
        if paragraph.atomics:
            self._lay_out_atomics()
        self.fill_width = self._balanced() if style.text_wrap == "balance" else width

    def go_on(self, resume: Resume) -> list[Fragment]:
        """The parts of floats that stand here of those that the page before has cut through."""
        parts = go_on_with_floats(resume.floats, self.around, self.space)
        self.floats = self.floats or bool(parts)
        return parts

    def resume(self, end: int, line: BrokenLine | SlicedLine | None) -> Resume | None:
        """Where to go on after the item before `end`: with boxes of its line, or floats, that go on."""
        inner = None if isinstance(line, BrokenLine) and not line.atomics else line
        floats = tuple(self.around.floats.broken) if self.own_floats else ()
        if end >= len(self.paragraph.items) and inner is None and not floats:
            return None
        return Resume(end, inner, "", floats)

    def fill(self, start: int, room: float, used: float = 0.0) -> tuple[list[Line], int]:
        """Lines from item `start` until one does not fit into `room`; that one is among them.

        Where a float in a line must wait for the next page, the line waits, too, and is not.
        """
        lines: list[Line] = []
        clamp = line_clamp(self.paragraph.style)
        while start < len(self.paragraph.items):
            heed()
            line = self._beside_floats(start, used) if self.floats else self.line(start)
            if line is None:
                break
            if len(lines) + 1 == clamp and line.end < len(self.paragraph.items):
                indent = self.indent if start == 0 else 0.0
                cut = self._cut_line(start, line.end, self.width - indent, indent)
                line = Line(cut, len(self.paragraph.items))
            if self.space.grid is not None and self.paragraph.style.line_snap != "none":
                self._snap(line.fragment, self.space.grid, used)
            if self.floats:
                self._clear_after(line, used)
            if not (self.paragraph.widths[start] or self.paragraph.has_line(start, line.end)):
                line.fragment.y = line.fragment.height = 0.0
            lines.append(line)
            start = line.end
            used += line.fragment.y + line.fragment.height
            if used > room:
                break
        return lines, start

    def _clear_after(self, line: Line, y: float) -> None:
        """Makes a line that ends with a break which clears floats reach down to below them (HTML §15.3.4)."""
        last = self.paragraph.items[line.end - 1]
        if isinstance(last, ForcedBreak) and last.clear is not None:
            bottom = self.around.y + y + line.fragment.y + line.fragment.height
            line.fragment.height += self.around.floats.below(last.clear, bottom) - bottom

    def _snap(self, line: LineFragment, grid: LineGrid, y: float) -> None:
        """Moves a line down to the next row of the grid (CSS Line Grid 1 §3)."""
        top = grid.y + y + line.y
        if self.paragraph.style.line_snap == "baseline":
            shift = (grid.baseline - top - line.baseline) % grid.pitch
        else:
            rows = math.ceil(line.height / grid.pitch - SLACK)
            shift = (-top) % grid.pitch + (rows * grid.pitch - line.height) / 2
        if shift < grid.pitch - SLACK:
            line.y += shift

    def _beside_floats(self, start: int, y: float) -> Line | None:
        """A line in what floats leave free at `y`, with the floats that stand in it: before it those that have room
        beside what stands before them, the others below (CSS 2.2 §9.5.1). None where one has no place on the page."""
        placed = {placed.item for placed in self.placed_floats}
        pending = [index for index in self.paragraph.floats if index >= start and index not in placed]
        waiting: list[int] = []
        line = self._line_beside(start, y, pending, waiting)
        if line is None or not waiting:
            return line
        mark, count = self.around.floats.mark(), len(self.placed_floats)
        below = y + line.fragment.y + line.fragment.height
        if all(self._place_below(index, below) for index in waiting):
            return line
        self.around.floats.back_to(mark)  # they would be on the next page: they stand above as well as they can
        del self.placed_floats[count:]
        return self._line_beside(start, y, waiting + pending, None)

    def _line_beside(self, start: int, y: float, pending: list[int], waiting: list[int] | None) -> Line | None:
        """The line, once the floats in it are placed; those that have no room beside what stands before them are put
        into `waiting`, where it is given."""
        full, around = self.width, self.around
        height = sum(self.paragraph.strut)
        try:
            while True:
                least = self._least_width(start)
                top, left, right = around.floats.find(least, height, around.y + y, around.x, around.x + full)
                self.width = self.fill_width = max(0.0, right - left)
                if not pending or pending[0] >= self._line_end(start):
                    break
                if waiting or (waiting is not None and not self._fits_beside(pending[0], start)):
                    waiting.append(pending.pop(0))
                elif not self._place_float(pending.pop(0), y):
                    return None
            line = self.line(start)
        finally:
            self.width = self.fill_width = full
        line.fragment.x = left - around.x
        line.fragment.y = top - around.y - y
        return line

    def _fits_beside(self, index: int, start: int) -> bool:
        """Whether a float has room beside what stands before it in its line."""
        box, paragraph = self._float(index), self.paragraph
        before = paragraph.ends[index - 1] - paragraph.starts[start] if index > start else 0.0
        indent = self.indent if start == 0 else 0.0
        return before <= 0 or before + indent + margin_box_width(box, self.space) <= self.width + SLACK

    def _least_width(self, start: int) -> float:
        """The width up to the first place where a line from `start` may break."""
        paragraph = self.paragraph
        stop = start
        while stop < len(paragraph.items) - 1 and not paragraph.breaks[stop]:
            stop += 1
        return paragraph.ends[stop] - paragraph.starts[start]

    def _float(self, index: int) -> Box:
        item = self.paragraph.items[index]
        assert isinstance(item, FloatItem)
        return item.box

    def _place_float(self, index: int, y: float) -> bool:
        mark = self.around.floats.mark()
        at_top = self.space.at_top and y == 0.0 and not self.placed_floats
        placed = set_float(self._float(index), self.space, self.around, y, at_top=at_top)
        if placed is None:
            return False
        self.placed_floats.append(PlacedFloat(index, placed[0], mark))
        return True

    def _place_below(self, index: int, y: float) -> bool:
        mark = self.around.floats.mark()
        fragment = set_whole_float(self._float(index), self.space, self.around, y)
        if fragment is not None:
            self.placed_floats.append(PlacedFloat(index, fragment, mark))
        return fragment is not None

    def forget_floats(self, end: int) -> None:
        """Floats in lines that wait for the next page wait, too."""
        for number, placed in enumerate(self.placed_floats):
            if placed.item >= end:
                self.around.floats.back_to(placed.mark)
                del self.placed_floats[number:]
                return

    def break_line(self, line: Line, start: int, room: float) -> BrokenLine | None:
        """Cuts the boxes of a line that is taller than its page; the line is to be built again. None where it has
        none that can be cut: then it says that it is cut in slices."""
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
            space = atomic_space(atomic.box, self.width, self.space, limit)
            laid = layout(atomic.box, space, None)
            if laid.fragment is not None and laid.resume is not None:
                self.paragraph.laid[index] = laid.fragment
                broken.append(BrokenAtomic(atomic.box, laid.resume, left_edges.get(atomic.box, 0.0)))
        if not broken:
            message = f"A line is {over * 0.75:.1f} pt taller than its page; it is cut in slices."
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
        end = self._usual_end(start)
        room = max(self.space.context.paper, self.width)
        if self.paragraph.ends[end - 1] - self.paragraph.starts[start] <= room + SLACK:
            return end
        if not may_wrap_anywhere(self.paragraph.style):
            return end
        self.pretty = False  # what was planned for the lines to come does not hold
        return self.paragraph.end_anywhere(start, self.width - (self.indent if start == 0 else 0.0))

    def _usual_end(self, start: int) -> int:
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
        x, extra, gaps = self._place(start, end, available - natural, last)
        if not self.rtl:
            x += indent
        runs = paragraph.runs if len(paragraph.runs) == 1 else paragraph.runs_between(start, end)
        if paragraph.plain and len(runs) == 1 and not gaps:
            line = self._plain_line(runs[0], start, end, x, extra, hyphen)
        else:
            line = LineBuilder(self, start, end, runs, extra, hyphen, gaps).build(x)
        if over:
            self._note_overflow(line, start, end, over)
        if end - 1 in paragraph.overrun and end < len(paragraph.items):
            self._mark_overrun(line, end, natural, indent)
        return Line(line, end)

    def _mark_overrun(self, line: LineFragment, end: int, natural: float, indent: float) -> None:
        """Shows that a line goes on in the next, where it would have run off the page."""
        run = self.paragraph.run_at(end - 1)
        mark = run.setting.mark(OVERRUN)
        width = run.width(mark)
        x = self.width - indent - natural - width if self.rtl else indent + natural
        line.items.append(TextSpan(run, [mark], x, width, line.baseline - run.shift, run.space, None))
        line.fault = LineFault(
            f"Lines wider than the page go on in the next, after '{OVERRUN}'; -fq-overrun: run lets them run over.",
            _element_of(self.box),
        )
        self.space.context.has_faults = True

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

    def _place(self, start: int, end: int, spare: float, last: bool) -> tuple[float, float, frozenset[int]]:
        """Where the line starts, what each space in it grows by, and the items after which room is made although no
        space is there."""
        align = self.align
        if align == "justify":
            stop = self.paragraph.words_end(start, end)
            gaps = stop - 1 - start - self.paragraph.glues[start : stop - 1].count(0.0)
            if last:
                align = self.paragraph.last_alignment
            between = NO_GAPS
            if align == "justify" and spare > 0 and not self.paragraph.bidi:
                between = self.paragraph.gaps_between_signs(start, stop)
                gaps += len(between)
            if (align == "justify" or (spare < 0 and self.pretty)) and gaps and (spare > 0 or self.pretty):
                return 0.0, spare / gaps, between
            if align == "justify":
                align = "right" if self.rtl else "left"
        if spare < -ROUNDED:  # what is too wide runs over where the text goes, however it is aligned (Text 3 §6.4)
            return (spare if self.rtl else 0.0), 0.0, NO_GAPS
        if align == "left":
            return 0.0, 0.0, NO_GAPS
        return (spare if align == "right" else spare / 2), 0.0, NO_GAPS

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
            if stop < end:
                end_with_space(span)
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
        cut = _around(self.box.style).overflow != "visible"
        if cut and self.width <= OUT_OF_SIGHT:
            return
        what = f"'{shown}'" if words else "A picture or box"
        line.fault = LineFault(
            f"{what} is {by * 0.75:.1f} pt wider than its line; it {'is cut off' if cut else 'runs over the edge'}.",
            _element_of(self.box),
        )
        self.space.context.has_faults = True

    def _lay_out_atomics(self) -> None:
        paragraph = self.paragraph
        for index in paragraph.atomics:
            atomic = paragraph.items[index]
            assert isinstance(atomic, Atomic)
            fragment = paragraph.laid[index] = layout_atomic(atomic.box, self.width, self.space)
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


def _around(style: ComputedStyle) -> ComputedStyle:
    """The style of the element that a paragraph's box is made for: an anonymous box does as its parent."""
    return style.parent if style.anonymous and style.parent is not None else style


def may_wrap_anywhere(style: ComputedStyle) -> bool:
    """Whether lines that would run off the page go on in the next instead."""
    return style.fq_overrun == "wrap" and _around(style).overflow == "visible"


def line_clamp(style: ComputedStyle) -> int:
    """After how many lines the text ends with an ellipsis (CSS Overflow 4 §5.1); 0 for never."""
    style = _around(style)
    return style.line_clamp if isinstance(style.line_clamp, int) else 0


def _cuts_off(style: ComputedStyle) -> bool:
    """Whether text that runs over is cut with an ellipsis."""
    style = _around(style)
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


def layout_atomic(box: Box, width: float, space: Space) -> Fragment:
    """An inline-block or the like, whole."""
    fragment = layout(box, atomic_space(box, width, space, UNBOUNDED), None).fragment
    assert fragment is not None
    return fragment


def atomic_space(box: Box, width: float, space: Space, room: float) -> Space:
    """The space of an inline-block or the like, shrunk to fit (CSS 2.2 §10.3.9)."""
    fixed = None
    if not isinstance(box, PictureBox):
        across = edges_of(box.style, width).across
        if own_width(box.style, width, across) is None:
            margins = sum(margin_left_right(box.style, width, None))
            fixed = fit_content(box, width - margins, width, space.context)
    return Space(
        space.context, width, space.height, room, space.page,
        fixed_width=fixed, in_columns=space.in_columns, pages=space.pages,
    )  # fmt: skip
