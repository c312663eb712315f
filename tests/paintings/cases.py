"""The cases of this folder: small pages of HTML, and what a browser paints for them.

Each .html file holds cases, each under a line `<!-- its name -->`; the .webp file beside it holds what
tools/record_paintings.py had a browser paint: the cases in rows of `COLUMNS`, `SCALE` pixels for a px.
"""

from __future__ import annotations

import re
from pathlib import Path

WIDE, HIGH = 200, 120  # px, of a case
SCALE = 2
COLUMNS = 6
HEAD = (
    f"<!DOCTYPE html><style>@page{{size:{WIDE}px {HIGH}px;margin:0}}"
    "html{font:16px/20px sans-serif}body{margin:0}</style>"
)
PHOTOGRAPH = (  # four pixels: red, yellow, blue, half a green
    "data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAIAAAACCAYAAA"
    "Bytg0kAAAAG0lEQVR42mO4o6Hx/8MJjf9MPhoLGCxuaDQCAE45B9o41kRrAAAAAElFTkSuQmCC"
)


def cases_of(path: Path) -> list[tuple[str, str]]:
    """The cases of a file: name and HTML."""
    parts = re.split(r"(?m)^<!-- (.+?) -->\n", path.read_text(encoding="utf-8"))
    return list(zip(parts[1::2], parts[2::2], strict=True))


def page(source: str) -> str:
    """A case as a whole document; PHOTOGRAPH in it is the address of a picture of 2 × 2 pixels."""
    return HEAD + source.replace("PHOTOGRAPH", PHOTOGRAPH)
