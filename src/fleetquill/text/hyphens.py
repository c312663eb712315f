"""Where words may be hyphenated, by language: the patterns that pyphen carries."""

from __future__ import annotations

import re
from functools import lru_cache
from typing import Any, Final

MOST_WORDS: Final = 50_000
LONGEST: Final = 500  # letters of a word that is hyphenated
LETTERS: Final = re.compile(r"[^\W\d_]{2,}")


@lru_cache(maxsize=32)
def _dictionary(language: str) -> Any:
    """The patterns of a language, None where there are none."""
    import pyphen

    found = pyphen.language_fallback(language.replace("-", "_")) if language else None
    return pyphen.Pyphen(lang=found) if found else None


@lru_cache(maxsize=MOST_WORDS)
def hyphenation_points(word: str, language: str, limits: tuple[int, int, int]) -> tuple[int, ...]:
    """Offsets in `word` at which a hyphen may be put.

    `limits` are the least characters of the word, before a hyphen and after it. Punctuation around
    a word does not count; a word with a hyphen or a digit in it is left alone.
    """
    patterns = _dictionary(language)
    if patterns is None:
        return ()
    parts = list(LETTERS.finditer(word))
    if len(parts) != 1:
        return ()
    start, end = parts[0].span()
    least, before, after = limits
    if not least <= end - start <= LONGEST:
        return ()
    return tuple(
        start + int(point)
        for point in patterns.positions(word[start:end].lower())
        if before <= int(point) <= end - start - after
    )
