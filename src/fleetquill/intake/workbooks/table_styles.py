"""Tables in sheets and their styles: heads, bands and lines in the colours of the theme (ISO/IEC 29500-1 §18.5)."""

from __future__ import annotations

import re
from typing import Any, Final

from openpyxl.utils import range_boundaries

from fleetquill.intake.workbooks.colors import Palette

NAMED: Final = re.compile(r"TableStyle(Light|Medium|Dark)(\d+)")
ACCENTS: Final = 7  # styles of a family: one in black, six in the accents of the theme


def banded(sheet: Any, palette: Palette) -> dict[tuple[int, int], str]:
    """What the styles of tables say of cells, as CSS."""
    found: dict[tuple[int, int], str] = {}
    for table in sheet.tables.values():
        info = table.tableStyleInfo
        match = NAMED.fullmatch(info.name or "") if info is not None else None
        if match is None:
            continue
        left, top, right, bottom = range_boundaries(table.ref)
        heads = table.headerRowCount if table.headerRowCount is not None else 1
        totals = table.totalsRowCount or 0
        place = (int(match[2]) - 1) % ACCENTS
        tone = palette.theme(1) if place == 0 else palette.theme(3 + place)
        light = palette.theme(1, 0.85) if place == 0 else palette.theme(3 + place, 0.8)
        is_light = match[1] == "Light"
        for row in range(top, bottom + 1):
            for column in range(left, right + 1):
                css = ""
                if row < top + heads:
                    css = (
                        f"font-weight:bold;color:{tone};border-bottom:1px solid {tone};border-top:1px solid {tone};"
                        if is_light
                        else f"font-weight:bold;color:#ffffff;background-color:{tone};"
                    )
                elif row > bottom - totals:
                    css = f"font-weight:bold;border-top:3px double {tone};"
                else:
                    stripe = info.showRowStripes and (row - top - heads) % 2 == 0
                    stripe = stripe or (info.showColumnStripes and (column - left) % 2 == 0)
                    css = f"background-color:{light};" if stripe else ""
                    css += f"border-bottom:1px solid {tone};" if row == bottom and is_light else ""
                if (column == left and info.showFirstColumn) or (column == right and info.showLastColumn):
                    css += "font-weight:bold;"
                if css:
                    found[row, column] = css
    return found
