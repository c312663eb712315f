"""The manual: the pages of the docs as one document, with contents, cross references and an index, for the press."""

from __future__ import annotations

import posixpath
import re
from collections.abc import Sequence
from html import escape
from pathlib import Path
from typing import Any, Final

from lxml import etree, html
from markdown_it import MarkdownIt
from pygments import highlight
from pygments.formatters import HtmlFormatter
from pygments.lexers import get_lexer_by_name
from pygments.util import ClassNotFound

import fleetquill as fq
from tools.manual.pages import INDEX, DocsPage

SHEET: Final = Path(__file__).parent / "manual.css"
LEFT_OUT: Final = ("index.md",)  # the site's first page, whose place the cover takes
STYLE: Final = "friendly"


def colored(code: str, language: str) -> str:
    """Code as HTML, its words marked by class."""
    try:
        lexer = get_lexer_by_name(language)
    except ClassNotFound:
        return escape(code)
    return str(highlight(code, lexer, HtmlFormatter(nowrap=True)))


def code_styles(selector: str) -> str:
    """How words of code look, within what the selector names."""
    return str(HtmlFormatter(style=STYLE).get_style_defs(selector))  # type: ignore[no-untyped-call]


def slug(text: str) -> str:
    """An identifier as the site makes it of a heading."""
    return re.sub(r"[-\s]+", "-", re.sub(r"[^\w\s-]", "", text).strip().lower())


class Manual:
    """Collects chapters, and gives the whole."""

    def __init__(self, pages: Sequence[DocsPage]) -> None:
        self._pages = [page for page in pages if page.path not in LEFT_OUT]
        self._known = {page.path for page in pages}
        self._terms: dict[str, list[str]] = {}
        self._places = 0  # that the index leads to
        self._markdown = MarkdownIt("commonmark", {"html": True, "typographer": True}).enable("table")
        self._markdown.options["highlight"] = lambda code, language, _: (
            f"<pre class=code><code>{colored(code, language)}</code></pre>"
        )

    def html(self, version: str) -> str:
        """The document; its pictures' addresses are relative to the built docs."""
        body: list[str] = []
        section = ""
        for page in self._pages:
            if page.section != section:
                section = page.section
                body.append(f'<h1 id="part-{slug(section)}">{escape(section)}</h1>')
            body.append(self._chapter(page))
        style = code_styles(".code") + SHEET.read_text(encoding="utf-8")
        return (
            "<!DOCTYPE html><html lang=en><head><title>Fleet Quill: the manual</title>"
            f"<style>{style}</style></head><body>"
            f'<section class="cover"><img src="mark.svg" alt=""><p class="title">Fleet Quill</p>'
            f'<p class="subtitle">The manual</p><p class="version">Version {escape(version)}</p></section>'
            f'<nav class="contents"><p class="head">Contents</p><fq-contents levels="2"></fq-contents></nav>'
            f"{''.join(body)}{self._index()}</body></html>"
        )

    def _chapter(self, page: DocsPage) -> str:
        """A page with its headings a level lower, its identifiers its own, its links within the manual."""
        text = INDEX.sub(lambda found: self._anchors(found["terms"]), page.shown())
        root: Any = html.fragment_fromstring(self._markdown.render(text), create_parent="article")
        seen: set[str] = set()
        for heading in root.iter("h1", "h2", "h3", "h4", "h5"):
            own = slug(heading.text_content())
            while own in seen:
                own += "_1"
            seen.add(own)
            level = int(heading.tag[1])
            heading.tag = f"h{min(level + 1, 6)}"
            heading.set("id", _identifier(page.path, "" if level == 1 else own))
        for link in root.iter("a"):
            self._lead(link, page)
        for picture in root.iter("img"):
            source = picture.get("src", "")
            if "://" not in source:
                picture.set("src", posixpath.normpath(posixpath.join(posixpath.dirname(page.path), source)))
        for fenced in root.iter("pre"):
            if fenced.get("class") is None:
                fenced.set("class", "code")
        _put_marks(root)
        _set_beside(root)
        for table in root.iter("table"):
            for head in table.iter("th"):
                head.set("scope", "col")
        return str(etree.tostring(root, encoding="unicode", method="html"))

    def _anchors(self, terms: str) -> str:
        found = []
        for term in terms.split(","):
            places = self._terms.setdefault(term.strip(), [])
            self._places += 1
            places.append(f"ix-{self._places}")
            found.append(f'<span id="{places[-1]}"></span>')
        return "".join(found)

    def _lead(self, link: Any, page: DocsPage) -> None:
        """A link to another page of the docs leads to its chapter, and says on which page that is."""
        address = link.get("href", "")
        if "://" in address or not address:
            return
        path, _, anchor = address.partition("#")
        target = posixpath.normpath(posixpath.join(posixpath.dirname(page.path), path)) if path else page.path
        if target in self._known and target not in LEFT_OUT:
            link.set("href", f"#{_identifier(target, anchor)}")
            link.set("class", "xref")
        else:
            link.tag = "span"
            link.attrib.pop("href")

    def _index(self) -> str:
        rows: list[str] = []
        letter = ""
        for term in sorted(self._terms, key=str.casefold):
            if term[0].upper() != letter:
                letter = term[0].upper()
                rows.append(f'<p class="letter">{escape(letter)}</p>')
            links = ", ".join(f'<a href="#{place}" title="{escape(term)}"></a>' for place in self._terms[term])
            rows.append(f'<p class="term">{escape(term)} {links}</p>')
        return f'<h1 id="index">Index</h1><div class="index">{"".join(rows)}</div>'


def _identifier(path: str, anchor: str) -> str:
    name = path.removesuffix(".md").replace("/", "-")
    return f"{name}--{anchor}" if anchor else name


def _put_marks(root: Any) -> None:
    """Marks for the index stand in what they follow: a paragraph of them would part a heading from its text."""
    for marks in root.xpath("p[not(normalize-space()) and span[starts-with(@id, 'ix-')]]"):
        before = marks.getprevious()
        if before is not None:
            before.extend(list(marks))
            root.remove(marks)


def _set_beside(root: Any) -> None:
    """Code stands beside the pages that it makes."""
    for figure in list(root.iter("figure")):
        before = figure.getprevious()
        if before is None or figure.get("class") != "made":
            continue
        if before.tag == "div" and before.get("class") == "pair":
            before[1].append(figure)
        elif before.tag == "pre":
            pair = etree.Element("div", {"class": "pair"})
            before.addprevious(pair)
            shown = etree.SubElement(pair, "div", {"class": "shown"})
            pair.insert(0, before)
            shown.append(figure)


def write_manual(pages: Sequence[DocsPage], base: Path, target: Path, version: str) -> fq.Summary:
    """Sets the manual; `base` is where the built docs with their pictures are."""
    manuscript = fq.Manuscript.from_html(Manual(pages).html(version), base=base, source="manual")
    return fq.write(manuscript, target, conform=("PDF/A-3a", "PDF/UA-1"), locale="en-IE")
