"""::first-line: a paragraph's boxes as they are on its first line (Pseudo-elements 4 §2.1)."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import Box, InlineBox, TextBox
from fleetquill.layout.inline.boxes import LinesBox
from fleetquill.style.properties import INHERITED, ComputedStyle


def first_line_children(box: LinesBox, first: ComputedStyle) -> list[Box]:
    """Copies of the inline boxes that inherit from the first line's style instead of the block's."""
    return [_copy(child, box.style, first) for child in box.children]


def _copy(box: Box, block: ComputedStyle, first: ComputedStyle) -> Box:
    style = on_first_line(box.style, block, first)
    if isinstance(box, TextBox):
        return TextBox(style, box.element, box.text)
    if isinstance(box, InlineBox):
        return InlineBox(style, box.element, [_copy(child, block, first) for child in box.children])
    return box


def on_first_line(style: ComputedStyle, block: ComputedStyle, first: ComputedStyle) -> ComputedStyle:
    """`style` with the first line's values where it had inherited the block's."""
    key = ("first line", first)
    kept = style.kept.get(key)
    if kept is None:
        values = dict(style.__dict__)
        for field in INHERITED:
            if getattr(style, field) == getattr(block, field):
                values[field] = getattr(first, field)
        if style is block and first.text_decoration_line:
            values["text_decoration_line"] = first.text_decoration_line
        kept = ComputedStyle(style.parent, values)
        style.kept[key] = kept
    return kept
