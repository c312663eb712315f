"""What stands before an element's content: list markers, and first letters in boxes of their own."""

from __future__ import annotations

import re
from typing import Final

from fleetquill.layout.boxes.boxes import BlockBox, Box, Element, InlineBox, TextBox
from fleetquill.layout.boxes.containers import Containers
from fleetquill.layout.boxes.generated_content import GeneratedContent
from fleetquill.layout.boxes.replaced_elements import picture_box
from fleetquill.layout.boxes.styles import ElementStyles
from fleetquill.layout.contract.context import Context
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.layout.inline.inline_items import line_height, metrics_of
from fleetquill.style.background_values import Url
from fleetquill.style.cascade import MatchNode
from fleetquill.style.properties import ComputedStyle

FIRST_LETTER: Final = re.compile(r"\s*([^\w\s]*\w[^\w\s]?)")


class Markers:
    """Makes list markers (CSS Lists 3 §3)."""

    def __init__(
        self, styles: ElementStyles, containers: Containers, content: GeneratedContent, context: Context
    ) -> None:
        self._styles = styles
        self._containers = containers
        self._content = content
        self._context = context

    def of(self, element: Element, node: MatchNode, style: ComputedStyle) -> LinesBox | None:
        """The marker of a list item, as counters are before its content; None where it has none."""
        marker_style = self._styles.pseudo(element, node, "marker", style)
        marker_style = marker_style or self._styles.anonymous(style, "block")
        if isinstance(marker_style.content, tuple):
            content = self._content.boxes(marker_style, element)
        elif isinstance(style.list_style_image, Url):
            content = [picture_box(self._context, marker_style, element, style.list_style_image.url, "")]
        else:
            text = self._context.marker_text(self._content.counters.value("list-item"), style.list_style_type)
            if not text or marker_style.content == "none":
                return None
            content = [TextBox(marker_style, element, text)]
        return LinesBox(marker_style, None, content)

    def add(self, box: Box, marker: LinesBox, element: Element) -> None:
        """Gives the box of a list item its marker, beside it or in its first line."""
        style = box.style
        if style.list_style_position == "outside":
            box.marker = marker
            return
        content = marker.children
        content.append(TextBox(style, element, " "))
        if isinstance(box, LinesBox):
            box.children[:0] = content
        else:  # a marker before blocks stands in a line of its own
            box.children.insert(0, self._containers.anonymous_lines(style, content))


def split_first_letter(
    styles: ElementStyles, element: Element, node: MatchNode, children: list[Box], context: Context
) -> None:
    """Takes the first letter, with punctuation around it, into a box of its own (Pseudo-elements 4 §2.2)."""
    place = _first_text(children)
    if place is None:
        return
    siblings, index = place
    text = siblings[index]
    assert isinstance(text, TextBox)
    match = FIRST_LETTER.match(text.text)
    style = styles.pseudo(element, node, "first-letter", text.style)
    if match is None or style is None:
        return
    if style.initial_letter[0]:
        style = _initial(style, text.style, context)
    letter = TextBox(style, element, match[1])
    rest = TextBox(text.style, text.element, text.text[match.end() :])
    box: Box
    if style.float != "none":
        box = LinesBox(style, None, [letter])
    else:
        box = InlineBox(style, None, [letter])
    siblings[index : index + 1] = [box, rest]


def _initial(style: ComputedStyle, around: ComputedStyle, context: Context) -> ComputedStyle:
    """The style of a letter that is some lines high and stands in the text beside it (CSS Inline 3 §7)."""
    lines, sink = style.initial_letter
    setting, own = context.font(around), context.font(style)
    line = line_height(around, setting)
    cap = (lines - 1) * line + setting.face.cap_height * around.font_size
    size = cap / own.face.cap_height
    high = sink * line
    above = metrics_of(around, setting).ascent + (lines - 1) * line  # from the first line's top to the letter's foot
    baseline = (high - (own.face.ascent + own.face.descent) * size) / 2 + own.face.ascent * size
    shift = above - baseline - (lines - sink) * line
    values = {
        "float": "left", "font_size": size, "line_height": high, "margin_top": shift, "margin_bottom": -shift,
        "margin_right": style.margin_right or around.font_size * 0.12,
    }  # fmt: skip
    return ComputedStyle(style.parent, {**style.__dict__, **values})


def _first_text(children: list[Box]) -> tuple[list[Box], int] | None:
    """The list and the place of the first text that is not white space."""
    for index, child in enumerate(children):
        if isinstance(child, TextBox):
            if child.text.strip():
                return children, index
        elif isinstance(child, InlineBox) or type(child) in (BlockBox, LinesBox):
            found = _first_text(child.children)
            if found is not None:
                return found
        else:
            return None
    return None
