"""The numbering of lists (ISO/IEC 29500-1 §17.9)."""

from __future__ import annotations

import re
from typing import Final

from fleetquill.output.docx.xml import attribute, twips
from fleetquill.structure.flow import Marker

FORMATS: Final = {
    "decimal": "decimal", "decimal-leading-zero": "decimalZero", "lower-alpha": "lowerLetter",
    "lower-latin": "lowerLetter", "upper-alpha": "upperLetter", "upper-latin": "upperLetter",
    "lower-roman": "lowerRoman", "upper-roman": "upperRoman",
}  # fmt: skip
DEEPEST: Final = 8  # level of a list, counted from 0 (§17.9.3)
COUNTED: Final = re.compile(r"^(\W*)\w+(\W*)$")


class Lists:
    """The lists of one document."""

    def __init__(self) -> None:
        self._abstract: dict[tuple[object, ...], int] = {}
        self._forms: list[str] = []
        self._lists: list[str] = []
        self._open: dict[int, tuple[int, int]] = {}  # by level: the form of the list at hand, and its number

    def number(self, marker: Marker, left: float, hanging: float) -> int:
        """The number of the list that an item belongs to."""
        key = (marker.level, marker.style, round(left), *_form(marker))
        form = self._abstract.get(key)
        if form is None:
            form = self._abstract[key] = len(self._forms)
            self._forms.append(_level(form, marker, left, hanging))
        known = self._open.get(marker.level)
        if known is not None and known[0] == form and not marker.starts:
            return known[1]
        for deeper in [one for one in self._open if one > marker.level]:
            del self._open[deeper]
        number = len(self._lists) + 1
        start = ""
        if marker.number is not None:
            level = f'<w:lvlOverride w:ilvl="{min(marker.level, DEEPEST)}">'
            start = f'{level}<w:startOverride w:val="{marker.number}"/></w:lvlOverride>'
        self._lists.append(f'<w:num w:numId="{number}"><w:abstractNumId w:val="{form}"/>{start}</w:num>')
        self._open[marker.level] = (form, number)
        return number

    def part(self) -> str:
        """The forms of lists, then the lists."""
        return "".join([*self._forms, *self._lists])


def _form(marker: Marker) -> tuple[str, str]:
    """The kind of a marker, and its text with the number's place in it."""
    if marker.number is None:
        return "bullet", marker.text
    found = COUNTED.match(marker.text)
    if found is None:
        return "bullet", marker.text
    return FORMATS.get(marker.style, "decimal"), f"{found[1]}%{min(marker.level, DEEPEST) + 1}{found[2]}"


def _level(form: int, marker: Marker, left: float, hanging: float) -> str:
    kind, shown = _form(marker)
    return (
        f'<w:abstractNum w:abstractNumId="{form}"><w:multiLevelType w:val="singleLevel"/>'
        f'<w:lvl w:ilvl="{min(marker.level, DEEPEST)}"><w:start w:val="1"/><w:numFmt w:val="{kind}"/>'
        f'<w:lvlText w:val="{attribute(shown)}"/><w:lvlJc w:val="left"/>'
        f'<w:pPr><w:ind w:left="{twips(left)}" w:hanging="{twips(hanging)}"/></w:pPr></w:lvl></w:abstractNum>'
    )
