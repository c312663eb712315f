"""Scripts that put no spaces between their words: Thai, Lao, Khmer, Burmese and others (UAX #14, class SA).

Where words end is in a dictionary, that of the package icu4py. Where that is not installed, lines end between
syllables that can be told by their letters.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Iterator
from functools import cache
from typing import Final

# A syllable of Thai and Lao begins with the vowel that is written first and ends with some that are written last, which
# marks of repetition and shortening follow; one of Khmer that a vowel sign shows begins with its consonant, with those
# below it; one of Burmese begins with each letter that is not killed and not below another.
SYLLABLES: Final = re.compile(
    "(?<=[ะำๆະຳໆ])(?![ๆฯໆ])|(?=[เ-ไເ-ໄ])"
    "|(?<!\u17d2)(?=[ក-ឳ](?:\u17d2[ក-ឳ])*[\u17c9-\u17cc]?[\u17b6-\u17c5])"
    "|(?<!\u1039)(?=[က-ဪဿ၌-၏](?!\u1037?[\u1039\u103a]))"
)  # fmt: skip


@cache
def runs_of(ranges: tuple[tuple[int, int], ...]) -> re.Pattern[str]:
    """Finds what is written without spaces, of characters in these ranges."""
    return re.compile(f"[{''.join(f'{chr(first)}-{chr(last)}' for first, last in ranges)}]+")


@cache
def has_dictionary() -> bool:
    return _segments() is not None


@cache
def _segments() -> Callable[[str], Iterator[tuple[int, int]]] | None:
    try:
        from icu4py.breakers import LineBreaker
    except ImportError:
        return None
    return lambda run: LineBreaker(run, "th").segments()  # the dictionary is that of the letters


def breaks_within(run: str) -> tuple[int, ...]:
    """Offsets in a run of such letters where a line may break, neither its start nor its end among them."""
    segments = _segments()
    if segments is None:
        places = [found.start() for found in SYLLABLES.finditer(run)]
    else:
        places = [end for _, end in segments(run)]
    return tuple(place for place in places if 0 < place < len(run) and unicodedata.category(run[place]) != "Mn")
