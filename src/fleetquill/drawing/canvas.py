"""What can be drawn: the verbs that paint speaks and that a page format understands, and drawings made of them.

Coordinates are px from the page's top-left corner, y down.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any, Final, NamedTuple, Protocol

from fleetquill.drawing.fields import Field
from fleetquill.drawing.gradients import Shade
from fleetquill.drawing.pictures import Picture
from fleetquill.drawing.places import Artifact, Place
from fleetquill.pdf.finished import FinishedPage
from fleetquill.style.values import Rgba
from fleetquill.text.shaping import FontSetting, Word

Segment = tuple[str, *tuple[float, ...]]
Path = Sequence[Segment]  # ('m', x, y), ('l', x, y), ('c', x1, y1, x2, y2, x, y), ('h',)
Matrix = tuple[float, float, float, float, float, float]  # a b c d e f
Point = tuple[float, float]
Area = tuple[float, float, float, float]  # x, y, width, height


class Stroke(NamedTuple):
    """How an outline is drawn: px; `cap` butt, round, square and `join` miter, round, bevel as 0, 1, 2."""

    width: float
    dash: tuple[float, ...] = ()
    offset: float = 0.0
    cap: int = 0
    join: int = 0
    miter: float = 10.0


class Outline(NamedTuple):
    """A line around letters; `below` tells whether it lies below what fills them."""

    stroke: Stroke
    color: Rgba
    below: bool


class Look(NamedTuple):
    """What words are set in."""

    setting: FontSetting
    size: float  # px
    color: Rgba
    letter_spacing: float  # px
    outline: Outline | None = None


class Stamp(NamedTuple):
    """One place of a shape that stands in many: where its origin goes, how large it is there, and its inks."""

    x: float
    y: float
    scale: float
    fill: Rgba | None
    line: Rgba | None


class Canvas(Protocol):
    """One page to draw on; `extent` is how wide and high it is in px."""

    extent: tuple[float, float]

    # ---- shapes ----

    def fill_rect(self, x: float, y: float, width: float, height: float, color: Rgba) -> None: ...

    def fill_path(self, path: Path, color: Rgba, even_odd: bool = False) -> None: ...

    def stroke_path(self, path: Path, color: Rgba, stroke: Stroke) -> None: ...

    def stamps(self, path: Path, places: Sequence[Stamp], stroke: Stroke) -> None:
        """The same shape in many places; its outline is as wide in all of them."""

    def shade(self, gradient: Shade, x: float, y: float, width: float, height: float) -> None:
        """Fills a rectangle with a gradient whose measures are from the rectangle's corner."""

    def shade_all(self, gradient: Shade) -> None:
        """Fills all that is not clipped with a gradient."""

    # ---- text ----

    def text(
        self,
        x: float,
        baseline: float,
        look: Look,
        words: Sequence[Word],
        space: float = 0.0,
        spaced: Sequence[bool] | None = None,
    ) -> None:
        """Sets words from left to right. `spaced` tells for each whether a space of `space` px follows it; None
        where one follows each word but the last."""

    # ---- pictures ----

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None: ...

    def tiles(
        self, picture: Picture, columns: Sequence[float], rows: Sequence[float], width: float, height: float
    ) -> None:
        """The same picture in rows and columns, each of that size."""

    def drawing(self, drawing: Drawing, x: float, y: float, width: float, height: float) -> None:
        """A vector picture, stretched to a rectangle."""

    def finished_page(self, page: FinishedPage, x: float, y: float, width: float, height: float) -> None:
        """A page of a finished file, stretched to a rectangle."""

    # ---- state ----

    def save(self) -> None: ...

    def restore(self) -> None: ...

    def clip(self, path: Path, even_odd: bool = False) -> None: ...

    def transform(self, matrix: Matrix) -> None:
        """What follows, until the state is restored, is drawn through a matrix."""

    def begin_group(self) -> None:
        """What follows until `end_group` is drawn as one picture."""

    def end_group(self, alpha: float, blend: str = "normal") -> None:
        """Sets the group; `blend` is how its colours meet those below (a value of mix-blend-mode)."""

    def end_mask(self) -> None:
        """What was drawn since `begin_group` lets through by its lightness what follows, until `restore`."""

    # ---- meaning ----

    def mark(self, place: Place | None) -> None:
        """What follows belongs to that part of the document; to none where it is None."""

    def set_aside(self, artifact: Artifact | None) -> None:
        """What follows belongs to no part of the document, whatever is marked, until None is given."""

    def link(self, x: float, y: float, width: float, height: float, target: str, said: str) -> None:
        """A place that leads somewhere; `said` is what stands there, or what it is called."""

    def field(
        self, field: Field, x: float, y: float, width: float, height: float, states: Mapping[str, Drawing]
    ) -> None:
        """A place that is filled in, with what shows it in each of its states: the first is the one that it is in."""


class Step(NamedTuple):
    """One call on a canvas."""

    verb: str
    arguments: tuple[Any, ...]


NEAR_RATIO: Final = 0.005  # a drawing whose ratio differs by no more is scaled as it is


class Drawing:
    """A vector picture of `width` × `height` px: calls on a canvas kept as data, to be set anywhere at any size.

    It is a canvas itself, which only remembers.
    """

    __slots__ = (
        *("_marked", "extent", "faults", "fills", "height", "inline", "plain", "redraw", "scales", "steps"),
        *("stretches", "width"),
    )

    def __init__(self, width: float, height: float, *, inline: bool = False) -> None:
        self.width = width
        self.height = height
        self.extent = (width, height)
        self.steps: list[Step] = []
        self.faults: list[str] = []  # what could not be drawn, for remarks
        self.inline = inline  # small and seldom twice the same: set where it stands
        self.fills = False  # has a ratio but no size of its own: as wide as what it stands in
        self.stretches = False  # has no ratio that is to be kept
        self._marked: Place | None = None
        self.plain = True  # nothing but opaque shapes: the same in every file
        self.redraw: Callable[[float, float], Drawing] | None = None  # where its content hangs on its size
        self.scales = False  # whether that is so only where its ratio changes

    def __getstate__(self) -> dict[str, Any]:
        """What another process can be sent: the drawing as it is, at its size."""
        names = (name for kind in type(self).__mro__ for name in getattr(kind, "__slots__", ()))
        return {name: getattr(self, name) for name in names} | {"redraw": None, "_marked": None}

    def __setstate__(self, state: dict[str, Any]) -> None:
        for name, value in state.items():
            setattr(self, name, value)

    @property
    def weight(self) -> int:
        """Bytes that it takes up, about: a path has some for each of its segments."""
        pieces = (len(part) for step in self.steps for part in step.arguments if isinstance(part, (list, tuple)))
        return 1_000 + 200 * len(self.steps) + 180 * sum(pieces)

    def at_size(self, width: float, height: float) -> Drawing:
        """The drawing for a place of that size."""
        if self.redraw is None or (abs(width - self.width) < 0.5 and abs(height - self.height) < 0.5):
            return self
        if self.scales and abs(width * self.height - height * self.width) < NEAR_RATIO * width * self.height:
            return self
        return self.redraw(width, height) if width > 0 and height > 0 else self

    def paint(self, canvas: Canvas) -> None:
        """Draws from the canvas's origin on, at the drawing's own size."""
        for verb, arguments in self.steps:
            getattr(canvas, verb)(*arguments)

    def add(self, other: Drawing) -> None:
        """Draws what another drawing has, at its own size."""
        self.steps += other.steps
        self.plain = self.plain and other.plain

    def note(self, fault: str) -> None:
        if fault not in self.faults:
            self.faults.append(fault)

    def _keep(self, verb: str, *arguments: Any, plain: bool = False) -> None:
        self.plain = self.plain and plain
        self.steps.append(Step(verb, arguments))

    # ---- the verbs of a canvas ----

    def fill_rect(self, x: float, y: float, width: float, height: float, color: Rgba) -> None:
        self._keep("fill_rect", x, y, width, height, color, plain=color.alpha == 1.0)

    def fill_path(self, path: Path, color: Rgba, even_odd: bool = False) -> None:
        self._keep("fill_path", path, color, even_odd, plain=color.alpha == 1.0)

    def stroke_path(self, path: Path, color: Rgba, stroke: Stroke) -> None:
        self._keep("stroke_path", path, color, stroke, plain=color.alpha == 1.0)

    def stamps(self, path: Path, places: Sequence[Stamp], stroke: Stroke) -> None:
        self._keep("stamps", path, places, stroke)

    def shade(self, gradient: Shade, x: float, y: float, width: float, height: float) -> None:
        self._keep("shade", gradient, x, y, width, height)

    def shade_all(self, gradient: Shade) -> None:
        self._keep("shade_all", gradient)

    def text(
        self,
        x: float,
        baseline: float,
        look: Look,
        words: Sequence[Word],
        space: float = 0.0,
        spaced: Sequence[bool] | None = None,
    ) -> None:
        self._keep("text", x, baseline, look, words, space, spaced)

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None:
        self._keep("picture", picture, x, y, width, height)

    def tiles(
        self, picture: Picture, columns: Sequence[float], rows: Sequence[float], width: float, height: float
    ) -> None:
        self._keep("tiles", picture, columns, rows, width, height)

    def drawing(self, drawing: Drawing, x: float, y: float, width: float, height: float) -> None:
        self._keep("drawing", drawing, x, y, width, height)

    def finished_page(self, page: FinishedPage, x: float, y: float, width: float, height: float) -> None:
        self._keep("finished_page", page, x, y, width, height)

    def save(self) -> None:
        self._keep("save", plain=True)

    def restore(self) -> None:
        self._keep("restore", plain=True)

    def clip(self, path: Path, even_odd: bool = False) -> None:
        self._keep("clip", path, even_odd, plain=True)

    def transform(self, matrix: Matrix) -> None:
        self._keep("transform", matrix, plain=True)

    def begin_group(self) -> None:
        self._keep("begin_group")

    def end_group(self, alpha: float, blend: str = "normal") -> None:
        self._keep("end_group", alpha, blend)

    def end_mask(self) -> None:
        self._keep("end_mask")

    def mark(self, place: Place | None) -> None:
        if place is not self._marked:
            self._marked = place
            self._keep("mark", place, plain=True)

    def set_aside(self, artifact: Artifact | None) -> None:
        self._keep("set_aside", artifact, plain=True)

    def link(self, x: float, y: float, width: float, height: float, target: str, said: str) -> None:
        self._keep("link", x, y, width, height, target, said)

    def field(
        self, field: Field, x: float, y: float, width: float, height: float, states: Mapping[str, Drawing]
    ) -> None:
        self._keep("field", field, x, y, width, height, states)


def show_state(canvas: Canvas, x: float, y: float, width: float, height: float, states: Mapping[str, Drawing]) -> None:
    """Draws a field as it is, where nobody fills it in."""
    for drawing in states.values():
        canvas.drawing(drawing, x, y, width, height)
        return


def without_marks(drawing: Drawing) -> Drawing:
    """The drawing with nothing said of the parts that it shows."""
    made = Drawing(drawing.width, drawing.height)
    made.steps = [step for step in drawing.steps if step.verb not in ("mark", "set_aside", "link")]
    made.plain = drawing.plain
    return made
