"""HTML text in, as the standard reads it (HTML §13.2), and out."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections import deque
from collections.abc import Iterator
from html import escape
from itertools import islice
from threading import Lock
from typing import Any, Final

from lxml import etree
from selectolax.lexbor import LexborHTMLParser

from fleetquill.errors import OptionError
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
    """The root element of a document; a fragment gets html and body around it."""
    return parse_with_lines(text)[0]


def parse_with_lines(text: str) -> tuple[Element, SourceLines]:
    """The root element, whose elements have the lines of the text as the standard mends it, and their own lines."""
    if not isinstance(text, str):
        raise OptionError(f"HTML is text, not of the type '{type(text).__name__}'.", remedy="Decode bytes first.")
    readable = clean(text.replace("\x00", "\ufffd"))
    parsed = LexborHTMLParser(readable)
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
    return root, SourceLines(readable, mended)


def _read_as_xml(mended: str) -> Element | None:
    """The quick way: mended HTML is nearly XML. None where it is not."""
    text = EMPTY_TAG.sub(r"<\1\2/>", mended.replace("&nbsp;", "&#160;"))
    text = RAW_ELEMENT.sub(lambda match: f"{match[1]}{escape(match[3])}{match[4]}", text)
    parser = etree.XMLParser(huge_tree=True, resolve_entities=False, remove_comments=True, remove_pis=True)
    try:
        root: Element = etree.fromstring(text, parser)
    except (etree.XMLSyntaxError, ValueError):
        return None
    if " xmlns" in text:  # HTML has no namespaces that are written (HTML §13.1.2.3)
        if any(element.prefix for element in root.iter("{*}*")):
            return None  # '<o:p>' is no '<p>'
        for element in root.iter("{*}*"):
            if element.tag.startswith("{"):
                element.tag = etree.QName(element).localname
    return root


def _taken_over(parsed: Any, mended: str) -> Element:
    """The slow way: the elements and texts below a parsed node, one by one in the order of the document."""
    make = etree.SubElement
    document: Element = PARSER.makeelement("html", _attributes(parsed))
    root: Any = document
    tags = _start_tags(mended)
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
                parent.text = (parent.text or "") + clean(node.text_content)
            else:
                last.tail = (last.tail or "") + clean(node.text_content)
        elif node.is_element_node:
            tag: str = node.tag
            attributes = _attributes(node)
            try:
                last = make(parent, tag, attributes)
            except ValueError:
                last = _made(parent, tag, attributes)
            last.sourceline = next(tags, ("", 1))[1]
            first = node.first_child
            if first is not None:
                waiting.append((node.next, parent, last))
                node, parent, last = first, last, None
                continue
        node = node.next
    return document


def _made(parent: Element, tag: str, attributes: dict[str, str]) -> Element:
    """An element of whose names some are such as no element can have."""
    try:
        element = etree.SubElement(parent, NO_NAME.sub("_", tag))
    except ValueError:
        element = etree.SubElement(parent, _some_name(tag))
    for name, value in attributes.items():
        try:
            element.set(NO_NAME.sub("_", name), value)
        except ValueError:
            element.set(_some_name(name), value)
    return element


def _attributes(node: Any) -> dict[str, str]:
    attributes: dict[str, str | None] = node.attributes
    return {name: clean(value or "") for name, value in attributes.items()} if attributes else NOTHING


def _some_name(name: str) -> str:
    """A name that an element may have, like one that it may not."""
    return "_" + NO_NAME.sub("_", name).replace(":", "_")


def plain_names(root: Element) -> None:
    """Takes namespaces and their prefixes off and writes all names small."""
    for element in root.iter():
        if not isinstance(element.tag, str):
            continue
        own = element.tag.rpartition("}")[2].lower()
        try:
            element.tag = own
        except ValueError:
            element.tag = _some_name(own)
        for name in list(element.attrib):
            short = str(name).rpartition("}")[2].rpartition(":")[2].lower()
            if short == "space" != name:
                short = "xml-space"  # one without its prefix says nothing
            if short != name:
                value = element.attrib.pop(name)
                try:
                    element.set(short, element.get(short, value))
                except ValueError:
                    element.set(_some_name(short), value)


# ---- lines ----


class SourceLines:
    """The lines that elements have in a text, found when they are asked for, and as far as that.

    Copies of a document share them, and several threads may ask.
    """

    def __init__(self, text: str, mended: str) -> None:
        self._lock = Lock()
        self._mended = _start_tags(mended)
        self._coming = _start_tags(text)
        self._own: deque[Tag] = deque()  # tags of the text that come next
        self._line = 1  # of the last one of them that was met
        self._pairs: list[tuple[int, str, int]] = []  # of each tag: its line once mended, its name, its own line

    def __deepcopy__(self, memo: object) -> SourceLines:
        return self

    def of(self, tag: str, mended: int) -> int:
        """The line of an element that stands on that one once the text is mended."""
        with self._lock:
            return self._of(tag, mended)

    def _of(self, tag: str, mended: int) -> int:
        first = bisect_left(self._pairs, (mended,))
        for line, name, own in islice(self._pairs, first, None):
            if line > mended:
                return self._pairs[max(0, first - 1)][2]
            if name == tag:
                return own
        for name, line in self._mended:
            self._meet(name)
            self._pairs.append((line, name, self._line))
            if line > mended or (line == mended and name == tag):
                break
        return self._line

    def _meet(self, tag: str) -> None:
        """Goes on to the next start tag of that name, where the text has one nearby."""
        own = self._own
        own.extend(islice(self._coming, FURTHEST - len(own)))
        most = 1 if tag in IMPLIED else len(own)
        for ahead in range(min(most, len(own))):
            if own[ahead][0] == tag:
                self._line = own[ahead][1]
                for _ in range(ahead + 1):
                    own.popleft()
                return


def _start_tags(text: str) -> Iterator[Tag]:
    line, last = 1, 0
    for match in TAGS.finditer(text):
        name = match[2] or match[1]
        if name:
            line += text.count("\n", last, match.start())
            last = match.start()
            yield name.lower(), line


def write_html(root: Element) -> str:
    """The text of a whole document."""
    from lxml import html

    return "<!DOCTYPE html>\n" + str(html.tostring(root, encoding="unicode"))
