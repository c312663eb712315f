"""HTML in and out: text to an element tree, recovered as browsers recover it, and back."""

from __future__ import annotations

from typing import Final

from lxml import etree

Element = etree._Element


def parse_html(text: str) -> Element:
    """The root element of a document; a fragment gets html and body around it."""
    parser = etree.HTMLParser(encoding="utf-8", remove_comments=True, remove_pis=True, huge_tree=True)
    content = text.encode("utf-8", "replace")
    try:
        root: Element | None = etree.fromstring(content or b"<html></html>", parser)
    except etree.XMLSyntaxError:
        root = None
    if root is None:  # a document of comments alone, say
        root = etree.fromstring(b"<html><head></head><body></body></html>", parser)
    _clear_head(root)
    _add_row_groups(root)
    return root


HEAD_CONTENT: Final = frozenset(("title", "base", "link", "style", "meta", "script", "noscript", "template"))


def _clear_head(root: Element) -> None:
    """What cannot stand in a head, but was parsed into it, begins the body (HTML §13.2.6.4.4)."""
    head = root.find("head")
    if head is None:
        return
    moved: list[Element] = []
    for child in list(head):
        if moved or (isinstance(child.tag, str) and child.tag not in HEAD_CONTENT):
            moved.append(child)
    if not moved:
        return
    body = root.find("body")
    if body is None:
        body = root.makeelement("body")
        root.append(body)
    before, body.text = body.text or "", None
    body[:0] = moved
    moved[-1].tail = (moved[-1].tail or "") + before


def _add_row_groups(root: Element) -> None:
    """Rows that stand in a table directly get a tbody around them (HTML §13.2.6.4.9)."""
    for table in list(root.iter("table")):
        group: Element | None = None
        for child in list(table):
            if child.tag != "tr":
                group = None
                continue
            if group is None:
                group = table.makeelement("tbody")
                child.addprevious(group)
                group.sourceline = child.sourceline
            group.append(child)


def write_html(root: Element) -> str:
    """The text of a whole document."""
    from lxml import html

    return "<!DOCTYPE html>\n" + str(html.tostring(root, encoding="unicode"))
