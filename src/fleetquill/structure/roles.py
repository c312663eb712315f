"""The role of each element in a document's structure: HTML elements and ARIA roles as structure types.

ISO 32000-2 §14.8.4 has the types, WAI-ARIA 1.2 §5 and DPUB-ARIA the roles. An element without one, such as a div, is
nothing in the structure: what is in it stands in the part around it.
"""

from __future__ import annotations

from typing import Final

from fleetquill.drawing.places import NO_FACTS, Facts, Place
from fleetquill.layout.boxes.boxes import Element, integer
from fleetquill.style.properties import ComputedStyle

HEADINGS: Final = {f"h{level}": f"H{level}" for level in range(1, 7)}
TAGS: Final = {
    **HEADINGS,
    "article": "Art", "section": "Sect", "aside": "Div", "nav": "Div", "figure": "Div", "p": "P", "pre": "P",
    "blockquote": "BlockQuote", "q": "Quote", "ul": "L", "ol": "L", "menu": "L", "dl": "L", "li": "LI",
    "table": "Table", "fq-ledger": "Table", "thead": "THead", "tbody": "TBody", "tfoot": "TFoot", "tr": "TR",
    "th": "TH", "td": "TD", "caption": "Caption", "figcaption": "Caption", "fq-contents": "TOC", "code": "Code",
    "kbd": "Code", "samp": "Code", "math": "Formula",
}  # fmt: skip
ARIA: Final = {
    "article": "Art", "region": "Sect", "complementary": "Div", "navigation": "Div", "group": "Div", "paragraph": "P",
    "blockquote": "BlockQuote", "code": "Code", "math": "Formula", "list": "L", "listitem": "LI", "table": "Table",
    "grid": "Table", "treegrid": "Table", "rowgroup": "TBody", "row": "TR", "cell": "TD", "gridcell": "TD",
    "columnheader": "TH", "rowheader": "TH", "caption": "Caption", "img": "Figure", "image": "Figure",
    "figure": "Div", "link": "Link", "note": "Note", "doc-footnote": "Note", "doc-endnote": "Note",
    "doc-noteref": "Reference", "doc-toc": "TOC", "doc-part": "Part", "doc-chapter": "Sect",
    "doc-appendix": "Sect", "doc-pullquote": "BlockQuote",
}  # fmt: skip
SILENT: Final = ("presentation", "none")  # ARIA roles that take an element's own away
INLINE: Final = frozenset(("Link", "Span", "Quote", "Code", "Reference", "Formula", "Figure", "Note", "Form"))
HOLDS_TEXT: Final = INLINE | {"P", "H1", "H2", "H3", "H4", "H5", "H6", "LBody", "Lbl", "TD", "TH", "Caption"}
STANDS_IN: Final = {  # types that are nothing but in certain others
    "LI": ("L",), "TR": ("Table", "THead", "TBody", "TFoot"), "TH": ("TR",), "TD": ("TR",), "THead": ("Table",),
    "TBody": ("Table",), "TFoot": ("Table",),
}  # fmt: skip
NUMBERINGS: Final = {  # of lists, by their counter style (§14.8.5.5)
    "decimal": "Decimal", "decimal-leading-zero": "Decimal", "lower-roman": "LowerRoman",
    "upper-roman": "UpperRoman", "lower-alpha": "LowerAlpha", "lower-latin": "LowerAlpha",
    "upper-alpha": "UpperAlpha", "upper-latin": "UpperAlpha", "disc": "Disc", "circle": "Circle",
    "square": "Square", "none": "None",
}  # fmt: skip
CHECKS: Final = {"checkbox": "cb", "radio": "rb"}
BUTTONS: Final = ("button", "submit", "reset", "image")


def is_hidden(element: Element) -> bool:
    """Whether an element is there for the eye alone."""
    return (
        element.get("aria-hidden") == "true"
        or element.tag == "hr"
        or element.get("role") == "separator"
        or (element.tag == "img" and element.get("alt") == "" and not element.get("aria-label"))
    )


def role_of(element: Element, around: Place) -> str:
    """The structure type of an element that stands in a part; '' where it has none."""
    asked = element.get("role", "").split()
    aria = asked[0] if asked else ""
    if aria in SILENT:
        role = ""
    elif aria == "heading":
        role = f"H{min(max(1, integer(element.get('aria-level'), 2)), 6)}"
    elif aria in ARIA:
        role = ARIA[aria]
    elif element.tag == "a":
        role = "Link" if element.get("href", "").strip() else ""
    elif around.role == "TOC" and element.tag == "p":
        role = "TOCI"
    else:
        role = TAGS.get(element.tag, "")
    if role in STANDS_IN and around.role not in STANDS_IN[role]:
        return ""
    if (
        not role
        and element.tag not in ("html", "body")
        and (element.get("lang") or (element.tag == "abbr" and element.get("title")))
    ):
        return "Span"
    return role


def facts_of(element: Element, role: str, style: ComputedStyle) -> Facts:
    """What is said of an element besides its role."""
    label = element.get("aria-label")
    facts = Facts(
        alternative=label if role in INLINE else None,
        language=element.get("lang", "") if element.tag not in ("html", "body") else "",
        expansion=element.get("title", "") if element.tag == "abbr" else "",
    )
    if role in ("TD", "TH"):
        heads = tuple(element.get("headers", "").split())
        name = element.get("id", "") if role == "TH" else ""
        columns, rows = integer(element.get("colspan"), 1), integer(element.get("rowspan"), 1)
        scope = _scope(element) if role == "TH" else ""
        facts = facts._replace(columns=max(1, columns), rows=max(1, rows), scope=scope, heads=heads, name=name)
        return facts if facts != NO_FACTS else NO_FACTS
    if role == "L" and element.tag in ("ul", "ol", "menu"):
        return facts._replace(numbering=_numbering(element, style))
    return facts if facts != NO_FACTS else NO_FACTS


def _numbering(element: Element, style: ComputedStyle) -> str:
    named = style.list_style_type
    found = NUMBERINGS.get(named if isinstance(named, str) else "")
    return found or ("Decimal" if element.tag == "ol" else "Disc")


def _scope(element: Element) -> str:
    """Which cells a heading cell is of: as it says, or else as it stands (HTML §4.9.12.2)."""
    said = {"col": "Column", "colgroup": "Column", "row": "Row", "rowgroup": "Row"}.get(element.get("scope", ""))
    if said or element.get("role") in ("rowheader", "columnheader"):
        return said or ("Row" if element.get("role") == "rowheader" else "Column")
    row = element.getparent()
    group = row.getparent() if row is not None else None
    if group is not None and group.tag == "thead":
        return "Column"
    cells = list(row) if row is not None else []
    return "Column" if all(cell.tag == "th" for cell in cells) else "Row"


def control_of(element: Element) -> Facts:
    """What a form control is (PrintField attributes, ISO 32000-2 §14.8.5.6)."""
    kind = element.get("type", "text").lower() if element.tag == "input" else element.tag
    name = element.get("aria-label") or element.get("title") or element.get("name") or ""
    if kind in CHECKS:
        return Facts(name, control=CHECKS[kind], checked="on" if "checked" in element.attrib else "off")
    return Facts(name, control="pb" if kind in BUTTONS else "tv")
