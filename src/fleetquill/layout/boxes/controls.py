"""Form controls as they show their state: what was typed, chosen, ticked (HTML §4.10, §15.5)."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Final

from fleetquill.graphics.controls import bar, check_mark, color_swatch, drop_mark, radio_mark, slider
from fleetquill.layout.boxes.boxes import (
    BlockBox,
    Box,
    BreakBox,
    Element,
    FrameBox,
    MarkBox,
    PictureBox,
    TextBox,
    integer,
)
from fleetquill.layout.boxes.containers import Containers
from fleetquill.layout.boxes.fillable import field_of, is_fillable
from fleetquill.layout.boxes.rearranged import centred
from fleetquill.layout.boxes.replaced_elements import picture_box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.inline.boxes import ControlBox, LinesBox
from fleetquill.layout.items.boxes import ButtonBox, FlexBox
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import Rgba

CONTROLS: Final = frozenset(("input", "textarea", "select", "progress", "meter"))
BUTTONS: Final = {"submit": "Submit", "reset": "Reset", "button": ""}
LINE: Final = Rgba(0.72, 0.76, 0.76)  # between letters that have places of their own
FADED: Final = Rgba(0.46, 0.46, 0.46)  # the colour of a placeholder
NO_FILE: Final = "No file chosen"  # what a field for files shows, which never has a value
USUAL_SIZE: Final = 20  # characters of a text field
USUAL_AREA: Final = (20, 2)  # columns and rows of a text area
USUAL_ROWS: Final = 4  # of a list from which several may be chosen


class Controls:
    """Makes the boxes of form controls."""

    def __init__(self, containers: Containers, context: Context) -> None:
        self._containers = containers
        self._context = context

    def boxes(self, element: Element, style: ComputedStyle, options: Callable[[], list[Box]]) -> list[Box]:
        """The box of a control; `options` gives those of a list's options."""
        maker = {
            "input": self._input, "textarea": self._area, "progress": self._progress, "meter": self._meter,
        }.get(str(element.tag))  # fmt: skip
        boxes = maker(element, style) if maker is not None else self._select(element, style, options)
        field = field_of(element, style, self._context) if boxes else None
        for box in boxes if field is not None else ():
            if isinstance(box, (ControlBox, MarkBox, ButtonBox)):
                box.field = field
        return boxes

    # ---- inputs ----

    def _input(self, element: Element, style: ComputedStyle) -> list[Box]:
        kind = element.get("type", "text").strip().lower()
        if kind == "hidden":
            return []
        checked = "checked" in element.attrib
        if kind in ("checkbox", "radio"):
            mark = check_mark(checked) if kind == "checkbox" else radio_mark(checked)
            box = MarkBox(style, element, mark, "☑" if checked else "☐")
            box.other = check_mark(not checked) if kind == "checkbox" else radio_mark(not checked)
            return [box]
        if kind == "range":
            low, high = _number(element.get("min"), 0.0), _number(element.get("max"), 100.0)
            at = _number(element.get("value"), (low + high) / 2)
            return [MarkBox(style, element, slider(_share(at, low, high), style.direction == "rtl"), f"{at:g}")]
        if kind == "image":
            return [picture_box(self._context, style, element, element.get("src", ""), element.get("alt", "Submit"))]
        value = element.get("value", "")
        if kind == "color":
            return [MarkBox(style, element, color_swatch(value or "#000000"), value or "#000000", 6.0)]
        if kind in BUTTONS:
            return [centred(self._containers, style, element, [TextBox(style, element, value or BUTTONS[kind])])]
        if kind == "password":
            value = "" if self._is_filled(element) else "•" * len(value)
        elif kind in ("date", "datetime-local", "time", "month", "week") and value and not self._is_filled(element):
            value = self._written(kind, value)
        elif kind == "file":
            value = NO_FILE
        size = max(1, integer(element.get("size"), USUAL_SIZE))
        if isinstance(style.fq_comb, int):
            comb = self._comb(element, style, value, style.fq_comb)
            return [ControlBox(style, element, comb, columns=size, rows=1, frame="field")]
        return [ControlBox(style, element, self._text(element, style, value), columns=size, rows=1, frame="field")]

    def _is_filled(self, element: Element) -> bool:
        """Whether readers fill the control in: it shows its value as it is, for programs."""
        return is_fillable(element, self._context)

    def _written(self, kind: str, value: str) -> str:
        """A date or a time as the locale writes it, or as it stands."""
        form = {"date": "date", "datetime-local": "datetime"}.get(kind)
        try:
            return self._context.services.formats().form(value, form) if form else value
        except ValueError:
            return value

    def _text(self, element: Element, style: ComputedStyle, value: str) -> LinesBox:
        """What a field holds, or its placeholder where it holds nothing."""
        lines = self._containers.anonymous_lines(style, [])
        shown = style
        if not value and self._is_filled(element):
            value = ""  # what readers fill in is empty
        elif not value:
            value = element.get("placeholder", "")
            shown = ComputedStyle(lines.style.parent, {**lines.style.__dict__, "color": FADED, "display": "inline"})
        pieces = value.replace("\r\n", "\n").split("\n") if element.tag == "textarea" else [value]
        for index, piece in enumerate(pieces):
            if index:
                lines.children.append(BreakBox(shown, None, []))
            lines.children.append(TextBox(shown, element, piece or "\u200b"))
        lines.quiet = False
        return lines

    def _comb(self, element: Element, style: ComputedStyle, value: str, count: int) -> FlexBox:
        """Letters in places of their own, with a line between two."""
        anonymous = self._containers.cascade.anonymous
        places: list[Box] = []
        for at in range(count):
            letter = value[at] if at < len(value) else "\u200b"
            own = anonymous(style, "block")
            changes: dict[str, Any] = {
                "flex_grow": 1.0, "flex_basis": 0.0, "min_width": 0.0, "text_align": "center", "text_indent": 0.0
            }  # fmt: skip
            if at and not self._is_filled(element):
                changes |= {"border_left_width": 0.75, "border_left_style": "solid", "border_left_color": LINE}
            own = ComputedStyle(own.parent, {**own.__dict__, **changes})
            place = self._containers.container(own, None, [TextBox(own, element, letter)])
            place.is_item = True
            places.append(place)
        row = anonymous(style, "flex")
        return FlexBox(row, None, places)

    def _area(self, element: Element, style: ComputedStyle) -> list[Box]:
        columns = max(1, integer(element.get("cols"), USUAL_AREA[0]))
        rows = max(1, integer(element.get("rows"), USUAL_AREA[1]))
        text = self._text(element, style, element.text or "")
        return [ControlBox(style, element, text, columns=columns, rows=rows, frame="area")]

    # ---- lists ----

    def _select(self, element: Element, style: ComputedStyle, options: Callable[[], list[Box]]) -> list[Box]:
        several = "multiple" in element.attrib
        rows = integer(element.get("size"), 0) or (USUAL_ROWS if several else 1)
        choices = list(_options(element))
        if several or rows > 1:
            content = BlockBox(self._containers.cascade.anonymous(style, "block"), None, options())
            return [ControlBox(style, element, content, columns=0, rows=max(1, rows), frame="list")]
        selected = [option for option in choices if "selected" in option.attrib]
        enabled = [option for option in choices if "disabled" not in option.attrib]
        chosen = selected[-1:] or enabled[:1] or choices[:1]
        shown = self._text(element, style, _label(chosen[0]) if chosen else "")
        box = ControlBox(style, element, shown, columns=0, rows=1, frame="menu")
        box.widest = self._containers.anonymous_lines(style, [])
        groups = [group.get("label", "") for group in element if group.tag == "optgroup"]
        for label in (*groups, *map(_label, choices)):
            box.widest.children += [TextBox(style, None, label), BreakBox(style, None, [])]
        box.mark = PictureBox(self._containers.cascade.anonymous(style, "inline-block"), None, drop_mark(), "")
        return [box]

    # ---- measures ----

    def _progress(self, element: Element, style: ComputedStyle) -> list[Box]:
        most = _number(element.get("max"), 1.0)
        share = _share(_number(element.get("value"), 0.0), 0.0, most if most > 0 else 1.0)
        return [self._bar(element, style, 10.0, share, f"{share:.0%}")]

    def _meter(self, element: Element, style: ComputedStyle) -> list[Box]:
        low, high = _number(element.get("min"), 0.0), _number(element.get("max"), 1.0)
        share = _share(_number(element.get("value"), 0.0), low, high)
        return [self._bar(element, style, 5.0, share, element.get("value", "0"))]

    def _bar(self, element: Element, style: ComputedStyle, ems: float, share: float, said: str) -> Box:
        return FrameBox(style, element, bar(ems, share, style.font_size, style.direction == "rtl"), said)


def _options(element: Element) -> Iterator[Element]:
    """The options of a select, those in groups, too (HTML §4.10.7)."""
    for child in element:
        if child.tag == "option":
            yield child
        elif child.tag == "optgroup":
            yield from (inner for inner in child if inner.tag == "option")


def _label(option: Element) -> str:
    return option.get("label") or " ".join("".join(str(text) for text in option.itertext()).split())


def _number(text: str | None, otherwise: float) -> float:
    """HTML §2.3.4.3, rules for parsing floating-point numbers, as far as forms need them."""
    try:
        value = float(text or "")
    except ValueError:
        return otherwise
    return value if abs(value) < 1e300 else otherwise


def _share(value: float, low: float, high: float) -> float:
    return min(1.0, max(0.0, (value - low) / (high - low))) if high > low else 0.0
