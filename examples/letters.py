"""One template, many records: a letter for each member, each in a file named for its record.

Usage: python examples/letters.py [FOLDER]
"""

from __future__ import annotations

import sys
from decimal import Decimal
from pathlib import Path
from typing import Any

import fleetquill as fq

TEMPLATE = """
<html lang="en">
<style>
  @page { size: A5; margin: 20mm }
  html { font: 10.5pt/1.5 "Source Serif Pro" }
</style>
<p>Dear {{ name }},</p>
<p>your {{ shares }} {{ shares | plural("share", "shares") }} bring you
<b>{{ dividend | money }}</b> for the second quarter,
to be paid by {{ due | date("long") }}.</p>
<p>The board</p>
"""

MEMBERS: list[dict[str, Any]] = [
    {"number": "M-001", "name": "Maren Oldwater", "shares": 1, "dividend": Decimal("138.40"), "due": "2026-07-31"},
    {"number": "M-002", "name": "Rowan Marsh", "shares": 3, "dividend": Decimal("415.20"), "due": "2026-07-31"},
]


def main(folder: Path) -> list[fq.Edition]:
    press = fq.Press(locale="en-IE")
    editions = []
    for member in MEMBERS:
        edition = press.compose(fq.Manuscript.from_template(TEMPLATE, member, locale=press.locale))
        print(edition.save(folder / fq.safe_name("{number} {name}", member)))
        editions.append(edition)
    return editions


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
