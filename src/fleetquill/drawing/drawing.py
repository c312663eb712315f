"""Drawings: vectors recorded once, in px of their own, to be set anywhere at any size."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from fleetquill.named import NamedTuple
from fleetquill.style.values import Rgba

if TYPE_CHECKING:
    from fleetquill.drawing.canvas import Canvas, Path
    from fleetquill.drawing.gradients import Shade
    from fleetquill.graphics.pictures import Picture
    from fleetquill.text.shaping import FontSetting

Matrix = tuple[float, float, float, float, float, float]


class Stroke(NamedTuple):
    """How an outline is drawn: px; `cap` butt, round, square and `join` miter, round, bevel as 0, 1, 2."""

    width: float
    dash: tuple[float, ...] = ()
    offset: float = 0.0
    cap: int = 0
    join: int = 0
    miter: float = 4.0


class Drawing:
    """A vector picture of `width` × `height` px."""

    __slots__ = ("deflated", "faults", "height", "inline", "plain", "steps", "width")

    def __init__(self, width: float, height: float, *, inline: bool = False) -> None:
        self.width = width
        self.height = height
        self.steps: list[Callable[[Canvas], None]] = []
        self.faults: list[str] = []  # what could not be drawn, for remarks
        self.inline = inline  # small and seldom twice the same: set where it stands
        self.plain = True  # nothing but opaque shapes: its operators are the same in every file
        self.deflated = b""  # those operators, kept by the first file that they went into

    def paint(self, canvas: Canvas) -> None:
        """Draws from the canvas's origin on, at the drawing's own size."""
        for step in self.steps:
            step(canvas)

    # ---- recording ----

    def fill(self, path: Path, color: Rgba, *, even_odd: bool = False) -> None:
        self.plain = self.plain and color.alpha == 1.0
        self.steps.append(lambda canvas: canvas.fill_path(path, color, even_odd=even_odd))

    def stroke(self, path: Path, color: Rgba, stroke: Stroke) -> None:
        self.plain = self.plain and color.alpha == 1.0
        self.steps.append(lambda canvas: canvas.draw_path(path, color, stroke))

    def shade(self, path: Path, gradient: Shade, matrix: Matrix, *, even_odd: bool = False) -> None:
        """Fills a path with a gradient whose measures go through a matrix."""
        self.plain = False

        def step(canvas: Canvas) -> None:
            canvas.save()
            canvas.clip(path, even_odd=even_odd)
            canvas.transform(matrix)
            canvas.shade_all(gradient)
            canvas.restore()

        self.steps.append(step)

    def text(
        self,
        x: float,
        baseline: float,
        setting: FontSetting,
        size: float,
        color: Rgba,
        text: str,
        letter_spacing: float = 0.0,
    ) -> float:
        """Sets text from a point on; gives its width in px."""
        self.plain = False
        words = [setting.exact(text)] if text else []

        def step(canvas: Canvas) -> None:
            at = x
            for word in words:
                contested = canvas.use_words((word,))
                for run in word.runs:
                    said = contested or not run.exact
                    if said:
                        canvas.replaced_text(run.text)
                    rises: Any = run.rises or ((run.strings, 0.0, 0.0),)
                    for strings, rise, offset in rises:
                        synthesis = setting.synthesis.get(run.face)
                        place = (at + offset * size, baseline - rise * size)
                        canvas.text(*place, run.face, size, color, strings, letter_spacing, synthesis)
                    if said:
                        canvas.end_replaced_text()
                    at += run.advance * size + len(run.text) * letter_spacing

        self.steps.append(step)
        return sum(word.advance for word in words) * size + len(text) * letter_spacing

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None:
        self.plain = False
        self.steps.append(lambda canvas: canvas.picture(picture, x, y, width, height))

    def save(self) -> None:
        self.steps.append(lambda canvas: canvas.save())

    def restore(self) -> None:
        self.steps.append(lambda canvas: canvas.restore())

    def clip(self, path: Path, *, even_odd: bool = False) -> None:
        self.steps.append(lambda canvas: canvas.clip(path, even_odd=even_odd))

    def transform(self, matrix: Matrix) -> None:
        self.steps.append(lambda canvas: canvas.transform(matrix))

    def begin_group(self) -> None:
        self.plain = False
        self.steps.append(lambda canvas: canvas.begin_group())

    def end_group(self, alpha: float) -> None:
        self.steps.append(lambda canvas: canvas.end_group(alpha))

    def end_mask(self) -> None:
        """What was drawn since `begin_group` lets through by its lightness what follows, until `restore`."""
        self.steps.append(lambda canvas: canvas.end_mask())

    def note(self, fault: str) -> None:
        if fault not in self.faults:
            self.faults.append(fault)


def measured(setting: FontSetting, size: float, text: str) -> float:
    """The width of text in px."""
    return setting.exact(text).advance * size if text else 0.0
