"""Text as an element tree can hold it."""

from __future__ import annotations

import re
from typing import Final

SURROGATE: Final = re.compile("[\ud800-\udfff]")
CONTROLS: Final = {code: " " for code in range(32) if code not in (9, 10, 13)}


def clean(text: str) -> str:
    """Control characters become spaces; halves of a pair, which are no characters, the replacement character."""
    if not text.isascii() and SURROGATE.search(text):
        text = SURROGATE.sub("\ufffd", text)
    return text.translate(CONTROLS).replace("\ufffe", " ").replace("\uffff", " ")
