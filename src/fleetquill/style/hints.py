"""Presentational hints: attributes of HTML that say something about style (HTML §15)."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

from lxml import etree

from fleetquill.style.drawn_properties import DRAWN

Element = etree._Element
Hint = Callable[[str], str]  # the attribute's value → CSS declarations


def _dimension(name: str) -> Hint:
    """HTML §2.3.4.4, rules for parsing dimension values."""

    def hint(value: str) -> str:
        value = value.strip().removesuffix("px").strip()
        number = value.removesuffix("%")
        try:
            size = float(number)
        except ValueError:
            return ""
        return f"{name}:{size}{'%' if value.endswith('%') else 'px'};" if size >= 0 else ""

    return hint


def _align_text(value: str) -> str:
    word = value.lower()
    return f"text-align:{word};" if word in ("left", "right", "center", "justify") else ""


def _align_table(value: str) -> str:
    word = value.lower()
    if word == "center":
        return "margin-left:auto;margin-right:auto;"
    return "margin-left:auto;" if word == "right" else ""


def _valign(value: str) -> str:
    word = value.lower()
    return f"vertical-align:{word};" if word in ("top", "middle", "bottom", "baseline") else ""


def _direction(value: str) -> str:
    """HTML §15.3.5: an element with a direction of its own is isolated."""
    word = value.lower()
    if word == "auto":
        return "unicode-bidi:plaintext;"
    return f"direction:{word};unicode-bidi:isolate;" if word in ("ltr", "rtl") else ""


def _list_type(value: str) -> str:
    names = {"a": "lower-alpha", "A": "upper-alpha", "i": "lower-roman", "I": "upper-roman", "1": "decimal"}
    return f"list-style-type:{names[value]};" if value in names else ""


def _color(name: str) -> Hint:
    return lambda value: f"{name}:{value.strip()};"


_SIZE: Final = {"width": _dimension("width"), "height": _dimension("height")}
_CELL: Final = {
    **_SIZE,
    "align": _align_text,
    "valign": _valign,
    "bgcolor": _color("background-color"),
    "nowrap": lambda _value: "white-space:nowrap;",
}

HINTS: Final[dict[str, dict[str, Hint]]] = {
    "img": _SIZE,
    "svg": _SIZE,
    "table": {
        **_SIZE,
        "align": _align_table,
        "bgcolor": _color("background-color"),
        "cellspacing": _dimension("border-spacing"),
    },
    "td": _CELL,
    "th": _CELL,
    "tr": {"align": _align_text, "valign": _valign, "bgcolor": _color("background-color")},
    "thead": {"align": _align_text, "valign": _valign},
    "tbody": {"align": _align_text, "valign": _valign},
    "tfoot": {"align": _align_text, "valign": _valign},
    "col": {"width": _dimension("width")},
    "colgroup": {"width": _dimension("width")},
    "ol": {"type": _list_type},
    "li": {"type": _list_type},
    "p": {"align": _align_text},
    "div": {"align": _align_text},
    "h1": {"align": _align_text},
    "h2": {"align": _align_text},
    "h3": {"align": _align_text},
    "font": {"color": _color("color")},
}


def _number_of_px(name: str) -> Hint:
    """A length for which SVG takes a plain number (SVG 2 §6.7)."""

    def hint(value: str) -> str:
        value = value.strip()
        try:
            float(value)
        except ValueError:
            return f"{name}:{value};"
        return f"{name}:{value}px;"

    return hint


def _same(name: str) -> Hint:
    return lambda value: f"{name}:{value};"


# Presentation attributes (SVG 2 §6.6); the transform attribute has a grammar of its own.
_DRAWN: Final[dict[str, Hint]] = {
    **{field.replace("_", "-"): _same(field.replace("_", "-")) for field in DRAWN},
    **{
        name: _same(name)
        for name in (
            "color", "display", "font-family", "font-style", "font-weight", "font-stretch", "font-variant",
            "opacity", "overflow", "text-decoration", "visibility",
        )
    },
    **{name: _number_of_px(name) for name in ("font-size", "letter-spacing", "word-spacing")},
}  # fmt: skip
HINTS["svg"] = {**_SIZE, **_DRAWN}
for _tag in (
    "g", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan", "textpath", "use",
    "image", "symbol", "switch", "marker", "pattern", "clippath", "mask", "stop", "lineargradient", "radialgradient",
    "defs",
):  # fmt: skip
    HINTS[_tag] = _DRAWN
HINTS["a"] = {name: hint for name, hint in _DRAWN.items() if name not in ("color", "filter")}


def hints(element: Element) -> str:
    """The declarations that the element's attributes stand for, as CSS text; '' for none."""
    found = ""
    known = HINTS.get(element.tag)
    for name, value in element.attrib.items():
        value = str(value)
        if name == "hidden":
            found += "display:none;"
        elif name == "dir":
            found += _direction(value)
            if element.tag == "bdo":
                found += "unicode-bidi:isolate-override;"
        elif known and name in known:
            found += known[name](value)
    return found
