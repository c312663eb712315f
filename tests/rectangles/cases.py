"""The cases of this folder: pieces of HTML, and where a browser puts their boxes.

Each .html file holds cases, each under a line `<!-- its name -->`; the .json file beside it holds the
facts, which tools/record_rectangles.py asks of a browser.
"""

from __future__ import annotations

import re
from pathlib import Path

WIDE, HIGH = 800, 6000  # px, of the page and of the browser's window
HEAD = (
    f"<!DOCTYPE html><style>@page{{size:{WIDE}px {HIGH}px;margin:0}}"
    "html{font:16px/20px sans-serif}body{margin:0}</style>"
)
PASSED_BY = (
    "br",
    "col",
    "colgroup",
    "optgroup",
    "option",
    "script",
    "source",
    "style",
    "wbr",
)  # have no box to speak of


def cases_of(path: Path) -> list[tuple[str, str]]:
    """The cases of a file: name and HTML."""
    parts = re.split(r"(?m)^<!-- (.+?) -->\n", path.read_text(encoding="utf-8"))
    return list(zip(parts[1::2], parts[2::2], strict=True))


PICTURE = "data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='40' height='20'/%3E"


def page(source: str) -> str:
    """A case as a whole document; PICTURE in it is the address of a picture of 40 × 20 px."""
    return HEAD + source.replace("PICTURE", PICTURE)
