"""What a page of a finished PDF shows: its letters, shapes and pictures, and where they stand (ISO 32000-2 §8 and §9).

Places are points from the top-left corner of the page as it is shown, y down.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from copy import copy
from hashlib import blake2b
from typing import Any, Final, NamedTuple

from fleetquill.bindery.annotations import appearance_of, is_shown, placed
from fleetquill.bindery.lettering import Lettering
from fleetquill.pdf.objects import Ref
from fleetquill.pdf.page_boxes import shown_matrix
from fleetquill.pdf.reading import PdfPage, PdfReader, Stream
from fleetquill.pdf.syntax import DAMAGE, Operator, Parser
from fleetquill.style.box_values import IDENTITY, Matrix, multiply

MOST_DEEP: Final = 20  # forms in forms
MOST_OPERATORS: Final = 5_000_000  # of one page, with its forms
PAINTED: Final = {"f": "fill", "F": "fill", "f*": "fill", "S": "stroke", "s": "stroke", "B": "fill", "B*": "fill",
                  "b": "fill", "b*": "fill"}  # fmt: skip
POINTS: Final = {"m": 2, "l": 2, "c": 6, "v": 4, "y": 4}
FILLS: Final = frozenset(("g", "rg", "k", "sc", "scn"))  # operators that set colours
STROKES: Final = frozenset(("G", "RG", "K", "SC", "SCN"))


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


class _State:
    """The graphics state, as far as marks hang on it (§8.4 and §9.3)."""

    __slots__ = ("face", "fill", "leading", "letter", "matrix", "rise", "size", "stretch", "stroke", "word")

    def __init__(self, matrix: Matrix) -> None:
        self.matrix = matrix
        self.face: Lettering | None = None
        self.size = 0.0
        self.letter = self.word = self.leading = self.rise = 0.0
        self.stretch = 1.0
        self.fill: tuple[Any, ...] = (0,)
        self.stroke: tuple[Any, ...] = (0,)


class PageInterpreter:
    """Goes through the operators of pages of one file. Fonts are read once."""

    def __init__(self, reader: PdfReader) -> None:
        self._reader = reader
        self._faces: dict[int, Lettering] = {}
        self._hashes: dict[int, str] = {}

    def marks(self, page: PdfPage) -> Marks:
        """What a page shows, in the order in which it is painted; as far as its content can be read."""
        reader = self._reader
        found = Marks([], [], [])
        matrix = shown_matrix(page, reader)
        resources = reader.dictionary(page.entries.get("Resources"))
        with suppress(*DAMAGE):
            _Run(self, reader, found, resources, matrix, 0).go(Parser(reader.page_content(page)).operators())
        for given in reader.array(page.entries.get("Annots")):
            annotation = reader.dictionary(given)
            form = appearance_of(annotation, reader) if is_shown(annotation, reader) else None
            with suppress(*DAMAGE):
                at = None if form is None else placed(annotation, reader.dictionary(form), reader)
                if at is not None:
                    _Run(self, reader, found, resources, multiply(matrix, at), 0).draw(form)
        return found

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
    """One content stream: that of a page, or of a form in it."""

    def __init__(
        self,
        interpreter: PageInterpreter,
        reader: PdfReader,
        found: Marks,
        resources: dict[str, Any],
        matrix: Matrix,
        deep: int,
    ) -> None:
        self._interpreter = interpreter
        self._reader = reader
        self._found = found
        self._resources = resources
        self._deep = deep
        self._state = _State(matrix)
        self._saved: list[_State] = []
        self._line = self._place = IDENTITY  # of text: where its line begins, and where it goes on
        self._path: list[tuple[float, float]] = []
        self._said: list[str | None] = []  # of the marked sequences that are open: their ActualText

    def go(self, operators: Iterator[Operator]) -> None:
        """Follows the operators; those that are damaged do nothing."""
        for count, (name, operands) in enumerate(operators):
            if count > MOST_OPERATORS:
                return
            verb = VERBS.get(name)
            with suppress(*DAMAGE):
                if verb is not None:
                    verb(self, *operands)
                elif name in PAINTED:
                    self._paint(PAINTED[name])
                elif name in POINTS:
                    self._path += zip(operands[: POINTS[name] : 2], operands[1 : POINTS[name] : 2], strict=True)
                elif name in FILLS:
                    self._state.fill = tuple(operands)
                elif name in STROKES:
                    self._state.stroke = tuple(operands)

    # ---- state ----

    def _save(self) -> None:
        self._saved.append(copy(self._state))

    def _restore(self) -> None:
        if self._saved:
            self._state = self._saved.pop()

    def _transform(self, *numbers: float) -> None:
        self._state.matrix = multiply(self._state.matrix, _matrix(numbers))

    # ---- paths ----

    def _rectangle(self, x: float, y: float, wide: float, high: float) -> None:
        self._path += [(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)]

    def _paint(self, kind: str) -> None:
        if self._path:
            color = self._state.fill if kind == "fill" else self._state.stroke
            self._found.shapes.append(Shape(kind, *_box(self._path, self._state.matrix), color))
        self._path = []

    def _end_path(self) -> None:
        self._path = []

    def _inline_picture(self, _: Any) -> None:
        self._found.pictures.append(Shown(*_box(UNIT, self._state.matrix), "inline"))

    # ---- text ----

    def _begin_text(self) -> None:
        self._line = self._place = IDENTITY

    def _font(self, name: Any, size: float) -> None:
        self._state.face = self._interpreter.face(self._resource("Font", name))
        self._state.size = float(size)

    def _next_line(self, x: float, y: float) -> None:
        self._line = self._place = multiply(self._line, (1.0, 0.0, 0.0, 1.0, x, y))

    def _next_line_leading(self, x: float, y: float) -> None:
        self._state.leading = -y
        self._next_line(x, y)

    def _line_below(self) -> None:
        self._next_line(0.0, -self._state.leading)

    def _text_matrix(self, *numbers: float) -> None:
        self._line = self._place = _matrix(numbers)

    def _show_below(self, shown: Any) -> None:
        self._line_below()
        self._show(shown)

    def _show_spaced(self, word: float, letter: float, shown: Any) -> None:
        self._state.word, self._state.letter = word, letter
        self._show_below(shown)

    def _set(self, name: str, value: float) -> None:
        setattr(self._state, name, value)

    # ---- marks ----

    def _begin_mark(self, *operands: Any) -> None:
        self._said.append(self._actual_text(operands))

    def _end_mark(self) -> None:
        if self._said:
            self._said.pop()

    def _resource(self, kind: str, name: Any) -> Any:
        return self._reader.dictionary(self._resources.get(kind)).get(str(name))

    def _actual_text(self, operands: Sequence[Any]) -> str | None:
        if len(operands) < 2:
            return None
        said = operands[1]
        if isinstance(said, str):
            said = self._reader.resolve(self._resource("Properties", said))
        if not isinstance(said, dict) or "ActualText" not in said:
            return None
        return self._reader.text(said["ActualText"])

    def _draw_named(self, name: Any) -> None:
        self.draw(self._resource("XObject", name))

    def draw(self, ref: Any) -> None:
        """A picture, or what a form has in it."""
        stream, matrix = self._reader.resolve(ref), self._state.matrix
        if not isinstance(stream, Stream):
            return
        if stream.entries.get("Subtype") == "Image":
            self._found.pictures.append(Shown(*_box(UNIT, matrix), self._interpreter.picture(ref, stream)))
        elif stream.entries.get("Subtype") == "Form" and self._deep < MOST_DEEP:
            own = stream.entries.get("Resources")
            inner = self._resources if own is None else self._reader.dictionary(own)
            given = self._reader.array(stream.entries.get("Matrix"))
            at = multiply(matrix, _matrix([self._reader.resolve(part) for part in given])) if given else matrix
            run = _Run(self._interpreter, self._reader, self._found, inner, at, self._deep + 1)
            run._said = [self._text("")] if any(said is not None for said in self._said) else []
            run.go(Parser(stream.content).operators())

    def _show(self, shown: Any) -> None:
        """Shows a string, or strings with moves between them (§9.4.4)."""
        state, face = self._state, self._state.face
        if face is None:
            return
        size, stretch = state.size, state.stretch
        for part in shown if isinstance(shown, list) else [shown]:
            if isinstance(part, (int, float)):
                move = -part / 1000 * size
                self._move(*((0.0, move) if face.vertical else (move * stretch, 0.0)))
                continue
            for text, width, is_space in face.letters(part) if isinstance(part, bytes) else ():
                spaced = state.letter + (state.word if is_space else 0.0)
                wide = width * face.scale * size * stretch
                self._add(self._text(text), 0.0 if face.vertical else wide)
                self._move(*((0.0, -size + spaced) if face.vertical else (wide + spaced * stretch, 0.0)))

    def _move(self, x: float, y: float) -> None:
        self._place = multiply(self._place, (1.0, 0.0, 0.0, 1.0, x, y))

    def _add(self, text: str, wide: float) -> None:
        state = self._state
        a, b, c, d, e, f = multiply(state.matrix, self._place)
        x, y = e + c * state.rise, f + d * state.rise
        self._found.glyphs.append(Glyph(text, x, y, x + a * wide, y + b * wide, state.size * math.hypot(c, d)))

    def _text(self, text: str) -> str:
        """What a glyph stands for; within a sequence that says its text, the first stands for all."""
        for at in range(len(self._said) - 1, -1, -1):
            said = self._said[at]
            if said is not None:
                self._said[at] = ""
                return said
        return text


def _setter(name: str, scale: float = 1.0) -> Callable[[_Run, float], None]:
    """What an operator does that sets one number of the text state."""
    return lambda run, value: run._set(name, value * scale)


VERBS: Final[dict[str, Callable[..., None]]] = {
    "q": _Run._save, "Q": _Run._restore, "cm": _Run._transform, "re": _Run._rectangle, "n": _Run._end_path,
    "BI": _Run._inline_picture, "Do": _Run._draw_named, "BT": _Run._begin_text, "Tf": _Run._font,
    "Td": _Run._next_line, "TD": _Run._next_line_leading, "Tm": _Run._text_matrix, "T*": _Run._line_below,
    "Tj": _Run._show, "TJ": _Run._show, "'": _Run._show_below, '"': _Run._show_spaced,
    "Tc": _setter("letter"), "Tw": _setter("word"), "Tz": _setter("stretch", 0.01), "TL": _setter("leading"),
    "Ts": _setter("rise"), "BDC": _Run._begin_mark, "BMC": _Run._begin_mark, "EMC": _Run._end_mark,
}  # fmt: skip
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
