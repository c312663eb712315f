"""Elements whose parts stand elsewhere than they are written: legends, and annotations over their base."""

from __future__ import annotations

from fleetquill.layout.block.floats import is_float
from fleetquill.layout.boxes.boxes import (
    AnchorBox,
    BlockBox,
    Box,
    Element,
    FieldsetBox,
    InlineBox,
    PictureBox,
    TurnedBox,
)
from fleetquill.layout.boxes.containers import Containers
from fleetquill.layout.boxes.levels import is_blank
from fleetquill.layout.boxes.styles import ElementStyles
from fleetquill.layout.items.boxes import ButtonBox, FlexBox
from fleetquill.style.box_values import IDENTITY
from fleetquill.style.properties import ComputedStyle


def turned(containers: Containers, style: ComputedStyle, children: list[Box]) -> TurnedBox:
    """The content of a box whose text stands on its side (CSS Writing Modes 4 §3)."""
    around = containers.cascade.anonymous(style, "block")
    upright = ComputedStyle(around.parent, {**around.__dict__, "transform": (IDENTITY,)})
    inner = containers.container(upright, None, children)
    inner.is_item = True
    return TurnedBox(around, inner, style.writing_mode)


def turns(style: ComputedStyle) -> bool:
    """Whether text begins to stand on its side with this element."""
    if style.writing_mode == "horizontal-tb":
        return False
    return style.parent is None or style.parent.writing_mode == "horizontal-tb"


def lies_on_its_side(box: Box, around: Element) -> bool:
    """Whether a box, or any in it, would stand upright in text on its side, for it is a picture or has a size."""
    own = box.element is not None and box.element is not around
    if own and (isinstance(box, PictureBox) or not box.style.width == box.style.height == "auto"):
        return True
    return any(lies_on_its_side(child, around) for child in box.children)


def with_legend(box: BlockBox) -> BlockBox:
    """A fieldset, its first legend on its border (HTML §15.3.13)."""
    for index, child in enumerate(box.children):
        if isinstance(child, AnchorBox) or is_float(child) or child.element is None or child.element.tag != "legend":
            continue
        child.is_item = True
        return FieldsetBox(box.style, box.element, box.children[:index] + box.children[index + 1 :], child)
    return box


def centred(containers: Containers, style: ComputedStyle, element: Element, children: list[Box]) -> ButtonBox:
    """A button: what it says stands in the middle of it, however high it is (HTML §15.5.10)."""
    content = containers.container(containers.cascade.anonymous(style, "block"), None, children)
    content.is_item = True
    values = {**style.__dict__, "flex_direction": "column", "justify_content": "center", "align_items": "stretch"}
    return ButtonBox(ComputedStyle(style.parent, values), element, [content])


def annotated(
    styles: ElementStyles, containers: Containers, style: ComputedStyle, element: Element, children: list[Box]
) -> InlineBox:
    """A ruby element: each annotation centred over the base before it (CSS Ruby 1 §2)."""
    pairs: list[Box] = []
    base: list[Box] = []
    for child in children:
        if child.element is not None and child.element is not element and child.element.tag == "rt":
            pairs.append(_pair(styles, containers, style, base, child))
            base = []
        else:
            base.append(child)
    return InlineBox(style, element, [*pairs, *(box for box in base if not is_blank(box))])


def _pair(
    styles: ElementStyles, containers: Containers, style: ComputedStyle, base: list[Box], annotation: Box
) -> FlexBox:
    around = styles.anonymous(style, "inline-flex")
    stacked = {"flex_direction": "column-reverse", "align_items": "center"}
    below = containers.anonymous_lines(style, base)
    above = containers.anonymous_lines(style, [annotation])
    for lines in (below, above):
        lines.is_item = True
    return FlexBox(ComputedStyle(around.parent, {**around.__dict__, **stacked}), None, [below, above])
