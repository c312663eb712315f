"""Pages as SVG files, one for each."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape
from itertools import count
from typing import NamedTuple

from fleetquill.drawing.canvas import Canvas
from fleetquill.drawing.paged import Bookmark, PageSize
from fleetquill.output.how import How
from fleetquill.output.svg.canvas import Definitions, SvgCanvas
from fleetquill.output.svg.fonts import FontUses
from fleetquill.pdf.objects import number
from fleetquill.tree.metadata import Metadata
from fleetquill.units import POINTS_PER_PX


class _Leaf(NamedTuple):
    """A page: its size, and what is drawn on it and in its margins."""

    size: PageSize
    layers: list[SvgCanvas]


class SvgPages:
    """Takes pages one after another; their files are there in the end, once the margins are."""

    def __init__(self, how: How) -> None:
        self._how = how
        self._leaves: list[_Leaf] = []
        self._names = count(1)
        self._title = ""
        self.length = 0

    def canvas(self, width: float, height: float) -> SvgCanvas:
        fonts = FontUses(self._names) if self._how.letters == "text" else None
        return SvgCanvas((width, height), Definitions(self._names), fonts)

    def add_page(
        self, size: PageSize, canvas: Canvas, places: Sequence[tuple[str, float, float]], margins: bool
    ) -> None:
        assert isinstance(canvas, SvgCanvas)  # that `canvas` gave
        self._leaves.append(_Leaf(size, [canvas]))

    def add_margins(self, index: int, canvas: Canvas) -> None:
        assert isinstance(canvas, SvgCanvas)
        self._leaves[index].layers.append(canvas)

    def missing_destinations(self) -> list[tuple[str, int]]:
        """Pages that are files of their own lead nowhere within."""
        return []

    def finish(self, metadata: Metadata, bookmarks: Sequence[Bookmark]) -> None:
        self._title = metadata.title

    def files(self) -> list[bytes]:
        """The files, in the order of the pages."""
        return [_file(leaf, self._title) for leaf in self._leaves]


def _file(leaf: _Leaf, title: str) -> bytes:
    """One page, with what is painted beyond its edges where the medium has room for that."""
    size = leaf.size
    wide, high = size.width + 2 * size.around, size.height + 2 * size.around
    content = "\n".join(layer.content() for layer in leaf.layers)
    content = f'<g transform="translate({number(size.around)} {number(size.around)})">{content}</g>'
    if size.turn:
        across, down = {90: (high, 0.0), 180: (wide, high), 270: (0.0, wide)}[size.turn]
        content = f'<g transform="translate({number(across)} {number(down)}) rotate({size.turn})">{content}</g>'
        if size.turn != 180:
            wide, high = high, wide
    points = POINTS_PER_PX * size.scale
    named = f"<title>{escape(title, quote=False)}</title>" if title else ""
    fonts = "".join(layer.fonts.rules() for layer in leaf.layers if layer.fonts is not None)
    kept = "\n".join(part for layer in leaf.layers for part in layer.definitions.parts)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{number(wide * points)}pt" '
        f'height="{number(high * points)}pt" viewBox="0 0 {number(wide)} {number(high)}">'
        f"{named}{fonts}<defs>{kept}</defs>\n{content}\n</svg>\n"
    ).encode()
