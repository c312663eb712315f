"""What the files of single constructs need of the one who draws the SVG."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from fleetquill.drawing.canvas import Drawing
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.svg.reading import Element
from fleetquill.graphics.svg.styles import DrawingStyles
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.shaping import FontSetting

Draw = Callable[[], None]


class SvgPainter(Protocol):
    """Draws the elements of an SVG into a drawing."""

    out: Drawing
    size: tuple[float, float]  # of the viewport, which percentages refer to
    context: dict[str, object]  # the inks of the shape that a marker stands on, by 'fill' and 'stroke'
    busy: list[Element]  # what is being drawn because something refers to it

    @property
    def styles(self) -> DrawingStyles:
        """The styles of all elements."""

    def font_of(self, style: ComputedStyle) -> FontSetting:
        """The font that a style asks for."""

    def picture(self, url: str) -> Picture | Drawing | str:
        """The picture at an address; what is wrong with it as a text."""

    def element(self, element: Element, parent: ComputedStyle, depth: int) -> None:
        """Draws an element in what has the style `parent`."""

    def children(self, element: Element, style: ComputedStyle, depth: int) -> None:
        """Draws what stands in an element."""

    def viewport(self, element: Element, style: ComputedStyle, depth: int, size: tuple[float, float] | None) -> None:
        """Draws what stands in a nested svg or a symbol; of a size, where a use gives it one."""

    def recorded(self, draw: Draw) -> Drawing:
        """What is drawn, by itself."""

    def grouped(self, element: Element, style: ComputedStyle, draw: Draw) -> None:
        """Draws with an element's transform, clip, mask and opacity around it."""
