"""Presentational hints: attributes of HTML that say something about style (HTML §15)."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Final

from lxml import etree
from tinycss2.color4 import parse_color

from fleetquill.style.drawn_properties import DRAWN, GEOMETRY

Element = etree._Element
Hint = Callable[[str], str]  # the attribute's value → CSS declarations


DIMENSION: Final = re.compile(r"\s*\+?(\d+(?:\.\d+)?|\.\d+)(%?)")
NUMBER_ALONE: Final = re.compile(r"[-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?")
WHOLE: Final = re.compile(r"\s*\+?(\d+)")
HEX: Final = re.compile(r"#?([0-9a-fA-F]{6}|[0-9a-fA-F]{3})")
FONT_SIZES: Final = ("x-small", "small", "medium", "large", "x-large", "xx-large", "xxx-large")  # <font size=1> to 7
BASIC_FONT_SIZE: Final = 3


def _dimension(*names: str, least: float = 0.0) -> Hint:
    """HTML §2.3.4.4, rules for parsing dimension values; a `least` above 0 leaves noughts out."""

    def hint(value: str) -> str:
        found = DIMENSION.match(value)
        if found is None or float(found[1]) < least:
            return ""
        size = f"{float(found[1])}{found[2] or 'px'}"
        return "".join(f"{name}:{size};" for name in names)

    return hint


def _drawn_size(name: str) -> Hint:
    """A size of a drawing: a number of px, or a length in any unit (SVG 2 §8.2)."""

    def hint(value: str) -> str:
        value = value.strip()
        return f"{name}:{value}{'px' if NUMBER_ALONE.fullmatch(value) else ''};"

    return hint


def _whole(value: str, otherwise: int) -> int:
    """HTML §2.3.4.2, rules for parsing non-negative integers."""
    found = WHOLE.match(value)
    return min(int(found[1][:6]), 10_000) if found else otherwise


def _words(name: str, *known: str, **others: str) -> Hint:
    """Words of an attribute that are words of a property, and `others` that stand for them."""
    values = dict.fromkeys(known) | others

    def hint(value: str) -> str:
        word = value.strip().lower()
        return f"{name}:{values[word] or word};" if word in values else ""

    return hint


_align_text: Final = _words("text-align", "left", "right", "center", "justify", middle="center")
_valign: Final = _words("vertical-align", "top", "middle", "bottom", "baseline")
_clear: Final = _words("clear", "left", "right", "both", all="both")


def _align_blocks(value: str) -> str:
    """HTML §15.3.3: the blocks inside are aligned, too."""
    word = value.strip().lower()
    word = "center" if word == "middle" else word
    return f"text-align:-fq-{word};" if word in ("left", "right", "center") else _align_text(value)


def _align_table(value: str) -> str:
    word = value.strip().lower()
    if word == "center":
        return "margin-left:auto;margin-right:auto;"
    return f"float:{word};" if word in ("left", "right") else ""


def _align_rule(value: str) -> str:
    """HTML §15.3.8, of hr."""
    word = value.strip().lower()
    margins = {"left": "0;margin-right:auto", "right": "auto;margin-right:0", "center": "auto;margin-right:auto"}
    return f"margin-left:{margins[word]};" if word in margins else ""


def _align_picture(value: str) -> str:
    """HTML §15.4.3, of what is replaced."""
    word = value.strip().lower()
    if word in ("left", "right"):
        return f"float:{word};"
    places = {
        "top": "top", "bottom": "baseline", "baseline": "baseline", "texttop": "text-top", "absbottom": "bottom",
        "middle": "-fq-baseline-middle", "center": "-fq-baseline-middle", "absmiddle": "middle", "abscenter": "middle",
    }  # fmt: skip
    return f"vertical-align:{places[word]};" if word in places else ""


def _border(value: str) -> str:
    """HTML §15.4.3: the border of a picture."""
    width = _whole(value, 0)
    return f"border:{width}px solid;" if width else ""


def _direction(value: str) -> str:
    """HTML §15.3.5: an element with a direction of its own is isolated."""
    word = value.lower()
    if word == "auto":
        return "unicode-bidi:plaintext;"
    return f"direction:{word};unicode-bidi:isolate;" if word in ("ltr", "rtl") else ""


NUMBERED: Final = {"a": "lower-alpha", "A": "upper-alpha", "i": "lower-roman", "I": "upper-roman", "1": "decimal"}
_list_mark: Final = _words("list-style-type", "none", "disc", "circle", "square")


def _list_type(value: str) -> str:
    return f"list-style-type:{NUMBERED[value]};" if value in NUMBERED else _list_mark(value)


def legacy_color(value: str) -> str:
    """HTML §2.3.6, rules for parsing a legacy colour value; '' for none."""
    word = value.strip()
    if not word or word.lower() == "transparent":
        return ""
    found = HEX.fullmatch(word)
    if found is not None and (word[0] == "#" or len(word) == 6):
        return f"#{found[1]}"
    if word.isascii() and word.isalpha() and parse_color(word.lower()) is not None:
        return word.lower()
    digits = re.sub("[^0-9a-fA-F]", "0", word[:128].lstrip("#"))
    digits += "0" * (-len(digits) % 3) or ("000" if not digits else "")
    third = len(digits) // 3
    parts = [digits[at : at + third][-8:] for at in range(0, 3 * third, third)]
    while len(parts[0]) > 2 and all(part[0] == "0" for part in parts):
        parts = [part[1:] for part in parts]
    return "#" + "".join(part[:2].zfill(2) for part in parts)


def _color(name: str) -> Hint:
    def hint(value: str) -> str:
        color = legacy_color(value)
        return f"{name}:{color};" if color else ""

    return hint


def _background(value: str) -> str:
    return f'background-image:url("{quoted(value.strip())}");' if value.strip() else ""


def quoted(text: str) -> str:
    """Text for a string of CSS."""
    return text.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\a ")


def _font_size(value: str) -> str:
    """HTML §15.3.4, rules for parsing a legacy font size."""
    found = re.match(r"\s*([+-]?)(\d+)", value)
    if found is None:
        return ""
    number = int(found[2][:3])
    if found[1]:
        number = BASIC_FONT_SIZE + (number if found[1] == "+" else -number)
    return f"font-size:{FONT_SIZES[min(max(number, 1), len(FONT_SIZES)) - 1]};"


_SIZE: Final = {"width": _dimension("width"), "height": _dimension("height")}
_GROUND: Final = {"bgcolor": _color("background-color"), "background": _background}
_REPLACED: Final = {
    **_SIZE,
    "align": _align_picture,
    "hspace": _dimension("margin-left", "margin-right"),
    "vspace": _dimension("margin-top", "margin-bottom"),
    "border": _border,
}
_ROW: Final = {"align": _align_blocks, "valign": _valign, **_GROUND, "height": _dimension("height", least=0.01)}
_CELL: Final = {
    **_ROW,
    "width": _dimension("width", least=0.01),
    "nowrap": lambda _value: "white-space:nowrap;",
}
_COLUMN: Final = {"width": _dimension("width", least=0.01)}
_LIST: Final[dict[str, Hint]] = {"type": _list_type}
_TEXT: Final = {"align": _align_text}

HINTS: Final[dict[str, dict[str, Hint]]] = {
    **dict.fromkeys(("img", "object", "embed", "iframe", "video"), _REPLACED),
    "canvas": _SIZE,
    "body": {**_GROUND, "text": _color("color")},
    "table": {
        "width": _dimension("width", least=0.01),
        "height": _dimension("height", least=0.01),
        "align": _align_table,
        **_GROUND,
        "cellspacing": _dimension("border-spacing"),
        "bordercolor": _color("border-color"),
    },
    **dict.fromkeys(("td", "th"), _CELL),
    **dict.fromkeys(("tr", "thead", "tbody", "tfoot"), _ROW),
    **dict.fromkeys(("col", "colgroup"), _COLUMN),
    "caption": {"align": lambda value: _align_blocks(value) or _words("caption-side", "top", "bottom")(value)},
    **dict.fromkeys(("ol", "ul", "li"), _LIST),
    "div": {"align": _align_blocks},
    **dict.fromkeys(("p", "h1", "h2", "h3", "h4", "h5", "h6"), _TEXT),
    "font": {
        "color": _color("color"),
        "face": lambda value: f"font-family:{value};",
        "size": _font_size,
    },
    "br": {"clear": _clear},
    "hr": {"align": _align_rule, "width": _dimension("width"), "color": _color("border-color")},
    "pre": {"wrap": lambda _value: "white-space:pre-wrap;"},
    "legend": {"align": _words("justify-self", "left", "right", "center")},
}


def _texts(element: Element) -> dict[str, str]:
    return {str(name): str(value) for name, value in element.attrib.items()}


def _rule_line(element: Element) -> str:
    """HTML §15.3.8: how thick an hr is."""
    attributes = _texts(element)
    solid = "border-style:solid;border-color:gray;" if "color" in attributes or "noshade" in attributes else ""
    size = _whole(attributes.get("size", ""), 0)
    if size and solid:
        return f"{solid}border-width:{size / 2}px;"
    if size == 1:
        return "border-bottom-width:0;"
    return f"height:{size - 2}px;" if size > 1 else solid


FRAMES: Final = {  # HTML §15.3.10: which sides of a table its frame shows
    "void": "hidden", "above": "outset hidden hidden", "below": "hidden hidden outset",
    "hsides": "outset hidden", "vsides": "hidden outset", "lhs": "hidden hidden hidden outset",
    "rhs": "hidden outset hidden hidden", "box": "outset", "border": "outset",
}  # fmt: skip
RULES: Final = {"all": "1px solid", "rows": "1px 0;border-style:solid none", "cols": "0 1px;border-style:none solid"}


def _table_lines(element: Element) -> str:
    """HTML §15.3.10: the borders and paddings of a table's cells, which its own attributes give."""
    attributes = _texts(element)
    found, cells = "", ""
    width = _whole(attributes["border"], 1) if "border" in attributes else 0
    if width:
        found = f"border:{width}px outset gray;"
        cells = "border:1px inset gray;"
    rules, frame = attributes.get("rules", "").lower(), attributes.get("frame", "").lower()
    if rules in ("none", "groups", *RULES):
        found += "border-collapse:collapse;border-style:hidden;"
        cells = f"border-width:{RULES[rules]};" if rules in ("rows", "cols") else f"border:{RULES.get(rules, 'none')};"
    if frame in FRAMES:
        found += f"border-style:{FRAMES[frame]};" + ("" if width else "border-width:1px;")
    if "bordercolor" in attributes and cells:
        cells += _color("border-color")(attributes["bordercolor"])
    padding = _dimension("padding")(attributes.get("cellpadding", ""))
    cells = padding + cells
    return f'{found}-fq-cell-hints:"{cells}";' if cells else found


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
DRAWN_EFFECTS: Final = frozenset(("clip_path", "filter", "mask"))  # of pages too, but there by style alone
_DRAWN: Final[dict[str, Hint]] = {
    **{field.replace("_", "-"): _same(field.replace("_", "-")) for field in DRAWN - GEOMETRY | DRAWN_EFFECTS},
    **{
        name: _same(name)
        for name in (
            "color", "display", "font-family", "font-style", "font-weight", "font-stretch", "font-variant",
            "direction", "image-rendering", "mix-blend-mode", "opacity", "overflow", "text-decoration", "visibility",
            "writing-mode",
        )
    },
    **{name: _number_of_px(name) for name in ("font-size", "letter-spacing", "word-spacing")},
}  # fmt: skip
HINTS["svg"] = {**_DRAWN, "width": _drawn_size("width"), "height": _drawn_size("height")}
_DRAWN_TAGS: Final = (
    "g", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text", "tspan", "textpath", "use",
    "image", "symbol", "switch", "marker", "pattern", "clippath", "mask", "stop", "lineargradient", "radialgradient",
    "defs", "filter", "femergenode", "foreignobject",
    *(f"fe{name}" for name in (
        "gaussianblur", "offset", "flood", "dropshadow", "merge", "composite", "blend", "colormatrix",
        "componenttransfer", "morphology", "tile", "convolvematrix", "displacementmap", "turbulence", "image",
        "diffuselighting", "specularlighting",
    )),
)  # fmt: skip
for _tag in _DRAWN_TAGS:
    HINTS[_tag] = _DRAWN
HINTS["a"] = {name: hint for name, hint in _DRAWN.items() if name not in ("color", "filter")}


_PLAIN_LENGTH: Final = re.compile(
    r"(?i)((?:^|[;{\s])(?:font-size|letter-spacing|word-spacing)\s*:\s*[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(?=\s*(?:[;!]|$))"
)
_IN_DRAWINGS: Final = frozenset(("svg", *_DRAWN_TAGS))


def inline_style(element: Element) -> str:
    """The style attribute. In drawings its lengths of text may be plain numbers: files by many hands have them, and
    browsers read such attributes as they read old pages (Quirks Mode §3.2)."""
    css = element.get("style", "")
    return _PLAIN_LENGTH.sub(r"\1px", css) if css and element.tag in _IN_DRAWINGS else css


def hints(element: Element) -> str:
    """The declarations that the element's attributes stand for, as CSS text; '' for none."""
    found = ""
    tag = element.tag
    if tag == "table":
        found = _table_lines(element)
    elif tag == "hr":
        found = _rule_line(element)
    known = HINTS.get(tag)
    for name, value in element.attrib.items():
        value = str(value)
        if name == "hidden":
            found += "display:none;"
        elif name == "dir":
            found += _direction(value)
            if tag == "bdo":
                found += "unicode-bidi:isolate-override;"
        elif known and name in known:
            found += known[name](value)
    return found
