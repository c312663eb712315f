"""What can be drawn: the verbs that paint speaks and that a page format understands.

Coordinates are px from the page's top-left corner, y down.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Protocol

from fleetquill.style.values import Rgba

if TYPE_CHECKING:
    from fleetquill.drawing.drawing import Drawing, Stroke
    from fleetquill.drawing.gradients import Shade
    from fleetquill.graphics.pictures import Picture
    from fleetquill.layout.contract.fragments import Fragment
    from fleetquill.layout.table.ledger_rows import LedgerRows
    from fleetquill.text.face import Face
    from fleetquill.text.shaping import Synthesis, Word

# A path: ('m', x, y), ('l', x, y), ('c', x1, y1, x2, y2, x, y), ('h',)
Path = Sequence[tuple[str, *tuple[float, ...]]]


class Canvas(Protocol):
    """One page to draw on."""

    def fill_rect(self, x: float, y: float, width: float, height: float, color: Rgba) -> None: ...

    def fill_path(self, path: Path, color: Rgba, *, even_odd: bool = False) -> None: ...

    def stroke_path(
        self, path: Path, width: float, color: Rgba, dash: Sequence[float] = (), round_caps: bool = False
    ) -> None: ...

    def text(
        self,
        x: float,
        baseline: float,
        face: Face,
        size: float,
        color: Rgba,
        strings: str,
        letter_spacing: float,
        synthesis: Synthesis | None = None,
    ) -> None:
        """Sets glyphs: `strings` is the content of a TJ array (ISO 32000-2 §9.4.3)."""

    def use_words(self, words: Sequence[Word]) -> bool:
        """Says that these words are set on the page, so that their glyphs and meanings are kept.

        True where a glyph of theirs means another text elsewhere in the document.
        """

    def replaced_text(self, text: str) -> None:
        """Begins glyphs that stand for `text`, whatever the glyphs themselves mean."""

    def end_replaced_text(self) -> None: ...

    def stamp_rows(self, x: float, y: float, rows: LedgerRows, draw: Callable[[Canvas, Fragment], None]) -> None:
        """Draws plain rows one below the other from a top-left corner on.

        Each stands on one of the empty rows, which `draw` draws on a canvas of its own, once.
        """

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None: ...

    def tiles(
        self, picture: Picture, columns: Sequence[float], rows: Sequence[float], width: float, height: float
    ) -> None:
        """The same picture in rows and columns, each of that size."""

    def shade(self, gradient: Shade, x: float, y: float, width: float, height: float) -> None:
        """Fills a rectangle with a gradient whose measures are from the rectangle's corner."""

    def shade_all(self, gradient: Shade) -> None:
        """Fills all that is not clipped with a gradient."""

    def draw_path(self, path: Path, color: Rgba, stroke: Stroke) -> None:
        """Draws an outline with all that an outline can have."""

    def drawing(self, drawing: Drawing, x: float, y: float, width: float, height: float) -> None:
        """A vector picture, stretched to a rectangle."""

    def end_mask(self) -> None:
        """What was drawn since `begin_group` lets through by its lightness what follows, until `restore`."""

    def transform(self, matrix: tuple[float, float, float, float, float, float]) -> None:
        """What follows, until the state is restored, is drawn through a matrix (a b c d e f)."""

    def begin_group(self) -> None:
        """What follows until `end_group` is drawn as one picture."""

    def end_group(self, alpha: float) -> None: ...

    def save(self) -> None: ...

    def restore(self) -> None: ...

    def clip(self, path: Path, *, even_odd: bool = False) -> None: ...

    def link(self, x: float, y: float, width: float, height: float, target: str) -> None: ...
