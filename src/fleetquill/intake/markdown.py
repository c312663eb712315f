"""The Markdown door: CommonMark with tables, notes, tasks and terms, and front matter for title, style and page."""

from __future__ import annotations

from pathlib import Path
from typing import Any, Final

from lxml import etree

from fleetquill.errors import DataError, Where, nearest
from fleetquill.intake.order import Order
from fleetquill.tree.base import Base
from fleetquill.tree.document import Document
from fleetquill.tree.files import read_text
from fleetquill.tree.head import PAGE_PLACES, add_rule, margin_rules, new_document
from fleetquill.tree.html import parse_html

Element = etree._Element
KNOWN: Final = ("title", "author", "language", "style", "page", "margin", "styles", "header", "footer")


def read(order: Order) -> Document:
    """The document of a Markdown file; its links are relative to its folder."""
    path = Path(order.source)
    return markdown(read_text(path, "document"), path.parent, str(path))


def markdown(text: str, base: Base, source: str = "") -> Document:
    """A document from Markdown text.

    Front matter is YAML between two lines of '---': title, author, language, style (CSS), styles
    (files), page, margin, header and footer. Raises DataError where it says something else.
    """
    from markdown_it import MarkdownIt
    from mdit_py_plugins.anchors import anchors_plugin
    from mdit_py_plugins.deflist import deflist_plugin
    from mdit_py_plugins.footnote import footnote_plugin
    from mdit_py_plugins.front_matter import front_matter_plugin
    from mdit_py_plugins.tasklists import tasklists_plugin

    parser = MarkdownIt("commonmark", {"html": True, "typographer": True}).enable(["table", "strikethrough"])
    parser.use(front_matter_plugin).use(footnote_plugin).use(deflist_plugin).use(tasklists_plugin)
    parser.use(anchors_plugin, max_level=6)  # so that links may lead to headings
    tokens = parser.parse(text)
    facts = _front_matter(tokens, source)
    parsed = parse_html(str(parser.renderer.render(tokens, parser.options, {})))
    _place_footnotes(parsed)
    for item in parsed.iterfind(".//li[@class='task-list-item']"):
        item.set("style", "list-style-type: none")
    document = new_document(
        base,
        source,
        margin=facts.get("margin", ""),
        **{name: str(facts.get(name, "")) for name in ("title", "author", "language", "style", "page")},
    )
    for name, edge in (("header", "top"), ("footer", "bottom")):
        for rule in margin_rules(edge, _places(name, facts.get(name), source)):
            add_rule(document.root, rule)
    head, body = document.root.find("head"), document.body
    assert head is not None
    for sheet in facts.get("styles", ()) or ():
        etree.SubElement(head, "link", {"rel": "stylesheet", "href": str(sheet)})
    content = parsed.find("body")
    if content is not None:
        body.text = content.text
        body.extend(list(content))
    return document


def _places(name: str, given: Any, source: str) -> tuple[str, str, str]:
    """What stands at the left, the center and the right of a head or foot."""
    places = given if isinstance(given, dict) else {"center": str(given)} if given else {}
    unknown = [place for place in places if place not in PAGE_PLACES]
    if unknown:
        raise DataError(f"The {name} has no place '{unknown[0]}'.", where=Where(source, 1))
    left, center, right = (str(places.get(place, "")) for place in PAGE_PLACES)
    return left, center, right


def _front_matter(tokens: list[Any], source: str) -> dict[str, Any]:
    if not tokens or tokens[0].type != "front_matter":
        return {}
    from fleetquill.tree.data import read_yaml

    facts = read_yaml(tokens[0].content, source) or {}
    if not isinstance(facts, dict):
        raise DataError("The front matter is not a list of names with values.", where=Where(source, 1))
    for name in facts:
        if name not in KNOWN:
            meant = nearest(str(name), KNOWN)
            remedy = f"Did you mean '{meant}'?" if meant else f"It may have {', '.join(KNOWN)}."
            raise DataError(f"The front matter has no '{name}'.", where=Where(source, 1), remedy=remedy)
    return facts


def _place_footnotes(root: Element) -> None:
    """Notes that stand at the end of the document go where they are called, as footnotes of the page."""
    notes = {item.get("id", ""): item for item in root.iter("li") if "footnote-item" in item.get("class", "")}
    for call in list(root.iter("sup")):
        link = call.find("a")
        if "footnote-ref" not in call.get("class", "") or link is None:
            continue
        item = notes.get(link.get("href", "").removeprefix("#"))
        if item is None or item in call.iterancestors():  # a note that calls itself
            continue
        note = etree.Element("fq-note")
        paragraphs = item.findall("p")
        for number, paragraph in enumerate(paragraphs):
            for back in paragraph.findall("a[@class='footnote-backref']"):
                _drop(back)
            piece = etree.SubElement(note, "span", {} if number == 0 else {"style": "display:block"})
            piece.text = paragraph.text
            piece.extend(list(paragraph))
        note.tail = call.tail
        parent = call.getparent()
        assert parent is not None
        parent.replace(call, note)
    for section in [*root.iter("section"), *root.iter("hr")]:
        if "footnotes" in section.get("class", ""):
            parent = section.getparent()
            assert parent is not None
            parent.remove(section)


def _drop(element: Element) -> None:
    """Takes an element out and leaves the text after it."""
    parent = element.getparent()
    assert parent is not None
    if element.tail:
        before = element.getprevious()
        if before is not None:
            before.tail = (before.tail or "") + element.tail
        else:
            parent.text = (parent.text or "") + element.tail
    parent.remove(element)
