"""Itemisation by script (UAX #24): text in runs that HarfBuzz can shape with one set of rules."""

from __future__ import annotations

from functools import lru_cache

COMMON = ("Zyyy", "Zinh", "Zzzz")


@lru_cache(maxsize=10_000)
def script_of(character: str) -> str:
    """The ISO 15924 code of a character's script."""
    from fontTools import unicodedata

    return str(unicodedata.script(character))


def script_runs(text: str) -> list[str]:
    """The text in pieces of one script each; common characters go with what stands before them."""
    pieces: list[str] = []
    current = ""
    for character in text:
        script = script_of(character)
        if pieces and (script in COMMON or not current or script == current):
            pieces[-1] += character
        else:
            pieces.append(character)
        if script not in COMMON:
            current = script
    return pieces
