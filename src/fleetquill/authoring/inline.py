"""Pieces of text for the parts of a manuscript: strong, link, value, footnote and their kin."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from typing import Any

from lxml import etree

from fleetquill.errors import OptionError
from fleetquill.formats import as_decimal
from fleetquill.tree.forms import check_form
from fleetquill.tree.texts import clean
from fleetquill.tree.values import has_text, plain_value

Element = etree._Element
Text = "str | int | float | Decimal | date | time | Inline"


class Inline:
    """A piece of text with a meaning or a style: an element that stands in a line."""

    __slots__ = ("attributes", "content", "tag")

    def __init__(self, tag: str, content: tuple[Any, ...] = (), attributes: dict[str, str] | None = None) -> None:
        self.tag = tag
        self.content = content
        self.attributes = attributes or {}


Style = str | Mapping[str, Any]


def css_of(style: Style) -> str:
    """A style as CSS: text as it is, or properties by name, in which '_' may stand for '-'."""
    if isinstance(style, str):
        return style
    if not isinstance(style, Mapping):
        raise OptionError(f"{style!r} is not a style.", remedy="Give CSS text, or a mapping such as {'color': 'red'}.")
    return "".join(f"{str(name).replace('_', '-')}:{value};" for name, value in style.items())


def attributes_of(style: Style = "", id: str = "", class_: str = "", **more: str) -> dict[str, str]:
    """The attributes that every part takes; empty ones are left out."""
    others = {name.rstrip("_"): text for name, text in more.items()}
    found = {"id": id, "class": class_, "style": css_of(style), **others}
    return {name: text for name, text in found.items() if text}


def _inline(tag: str, content: tuple[Any, ...], style: Style, id: str, class_: str, **more: str) -> Inline:
    return Inline(tag, content, attributes_of(style, id, class_, **more))


def strong(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """Text of weight: bold by default."""
    return _inline("strong", content, style, id, class_)


def emphasis(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """Text with stress: italic by default."""
    return _inline("em", content, style, id, class_)


def small(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    return _inline("small", content, style, id, class_)


def span(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """Text with a style of its own."""
    return _inline("span", content, style, id, class_)


def mono(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """Text as a program writes it: in the monospace face."""
    return _inline("code", content, style, id, class_)


def superscript(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    return _inline("sup", content, style, id, class_)


def subscript(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    return _inline("sub", content, style, id, class_)


def link(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """Text that leads somewhere: the last argument is the address, '#name' for a place in the document."""
    if len(content) < 2 or not isinstance(content[-1], str):
        raise OptionError("A link needs its text and then its address.", remedy='As in link("the tariff", "#tariff").')
    return _inline("a", content[:-1], style, id, class_, href=content[-1])


def footnote(*content: Any, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """A note at the foot of the page that this text is on."""
    return _inline("fq-note", content, style, id, class_)


def page_of(name: str, *, style: Style = "") -> Inline:
    """The number of the page on which the part with that id begins."""
    return Inline("a", (), attributes_of(style, class_="fq-page-of", href=_address(name)))


def text_of(name: str, *, style: Style = "") -> Inline:
    """The text of the part with that id."""
    return Inline("a", (), attributes_of(style, class_="fq-text-of", href=_address(name)))


def _address(name: str) -> str:
    return name if name.startswith("#") else f"#{name}"


def line_break() -> Inline:
    return Inline("br")


def page_number(*, style: Style = "") -> Inline:
    """The number of the page that the text is on."""
    return Inline("span", (), attributes_of(style, class_="fq-page-number"))


def value(amount: Any, form: str = "", *, style: Style = "", id: str = "", class_: str = "") -> Inline:
    """A number, date or time that the press writes by its locale.

    `form` is a CLDR pattern ('#,##0.0'), 'money:EUR', 'percent', 'date:long' or 'time'; '' for the
    locale's own form. Raises OptionError where `amount` is none of these.
    """
    return Inline("fq-value", (), value_attributes(amount, form) | attributes_of(style, id, class_))


def spark(values: Iterable[Any], kind: str = "line", *, most: Any = None, style: Style = "") -> Inline:
    """A small chart in a line or a cell: kind line, bar or progress (one value, as a share of `most`)."""
    if kind not in ("line", "bar", "progress"):
        raise OptionError(f"{kind!r} is no kind of small chart.", remedy="It may be line, bar or progress.")
    more = {} if most is None else {"most": str(most)}
    return Inline(
        "fq-spark", (), {"kind": kind, "values": " ".join(str(v) for v in values), **more, **attributes_of(style)}
    )


def value_attributes(amount: Any, form: str) -> dict[str, str]:
    """A value as attributes that lose nothing of it."""
    amount = plain_value(amount)
    check_form(form)
    if isinstance(amount, timedelta):
        return {"value": str(as_decimal(amount.total_seconds())), "form": form or "duration"}
    if isinstance(amount, bool) or not isinstance(amount, (int, float, Decimal, date, time, str)):
        raise OptionError(f"{amount!r} is not a number, a date or a time.")
    if isinstance(amount, (date, time)):
        kind = "time" if isinstance(amount, time) else "datetime" if isinstance(amount, datetime) else "date"
        return {"value": amount.isoformat(), "form": form or kind}
    text = format(Decimal(f"{amount:.15g}"), "f") if isinstance(amount, float) else str(amount)
    return {"value": text, **({"form": form} if form else {})}


def fill(parent: Element, content: Iterable[Any]) -> Element:
    """Puts text and pieces into an element; fractions and dates become values of the press's locale."""
    for given in content:
        piece = given if isinstance(given, (Inline, str, list, tuple)) else plain_value(given)
        if isinstance(piece, Inline):
            element = etree.SubElement(parent, piece.tag, {k: clean(v) for k, v in piece.attributes.items()})
            fill(element, piece.content)
        elif isinstance(piece, str):
            _add_text(parent, clean(piece))
        elif isinstance(piece, (list, tuple)):
            fill(parent, piece)
        elif isinstance(piece, int) and not isinstance(piece, bool):
            _add_text(parent, str(piece))  # a count or a number by which something is called
        elif isinstance(piece, (float, Decimal, date, time, timedelta)):
            etree.SubElement(parent, "fq-value", value_attributes(piece, ""))
        elif piece is not None and has_text(piece):
            _add_text(parent, clean(str(piece)))
        elif piece is not None:
            raise OptionError(
                f"{piece!r} cannot stand in a text.", remedy="Give text, a number, a date, or a piece such as strong()."
            )
    return parent


def _add_text(parent: Element, text: str) -> None:
    if len(parent):
        parent[-1].tail = (parent[-1].tail or "") + text
    else:
        parent.text = (parent.text or "") + text
