"""What a box counts as among its siblings: inline or block, aside, blank (CSS Display 3 §2, CSS Text 3 §4)."""

from __future__ import annotations

from typing import Final

from fleetquill.layout.block.floats import is_float
from fleetquill.layout.boxes.boxes import (
    AnchorBox,
    Box,
    BreakBox,
    InlineBox,
    LeaderBox,
    PageCounterBox,
    TallyBox,
    TargetBox,
    TextBox,
)
from fleetquill.style.text_values import COLLAPSING

BLANKS: Final = " \t\n\r\f"


def is_inline_level(box: Box) -> bool:
    if isinstance(box, (TextBox, InlineBox, BreakBox)):
        return True
    if isinstance(box, AnchorBox) or box.style.float != "none":
        return False
    return box.style.display.startswith("inline") and not box.is_item


def is_aside(box: Box) -> bool:
    """Whether a box takes no place of its own among blocks or in a line: floats, and what is out of flow."""
    return isinstance(box, AnchorBox) or (is_float(box) and not is_inline_level(box))


def is_blank(box: Box) -> bool:
    """White space that no line would show."""
    return (
        isinstance(box, TextBox)
        and not isinstance(box, (TallyBox, PageCounterBox, TargetBox, LeaderBox))
        and not box.text.strip(BLANKS)
        and box.style.white_space in COLLAPSING
    )


def spans_columns(box: Box) -> bool:
    """Whether a block stands across all columns around it."""
    return box.style.column_span == "all" and box.style.float == "none"
