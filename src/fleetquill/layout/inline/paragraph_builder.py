"""From inline boxes to the items of a paragraph: white space, break opportunities, directions, words."""

from __future__ import annotations

import re
from bisect import bisect_right
from collections.abc import Sequence
from typing import TYPE_CHECKING, Final, NamedTuple

from fleetquill.deadline import heed
from fleetquill.layout.boxes.boxes import AnchorBox, Box, BreakBox, InlineBox, LeaderBox, TextBox
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
    baseline_shift,
    decorations,
    edge_widths,
)
from fleetquill.layout.inline.made_features import stand_ins
from fleetquill.layout.inline.paragraph import Paragraph, wraps
from fleetquill.style.lengths import Factor
from fleetquill.style.properties import ComputedStyle
from fleetquill.text import bidi
from fleetquill.text.breaking import cut, lacks_dictionary, opportunities, pieces
from fleetquill.text.casing import transform
from fleetquill.text.settings import FELL_BACK
from fleetquill.text.shaping import Word, clusters

if TYPE_CHECKING:
    from fleetquill.layout.contract.context import Context

SPACES: Final = re.compile(r"[ \t\n\r\f]+")
SPACES_BUT_NEWLINES: Final = re.compile(r"[ \t\r\f]+")
OBJECT: Final = "\ufffc"
SOFT_HYPHEN: Final = "\u00ad"
IDEOGRAPHS: Final = (  # first and last of each block
    ("\u1100", "\u11ff"), ("\u2e80", "\u9fff"), ("\uac00", "\ud7ff"), ("\uf900", "\ufaff"), ("\uff00", "\uffef"),
)  # fmt: skip
PLAIN: Final = re.compile(  # text of one direction without controls, such as a cell holds
    r"[\t\n\r\f\x20-\x7e\xa0-\xac\xae-\u024f\u2010-\u2015\u2018-\u201f\u2020-\u2027\u2030-\u205e\u20a0-\u20bf]+"
)
SPACED_WORDS: Final = re.compile(r"[^ ]+ ?| ")
NO_DICTIONARY: Final = (
    'The words of text without spaces are not known; its lines end between syllables. Install "fleetquill[words]".'
)
LONGEST_SHARED: Final = 60  # characters of a text whose paragraph may be shared


def measured_paragraph(style: ComputedStyle, children: Sequence[Box], context: Context) -> Paragraph:
    """The paragraph of inline boxes in a block of that style."""
    paragraph = Paragraph(style, context.fonts)
    builder = Builder(paragraph, context)
    if not (len(children) == 1 and isinstance(children[0], TextBox) and builder.short_way(children[0])):
        builder.build(children)
    paragraph.settle()
    return paragraph


def shared_paragraph(style: ComputedStyle, box: TextBox, context: Context) -> Paragraph:
    """The paragraph of one piece of text. Where no later layout can change it, the press's documents share it."""
    own = box.style
    if (
        len(box.text) > LONGEST_SHARED
        or own.hyphens == "auto"
        or own.overflow_wrap != "normal"
        or own.word_break == "break-word"
    ):
        return measured_paragraph(style, [box], context)
    key = (context.fonts, style, own, box.text)
    paragraphs = context.paragraphs
    paragraph = paragraphs.get(key)
    if paragraph is None:
        paragraph = measured_paragraph(style, [box], context)
        remarked = any(run.setting.lacks or run.setting.synthetic or run.setting.restricted for run in paragraph.runs)
        if not remarked:  # each document says it of its own elements
            paragraphs.put(key, paragraph)
    return paragraph


def folded(text: str) -> str:
    """The text with each run of white space as one space."""
    return text if text.isprintable() and "  " not in text else SPACES.sub(" ", text)


class Part(NamedTuple):
    """A piece of the paragraph's text: the box it is from, or the start or end of an inline box."""

    box: Box
    text: str
    around: tuple[InlineBox, ...]


class Builder:
    """Fills a paragraph's lists from inline boxes."""

    def __init__(self, paragraph: Paragraph, context: Context) -> None:
        self.paragraph = paragraph
        self.context = context
        self.parts: list[Part] = []
        self.after_space = True
        self._measured = (0, 0, 0.0)  # up to which item of a line with tabs, and how wide that is

    def build(self, children: Sequence[Box]) -> None:
        self._collect(children, ())
        self._trim_end()
        text = "".join([part.text for part in self.parts])
        breaks = opportunities(text) if text else []
        if lacks_dictionary(text):
            self.context.remark_first("words", NO_DICTIONARY, next((part.box.element for part in self.parts), None))
        levels = self._levels(text)
        offset = place = 0
        for part in self.parts:
            end = offset + len(part.text)
            stop = bisect_right(breaks, end, place)
            if isinstance(part.box, TextBox) and not isinstance(part.box, LeaderBox):
                if part.text:
                    inner = [b - offset for b in breaks[place:stop]]
                    self._text(part, inner, levels[offset:end] if levels else None)
            else:
                may_break = bool(stop) and breaks[stop - 1] == end
                level = self._level_at(offset, part.box, levels) if levels else 0
                self._other(part, may_break or end == len(text), level)
            offset, place = end, stop

    def short_way(self, box: TextBox) -> bool:
        """One piece of plain text in one style, such as a cell holds; False where it is more than that."""
        style = box.style
        own = self.paragraph.style
        if not (
            PLAIN.fullmatch(box.text)
            and (style.white_space == "normal" or style.white_space == "nowrap")
            and style.word_break == style.unicode_bidi == "normal"
            and style.line_break == "auto"
            and style.direction == own.direction == "ltr"
            and own.unicode_bidi == "normal"
            and style.font_variant_caps == style.font_variant_position == "normal"
        ):
            return False
        text = transform(folded(box.text).strip(" "), style.text_transform, style.language)
        if text:
            run = self._run(style, ())
            if style.white_space == "normal" and style.text_wrap != "nowrap":
                self._segments(pieces(text), run, True, False)
            else:
                self._segments(SPACED_WORDS.findall(text), run, False, False)
            self._remark_synthesis(run, box)
            if self.paragraph.runs[0].setting.lacks:
                self._remark_all_missing(0, box)
        return True

    def _levels(self, text: str) -> list[int] | None:
        """Bidi levels of the characters; None where all of it runs from left to right."""
        style = self.paragraph.style
        base: int | None = 1 if style.direction == "rtl" else 0
        if style.unicode_bidi == "plaintext":
            base = bidi.paragraph_level(text)
        self.paragraph.base_level = base or 0
        if not text or (base == 0 and not bidi.may_run_from_right(text)):
            return None
        self.paragraph.bidi = True
        return bidi.levels(text, base)[1]

    def _level_at(self, offset: int, box: object, levels: list[int]) -> int:
        """The level of what stands between two characters: an end goes with what it ends, a start with what follows."""
        base = self.paragraph.base_level
        before = levels[offset - 1] if offset else base
        after = levels[offset] if offset < len(levels) else base
        if isinstance(box, AnchorBox):
            return min(before, after)
        return before if isinstance(box, _Close) and offset else levels[min(offset, len(levels) - 1)]

    def _collect(self, children: Sequence[Box], around: tuple[InlineBox, ...]) -> None:
        for child in children:
            if isinstance(child, AnchorBox):
                self.parts.append(Part(child, "", around))
            elif isinstance(child, LeaderBox):
                self.parts.append(Part(child, OBJECT, around))
                self.after_space = False
            elif isinstance(child, TextBox):
                made = stand_ins(child, self.context)
                if made is not None:
                    self._collect(made, around)
                    continue
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
            text = folded(text)
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
            if isinstance(box, TextBox) and piece != OBJECT:
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

    def _run(self, style: ComputedStyle, around: tuple[InlineBox, ...], level: int = 0) -> TextRun:
        paragraph = self.paragraph
        if around or level or paragraph.items:
            run = self._new_run(style, around, level)
        else:  # a run at the very start has no place of its own: paragraphs in one style share it
            kept = paragraph.style.kept  # of the block: it may be the document's own, and goes with it
            key = (self.context.fonts, style)
            run = kept.get(key) or self._new_run(style, (), 0)
            kept[key] = run
        if style.hyphens == "auto" and style.language:
            paragraph.hyphenates = True
        paragraph.runs.append(run)
        return run

    def _new_run(self, style: ComputedStyle, around: tuple[InlineBox, ...], level: int) -> TextRun:
        setting = self.context.font(style, "rtl" if level % 2 else "ltr")
        run = TextRun(style, setting, len(self.paragraph.items), level)
        run.around = around
        run.shift = sum([baseline_shift(box.style, self.context.fonts) for box in around]) if around else 0.0
        run.decorations = decorations(self.paragraph.style, around)
        return run

    def _text(self, part: Part, breaks: list[int], levels: list[int] | None) -> None:
        """Adds the words of one text box, a run for each stretch of one direction."""
        box, text, around = part
        assert isinstance(box, TextBox)
        breaks = adjusted_breaks(text, breaks, box.style)
        first_item, first_run = len(self.paragraph.items), len(self.paragraph.runs)
        if levels is None:
            self._stretch(text, breaks, self._run(box.style, around), box)
        else:
            start = 0
            while start < len(text):
                heed()
                end = start + 1
                while end < len(text) and levels[end] == levels[start]:
                    end += 1
                inner = [b - start for b in breaks[bisect_right(breaks, start) : bisect_right(breaks, end)]]
                self._stretch(text[start:end], inner, self._run(box.style, around, levels[start]), box)
                start = end
        if any(run.setting.lacks for run in self.paragraph.runs[first_run:]):
            self._remark_all_missing(first_item, box)

    def _remark_all_missing(self, first_item: int, box: TextBox) -> None:
        for word in self.paragraph.items[first_item:]:
            if isinstance(word, Word) and word.missing:
                self._remark_missing(word, box)

    def _stretch(self, text: str, breaks: list[int], run: TextRun, box: TextBox) -> None:
        """Text of one run, cut at its break opportunities."""
        style = run.style
        final_break = bool(breaks) and breaks[-1] == len(text)
        may_wrap = wraps(style)
        if "\n" in text or "  " in text or "\t" in text or SOFT_HYPHEN in text:
            self._segments_with_care(cut(text, breaks), run, may_wrap, final_break)
        elif may_wrap:
            self._segments(cut(text, breaks), run, True, final_break)
        else:
            self._segments(SPACED_WORDS.findall(text), run, False, False)
        self._remark_synthesis(run, box)

    def _segments(self, segments: list[str], run: TextRun, between: bool, final_break: bool) -> None:
        """Words each followed by at most one space: the usual case, without a loop over them.

        `between` and `final_break` say whether a line may break between them and after the last.
        """
        paragraph = self.paragraph
        known = run.setting.segments
        look_up = run.setting.segment
        try:
            words = list(map(known.__getitem__, segments))
        except KeyError:
            words = [known.get(segment) or look_up(segment) for segment in segments]
        if run.setting.has_inner_spaces and any(word.inner_space for word in words):
            for index, word in enumerate(words):
                last = index == len(words) - 1
                self._spaced_words(word.text + " " * word.spaced, run, final_break if last else between)
            return
        size, space, spacing = run.size, run.space, run.letter_spacing
        if spacing:
            paragraph.widths += [word.advance * size + word.count * spacing for word in words]
        else:
            paragraph.widths += [word.advance * size for word in words]
        paragraph.glues += [space if word.spaced else 0.0 for word in words]
        paragraph.items += words
        paragraph.breaks += [between] * (len(words) - 1)
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
            heed()
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
        since, until, at = self._measured
        if since != start:
            until, at = start, 0.0
        at += sum(paragraph.widths[until:]) + sum(paragraph.glues[until:])
        self._measured = (start, len(paragraph.widths), at)
        size = run.style.tab_size
        stop = size.value * run.space if isinstance(size, Factor) else size
        if stop <= 0:
            return 0.0
        width = stop - at % stop
        return width if width >= run.space / 2 else width + stop

    def _edge(self, edge: Edge, may_break: bool) -> None:
        """The start or the end of an inline box."""
        paragraph = self.paragraph
        left, right, hangs = edge_widths(edge.box)
        paragraph.edges.append(len(paragraph.items))
        if hangs:
            paragraph.shares.append(len(paragraph.items))
        self._add(edge, left if edge.at_left else right, 0.0, may_break)

    def _other(self, part: Part, may_break: bool, level: int) -> None:
        """An edge of an inline box, a forced break, or an atomic box."""
        heed()
        paragraph = self.paragraph
        box, _, around = part
        if isinstance(box, InlineBox):
            self._edge(Edge(box, True, around, level), False)
        elif isinstance(box, _Close):
            may_break = bool(paragraph.breaks) and paragraph.breaks[-1]
            if may_break:
                paragraph.breaks[-1] = False
            self._edge(Edge(box.opened, False, around, level), may_break)
        elif isinstance(box, BreakBox):
            paragraph.forced.append(len(paragraph.items))
            self._add(ForcedBreak(box.style if box.style.clear != "none" else None), 0.0, 0.0, True)
        elif isinstance(box, AnchorBox):
            may_break = bool(paragraph.breaks) and paragraph.breaks[-1]
            if may_break:
                paragraph.breaks[-1] = False
            paragraph.anchors.append(len(paragraph.items))
            self._add(Anchor(box, around, level), 0.0, 0.0, may_break)
        elif isinstance(box, LeaderBox):
            run = self._run(box.style, around, level)
            paragraph.leaders.append(len(paragraph.items))
            self._add(Leader(box.text, run), 0.0, 0.0, may_break)
        elif box.style.float != "none":
            may_break = bool(paragraph.breaks) and paragraph.breaks[-1]
            paragraph.floats.append(len(paragraph.items))
            self._add(FloatItem(box), 0.0, 0.0, may_break)
        else:
            if not paragraph.runs:
                self._run(paragraph.style, around)
            paragraph.atomics.append(len(paragraph.items))
            style = around[-1].style if around else paragraph.style
            self._add(Atomic(box, around, level), 0.0, 0.0, may_break and wraps(style))

    def _remark_missing(self, word: Word, box: TextBox) -> None:
        for character in dict.fromkeys(word.missing):
            message = "No font has a glyph for {}; a box stands in its place."
            self.context.gather("glyph", message, f"'{character}' (U+{ord(character):04X})", box.element)

    def _remark_synthesis(self, run: TextRun, box: TextBox) -> None:
        if run.setting.synthetic and run.style.font_synthesis:
            self.context.remark_first("font", run.setting.synthetic, box.element)
        if run.setting.restricted:
            self.context.remark_first("embedding", run.setting.restricted, box.element)
        if FELL_BACK in run.style.kept:
            self.context.remark_first("font", run.style.kept[FELL_BACK], box.element)


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
    return _is_ideograph(text[offset - 1]) and _is_ideograph(text[offset])


def _is_ideograph(character: str) -> bool:
    return any(first <= character <= last for first, last in IDEOGRAPHS)


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
