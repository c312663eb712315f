"""HTML text in, as the standard reads it (HTML §13.2), and out."""

from __future__ import annotations

import re
from bisect import bisect_left
from html import escape
from typing import Any, Final

from lxml import etree
from selectolax.lexbor import LexborHTMLParser

from fleetquill.tree.texts import clean

Element = etree._Element

PARSER: Final = etree.HTMLParser()  # whose elements may have any name that HTML lets them have
EMPTY = "area|base|basefont|bgsound|br|col|embed|frame|hr|img|input|keygen|link|meta|param|source|track|wbr"
RAW = "script|style|xmp|iframe|noembed|noframes|plaintext"  # whose text is no markup
EMPTY_TAG: Final = re.compile(rf'<({EMPTY})((?:\s+[^\s"<>=]+(?:="[^"]*")?)*)>')
RAW_ELEMENT: Final = re.compile(rf"(<({RAW})(?: [^>]*)?>)(.*?)(</\2>)", re.DOTALL)
TAGS: Final = re.compile(  # start tags; comments and what is no markup are passed over
    rf"<!--.*?(?:--!?>|\Z)|<((?:{RAW}|title|textarea)(?=[\s/>])).*?</\1|<([a-z][^\s/>]*)", re.DOTALL | re.IGNORECASE
)
IMPLIED: Final = frozenset(("html", "head", "body", "tbody", "colgroup", "tr"))  # that may have no tag of their own
FURTHEST: Final = 8  # tags that are passed over for that of an element
FOREIGN: Final = ("svg", "math")
NO_NAME: Final = re.compile(r"[^\w.:-]+")
NOTHING: Final[dict[str, str]] = {}

Tag = tuple[str, int]  # the name of a start tag, and its line


def parse_html(text: str) -> Element:
    """The root element of a document; a fragment gets html and body around it.

    The lines of elements are those of the text as the standard mends it: see `source_lines`.
    """
    parsed = LexborHTMLParser(_readable(text))
    mended = parsed.html or ""
    root = _read_as_xml(mended)
    if root is None:
        root = _taken_over(parsed.root, mended)
    for foreign in root.iter(*FOREIGN):
        plain_names(foreign)
    for template in root.iter("template"):
        template[:] = []
        template.text = None
    if root.find("head") is None:
        root.insert(0, root.makeelement("head"))
    return root


def _readable(text: str) -> str:
    return clean(text.replace("\x00", "\ufffd"))


def _read_as_xml(mended: str) -> Element | None:
    """The quick way: mended HTML is nearly XML. None where it is not."""
    text = EMPTY_TAG.sub(r"<\1\2/>", mended.replace("&nbsp;", "&#160;"))
    text = RAW_ELEMENT.sub(lambda match: f"{match[1]}{escape(match[3])}{match[4]}", text)
    parser = etree.XMLParser(huge_tree=True, resolve_entities=False, remove_comments=True, remove_pis=True)
    try:
        root: Element = etree.fromstring(text, parser)
    except (etree.XMLSyntaxError, ValueError):
        return None
    return root


def _taken_over(parsed: Any, mended: str) -> Element:
    """The slow way: the elements and texts below a parsed node, one by one in the order of the document."""
    make = etree.SubElement
    document: Element = PARSER.makeelement("html", _attributes(parsed))
    root: Any = document
    tags = iter(_start_tags(mended))
    root.sourceline = next(tags, ("", 1))[1]
    waiting: list[tuple[Any, Any, Any]] = []  # where to go on after an element
    node: Any = parsed.first_child
    parent: Any = root
    last: Any = None
    while node is not None or waiting:
        if node is None:
            node, parent, last = waiting.pop()
            continue
        if node.is_text_node:
            if last is None:
                parent.text = (parent.text or "") + node.text_content
            else:
                last.tail = (last.tail or "") + node.text_content
        elif node.is_element_node:
            tag: str = node.tag
            attributes = _attributes(node)
            try:
                last = make(parent, tag, attributes)
            except ValueError:
                last = make(parent, NO_NAME.sub("_", tag), {NO_NAME.sub("_", k): v for k, v in attributes.items()})
            last.sourceline = next(tags, ("", 1))[1]
            first = node.first_child
            if first is not None:
                waiting.append((node.next, parent, last))
                node, parent, last = first, last, None
                continue
        node = node.next
    return document


def _attributes(node: Any) -> dict[str, str]:
    attributes: dict[str, str | None] = node.attributes
    return {name: value or "" for name, value in attributes.items()} if attributes else NOTHING


def plain_names(root: Element) -> None:
    """Takes the namespaces off and writes all names small."""
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        element.tag = element.tag.rpartition("}")[2].lower()
        for name in list(element.attrib):
            short = str(name).rpartition("}")[2].lower()
            if short != name:
                value = element.attrib.pop(name)
                element.set(short, element.get(short, value))


# ---- lines ----


class SourceLines:
    """The lines that elements have in a text, found when they are first asked for."""

    def __init__(self, text: str) -> None:
        self._text = text
        self._pairs: list[tuple[int, str, int]] = []  # of each tag: its line once mended, its name, its own line

    def of(self, tag: str, mended: int) -> int:
        """The line of an element that stands on that one once the text is mended."""
        if not self._pairs:
            self._pairs = self._aligned()
        first = bisect_left(self._pairs, (mended,))
        for line, name, own in self._pairs[first : first + FURTHEST]:
            if line == mended and name == tag:
                return own
        return self._pairs[max(0, first - 1)][2] if self._pairs else mended

    def _aligned(self) -> list[tuple[int, str, int]]:
        readable = _readable(self._text)
        own = _start_tags(readable)
        pairs = []
        place = 0
        for name, line in _start_tags(LexborHTMLParser(readable).html or ""):
            place = _further(own, place, name)
            pairs.append((line, name, own[place - 1][1] if place else 1))
        return pairs


def _further(tags: list[Tag], place: int, tag: str) -> int:
    """The place after the next start tag of that name; where an element has none of its own, no further."""
    if place < len(tags) and tags[place][0] == tag:
        return place + 1
    if tag not in IMPLIED:
        for ahead in range(place + 1, min(place + FURTHEST, len(tags))):
            if tags[ahead][0] == tag:
                return ahead + 1
    return place


def _start_tags(text: str) -> list[Tag]:
    breaks = [match.start() for match in re.finditer("\n", text)]
    found = []
    line = 0
    for match in TAGS.finditer(text):
        name = match[2] or match[1]
        if name:
            while line < len(breaks) and breaks[line] < match.start():
                line += 1
            found.append((name.lower(), line + 1))
    return found


def write_html(root: Element) -> str:
    """The text of a whole document."""
    from lxml import html

    return "<!DOCTYPE html>\n" + str(html.tostring(root, encoding="unicode"))
