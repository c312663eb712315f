"""What a page of a finished PDF shows: its letters, shapes and pictures, and where they stand (ISO 32000-2 §8 and §9).

Places are points from the top-left corner of the page as it is shown, y down.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from contextlib import suppress
from hashlib import blake2b
from typing import Any, Final, NamedTuple

from fleetquill.bindery.lettering import Lettering
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.page_boxes import shown_matrix
from fleetquill.pdf.reading import PdfPage, PdfReader, Stream
from fleetquill.pdf.syntax import DAMAGE, Operator, Parser
from fleetquill.style.box_values import IDENTITY, multiply

Matrix = tuple[float, float, float, float, float, float]

MOST_DEEP: Final = 20  # forms in forms
MOST_OPERATORS: Final = 5_000_000  # of one page, with its forms
PAINTED: Final = {"f": "fill", "F": "fill", "f*": "fill", "S": "stroke", "s": "stroke", "B": "fill", "B*": "fill",
                  "b": "fill", "b*": "fill"}  # fmt: skip
POINTS: Final = {"m": 2, "l": 2, "c": 6, "v": 4, "y": 4}
COLORS: Final = {"g": 1, "rg": 3, "k": 4, "sc": 0, "scn": 0, "G": 1, "RG": 3, "K": 4, "SC": 0, "SCN": 0}


class Glyph(NamedTuple):
    """A letter that is shown: its text, where its baseline begins and ends, and the size of its font."""

    text: str
    x: float
    y: float
    end_x: float
    end_y: float
    size: float


class Shape(NamedTuple):
    """What is filled or stroked: 'fill' or 'stroke', the box around it, and its colour as it was given."""

    kind: str
    x: float
    y: float
    width: float
    height: float
    color: tuple[Any, ...]


class Shown(NamedTuple):
    """A picture: the box around it, and a mark of its content."""

    x: float
    y: float
    width: float
    height: float
    content: str


class Marks(NamedTuple):
    glyphs: list[Glyph]
    shapes: list[Shape]
    pictures: list[Shown]


class _Text:
    """The text state (§9.3)."""

    __slots__ = ("face", "leading", "letter", "rise", "size", "stretch", "word")

    def __init__(self) -> None:
        self.face: Lettering | None = None
        self.size = 0.0
        self.letter = self.word = self.leading = self.rise = 0.0
        self.stretch = 1.0

    def copy(self) -> _Text:
        made = _Text()
        for name in self.__slots__:
            setattr(made, name, getattr(self, name))
        return made


class PageInterpreter:
    """Goes through the operators of pages of one file. Fonts are read once."""

    def __init__(self, reader: PdfReader) -> None:
        self._reader = reader
        self._faces: dict[int, Lettering] = {}
        self._hashes: dict[int, str] = {}

    def marks(self, page: PdfPage) -> Marks:
        """What a page shows, in the order in which it is painted; as far as its content can be read."""
        run = _Run(self, self._reader)
        resources = self._reader.dictionary(page.entries.get("Resources"))
        with suppress(*DAMAGE):
            run.go(Parser(self._reader.page_content(page)).operators(), resources, shown_matrix(page, self._reader), 0)
        return run.found

    def face(self, ref: Any) -> Lettering | None:
        key = ref.number if isinstance(ref, Ref) else id(ref)
        if key not in self._faces:
            entries = self._reader.dictionary(ref)
            if not entries:
                return None
            self._faces[key] = Lettering(entries, self._reader)
        return self._faces[key]

    def picture(self, ref: Any, stream: Stream) -> str:
        key = ref.number if isinstance(ref, Ref) else id(stream)
        if key not in self._hashes:
            self._hashes[key] = blake2b(stream.raw, digest_size=12).hexdigest()
        return self._hashes[key]


class _Run:
    """One page."""

    def __init__(self, interpreter: PageInterpreter, reader: PdfReader) -> None:
        self._interpreter = interpreter
        self._reader = reader
        self.found = Marks([], [], [])
        self._count = 0
        self._said: list[str | None] = []  # of the marked sequences that are open: their ActualText

    def go(self, operators: Iterator[Operator], resources: dict[str, Any], matrix: Matrix, deep: int) -> None:
        state, saved = _Text(), list[tuple[_Text, Matrix, tuple[Any, ...], tuple[Any, ...]]]()
        line = place = IDENTITY
        fill: tuple[Any, ...] = (0,)
        stroke: tuple[Any, ...] = (0,)
        path: list[tuple[float, float]] = []
        open_marks = len(self._said)
        for name, operands in operators:
            self._count += 1
            if self._count > MOST_OPERATORS:
                return
            try:
                if name == "q":
                    saved.append((state.copy(), matrix, fill, stroke))
                elif name == "Q":
                    if saved:
                        state, matrix, fill, stroke = saved.pop()
                elif name == "cm":
                    matrix = multiply(matrix, _matrix(operands))
                elif name == "BT":
                    line = place = IDENTITY
                elif name == "Tf":
                    state.face = self._interpreter.face(self._resource(resources, "Font", operands[0]))
                    state.size = float(operands[1])
                elif name in ("Td", "TD"):
                    if name == "TD":
                        state.leading = -operands[1]
                    line = place = multiply(line, (1.0, 0.0, 0.0, 1.0, operands[0], operands[1]))
                elif name == "Tm":
                    line = place = _matrix(operands)
                elif name == "T*":
                    line = place = multiply(line, (1.0, 0.0, 0.0, 1.0, 0.0, -state.leading))
                elif name in ("Tj", "TJ", "'", '"'):
                    if name == '"':
                        state.word, state.letter = operands[0], operands[1]
                    if name in ("'", '"'):
                        line = place = multiply(line, (1.0, 0.0, 0.0, 1.0, 0.0, -state.leading))
                    place = self._show(operands[-1], state, place, matrix)
                elif name == "Tc":
                    state.letter = operands[0]
                elif name == "Tw":
                    state.word = operands[0]
                elif name == "Tz":
                    state.stretch = operands[0] / 100
                elif name == "TL":
                    state.leading = operands[0]
                elif name == "Ts":
                    state.rise = operands[0]
                elif name in COLORS:
                    color = tuple(operands)
                    if name.islower():
                        fill = color
                    else:
                        stroke = color
                elif name in POINTS:
                    path += zip(operands[: POINTS[name] : 2], operands[1 : POINTS[name] : 2], strict=True)
                elif name == "re":
                    x, y, wide, high = operands
                    path += [(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)]
                elif name in PAINTED:
                    if path:
                        kind = PAINTED[name]
                        color = fill if kind == "fill" else stroke
                        self.found.shapes.append(Shape(kind, *_box(path, matrix), color))
                    path = []
                elif name == "n":
                    path = []
                elif name == "BI":
                    self.found.pictures.append(Shown(*_box(UNIT, matrix), "inline"))
                elif name == "Do":
                    self._draw(self._resource(resources, "XObject", operands[0]), resources, matrix, deep)
                elif name in ("BDC", "BMC"):
                    self._said.append(self._actual_text(operands, resources))
                elif name == "EMC" and len(self._said) > open_marks:
                    self._end_mark()
            except DAMAGE:
                continue
        while len(self._said) > open_marks:
            self._end_mark()

    def _resource(self, resources: dict[str, Any], kind: str, name: Any) -> Any:
        return self._reader.dictionary(resources.get(kind)).get(str(name))

    def _actual_text(self, operands: list[Any], resources: dict[str, Any]) -> str | None:
        if len(operands) < 2:
            return None
        said = operands[1]
        if isinstance(said, str):
            said = self._reader.resolve(self._resource(resources, "Properties", said))
        if not isinstance(said, dict) or "ActualText" not in said:
            return None
        return self._reader.text(said["ActualText"])

    def _end_mark(self) -> None:
        self._said.pop()

    def _draw(self, ref: Any, resources: dict[str, Any], matrix: Matrix, deep: int) -> None:
        stream = self._reader.resolve(ref)
        if not isinstance(stream, Stream):
            return
        if stream.entries.get("Subtype") == "Image":
            self.found.pictures.append(Shown(*_box(UNIT, matrix), self._interpreter.picture(ref, stream)))
        elif stream.entries.get("Subtype") == "Form" and deep < MOST_DEEP:
            own = stream.entries.get("Resources")
            inner = resources if own is None else self._reader.dictionary(own)
            given = self._reader.array(stream.entries.get("Matrix"))
            placed = multiply(matrix, _matrix([self._reader.resolve(part) for part in given])) if given else matrix
            self.go(Parser(stream.content).operators(), inner, placed, deep + 1)

    def _show(self, shown: Any, state: _Text, place: Matrix, matrix: Matrix) -> Matrix:
        """Shows a string, or strings with moves between them; gives where the next would stand (§9.4.4)."""
        face = state.face
        if face is None:
            return place
        size, stretch = state.size, state.stretch
        for part in shown if isinstance(shown, list) else [shown]:
            if isinstance(part, (int, float)):
                move = -part / 1000 * size
                step = (0.0, move) if face.vertical else (move * stretch, 0.0)
                place = multiply(place, (1.0, 0.0, 0.0, 1.0, *step))
                continue
            if not isinstance(part, bytes):
                continue
            for text, width, is_space in face.letters(part):
                spaced = state.letter + (state.word if is_space else 0.0)
                if face.vertical:
                    step = (0.0, -size + spaced)
                else:
                    step = ((width * face.scale * size + spaced) * stretch, 0.0)
                wide = width * face.scale * size * stretch
                on_page = multiply(matrix, place)
                a, b, c, d, e, f = on_page
                x, y = e + c * state.rise, f + d * state.rise
                end = (x + a * wide, y + b * wide) if not face.vertical else (x, y)
                self._add(Glyph(self._text(text), x, y, *end, size * math.hypot(c, d)))
                place = multiply(place, (1.0, 0.0, 0.0, 1.0, *step))
        return place

    def _text(self, text: str) -> str:
        """What a glyph stands for; within a sequence that says its text, the first stands for all."""
        for at in range(len(self._said) - 1, -1, -1):
            said = self._said[at]
            if said is not None:
                self._said[at] = ""
                return said
        return text

    def _add(self, glyph: Glyph) -> None:
        self.found.glyphs.append(glyph)


UNIT: Final = ((0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0))


def _matrix(operands: Sequence[Any]) -> Matrix:
    a, b, c, d, e, f = (float(part) for part in operands)
    return a, b, c, d, e, f


def _box(points: Sequence[tuple[float, float]], matrix: Matrix) -> tuple[float, float, float, float]:
    """The upright box around points that are drawn through a matrix."""
    a, b, c, d, e, f = matrix
    across = [a * x + c * y + e for x, y in points]
    down = [b * x + d * y + f for x, y in points]
    left, top = min(across), min(down)
    return left, top, max(across) - left, max(down) - top
