"""SVG as vectors (SVG 2): shapes, text, gradients, patterns, clips, masks, markers, use and symbols."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any, Final, NamedTuple

import tinycss2
from lxml import etree

from fleetquill.drawing.canvas import Drawing, Matrix, Segment, Stroke
from fleetquill.drawing.gradients import Axial, ColorStop, Round
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.graphics.svg.paths import bounds, first_number, length_of, numbers_of, shape_path, vertices
from fleetquill.graphics.svg.text import draw_text
from fleetquill.style.box_values import IDENTITY, multiply
from fleetquill.style.selectors import Selector, SelectorError, Siblings, parse_selectors
from fleetquill.style.tokens import without_space
from fleetquill.style.values import BLACK, Rgba, color_value
from fleetquill.text.shaping import FindFont, FontSetting

Element = etree._Element
FindPicture = Callable[[str], Any]  # a Picture, a Drawing, or what is wrong

INHERITED: Final[dict[str, str]] = {
    "fill": "black", "fill-opacity": "1", "fill-rule": "nonzero", "stroke": "none", "stroke-opacity": "1",
    "stroke-width": "1", "stroke-linecap": "butt", "stroke-linejoin": "miter", "stroke-miterlimit": "4",
    "stroke-dasharray": "none", "stroke-dashoffset": "0", "color": "black", "font-family": "sans-serif",
    "font-size": "16px", "font-weight": "400", "font-style": "normal", "text-anchor": "start",
    "visibility": "visible", "clip-rule": "nonzero", "marker-start": "none", "marker-mid": "none",
    "marker-end": "none", "letter-spacing": "normal", "paint-order": "normal", "text-decoration": "none",
    "dominant-baseline": "auto", "writing-mode": "horizontal-tb",
}  # fmt: skip
OWN: Final = {
    "opacity": "1", "display": "inline", "clip-path": "none", "mask": "none", "stop-color": "black",
    "stop-opacity": "1", "filter": "none", "overflow": "", "transform": "", "alignment-baseline": "auto",
    "baseline-shift": "baseline",
}  # fmt: skip
SILENT: Final = frozenset(
    "defs title desc metadata style symbol lineargradient radialgradient pattern clippath mask marker script "
    "animate animatetransform animatemotion set namedview page".split()
)
MOST_DEPTH: Final = 60  # of groups and uses
MOST_ELEMENTS: Final = 200_000  # that are drawn, uses counted each time
MOST_TILES: Final = 2_000
CAPS: Final = {"butt": 0, "round": 1, "square": 2}
JOINS: Final = {"miter": 0, "miter-clip": 0, "arcs": 0, "round": 1, "bevel": 2}
REFERENCE: Final = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)\s*(.*)")
TRANSFORM: Final = re.compile(r"(\w+)\s*\(([^)]*)\)")

Style = dict[str, str]


class Rule(NamedTuple):
    selector: Selector
    declarations: dict[str, str]
    order: tuple[Any, ...]


def parse_svg(content: bytes) -> Element | str:
    """The root of an SVG file with plain lower-case names; a message where it is none.

    Entities are not expanded and nothing is loaded from elsewhere.
    """
    parser = etree.XMLParser(resolve_entities=False, no_network=True, load_dtd=False, huge_tree=True, recover=True)
    try:
        root = etree.fromstring(content, parser)
    except (etree.XMLSyntaxError, ValueError) as error:
        return f"The SVG does not parse ({error})."
    if root is None:
        return "The SVG does not parse."
    plain(root)
    return root if root.tag == "svg" else "The file is not an SVG picture."


def plain(root: Element) -> None:
    """Takes the namespaces off and writes all names small, as an HTML parser does."""
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        element.tag = element.tag.rpartition("}")[2].lower()
        for name in list(element.attrib):
            short = str(name).rpartition("}")[2].lower()
            if short != name:
                value = element.attrib.pop(name)
                element.set(short, element.get(short, value))


def draw_svg(root: Element, font: FindFont, picture: FindPicture, color: Rgba = BLACK) -> Drawing:
    """The drawing of an svg element; `color` is what currentcolor means in it."""
    return _Painter(root, font, picture, color).drawing()


def natural_size(root: Element) -> tuple[float, float]:
    """Width and height of an svg element in px; those of its view box where none are given."""
    width = length_of(root.get("width", ""), None)
    height = length_of(root.get("height", ""), None)
    view = _view_box(root)
    wide, high = view[2:] if view else (300.0, 150.0)
    if width is None:
        width = wide if height is None else height * wide / high
    if height is None:
        height = width * high / wide
    return max(width, 0.01), max(height, 0.01)


def _view_box(element: Element) -> tuple[float, float, float, float] | None:
    box = numbers_of(element.get("viewbox", ""))
    return (box[0], box[1], box[2], box[3]) if len(box) == 4 and box[2] > 0 and box[3] > 0 else None


class _Painter:
    def __init__(self, root: Element, font: FindFont, picture: FindPicture, color: Rgba) -> None:
        self.root = root
        self.font = font
        self.picture = picture
        self.siblings = Siblings()
        self.alive = list(root.iter())
        self.ids = {e.get("id"): e for e in self.alive if isinstance(e.tag, str) and e.get("id")}
        self.rules = self._rules()
        self.start = dict(INHERITED) | {"color": _css_color(color)}
        self.uses: list[Element] = []
        self.count = 0
        self.view = _view_box(root)
        self.size = self.view[2:] if self.view else (300.0, 150.0)
        self.out = Drawing(*natural_size(root))

    def drawing(self) -> Drawing:
        out = self.out
        if self.view:
            out.transform(
                fit_view(self.view, (0.0, 0.0, out.width, out.height), self.root.get("preserveaspectratio", ""))
            )
        else:
            self.size = (out.width, out.height)
        style = self.style_of(self.root, self.start)
        self._group(self.root, style, lambda: self._children(self.root, style, 0), bare=True)
        return out

    # ---- styles ----

    def _rules(self) -> list[Rule]:
        rules: list[Rule] = []
        for element in self.alive:
            if element.tag != "style" or not element.text:
                continue
            for node in tinycss2.parse_stylesheet(element.text, skip_comments=True, skip_whitespace=True):
                if node.type != "qualified-rule":
                    continue
                try:
                    selectors = parse_selectors(node.prelude)
                except SelectorError:
                    continue
                declarations = _declarations(tinycss2.parse_blocks_contents(node.content))
                rules += [Rule(s, declarations, (s.specificity, len(rules) + i)) for i, s in enumerate(selectors)]
        return sorted(rules, key=lambda rule: rule.order)

    def style_of(self, element: Element, parent: Style) -> Style:
        """The values of an element: attributes, then rules, then its own style."""
        given: dict[str, str] = {}
        for name, value in element.attrib.items():
            if name in INHERITED or name in OWN:
                given[str(name)] = str(value).strip()
        for rule in self.rules:
            if rule.selector.matches(element, self.siblings):
                given |= rule.declarations
        if "style" in element.attrib:
            given |= _declarations(tinycss2.parse_blocks_contents(str(element.get("style"))))
        style = dict(OWN) | {name: parent[name] for name in INHERITED}
        for name, value in given.items():
            if value == "inherit":
                value = parent.get(name, "")
            if name in style and value:
                style[name] = value
        style["font-size"] = f"{_font_size(style['font-size'], first_number(parent['font-size'], 16.0)):g}px"
        if style["color"] == "currentcolor":
            style["color"] = parent["color"]
        return style

    def _paint(self, value: str, opacity: str, style: Style) -> tuple[Rgba | None, str]:
        """A colour (None for none) and the id of a gradient or pattern ('' for none)."""
        name = ""
        match = REFERENCE.match(value)
        if match:
            name, value = match[1], match[2] or "none"
        lowered = value.lower()
        if lowered in ("none", "transparent", ""):
            return None, name
        if lowered in ("currentcolor", "context-fill", "context-stroke"):
            value = style["color"]
        color = _color(value)
        if color is None:
            return BLACK, name
        return color._replace(alpha=color.alpha * _share(opacity)), name

    # ---- elements ----

    def _children(self, element: Element, style: Style, depth: int) -> None:
        for child in element:
            if isinstance(child.tag, str):
                self._element(child, style, depth + 1)

    def _element(self, element: Element, parent: Style, depth: int) -> None:
        tag = element.tag
        if tag in SILENT:
            return
        self.count += 1
        if depth > MOST_DEPTH or self.count > MOST_ELEMENTS:
            self.out.note("The SVG is nested too deep or has too many parts; some of it is not drawn.")
            return
        style = self.style_of(element, parent)
        if style["display"] == "none":
            return
        draw = {
            "g": lambda: self._children(element, style, depth),
            "a": lambda: self._children(element, style, depth),
            "switch": lambda: self._switch(element, style, depth),
            "svg": lambda: self._inner_svg(element, style, depth, None),
            "use": lambda: self._use(element, style, depth),
            "text": lambda: draw_text(self, element, style),
            "image": lambda: self._image(element),
        }.get(tag)
        if draw is None:
            path = shape_path(tag, lambda name, axis: self._attribute(element, name, axis), element.attrib)  # type: ignore[arg-type]
            if path is None:
                self.out.note(f"The SVG element '{tag}' is not drawn.")
                return
            draw = lambda: self._shape(element, path, style, depth)  # noqa: E731
        self._group(element, style, draw)

    def _attribute(self, element: Element, name: str, axis: int) -> float:
        basis = self.size[axis] if axis < 2 else math.hypot(*self.size) / math.sqrt(2)
        return length_of(element.get(name, "0"), basis) or 0.0

    def _group(self, element: Element, style: Style, draw: Callable[[], None], *, bare: bool = False) -> None:
        """What all elements have: transform, clip, mask and opacity around what they draw."""
        out = self.out
        matrix = IDENTITY if bare else transform_of(element.get("transform", "") or style["transform"])
        clip, mask = _reference(style["clip-path"]), _reference(style["mask"])
        opacity = _share(style["opacity"])
        if style["filter"] != "none":
            out.note("SVG filters are not drawn.")
        saved = matrix != IDENTITY or clip or mask
        if saved:
            out.save()
        if matrix != IDENTITY:
            out.transform(matrix)
        if clip:
            self._clip(clip, element)
        if mask:
            self._mask(mask, element)
        if opacity < 1:
            out.begin_group()
        draw()
        if opacity < 1:
            out.end_group(opacity)
        if saved:
            out.restore()

    def _switch(self, element: Element, style: Style, depth: int) -> None:
        first = next((child for child in element if isinstance(child.tag, str) and child.tag != "foreignobject"), None)
        if first is not None:
            self._element(first, style, depth + 1)

    def _inner_svg(self, element: Element, style: Style, depth: int, size: tuple[float, float] | None) -> None:
        """A nested svg or a symbol: a viewport of its own (SVG 2 §8.2)."""
        width = size[0] if size else length_of(element.get("width", "100%"), self.size[0]) or 0.0
        height = size[1] if size else length_of(element.get("height", "100%"), self.size[1]) or 0.0
        x, y = (0.0, 0.0) if size else (self._attribute(element, "x", 0), self._attribute(element, "y", 1))
        if width <= 0 or height <= 0:
            return
        outer = self.size
        self.out.save()
        if style["overflow"] not in ("visible", "auto"):
            self.out.clip(rectangle(x, y, width, height))
        box = numbers_of(element.get("viewbox", ""))
        if len(box) == 4 and box[2] > 0 and box[3] > 0:
            view = (box[0], box[1], box[2], box[3])
            self.out.transform(fit_view(view, (x, y, width, height), element.get("preserveaspectratio", "")))
            self.size = view[2:]
        else:
            self.out.transform((1.0, 0.0, 0.0, 1.0, x, y))
            self.size = (width, height)
        self._children(element, style, depth)
        self.out.restore()
        self.size = outer

    def _use(self, element: Element, style: Style, depth: int) -> None:
        address = element.get("href", "")
        target = self.ids.get(address.removeprefix("#")) if address.startswith("#") else None
        if target is None:
            self.out.note(f"The SVG uses '{address}', which it does not have.")
            return
        if target in self.uses or any(target is ancestor for ancestor in element.iterancestors()):
            self.out.note(f"The SVG uses '{address}' in itself.")
            return
        self.uses.append(target)
        x, y = self._attribute(element, "x", 0), self._attribute(element, "y", 1)
        self.out.save()
        self.out.transform((1.0, 0.0, 0.0, 1.0, x, y))
        if target.tag in ("symbol", "svg"):
            width = length_of(element.get("width", target.get("width", "100%")), self.size[0]) or self.size[0]
            height = length_of(element.get("height", target.get("height", "100%")), self.size[1]) or self.size[1]
            inner = self.style_of(target, style)
            self._group(target, inner, lambda: self._inner_svg(target, inner, depth + 1, (width, height)))
        else:
            self._element(target, style, depth + 1)
        self.out.restore()
        self.uses.pop()

    def _image(self, element: Element) -> None:
        found = self.picture(element.get("href", ""))
        if isinstance(found, str):
            self.out.note(f"A picture in the SVG is not shown. {found}")
            return
        x, y = self._attribute(element, "x", 0), self._attribute(element, "y", 1)
        width = length_of(element.get("width", ""), self.size[0]) or found.width
        height = length_of(element.get("height", ""), self.size[1]) or found.height
        matrix = fit_view(
            (0.0, 0.0, found.width, found.height), (x, y, width, height), element.get("preserveaspectratio", "")
        )
        self.out.save()
        self.out.clip(rectangle(x, y, width, height))
        self.out.transform(matrix)
        if isinstance(found, Picture):
            self.out.picture(found, 0.0, 0.0, found.width, found.height)
        else:
            self.out.add(found)
        self.out.restore()

    # ---- shapes ----

    def _shape(self, element: Element, path: list[Segment], style: Style, depth: int) -> None:
        if not path or style["visibility"] != "visible":
            return
        order = ("stroke", "fill") if style["paint-order"].split()[0] == "stroke" else ("fill", "stroke")
        for part in order:
            if part == "fill" and element.tag != "line":
                self._fill(path, style, depth)
            elif part == "stroke":
                self._stroke(path, style)
        if element.tag in ("path", "line", "polyline", "polygon"):
            self._markers(path, style, depth)

    def _fill(self, path: list[Segment], style: Style, depth: int) -> None:
        color, name = self._paint(style["fill"], style["fill-opacity"], style)
        even_odd = style["fill-rule"] == "evenodd"
        server = self.ids.get(name) if name else None
        if server is not None and server.tag == "pattern":
            self._pattern(server, path, even_odd, depth)
        elif server is not None:
            self._gradient(server, path, even_odd, _share(style["fill-opacity"]), color)
        elif color is not None and color.alpha > 0:
            self.out.fill_path(path, color, even_odd)

    def _stroke(self, path: list[Segment], style: Style) -> None:
        color, name = self._paint(style["stroke"], style["stroke-opacity"], style)
        server = self.ids.get(name) if name else None
        if server is not None:
            stops = self._stops(server, _share(style["stroke-opacity"]))
            color = stops[len(stops) // 2][1] if stops else color
            if len(stops) > 1:
                self.out.note("A gradient on an SVG outline is drawn in one colour.")
        diagonal = math.hypot(*self.size) / math.sqrt(2)
        width = length_of(style["stroke-width"], diagonal) or 0.0
        if color is None or width <= 0 or color.alpha <= 0:
            return
        dash = tuple(
            length_of(part, diagonal) or 0.0 for part in re.split(r"[\s,]+", style["stroke-dasharray"]) if part
        )
        if style["stroke-dasharray"] == "none" or sum(dash) <= 0 or min(dash) < 0:
            dash = ()
        stroke = Stroke(
            width,
            dash,
            length_of(style["stroke-dashoffset"], diagonal) or 0.0,
            CAPS.get(style["stroke-linecap"], 0),
            JOINS.get(style["stroke-linejoin"], 0),
            max(1.0, first_number(style["stroke-miterlimit"], 4.0)),
        )
        self.out.stroke_path(path, color, stroke)

    def _markers(self, path: list[Segment], style: Style, depth: int) -> None:
        names = [_reference(style[f"marker-{place}"]) for place in ("start", "mid", "end")]
        if not any(names):
            return
        places = vertices(path)
        for index, (x, y, angle) in enumerate(places):
            name = names[0] if index == 0 else names[2] if index == len(places) - 1 else names[1]
            marker = self.ids.get(name) if name else None
            if marker is not None and marker not in self.uses and marker.tag == "marker":
                self.uses.append(marker)
                self._marker(marker, x, y, angle, index == 0, style, depth)
                self.uses.pop()

    def _marker(self, marker: Element, x: float, y: float, angle: float, first: bool, style: Style, depth: int) -> None:
        width, height = (
            length_of(marker.get("markerwidth", "3"), 1) or 0,
            length_of(marker.get("markerheight", "3"), 1) or 0,
        )
        if width <= 0 or height <= 0:
            return
        orient = marker.get("orient", "0")
        if orient.startswith("auto"):
            turn = angle + (math.pi if first and orient == "auto-start-reverse" else 0.0)
        else:
            turn = math.radians(first_number(orient, 0.0))
        scale = length_of(style["stroke-width"], 1) or 1.0
        if marker.get("markerunits", "").lower() == "userspaceonuse":
            scale = 1.0
        cos, sin = math.cos(turn), math.sin(turn)
        matrix = multiply((cos, sin, -sin, cos, x, y), (scale, 0.0, 0.0, scale, 0.0, 0.0))
        box = numbers_of(marker.get("viewbox", ""))
        view = (box[0], box[1], box[2], box[3]) if len(box) == 4 and box[2] and box[3] else (0.0, 0.0, width, height)
        fitted = fit_view(view, (0.0, 0.0, width, height), marker.get("preserveaspectratio", ""))
        at = (length_of(marker.get("refx", "0"), view[2]) or 0.0, length_of(marker.get("refy", "0"), view[3]) or 0.0)
        moved = (fitted[0] * at[0] + fitted[4], fitted[3] * at[1] + fitted[5])
        self.out.save()
        self.out.transform(multiply(multiply(matrix, (1.0, 0.0, 0.0, 1.0, -moved[0], -moved[1])), fitted))
        if marker.get("overflow") != "visible":
            self.out.clip(rectangle(*view))
        self._children(marker, self.style_of(marker, self.start), depth + 1)
        self.out.restore()

    # ---- gradients and patterns ----

    def _inherited(self, server: Element, name: str) -> str | None:
        """An attribute of a gradient or pattern, or of the one that it builds on."""
        seen: list[Element] = []
        node: Element | None = server
        while node is not None and node not in seen and len(seen) < 20:
            if name in node.attrib:
                return str(node.get(name))
            seen.append(node)
            node = self.ids.get(node.get("href", "").removeprefix("#"))
        return None

    def _with_children(self, server: Element) -> Element:
        seen: list[Element] = []
        node: Element | None = server
        while node is not None and node not in seen and len(seen) < 20:
            if any(isinstance(child.tag, str) for child in node):
                return node
            seen.append(node)
            node = self.ids.get(node.get("href", "").removeprefix("#"))
        return server

    def _stops(self, server: Element, opacity: float) -> tuple[ColorStop, ...]:
        stops: list[ColorStop] = []
        last = 0.0
        for stop in self._with_children(server).iterchildren("stop"):
            style = self.style_of(stop, self.start)
            color, _ = self._paint(style["stop-color"], style["stop-opacity"], style)
            color = color or BLACK._replace(alpha=0.0)
            offset = length_of(stop.get("offset", "0"), 1.0) or 0.0
            last = max(last, min(1.0, max(0.0, offset)))
            stops.append((last, color._replace(alpha=color.alpha * opacity)))
        return tuple(stops)

    def _gradient(
        self, server: Element, path: list[Segment], even_odd: bool, opacity: float, fallback: Rgba | None
    ) -> None:
        stops = self._stops(server, opacity)
        if len(stops) < 2 or server.tag not in ("lineargradient", "radialgradient"):
            color = stops[0][1] if stops else fallback
            if color is not None:
                self.out.fill_path(path, color, even_odd)
            return
        boxed = (self._inherited(server, "gradientunits") or "").lower() != "userspaceonuse"
        x, y, width, height = bounds(path)
        matrix = transform_of(self._inherited(server, "gradienttransform") or "")
        if boxed:
            if width <= 0 or height <= 0:
                return
            matrix = multiply((width, 0.0, 0.0, height, x, y), matrix)
        size = (1.0, 1.0) if boxed else self.size

        def get(name: str, default: str, axis: int) -> float:
            basis = size[axis] if axis < 2 else math.hypot(*size) / math.sqrt(2)
            return length_of(self._inherited(server, name) or default, basis) or 0.0

        if (self._inherited(server, "spreadmethod") or "pad") != "pad":
            self.out.note("An SVG gradient that repeats is drawn once.")
        if server.tag == "lineargradient":
            start, end = (get("x1", "0%", 0), get("y1", "0%", 1)), (get("x2", "100%", 0), get("y2", "0%", 1))
            if start == end:
                self.out.fill_path(path, stops[-1][1], even_odd)
                return
            self._shade(path, Axial(start, end, stops), matrix, even_odd)
            return
        center, radius = (get("cx", "50%", 0), get("cy", "50%", 1)), get("r", "50%", 2)
        if radius <= 0:
            self.out.fill_path(path, stops[-1][1], even_odd)
            return
        focus = (
            get("fx", self._inherited(server, "cx") or "50%", 0) - center[0],
            get("fy", self._inherited(server, "cy") or "50%", 1) - center[1],
        )
        reach = math.hypot(*focus)
        pull = min(1.0, 0.99 * radius / reach) if reach > 0 else 0.0
        shade = Round(center, (radius, radius), stops, (focus[0] * pull / radius, focus[1] * pull / radius))
        self._shade(path, shade, matrix, even_odd)

    def _shade(self, path: list[Segment], gradient: Axial | Round, matrix: Matrix, even_odd: bool) -> None:
        """Fills a path with a gradient whose measures go through a matrix."""
        self.out.save()
        self.out.clip(path, even_odd)
        self.out.transform(matrix)
        self.out.shade_all(gradient)
        self.out.restore()

    def _pattern(self, server: Element, path: list[Segment], even_odd: bool, depth: int) -> None:
        """The tile drawn again and again under the path."""
        if server in self.uses:
            return
        x, y, width, height = bounds(path)
        boxed = (self._inherited(server, "patternunits") or "").lower() != "userspaceonuse"
        size = (1.0, 1.0) if boxed else self.size
        tile = [length_of(self._inherited(server, name) or "0", size[axis]) or 0.0
                for name, axis in (("x", 0), ("y", 1), ("width", 0), ("height", 1))]  # fmt: skip
        if boxed:
            tile = [x + tile[0] * width, y + tile[1] * height, tile[2] * width, tile[3] * height]
        if tile[2] <= 0 or tile[3] <= 0:
            return
        matrix = transform_of(self._inherited(server, "patterntransform") or "")
        reach = _inverse_bounds(matrix, (x, y, width, height))
        first = math.floor((reach[0] - tile[0]) / tile[2]), math.floor((reach[1] - tile[1]) / tile[3])
        last = (
            math.ceil((reach[0] + reach[2] - tile[0]) / tile[2]),
            math.ceil((reach[1] + reach[3] - tile[1]) / tile[3]),
        )
        if (last[0] - first[0]) * (last[1] - first[1]) > MOST_TILES:
            self.out.note("An SVG pattern has too many tiles; it is not drawn.")
            return
        self.uses.append(server)
        content = self._with_children(server)
        style = self.style_of(content, self.start)
        box = numbers_of(self._inherited(server, "viewbox") or "")
        inner = IDENTITY
        if len(box) == 4 and box[2] > 0 and box[3] > 0:
            inner = fit_view((box[0], box[1], box[2], box[3]), (0.0, 0.0, tile[2], tile[3]),
                             self._inherited(server, "preserveaspectratio") or "")  # fmt: skip
        elif (self._inherited(server, "patterncontentunits") or "").lower() == "objectboundingbox":
            inner = (width, 0.0, 0.0, height, 0.0, 0.0)
        else:
            inner = (1.0, 0.0, 0.0, 1.0, -tile[0], -tile[1])
        self.out.save()
        self.out.clip(path, even_odd)
        self.out.transform(matrix)
        whole, self.out = self.out, Drawing(1.0, 1.0)
        self._children(content, style, depth + 1)
        drawn, self.out = self.out, whole
        for row in range(first[1], last[1]):
            for column in range(first[0], last[0]):
                self.out.save()
                self.out.transform((1.0, 0.0, 0.0, 1.0, tile[0] + column * tile[2], tile[1] + row * tile[3]))
                self.out.clip(rectangle(0.0, 0.0, tile[2], tile[3]))
                self.out.transform(inner)
                self.out.add(drawn)
                self.out.restore()
        self.out.restore()
        for fault in drawn.faults:
            self.out.note(fault)
        self.uses.pop()

    # ---- clips and masks ----

    def _bounds_of(self, element: Element) -> tuple[float, float, float, float]:
        """The box around what an element draws, without its transforms."""
        paths: list[Segment] = []
        for child in [element, *element.iterdescendants()]:
            if isinstance(child.tag, str):
                path = shape_path(child.tag, lambda name, axis, c=child: self._attribute(c, name, axis), child.attrib)  # type: ignore[arg-type]
                paths += path or []
        return bounds(paths)

    def _clip(self, name: str, element: Element) -> None:
        server = self.ids.get(name)
        if server is None or server.tag != "clippath":
            return
        matrix = transform_of(server.get("transform", ""))
        if (server.get("clippathunits") or "").lower() == "objectboundingbox":
            x, y, width, height = self._bounds_of(element)
            matrix = multiply((width, 0.0, 0.0, height, x, y), matrix)
        path: list[Segment] = []
        even_odd = False
        for child in server.iterdescendants():
            if not isinstance(child.tag, str):
                continue
            shape: Element | None = child
            own = transform_of(child.get("transform", ""))
            if child.tag == "use":
                shape = self.ids.get(child.get("href", "").removeprefix("#"))
                shift = (1.0, 0.0, 0.0, 1.0, self._attribute(child, "x", 0), self._attribute(child, "y", 1))
                own = multiply(own, shift)
            if shape is None:
                continue
            drawn = shape_path(shape.tag, lambda name, axis, c=shape: self._attribute(c, name, axis), shape.attrib)  # type: ignore[arg-type]
            style = self.style_of(shape, self.start)
            even_odd = even_odd or style["clip-rule"] == "evenodd"
            path += [_moved(segment, multiply(matrix, own)) for segment in drawn or []]
        nothing: list[Segment] = [("m", 0.0, 0.0), ("h",)]
        self.out.clip(path or nothing, even_odd)

    def _mask(self, name: str, element: Element) -> None:
        server = self.ids.get(name)
        if server is None or server.tag != "mask" or server in self.uses:
            return
        self.uses.append(server)
        self.out.begin_group()
        if (server.get("maskcontentunits") or "").lower() == "objectboundingbox":
            x, y, width, height = self._bounds_of(element)
            self.out.transform((width, 0.0, 0.0, height, x, y))
        self._children(server, self.style_of(server, self.start), len(self.uses))
        self.out.end_mask()
        self.uses.pop()

    # ---- text ----

    def font_of(self, style: Style) -> FontSetting:
        return self.font(style["font-family"], style["font-weight"], style["font-style"])

    def text_color(self, style: Style) -> Rgba | None:
        """The fill of text; of a gradient its first colour."""
        color, name = self._paint(style["fill"], style["fill-opacity"], style)
        if name in self.ids:
            stops = self._stops(self.ids[name], _share(style["fill-opacity"]))
            color = stops[0][1] if stops else color
        return color


# ---- values ----


def _declarations(nodes: Any) -> dict[str, str]:
    return {
        node.lower_name: tinycss2.serialize(node.value).strip()
        for node in nodes
        if node.type == "declaration" and (node.lower_name in INHERITED or node.lower_name in OWN)
    }


def _color(text: str) -> Rgba | None:
    tokens = without_space(tinycss2.parse_component_value_list(text))
    found = color_value(tokens[0]) if len(tokens) == 1 else None
    return found if isinstance(found, Rgba) else None


def _css_color(color: Rgba) -> str:
    red, green, blue = (round(part * 255) for part in color[:3])
    return f"rgba({red},{green},{blue},{color.alpha:g})"


def _share(text: str) -> float:
    value = first_number(text.rstrip("%"), 1.0) / (100 if text.endswith("%") else 1)
    return min(1.0, max(0.0, value))


def _font_size(text: str, parent: float) -> float:
    if text.endswith("%"):
        return parent * first_number(text, 100.0) / 100
    if text.endswith("em") and not text.endswith("rem"):
        return parent * first_number(text, 1.0)
    names = {"small": 13.0, "medium": 16.0, "large": 18.0, "x-large": 24.0, "x-small": 10.0}
    return names.get(text) or length_of(text, None) or 16.0


def _reference(text: str) -> str:
    match = REFERENCE.match(text)
    return match[1] if match else ""


def transform_of(text: str) -> Matrix:
    """The matrix of a transform attribute."""
    matrix = IDENTITY
    for name, arguments in TRANSFORM.findall(text):
        n = numbers_of(arguments)
        if not n:
            continue
        name = name.lower()
        step = IDENTITY
        if name == "matrix" and len(n) >= 6:
            step = (n[0], n[1], n[2], n[3], n[4], n[5])
        elif name == "translate":
            step = (1.0, 0.0, 0.0, 1.0, n[0], n[1] if len(n) > 1 else 0.0)
        elif name == "scale":
            step = (n[0], 0.0, 0.0, n[1] if len(n) > 1 else n[0], 0.0, 0.0)
        elif name == "rotate":
            turn = math.radians(n[0])
            cos, sin = math.cos(turn), math.sin(turn)
            step = (cos, sin, -sin, cos, 0.0, 0.0)
            if len(n) >= 3:
                there, back = (1.0, 0.0, 0.0, 1.0, n[1], n[2]), (1.0, 0.0, 0.0, 1.0, -n[1], -n[2])
                step = multiply(multiply(there, step), back)
        elif name == "skewx":
            step = (1.0, 0.0, math.tan(math.radians(n[0])), 1.0, 0.0, 0.0)
        elif name == "skewy":
            step = (1.0, math.tan(math.radians(n[0])), 0.0, 1.0, 0.0, 0.0)
        matrix = multiply(matrix, step)
    return matrix


def fit_view(view: tuple[float, float, float, float], area: tuple[float, float, float, float], aspect: str) -> Matrix:
    """The matrix that puts a view box into an area (SVG 2 §8.6)."""
    x, y, width, height = area
    sx, sy = width / view[2], height / view[3]
    words = aspect.split()
    align = words[0] if words else "xMidYMid"
    if align.lower() == "none":
        return (sx, 0.0, 0.0, sy, x - view[0] * sx, y - view[1] * sy)
    scale = max(sx, sy) if "slice" in words else min(sx, sy)
    shares = {"min": 0.0, "mid": 0.5, "max": 1.0}
    across, down = shares.get(align[1:4].lower(), 0.5), shares.get(align[5:8].lower(), 0.5)
    left = x + (width - view[2] * scale) * across - view[0] * scale
    top = y + (height - view[3] * scale) * down - view[1] * scale
    return (scale, 0.0, 0.0, scale, left, top)


def _moved(segment: Segment, matrix: Matrix) -> Segment:
    a, b, c, d, e, f = matrix
    numbers = segment[1:]
    moved: list[float] = []
    for x, y in zip(numbers[::2], numbers[1::2], strict=True):
        moved += [a * x + c * y + e, b * x + d * y + f]
    return (segment[0], *moved)


def _inverse_bounds(matrix: Matrix, box: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    """The box as it is before the matrix."""
    a, b, c, d, e, f = matrix
    determinant = a * d - b * c
    if abs(determinant) < 1e-12:
        return box
    xs, ys = [], []
    for px in (box[0], box[0] + box[2]):
        for py in (box[1], box[1] + box[3]):
            xs.append((d * (px - e) - c * (py - f)) / determinant)
            ys.append((a * (py - f) - b * (px - e)) / determinant)
    return min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)
