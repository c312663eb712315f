"""SVG path data and basic shapes as paths of lines and curves (SVG 2 §9, §10)."""

from __future__ import annotations

import math
import re
from collections.abc import Collection
from functools import cache
from itertools import pairwise
from typing import Any, Final

from fleetquill.drawing.canvas import Segment
from fleetquill.drawing.paths import Corners, ellipse, rounded
from fleetquill.drawing.paths import length_of as measured_length
from fleetquill.drawing.paths import points_of as curve_points
from fleetquill.units import PX_PER_UNIT

LARGEST: Final = 1e9  # of any number
FINE: Final = 32  # straight pieces that a curve is made of, for what stands along it
COMMAND: Final = re.compile(r"([MmZzLlHhVvCcSsQqTtAa])")
NUMBER: Final = re.compile(r"[-+]?(?:\d++\.?+\d*+|\.\d++)(?:[eE][-+]?\d++)?+")  # takes all or none: no trying again
LONG: Final = 500  # characters of a path, from which on a pattern for the whole of it is worth its time
COUNTS: Final = {"m": 2, "l": 2, "h": 1, "v": 1, "c": 6, "s": 4, "q": 4, "t": 2, "a": 7, "z": 0}


@cache
def _straight_pattern() -> re.Pattern[str]:
    return re.compile(
        rf"\s*+M[\s,]*+{NUMBER.pattern}[\s,]++{NUMBER.pattern}"
        rf"(?:(?:[\s,]++|[\s,]*+[ML][\s,]*+){NUMBER.pattern}[\s,]++{NUMBER.pattern})*+\s*+"
    )


@cache
def _pair_pattern() -> re.Pattern[str]:
    return re.compile(rf"([ML]?)[\s,]*({NUMBER.pattern})[\s,]+({NUMBER.pattern})")


def path_data(d: str) -> list[Segment]:
    """Absolute m, l, c and h segments; what follows a fault is left out (§9.5.4)."""
    if len(d) >= LONG and _straight_pattern().fullmatch(d):
        return _straight(d)
    path: list[Segment] = []
    pen = _Pen(path)
    pieces = COMMAND.split(d)
    if pieces[0].strip(" \t\r\n\f,"):
        return path
    for command, text in zip(pieces[1::2], pieces[2::2], strict=True):
        count = COUNTS[command.lower()]
        if not path and command.lower() != "m":
            break
        numbers, faulty = _numbers(text, arc=command in "Aa")
        if count == 0:
            pen.draw(command, ())
            if numbers:
                break
            continue
        if command == "L" and len(numbers) > 2 and path[-1][0] != "h":
            stop = len(numbers) - len(numbers) % 2
            path.extend([("l", x, y) for x, y in zip(numbers[0:stop:2], numbers[1:stop:2], strict=True)])
            pen.stand(numbers[stop - 2], numbers[stop - 1])
        else:
            for place in range(0, len(numbers) - count + 1, count):
                pen.draw(command, numbers[place : place + count])
                if command in "Mm":  # further pairs are lines
                    command = "L" if command == "M" else "l"
        if faulty or not numbers or len(numbers) % count:
            break
    return path


def _straight(d: str) -> list[Segment]:
    """Points and lines alone, as plots have them: the short way."""
    path: list[Segment] = []
    for letter, x, y in _pair_pattern().findall(d):
        path.append(("m" if letter == "M" or not path else "l", as_number(x), as_number(y)))
    return path


def _numbers(text: str, *, arc: bool) -> tuple[list[float], bool]:
    """The numbers after a command, and whether something else stands among them."""
    if arc:
        return _arc_numbers(text)
    found = NUMBER.findall(text)
    return [as_number(number) for number in found], bool(NUMBER.sub("", text).strip(" \t\r\n\f,"))


def _arc_numbers(text: str) -> tuple[list[float], bool]:
    """The flags of arcs may stand without space between them."""
    numbers: list[float] = []
    place = 0
    while place < len(text):
        if text[place] in " \t\r\n\f,":
            place += 1
        elif len(numbers) % 7 in (3, 4):
            if text[place] not in "01":
                return numbers, True
            numbers.append(as_number(text[place]))
            place += 1
        else:
            match = NUMBER.match(text, place)
            if match is None:
                return numbers, True
            numbers.append(as_number(match[0]))
            place = match.end()
    return numbers, False


class _Pen:
    """Where the pen is, and what the last control point was."""

    def __init__(self, path: list[Segment]) -> None:
        self.path = path
        self.x = self.y = self.start_x = self.start_y = 0.0
        self.control: tuple[float, float] | None = None
        self.last = ""

    def stand(self, x: float, y: float) -> None:
        """Moves the pen without drawing."""
        self.x, self.y = x, y
        self.control, self.last = None, "l"

    def draw(self, command: str, numbers: Any) -> None:
        kind = command.lower()
        dx, dy = (self.x, self.y) if command.islower() else (0.0, 0.0)
        n = list(numbers)
        if kind == "z":
            self.path.append(("h",))
            self.x, self.y = self.start_x, self.start_y
        elif kind == "m":
            if self.path and self.path[-1][0] == "m":
                self.path.pop()
            self._move(n[0] + dx, n[1] + dy)
        elif kind == "l":
            self._line(n[0] + dx, n[1] + dy)
        elif kind == "h":
            self._line(n[0] + dx, self.y)
        elif kind == "v":
            self._line(self.x, n[0] + dy)
        elif kind == "c":
            self._curve(n[0] + dx, n[1] + dy, n[2] + dx, n[3] + dy, n[4] + dx, n[5] + dy)
        elif kind == "s":
            x1, y1 = self._mirrored("cs")
            self._curve(x1, y1, n[0] + dx, n[1] + dy, n[2] + dx, n[3] + dy)
        elif kind == "q":
            self._quadratic(n[0] + dx, n[1] + dy, n[2] + dx, n[3] + dy)
        elif kind == "t":
            x1, y1 = self._mirrored("qt")
            self._quadratic(x1, y1, n[0] + dx, n[1] + dy)
        elif kind == "a":
            self._arc(n[0], n[1], n[2], n[3] != 0, n[4] != 0, n[5] + dx, n[6] + dy)
        self.last = kind
        if kind not in "csqt":
            self.control = None

    def _begin(self) -> None:
        if self.path and self.path[-1][0] == "h":
            self.path.append(("m", self.x, self.y))

    def _move(self, x: float, y: float) -> None:
        self.path.append(("m", x, y))
        self.x, self.y = self.start_x, self.start_y = x, y

    def _line(self, x: float, y: float) -> None:
        self._begin()
        self.path.append(("l", x, y))
        self.x, self.y = x, y

    def _mirrored(self, kinds: str) -> tuple[float, float]:
        if self.control is None or self.last not in kinds:
            return self.x, self.y
        return 2 * self.x - self.control[0], 2 * self.y - self.control[1]

    def _curve(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        self._begin()
        self.path.append(("c", x1, y1, x2, y2, x, y))
        self.control = (x2, y2)
        self.x, self.y = x, y

    def _quadratic(self, x1: float, y1: float, x: float, y: float) -> None:
        x0, y0 = self.x, self.y
        self._curve(x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3, x + (x1 - x) * 2 / 3, y + (y1 - y) * 2 / 3, x, y)
        self.control = (x1, y1)

    def _arc(self, rx: float, ry: float, turn: float, large: bool, sweep: bool, x: float, y: float) -> None:
        """From endpoints to centre (§B.2.4), then in quarters."""
        if (x, y) == (self.x, self.y):
            return
        rx, ry = abs(rx), abs(ry)
        if not rx or not ry:
            self._line(x, y)
            return
        phi = math.radians(turn)
        cos, sin = math.cos(phi), math.sin(phi)
        hx, hy = (self.x - x) / 2, (self.y - y) / 2
        x1, y1 = cos * hx + sin * hy, -sin * hx + cos * hy
        reach = (x1 / rx) ** 2 + (y1 / ry) ** 2
        if reach > 1:
            rx, ry = rx * math.sqrt(reach), ry * math.sqrt(reach)
        under = rx**2 * ry**2 - rx**2 * y1**2 - ry**2 * x1**2
        factor = math.sqrt(max(0.0, under / (rx**2 * y1**2 + ry**2 * x1**2))) * (-1 if large == sweep else 1)
        cx1, cy1 = factor * rx * y1 / ry, -factor * ry * x1 / rx
        cx, cy = cos * cx1 - sin * cy1 + (self.x + x) / 2, sin * cx1 + cos * cy1 + (self.y + y) / 2
        start = math.atan2((y1 - cy1) / ry, (x1 - cx1) / rx)
        end = math.atan2((-y1 - cy1) / ry, (-x1 - cx1) / rx)
        delta = end - start
        if sweep and delta < 0:
            delta += 2 * math.pi
        elif not sweep and delta > 0:
            delta -= 2 * math.pi
        count = max(1, math.ceil(abs(delta) / (math.pi / 2) - 1e-9))
        step = delta / count
        k = 4 / 3 * math.tan(step / 4)
        for index in range(count):
            a, b = start + index * step, start + (index + 1) * step
            ca, sa, cb, sb = math.cos(a), math.sin(a), math.cos(b), math.sin(b)
            points = [(ca - k * sa, sa + k * ca), (cb + k * sb, sb - k * cb), (cb, sb)]
            out = [(cx + cos * rx * px - sin * ry * py, cy + sin * rx * px + cos * ry * py) for px, py in points]
            self._curve(*out[0], *out[1], *out[2])
        self.x, self.y = x, y
        self.control = None


def numbers_of(text: str) -> list[float]:
    """The numbers of a list such as `points`."""
    return [as_number(number) for number in NUMBER.findall(text)]


def as_number(text: str) -> float:
    """A number within what can be drawn."""
    return min(LARGEST, max(-LARGEST, float(text)))


def first_number(text: str, default: float) -> float:
    """The number that a text begins with."""
    found = numbers_of(text)
    return found[0] if found else default


def length_of(text: str, basis: float | None, em: float = 16.0) -> float | None:
    """A length in px, beside text of `em` px; None where there is none, or a percentage of nothing."""
    text = text.strip().lower()
    match = NUMBER.match(text)
    if match is None:
        return None
    value = as_number(match[0])
    unit = text[match.end() :].strip()
    if unit == "%":
        return None if basis is None else value * basis / 100
    return value * {"em": em, "ex": em / 2, "rem": 16.0, **PX_PER_UNIT}.get(unit, 1.0)


def points_of(text: str) -> list[tuple[float, float]]:
    numbers = numbers_of(text)
    return list(zip(numbers[::2], numbers[1::2], strict=False))


def vertices(path: list[Segment]) -> list[tuple[float, float, float]]:
    """Points where markers stand, each with the direction of the path there, in radians (§13.7.3)."""
    found: list[tuple[float, float, float, float]] = []  # x, y, angle in, angle out
    x = y = start_x = start_y = 0.0
    for segment in path:
        kind, numbers = segment[0], segment[1:]
        if kind == "m":
            x, y = numbers
            start_x, start_y = x, y
            found.append((x, y, math.nan, math.nan))
            continue
        end = (start_x, start_y) if kind == "h" else numbers[-2:]
        first = numbers[:2] if kind == "c" and tuple(numbers[:2]) != (x, y) else end
        last = numbers[2:4] if kind == "c" and tuple(numbers[2:4]) != tuple(end) else (x, y)
        out = math.atan2(first[1] - y, first[0] - x)
        into = math.atan2(end[1] - last[1], end[0] - last[0])
        if found:
            found[-1] = (*found[-1][:3], out)
        x, y = end
        found.append((x, y, into, math.nan))
    result = []
    for px, py, into, out in found:
        if math.isnan(into) or math.isnan(out):
            angle = out if math.isnan(into) else into
            angle = 0.0 if math.isnan(angle) else angle
        else:
            angle = math.atan2(math.sin(into) + math.sin(out), math.cos(into) + math.cos(out))
        result.append((px, py, angle))
    return result


def shape_path(tag: str, get: Any, attributes: Collection[str], text: Any) -> list[Segment] | None:
    """The path of a basic shape; None for what is no shape.

    `get(name, axis)` gives a length, `attributes` are those that are given, `text(name)` is what one says.
    """
    if tag == "path":
        return path_data(text("d"))
    if tag == "rect":
        x, y, width, height = get("x", 0), get("y", 1), get("width", 0), get("height", 1)
        if width <= 0 or height <= 0:
            return []
        rx = get("rx", 0) if "rx" in attributes else get("ry", 1)
        ry = get("ry", 1) if "ry" in attributes else rx
        corner = (min(max(rx, 0.0), width / 2), min(max(ry, 0.0), height / 2))
        return list(rounded(x, y, width, height, Corners(corner, corner, corner, corner)))
    if tag == "circle":
        radius = get("r", 2)
        return ellipse(get("cx", 0), get("cy", 1), radius, radius) if radius > 0 else []
    if tag == "ellipse":
        rx, ry = get("rx", 0), get("ry", 1)
        return ellipse(get("cx", 0), get("cy", 1), rx, ry) if rx > 0 and ry > 0 else []
    if tag == "line":
        return [("m", get("x1", 0), get("y1", 1)), ("l", get("x2", 0), get("y2", 1))]
    if tag in ("polyline", "polygon"):
        points = points_of(text("points"))
        if not points:
            return []
        path: list[Segment] = [("m", *points[0]), *(("l", *point) for point in points[1:])]
        return [*path, ("h",)] if tag == "polygon" else path
    return None


def path_length(said: str, path: list[Segment]) -> float:
    """How many px one of a path's own units is, where its pathLength says how long it is (SVG 2 §9.6.1)."""
    length = first_number(said, 0.0)
    return measured_length(path) / length if length > 0 else 1.0


Points = tuple[tuple[float, float], ...]


def straight_points(path: list[Segment]) -> list[tuple[float, float]]:
    """The points of a path whose curves are made of short straight pieces."""
    found: list[tuple[float, float]] = []
    start = (0.0, 0.0)
    for verb, *numbers in path:
        if verb == "m":
            start = (numbers[0], numbers[1])
            found.append(start)
        elif verb == "h":
            found.append(start)
        elif found:
            found += curve_points(found[-1], numbers, FINE)
    return found


def place_along(points: Points, distance: float) -> tuple[float, float, float] | None:
    """The place at a distance along straight pieces, and the angle that they have there; None beyond their ends."""
    if distance < 0:
        return None
    for (x0, y0), (x1, y1) in pairwise(points):
        length = math.hypot(x1 - x0, y1 - y0)
        if distance <= length and length > 0:
            share = distance / length
            return x0 + (x1 - x0) * share, y0 + (y1 - y0) * share, math.atan2(y1 - y0, x1 - x0)
        distance -= length
    return None
