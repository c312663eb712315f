"""Conditional formats: what values add to the look of their cells (ISO/IEC 29500-1 §18.3.1.10)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from datetime import date
from decimal import Decimal
from itertools import pairwise
from statistics import mean, stdev
from typing import Any, Final, NamedTuple

from fleetquill.intake.workbooks.colors import Palette, mixed
from fleetquill.intake.workbooks.expressions import Book, Expression, Unknown, as_value
from fleetquill.intake.workbooks.functions import Fault, key_of
from fleetquill.intake.workbooks.looks import Looks

MOST_CELLS: Final = 200_000  # of one range
ICONS: Final = {  # the signs of icon sets, from the least value to the greatest, with their colours
    "3": (("▼", "#c0392b"), ("▬", "#d4a017"), ("▲", "#2e7d4f")),
    "4": (("▼", "#c0392b"), ("◢", "#d4a017"), ("◥", "#8a9a2b"), ("▲", "#2e7d4f")),
    "5": (("▼", "#c0392b"), ("◢", "#d48a17"), ("▬", "#d4a017"), ("◥", "#8a9a2b"), ("▲", "#2e7d4f")),
}
NOT_GIVEN: Final = "00000000"  # how the colour of a fill is written by programs that were given the other one alone
LIGHTS: Final = ("#c0392b", "#d4a017", "#2e7d4f", "#33454a")


COMPARED: Final[dict[str, Callable[[Any, Any, Any], bool]]] = {  # of a value and one or two others
    "equal": lambda v, first, _: v == first, "notEqual": lambda v, first, _: v != first,
    "greaterThan": lambda v, first, _: v > first, "greaterThanOrEqual": lambda v, first, _: v >= first,
    "lessThan": lambda v, first, _: v < first, "lessThanOrEqual": lambda v, first, _: v <= first,
    "between": lambda v, first, second: first <= v <= second,
    "notBetween": lambda v, first, second: not first <= v <= second,
}  # fmt: skip


class Added(NamedTuple):
    """What a rule adds to a cell: CSS, a sign before the text, whether the text itself is shown."""

    css: str = ""
    sign: str = ""
    color: str = ""
    hides: bool = False


class Conditions:
    """The conditional formats of a sheet."""

    def __init__(self, sheet: Any, looks: Looks, palette: Palette, today: date) -> None:
        self._sheet = sheet
        self._looks = looks
        self._palette = palette
        self._book = Book(sheet, today)
        self.faults: list[str] = []
        self.added: dict[tuple[int, int], Added] = {}
        rules = [
            (rule.priority or 0, ranges.cells, rule) for ranges in sheet.conditional_formatting for rule in ranges.rules
        ]
        stopped: set[tuple[int, int]] = set()
        for _, ranges, rule in sorted(rules, key=lambda found: found[0]):
            places = [place for part in ranges.ranges for place in _places(part, sheet)]
            origin = (min(part.min_row for part in ranges.ranges), min(part.min_col for part in ranges.ranges))
            for place, added in self._apply(rule, places, origin).items():
                if place in stopped:
                    continue
                self.added[place] = _together(self.added.get(place), added)
                if rule.stopIfTrue:
                    stopped.add(place)

    def _apply(
        self, rule: Any, places: Sequence[tuple[int, int]], origin: tuple[int, int]
    ) -> Mapping[tuple[int, int], Added]:
        cells = self._sheet._cells
        values = {place: cells[place].value for place in places if place in cells and cells[place].value is not None}
        numbers = {place: float(value) for place, value in values.items() if _is_number(value)}
        if rule.type == "colorScale":
            return self._scale(rule.colorScale, numbers)
        if rule.type == "dataBar":
            return self._bars(rule.dataBar, numbers)
        if rule.type == "iconSet":
            return self._icons(rule.iconSet, numbers)
        try:
            test = self._test(rule, values, numbers, origin)
        except Unknown as unknown:
            self.faults.append(f"A conditional format is not carried out: {unknown} is not worked out here.")
            return {}
        css = self._css(rule.dxf)
        empties = rule.type in ("expression", "containsBlanks", "notContainsText", "notContainsErrors")
        asked = places if empties else values
        return {place: Added(css) for place in asked if test(place, values.get(place))}

    def _css(self, look: Any) -> str:
        if look is None:
            return ""
        css = ""
        if look.font is not None:
            color = self._palette.css(look.font.color)
            css += f"color:{color};" if color else ""
            css += "font-weight:bold;" * bool(look.font.b) + "font-style:italic;" * bool(look.font.i)
            css += "text-decoration:line-through;" * bool(look.font.strike)
            css += "text-decoration:underline;" * bool(look.font.u and look.font.u != "none")
        if look.fill is not None:
            grounds = [getattr(look.fill, name, None) for name in ("bgColor", "fgColor")]
            given = [color for color in grounds if getattr(color, "rgb", None) != NOT_GIVEN] or grounds[:1]
            back = self._palette.css(given[0])
            css += f"background-color:{back};" if back else ""
        return css + (self._looks.borders(look.border) if look.border is not None else "")

    # ---- rules that hold or do not ----

    def _test(
        self, rule: Any, values: Mapping[Any, Any], numbers: Mapping[Any, float], origin: tuple[int, int]
    ) -> Callable[[tuple[int, int], Any], bool]:
        kind = rule.type
        text = str(rule.text or "").lower()
        tests: dict[str, Callable[[Any, Any], bool]] = {
            "containsText": lambda _, value: text in str(value).lower(),
            "notContainsText": lambda _, value: text not in str(value or "").lower(),
            "beginsWith": lambda _, value: str(value).lower().startswith(text),
            "endsWith": lambda _, value: str(value).lower().endswith(text),
            "containsBlanks": lambda _, value: value is None or not str(value).strip(),
            "notContainsBlanks": lambda _, value: bool(str(value).strip()),
            "containsErrors": lambda _, value: str(value).startswith("#"),
            "notContainsErrors": lambda _, value: not str(value or "").startswith("#"),
        }
        if kind in tests:
            return tests[kind]
        if kind in ("duplicateValues", "uniqueValues"):
            counts = Counter(map(str, values.values()))
            return lambda _, value: (counts[str(value)] > 1) == (kind == "duplicateValues")
        if kind == "top10":
            return _top(rule, numbers)
        if kind == "aboveAverage":
            return _average(rule, numbers)
        given = [Expression(formula, origin, self._book) for formula in rule.formula]
        if kind in ("expression", "timePeriod") and given:
            return lambda place, _: given[0].holds(place)
        if kind != "cellIs" or not given:
            raise Unknown(f"the kind '{kind}'")
        return _compared(rule.operator or "", given)

    # ---- scales, bars and signs ----

    def _scale(self, scale: Any, numbers: Mapping[Any, float]) -> dict[tuple[int, int], Added]:
        if not numbers:
            return {}
        points = [_threshold(point, numbers) for point in scale.cfvo]
        tones = [self._palette.css(color) or "#ffffff" for color in scale.color]
        found = {}
        for place, value in numbers.items():
            found[place] = Added(f"background-color:{_between(value, points, tones)};")
        return found

    def _bars(self, bar: Any, numbers: Mapping[Any, float]) -> dict[tuple[int, int], Added]:
        if not numbers:
            return {}
        low, high = (_threshold(point, numbers) for point in bar.cfvo[:2])
        low = min(low, 0.0) if bar.cfvo[0].type == "min" and low > 0 else low
        tone = self._palette.css(bar.color) or "#638ec6"
        found = {}
        for place, value in numbers.items():
            share = max(0.0, min(1.0, (value - low) / (high - low))) if high > low else 1.0
            size = f"{share * 100:.1f}%"
            ground = f"linear-gradient(90deg,{tone} {size},transparent {size})"
            found[place] = Added(f"background-image:{ground};", hides=bar.showValue is False)
        return found

    def _icons(self, icons: Any, numbers: Mapping[Any, float]) -> dict[tuple[int, int], Added]:
        kind = icons.iconSet or "3TrafficLights1"
        signs = ICONS.get(kind[:1], ICONS["3"])
        if "Light" in kind or "Signs" in kind or "Symbols" in kind:
            tones = LIGHTS[: len(signs)]
            signs = tuple(("●", tone) for tone in tones)
        if icons.reverse:
            signs = tuple(reversed(signs))
        points = [_threshold(point, numbers) for point in icons.cfvo] if numbers else []
        found = {}
        for place, value in numbers.items():
            step = max(sum(value >= point for point in points[1:]), 0)
            sign, tone = signs[min(step, len(signs) - 1)]
            found[place] = Added("", sign, tone, hides=icons.showValue is False)
        return found


def _places(part: Any, sheet: Any) -> list[tuple[int, int]]:
    """The places of a range, as far as cells are there."""
    bottom, right = min(part.max_row, sheet.max_row), min(part.max_col, sheet.max_column)
    rows, columns = range(part.min_row, bottom + 1), range(part.min_col, right + 1)
    if len(rows) * len(columns) > MOST_CELLS:
        return [p for p in sheet._cells if part.min_row <= p[0] <= bottom and part.min_col <= p[1] <= right]
    return [(row, column) for row in rows for column in columns]


def _together(first: Added | None, more: Added) -> Added:
    """Two rules for one cell: what the first says holds."""
    if first is None:
        return more
    return Added(more.css + first.css, first.sign or more.sign, first.color or more.color, first.hides or more.hides)


def _is_number(value: Any) -> bool:
    return isinstance(value, (int, float, Decimal)) and not isinstance(value, bool)


def _compared(operator: str, given: Sequence[Expression]) -> Callable[[tuple[int, int], Any], bool]:
    """Whether the value of a cell stands so to one or two others."""
    found = COMPARED.get(operator)
    if found is None:
        raise Unknown(f"the operator '{operator}'")

    def test(place: tuple[int, int], value: Any) -> bool:
        try:
            first, second = key_of(given[0](place)), key_of(given[-1](place))
            own = key_of(as_value(value))
        except Fault:
            return False
        if operator in ("equal", "notEqual"):
            return found(own, first, second)
        return own[0] == first[0] == second[0] and found(own, first, second)

    return test


def _top(rule: Any, numbers: Mapping[Any, float]) -> Callable[[tuple[int, int], Any], bool]:
    rank = rule.rank or 10
    count = max(1, int(len(numbers) * rank / 100)) if rule.percent else rank
    ordered = sorted(numbers.values(), reverse=not rule.bottom)[:count]
    edge = ordered[-1] if ordered else 0.0
    return lambda place, _: place in numbers and (numbers[place] <= edge if rule.bottom else numbers[place] >= edge)


def _average(rule: Any, numbers: Mapping[Any, float]) -> Callable[[tuple[int, int], Any], bool]:
    middle = mean(numbers.values()) if numbers else 0.0
    above = rule.aboveAverage is not False
    if rule.stdDev and len(numbers) > 1:
        middle += stdev(numbers.values()) * rule.stdDev * (1 if above else -1)
    equal = bool(rule.equalAverage)

    def test(place: tuple[int, int], _: Any) -> bool:
        if place not in numbers:
            return False
        value = numbers[place]
        return value == middle if equal and value == middle else (value > middle if above else value < middle)

    return test


def _threshold(point: Any, numbers: Mapping[Any, float]) -> float:
    """The number that a point of a scale stands at."""
    ordered = sorted(numbers.values())
    low, high = ordered[0], ordered[-1]
    try:
        given = float(point.val) if point.val is not None else 0.0
    except (TypeError, ValueError):
        given = 0.0
    if point.type == "min":
        return low
    if point.type == "max":
        return high
    if point.type == "percent":
        return low + (high - low) * given / 100
    if point.type == "percentile":
        at = (len(ordered) - 1) * given / 100
        below = int(at)
        above = min(below + 1, len(ordered) - 1)
        return ordered[below] + (ordered[above] - ordered[below]) * (at - below)
    return given


def _between(value: float, points: Sequence[float], tones: Sequence[str]) -> str:
    if value <= points[0]:
        return tones[0]
    for (low, high), (first, second) in zip(pairwise(points), pairwise(tones), strict=False):
        if value <= high:
            return mixed(first, second, (value - low) / (high - low) if high > low else 1.0)
    return tones[-1]
