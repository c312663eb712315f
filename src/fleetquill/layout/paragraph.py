"""A paragraph: inline content as items of fixed width, measured once, broken at any line width.

An item is a word with the space after it, an edge of an inline box, an atomic box or a forced
break. Widths stand in parallel lists with running sums, so that a line is found by bisection and
no glyph is touched.
"""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Sequence
from itertools import accumulate, pairwise
from typing import TYPE_CHECKING, Final, NamedTuple

from fleetquill.layout.boxes import Box, BreakBox, Element, InlineBox, TextBox
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Factor, resolve, resolve_auto
from fleetquill.text.breaking import opportunities
from fleetquill.text.casing import transform
from fleetquill.text.shaping import FontSetting, Word, clusters

if TYPE_CHECKING:
    from fleetquill.layout.context import Context
    from fleetquill.layout.fragments import Fragment

SPACES: Final = re.compile(r"[ \t\n\r\f]+")
SPACES_BUT_NEWLINES: Final = re.compile(r"[ \t\r\f]+")
OBJECT: Final = "\ufffc"
EPSILON: Final = 0.005  # px


class Metrics(NamedTuple):
    """How far an inline box reaches above and below the baseline of its line, in px."""

    ascent: float
    descent: float


class Edge:
    """The start or the end of an inline box, with its margin, border and padding."""

    __slots__ = ("box", "opens")

    def __init__(self, box: InlineBox, opens: bool) -> None:
        self.box = box
        self.opens = opens


class Atomic:
    """A box that stands in a line like a single letter. `fragment` is of the last layout."""

    __slots__ = ("box", "fragment")

    def __init__(self, box: Box) -> None:
        self.box = box
        self.fragment: Fragment | None = None


class ForcedBreak:
    """Ends its line."""

    __slots__ = ()


Item = Word | Edge | Atomic | ForcedBreak


class TextRun:
    """Items of one style: what they share on every line."""

    __slots__ = (
        "around", "decorations", "element", "letter_spacing", "metrics", "setting", "shift", "size", "space",
        "start", "style",
    )  # fmt: skip

    def __init__(self, style: ComputedStyle, setting: FontSetting, element: Element | None, start: int) -> None:
        self.style = style
        self.setting = setting
        self.element = element
        self.start = start
        self.size = style.font_size
        self.letter_spacing = style.letter_spacing
        self.space = setting.space.advance * self.size + style.word_spacing + style.letter_spacing
        self.metrics = metrics_of(style, setting)
        self.shift = 0.0
        self.around: tuple[InlineBox, ...] = ()
        self.decorations: tuple[ComputedStyle, ...] = ()


def line_height(style: ComputedStyle, setting: FontSetting) -> float:
    """The used line height in px (CSS 2.2 §10.8.1)."""
    value = style.line_height
    if isinstance(value, float):
        return value
    if isinstance(value, Factor):
        return value.value * style.font_size
    face = setting.face
    return (face.ascent + face.descent + face.line_gap) * style.font_size


def metrics_of(style: ComputedStyle, setting: FontSetting) -> Metrics:
    """Ascent and descent with half the leading each (CSS 2.2 §10.8.1)."""
    key = (setting, "metrics")
    kept: Metrics | None = style.kept.get(key)
    if kept is None:
        ascent = setting.face.ascent * style.font_size
        descent = setting.face.descent * style.font_size
        half_leading = (line_height(style, setting) - ascent - descent) / 2
        kept = style.kept[key] = Metrics(ascent + half_leading, descent + half_leading)
    return kept


class Paragraph:
    """The items of one inline formatting context."""

    def __init__(self, style: ComputedStyle, children: Sequence[Box], context: Context) -> None:
        self.style = style
        self.context = context
        self.items: list[Item] = []
        self.widths: list[float] = []
        self.glues: list[float] = []
        self.breaks: list[bool] = []
        self.runs: list[TextRun] = []
        self.edges: list[int] = []  # indexes of Edge items
        self.atomics: list[int] = []
        self.forced: list[int] = []
        self.strut = metrics_of(style, context.font(style))
        _Builder(self).build(children)
        self.run_starts = [run.start for run in self.runs]
        self.plain = not self.edges and not self.atomics
        self._sum()

    def _sum(self) -> None:
        """Running sums: where each item starts and ends on an endless line."""
        totals = list(accumulate(map(float.__add__, self.widths, self.glues), initial=0.0))
        self.starts = totals
        self.ends = list(map(float.__add__, totals, self.widths))

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing that makes a line (CSS 2.2 §9.4.2)."""
        return not self.items or (
            not self.atomics
            and not self.forced
            and not any(self.widths)
            and not any(isinstance(item, Word) and item.text for item in self.items)
        )

    def set_width(self, index: int, width: float) -> None:
        """Gives an atomic item its width once its box has been laid out."""
        if self.widths[index] != width:
            self.widths[index] = width
            self._sum()

    # ---- breaking ----

    def line_end(self, start: int, available: float) -> int:
        """The index after the last item of the line that begins at `start`."""
        count = len(self.items)
        stop = count
        if self.forced:
            place = bisect_right(self.forced, start - 1)
            if place < len(self.forced):
                stop = self.forced[place] + 1
        end = bisect_right(self.ends, self.starts[start] + available + EPSILON, start, stop)
        if end >= stop:
            return stop
        breaks = self.breaks
        last = end
        while last > start and not breaks[last - 1]:
            last -= 1
        if last > start:
            return last
        if self.style.overflow_wrap != "normal" and self._split_word(start, end, available):
            return self.line_end(start, available)
        last = max(end, start + 1)
        while last < stop and not breaks[last - 1]:
            last += 1
        return last

    def _split_word(self, start: int, end: int, available: float) -> bool:
        """Makes a word that is wider than a line breakable between its clusters (overflow-wrap)."""
        index = min(end, len(self.items) - 1)
        word = self.items[index]
        if not isinstance(word, Word) or len(word.text) < 2:
            return False
        run = self.run_at(index)
        parts = [run.setting.segment(cluster) for cluster in clusters(word.text)]
        if len(parts) < 2:
            return False
        widths = [part.advance * run.size + run.letter_spacing * part.count for part in parts]
        more = len(parts) - 1
        self.items[index : index + 1] = parts
        self.widths[index : index + 1] = widths
        self.glues[index : index + 1] = [0.0] * more + [self.glues[index]]
        self.breaks[index : index + 1] = [True] * more + [self.breaks[index]]
        for later in self.runs:
            if later.start > index:
                later.start += more
        self.run_starts = [later.start for later in self.runs]
        for places in (self.edges, self.atomics, self.forced):
            places[:] = [place + more if place > index else place for place in places]
        self._sum()
        return True

    def run_at(self, index: int) -> TextRun:
        return self.runs[max(0, bisect_right(self.run_starts, index) - 1)]

    def runs_between(self, start: int, end: int) -> list[TextRun]:
        """The runs that have items in [start, end)."""
        first = max(0, bisect_right(self.run_starts, start) - 1)
        last = bisect_right(self.run_starts, end - 1)
        return self.runs[first:last]

    # ---- measuring ----

    def content_widths(self) -> tuple[float, float]:
        """The min-content and max-content widths in px (CSS Sizing 3 §4)."""
        widest = 0.0
        start = 0
        for stop in [*(index + 1 for index in self.forced), len(self.items)]:
            if stop > start:
                widest = max(widest, self.ends[stop - 1] - self.starts[start])
                start = stop
        if self.style.white_space in ("nowrap", "pre"):
            return widest, widest
        if self.style.overflow_wrap == "anywhere":
            return min(widest, self.style.font_size), widest
        narrowest = 0.0
        start = 0
        for index, may_break in enumerate(self.breaks):
            if may_break:
                narrowest = max(narrowest, self.ends[index] - self.starts[start])
                start = index + 1
        if start < len(self.items):
            narrowest = max(narrowest, self.ends[-1] - self.starts[start])
        return narrowest, max(widest, narrowest)


class _Builder:
    """Fills a paragraph's lists from inline boxes."""

    def __init__(self, paragraph: Paragraph) -> None:
        self.paragraph = paragraph
        self.context = paragraph.context
        self.pieces: list[str] = []  # the text so far, for break opportunities across boxes
        self.parts: list[tuple[Box, str, tuple[InlineBox, ...]]] = []
        self.after_space = True

    def build(self, children: Sequence[Box]) -> None:
        self._collect(children, ())
        self._trim_end()
        text = "".join([piece for _, piece, _ in self.parts])
        breaks = opportunities(text) if text else []
        offset = place = 0
        for box, piece, around in self.parts:
            end = offset + len(piece)
            if isinstance(box, TextBox):
                if not piece:
                    continue
                place = self._text(box, piece, offset, breaks, place, around)
            else:
                while place < len(breaks) and breaks[place] <= end:
                    place += 1
                breakable = place > 0 and breaks[place - 1] == end
                self._other(box, around, breakable or (end == len(text)))
            offset = end

    def _collect(self, children: Sequence[Box], around: tuple[InlineBox, ...]) -> None:
        for child in children:
            if isinstance(child, TextBox):
                piece = self._collapsed(child)
                if piece:
                    self.parts.append((child, piece, around))
            elif isinstance(child, InlineBox):
                self.parts.append((child, "", around))
                self._collect(child.children, (*around, child))
                self.parts.append((_Close(child), "", around))
            elif isinstance(child, BreakBox):
                self.parts.append((child, "\n", around))
                self.after_space = True
            else:
                self.parts.append((child, OBJECT, around))
                self.after_space = False

    def _collapsed(self, box: TextBox) -> str:
        """White space processing, phase I (CSS Text 3 §4.1.1), and text-transform."""
        style = box.style
        text = box.text
        if style.white_space in ("normal", "nowrap"):
            text = SPACES.sub(" ", text)
        elif style.white_space == "pre-line":
            text = SPACES_BUT_NEWLINES.sub(" ", text.replace("\r\n", "\n")).replace(" \n", "\n").replace("\n ", "\n")
        else:
            text = text.replace("\r\n", "\n").replace("\t", " " * 8)
            self.after_space = False
            return transform(text, style.text_transform, style.language)
        if self.after_space:
            text = text.lstrip(" ")
        if text:
            self.after_space = text[-1] in " \n"
        return transform(text, style.text_transform, style.language)

    def _trim_end(self) -> None:
        """White space at the end of the paragraph goes (CSS Text 3 §4.1.2)."""
        for index in range(len(self.parts) - 1, -1, -1):
            box, piece, around = self.parts[index]
            if isinstance(box, TextBox):
                if box.style.white_space in ("pre", "pre-wrap", "break-spaces"):
                    if piece.endswith("\n"):
                        self.parts[index] = (box, piece[:-1], around)
                    return
                trimmed = piece.rstrip(" ")
                self.parts[index] = (box, trimmed, around)
                if trimmed:
                    return
            elif piece:
                return

    def _add(self, item: Item, width: float, glue: float, may_break: bool) -> None:
        paragraph = self.paragraph
        paragraph.items.append(item)
        paragraph.widths.append(width)
        paragraph.glues.append(glue)
        paragraph.breaks.append(may_break)

    def _run(self, style: ComputedStyle, element: Element | None, around: tuple[InlineBox, ...]) -> TextRun:
        run = TextRun(style, self.context.font(style), element, len(self.paragraph.items))
        run.around = around
        run.shift = sum([self._shift(box) for box in around]) if around else 0.0
        run.decorations = decorations(self.paragraph.style, around)
        self.paragraph.runs.append(run)
        return run

    def _shift(self, box: Box) -> float:
        return baseline_shift(box.style, self.context)

    def _text(
        self,
        box: TextBox,
        piece: str,
        offset: int,
        breaks: list[int],
        place: int,
        around: tuple[InlineBox, ...],
    ) -> int:
        """Adds the words of one text box; `place` is where its break opportunities begin."""
        run = self._run(box.style, box.element, around)
        end = offset + len(piece)
        stop = bisect_right(breaks, end, place)
        inner = breaks[place:stop]
        final_break = bool(inner) and inner[-1] == end
        cuts = [0, *[b - offset for b in inner]]
        if not final_break:
            cuts.append(len(piece))
        segments = [piece[a:b] for a, b in pairwise(cuts)]
        if "\n" in piece or "  " in piece or box.style.white_space in ("nowrap", "pre"):
            self._segments_with_care(segments, run, box.style.white_space, final_break)
        else:
            self._segments(segments, run, final_break)
        for word in {w for w in self.paragraph.items[run.start :] if isinstance(w, Word) and w.missing}:
            self._remark_missing(word, box)
        return stop

    def _segments(self, segments: list[str], run: TextRun, final_break: bool) -> None:
        """Words each followed by at most one space: the usual case, without a loop over them."""
        paragraph = self.paragraph
        known = run.setting.segments
        look_up = run.setting.segment
        words = [known.get(segment) or look_up(segment) for segment in segments]
        size, space, spacing = run.size, run.space, run.letter_spacing
        if spacing:
            paragraph.widths += [word.advance * size + word.count * spacing for word in words]
        else:
            paragraph.widths += [word.advance * size for word in words]
        paragraph.glues += [space if word.spaced else 0.0 for word in words]
        paragraph.items += words
        paragraph.breaks += [True] * (len(words) - 1) + [final_break]
        if any(" " in word.text for word in words):
            self._resplit(run)

    def _resplit(self, run: TextRun) -> None:
        """Takes words apart that hold a space at which no line may break: the space still stretches."""
        start = run.start
        paragraph = self.paragraph
        items, breaks = paragraph.items[start:], paragraph.breaks[start:]
        for places in (paragraph.items, paragraph.widths, paragraph.glues, paragraph.breaks):
            del places[start:]
        for item, may_break in zip(items, breaks, strict=True):
            if isinstance(item, Word):
                self._spaced_words(item.text + " " * item.spaced, run, may_break)

    def _spaced_words(self, segment: str, run: TextRun, may_break: bool) -> None:
        """One segment as words, each with at most one space after it."""
        pieces = segment.split(" ")
        trailing = pieces[-1] == "" and len(pieces) > 1
        if trailing:
            pieces.pop()
        for index, piece in enumerate(pieces):
            last = index == len(pieces) - 1
            word = run.setting.segment(piece + (" " if trailing or not last else ""))
            width = word.advance * run.size + word.count * run.letter_spacing
            self._add(word, width, run.space if word.spaced else 0.0, may_break and last)

    def _segments_with_care(self, segments: list[str], run: TextRun, white_space: str, final_break: bool) -> None:
        """Newlines that are kept, runs of spaces that are kept, and text that must not wrap."""
        wraps = white_space not in ("nowrap", "pre")
        for index, segment in enumerate(segments):
            may_break = wraps and (index < len(segments) - 1 or final_break)
            hard = segment.endswith("\n")
            for number, line in enumerate(segment.split("\n")):
                if number:
                    self.paragraph.forced.append(len(self.paragraph.items))
                    self._add(ForcedBreak(), 0.0, 0.0, True)
                if line:
                    self._spaced_words(line, run, may_break and not hard)

    def _other(self, box: Box, around: tuple[InlineBox, ...], may_break: bool) -> None:
        """An edge of an inline box, a forced break, or an atomic box."""
        paragraph = self.paragraph
        if isinstance(box, InlineBox):
            paragraph.edges.append(len(paragraph.items))
            self._add(Edge(box, True), edge_width(box, True), 0.0, False)
        elif isinstance(box, _Close):
            may_break = bool(paragraph.breaks) and paragraph.breaks[-1]
            if may_break:
                paragraph.breaks[-1] = False
            paragraph.edges.append(len(paragraph.items))
            self._add(Edge(box.opened, False), edge_width(box.opened, False), 0.0, may_break)
        elif isinstance(box, BreakBox):
            paragraph.forced.append(len(paragraph.items))
            self._add(ForcedBreak(), 0.0, 0.0, True)
        else:
            if not paragraph.runs:
                self._run(paragraph.style, None, around)
            paragraph.atomics.append(len(paragraph.items))
            self._add(Atomic(box), 0.0, 0.0, may_break)

    def _remark_missing(self, word: Word, box: TextBox) -> None:
        for character in dict.fromkeys(word.missing):
            self.context.remark(
                "glyph",
                f"No font has a glyph for '{character}' (U+{ord(character):04X}); a box stands in its place.",
                box.element,
            )


class _Close(Box):
    """The end of an inline box among the parts."""

    __slots__ = ("opened",)

    def __init__(self, opened: InlineBox) -> None:
        super().__init__(opened.style, opened.element, [])
        self.opened = opened


def edge_width(box: Box, opens: bool) -> float:
    """Margin, border and padding of one side of an inline box; percentages count as 0 here."""
    style = box.style
    if opens:
        margin, border, padding = style.margin_left, style.border_left_width, style.padding_left
    else:
        margin, border, padding = style.margin_right, style.border_right_width, style.padding_right
    return (resolve_auto(margin, 0.0) or 0.0) + border + resolve(padding, 0.0)


def decorations(style: ComputedStyle, around: tuple[InlineBox, ...]) -> tuple[ComputedStyle, ...]:
    """The styles whose text-decoration reaches this text (CSS Text Decoration 3 §2)."""
    found = []
    block: ComputedStyle | None = style
    while block is not None:
        if block.text_decoration_line:
            found.append(block)
        if block.display in ("inline-block", "table-cell", "table-caption", "inline-table", "inline-flex"):
            break
        block = block.parent
    found += [box.style for box in around if box.style.text_decoration_line]
    return tuple(found)


def baseline_shift(style: ComputedStyle, context: Context) -> float:
    """How far an inline box stands above its parent's baseline, in px (CSS 2.2 §10.8.1)."""
    value = style.vertical_align
    if isinstance(value, str):
        parent = style.parent or style
        if value == "baseline" or value in ("top", "bottom"):
            return 0.0
        if value == "sub":
            return -parent.font_size / 5
        if value == "super":
            return parent.font_size / 3
        setting = context.font(parent)
        own = context.font(style)
        if value == "middle":
            middle = (own.face.ascent - own.face.descent) * style.font_size / 2
            return setting.face.x_height * parent.font_size / 2 - middle
        if value == "text-top":
            return setting.face.ascent * parent.font_size - metrics_of(style, own).ascent
        return metrics_of(style, own).descent - setting.face.descent * parent.font_size
    return resolve(value, line_height(style, context.font(style)))
