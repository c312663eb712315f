"""Text as an element tree can hold it."""

from __future__ import annotations

import re
from typing import Final

SURROGATE: Final = re.compile("[\ud800-\udfff]")
UNWANTED: Final = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]")
NO_TEXT: Final = re.compile("[\x00-\x08\x0b\x0e-\x1f\ud800-\udfff\ufffd-\uffff]")  # what becomes another in HTML


def clean(text: str) -> str:
    """Control characters become spaces; halves of a pair, which are no characters, the replacement character."""
    if not text.isascii() and SURROGATE.search(text):
        text = SURROGATE.sub("\ufffd", text)
    return UNWANTED.sub(" ", text)
