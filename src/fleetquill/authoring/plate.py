"""Plates: pages drawn by coordinates from the top-left corner, in any unit."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Any, Final

from lxml import etree

from fleetquill.authoring.inline import Style, attributes_of, css_of, fill
from fleetquill.authoring.pictures import code_attributes, picture_source, picture_style
from fleetquill.authoring.place import Place
from fleetquill.authoring.recording import Recorded, recorded
from fleetquill.errors import OptionError
from fleetquill.keywords import told_methods
from fleetquill.tree.head import page_rule
from fleetquill.tree.lengths import Length, css_length, page_px, points, px_of
from fleetquill.tree.texts import clean
from fleetquill.units import PX_PER_UNIT

Element = etree._Element
ANCHORS: Final = {"left": "0%", "center": "-50%", "right": "-100%"}
LEVELS: Final = {"top": "0%", "middle": "-50%", "bottom": "-100%", "baseline": "0%"}
GUIDE: Final = "#3b7dd8"


@recorded("text", "line", "rectangle", "circle", "polygon", "path", "picture", "code", "area")
@told_methods
class Plate(Recorded):
    """A page to draw on. `width` and `height` are points; lengths are text with a unit, or points."""

    def __init__(self, parts: Place, element: Element, width: float, height: float) -> None:
        self._parts = parts
        self._element = element
        self._px = (width, height)
        self.width = points(width)
        self.height = points(height)

    # ---- text ----

    def text(
        self,
        *content: Any,
        x: Length,
        y: Length,
        anchor: str = "left top",
        rotate: float = 0.0,
        width: Length = "",
        height: Length = "",
        shrink: bool = False,
        size: Length = "",
        font: str = "",
        color: str = "",
        align: str = "",
        style: Style = "",
        id: str = "",
        class_: str = "",
    ) -> None:
        """Text at a point. `anchor` says which of its points that is: left, center or right, and top,
        middle, baseline or bottom. `rotate` is degrees clockwise around it.

        With a width the text wraps; with `shrink` it is made smaller until it fits width and height.
        Text that does not fit its height otherwise is a remark.
        """
        across, down = _anchor(anchor)
        css = self._at(x, y)
        moves = [f"translate({ANCHORS[across]},{LEVELS[down]})"] if (across, down) != ("left", "top") else []
        if rotate:
            moves.insert(0, f"rotate({rotate:g}deg)")
        if moves:
            css += f"transform:{' '.join(moves)};transform-origin:0 0;"
        if down == "baseline":
            css += "-fq-anchor:baseline;"
        css += f"width:{css_length(width, 'width')};" if width != "" else "width:max-content;"
        if height != "":
            css += f"height:{css_length(height, 'height')};-fq-fit:{'shrink' if shrink else 'remark'};"
        elif shrink:
            if width == "":
                raise OptionError("Text shrinks into a width, or a width and a height.", remedy="Give width=.")
            css += "-fq-fit:shrink;white-space:nowrap;"
        css += f"font-size:{css_length(size, 'size')};" if size != "" else ""
        css += f"font-family:{font};" if font else ""
        css += f"color:{color};" if color else ""
        css += f"text-align:{align or across};"
        fill(etree.SubElement(self._element, "div", attributes_of(css + css_of(style), id, class_)), content)

    def _at(self, x: Length, y: Length) -> str:
        return f"position:absolute;left:{css_length(x, 'x')};top:{css_length(y, 'y')};"

    # ---- shapes ----

    def line(
        self,
        x1: Length,
        y1: Length,
        x2: Length,
        y2: Length,
        *,
        color: str = "black",
        line: Length = 0.5,
        dash: str = "",
    ) -> None:
        """A straight line; `line` is its width, `dash` lengths of dashes and gaps in points."""
        ends = {"x1": self._x(x1), "y1": self._y(y1), "x2": self._x(x2), "y2": self._y(y2)}
        self._shape("line", ends, "none", color, line, dash)

    def rectangle(
        self,
        x: Length,
        y: Length,
        width: Length,
        height: Length,
        *,
        radius: Length = 0,
        color: str = "none",
        stroke: str = "black",
        line: Length = 0.5,
        dash: str = "",
    ) -> None:
        """A rectangle, filled with `color` and drawn around in `stroke`."""
        box = {
            "x": self._x(x),
            "y": self._y(y),
            "width": self._x(width),
            "height": self._y(height),
            "rx": self._x(radius),
        }
        self._shape("rect", box, color, stroke, line, dash)

    def circle(
        self, x: Length, y: Length, radius: Length, *, color: str = "none", stroke: str = "black", line: Length = 0.5,
        dash: str = "",
    ) -> None:  # fmt: skip
        """A circle around a point."""
        self._shape("circle", {"cx": self._x(x), "cy": self._y(y), "r": self._x(radius)}, color, stroke, line, dash)

    def polygon(
        self,
        corners: Sequence[tuple[Length, Length]],
        *,
        color: str = "none",
        stroke: str = "black",
        line: Length = 0.5,
        dash: str = "",
    ) -> None:
        """A closed shape with straight sides."""
        if len(corners) < 3:
            raise OptionError("A polygon has at least three corners.")
        text = " ".join(f"{self._x(x)},{self._y(y)}" for x, y in corners)
        self._shape("polygon", {"points": text}, color, stroke, line, dash)

    def path(
        self,
        d: str,
        *,
        unit: str = "pt",
        color: str = "none",
        stroke: str = "black",
        line: Length = 0.5,
        dash: str = "",
    ) -> None:
        """Any outline: SVG path data whose numbers are in `unit`."""
        if unit not in PX_PER_UNIT:
            raise OptionError(f"{unit!r} is not a unit.", remedy=f"It may be {', '.join(PX_PER_UNIT)}.")
        scale = points(PX_PER_UNIT[unit])
        width = points(px_of(line, "line")) / scale
        attributes = {"d": d, "transform": f"scale({scale:g})"}
        self._shape("path", attributes, color, stroke, width, dash)

    def picture(
        self,
        source: Any,
        *,
        x: Length,
        y: Length,
        width: Length = "",
        height: Length = "",
        fit: str = "",
        rotate: float = 0.0,
        alt: str = "",
        style: Style = "",
    ) -> None:
        """A picture with its top-left corner at a point; see Manuscript.picture."""
        css = self._at(x, y) + picture_style(width, height, fit)
        if rotate:
            css += f"transform:rotate({rotate:g}deg);transform-origin:0 0;"
        attributes = {"src": picture_source(source), "alt": clean(alt), "style": css + css_of(style)}
        etree.SubElement(self._element, "img", attributes)

    def code(
        self,
        kind: str,
        text: str,
        *,
        x: Length,
        y: Length,
        width: Length = "",
        height: Length = "",
        correction: str = "M",
        style: Style = "",
    ) -> None:
        """A code with its top-left corner at a point; see Manuscript.code."""
        css = self._at(x, y) + css_of(style)
        etree.SubElement(self._element, "fq-code", code_attributes(kind, text, width, height, correction, css))

    @contextmanager
    def area(self, *, x: Length, y: Length, width: Length, height: Length = "", style: Style = "") -> Iterator[None]:
        """A rectangle for parts: what is added to the manuscript meanwhile stands in it.

        A remark says where it does not fit its height.
        """
        css = self._at(x, y) + f"width:{css_length(width, 'width')};"
        if height != "":
            css += f"height:{css_length(height, 'height')};-fq-fit:remark;"
        element = etree.SubElement(self._element, "div", {"style": css + css_of(style)})
        with self._parts._inside(element):
            yield

    def _x(self, value: Length) -> str:
        return f"{points(px_of(value, 'x', self._px[0])):g}"

    def _y(self, value: Length) -> str:
        return f"{points(px_of(value, 'y', self._px[1])):g}"

    def _shape(self, tag: str, attributes: Mapping[str, str], color: str, stroke: str, line: Length, dash: str) -> None:
        last = self._element[-1] if len(self._element) else None
        if last is None or last.tag != "svg":
            last = etree.SubElement(
                self._element,
                "svg",
                {
                    "viewbox": f"0 0 {self.width:g} {self.height:g}",
                    "aria-hidden": "true",  # lines and grounds
                    "style": "position:absolute;left:0;top:0;width:100%;height:100%;overflow:hidden",
                },
            )
        width = f"{points(px_of(line, 'line')):g}"
        paint = {"fill": color, "stroke": stroke, "stroke-width": width}
        if dash:
            paint["stroke-dasharray"] = dash
        etree.SubElement(last, tag, {**attributes, **paint})

    def guide(self, step: Length = "5mm") -> None:
        """A grid over the plate, with a stronger line every second step: to be left out of the finished page."""
        distance = points(px_of(step, "step"))
        if distance <= 0.5:
            raise OptionError(f"A grid needs more room between its lines than {step!r}.")
        for along, total in ((True, self.width), (False, self.height)):
            number = 1
            while number * distance < total:
                at = number * distance
                ends = (at, 0, at, self.height) if along else (0, at, self.width, at)
                self.line(*ends, color=GUIDE, line=0.25 if number % 2 else 0.5)
                number += 1


def _anchor(anchor: str) -> tuple[str, str]:
    across, down = "left", "top"
    for word in anchor.split():
        if word in ANCHORS:
            across = word
        elif word in LEVELS:
            down = word
        else:
            raise OptionError(
                f"{word!r} is no anchor of a text.",
                remedy="It may be left, center or right, and top, middle, baseline or bottom.",
            )
    return across, down


def page_plate(parts: Place, page: str, guides: bool, attributes: dict[str, str]) -> Iterator[Plate]:
    """See Parts.plate."""
    width, height = page_px(page)
    name = parts._page_name()
    parts._rule(page_rule(name, page, 0))
    css = f"page:{name};position:relative;width:{width:g}px;height:{height:g}px;overflow:hidden;break-inside:avoid;"
    attributes["style"] = css + attributes.get("style", "")
    attributes["class"] = f"fq-plate {attributes.get('class', '')}".strip()
    element = parts._add("section", attributes)
    plate = Plate(parts, element, width, height)
    with parts._inside(element):
        yield plate
    if guides:
        plate.guide()


def page_layer(parts: Place, above: bool, first_page_only: bool, page: str, guides: bool) -> Iterator[Plate]:
    """See Parts.layer."""
    width, height = page_px(page)
    where = "absolute" if first_page_only else "fixed"
    css = f"position:{where};-fq-reference:page;inset:0;"
    element = parts._add("div", {"class": "fq-plate", "style": css + f"z-index:{10 if above else -1}"})
    plate = Plate(parts, element, width, height)
    with parts._inside(element):
        yield plate
    if guides:
        plate.guide()
