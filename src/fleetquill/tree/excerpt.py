"""One element of a document as a document of its own, and the page that a document is put on from outside."""

from __future__ import annotations

import copy
from typing import Final, Literal

import tinycss2
from lxml import etree

from fleetquill.errors import OptionError, nearest
from fleetquill.style.selectors import SelectorError, Siblings, parse_selectors
from fleetquill.tree.document import Document
from fleetquill.tree.lengths import Length, css_lengths, css_page

Element = etree._Element
Scale = float | Literal["fit"]
LEAST_SCALE: Final = 0.1
MOST_SCALE: Final = 10.0


def excerpt(document: Document, selector: str) -> Document:
    """The first element that a selector matches, with the styles that it has where it stands, and nothing else.

    Raises OptionError where the selector is not understood or nothing matches.
    """
    try:
        selectors = parse_selectors(tinycss2.parse_component_value_list(selector))
    except SelectorError as error:
        raise OptionError(f"The selector '{selector}' is not understood: {error}.") from error
    found = document.with_root(copy.deepcopy(document.root))
    siblings = Siblings()
    elements = [element for element in found.body.iter() if isinstance(element.tag, str)]
    chosen = next((e for e in elements if any(s.matches(e, siblings) for s in selectors)), None)
    if chosen is None:
        names = [f"#{element.get('id')}" for element in elements if element.get("id")]
        meant = nearest(selector, names)
        remedy = f"Did you mean '{meant}'?" if meant else "Give the selector of an element that it has."
        raise OptionError(f"The document has no element '{selector}'.", remedy=remedy)
    _keep_alone(chosen, found.body)
    return found


def _keep_alone(chosen: Element, body: Element) -> None:
    """Takes all out of the body that is not in an element; those around it leave no boxes."""
    chosen.tail = None
    inner = chosen
    while inner is not body:
        outer = inner.getparent()
        assert outer is not None
        for other in list(outer):
            if other is not inner:
                outer.remove(other)
        outer.text = inner.tail = None
        if outer is not body:
            outer.set("style", f"{outer.get('style', '')};display:contents !important")
        inner = outer


def put_on_page(document: Document, page: str, margin: Length, *, landscape: bool, scale: Scale = 1.0) -> Document:
    """The document on another page than its own: a size and margins that go before all that it says itself, and a
    scale of all that stands on its pages; 'fit' makes it as much smaller as the widest of it needs."""
    fits = scale == "fit"
    if not fits and not (isinstance(scale, (int, float)) and LEAST_SCALE <= scale <= MOST_SCALE):
        raise OptionError(
            f"The scale is {scale!r}.",
            remedy=f"Give one from {LEAST_SCALE:g} to {MOST_SCALE:g}; 1 leaves things as they are. "
            "'fit' makes them smaller where they are wider than the page.",
        )
    css = ""
    if page or landscape:
        size = css_page(page) if page else "A4"
        turned = landscape and not {"landscape", "portrait"} & set(size.lower().split())
        css += f"size:{_turned(size) if turned else size} !important;"
    if margin != "":
        css += f"margin:{css_lengths(margin, 'margin')} !important;"
    if not css and scale == 1.0:
        return document
    found = document.with_root(document.root)
    found.fits, found.scale = fits, scale if isinstance(scale, (int, float)) else 1.0
    if css:
        found.styles = [*document.styles, (f"@page {{ {css} }}", "the page that was asked for")]
    return found


def _turned(size: str) -> str:
    parts = size.split()
    return " ".join(reversed(parts)) if len(parts) == 2 else f"{size} landscape"
