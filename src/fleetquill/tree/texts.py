"""Text as an element tree can hold it."""

from __future__ import annotations

from typing import Final

CONTROLS: Final = {code: " " for code in range(32) if code not in (9, 10, 13)}


def clean(text: str) -> str:
    """Control characters become spaces."""
    return text.translate(CONTROLS).replace("\ufffe", " ").replace("\uffff", " ")
