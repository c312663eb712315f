"""Texts that hang on where they, or another element, stand: page numbers, references, tallies."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import Box, PageCounterBox, TallyBox, TargetBox, TextBox
from fleetquill.layout.inline.boxes import LinesBox, MovingText


def mark_moving_text(box: Box) -> list[MovingText]:
    """Notes in each inline context which of its texts move; gives those of an inline box."""
    found: list[MovingText] = []
    marked = False
    for child in box.inside:
        if isinstance(child, TextBox):
            if isinstance(child, (TallyBox, PageCounterBox, TargetBox)):
                found.append(child)
        elif not child.quiet:
            found += mark_moving_text(child)
            marked = marked or child.moves
    box.moves = bool(found) or marked
    if found and isinstance(box, LinesBox):
        box.moving = found
        return []
    return found


def forget_measures(box: Box) -> None:
    """Drops what boxes around moving text keep of their widths: it may say something else from now on."""
    if box.moves:
        box.forget()
        for child in box.inside:
            forget_measures(child)
