"""A paragraph: inline content as items of fixed width, measured once, broken at any line width.

An item is a word with the space after it, an edge of an inline box, an atomic box or a forced
break. Widths stand in parallel lists with running sums, so that a line is found by bisection and
no glyph is touched.
"""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from itertools import accumulate, pairwise
from operator import add
from typing import Final

from fleetquill.caches import Budget, Cache
from fleetquill.layout.contract.fragments import Fragment, TextSpan
from fleetquill.layout.inline.inline_items import (
    Anchor,
    Atomic,
    Edge,
    FloatItem,
    ForcedBreak,
    Item,
    Leader,
    Tab,
    TextRun,
    edge_width,
    highest,
    last_alignment,
    metrics_of,
)
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.text_values import COLLAPSING
from fleetquill.text.fill import Break, best_breaks
from fleetquill.text.hyphens import hyphenation_points
from fleetquill.text.settings import FontSettings
from fleetquill.text.shaping import Word, clusters

EPSILON: Final = 0.005  # px
IDEOGRAPHIC: Final = re.compile(  # signs of Chinese and Japanese, which have no spaces between them
    "[\u2e80-\u30ff\u3190-\u319f\u31c0-\u9fff\uf900-\ufaff\ufe30-\ufe4f\uff00-\uffef\U00020000-\U0003ffff]"
)


class Paragraph:
    """The items of one inline formatting context. It holds nothing of its document."""

    def __init__(self, style: ComputedStyle, fonts: FontSettings) -> None:
        self.style = style
        self.items: list[Item] = []
        self.widths: list[float] = []
        self.glues: list[float] = []
        self.breaks: list[bool] = []
        self.runs: list[TextRun] = []
        self.edges: list[int] = []  # indexes of Edge items
        self.shares: list[int] = []  # those whose width hangs on that of the lines
        self._basis = 0.0  # how wide these were when the shares were set
        self.atomics: list[int] = []
        self.laid: dict[int, Fragment] = {}  # the boxes of atomics, as they were laid out last
        self.floats: list[int] = []
        self.forced: list[int] = []
        self.anchors: list[int] = []
        self.leaders: list[int] = []
        self.overrun: set[int] = set()  # items after which a line ends because it would run off the page
        self.soft: set[int] = set()  # items that show a hyphen where a line ends with them
        self.first_line: Paragraph | None = None  # the same items as they are on the first line
        self.base_level = 0
        self.bidi = False
        self.hyphenates = False
        self.has_tabs = False
        self.strut = metrics_of(style, fonts.of(style))
        self.line_extent = (0.0, 0.0)  # of a simple paragraph's line, above and below its baseline
        self._content_widths: tuple[float, float] | None = None
        self._ideographic: bool | None = None

    def settle(self) -> None:
        """Works out what follows from the items, once all of them are there."""
        self.run_starts = [run.start for run in self.runs]
        apart = self.edges or self.atomics or self.floats or self.anchors or self.leaders
        self.plain = not apart and not self.bidi
        self.plans: dict[float, dict[int, int]] = {}  # line ends by line start, for a width
        self.spans: dict[float, TextSpan] = {}  # of a simple paragraph, by where its line starts
        self.last_alignment = last_alignment(self.style, self.base_level % 2 == 1)
        self.simple = (
            self.plain
            and len(self.runs) == 1
            and bool(self.items)
            and not (self.forced or self.has_tabs)
            and self.style.text_indent == 0.0
        )
        if self.simple:
            run = self.runs[0]
            self.line_extent = highest(self.strut, run.metrics, run.shift)
        self._sum()

    def _sum(self) -> None:
        """Running sums: where each item starts and ends on an endless line."""
        self._content_widths = None
        totals = list(accumulate(map(add, self.widths, self.glues), initial=0.0))
        self.starts: list[float] = totals
        self.ends: list[float] = list(map(add, totals, self.widths))
        if self.edges:
            self._hang_spaces()

    def _hang_spaces(self) -> None:
        """A space at a line's end is none, though inline boxes end after it (CSS Text 3 §4.1.2)."""
        hanging = (-1, 0.0)  # the item after which a space hangs, and how wide
        for index in sorted((*self.edges, *self.anchors, *self.floats)):
            if not may_follow(self.items[index]):
                continue
            space = hanging[1] if hanging[0] == index - 1 else self._space_after(index - 1)
            if space:
                hanging = (index, space)
                self.ends[index] -= space

    def _space_after(self, index: int) -> float:
        """The width of the space after a word that is none at a line's end; 0 where there is none."""
        if index < 0 or not self.glues[index] or self.run_at(index).style.white_space not in COLLAPSING:
            return 0.0
        return self.glues[index]

    def words_end(self, start: int, end: int) -> int:
        """Where a line ends but for the ends of inline boxes after its last space."""
        stop = end
        while stop > start and may_follow(self.items[stop - 1]):
            stop -= 1
        return stop if stop < end and self._space_after(stop - 1) else end

    def gaps_between_signs(self, start: int, stop: int) -> frozenset[int]:
        """The items from `start` on, the last before `stop` apart, after which a justified line may be opened although
        no space is there: beside signs of Chinese and Japanese (CSS Text 3 §7.3)."""
        if self._ideographic is None:
            self._ideographic = any(IDEOGRAPHIC.search(i.text) for i in self.items if isinstance(i, Word))
        if not self._ideographic:
            return frozenset()
        return frozenset(index for index in range(start, stop - 1) if self._is_between_signs(index, stop))

    def _is_between_signs(self, index: int, stop: int) -> bool:
        following = index + 1
        while following < stop - 1 and isinstance(self.items[following], Edge):
            following += 1
        before, after = self.items[index], self.items[following]
        may_break = any(self.breaks[index:following])
        if self.glues[index] or not may_break or not (isinstance(before, Word) and isinstance(after, Word)):
            return False
        return bool(IDEOGRAPHIC.match(before.text[-1:]) or IDEOGRAPHIC.match(after.text[:1]))

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing that makes a line (CSS 2.2 §9.4.2)."""
        return not self.has_line(0, len(self.items))

    def has_line(self, start: int, stop: int) -> bool:
        """Whether something stands in [start, stop) that makes a line: floats and edges of no width do not."""
        if any(self.widths[start:stop]) or bisect_left(self.shares, start) < bisect_left(self.shares, stop):
            return True
        return any(isinstance(item, LINE_MAKERS) for item in self.items[start:stop])

    def set_width(self, index: int, width: float) -> None:
        """Gives an atomic item its width once its box has been laid out."""
        if self.widths[index] != width:
            self.widths[index] = width
            self._sum()

    def set_shares(self, basis: float) -> None:
        """Gives edges that are percentages their widths in lines that wide; nothing where that is not known (0)."""
        if not self.shares or basis == self._basis:
            return
        self._basis = basis
        for index in self.shares:
            edge = self.items[index]
            assert isinstance(edge, Edge)
            self.widths[index] = edge_width(edge.box, edge.at_left, basis)
        self._sum()

    # ---- breaking ----

    def stop_after(self, start: int) -> int:
        """The index after the item that ends the line of `start` at the latest."""
        if self.forced:
            place = bisect_left(self.forced, start)
            if place < len(self.forced):
                return self.forced[place] + 1
        return len(self.items)

    def line_end(self, start: int, available: float) -> int:
        """The index after the last item of the line that begins at `start`: as much as fits."""
        stop = self.stop_after(start)
        limit = self.starts[start] + available + EPSILON
        end = bisect_right(self.ends, limit, start, stop)
        if end >= stop:
            return stop
        if end > start and self.breaks[end - 1] and not (self.soft or self.hyphenates):
            return end
        last = self._break_before(end, start, limit)
        if self.hyphenates and self._hyphenate_at(max(last, start), limit):
            return max(last, start) + 1
        if last > start:
            return last
        if any(
            self._may_split(index) and self._split_to_fit(start, index, limit) for index in range(end, start - 1, -1)
        ):
            return self.line_end(start, available)
        last = max(end, start + 1)
        while last < stop and not self.breaks[last - 1]:
            last += 1
        return last

    def end_anywhere(self, start: int, available: float) -> int:
        """As `line_end`, where nothing may run over: after the last item that fits, or within a word."""
        limit = self.starts[start] + available + EPSILON
        end = bisect_right(self.ends, limit, start, self.stop_after(start))
        if end == start:
            if not self._split_to_fit(start, start, limit):
                return self.line_end(start, available)
            end = max(start + 1, bisect_right(self.ends, limit, start, self.stop_after(start)))
        if end < self.stop_after(start):
            self.breaks[end - 1] = True
            self.overrun.add(end - 1)
        return end

    def _break_before(self, end: int, start: int, limit: float) -> int:
        """The last place up to `end` where the line may break; `start` where there is none."""
        while end > start and not (
            self.breaks[end - 1]
            and (end - 1 not in self.soft or self.ends[end - 1] + self._hyphen_width(end - 1) <= limit)
        ):
            end -= 1
        return end

    def _hyphen_width(self, index: int) -> float:
        run = self.run_at(index)
        return run.width(run.hyphen_word)

    def _hyphenate_at(self, index: int, limit: float) -> bool:
        """Splits the word at `index` at its last hyphenation point that still fits."""
        word = self.items[index]
        run = self.run_at(index)
        if not isinstance(word, Word) or run.style.hyphens != "auto":
            return False
        room = limit - self.starts[index] - run.width(run.hyphen_word)
        for point in reversed(self._points(word, run)):
            if run.width(run.setting.segment(word.text[:point])) <= room:
                self.split(index, [point], hyphen=True)
                return True
        return False

    @staticmethod
    def _points(word: Word, run: TextRun) -> tuple[int, ...]:
        return hyphenation_points(word.text, run.style.language, run.style.hyphenate_limit_chars)

    def _may_split(self, index: int) -> bool:
        style = self.run_at(index).style if self.runs else self.style
        return wraps(style) and (style.overflow_wrap != "normal" or style.word_break == "break-word")

    def _split_to_fit(self, start: int, end: int, limit: float) -> bool:
        """Splits a word that is wider than a line after the last cluster that fits (overflow-wrap).

        What is left of it is split at once, for lines that are as wide: one by one would take for ever.
        """
        index = min(end, len(self.items) - 1)
        word = self.items[index]
        if not isinstance(word, Word):
            return False
        run = self.run_at(index)
        pieces = clusters(word.text)
        if len(pieces) < 2:
            return False
        room, line = limit - self.starts[index], limit - self.starts[start]
        width, point = 0.0, 0
        points: list[int] = []
        for piece in pieces:
            more = run.width(run.setting.segment(piece))
            width += more
            if width > room and (point > (points[-1] if points else 0) or (not points and index > start)):
                if not point:
                    self.breaks[index - 1] = True
                    return True
                points.append(point)
                width, room = more, line
            point += len(piece)
        if not points:
            points = [len(word.text) - len(pieces[-1])]
        self.split(index, points, hyphen=False)
        return True

    def split(self, index: int, points: list[int], *, hyphen: bool) -> None:
        """Replaces a word by its parts, between which a line may break."""
        word = self.items[index]
        assert isinstance(word, Word)
        run = self.run_at(index)
        cuts = [0, *points, len(word.text)]
        texts = [word.text[a:b] for a, b in pairwise(cuts)]
        texts[-1] += " " * word.spaced
        parts = [run.setting.segment(text) for text in texts]
        more = len(parts) - 1
        self.items[index : index + 1] = parts
        self.widths[index : index + 1] = [run.width(part) for part in parts]
        self.glues[index : index + 1] = [0.0] * more + [self.glues[index]]
        self.breaks[index : index + 1] = [True] * more + [self.breaks[index]]
        for later in self.runs:
            if later.start > index:
                later.start += more
        self.run_starts = [later.start for later in self.runs]
        for places in (self.edges, self.shares, self.atomics, self.forced, self.floats, self.anchors, self.leaders):
            places[:] = [place + more if place > index else place for place in places]
        self.laid = {place + more if place > index else place: fragment for place, fragment in self.laid.items()}
        self.soft = {place + more if place >= index else place for place in self.soft}
        self.overrun = {place + more if place >= index else place for place in self.overrun}
        if hyphen:
            self.soft.update(range(index, index + more))
        self._sum()

    def plan(self, start: int, width: float, indent: float, shrinks: bool) -> dict[int, int]:
        """The best lines for all that follows `start` (text-wrap: pretty): line ends by line start."""
        kept = self.plans.get(width)
        if kept is None or start not in kept:
            kept = self.plans[width] = self._plan(start, width, indent, shrinks)
        return kept

    def _plan(self, start: int, width: float, indent: float, shrinks: bool) -> dict[int, int]:
        plan: dict[int, int] = {}
        while start < len(self.items):
            stop = self.stop_after(start)
            places, breaks = self._candidates(start, stop)
            chosen = best_breaks(breaks, width, indent if start == 0 else 0.0, shrinks)
            if chosen is None:
                end = self.line_end(start, width - (indent if start == 0 else 0.0))
                plan[start] = end
                start = end
                continue
            added = 0
            cut = (-1, 0)  # the word that was split last, and where
            for choice in chosen:
                index, point = places[choice]
                if point:
                    taken = cut[1] if cut[0] == index else 0
                    self.split(index + added, [point - taken], hyphen=True)
                    cut = (index, point)
                end = index + added + 1
                plan[start] = end
                start = end
                added += bool(point)
        return plan

    def _candidates(self, start: int, stop: int) -> tuple[list[tuple[int, int]], list[Break]]:
        """Every place where a line may end: (item, offset in its word or 0), and its measures."""
        origin = self.starts[start]
        glue = 0.0
        places: list[tuple[int, int]] = []
        breaks: list[Break] = []
        for index in range(start, stop):
            item = self.items[index]
            end = self.ends[index] - origin
            if self.hyphenates and isinstance(item, Word):
                run = self.run_at(index)
                if run.style.hyphens == "auto":
                    hyphen = run.width(run.hyphen_word)
                    for point in self._points(item, run):
                        head = end - self.widths[index] + run.width(run.setting.segment(item.text[:point]))
                        places.append((index, point))
                        breaks.append(Break(head, head, glue, glue, hyphen, False))
            if index == stop - 1:
                places.append((index, 0))
                breaks.append(Break(end, end, glue, glue, 0.0, True))
            elif self.breaks[index]:
                extra = self._hyphen_width(index) if index in self.soft else 0.0
                places.append((index, 0))
                resume = self.starts[index + 1] - origin
                breaks.append(Break(end, resume, glue, glue + self.glues[index], extra, False))
            glue += self.glues[index]
        return places, breaks

    def run_at(self, index: int) -> TextRun:
        return self.runs[max(0, bisect_right(self.run_starts, index) - 1)]

    def runs_between(self, start: int, end: int) -> list[TextRun]:
        """The runs that have items in [start, end)."""
        first = max(0, bisect_right(self.run_starts, start) - 1)
        last = bisect_right(self.run_starts, end - 1)
        return self.runs[first:last]

    # ---- measuring ----

    def content_widths(self, indent: float = 0.0) -> tuple[float, float]:
        """The min-content and max-content widths in px (CSS Sizing 3 §4), with that indent of the first line."""
        if indent:
            return self._measured(indent)
        if self._content_widths is None:
            self._content_widths = self._measured(0.0)
        return self._content_widths

    def _measured(self, indent: float) -> tuple[float, float]:
        if len(self.items) == 1 and not (self.forced or (self.runs and gives_way(self.runs[0].style))):
            width = self.widths[0] + self._space_kept(0) + indent
            return width, width
        widest = 0.0
        start = 0
        for stop in [*(index + 1 for index in self.forced), len(self.items)]:
            if stop > start:
                kept = self._space_kept(stop - 1) if stop == len(self.items) else 0.0
                widest = max(widest, self._width(start, stop) + kept + (0.0 if start else indent))
                start = stop
        if not (wraps(self.style) or any(wraps(run.style) for run in self.runs)):
            return widest, widest
        width_of = self._narrowest if any(gives_way(run.style) for run in self.runs) else self._width
        narrowest = 0.0
        start = 0
        hangs = indent < 0  # whether what comes stands left of the box, in the room that such an indent gives
        for index, may_break in enumerate(self.breaks):
            if may_break or index == len(self.items) - 1:
                hangs = hangs and self._width(0, index + 1) + indent <= 0
                if not hangs:
                    narrowest = max(narrowest, width_of(start, index + 1) + (0.0 if start else indent))
                start = index + 1
        return narrowest, max(widest, narrowest)

    def _width(self, start: int, stop: int) -> float:
        return self.ends[stop - 1] - self.starts[start]

    def _space_kept(self, index: int) -> float:
        """The width of the space at the end of a text that keeps its spaces; it hangs where there is no room for it."""
        keeps = self.runs and self.run_at(index).style.white_space not in COLLAPSING
        return self.glues[index] if keeps else 0.0

    def _narrowest(self, start: int, stop: int) -> float:
        """How wide a piece is that breaks at most within words, where each letter counts (CSS Text 3 §5.5)."""
        narrowest = 0.0
        for index in range(start, stop):
            run, word = self.run_at(index), self.items[index]
            if isinstance(word, Word) and gives_way(run.style):
                letters = [run.width(run.setting.segment(letter)) for letter in clusters(word.text)]
                narrowest = max(narrowest, self.starts[index] - self.starts[start], *letters)
                start = index + 1
        return max(narrowest, self._width(start, stop)) if start < stop else narrowest


def may_follow(item: Item) -> bool:
    """Whether an item stands after a line's last space without bringing that back."""
    return isinstance(item, (Anchor, FloatItem)) or (isinstance(item, Edge) and not item.opens)


def wraps(style: ComputedStyle) -> bool:
    """Whether text of this style may go on in another line."""
    return style.white_space not in ("nowrap", "pre") and style.text_wrap != "nowrap"


def gives_way(style: ComputedStyle) -> bool:
    """Whether words of this style may be as narrow as a letter, by their own minimum too."""
    return wraps(style) and (style.overflow_wrap == "anywhere" or style.word_break == "break-word")


LINE_MAKERS: Final = (Word, Atomic, ForcedBreak, Leader, Tab)
MOST_SHARED: Final = 8_000
Paragraphs = Cache[tuple[FontSettings, ComputedStyle, ComputedStyle, str], Paragraph]  # short ones, by style and text


def new_paragraphs(budget: Budget) -> Paragraphs:
    """An empty store of short paragraphs that documents share."""
    return budget.cache(MOST_SHARED, _weight)


def _weight(key: tuple[FontSettings, ComputedStyle, ComputedStyle, str], _: Paragraph) -> int:
    """What a paragraph that is kept takes up, its words apart: lists of a few objects."""
    return 3_500 + 60 * len(key[3])
