"""Pages of random boxes, for tools/compare_boxes.py: blocks, floats, lists, tables, flex and grid in one another."""

from __future__ import annotations

import random
from collections.abc import Sequence
from typing import Final

Chances = Sequence[tuple[float, str, Sequence[str]]]  # how likely a declaration is, its property, its values

WORDS: Final = "barge lock river tariff barley slate brick gravel oak reed crew skipper a of to in on".split()
WIDTHS: Final = "auto 0 10px 20px 33px 50px 80px 120px 25% 50% 100% 2em fit-content min-content max-content".split()
SPACES: Final = ("0", "2px", "5px", "10px", "1em", "5%")
TRACKS: Final = (
    "1fr", "2fr", "auto", "50px", "100px", "20%", "min-content", "max-content", "minmax(30px,1fr)", "fit-content(80px)",
    "minmax(min-content,100px)", "minmax(0,2fr)",
)  # fmt: skip

ANY_BOX: Final[Chances] = (
    (0.25, "width", WIDTHS), (0.18, "height", ("auto", "10px", "40px", "60px", "50%")), (0.12, "min-width", WIDTHS),
    (0.1, "max-width", ("none", "60px", "50%", "min-content", "max-content")),
    (0.08, "min-height", ("20px", "50px", "2em")), (0.06, "max-height", ("15px", "30px")),
    (0.25, "margin", (*SPACES, "auto", "0 auto", "-5px", "3px auto 7px 9px")),
    (0.1, "margin-top", ("-8px", "15px")), (0.1, "margin-bottom", ("-8px", "15px")), (0.25, "padding", SPACES),
    (0.2, "border", ("1px solid", "3px solid", "5px dotted")), (0.12, "box-sizing", ("border-box",)),
    (0.04, "overflow", ("hidden", "clip")), (0.05, "position", ("relative",)), (0.04, "left", ("7px", "10%")),
    (0.05, "text-align", ("right", "center", "justify")), (0.05, "line-height", ("1", "1.5", "30px")),
    (0.05, "font-size", ("10px", "24px", "150%")), (0.03, "direction", ("rtl",)),
    (0.03, "white-space", ("nowrap", "pre-wrap")), (0.02, "aspect-ratio", ("1", "2/1")),
    (0.03, "display", ("flow-root",)), (0.02, "text-indent", ("20px", "10%")),
)  # fmt: skip
INLINE: Final[Chances] = (
    (0.2, "padding", ("0 4px", "3px")), (0.2, "border", ("1px solid", "3px solid")),
    (0.15, "margin", ("0 5px", "0 -3px")),
    (0.12, "vertical-align", ("top", "bottom", "middle", "super", "sub", "5px", "-20%", "text-top", "text-bottom")),
    (0.08, "font-size", ("24px", "10px")), (0.08, "line-height", ("30px", "1")),
)  # fmt: skip
PICTURE: Final[Chances] = (
    (0.3, "width", ("20px", "50%", "80px")), (0.3, "height", ("10px", "50px")), (0.15, "margin", ("3px", "0 5px")),
    (0.15, "padding", ("3px",)), (0.1, "max-width", ("30px", "50%")),
    (0.2, "vertical-align", ("top", "middle", "bottom")),
)  # fmt: skip
FLEX: Final[Chances] = (
    (1.0, "display", ("flex", "flex", "inline-flex")), (0.3, "flex-wrap", ("wrap", "wrap-reverse")),
    (0.35, "flex-direction", ("row", "row-reverse", "column", "column-reverse")), (0.3, "gap", ("5px", "10px 3px")),
    (0.3, "justify-content", ("center", "flex-end", "space-between", "space-around", "space-evenly", "start", "end")),
    (0.3, "align-items", ("center", "flex-start", "flex-end", "baseline")),
    (0.15, "align-content", ("center", "flex-end")),
)  # fmt: skip
FLEX_ITEM: Final[Chances] = (
    (0.25, "flex", ("1", "2", "0 0 auto", "1 1 50px", "none", "auto", "0 1 30%")), (0.1, "flex-shrink", ("0", "3")),
    (0.1, "flex-basis", ("0", "100px", "20%", "content", "max-content")), (0.1, "order", ("-1", "1")),
    (0.15, "align-self", ("center", "flex-end", "baseline", "stretch")), (0.1, "margin-left", ("auto",)),
)  # fmt: skip
GRID: Final[Chances] = (
    (1.0, "display", ("grid", "grid", "inline-grid")), (0.3, "gap", ("5px", "10px 3px")),
    (0.15, "grid-auto-flow", ("column", "dense")), (0.15, "grid-auto-rows", ("30px", "minmax(20px,auto)", "1fr")),
    (0.2, "justify-items", ("center", "end", "start")),
    (0.2, "align-items", ("center", "end", "start", "baseline")),
    (0.15, "justify-content", ("center", "space-between", "end")),
    (0.15, "align-content", ("center", "space-around", "end")),
)  # fmt: skip
GRID_ITEM: Final[Chances] = (
    (0.2, "grid-column", ("2", "1 / 3", "span 2", "-1", "1 / -1", "3 / 5")),
    (0.15, "grid-row", ("2", "span 2", "1 / 3")), (0.1, "align-self", ("center", "end", "stretch")),
    (0.06, "order", ("-1", "1")),
)  # fmt: skip
TABLE: Final[Chances] = (
    (0.3, "border-collapse", ("collapse",)), (0.3, "border-spacing", ("0", "5px", "3px 8px")),
    (0.15, "height", ("100px", "60px")), (0.35, "width", ("100%", "200px", "50%", "max-content")),
    (0.15, "table-layout", ("fixed",)), (0.1, "float", ("left",)), (0.2, "border", ("1px solid", "4px solid")),
    (0.2, "margin", ("10px", "0 auto")), (0.1, "padding", ("5px",)),
)  # fmt: skip
CELL: Final[Chances] = (
    (0.2, "width", ("30px", "80px", "20%", "50%")), (0.1, "height", ("30px", "50%")), (0.2, "padding", SPACES),
    (0.2, "border", ("1px solid", "4px solid", "2px dotted")),
    (0.15, "vertical-align", ("top", "middle", "bottom", "baseline")), (0.1, "text-align", ("right", "center")),
    (0.06, "white-space", ("nowrap",)), (0.03, "min-width", ("60px",)),
)  # fmt: skip


def random_page(seed: int, depth: int) -> str:
    """A page of boxes that lie up to `depth` deep in one another."""
    chance = random.Random(seed)
    return f'<div style="width:{chance.choice((400, 600, 333))}px">{_Page(chance).block(depth)}</div>'


class _Page:
    def __init__(self, chance: random.Random) -> None:
        self.chance = chance

    def block(self, depth: int) -> str:
        kind = self.chance.choices(
            ("block", "float", "clear", "flex", "grid", "table", "list"), (34, 8, 4, 16, 14, 14, 6)
        )[0]
        if kind == "flex":
            return self._around(FLEX, FLEX_ITEM, depth)
        if kind == "grid":
            tracks = f"grid-template-columns:{' '.join(self.chance.choices(TRACKS, k=self.chance.randint(1, 4)))}"
            return self._around(GRID, GRID_ITEM, depth, tracks if self.chance.random() < 0.8 else "")
        if kind == "table":
            return self._table(depth)
        if kind == "list":
            items = "".join(f"<li>{self._content(depth - 1)}" for _ in range(self.chance.randint(1, 3)))
            return f"<ol{self._style(ANY_BOX)}>{items}</ol>"
        more = {"block": "", "float": f"float:{self.chance.choice(('left', 'right'))}", "clear": "clear:both"}[kind]
        return f"<div{self._style(ANY_BOX, more)}>{self._content(depth)}</div>"

    def _around(self, container: Chances, item: Chances, depth: int, more: str = "") -> str:
        items = "".join(self._item(item, depth) for _ in range(self.chance.randint(1, 5)))
        return f"<div{self._style((*container, *ANY_BOX), more)}>{items}</div>"

    def _item(self, chances: Chances, depth: int) -> str:
        lot = self.chance.random()
        if lot < 0.1:
            return self._words(2)
        if lot < 0.2:
            return f'<img src="PICTURE" alt=""{self._style((*chances, *PICTURE))}>'
        return f"<div{self._style((*chances, *ANY_BOX))}>{self._content(depth - 1)}</div>"

    def _table(self, depth: int) -> str:
        columns, rows = self.chance.randint(1, 4), self.chance.randint(1, 4)
        caption = f"<caption>{self._words(3)}</caption>" if self.chance.random() < 0.2 else ""
        body = "".join(f"<tr>{self._cells(columns, depth)}" for _ in range(rows))
        return f"<table{self._style(TABLE)}>{caption}{body}</table>"

    def _cells(self, columns: int, depth: int) -> str:
        found, place = "", 0
        while place < columns:
            span = self.chance.choice((1, 1, 1, 1, 2)) if place < columns - 1 else 1
            content = self._content(depth - 1) if self.chance.random() < 0.3 else self._words(self.chance.randint(0, 4))
            found += f"<td{f' colspan={span}' if span > 1 else ''}{self._style(CELL)}>{content}</td>"
            place += span
        return found

    def _content(self, depth: int) -> str:
        if depth <= 0 or self.chance.random() < 0.35:
            return " ".join(self._inline(depth) for _ in range(self.chance.randint(1, 4)))
        return "".join(self.block(depth - 1) for _ in range(self.chance.randint(1, 4)))

    def _inline(self, depth: int) -> str:
        kind = self.chance.choices(("words", "inline", "atom", "picture", "float"), (55, 17, 12, 8, 6))[0]
        if kind == "inline" and depth > 0:
            return f"<span{self._style(INLINE)}>{self._inline(depth - 1)}</span>"
        if kind == "atom" and depth > 0:
            return f"<span{self._style(ANY_BOX, 'display:inline-block')}>{self._content(depth - 1)}</span>"
        if kind == "picture":
            return f'<img src="PICTURE" alt=""{self._style(PICTURE)}>'
        if kind == "float":
            return f"<span{self._style(ANY_BOX, 'float:right')}>{self._words(2)}</span>"
        return self._words(self.chance.randint(1, 12))

    def _words(self, count: int) -> str:
        return " ".join(self.chance.choices(WORDS, k=count))

    def _style(self, chances: Chances, more: str = "") -> str:
        lots = (f"{name}:{self.chance.choice(values)}" for odds, name, values in chances if self.chance.random() < odds)
        style = ";".join(filter(None, [more, *lots]))
        return f' style="{style}"' if style else ""
