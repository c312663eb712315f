"""What inline content is made of once it is measured: words, edges, boxes, breaks, tabs, floats."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.drawing.canvas import Look, Outline, Stroke
from fleetquill.layout.boxes.boxes import AnchorBox, Box, InlineBox
from fleetquill.style.lengths import Factor, resolve, resolve_auto
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.settings import FontSettings
from fleetquill.text.shaping import FontSetting, Word


class Metrics(NamedTuple):
    """How far an inline box reaches above and below the baseline of its line, in px."""

    ascent: float
    descent: float


def highest(strut: Metrics, metrics: Metrics, shift: float) -> tuple[float, float]:
    """How far a line of that strut reaches above and below its baseline with a box raised by `shift` on it."""
    return max(strut.ascent, metrics.ascent + shift), max(strut.descent, metrics.descent - shift)


class Edge:
    """The start or the end of an inline box, with its margin, border and padding.

    `around` are the inline boxes that it stands in, its own the last; `level` is of the bidi algorithm.
    """

    __slots__ = ("around", "at_left", "box", "level", "opens")

    def __init__(self, box: InlineBox, opens: bool, around: tuple[InlineBox, ...], level: int) -> None:
        self.box = box
        self.opens = opens
        self.at_left = opens == (box.style.direction == "ltr")  # whether it is the left side of its box
        self.around = around
        self.level = level


class Atomic:
    """A box that stands in a line like a single letter."""

    __slots__ = ("around", "box", "level")

    def __init__(self, box: Box, around: tuple[InlineBox, ...], level: int) -> None:
        self.box = box
        self.around = around
        self.level = level


class ForcedBreak:
    """Ends its line; `clear` is the style of one after which the text goes on below floats."""

    __slots__ = ("clear",)

    def __init__(self, clear: ComputedStyle | None = None) -> None:
        self.clear = clear


class Tab:
    """A tab: its width reaches to the next tab stop."""

    __slots__ = ("run",)

    def __init__(self, run: TextRun) -> None:
        self.run = run


class Anchor:
    """Where a box that was taken out of the flow stood in its line."""

    __slots__ = ("around", "box", "level")

    def __init__(self, box: AnchorBox, around: tuple[InlineBox, ...], level: int) -> None:
        self.box = box
        self.around = around
        self.level = level


class Leader:
    """A pattern that fills what its line has left."""

    __slots__ = ("pattern", "run")

    def __init__(self, pattern: str, run: TextRun) -> None:
        self.pattern = pattern
        self.run = run


class FloatItem:
    """A float among the words: it takes no room in its line."""

    __slots__ = ("box",)

    def __init__(self, box: Box) -> None:
        self.box = box


Item = Word | Edge | Atomic | ForcedBreak | Tab | FloatItem | Anchor | Leader


def look_of(style: ComputedStyle, setting: FontSetting) -> Look:
    """What words of a style are set in; few have a colour and an outline of their own (WHATWG Compatibility §4)."""
    values = style.__dict__
    color = style.webkit_text_fill_color if "webkit_text_fill_color" in values else style.color
    outline = None
    if values.get("webkit_text_stroke_width"):
        below = style.paint_order == "stroke"
        outline = Outline(Stroke(style.webkit_text_stroke_width), style.webkit_text_stroke_color, below)
    return Look(setting, style.font_size, color, style.letter_spacing, outline)


class TextRun:
    """Items of one style and direction: what they share on every line."""

    __slots__ = (
        "around",
        "decorations",
        "hyphen",
        "letter_spacing",
        "level",
        "look",
        "metrics",
        "setting",
        "shift",
        "size",
        "space",
        "start",
        "style",
    )

    def __init__(self, style: ComputedStyle, setting: FontSetting, start: int, level: int) -> None:
        self.style = style
        self.level = level
        self.hyphen: Word | None = None
        self.setting = setting
        self.start = start
        self.size = style.font_size
        self.letter_spacing = style.letter_spacing
        self.space = setting.space.advance * self.size + style.word_spacing + style.letter_spacing
        self.metrics = metrics_of(style, setting)
        self.look = look_of(style, setting)
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


TALLEST: Final = 10_000.0  # px of a line: several pages


def line_height(style: ComputedStyle, setting: FontSetting) -> float:
    """The used line height in px (CSS 2.2 §10.8.1)."""
    value = style.line_height
    if isinstance(value, float):
        return min(value, TALLEST)
    if isinstance(value, Factor):
        return min(value.value * style.font_size, TALLEST)
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


def alignment(align: str, rtl: bool) -> str:
    """`text-align` as left, right, center or justify."""
    if align.startswith("-fq-"):
        return align.removeprefix("-fq-")
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


def edge_widths(box: Box) -> tuple[float, float, bool]:
    """Margin, border and padding of an inline box, left and right, percentages as 0, and whether any is one; found once
    for a style."""
    kept: tuple[float, float, bool] | None = box.style.kept.get("inline sides")
    if kept is None:
        left, right = edge_width(box, True), edge_width(box, False)
        hangs = (left, right) != (edge_width(box, True, 1.0), edge_width(box, False, 1.0))
        kept = box.style.kept["inline sides"] = (left, right, hangs)
    return kept


def edge_width(box: Box, at_left: bool, basis: float = 0.0) -> float:
    """Margin, border and padding of one side of an inline box, in a box of that width."""
    style = box.style
    if at_left:
        margin, border, padding = style.margin_left, style.border_left_width, style.padding_left
    else:
        margin, border, padding = style.margin_right, style.border_right_width, style.padding_right
    return (resolve_auto(margin, basis) or 0.0) + border + resolve(padding, basis)


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


def baseline_shift(style: ComputedStyle, fonts: FontSettings) -> float:
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
        setting = fonts.of(parent)
        own = fonts.of(style)
        if value in ("middle", "-fq-baseline-middle"):
            middle = (own.face.ascent - own.face.descent) * style.font_size / 2
            raised = setting.face.x_height * parent.font_size / 2 if value == "middle" else 0.0
            return raised - middle
        if value == "text-top":
            return setting.face.ascent * parent.font_size - metrics_of(style, own).ascent
        return metrics_of(style, own).descent - setting.face.descent * parent.font_size
    return resolve(value, line_height(style, fonts.of(style)))
