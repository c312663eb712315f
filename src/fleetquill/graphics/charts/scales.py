"""The scale of numbers along an axis: from where to where it goes, its ticks, and labels that are true."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from decimal import Decimal
from typing import Final, NamedTuple

Form = Callable[[float, int | None], str]  # a number as text, with so many decimals where that is asked for

HUGE: Final = 1e15  # from here on, and below TINY, numbers are written with a power of ten
TINY: Final = 1e-6
ROOM: Final = 0.05  # of the span, left beyond the data


class Scale(NamedTuple):
    """From `low` to `high`, with ticks and their labels."""

    low: float
    high: float
    ticks: list[tuple[float, str]]

    @property
    def labels(self) -> list[str]:
        return [label for _, label in self.ticks]


def scale_of(values: Iterable[float], most: int, form: Form, *, grounded: bool, own_form: bool) -> Scale:
    """A scale for some values with at most so many ticks.

    `grounded` has nought in it, as bars and areas need; `own_form` tells that the document says how numbers are
    written, so that no decimals are added.
    """
    from matplotlib.ticker import MaxNLocator

    finite = [value for value in values if math.isfinite(value)]
    low, high = min(finite, default=0.0), max(finite, default=1.0)
    whole = all(value == int(value) for value in finite) and abs(high) < HUGE
    if grounded:
        low, high = min(low, 0.0), max(high, 0.0)
    if low == high:
        low, high = (low, low + 1.0) if low == 0 else (low - abs(low) * 0.5, low + abs(low) * 0.5)
        if grounded:
            low, high = min(low, 0.0), max(high, 0.0)
    else:
        room = (high - low) * ROOM
        low = low if grounded and low == 0.0 else low - room
        high = high if grounded and high == 0.0 else high + room
    lone: Scale | None = None
    for bins in (*range(max(2, most), max(2, most) + 3), *range(max(2, most) - 1, 0, -1)):
        locator = MaxNLocator(nbins=bins, steps=[1, 2, 2.5, 5, 10], integer=whole, min_n_ticks=1)
        places = locator.tick_values(low, high)
        inside = [float(place) for place in places if low - 1e-12 * abs(low) <= place <= high + 1e-12 * abs(high)]
        labels = _labels(inside, form, own_form=own_form)
        if len(set(labels)) < len(labels) or len(inside) > most + 1:
            continue
        scale = Scale(low, high, list(zip(inside, labels, strict=True)))
        if len(inside) > 1:
            return scale
        lone = lone or (scale if inside else None)
    return lone or Scale(low, high, [])


def _labels(places: list[float], form: Form, *, own_form: bool) -> list[str]:
    """As many decimals as the step asks for, the same for all."""
    if own_form or len(places) < 2:
        return [form(place, None) for place in places]
    largest = max(map(abs, places))
    step = Decimal(f"{places[1] - places[0]:.6g}").normalize()
    exponent = step.as_tuple().exponent
    decimals = max(0, -exponent) if isinstance(exponent, int) else 0
    if largest >= HUGE or (0 < largest < TINY):
        return [scientific(place, form) for place in places]
    return [form(0.0 if abs(place) < largest * 1e-9 else place, decimals) for place in places]


POWERS: Final = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")


def scientific(value: float, form: Form) -> str:
    """A number as a factor and a power of ten."""
    if not value:
        return form(0.0, 0)
    exponent = math.floor(math.log10(abs(value)))
    factor = Decimal(f"{value / 10.0**exponent:.3g}").normalize()
    digits = factor.as_tuple().exponent
    return (
        f"{form(float(factor), max(0, -digits) if isinstance(digits, int) else 0)}·10{str(exponent).translate(POWERS)}"
    )
