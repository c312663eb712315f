"""The colours along a gradient: where each stands, and how one goes over into the next (CSS Images 4 §3.5)."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any, Final

from fleetquill.style.background_values import Hint, Mixing, Stop
from fleetquill.style.colors import mixture
from fleetquill.style.lengths import resolve
from fleetquill.style.values import Rgba

ColorStop = tuple[float, Rgba]  # from 0 to 1 along the gradient
MOST_STOPS: Final = 1_200  # of a gradient that repeats
AT_ONCE: Final = 1e-6  # of the length: nothing lies between
CURVED: Final = 16  # pieces that a way between two colours is made of where it is not straight
PLAIN: Final = ("srgb", "shorter")


def placed(stops: tuple[Stop | Hint, ...], mixing: Mixing, length: float, current: Rgba) -> tuple[ColorStop, ...]:
    """Stops with all their places, and those between that the way from colour to colour asks for.

    `length` is that of the gradient line in the unit of the places; `current` is what currentcolor means.
    """
    places = _places(stops, length)
    found: list[ColorStop] = []
    middle: float | None = None
    for stop, place in zip(stops, places, strict=True):
        if isinstance(stop, Hint):
            middle = place
            continue
        color = stop.color or current
        if found:
            found += _way(found[-1], (place, color), middle, mixing)
        found.append((place, color))
        middle = None
    return tuple(found)


def _places(stops: tuple[Stop | Hint, ...], length: float) -> list[float]:
    """Never going back, and spread evenly where they were left out (§3.5.3)."""
    places: list[Any] = [None if s.place is None else resolve(s.place, length) / length for s in stops]
    if places[0] is None:
        places[0] = 0.0
    if places[-1] is None:
        places[-1] = max([1.0, *(p for p in places if p is not None)])
    highest = places[0]
    for index, place in enumerate(places):
        if place is not None:
            highest = max(highest, place)
            places[index] = highest
    index = 0
    while index < len(places):
        if places[index] is None:
            stop = next(i for i in range(index, len(places)) if places[i] is not None)
            before, after = places[index - 1], places[stop]
            for step in range(index, stop):
                places[step] = before + (after - before) * (step - index + 1) / (stop - index + 1)
            index = stop
        index += 1
    return places


def _way(start: ColorStop, end: ColorStop, middle: float | None, mixing: Mixing) -> list[ColorStop]:
    """What stands between two stops where the way between them is not straight in sRGB and opacity."""
    (begin, first), (stop, second) = start, end
    if stop <= begin or first == second:
        return []
    if middle is None and mixing == PLAIN:
        if first.alpha == second.alpha:
            return []
        if not first.alpha or not second.alpha:  # nothing has no colour: it takes the other's
            clear = (begin, second._replace(alpha=0.0)) if not first.alpha else (stop, first._replace(alpha=0.0))
            return [clear]
    share = 0.5 if middle is None else (middle - begin) / (stop - begin)
    if share <= 0.0:
        return [(begin, second)]
    if share >= 1.0:
        return [(stop, first)]
    power = math.log(0.5) / math.log(share)
    found = []
    for step in range(CURVED + 1):
        t = step / CURVED
        found.append((begin + (stop - begin) * t, Rgba(*mixture(*mixing, first, second, t**power))))
    return found


def repeated(stops: tuple[ColorStop, ...], reach: float) -> tuple[ColorStop, ...]:
    """The stops over and over from 0 to `reach`."""
    first, last = stops[0][0], stops[-1][0]
    length = last - first
    if length <= 0.0005:
        return ((0.0, stops[-1][1]), (1.0, stops[-1][1]))
    found: list[ColorStop] = []
    turn = -math.ceil(first / length) if first > 0 else 0
    while first + turn * length < reach and len(found) < MOST_STOPS:
        found += [(place + turn * length, color) for place, color in stops]
        turn += 1
    return tuple(found)


def color_at(stops: tuple[ColorStop, ...], place: float) -> Rgba:
    """The colour at a place along a gradient."""
    if place <= stops[0][0]:
        return stops[0][1]
    for (start, first), (end, second) in pairwise(stops):
        if place <= end:
            share = (place - start) / (end - start) if end > start else 1.0
            return Rgba(*(a + (b - a) * share for a, b in zip(first, second, strict=True)))
    return stops[-1][1]


def is_opaque(stops: tuple[ColorStop, ...]) -> bool:
    return all(color.alpha >= 1.0 for _, color in stops)


def finer(stops: tuple[ColorStop, ...]) -> tuple[ColorStop, ...]:
    """The same colours with more stops between, for what changes them in ways that are not straight."""
    found: list[ColorStop] = [stops[0]]
    for (start, first), (end, second) in pairwise(stops):
        if first != second and end > start:
            for step in range(1, CURVED):
                share = step / CURVED
                mixed = (a + (b - a) * share for a, b in zip(first, second, strict=True))
                found.append((start + (end - start) * share, Rgba(*mixed)))
        found.append((end, second))
    return tuple(found)


def opaque(stops: tuple[ColorStop, ...]) -> tuple[ColorStop, ...]:
    """The same colours, none of which lets through."""
    return tuple((place, color._replace(alpha=1.0)) for place, color in stops)


def shadows_of(stops: tuple[ColorStop, ...]) -> tuple[ColorStop, ...]:
    """The opacity of the colours as greys."""
    return tuple((place, Rgba(color.alpha, color.alpha, color.alpha)) for place, color in stops)


def parts_of(stops: tuple[ColorStop, ...]) -> list[tuple[ColorStop, ...]]:
    """The stretches of a gradient between the places where its colour changes at once."""
    found: list[list[ColorStop]] = [[stops[0]]]
    for before, stop in pairwise(stops):
        if stop[0] - before[0] < AT_ONCE and stop[1] != before[1]:
            if len(found[-1]) == 1 and found[-1][0][0] >= stop[0] - AT_ONCE and len(found) > 1:
                found.pop()
            found.append([])
        found[-1].append(stop)
    return [tuple(part) for part in found]
