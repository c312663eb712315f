"""What a sheet says of the pages that it is printed on, as page rules (ISO/IEC 29500-1 §18.3.1.63, §18.3.1.46)."""

from __future__ import annotations

import re
from datetime import datetime
from typing import Any, Final, NamedTuple

PAPERS: Final = {  # §18.3.1.63 paperSize, in millimetres, portrait
    1: (215.9, 279.4), 3: (279.4, 431.8), 5: (215.9, 355.6), 7: (184.2, 266.7), 8: (297.0, 420.0), 9: (210.0, 297.0),
    11: (148.0, 210.0), 12: (250.0, 354.0), 13: (182.0, 257.0), 27: (110.0, 220.0), 28: (162.0, 229.0),
    34: (176.0, 250.0), 66: (420.0, 594.0), 70: (105.0, 148.0),
}  # fmt: skip
PX_PER_MM: Final = 96 / 25.4
PX_PER_INCH: Final = 96.0
CODES: Final = re.compile(r'&(?:"[^"]*"|\d{1,3}|K(?:[0-9A-Fa-f]{6}|\d\d[+-]\d{3})|(?P<code>.))', re.DOTALL)
LETTERS: Final = {
    "B": "font-weight: bold; ", "I": "font-style: italic; ", "U": "text-decoration: underline; ",
    "E": "text-decoration: underline double; ", "S": "text-decoration: line-through; ",
}  # fmt: skip


class Paper(NamedTuple):
    """Sizes in px."""

    width: float
    height: float
    top: float
    right: float
    bottom: float
    left: float

    @property
    def inner_width(self) -> float:
        return max(20.0, self.width - self.left - self.right)

    @property
    def inner_height(self) -> float:
        return max(20.0, self.height - self.top - self.bottom)


class Facts(NamedTuple):
    """What heads and feet may name."""

    file: str
    sheet: str
    folder: str
    moment: datetime  # at which the workbook was kept
    day: str
    clock: str


def paper_of(sheet: Any) -> Paper:
    """The paper and the margins of a sheet."""
    setup, margins = sheet.page_setup, sheet.page_margins
    width, height = (side * PX_PER_MM for side in PAPERS.get(int(setup.paperSize or 9), PAPERS[9]))
    if setup.orientation == "landscape":
        width, height = height, width
    sides = ((margins.top, 0.75), (margins.right, 0.7), (margins.bottom, 0.75), (margins.left, 0.7))
    top, right, bottom, left = (PX_PER_INCH * (usual if side is None else float(side)) for side, usual in sides)
    return Paper(width, height, top, right, bottom, left)


def page_rules(name: str, sheet: Any, paper: Paper, facts: Facts) -> str:
    """The rules of the pages of a sheet."""
    margins = " ".join(f"{side:.2f}px" for side in (paper.top, paper.right, paper.bottom, paper.left))
    rules = f"@page {name} {{ size: {paper.width:.2f}px {paper.height:.2f}px; margin: {margins} }}\n"
    kinds = [("", sheet.oddHeader, sheet.oddFooter)]
    if sheet.HeaderFooter.differentFirst:
        kinds.append((f":nth(1 of {name})", sheet.firstHeader, sheet.firstFooter))
    if sheet.HeaderFooter.differentOddEven:
        kinds.append((":left", sheet.evenHeader, sheet.evenFooter))
    for pages, head, foot in kinds:
        boxes = "".join(
            _box(f"{edge}-{side}", getattr(line, side), facts, empties=bool(pages))
            for edge, line in (("top", head), ("bottom", foot))
            for side in ("left", "center", "right")
        )
        if boxes:
            rules += f"@page {name}{pages} {{ {boxes} }}\n"
    return rules


def _box(name: str, part: Any, facts: Facts, *, empties: bool) -> str:
    text = part.text or ""
    if not text:
        return f"@{name} {{ content: none }} " if empties else ""
    css = ""
    if part.font:
        family, _, style = part.font.partition(",")
        css += f"font-family: '{family.strip()}', 'Source Sans Pro', sans-serif; " if family.strip() != "-" else ""
        css += "font-weight: bold; " * ("bold" in style.lower()) + "font-style: italic; " * ("italic" in style.lower())
    css += f"font-size: {int(part.size)}pt; " if part.size else "font-size: 10pt; "
    css += f"color: #{part.color}; " if part.color and len(part.color) == 6 else ""
    content, more = _content(text, facts)
    return f"@{name} {{ content: {content}; white-space: pre-wrap; {css}{more}}} "


def _content(text: str, facts: Facts) -> tuple[str, str]:
    """What stands in a margin box, and how its letters look."""
    parts: list[str] = []
    css = ""
    at = 0
    for found in CODES.finditer(text):
        parts.append(_string(text[at : found.start()]))
        at = found.end()
        code = found["code"] or ""
        if code == "P":
            offset = re.match(r"[+-]\d+", text[at:])
            at += len(offset[0]) if offset is not None else 0
            parts.append("counter(page)")
        elif code == "N":
            parts.append("counter(pages)")
        elif code in "DTFAZ&" and code:
            said = {"D": facts.day, "T": facts.clock, "F": facts.file, "A": facts.sheet, "Z": facts.folder, "&": "&"}
            parts.append(_string(said[code]))
        elif code in LETTERS:
            css += LETTERS[code]
    parts.append(_string(text[at:]))
    return " ".join(filter(None, parts)) or '""', css


def _string(text: str) -> str:
    escaped = text.replace("\\", "\\\\").replace('"', '\\"').replace("\r\n", "\n").replace("\n", "\\a ")
    return f'"{escaped}"' if text else ""
