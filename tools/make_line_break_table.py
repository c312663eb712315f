"""Writes src/fleetquill/text/line_break.txt from the Unicode Character Database's LineBreak.txt.

Usage: python tools/make_line_break_table.py PATH/TO/LineBreak.txt
"""

from __future__ import annotations

import sys
from pathlib import Path

RESOLVED = {"AI": "AL", "SG": "AL", "XX": "AL", "CJ": "NS"}  # UAX #14, LB1
HANGUL = range(0xAC00, 0xD7A4)  # H2 and H3 follow from the code point
TARGET = Path(__file__).parent.parent / "src/fleetquill/text/line_break.txt"


def main(source: Path) -> None:
    classes = ["AL"] * 0x110000
    for first, last in ((0x3400, 0x4DBF), (0x4E00, 0x9FFF), (0xF900, 0xFAFF), (0x20000, 0x2FFFD),
                        (0x30000, 0x3FFFD), (0x1F000, 0x1FAFF), (0x1FC00, 0x1FFFD)):  # fmt: skip
        classes[first : last + 1] = ["ID"] * (last + 1 - first)
    classes[0x20A0:0x20D0] = ["PR"] * 48
    for row in source.read_text(encoding="utf-8").splitlines():
        entry = row.split("#")[0].strip()
        if entry:
            places, name = entry.split(";")
            first_text, _, last_text = places.strip().partition("..")
            first, last = int(first_text, 16), int(last_text or first_text, 16)
            name = name.strip()
            classes[first : last + 1] = [RESOLVED.get(name, name)] * (last + 1 - first)
    for point in HANGUL:
        classes[point] = "H2"
    rows = [f"{point:X} {name}" for point, name in enumerate(classes) if point == 0 or name != classes[point - 1]]
    TARGET.write_text("\n".join(rows) + "\n", encoding="ascii")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
