"""How wide the columns of a table in plain text are."""

from __future__ import annotations

from collections.abc import Sequence


def shared_widths(measures: Sequence[tuple[int, int]], room: int) -> list[int]:
    """Widths that take at most `room` where that can be: `measures` are what each column needs at least and at most.

    All get their longest line where there is room; else those that are widest give way, down to their longest word;
    else, at the worst, they share the room in the measure of their words, one column each at the least.
    """
    least, most = [one for one, _ in measures], [two for _, two in measures]
    if sum(least) > room:
        spare = max(0, room - len(least))
        total = sum(least)
        return [1 + spare * width // total for width in least]
    low, high = 1, max(most, default=1)
    while low < high:  # the largest width that no column has to exceed
        middle = (low + high + 1) // 2
        if sum(_limited(measures, middle)) <= room:
            low = middle
        else:
            high = middle - 1
    widths = _limited(measures, low)
    for index, (width, wanted) in enumerate(zip(widths, most, strict=True)):
        if width < wanted and sum(widths) < room:
            widths[index] += 1
    return widths


def _limited(measures: Sequence[tuple[int, int]], limit: int) -> list[int]:
    return [max(least, min(most, limit)) for least, most in measures]
