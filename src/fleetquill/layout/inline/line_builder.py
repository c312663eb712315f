"""One line that holds more than words of one run: mixed styles, directions, inline boxes, pictures."""

from __future__ import annotations

import math
from bisect import bisect_right
from collections import defaultdict
from typing import Final, NamedTuple, Protocol

from fleetquill.deadline import heed
from fleetquill.drawing.words import gaps_after
from fleetquill.layout.boxes.boxes import Box, InlineBox, MarkBox, PictureBox
from fleetquill.layout.contract.fragments import (
    AnchorFragment,
    Fragment,
    InlineFragment,
    LeaderSpan,
    LineFragment,
    TextSpan,
    end_with_space,
    last_baseline,
)
from fleetquill.layout.contract.sizing import (
    edges_of,
    length_or_zero,
    margin_left_right,
    relative_shift,
)
from fleetquill.layout.contract.space import Space
from fleetquill.layout.inline.boxes import ControlBox
from fleetquill.layout.inline.inline_items import (
    Anchor,
    Atomic,
    Edge,
    ForcedBreak,
    Leader,
    Metrics,
    Tab,
    TextRun,
    baseline_shift,
    metrics_of,
)
from fleetquill.layout.inline.paragraph import Paragraph
from fleetquill.text.bidi import visual_order
from fleetquill.text.shaping import Word

MOST_REPEATS: Final = 2_000  # of a leader's pattern in one line


def hyphen_span(run: TextRun, x: float, ascent: float) -> TextSpan:
    word = run.hyphen_word
    return TextSpan(run, [word], x, run.width(word), ascent - run.shift, run.space, None)


class Unit(NamedTuple):
    """What stands on a line as one piece: words of one run, an edge, a tab or an atomic box."""

    start: int
    stop: int
    level: int
    around: tuple[InlineBox, ...]
    run: TextRun | None


class LineSource(Protocol):
    """Where lines come from: a paragraph, and the space that it is set in."""

    paragraph: Paragraph
    space: Space
    width: float

    def span(
        self, run: TextRun, start: int, stop: int, x: float, ascent: float, extra: float, *, ends_line: bool
    ) -> TextSpan:
        """Words of one run; the space after the last counts unless the line ends there."""


class LineBuilder:
    """Builds a line that holds more than words of one run."""

    def __init__(
        self,
        filler: LineSource,
        start: int,
        end: int,
        runs: list[TextRun],
        extra: float,
        hyphen: bool,
        gaps: frozenset[int] = frozenset(),
    ) -> None:
        self.filler = filler
        self.paragraph = filler.paragraph
        self.start = start
        self.end = end
        self.words_end = self.paragraph.words_end(start, end)
        self.runs = runs
        self.extra = extra
        self.gaps = gaps  # items after which there is `extra` room, too, although no space is there
        self.hyphen = hyphen
        self.context = filler.space.context
        self.ascent, self.descent = self.paragraph.strut
        self.moved: dict[InlineBox, float] = {}
        self.boxes: dict[Box, tuple[InlineBox, ...]] = {}  # of the line, each with those around it
        self.tall: list[tuple[float, str]] = []  # (height, 'top' or 'bottom') of line-relative boxes

    def build(self, x: float, leader: float = 0.0) -> LineFragment:
        """The line from `x` on; `leader` is the width that each leader in it fills."""
        self.leader = leader
        units = self._units()
        self._measure(units)
        line = LineFragment(self.filler.width, self.ascent + self.descent, self.ascent)
        if self.paragraph.bidi:
            units = self._in_view(units)
        self._place(line, units, x)
        last = line.items[-1] if line.items else None
        if isinstance(last, TextSpan) and isinstance(self.paragraph.items[self.end - 1], ForcedBreak):
            end_with_space(last)
        if self.context.found.positioned:
            self._move_relative(line)
        return line

    def _units(self) -> list[Unit]:
        """The line's items in logical order, words gathered by run."""
        units: list[Unit] = []
        items, starts = self.paragraph.items, self.paragraph.run_starts
        index = self.start
        while index < self.end:
            item = items[index]
            if isinstance(item, Word):
                following = bisect_right(starts, index)
                run = self.paragraph.runs[max(0, following - 1)]
                limit = min(self.end, starts[following]) if following < len(starts) else self.end
                stop = index + 1
                while stop < limit and isinstance(items[stop], Word) and stop - 1 not in self.gaps:
                    stop += 1
                units.append(Unit(index, stop, run.level, run.around, run))
                index = stop
                continue
            if isinstance(item, (Edge, Atomic, Anchor)):
                units.append(Unit(index, index + 1, item.level, item.around, None))
            elif isinstance(item, (Tab, Leader)):
                units.append(Unit(index, index + 1, item.run.level, item.run.around, item.run))
            index += 1
        return units

    def _in_view(self, units: list[Unit]) -> list[Unit]:
        """The units from left to right (UAX #9). Sides of an inline box stand where its direction has them, at the ends
        of what of it is on the line (CSS 2.2 §8.6); those of one that holds nothing are in order with the text."""
        items = self.paragraph.items
        is_side = [isinstance(items[unit.start], Edge) for unit in units]
        holding = {
            box
            for unit, side in zip(units, is_side, strict=True)
            for box in (unit.around[:-1] if side else unit.around)
        }
        sides, others = list[Unit](), list[Unit]()
        for unit, side in zip(units, is_side, strict=True):
            (sides if side and unit.around[-1] in holding else others).append(unit)
        shown = [others[index] for index in visual_order([unit.level for unit in others])]
        firsts: dict[InlineBox, int] = {}
        lasts: dict[InlineBox, int] = {}
        for place, unit in enumerate(shown):
            for box in unit.around:
                firsts.setdefault(box, place)
                lasts[box] = place
        before, after = defaultdict[int, list[Unit]](list), defaultdict[int, list[Unit]](list)
        for unit in sorted(sides, key=lambda unit: len(unit.around)):  # the outer ones first
            edge = items[unit.start]
            assert isinstance(edge, Edge)
            (before[firsts[edge.box]] if edge.at_left else after[lasts[edge.box]]).append(unit)
        return [one for place, unit in enumerate(shown) for one in (*before[place], unit, *reversed(after[place]))]

    def _measure(self, units: list[Unit]) -> None:
        """How high the line is: the highest and the deepest of all that stands in it."""
        aside: dict[InlineBox, list[tuple[Metrics, float]]] = {}  # what hangs from the line's top or bottom
        for unit in units:
            item = self.paragraph.items[unit.start]
            root = line_relative(unit.around)
            if unit.run is not None:
                reach = (unit.run.metrics, unit.run.shift)
            elif isinstance(item, Edge) and item.opens:
                style = item.box.style
                reach = (metrics_of(style, self.context.font(style)), self._shift(item.around))
            else:
                if isinstance(item, Atomic):
                    self._reach_atomic(item, self.paragraph.laid[unit.start])
                continue
            if root is None:
                self._reach(*reach)
            else:
                aside.setdefault(root, []).append(reach)
        reaches = {root: _together(found) for root, found in aside.items()}
        self.tall += [(sum(reach), str(root.style.vertical_align)) for root, reach in reaches.items()]
        for height, side in self.tall:
            spare = height - self.ascent - self.descent
            if spare > 0 and side == "top":
                self.descent += spare
            elif spare > 0:
                self.ascent += spare
        for root, (above, below) in reaches.items():
            at_top = root.style.vertical_align == "top"
            self.moved[root] = self.ascent - above if at_top else below - self.descent

    def _up_to(self, box: Box) -> tuple[InlineBox, ...]:
        """An inline box and those around it."""
        if not self.boxes:
            for run in self.runs:
                for depth, inner in enumerate(run.around, 1):
                    if inner not in self.boxes:
                        self.boxes[inner] = run.around[:depth]
        return self.boxes.get(box, (box,) if isinstance(box, InlineBox) else ())

    def _moved(self, around: tuple[InlineBox, ...]) -> float:
        """How far a box that hangs from the line's top or bottom was moved up."""
        root = line_relative(around) if self.moved else None
        return 0.0 if root is None else self.moved.get(root, 0.0)

    def _shift(self, around: tuple[InlineBox, ...]) -> float:
        """The baseline shift of the inline boxes around an item."""
        return sum([baseline_shift(box.style, self.context.fonts) for box in around])

    def _reach(self, metrics: Metrics, shift: float) -> None:
        self.ascent = max(self.ascent, metrics.ascent + shift)
        self.descent = max(self.descent, metrics.descent - shift)

    def _reach_atomic(self, atomic: Atomic, fragment: Fragment) -> None:
        above, below = atomic_reach(atomic.box, fragment, self.filler.width)
        align = atomic.box.style.vertical_align
        if align in ("top", "bottom"):
            self.tall.append((above + below, str(align)))
            return
        shift = self._shift(atomic.around) + self._atomic_shift(atomic.box, above, below)
        self._reach(Metrics(above, below), shift)

    def _atomic_shift(self, box: Box, above: float, below: float) -> float:
        """As `baseline_shift`, for a box whose own height counts."""
        value = box.style.vertical_align
        parent = box.style.parent or box.style
        face = self.context.font(parent).face
        if value == "middle":
            return face.x_height * parent.font_size / 2 - (above - below) / 2
        if value == "text-top":
            return face.ascent * parent.font_size - above
        if value == "text-bottom":
            return below - face.descent * parent.font_size
        return baseline_shift(box.style, self.context.fonts)

    def _place(self, line: LineFragment, units: list[Unit], x: float) -> None:
        """Puts every unit at its place from left to right, and inline boxes behind what they hold."""
        reach: dict[InlineBox, list[list[float]]] = {}
        lefts: set[InlineBox] = set()  # whose left side is in this line
        rights: set[InlineBox] = set()
        for unit in units:
            heed()
            left = x
            item = self.paragraph.items[unit.start]
            if isinstance(item, Word):
                x = self._place_words(line, unit, x) + (self.extra if unit.stop - 1 in self.gaps else 0.0)
            elif isinstance(item, Edge):
                width = self.paragraph.widths[unit.start]
                margin = margin_left_right(item.box.style, self.filler.width, None)[0 if item.at_left else 1]
                (lefts if item.at_left else rights).add(item.box)
                if item.at_left:
                    left = x + margin
                    x += width
                else:
                    x += width - margin
                self._extend(reach, unit.around, left, x)
                x += 0.0 if item.at_left else margin
                continue
            elif isinstance(item, Atomic):
                line.items.append(self._placed(item, self.paragraph.laid[unit.start], x))
                x += self.paragraph.widths[unit.start]
            elif isinstance(item, Tab) and unit.run is not None:
                width = self.paragraph.widths[unit.start]
                blank = unit.run.setting.segment(" ")
                baseline = self.ascent - unit.run.shift
                line.items.append(TextSpan(unit.run, [blank], x, width, baseline, width, [True]))
                x += width
            elif isinstance(item, Leader):
                self._place_leader(line, item, x)
                x += self.leader
            elif isinstance(item, Anchor):
                anchor = AnchorFragment(item.box)
                if item.box.inline:
                    anchor.x = x
                elif x > 0.01:  # a block would begin below the line
                    anchor.y = line.height
                anchor.around = item.around
                line.items.append(anchor)
            self._extend(reach, unit.around, left, x)
        inline = [
            self._inline(
                box, part[0], part[1], number == 0 and box in lefts, number == len(parts) - 1 and box in rights
            )
            for box, parts in reach.items()
            for number, part in enumerate(parts)
        ]
        line.items[:0] = inline

    def _place_leader(self, line: LineFragment, leader: Leader, x: float) -> None:
        """The pattern as often as it fits, in step with other lines: counted from the line's end."""
        run = leader.run
        word = run.setting.segment(leader.pattern)
        step = run.width(word) + run.space * word.spaced
        if step <= 0.01:
            return
        end = self.filler.width
        first = end - step * math.floor((end - x) / step)
        count = math.floor((x + self.leader - first) / step + 0.001)
        before = line.items[-1] if line.items else None
        if isinstance(before, TextSpan):
            end_with_space(before)
        if count > 0:
            words = [word] * min(count, MOST_REPEATS)
            baseline = self.ascent - run.shift
            line.items.append(
                LeaderSpan(run, words, first, step * len(words), baseline, run.space, [word.spaced] * len(words))
            )

    def _move_relative(self, line: LineFragment) -> None:
        """Moves what stands in inline boxes of `position: relative` (CSS Positioned Layout 3 §3.4)."""
        space = self.filler.space
        for item in line.items:
            if isinstance(item, TextSpan):
                around = item.run.around
            elif isinstance(item, InlineFragment):
                around = self._up_to(item.box)
            else:
                around = item.around if isinstance(item, AnchorFragment) else ()
            for box in around:
                if box.style.position == "relative":
                    x, y = relative_shift(box.style, self.filler.width, space.height)
                    item.x += x
                    if isinstance(item, TextSpan):
                        item.baseline += y
                    else:
                        item.y += y

    @staticmethod
    def _extend(
        reach: dict[InlineBox, list[list[float]]], around: tuple[InlineBox, ...], left: float, right: float
    ) -> None:
        """Lets the boxes around a unit reach over it; a box that is torn apart has several parts."""
        for box in around:
            parts = reach.setdefault(box, [])
            if parts and abs(parts[-1][1] - left) < 0.01:
                parts[-1][1] = right
            else:
                parts.append([left, right])

    def _place_words(self, line: LineFragment, unit: Unit, x: float) -> float:
        """Words from left to right; those of a right-to-left run in reverse. Gives where they end."""
        run = unit.run
        assert run is not None
        ends_line = unit.stop == self.words_end
        filler = self.filler
        span = filler.span(run, unit.start, unit.stop, x, self.ascent, self.extra, ends_line=ends_line)
        span.baseline -= self._moved(unit.around)
        trailing = 0.0
        if not ends_line and self.paragraph.glues[unit.stop - 1]:
            trailing = self.paragraph.glues[unit.stop - 1] + self.extra
        hyphen = hyphen_span(run, x, self.ascent) if self.hyphen and ends_line else None
        if run.level % 2:
            if hyphen is not None:
                line.items.append(hyphen)
                span.x += hyphen.width
            span.x += trailing
            if span.words:
                span.spaced = [*gaps_after(span.words, span.spaced)[-2::-1], False]
                span.words = span.words[::-1]
        line.items.append(span)
        x = span.x + span.width
        if run.level % 2:
            if run.decorations and trailing:  # which go on over the space before the next run
                line.items.append(TextSpan(run, [], span.x - trailing, trailing, span.baseline, 0.0, None))
            return x
        if run.decorations:
            span.width += trailing
        if hyphen is not None:
            hyphen.x = x
            line.items.append(hyphen)
            x += hyphen.width
        return x + trailing

    def _inline(self, box: Box, left: float, right: float, first: bool, last: bool) -> InlineFragment:
        """The border box of an inline box on this line (CSS 2.2 §10.6.1)."""
        style = box.style
        face = self.context.font(style).face
        shift = baseline_shift(style, self.context.fonts)
        parent = style.parent
        while parent is not None and parent.display == "inline":
            shift += baseline_shift(parent, self.context.fonts)
            parent = parent.parent
        shift += self._moved(self._up_to(box))
        edges = edges_of(style, self.filler.width)
        top = self.ascent - shift - face.ascent * style.font_size - edges.top
        height = (face.ascent + face.descent) * style.font_size + edges.down
        return InlineFragment(box, left, top, right - left, height, first, last)

    def _placed(self, atomic: Atomic, fragment: Fragment, x: float) -> Fragment:
        style = atomic.box.style
        left, _ = margin_left_right(style, self.filler.width, None)
        margin_top = length_or_zero(style.margin_top, self.filler.width)
        above, below = atomic_reach(atomic.box, fragment, self.filler.width)
        fragment.x = x + left
        if style.vertical_align == "top":
            fragment.y = margin_top
        elif style.vertical_align == "bottom":
            fragment.y = self.ascent + self.descent - above - below + margin_top
        else:
            shift = self._shift(atomic.around) + self._atomic_shift(atomic.box, above, below)
            fragment.y = self.ascent - shift - above + margin_top
        return fragment


def line_relative(around: tuple[InlineBox, ...]) -> InlineBox | None:
    """The outermost of these boxes that hangs from the line's top or bottom (CSS 2.2 §10.8.1)."""
    for box in around:
        if box.style.vertical_align in ("top", "bottom"):
            return box
    return None


def _together(reaches: list[tuple[Metrics, float]]) -> tuple[float, float]:
    """How far several things on one baseline reach above and below it."""
    above = max(metrics.ascent + shift for metrics, shift in reaches)
    return above, max(metrics.descent - shift for metrics, shift in reaches)


def atomic_reach(box: Box, fragment: Fragment, width: float) -> tuple[float, float]:
    """How far the margin box of an atomic box reaches above and below its baseline."""
    margin_top = length_or_zero(box.style.margin_top, width)
    margin_bottom = length_or_zero(box.style.margin_bottom, width)
    baseline = _baseline_in_line(box, fragment)
    if baseline is None:
        return margin_top + fragment.height + margin_bottom, 0.0
    return margin_top + baseline, fragment.height - baseline + margin_bottom


def _baseline_in_line(box: Box, fragment: Fragment) -> float | None:
    """The baseline by which a box stands in a line: its first, but of a block its last (CSS 2.2 §10.8.1, CSS Align 3
    §9.1); None for its lower edge."""
    if isinstance(box, PictureBox):
        return fragment.height - box.below if isinstance(box, MarkBox) else None
    if isinstance(box, ControlBox):
        return fragment.baseline
    if box.style.display in ("inline-flex", "inline-grid", "inline-table"):
        return fragment.baseline
    return last_baseline(fragment) if box.style.overflow in ("visible", "clip") else None
