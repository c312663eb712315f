"""What a document gives its charts: room, type, ink, and how numbers and times are written; and where things stand."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, NamedTuple

from fleetquill.graphics.charts.scales import Form
from fleetquill.graphics.charts.texts import wrapped
from fleetquill.graphics.charts.times import Write
from fleetquill.style.values import Rgba


class Look(NamedTuple):
    """The document's: px of width, height and text, the text's colour, the width of a text in px at a size."""

    width: float
    height: float
    size: float
    color: Rgba
    form: Form
    own_form: bool  # whether the document says how numbers are written
    write: Write
    measure: Callable[[str, float, bool], float]  # text, px, bold
    no_data: str = "No data"

    def wide(self, text: str) -> float:
        """The width of a label in px."""
        return self.measure(text, self.size, False)

    @property
    def ink(self) -> tuple[float, float, float]:
        return self.color[:3]

    @property
    def bold(self) -> float:
        """The size of titles."""
        return self.size * 1.15

    def title(self, text: str, room: float, most: int) -> list[str]:
        """A title in at most so many lines."""
        return wrapped(text, room, lambda part: self.measure(part, self.bold, True), most) if text else []

    def under(self, lines: list[str]) -> float:
        """How far below its top a title of those lines ends, with what parts it from the rest."""
        return len(lines) * self.bold * 1.25 + (self.size * 0.35 if lines else 0.0)

    @property
    def line(self) -> float:
        """The height of a line of labels."""
        return self.size * 1.22


class Rect(NamedTuple):
    """A part of the chart, px from its top-left corner."""

    x: float
    y: float
    width: float
    height: float

    @property
    def right(self) -> float:
        return self.x + self.width

    @property
    def bottom(self) -> float:
        return self.y + self.height


class Sheet:
    """The figure as a sheet to write on, in px from its top-left corner."""

    def __init__(self, figure: Any, look: Look) -> None:
        self.figure = figure
        self.look = look

    def axes(self, rect: Rect) -> Any:
        width, height = self.look.width, self.look.height
        return self.figure.add_axes(
            (rect.x / width, 1 - rect.bottom / height, rect.width / width, rect.height / height)
        )

    def place(self, x: float, y: float) -> tuple[float, float]:
        """A point in shares of the figure."""
        return x / self.look.width, 1 - y / self.look.height

    def text(self, x: float, y: float, text: str, size: float = 0.0, **more: Any) -> None:
        """A line of text with its baseline at y."""
        across, down = self.place(x, y)
        color = more.pop("color", self.look.ink)
        self.figure.text(
            across, down, literal(text), size=points(size or self.look.size), color=color, va="baseline", **more
        )

    def title(self, lines: list[str], x: float = 0.0, y: float = 0.0) -> None:
        """Lines of a title from a corner on."""
        bold = self.look.bold
        for number, line in enumerate(lines):
            self.text(x, y + bold * (0.95 + 1.25 * number), line, bold, weight="bold")

    def line(self, start: tuple[float, float], end: tuple[float, float], **more: Any) -> None:
        from matplotlib.lines import Line2D

        (x0, y0), (x1, y1) = self.place(*start), self.place(*end)
        self.figure.add_artist(Line2D([x0, x1], [y0, y1], transform=self.figure.transFigure, **more))

    def box(self, rect: Rect, **more: Any) -> None:
        from matplotlib.patches import Rectangle

        x, y = self.place(rect.x, rect.bottom)
        width, height = rect.width / self.look.width, rect.height / self.look.height
        self.figure.add_artist(Rectangle((x, y), width, height, transform=self.figure.transFigure, **more))


def literal(text: str) -> str:
    """A text in which a dollar sign begins no formula."""
    return text.replace("$", r"\$")


def points(px: float) -> float:
    return px * 0.75
