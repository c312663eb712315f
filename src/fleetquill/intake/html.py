"""The HTML door: text → element tree, recovered as browsers recover it."""

from __future__ import annotations

from pathlib import Path
from typing import Final

from lxml import etree

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.errors import SourceError, Where

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


def read_text(path: Path, what: str) -> str:
    """A text file in UTF-8; an error says what could not be read and why."""
    try:
        return path.read_text(encoding="utf-8-sig")
    except FileNotFoundError as error:
        raise SourceError(
            f"The {what} does not exist.", where=Where(str(path)), remedy="Check the name and the folder."
        ) from error
    except IsADirectoryError as error:
        raise SourceError(f"The {what} is a folder.", where=Where(str(path)), remedy="Give a file.") from error
    except UnicodeDecodeError as error:
        raise SourceError(
            f"The {what} is not UTF-8 text (byte {error.start}).",
            where=Where(str(path)),
            remedy="Save it in UTF-8.",
        ) from error
    except OSError as error:
        reason = error.strerror or "unknown reason"
        raise SourceError(f"The {what} cannot be read ({reason}).", where=Where(str(path))) from error


def read_html(path: Path) -> Manuscript:
    """The manuscript of an HTML file; its links are relative to its folder."""
    text = read_text(path, "document")
    return Manuscript.of_tree(parse_html(text), base=path.parent, source=str(path))
