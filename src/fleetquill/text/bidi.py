"""The Unicode Bidirectional Algorithm (UAX #9, Unicode 15): levels of a paragraph, and visual order."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Sequence
from functools import cache
from typing import Final

from fleetquill.deadline import heed

MAX_DEPTH: Final = 125  # BD2

RIGHT_TO_LEFT: Final = (  # characters that may make text run from right to left
    "[\u0590-\u08ff\u200f\u202a-\u202e\u2066-\u2069\ufb1d-\ufdff\ufe70-\ufeff"
    "\U00010800-\U00010fff\U0001e800-\U0001efff]"
)


@cache
def _right_to_left() -> re.Pattern[str]:
    return re.compile(RIGHT_TO_LEFT)


def may_run_from_right(text: str) -> bool:
    """Whether a text has any character that could make some of it run from right to left."""
    return not text.isascii() and _right_to_left().search(text) is not None


ISOLATE_INITIATORS: Final = frozenset(("LRI", "RLI", "FSI"))
REMOVED: Final = frozenset(("RLE", "LRE", "RLO", "LRO", "PDF", "BN"))  # X9
NEUTRAL: Final = frozenset(("B", "S", "WS", "ON", "LRI", "RLI", "FSI", "PDI"))
STRONG_FOR_N: Final = {"L": "L", "R": "R", "EN": "R", "AN": "R"}
CANONICAL_BRACKETS: Final = {"\u2329": "\u3008", "\u232a": "\u3009"}  # BD14, canonical equivalents

# BidiBrackets.txt: opening brackets with their partners.
_PAIRS: Final = (
    "()[]{}\u0f3a\u0f3b\u0f3c\u0f3d\u169b\u169c\u2045\u2046\u207d\u207e\u208d\u208e\u2308\u2309\u230a\u230b"
    "\u2329\u232a\u2768\u2769\u276a\u276b\u276c\u276d\u276e\u276f\u2770\u2771\u2772\u2773\u2774\u2775\u27c5\u27c6"
    "\u27e6\u27e7\u27e8\u27e9\u27ea\u27eb\u27ec\u27ed\u27ee\u27ef\u2983\u2984\u2985\u2986\u2987\u2988\u2989\u298a"
    "\u298b\u298c\u298d\u2990\u298f\u298e\u2991\u2992\u2993\u2994\u2995\u2996\u2997\u2998\u29d8\u29d9\u29da\u29db"
    "\u29fc\u29fd\u2e22\u2e23\u2e24\u2e25\u2e26\u2e27\u2e28\u2e29\u2e55\u2e56\u2e57\u2e58\u2e59\u2e5a\u2e5b\u2e5c"
    "\u3008\u3009\u300a\u300b\u300c\u300d\u300e\u300f\u3010\u3011\u3014\u3015\u3016\u3017\u3018\u3019\u301a\u301b"
    "\ufe59\ufe5a\ufe5b\ufe5c\ufe5d\ufe5e\uff08\uff09\uff3b\uff3d\uff5b\uff5d\uff5f\uff60\uff62\uff63"
)
OPENING: Final = dict(zip(_PAIRS[::2], _PAIRS[1::2], strict=True))
CLOSING: Final = frozenset(OPENING.values())


def levels(text: str, base: int | None) -> tuple[int, list[int]]:
    """The paragraph's level and the resolved level of each character.

    `base` is 0 (left to right), 1 (right to left) or None for what rules P2 and P3 find in the
    text. Characters that rule X9 removes get the level of what stands before them. Rule L1 is
    applied as if the text were one line.
    """
    types = [unicodedata.bidirectional(character) or "L" for character in text]
    return _Paragraph(text, types, base).resolve()


def visual_order(levels: Sequence[int]) -> list[int]:
    """Indices in the order in which they stand from left to right (rule L2)."""
    order = list(range(len(levels)))
    if not levels:
        return order
    odd = [level for level in levels if level % 2]
    for level in range(max(levels), min(odd, default=1) - 1, -1):
        index = 0
        while index < len(order):
            if levels[order[index]] < level:
                index += 1
                continue
            end = index
            while end < len(order) and levels[order[end]] >= level:
                end += 1
            order[index:end] = reversed(order[index:end])
            index = end
    return order


def paragraph_level(text: str) -> int:
    """The level that the first strong character gives (rules P2 and P3)."""
    types = [unicodedata.bidirectional(character) or "L" for character in text]
    return _first_strong(types, 0, len(types), _matching_pdis(types))


def _matching_pdis(types: list[str]) -> dict[int, int]:
    """BD9: where each isolate initiator's partner stands; the end of the text where it has none."""
    partners: dict[int, int] = {}
    open_isolates: list[int] = []
    for index, kind in enumerate(types):
        if kind in ISOLATE_INITIATORS:
            open_isolates.append(index)
        elif kind == "PDI" and open_isolates:
            partners[open_isolates.pop()] = index
        elif kind == "B":
            open_isolates.clear()
    return partners


def _first_strong(types: list[str], start: int, end: int, partners: dict[int, int]) -> int:
    index = start
    while index < end:
        kind = types[index]
        if kind == "L":
            return 0
        if kind in ("R", "AL"):
            return 1
        if kind == "B":
            return 0
        if kind in ISOLATE_INITIATORS:
            index = partners.get(index, end)
        index += 1
    return 0


class _Paragraph:
    """One paragraph on its way through the rules."""

    def __init__(self, text: str, types: list[str], base: int | None) -> None:
        self.text = text
        self.original = types
        self.types = list(types)
        self.partners = _matching_pdis(types)
        self.base = _first_strong(types, 0, len(types), self.partners) if base is None else base
        self.levels = [self.base] * len(types)
        self.explicit = self.levels

    def resolve(self) -> tuple[int, list[int]]:
        self._explicit()
        self.explicit = list(self.levels)
        for sequence in self._isolating_runs():
            heed()
            run = _IsolatingRun(self, sequence)
            run.weak()
            run.brackets()
            run.neutral()
            run.implicit()
        self._fill_removed()
        self._reset_separators()
        return self.base, self.levels

    def _explicit(self) -> None:
        """X1 to X8: embeddings, overrides and isolates."""
        stack: list[tuple[int, str, bool]] = [(self.base, "", False)]  # level, override, isolate
        overflow_isolates = overflow_embeddings = valid_isolates = 0
        for index, kind in enumerate(self.original):
            level, override, _ = stack[-1]
            if kind in ("RLE", "LRE", "RLO", "LRO"):
                self.levels[index] = level
                new = _next_level(level, kind[0] == "R")
                if new <= MAX_DEPTH and not overflow_isolates and not overflow_embeddings:
                    stack.append((new, {"RLO": "R", "LRO": "L"}.get(kind, ""), False))
                elif not overflow_isolates:
                    overflow_embeddings += 1
            elif kind in ISOLATE_INITIATORS:
                self.levels[index] = level
                if override:
                    self.types[index] = override
                right = kind == "RLI"
                if kind == "FSI":
                    end = self.partners.get(index, len(self.original))
                    right = _first_strong(self.original, index + 1, end, self.partners) == 1
                new = _next_level(level, right)
                if new <= MAX_DEPTH and not overflow_isolates and not overflow_embeddings:
                    valid_isolates += 1
                    stack.append((new, "", True))
                else:
                    overflow_isolates += 1
            elif kind == "PDI":
                if overflow_isolates:
                    overflow_isolates -= 1
                elif valid_isolates:
                    overflow_embeddings = 0
                    while not stack[-1][2]:
                        stack.pop()
                    stack.pop()
                    valid_isolates -= 1
                level, override, _ = stack[-1]
                self.levels[index] = level
                if override:
                    self.types[index] = override
            elif kind == "PDF":
                self.levels[index] = level
                if overflow_isolates:
                    pass
                elif overflow_embeddings:
                    overflow_embeddings -= 1
                elif not stack[-1][2] and len(stack) > 1:
                    stack.pop()
            elif kind == "B":
                self.levels[index] = self.base
                stack = [(self.base, "", False)]
                overflow_isolates = overflow_embeddings = valid_isolates = 0
            else:
                self.levels[index] = level
                if override and kind != "BN":
                    self.types[index] = override

    def _isolating_runs(self) -> list[list[int]]:
        """X9 and X10: isolating run sequences, without the characters that X9 removes."""
        kept = [index for index, kind in enumerate(self.original) if kind not in REMOVED]
        runs: list[list[int]] = []
        for index in kept:
            if runs and self.levels[runs[-1][-1]] == self.levels[index] and self.original[runs[-1][-1]] != "B":
                runs[-1].append(index)
            else:
                runs.append([index])
        starting = {run[0]: run for run in runs}
        closers = set(self.partners.values())
        sequences = []
        for run in runs:
            if self.original[run[0]] == "PDI" and run[0] in closers:
                continue
            sequence = list(run)
            while self.original[sequence[-1]] in ISOLATE_INITIATORS:
                partner = self.partners.get(sequence[-1])
                if partner is None or partner not in starting:
                    break
                sequence += starting[partner]
            sequences.append(sequence)
        return sequences

    def _fill_removed(self) -> None:
        previous = self.base
        for index, kind in enumerate(self.original):
            if kind in REMOVED:
                self.levels[index] = previous
            previous = self.levels[index]

    def _reset_separators(self) -> None:
        """L1: separators and the white space before them, and at the end, get the paragraph's level."""
        trailing = True
        for index in range(len(self.original) - 1, -1, -1):
            kind = self.original[index]
            if kind in ("B", "S"):
                self.levels[index] = self.base
                trailing = True
            elif trailing and (kind == "WS" or kind in ISOLATE_INITIATORS or kind == "PDI" or kind in REMOVED):
                self.levels[index] = self.base
            else:
                trailing = False


def _next_level(level: int, right: bool) -> int:
    """The least greater odd (right) or even level."""
    return level + 1 + (level % 2 == 1) if right else level + 2 - (level % 2)


class _IsolatingRun:
    """An isolating run sequence: `places` are indices into the paragraph, `types` its own copy."""

    def __init__(self, paragraph: _Paragraph, places: list[int]) -> None:
        self.paragraph = paragraph
        self.places = places
        self.types = [paragraph.types[place] for place in places]
        self.level = paragraph.explicit[places[0]]
        self.embedding = "R" if self.level % 2 else "L"
        self.start = self._border(places[0], -1)
        ends_open = paragraph.original[places[-1]] in ISOLATE_INITIATORS and paragraph.partners.get(places[-1]) is None
        self.end = self._border(places[-1], 1, paragraph.base if ends_open else None)

    def _border(self, place: int, step: int, given: int | None = None) -> str:
        """X10: sos and eos, from the higher of the levels at both sides of the border."""
        paragraph = self.paragraph
        other = given
        if other is None:
            index = place + step
            while 0 <= index < len(paragraph.original) and paragraph.original[index] in REMOVED:
                index += step
            other = paragraph.explicit[index] if 0 <= index < len(paragraph.original) else paragraph.base
        return "R" if max(self.level, other) % 2 else "L"

    def weak(self) -> None:
        """W1 to W7."""
        types = self.types
        previous = self.start
        strong = self.start
        for index, kind in enumerate(types):
            if kind == "NSM":  # W1
                kind = "ON" if previous in ISOLATE_INITIATORS or previous == "PDI" else previous
            if kind == "EN" and strong == "AL":  # W2
                kind = "AN"
            if kind in ("L", "R", "AL"):
                strong = kind
            types[index] = previous = kind
        types[:] = ["R" if kind == "AL" else kind for kind in types]  # W3
        for index in range(1, len(types) - 1):  # W4
            before, after = types[index - 1], types[index + 1]
            if (types[index] == "ES" and before == after == "EN") or (
                types[index] == "CS" and before == after and before in ("EN", "AN")
            ):
                types[index] = before
        self._terminators()
        types[:] = ["ON" if kind in ("ES", "ET", "CS") else kind for kind in types]  # W6
        strong = self.start
        for index, kind in enumerate(types):  # W7
            if kind in ("L", "R"):
                strong = kind
            elif kind == "EN" and strong == "L":
                types[index] = "L"

    def _terminators(self) -> None:
        """W5: European terminators beside European numbers become numbers."""
        types = self.types
        index = 0
        while index < len(types):
            if types[index] != "ET":
                index += 1
                continue
            end = index
            while end < len(types) and types[end] == "ET":
                end += 1
            if (index and types[index - 1] == "EN") or (end < len(types) and types[end] == "EN"):
                types[index:end] = ["EN"] * (end - index)
            index = end

    def _pairs(self) -> list[tuple[int, int]]:
        """BD16: bracket pairs, in the order of their opening brackets."""
        text = self.paragraph.text
        stack: list[tuple[str, int]] = []
        pairs: list[tuple[int, int]] = []
        for index, place in enumerate(self.places):
            if self.types[index] != "ON":
                continue
            character = text[place]
            if character in OPENING:
                if len(stack) == 63:
                    return []
                partner = OPENING[character]
                stack.append((CANONICAL_BRACKETS.get(partner, partner), index))
            elif character in CLOSING:
                wanted = CANONICAL_BRACKETS.get(character, character)
                for depth in range(len(stack) - 1, -1, -1):
                    if stack[depth][0] == wanted:
                        pairs.append((stack[depth][1], index))
                        del stack[depth:]
                        break
        return sorted(pairs)

    def brackets(self) -> None:
        """N0: brackets take the direction of what they enclose."""
        types = self.types
        for opening, closing in self._pairs():
            inside = {STRONG_FOR_N[kind] for kind in types[opening + 1 : closing] if kind in STRONG_FOR_N}
            if self.embedding in inside:
                self._set_pair(opening, closing, self.embedding)
            elif inside:
                earlier = map(types.__getitem__, range(opening - 1, -1, -1))
                before = next((STRONG_FOR_N[kind] for kind in earlier if kind in STRONG_FOR_N), self.start)
                opposite = "L" if self.embedding == "R" else "R"
                self._set_pair(opening, closing, opposite if before == opposite else self.embedding)

    def _set_pair(self, opening: int, closing: int, direction: str) -> None:
        original = self.paragraph.original
        for index in (opening, closing):
            self.types[index] = direction
            following = index + 1
            while following < len(self.places) and original[self.places[following]] == "NSM":
                self.types[following] = direction
                following += 1

    def neutral(self) -> None:
        """N1 and N2: neutrals between strong types."""
        types = self.types
        index = 0
        while index < len(types):
            if types[index] not in NEUTRAL:
                index += 1
                continue
            end = index
            while end < len(types) and types[end] in NEUTRAL:
                end += 1
            before = STRONG_FOR_N[types[index - 1]] if index else self.start
            after = STRONG_FOR_N[types[end]] if end < len(types) else self.end
            types[index:end] = [before if before == after else self.embedding] * (end - index)
            index = end

    def implicit(self) -> None:
        """I1 and I2."""
        for place, kind in zip(self.places, self.types, strict=True):
            if self.level % 2 == 0:
                self.paragraph.levels[place] = self.level + {"R": 1, "AN": 2, "EN": 2}.get(kind, 0)
            else:
                self.paragraph.levels[place] = self.level + (kind in ("L", "EN", "AN"))
