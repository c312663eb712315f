"""The one door to every formatting model: layout of a box, and how narrow and wide it can be."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from math import inf
from typing import Any, Final

from fleetquill.deadline import heed
from fleetquill.layout.boxes.boxes import Box, PictureBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import clamp_width, edges_of, limits, to_border_box
from fleetquill.layout.contract.space import Laid, Space

WORDS: Final = frozenset(("min-content", "max-content", "fit-content"))  # that a limit may be

Layout = Callable[[Any, Space, Resume | None], Laid]
ContentWidths = Callable[[Any, Context], tuple[float, float]]

FILES: Final = {  # the file of each box's formatting model, and the word in the names of its two functions
    "AnchorBox": ("block.anchor", "anchor"),
    "PlaceBox": ("block.anchor", "anchor"),
    "BlockBox": ("block.block", "block"),
    "ColumnsBox": ("block.columns", "columns"),
    "ControlBox": ("block.controls", "control"),
    "FieldsetBox": ("block.fieldset", "fieldset"),
    "ButtonBox": ("items.flex", "flex"),
    "FlexBox": ("items.flex", "flex"),
    "FrameBox": ("block.replaced", "picture"),
    "GridBox": ("items.grid", "grid"),
    "LedgerBox": ("table.ledger", "ledger"),
    "LinesBox": ("inline.lines", "lines"),
    "MarkBox": ("block.replaced", "picture"),
    "PictureBox": ("block.replaced", "picture"),
    "TableBox": ("table.table", "table"),
    "TurnedBox": ("block.turned", "turned"),
}


class _Models(dict[type[Box], tuple[Layout, ContentWidths]]):
    """The formatting models by the box that they lay out, each loaded when a document first has one."""

    def __missing__(self, kind: type[Box]) -> tuple[Layout, ContentWidths]:
        file, word = FILES[kind.__name__]
        module = import_module(f"fleetquill.layout.{file}")
        model = self[kind] = getattr(module, f"layout_{word}"), getattr(module, f"{word}_content_widths")
        return model


MODELS: Final = _Models()


def layout(box: Box, space: Space, resume: Resume | None) -> Laid:
    """What of `box` fits into `space`, from `resume` on, and where to go on."""
    heed()
    return MODELS[box.__class__][0](box, space, resume)


def content_widths(box: Box, context: Context) -> tuple[float, float]:
    """Min-content and max-content contributions of the border box, in px (CSS Sizing 3 §5)."""
    kept = box.widths
    if kept is None:
        kept = box.widths = _content_widths(box, context)
    return kept


def natural_widths(box: Box, context: Context, basis: float = 0.0) -> tuple[float, float]:
    """Min-content and max-content widths of the border box, whatever `width` the box itself asks for; its paddings may
    be shares of `basis`."""
    least, most = MODELS[box.__class__][1](box, context)
    across = edges_of(box.style, basis).across
    return least + across, most + across


def fit_content(box: Box, room: float, basis: float, context: Context) -> float:
    """The border box width of what shrinks to fit that room (CSS 2.2 §10.3.5); its paddings and limits may be shares
    of `basis`."""
    style = box.style
    across = edges_of(style, basis).across
    more = across - edges_of(style, 0.0).across
    least, most = content_widths(box, context)
    return clamp_width(style, max(least + more, min(most + more, room)), basis, across)


def within_words(box: Box, width: float, room: float, context: Context) -> float:
    """A border box width within those limits that are words, such as min-content (CSS Sizing 3 §5.1)."""
    style = box.style
    low, high = style.min_width, style.max_width
    if low in WORDS or high in WORDS:
        basis = 0.0 if room == inf else room
        least, most = natural_widths(box, context, basis)
        sizes = {"min-content": least, "max-content": most, "fit-content": max(least, min(most, room))}
        lowest = limits(style, basis, edges_of(style, basis).across)[0] if low not in WORDS else sizes[low]
        width = max(lowest, min(width, sizes.get(high, width)))  # type: ignore[arg-type]
    return width


def least_content_width(box: Box, context: Context) -> float:
    """The min-content width of the border box, whatever `width` the box itself asks for."""
    return natural_widths(box, context)[0]


def _content_widths(box: Box, context: Context) -> tuple[float, float]:
    heed()
    style = box.style
    across = edges_of(style, 0.0).across
    share = not isinstance(style.max_width, (float, str))  # of what it stands in, which these widths decide on
    low, high = limits(style, 0.0, across)
    high = inf if share else high
    if isinstance(style.width, float):
        fixed = max(low, min(to_border_box(style, style.width, across), high))
        least, most = within_words(box, fixed, 0.0, context), within_words(box, fixed, inf, context)
        return across if share and isinstance(box, PictureBox) else least, most  # CSS Sizing 3 §5.2.2: it gives way
    least, most = MODELS[box.__class__][1](box, context)
    least, most = max(low, min(least + across, high)), max(low, min(most + across, high))
    if style.min_width in WORDS or style.max_width in WORDS:
        least, most = within_words(box, least, least, context), within_words(box, most, most, context)
    if style.width == "min-content":
        return least, least
    return (most, most) if style.width == "max-content" else (least, most)
