"""A paragraph: inline content as items of fixed width, measured once, broken at any line width.

An item is a word with the space after it, an edge of an inline box, an atomic box or a forced
break. Widths stand in parallel lists with running sums, so that a line is found by bisection and
no glyph is touched.
"""

from __future__ import annotations

import re
from bisect import bisect_left, bisect_right
from collections.abc import Sequence
from itertools import accumulate, pairwise
from operator import add
from typing import TYPE_CHECKING, Final, NamedTuple

from fleetquill.layout.boxes import Box, BreakBox, Element, InlineBox, TextBox
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Factor, resolve, resolve_auto
from fleetquill.text import bidi
from fleetquill.text.breaking import opportunities
from fleetquill.text.casing import transform
from fleetquill.text.fill import Break, best_breaks
from fleetquill.text.hyphens import hyphenation_points
from fleetquill.text.shaping import FontSetting, Word, clusters

if TYPE_CHECKING:
    from fleetquill.layout.context import Context
    from fleetquill.layout.fragments import Fragment, TextSpan

SPACES: Final = re.compile(r"[ \t\n\r\f]+")
SPACES_BUT_NEWLINES: Final = re.compile(r"[ \t\r\f]+")
OBJECT: Final = "\ufffc"
SOFT_HYPHEN: Final = "\u00ad"
IDEOGRAPH: Final = re.compile(r"[\u1100-\u11ff\u2e80-\u9fff\uac00-\ud7ff\uf900-\ufaff\uff00-\uffef]")
EPSILON: Final = 0.005  # px
SHORT: Final = re.compile(r"\s*[\w.,:€/-][\w .,:€/-]{0,60}", re.ASCII)  # a plain text that fits in a cell
LONGEST_SHARED: Final = 60  # characters of a text whose paragraph may be shared
MOST_SHARED: Final = 8_000


class Metrics(NamedTuple):
    """How far an inline box reaches above and below the baseline of its line, in px."""

    ascent: float
    descent: float


class Edge:
    """The start or the end of an inline box, with its margin, border and padding.

    `around` are the inline boxes that it stands in, its own the last; `level` is of the bidi algorithm.
    """

    __slots__ = ("around", "box", "level", "opens")

    def __init__(self, box: InlineBox, opens: bool, around: tuple[InlineBox, ...], level: int) -> None:
        self.box = box
        self.opens = opens
        self.around = around
        self.level = level


class Atomic:
    """A box that stands in a line like a single letter. `fragment` is of the last layout."""

    __slots__ = ("around", "box", "fragment", "level")

    def __init__(self, box: Box, around: tuple[InlineBox, ...], level: int) -> None:
        self.box = box
        self.around = around
        self.level = level
        self.fragment: Fragment | None = None


class ForcedBreak:
    """Ends its line."""

    __slots__ = ()


class Tab:
    """A tab: its width reaches to the next tab stop."""

    __slots__ = ("run",)

    def __init__(self, run: TextRun) -> None:
        self.run = run


class FloatItem:
    """A float among the words: it takes no room in its line."""

    __slots__ = ("box",)

    def __init__(self, box: Box) -> None:
        self.box = box


Item = Word | Edge | Atomic | ForcedBreak | Tab | FloatItem


class TextRun:
    """Items of one style and direction: what they share on every line."""

    __slots__ = (
        "around",
        "decorations",
        "element",
        "hyphen",
        "letter_spacing",
        "level",
        "metrics",
        "setting",
        "shift",
        "size",
        "space",
        "start",
        "style",
    )

    def __init__(
        self, style: ComputedStyle, setting: FontSetting, element: Element | None, start: int, level: int
    ) -> None:
        self.style = style
        self.level = level
        self.hyphen: Word | None = None
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

    def width(self, word: Word) -> float:
        """The width of a word in px."""
        return word.advance * self.size + word.count * self.letter_spacing

    @property
    def hyphen_word(self) -> Word:
        """The hyphen that this run shows at the end of a line."""
        if self.hyphen is None:
            self.hyphen = self.setting.hyphen(self.style.hyphenate_character)
        return self.hyphen


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
        self.floats: list[int] = []
        self.forced: list[int] = []
        self.soft: set[int] = set()  # items that show a hyphen where a line ends with them
        self.first_line: Paragraph | None = None  # the same items as they are on the first line
        self.base_level = 0
        self.bidi = False
        self.hyphenates = False
        self.has_tabs = False
        self.strut = metrics_of(style, context.font(style))
        builder = Builder(self)
        if not (len(children) == 1 and isinstance(children[0], TextBox) and builder.short_way(children[0])):
            builder.build(children)
        self.run_starts = [run.start for run in self.runs]
        self.plain = not self.edges and not self.atomics and not self.floats and not self.bidi
        self.plans: dict[float, dict[int, int]] = {}  # line ends by line start, for a width
        self.spans: dict[float, TextSpan] = {}  # of a simple paragraph, by where its line starts
        self.last_alignment = last_alignment(style, self.base_level % 2 == 1)
        self.simple = (
            self.plain
            and len(self.runs) == 1
            and bool(self.items)
            and not (self.forced or self.has_tabs)
            and style.text_indent == 0.0
        )
        self._sum()

    def _sum(self) -> None:
        """Running sums: where each item starts and ends on an endless line."""
        totals = list(accumulate(map(add, self.widths, self.glues), initial=0.0))
        self.starts: list[float] = totals
        self.ends: list[float] = list(map(add, totals, self.widths))

    @property
    def is_empty(self) -> bool:
        """Whether there is nothing that makes a line (CSS 2.2 §9.4.2)."""
        return not self.items or (
            not self.atomics
            and not self.floats
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
        last = self._break_before(end, start, limit)
        if self.hyphenates and self._hyphenate_at(max(last, start), limit):
            return max(last, start) + 1
        if last > start:
            return last
        if self._may_split(start) and self._split_to_fit(start, end, limit):
            return self.line_end(start, available)
        last = max(end, start + 1)
        while last < stop and not self.breaks[last - 1]:
            last += 1
        return last

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
        wraps = style.white_space not in ("nowrap", "pre") and style.text_wrap != "nowrap"
        return wraps and (style.overflow_wrap != "normal" or style.word_break == "break-word")

    def _split_to_fit(self, start: int, end: int, limit: float) -> bool:
        """Splits a word that is wider than a line after the last cluster that fits (overflow-wrap)."""
        index = min(end, len(self.items) - 1)
        word = self.items[index]
        if not isinstance(word, Word):
            return False
        run = self.run_at(index)
        pieces = clusters(word.text)
        if len(pieces) < 2:
            return False
        width, point = 0.0, 0
        for piece in pieces[:-1]:
            width += run.width(run.setting.segment(piece))
            if self.starts[index] + width > limit and (point or index > start):
                break
            point += len(piece)
        if not point:
            self.breaks[index - 1] = True
            return True
        self.split(index, [point], hyphen=False)
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
        for places in (self.edges, self.atomics, self.forced, self.floats):
            places[:] = [place + more if place > index else place for place in places]
        self.soft = {place + more if place >= index else place for place in self.soft}
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

    def content_widths(self) -> tuple[float, float]:
        """The min-content and max-content widths in px (CSS Sizing 3 §4)."""
        if len(self.items) == 1 and not self.forced and self.style.overflow_wrap == "normal":
            return self.widths[0], self.widths[0]
        widest = 0.0
        start = 0
        for stop in [*(index + 1 for index in self.forced), len(self.items)]:
            if stop > start:
                widest = max(widest, self.ends[stop - 1] - self.starts[start])
                start = stop
        if self.style.white_space in ("nowrap", "pre") or self.style.text_wrap == "nowrap":
            return widest, widest
        if self.style.overflow_wrap == "anywhere" or self.style.word_break == "break-word":
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


def alignment(align: str, rtl: bool) -> str:
    """`text-align` as left, right, center or justify."""
    if align in ("start", "match-parent"):
        return "right" if rtl else "left"
    if align == "end" or align.startswith('"'):
        return "left" if rtl else "right"
    return align


def last_alignment(style: ComputedStyle, rtl: bool) -> str:
    """How the last line of a paragraph is aligned (CSS Text 3 §6.3)."""
    align = style.text_align_last
    if align == "auto":
        align = "start" if style.text_align == "justify" else style.text_align
    return alignment(align, rtl)


def shared_paragraph(style: ComputedStyle, box: TextBox, context: Context) -> Paragraph:
    """The paragraph of one piece of text. Where no later layout can change it, like ones are the same."""
    own = box.style
    if len(box.text) > LONGEST_SHARED or own.hyphens == "auto" or own.overflow_wrap != "normal":
        return Paragraph(style, [box], context)
    key = (style, own, box.text)
    paragraphs = context.paragraphs
    paragraph = paragraphs.get(key)
    if paragraph is None:
        paragraph = Paragraph(style, [box], context)
        lacks = paragraph.runs and paragraph.runs[0].setting.lacks  # its remark names the element
        if not lacks:
            if len(paragraphs) >= MOST_SHARED:
                paragraphs.clear()
            paragraphs[key] = paragraph
    return paragraph


class Part(NamedTuple):
    """A piece of the paragraph's text: the box it is from, or the start or end of an inline box."""

    box: Box
    text: str
    around: tuple[InlineBox, ...]


class Builder:
    """Fills a paragraph's lists from inline boxes."""

    def __init__(self, paragraph: Paragraph) -> None:
        self.paragraph = paragraph
        self.context = paragraph.context
        self.parts: list[Part] = []
        self.after_space = True

    def build(self, children: Sequence[Box]) -> None:
        self._collect(children, ())
        self._trim_end()
        text = "".join([part.text for part in self.parts])
        breaks = opportunities(text) if text else []
        levels = self._levels(text)
        offset = place = 0
        for part in self.parts:
            end = offset + len(part.text)
            stop = bisect_right(breaks, end, place)
            if isinstance(part.box, TextBox):
                if part.text:
                    inner = [b - offset for b in breaks[place:stop]]
                    self._text(part, inner, levels[offset:end] if levels else None)
            else:
                may_break = bool(stop) and breaks[stop - 1] == end
                level = levels[min(offset, len(levels) - 1)] if levels else 0
                self._other(part, may_break or end == len(text), level)
            offset, place = end, stop

    def short_way(self, box: TextBox) -> bool:
        """One piece of plain text in one style, such as a cell holds; False where it is more than that."""
        style = box.style
        own = self.paragraph.style
        if not (
            SHORT.fullmatch(box.text)
            and style.white_space == "normal"
            and style.word_break == style.unicode_bidi == "normal"
            and style.line_break == "auto"
            and style.direction == own.direction == "ltr"
            and own.unicode_bidi == "normal"
        ):
            return False
        text = transform(SPACES.sub(" ", box.text.strip()), style.text_transform, style.language)
        self._stretch(text, opportunities(text), self._run(style, box.element, ()))
        return True

    def _levels(self, text: str) -> list[int] | None:
        """Bidi levels of the characters; None where all of it runs from left to right."""
        style = self.paragraph.style
        base: int | None = 1 if style.direction == "rtl" else 0
        if style.unicode_bidi == "plaintext":
            base = bidi.paragraph_level(text)
        self.paragraph.base_level = base or 0
        if not text or (base == 0 and not bidi.NEEDS_BIDI.search(text)):
            return None
        self.paragraph.bidi = True
        return bidi.levels(text, base)[1]

    def _collect(self, children: Sequence[Box], around: tuple[InlineBox, ...]) -> None:
        for child in children:
            if isinstance(child, TextBox):
                piece = self._collapsed(child)
                if piece:
                    self.parts.append(Part(child, piece, around))
            elif isinstance(child, InlineBox):
                start, end = direction_controls(child)
                inside = (*around, child)
                self.parts.append(Part(child, start, inside))
                self._collect(child.children, inside)
                self.parts.append(Part(_Close(child), end, inside))
            elif isinstance(child, BreakBox):
                self.parts.append(Part(child, "\n", around))
                self.after_space = True
            elif child.style.float != "none":
                self.parts.append(Part(child, "", around))
            else:
                self.parts.append(Part(child, OBJECT, around))
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
            text = text.replace("\r\n", "\n")
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
            box, piece, _ = self.parts[index]
            if isinstance(box, TextBox):
                if box.style.white_space in ("pre", "pre-wrap", "break-spaces"):
                    if piece.endswith("\n"):
                        self.parts[index] = self.parts[index]._replace(text=piece[:-1])
                    return
                trimmed = piece.rstrip(" ")
                self.parts[index] = self.parts[index]._replace(text=trimmed)
                if trimmed:
                    return
            elif piece in (OBJECT, "\n"):
                return

    def _add(self, item: Item, width: float, glue: float, may_break: bool) -> None:
        paragraph = self.paragraph
        paragraph.items.append(item)
        paragraph.widths.append(width)
        paragraph.glues.append(glue)
        paragraph.breaks.append(may_break)

    def _run(
        self, style: ComputedStyle, element: Element | None, around: tuple[InlineBox, ...], level: int = 0
    ) -> TextRun:
        setting = self.context.font(style, "rtl" if level % 2 else "ltr")
        run = TextRun(style, setting, element, len(self.paragraph.items), level)
        run.around = around
        run.shift = sum([baseline_shift(box.style, self.context) for box in around]) if around else 0.0
        run.decorations = decorations(self.paragraph.style, around)
        if style.hyphens == "auto" and style.language:
            self.paragraph.hyphenates = True
        self.paragraph.runs.append(run)
        return run

    def _text(self, part: Part, breaks: list[int], levels: list[int] | None) -> None:
        """Adds the words of one text box, a run for each stretch of one direction."""
        box, text, around = part
        assert isinstance(box, TextBox)
        breaks = adjusted_breaks(text, breaks, box.style)
        first_item, first_run = len(self.paragraph.items), len(self.paragraph.runs)
        if levels is None:
            self._stretch(text, breaks, self._run(box.style, box.element, around))
        else:
            start = 0
            while start < len(text):
                end = start + 1
                while end < len(text) and levels[end] == levels[start]:
                    end += 1
                inner = [b - start for b in breaks if start < b <= end]
                self._stretch(text[start:end], inner, self._run(box.style, box.element, around, levels[start]))
                start = end
        if any(run.setting.lacks for run in self.paragraph.runs[first_run:]):
            for word in self.paragraph.items[first_item:]:
                if isinstance(word, Word) and word.missing:
                    self._remark_missing(word, box)

    def _stretch(self, text: str, breaks: list[int], run: TextRun) -> None:
        """Text of one run, cut at its break opportunities."""
        final_break = bool(breaks) and breaks[-1] == len(text)
        cuts = [0, *breaks] if final_break else [0, *breaks, len(text)]
        segments = [text[a:b] for a, b in pairwise(cuts)]
        style = run.style
        wraps = style.white_space not in ("nowrap", "pre") and style.text_wrap != "nowrap"
        if not wraps or "\n" in text or "  " in text or "\t" in text or SOFT_HYPHEN in text:
            self._segments_with_care(segments, run, wraps, final_break)
        else:
            self._segments(segments, run, final_break)
        if style.font_synthesis and run.setting.synthetic:
            self._remark_synthesis(run)

    def _segments(self, segments: list[str], run: TextRun, final_break: bool) -> None:
        """Words each followed by at most one space: the usual case, without a loop over them."""
        paragraph = self.paragraph
        known = run.setting.segments
        look_up = run.setting.segment
        words = [known.get(segment) or look_up(segment) for segment in segments]
        if run.setting.has_inner_spaces and any(word.inner_space for word in words):
            for index, word in enumerate(words):
                last = index == len(words) - 1
                self._spaced_words(word.text + " " * word.spaced, run, final_break if last else True)
            return
        size, space, spacing = run.size, run.space, run.letter_spacing
        if spacing:
            paragraph.widths += [word.advance * size + word.count * spacing for word in words]
        else:
            paragraph.widths += [word.advance * size for word in words]
        paragraph.glues += [space if word.spaced else 0.0 for word in words]
        paragraph.items += words
        paragraph.breaks += [True] * (len(words) - 1)
        paragraph.breaks.append(final_break)

    def _spaced_words(self, segment: str, run: TextRun, may_break: bool) -> None:
        """One segment as words, each with at most one space after it."""
        pieces = segment.split(" ")
        trailing = pieces[-1] == "" and len(pieces) > 1
        if trailing:
            pieces.pop()
        for index, piece in enumerate(pieces):
            last = index == len(pieces) - 1
            word = run.setting.segment(piece + (" " if trailing or not last else ""))
            self._add(word, run.width(word), run.space if word.spaced else 0.0, may_break and last)

    def _segments_with_care(self, segments: list[str], run: TextRun, wraps: bool, final_break: bool) -> None:
        """Newlines, tabs and runs of spaces that are kept, soft hyphens, and text that must not wrap."""
        for index, segment in enumerate(segments):
            may_break = wraps and (index < len(segments) - 1 or final_break)
            hard = segment.endswith("\n")
            for number, line in enumerate(segment.split("\n")):
                if number:
                    self.paragraph.forced.append(len(self.paragraph.items))
                    self._add(ForcedBreak(), 0.0, 0.0, True)
                if line:
                    self._with_tabs(line, run, may_break and not hard)

    def _with_tabs(self, text: str, run: TextRun, may_break: bool) -> None:
        pieces = text.split("\t")
        for index, piece in enumerate(pieces):
            if index:
                self.paragraph.has_tabs = True
                self._add(Tab(run), self._to_tab_stop(run), 0.0, may_break or index < len(pieces) - 1)
            if piece:
                shows_hyphen = may_break and piece.endswith(SOFT_HYPHEN) and run.style.hyphens != "none"
                breaks_here = may_break and (not piece.endswith(SOFT_HYPHEN) or shows_hyphen)
                self._spaced_words(piece.replace(SOFT_HYPHEN, ""), run, breaks_here)
                if shows_hyphen:
                    self.paragraph.soft.add(len(self.paragraph.items) - 1)

    def _to_tab_stop(self, run: TextRun) -> float:
        """The distance to the next tab stop, were there no wrapping (CSS Text 3 §4.2)."""
        paragraph = self.paragraph
        start = paragraph.forced[-1] + 1 if paragraph.forced else 0
        at = sum(paragraph.widths[start:]) + sum(paragraph.glues[start:])
        size = run.style.tab_size
        stop = size.value * run.space if isinstance(size, Factor) else size
        if stop <= 0:
            return 0.0
        width = stop - at % stop
        return width if width >= run.space / 2 else width + stop

    def _other(self, part: Part, may_break: bool, level: int) -> None:
        """An edge of an inline box, a forced break, or an atomic box."""
        paragraph = self.paragraph
        box, _, around = part
        if isinstance(box, InlineBox):
            paragraph.edges.append(len(paragraph.items))
            self._add(Edge(box, True, around, level), edge_width(box, True), 0.0, False)
        elif isinstance(box, _Close):
            may_break = bool(paragraph.breaks) and paragraph.breaks[-1]
            if may_break:
                paragraph.breaks[-1] = False
            paragraph.edges.append(len(paragraph.items))
            self._add(Edge(box.opened, False, around, level), edge_width(box.opened, False), 0.0, may_break)
        elif isinstance(box, BreakBox):
            paragraph.forced.append(len(paragraph.items))
            self._add(ForcedBreak(), 0.0, 0.0, True)
        elif box.style.float != "none":
            may_break = bool(paragraph.breaks) and paragraph.breaks[-1]
            paragraph.floats.append(len(paragraph.items))
            self._add(FloatItem(box), 0.0, 0.0, may_break)
        else:
            if not paragraph.runs:
                self._run(paragraph.style, None, around)
            paragraph.atomics.append(len(paragraph.items))
            self._add(Atomic(box, around, level), 0.0, 0.0, may_break)

    def _remark_missing(self, word: Word, box: TextBox) -> None:
        for character in dict.fromkeys(word.missing):
            self.context.remark(
                "glyph",
                f"No font has a glyph for '{character}' (U+{ord(character):04X}); a box stands in its place.",
                box.element,
            )

    def _remark_synthesis(self, run: TextRun) -> None:
        self.context.remark("font", run.setting.synthetic, run.element)


def adjusted_breaks(text: str, breaks: list[int], style: ComputedStyle) -> list[int]:
    """Break opportunities as word-break and line-break change them (CSS Text 3 §5.2, §5.3)."""
    if style.word_break == "break-all" or style.line_break == "anywhere":
        found = set(breaks)
        offset = 0
        for cluster in clusters(text):
            offset += len(cluster)
            if offset < len(text) and (style.line_break == "anywhere" or _between_letters(text, offset)):
                found.add(offset)
        return sorted(found)
    if style.word_break == "keep-all":
        return [b for b in breaks if not (b < len(text) and _between_ideographs(text, b))]
    if style.line_break == "strict":
        return [b for b in breaks if b >= len(text) or text[b] not in STRICT_NON_STARTERS]
    return breaks


STRICT_NON_STARTERS: Final = frozenset("ぁぃぅぇぉっゃゅょゎゕゖァィゥェォッャュョヮヵヶー〜゠")  # CSS Text 3 §5.3


def _between_letters(text: str, offset: int) -> bool:
    return text[offset - 1].isalnum() and text[offset].isalnum()


def _between_ideographs(text: str, offset: int) -> bool:
    return bool(IDEOGRAPH.match(text[offset - 1]) and IDEOGRAPH.match(text[offset]))


def direction_controls(box: InlineBox) -> tuple[str, str]:
    """The control characters that stand for unicode-bidi (CSS Writing Modes 4 §2.4.2)."""
    style = box.style
    rtl = style.direction == "rtl"
    if style.unicode_bidi == "embed":
        return ("\u202b" if rtl else "\u202a", "\u202c")
    if style.unicode_bidi == "isolate":
        return ("\u2067" if rtl else "\u2066", "\u2069")
    if style.unicode_bidi == "plaintext":
        return ("\u2068", "\u2069")
    if style.unicode_bidi == "bidi-override":
        return ("\u202e" if rtl else "\u202d", "\u202c")
    if style.unicode_bidi == "isolate-override":
        return ("\u2068\u202e" if rtl else "\u2068\u202d", "\u202c\u2069")
    return ("", "")


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
