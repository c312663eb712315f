"""Where a line may break: the Unicode line breaking algorithm (UAX #14, Unicode 15), with LB20a of Unicode 16.

Text of scripts without spaces may break between its words, too.
"""

from __future__ import annotations

import re
import unicodedata
from bisect import bisect_right
from collections.abc import Iterable
from functools import cache, lru_cache
from pathlib import Path
from typing import Final

from fleetquill.text.unspaced import breaks_within, has_dictionary, runs_of

LETTER: Final = "A-Za-zÀ-ÖØ-öø-ÿĀ-ʯ"
# Text whose opportunities follow from its neighbours alone; all other text takes the whole algorithm.
PLAIN: Final = re.compile(rf"[{LETTER}0-9 .,;:!?'\"’‘“”()–—-]*")
UNPLAIN: Final = re.compile(r"  |[(\['\"’‘“”] \(|\( |^[ ]*\)")
# In plain text all letters are of that class: these say it for less, in the time that reading a pattern takes.
LONE_DASH: Final = re.compile(r"(?<![^\W\d_])-|-(?![^\W\d_])|(?<![^\W_])[–—]|[–—](?![^\W_])")
# What a break follows, in plain text. Each alternative begins with a character, which makes it quick to find.
AFTER_SPACE: Final = r" (?=[^ .,;:!?)])|-|[!?](?=[^\W_]|\()|[.,;:)](?=\()"
PLAIN_BREAKS: Final = re.compile(AFTER_SPACE)
SHAPES: Final = {  # letters of the class AL and digits of the class NU, each by one of them
    **{point: "a" for point in range(0x2B0) if chr(point).isalpha() and chr(point) not in "ªº"},
    **dict.fromkeys(range(ord("0"), ord("9") + 1), "0"),
}
# Of text without these characters a line may break after each space and nowhere else.
UNSIMPLE: Final = re.compile(rf"[^{LETTER}0-9 .,;:'\"’“”]")
SPACE_THAT_HOLDS: Final = re.compile(r" [ .,;:]")
# Tailored: a slash may begin a word after a space ('/bin'); it ends a line after a word or a scheme, not after a sign.
BEGINNING_SLASH: Final = re.compile(r"/+[^\s/]")
ENDING_SLASH: Final = re.compile(r"(?:[^\W_]|[)\]'\"’”»%]|:/)/\Z")
MOST_SHAPES: Final = 4_000
LONGEST_SHAPE: Final = 60
FIRST_UNSPACED: Final = "\u0e01"
LONGEST_NAME: Final = 24  # letters of a script without spaces that need no dictionary
AFTER_DASH: Final = rf"{AFTER_SPACE}|[–—]|[^\W_](?=—)"


def opportunities(text: str) -> list[int]:
    """Offsets in `text` where a line may break before that character (UAX #14).

    Neither the start nor the end of the text is among them; places where a line must break are.
    """
    if PLAIN.fullmatch(text) and not UNPLAIN.search(text):
        dashed = "—" in text or "–" in text
        if not (dashed or "-" in text) or not LONE_DASH.search(text):
            pattern = _dashed_breaks() if dashed else PLAIN_BREAKS
            return [match.end() for match in pattern.finditer(text)]
    shape = text.translate(SHAPES)
    return list(_by_shape(shape)) if len(text) <= LONGEST_SHAPE else _by_rules(shape)


def pieces(text: str) -> list[str]:
    """The text cut at its break opportunities. No space stands at its ends."""
    if not UNSIMPLE.search(text) and not SPACE_THAT_HOLDS.search(text):
        return text.replace(" ", " \0").split("\0")
    return cut(text, opportunities(text))


def cut(text: str, breaks: list[int]) -> list[str]:
    """The text in pieces that end at these offsets."""
    if not breaks:
        return [text]
    found = [text[start:end] for start, end in zip([0, *breaks], breaks, strict=False)]
    if breaks[-1] != len(text):
        found.append(text[breaks[-1] :])
    return found


@lru_cache(maxsize=MOST_SHAPES)
def _by_shape(shape: str) -> tuple[int, ...]:
    """Short texts that differ in their figures alone break alike."""
    return tuple(_by_rules(shape))


@cache
def _dashed_breaks() -> re.Pattern[str]:
    return re.compile(AFTER_DASH)


@cache
def _table() -> tuple[list[int], list[str]]:
    rows = Path(__file__).with_name("line_break.txt").read_text(encoding="ascii").split()
    return [int(point, 16) for point in rows[::2]], rows[1::2]


@cache
def _class_of_point(point: int) -> str:
    starts, names = _table()
    name = names[bisect_right(starts, point) - 1]
    if name == "H2":
        return "H2" if (point - 0xAC00) % 28 == 0 else "H3"
    if name == "SA":  # LB1; where its words end is found apart
        return "CM" if unicodedata.category(chr(point)) in ("Mn", "Mc") else "AL"
    return name


_CLASSES: dict[str, str] = {}  # at most one entry for each character there is


def line_class(character: str) -> str:
    """The line breaking class of a character, resolved as LB1 says."""
    name = _CLASSES.get(character)
    if name is None:
        name = _CLASSES[character] = _class_of_point(ord(character))
    return name


def _wide(character: str) -> bool:
    return unicodedata.east_asian_width(character) in "FWH"


AL_HL: Final = frozenset(("AL", "HL"))
WORD_STARTS: Final = frozenset(("", "SP", "ZW", "CB", "GL", "BK", "CR", "LF", "NL"))
PR_PO: Final = frozenset(("PR", "PO"))
KOREAN: Final = frozenset(("JL", "JV", "JT", "H2", "H3"))
IDEOGRAPHIC: Final = frozenset(("ID", "EB", "EM"))
HARD: Final = frozenset(("BK", "CR", "LF", "NL"))
NO_BREAK_BEFORE: Final = frozenset(("CL", "CP", "EX", "IS", "SY"))
NUMERIC_LINKS: Final = frozenset(  # LB25
    [
        ("CL", "PO"), ("CP", "PO"), ("CL", "PR"), ("CP", "PR"), ("NU", "PO"), ("NU", "PR"),
        ("PO", "OP"), ("PO", "NU"), ("PR", "OP"), ("PR", "NU"), ("HY", "NU"), ("IS", "NU"),
        ("NU", "NU"), ("SY", "NU"),
    ]
)  # fmt: skip
SYLLABLES: Final = frozenset(  # LB26
    [("JL", "JL"), ("JL", "JV"), ("JL", "H2"), ("JL", "H3"), ("JV", "JV"), ("JV", "JT"), ("H2", "JV"),
     ("H2", "JT"), ("JT", "JT"), ("H3", "JT")]
)  # fmt: skip


def _unspaced_runs(text: str) -> Iterable[re.Match[str]]:
    """The parts of a text that put no spaces between words."""
    return () if text.isascii() or max(text) < FIRST_UNSPACED else _unspaced().finditer(text)


@cache
def _unspaced() -> re.Pattern[str]:
    starts, names = _table()
    return runs_of(
        tuple((start, end - 1) for start, end, name in zip(starts, starts[1:], names, strict=False) if name == "SA")
    )


def lacks_dictionary(text: str) -> bool:
    """Whether words of a text that is written without spaces are not known, though it is longer than a name."""
    return any(len(run[0]) > LONGEST_NAME for run in _unspaced_runs(text)) and not has_dictionary()


def _by_rules(text: str) -> list[int]:
    """Where the rules let a line break, and between the words of scripts without spaces."""
    found = _by_classes(text)
    within = {run.start() + offset for run in _unspaced_runs(text) for offset in breaks_within(run[0])}
    return sorted(within.union(found)) if within else found


def _by_classes(text: str) -> list[int]:
    """The rules in order, for each place between two characters."""
    found: list[int] = []
    raw = [line_class(character) for character in text]
    before = ""  # effective class at the left, with combining marks taken into their base
    base = 0  # the character that `before` came from
    last = ""  # effective class of the last character that is not a space
    earlier = ""  # effective class before `before`
    regional = 0  # regional indicators in a row up to here
    for index, current in enumerate(raw):
        if index == 0:
            before = last = "AL" if current in ("CM", "ZWJ") else current
            regional = int(current == "RI")
            continue
        previous = raw[index - 1]
        if current in ("CM", "ZWJ") and before not in ("SP", "ZW") and before not in HARD:
            continue  # LB9: a mark is part of what it stands on
        effective = "AL" if current in ("CM", "ZWJ") else current  # LB10
        may = _may_break(before, effective, previous, last, earlier, regional, text[base], text[index])
        if before == "SY":
            may = may and ENDING_SLASH.search(text, max(0, index - 3), index) is not None
        elif effective == "SY" and before == "SP":
            may = last != "OP" and BEGINNING_SLASH.match(text, index) is not None
        if may:
            found.append(index)
        regional = regional + 1 if effective == "RI" else 0
        if effective != "SP":
            last = effective
        elif before in HARD:
            last = "SP"
        earlier, before, base = before, effective, index
    return found


def _may_break(
    before: str, after: str, previous: str, last: str, earlier: str, regional: int, left: str, right: str
) -> bool:
    """Whether a line may break between two characters; `last` looks through spaces to the left."""
    if before in HARD:  # LB4, LB5
        return not (before == "CR" and after == "LF")
    if after in HARD or after in ("SP", "ZW"):  # LB6, LB7
        return False
    if last == "ZW":  # LB8
        return True
    if previous == "ZWJ":  # LB8a
        return False
    if after == "WJ" or before == "WJ" or before == "GL":  # LB11, LB12
        return False
    if after == "GL" and before not in ("SP", "BA", "HY"):  # LB12a
        return False
    if after in NO_BREAK_BEFORE:  # LB13
        return False
    if last == "OP":  # LB14
        return False
    if (last == "QU" and after == "OP") or (last in ("CL", "CP") and after == "NS"):  # LB15, LB16
        return False
    if last == "B2" and after == "B2":  # LB17
        return False
    if before == "SP":  # LB18
        return True
    return _may_break_together(before, after, earlier, regional, left, right)


def _may_break_together(before: str, after: str, earlier: str, regional: int, left: str, right: str) -> bool:
    """LB19 to LB31: no space stands between the two."""
    if after == "QU" or before == "QU":  # LB19
        return False
    if after == "CB" or before == "CB":  # LB20
        return True
    if before == "HY" and earlier in WORD_STARTS and after in AL_HL:  # LB20a of Unicode 16: an option's name
        return False
    if after in ("BA", "HY", "NS") or before == "BB":  # LB21
        return False
    if earlier == "HL" and before in ("HY", "BA"):  # LB21a
        return False
    if (before == "SY" and after == "HL") or after == "IN":  # LB21b, LB22
        return False
    if (before in AL_HL and after == "NU") or (before == "NU" and after in AL_HL):  # LB23
        return False
    if (before == "PR" and after in IDEOGRAPHIC) or (before in IDEOGRAPHIC and after == "PO"):  # LB23a
        return False
    if (before in PR_PO and after in AL_HL) or (before in AL_HL and after in PR_PO):  # LB24
        return False
    if (before, after) in NUMERIC_LINKS or (before, after) in SYLLABLES:  # LB25, LB26
        return False
    if (before in KOREAN and after == "PO") or (before == "PR" and after in KOREAN):  # LB27
        return False
    if before in AL_HL and after in AL_HL:  # LB28
        return False
    if before == "IS" and after in AL_HL:  # LB29
        return False
    if after == "OP" and (before in AL_HL or before == "NU") and not _wide(right):  # LB30
        return False
    if before == "CP" and (after in AL_HL or after == "NU") and not _wide(left):
        return False
    if before == "RI" and after == "RI":  # LB30a
        return regional % 2 == 0
    if after == "EM":  # LB30b
        return not (before == "EB" or (before == "ID" and unicodedata.category(left) == "Cn"))
    return True  # LB31
