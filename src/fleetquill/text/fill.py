"""The best breaks for a whole paragraph: optimum-fit with boxes, glue, penalties and demerits.

The algorithm is the one that Knuth and Plass published in 1981 (Breaking paragraphs into lines):
of all ways to break, the one with the fewest demerits, where a line's badness grows with the cube
of how far its glue is stretched or shrunk.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from operator import attrgetter
from typing import Final, NamedTuple

STRETCH: Final = 0.5  # of a space's width
SHRINK: Final = 0.22
RAGGED: Final = 0.2  # of the width: what a ragged line may leave at its end as lightly as glue stretches
WORST: Final = 1e6
LINE_PENALTY: Final = 10.0
HYPHEN_DEMERITS: Final = 110.0**2
DOUBLE_HYPHEN: Final = 4_000.0  # demerits for two hyphens one below the other
FITNESS_JUMP: Final = 3_000.0  # demerits for a tight line beside a loose one
LAST_LINE_SHORT: Final = 2_500.0  # demerits for a last line of less than a tenth of the width
LOOSE_ENOUGH: Final = 2.0  # the stretch of lines that are tried first
TIGHT, DECENT, LOOSE, VERY_LOOSE = range(4)  # the fitness of a line


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
    """A chosen break: how the best way to it came here.

    `room` is what a line that starts here can hold, measured from the paragraph's start; `glue` the
    sum of all glue up to where it starts.
    """

    __slots__ = ("at", "demerits", "fitness", "glue", "hyphen", "previous", "room")

    def __init__(
        self, at: int, room: float, glue: float, hyphen: bool, fitness: int, demerits: float, previous: _Node | None
    ) -> None:
        self.at = at
        self.room = room
        self.glue = glue
        self.hyphen = hyphen
        self.fitness = fitness
        self.demerits = demerits
        self.previous = previous


def best_breaks(breaks: Sequence[Break], width: float, indent: float, justified: bool) -> list[int] | None:
    """Indices into `breaks` where lines end, or None where no way fits (a word is too wide).

    The last break must be forced: it is the end of the paragraph. `justified` says whether spaces
    grow and shrink to fill the line; where they do not, what is left at its end counts.
    """
    last = _search(breaks, width, indent, justified, LOOSE_ENOUGH)
    if last is None or last.demerits > (LINE_PENALTY + 100.0 * LOOSE_ENOUGH**3) ** 2:
        last = _search(breaks, width, indent, justified, math.inf)  # a line that loose may be part of the best way
    return None if last is None else _chain(last)


def _search(breaks: Sequence[Break], width: float, indent: float, justified: bool, loosest: float) -> _Node | None:
    """The last break of the best way without any line looser than `loosest`; None where there is no way."""
    active: list[_Node] = [_Node(-1, width - indent, 0.0, False, DECENT, 0.0, None)]
    ragged = width * RAGGED * STRETCH
    for index, (end, resume, glue, resume_glue, extra, forced) in enumerate(breaks):
        reach = end + extra
        hyphen = extra > 0.0
        least = [math.inf] * 4  # the fewest demerits that lead here, by fitness
        ways: list[_Node | None] = [None] * 4
        kept: list[_Node] = []
        for node in active:
            spare = node.room - reach
            if spare >= 0.01:
                stretch = (glue - node.glue) * STRETCH if justified else ragged
                ratio = spare / stretch if stretch > 0.0 else math.inf
            elif spare > -0.01:
                ratio = 0.0
            else:
                shrink = (glue - node.glue) * SHRINK
                if not justified or spare < -shrink:
                    continue  # too full, and so are all lines from here on
                ratio = spare / shrink
            kept.append(node)
            if forced and ratio > 0.0:
                ratio = 0.0  # the last line is not stretched
            elif ratio > loosest:
                continue
            fitness = VERY_LOOSE if ratio > 1.0 else LOOSE if ratio > 0.5 else DECENT if ratio >= -0.5 else TIGHT
            demerits = node.demerits
            if demerits >= least[fitness]:
                continue
            badness = 100.0 * ratio * ratio * ratio
            if badness < 0.0:
                badness = -badness
            badness = LINE_PENALTY + (badness if badness < WORST else WORST)
            demerits += badness * badness
            if hyphen:
                demerits += HYPHEN_DEMERITS + node.hyphen * DOUBLE_HYPHEN
            if not -1 <= fitness - node.fitness <= 1:
                demerits += FITNESS_JUMP
            if forced and node.previous is not None and width - spare < width * 0.1:
                demerits += LAST_LINE_SHORT
            if demerits < least[fitness]:
                least[fitness] = demerits
                ways[fitness] = node
        active = [] if forced else kept
        room = width + resume
        for fitness, way in enumerate(ways):
            if way is not None:
                active.append(_Node(index, room, resume_glue, hyphen, fitness, least[fitness], way))
        if not active:
            return None
    return min(active, key=attrgetter("demerits"))


def _chain(node: _Node) -> list[int]:
    found: list[int] = []
    while node.previous is not None:
        found.append(node.at)
        node = node.previous
    return found[::-1]
