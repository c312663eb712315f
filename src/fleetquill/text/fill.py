"""The best breaks for a whole paragraph: optimum-fit with boxes, glue, penalties and demerits.

The algorithm is the one that Knuth and Plass published in 1981 (Breaking paragraphs into lines):
of all ways to break, the one with the fewest demerits, where a line's badness grows with the cube
of how far its glue is stretched or shrunk.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Final, NamedTuple

STRETCH: Final = 0.5  # of a space's width
SHRINK: Final = 0.22
RAGGED: Final = 0.2  # of the width: what a ragged line may leave at its end as lightly as glue stretches
WORST: Final = 1e6
LINE_PENALTY: Final = 10.0
HYPHEN_PENALTY: Final = 110.0
DOUBLE_HYPHEN: Final = 4_000.0  # demerits for two hyphens one below the other
FITNESS_JUMP: Final = 3_000.0  # demerits for a tight line beside a loose one
LAST_LINE_SHORT: Final = 2_500.0  # demerits for a last line of less than a tenth of the width


class Break(NamedTuple):
    """A place where a line may end.

    `end` is the running width up to it (without the glue there), `resume` the running width where
    the next line starts, `glue` and `resume_glue` the sums of all glue up to these two, `extra`
    what a hyphen adds.
    """

    end: float
    resume: float
    glue: float
    resume_glue: float
    extra: float
    forced: bool


class _Node:
    """A chosen break: how the best way to it came here."""

    __slots__ = ("at", "demerits", "fitness", "previous")

    def __init__(self, at: int, fitness: int, demerits: float, previous: _Node | None) -> None:
        self.at = at
        self.fitness = fitness
        self.demerits = demerits
        self.previous = previous


def best_breaks(breaks: Sequence[Break], width: float, indent: float, justified: bool) -> list[int] | None:
    """Indices into `breaks` where lines end, or None where no way fits (a word is too wide).

    The last break must be forced: it is the end of the paragraph. `justified` says whether spaces
    grow and shrink to fill the line; where they do not, what is left at its end counts.
    """
    active: list[_Node] = [_Node(-1, 1, 0.0, None)]
    for index, place in enumerate(breaks):
        best: dict[int, _Node] = {}
        kept: list[_Node] = []
        for node in active:
            first = node.at < 0
            before = None if first else breaks[node.at]
            available = width - indent if first else width
            natural = place.end - (before.resume if before else 0.0) + place.extra
            glue = place.glue - (before.resume_glue if before else 0.0)
            ratio = _ratio(available - natural, glue if justified else width * RAGGED, justified)
            if ratio >= -1 and not place.forced:
                kept.append(node)
            if ratio < -1:
                continue
            if place.forced and ratio > 0:
                ratio = 0.0  # the last line is not stretched
            demerits = node.demerits + _demerits(ratio, bool(place.extra))
            fitness = _fitness(ratio)
            if abs(fitness - node.fitness) > 1:
                demerits += FITNESS_JUMP
            if place.extra and before and before.extra:
                demerits += DOUBLE_HYPHEN
            if place.forced and not first and natural < width * 0.1:
                demerits += LAST_LINE_SHORT
            known = best.get(fitness)
            if known is None or demerits < known.demerits:
                best[fitness] = _Node(index, fitness, demerits, node)
        active = kept + list(best.values())
        if not active:
            return None
    return _chain(min(active, key=lambda node: node.demerits))


def _ratio(spare: float, glue: float, shrinks: bool) -> float:
    """How far the glue is stretched (above 0) or shrunk (below 0; under -1 the line is too full)."""
    if abs(spare) < 0.01:
        return 0.0
    if spare > 0:
        return spare / (glue * STRETCH) if glue > 0 else math.inf
    return spare / (glue * SHRINK) if glue > 0 and shrinks else -math.inf


def _demerits(ratio: float, hyphen: bool) -> float:
    badness = min(WORST, 100 * abs(ratio) ** 3)
    return (LINE_PENALTY + badness) ** 2 + (HYPHEN_PENALTY**2 if hyphen else 0.0)


def _fitness(ratio: float) -> int:
    """Tight, decent, loose or very loose."""
    if ratio < -0.5:
        return 0
    if ratio <= 0.5:
        return 1
    return 2 if ratio <= 1 else 3


def _chain(node: _Node | None) -> list[int]:
    found: list[int] = []
    while node is not None and node.at >= 0:
        found.append(node.at)
        node = node.previous
    return found[::-1]
