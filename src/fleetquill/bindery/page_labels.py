"""What the pages of a finished PDF are numbered (ISO 32000-2 §12.4.2)."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.bindery.trees import entries_of
from fleetquill.pdf.reading import PdfReader

ROMAN: Final = (
    (1000, "m"), (900, "cm"), (500, "d"), (400, "cd"), (100, "c"), (90, "xc"), (50, "l"), (40, "xl"), (10, "x"),
    (9, "ix"), (5, "v"), (4, "iv"), (1, "i"),
)  # fmt: skip
MOST_NUMBER: Final = 100_000  # that is written in Roman figures or letters


def label_rows(reader: PdfReader) -> dict[int, dict[str, Any]]:
    """Where a new numbering begins: its dictionary by the index of the page."""
    found: dict[int, dict[str, Any]] = {}
    for index, value in entries_of(reader.catalog.get("PageLabels"), "Nums", reader):
        if isinstance(index, int) and index >= 0:
            found[index] = {key: reader.resolve(one) for key, one in reader.dictionary(value).items()}
    return found


def labels_of(reader: PdfReader, count: int) -> list[str]:
    """The label of each page; its number where the file says nothing."""
    rows = label_rows(reader)
    if not rows:
        return [str(index + 1) for index in range(count)]
    labels: list[str] = []
    row, start = dict[str, Any](), 0
    for index in range(count):
        if index in rows:
            row, start = rows[index], index
        first = row.get("St", 1)
        number = (first if isinstance(first, int) else 1) + index - start
        labels.append(reader.text(row.get("P")) + numeral(number, str(row.get("S", ""))))
    return labels


def numeral(number: int, style: str) -> str:
    """A number in a style of labels: D, R, r, A or a; '' for none."""
    if style in ("R", "r") and 0 < number < MOST_NUMBER:
        text = ""
        for value, sign in ROMAN:
            count, number = divmod(number, value)
            text += sign * count
        return text.upper() if style == "R" else text
    if style in ("A", "a") and 0 < number < MOST_NUMBER:
        letter = chr(ord(style) + (number - 1) % 26)
        return letter * ((number - 1) // 26 + 1)
    return str(number) if style else ""
