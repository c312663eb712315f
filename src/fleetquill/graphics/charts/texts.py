"""Texts of a chart in the room that they have: wrapped, shortened, thinned out."""

from __future__ import annotations

from collections.abc import Callable, Sequence

Measure = Callable[[str], float]  # px


def shortened(text: str, room: float, measure: Measure) -> str:
    """The text, or its beginning with three dots where it is too wide."""
    if measure(text) <= room:
        return text
    low, high = 0, len(text)
    while low < high:
        middle = (low + high + 1) // 2
        if measure(text[:middle].rstrip() + "…") <= room:
            low = middle
        else:
            high = middle - 1
    return text[:low].rstrip() + "…" if low else "…"


def wrapped(text: str, room: float, measure: Measure, most: int) -> list[str]:
    """The text in lines that fit, at most so many; the last is shortened where more would be needed."""
    lines: list[str] = []
    words = text.split()
    while words and len(lines) < most:
        line = words.pop(0)
        while words and measure(f"{line} {words[0]}") <= room:
            line += f" {words.pop(0)}"
        lines.append(line)
    if words:
        lines[-1] = " ".join([lines[-1], *words])
    return [shortened(line, room, measure) for line in lines]


def thinned(count: int, most: int) -> list[int]:
    """Which of so many labels are shown, evenly, the first among them."""
    step = max(1, -(-count // max(1, most)))
    return list(range(0, count, step))


def apart(places: Sequence[float], least: float, low: float, high: float) -> list[float] | None:
    """Places moved until none is nearer to the next than that, within bounds; None where they do not fit."""
    if len(places) * least > high - low + least:
        return None
    order = sorted(range(len(places)), key=lambda index: places[index])
    moved = [places[index] for index in order]
    for _ in range(60):
        steady = True
        for index in range(1, len(moved)):
            gap = moved[index] - moved[index - 1]
            if gap < least - 1e-6:
                shift = (least - gap) / 2
                moved[index - 1] -= shift
                moved[index] += shift
                steady = False
        moved[0], moved[-1] = max(moved[0], low), min(moved[-1], high)
        if steady:
            break
    found = [0.0] * len(places)
    for index, place in zip(order, moved, strict=True):
        found[index] = place
    return found
