"""The head of a document that is written and not read: its metadata, and rules for its pages."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Final

from lxml import etree

from fleetquill.errors import OptionError, nearest
from fleetquill.tree.base import Base
from fleetquill.tree.document import Document
from fleetquill.tree.lengths import Length, PageSize, css_lengths, css_page
from fleetquill.tree.texts import clean

Element = etree._Element
PAGE_PLACES: Final = ("left", "center", "right")


def new_document(
    base: Base,
    source: str = "",
    *,
    title: str = "",
    author: str = "",
    language: str = "",
    look: str = "",
    style: str = "",
    page: str = "",
    margin: Length = "",
) -> Document:
    """A document without content. `page` is a paper or a size, `margin` one to four lengths; `look` and `style` are
    style sheets, before and after the rules for pages."""
    root = etree.Element("html")
    head = etree.SubElement(root, "head")
    etree.SubElement(root, "body")
    if language:
        root.set("lang", language)
    if title:
        etree.SubElement(head, "title").text = clean(title)
    if author:
        etree.SubElement(head, "meta", {"name": "author", "content": clean(author)})
    if look:
        etree.SubElement(head, "style", {"class": "fq-look"}).text = look
    if page or margin != "":
        add_rule(root, page_rule("", page, margin))
    if style:
        etree.SubElement(head, "style").text = style
    return Document(root, base, source)


def add_rule(root: Element, css: str) -> None:
    """Adds a rule to the document's own style element."""
    head = root.find("head")
    assert head is not None
    style = head.find("style[@class='fq-parts']")
    if style is None:
        style = etree.Element("style", {"class": "fq-parts"})
        look = head.find("style[@class='fq-look']")
        head.insert(0 if look is None else head.index(look) + 1, style)
    style.text = f"{style.text or ''}{css}\n"


def page_rule(name: str, page: PageSize, margin: Length) -> str:
    css = f"size:{css_page(page)};" if page else ""
    if margin != "":
        css += f"margin:{css_lengths(margin, 'margin')};"
    return f"@page {name} {{ {css} }}"


def ground_rule(pages: str, address: str) -> str:
    """The rule for a picture that is as large as whole pages and lies under what stands on them."""
    quoted = address.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "")
    return f'@page {pages} {{ background: url("{quoted}") no-repeat 0 0 / 100% 100% }}'


def margin_content(text: str) -> str:
    """'Page {page} of {pages}' as CSS content."""
    parts: list[str] = []
    names = {
        "page": "counter(page)",
        "pages": "counter(pages)",
        "section_page": "counter(-fq-section-page)",
        "section_pages": "counter(-fq-section-pages)",
        "title": "string(fq-title)",
    }
    rest = text
    while rest:
        before, brace, after = rest.partition("{")
        if before:
            escaped = before.replace("\\", "\\\\").replace('"', '\\"').replace("\n", "\\a ")
            parts.append(f'"{escaped}"')
        if not brace:
            break
        if after.startswith("{"):  # twice for itself
            parts.append('"{"')
            rest = after[1:]
            continue
        name, closing, rest = after.partition("}")
        if not closing or name not in names:
            meant = nearest(name, names)
            known = "It may name {page}, {pages}, {section_page}, {section_pages} and {title}."
            hint = f"Did you mean '{{{meant}}}'?" if meant else known
            raise OptionError(f"'{{{name}}}' is not known in the head or foot of a page.", remedy=hint)
        parts.append(names[name])
    return " ".join(parts)


def margin_rules(edge: str, texts: tuple[str, str, str], style: str = "", pages: str = "") -> Iterator[str]:
    """The rules for what stands at the left, the center and the right above ('top') or below ('bottom') pages.

    `pages` is the selector of those; '' for all.
    """
    for place, text in zip(PAGE_PLACES, texts, strict=True):
        content = margin_content(text) if text else "none"
        yield f"@page {pages} {{ @{edge}-{place} {{ content: {content}; width: auto; {style} }} }}"
        if "{title}" in text:
            yield "h1 { string-set: fq-title content() }"


def parts_rule(edge: str, name: str, pages: str) -> str:
    """The rule for a head or foot that is a running element: it is as wide as the page area."""
    lift = "bottom" if edge == "top" else "top"
    empty = f"@{edge}-left {{ content: none }} @{edge}-right {{ content: none }}"
    shape = f"content: element({name}); width: 100%; text-align: left; vertical-align: {lift}"
    return f"@page {pages} {{ {empty} @{edge}-center {{ {shape} }} }}"
