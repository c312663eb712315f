"""A document as a page of the web: what only pages on paper know is put in words that browsers understand."""

from __future__ import annotations

import copy
import re
from base64 import b64encode
from collections.abc import Callable, Iterator
from html import escape
from typing import Final, NamedTuple

from lxml import etree

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Drawing
from fleetquill.layout.block.replaced import used_size
from fleetquill.layout.boxes.boxes import PictureBox
from fleetquill.layout.boxes.replaced_elements import REPLACED
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.sizing import edges_of
from fleetquill.layout.pages.page_area import PageArea
from fleetquill.policy import Resource
from fleetquill.structure.embedding import Embedding
from fleetquill.structure.sheets import Cell, Room, SheetRow, ledger_rows, tally_texts
from fleetquill.style.base_sheet import parts_css
from fleetquill.text.face import Face
from fleetquill.text.fonts import GENERIC
from fleetquill.text.subsets import media_type, subset_of
from fleetquill.tree.base import Base
from fleetquill.tree.html import write_html

Element = etree._Element

DRAWN: Final = ("fq-chart", "fq-figure", "fq-code", "fq-spark")
NO_PLACE: Final = ("script", "link", "style", "base")  # elements that go, or go to the head
FIGURES: Final = ("tnum", "pnum", "lnum", "onum")  # features that documents ask for, besides the usual ones
WRITTEN: Final = "0123456789.,-+%€$£ :–—"  # that values and lists may be written with, besides what stands there
ROWS: Final = re.compile(r"<!--fq-rows-(\d+)-->")
SCREEN: Final = """html { font-family: sans-serif } table { border-collapse: collapse }
.fq-note-call { vertical-align: super; font-size: 0.7em; line-height: 0 }
.fq-notes { border-top: 1px solid #9aa7a5; margin-top: 2em; font-size: 0.85em } img, svg { max-width: 100% }"""


class WebRoom(NamedTuple):
    """What a page of the web is made with: the tree, which is a copy that may be changed, its tables and styles; how
    drawings are drawn; how files are read."""

    room: Room
    context: Context
    read: Callable[[str, Base], Resource]
    svg_of: Callable[[Drawing], bytes]
    area: PageArea  # of the first page


class WebPage:
    """One file of HTML, with everything in it; `linked` leaves pictures and style sheets where they are."""

    def __init__(self, made_with: WebRoom, *, linked: bool) -> None:
        self._with = made_with
        self._room = made_with.room
        self._linked = linked
        self._embedding = Embedding(made_with.read)
        self._ledgers: list[Iterator[SheetRow]] = []

    @property
    def remarks(self) -> list[str]:
        return list(self._embedding.remarks)

    def parts(self) -> Iterator[str]:
        """The text of the file, piece by piece: the rows of ledgers come as they are read."""
        document = self._room.document
        sheets = [*self._faces(), *self._sheets()]
        changes = self._changes()
        for element, change in changes:
            _replace(element, change)
        self._fill_head(sheets)
        text = write_html(document.root)
        at = 0
        for place in ROWS.finditer(text):
            yield text[at : place.start()]
            yield from self._rows(self._ledgers[int(place[1])])
            at = place.end()
        yield text[at:] + "\n"

    # ---- the body ----

    def _changes(self) -> list[tuple[Element, Element | None]]:
        """Elements, each with what comes in its place; found before anything is changed, for styles hang on it."""
        room = self._room
        root = room.document.root
        tallies: dict[Element, str] = {}
        for table in root.iter("table"):
            tallies |= tally_texts(table, room)
        notes: list[Element] = []
        changes: list[tuple[Element, Element | None]] = []
        for element in root.iter():
            heed()
            tag = element.tag
            if not isinstance(tag, str) or tag == "html":
                continue
            style = room.styles.of(element)
            if tag in DRAWN:
                changes.append((element, self._drawn(element)))
            elif tag == "fq-value":
                text = room.formats.form(element.get("value", ""), element.get("form") or "number")
                changes.append((element, _made("span", text, element)))
            elif tag == "fq-tally":
                changes.append((element, _made("span", tallies.get(element, ""), element)))
            elif tag == "fq-ledger":
                changes.append((element, self._ledger(element)))
            elif tag == "img" and not self._linked:
                element.set("src", self._embedding.address(element.get("src", "").strip(), room.document.base))
                if element.get("srcset") is not None:
                    del element.attrib["srcset"]
            elif tag in NO_PLACE or style.fq_show_on in ("continued", "going-on"):
                changes.append((element, None))
            elif style.fq_reference == "page" and style.position == "fixed":
                element.set("style", f"{element.get('style', '')};position:absolute")  # on the one page that there is
            elif style.outside == "footnote":
                notes.append(element)
                changes.append((element, _call(len(notes))))
        if notes:
            self._add_notes(notes)
        return changes

    def _add_notes(self, notes: list[Element]) -> None:
        """A list of the notes at the end of the body."""
        listed = etree.SubElement(self._room.document.body, "ol", {"class": "fq-notes"})
        for number, note in enumerate(notes, 1):
            item = etree.SubElement(listed, "li", {"id": f"fq-note-{number}"})
            item.text = note.text
            item.extend([copy.deepcopy(child) for child in note])

    def _drawn(self, element: Element) -> Element | None:
        """A chart, a code or a figure as an SVG picture in the text."""
        context, style = self._with.context, self._room.styles.of(element)
        boxes = REPLACED[str(element.tag)](context, element, style) or []
        box = next((box for box in boxes if isinstance(box, PictureBox)), None)
        if box is None or not isinstance(box.picture, Drawing):
            return None
        width, height = used_size(box, self._with.area.content_width, None, edges_of(style, 0.0))
        parser = etree.XMLParser(resolve_entities=False, no_network=True, huge_tree=True)
        svg = etree.fromstring(self._with.svg_of(box.picture.at_size(width, height)), parser)
        facts = {"width": f"{width:.2f}", "height": f"{height:.2f}", "role": "img", "aria-label": box.alternative}
        for name, fact in {**facts, **_kept(element)}.items():
            svg.set(name, fact)
        return svg

    def _ledger(self, element: Element) -> Element:
        """A table, whose rows come when it is written."""
        table = etree.Element("table", _kept(element))
        if element.get("caption"):
            etree.SubElement(table, "caption").text = element.get("caption")
        table.append(etree.Comment(f"fq-rows-{len(self._ledgers)}"))
        self._ledgers.append(ledger_rows(element, self._room))
        return table

    def _rows(self, rows: Iterator[SheetRow]) -> Iterator[str]:
        part = ""
        for row in rows:
            wanted = {"head": "thead", "total": "tfoot"}.get(row.kind, "tbody")
            if wanted != part:
                yield (f"</{part}>" if part else "") + f"<{wanted}>"
                part = wanted
            named = f' class="{row.kind}"' if row.kind in ("group", "subtotal", "total") else ""
            yield f"<tr{named}>{''.join(map(self._written, row.cells))}</tr>\n"
        if part:
            yield f"</{part}>"

    def _written(self, cell: Cell) -> str:
        tag = "th" if cell.is_head else "td"
        span = f' colspan="{cell.across}"' if cell.across > 1 else ""
        side = f' style="text-align:{cell.align}"' if cell.align in ("end", "right", "center") else ""
        text = escape(cell.text(self._room.formats), quote=False).replace("\n", "<br>")
        return f"<{tag}{span}{side}>{text}</{tag}>"

    # ---- the head ----

    def _faces(self) -> list[Element]:
        """The faces of the press that the document is set in, each with the characters that it is used for.

        A family that is asked for by the name of a face of ours goes along; those that the document brings along do
        already, and generic ones are the browser's.
        """
        if self._linked:
            return []
        room, fonts = self._room, self._with.context.fonts
        used: dict[Face, tuple[str, int, str, set[str]]] = {}
        for element in room.document.body.iter():
            if not isinstance(element.tag, str) or room.styles.is_hidden(element):
                continue
            style = room.styles.of(element)
            known = (name for name in style.font_family if name not in GENERIC)
            family = next((name for name in known if fonts.library.entries(name)), "")
            face = fonts.of(style).face
            text = (element.text or "", *(child.tail or "" for child in element))
            if family and face.path.is_file() and "".join(text).strip():
                letters: set[str] = set()
                _, _, _, letters = used.setdefault(face, (family, style.font_weight, style.font_style, letters))
                letters.update(*text, WRITTEN)
        rules: list[str] = []
        for face, (family, weight, slope, characters) in used.items():
            content = b64encode(subset_of(face, characters, FIGURES)).decode("ascii")
            facts = f'font-family: "{family}"; font-weight: {weight}; font-style: {slope}'
            rules.append(f"@font-face {{ {facts}; src: url(data:{media_type(face)};base64,{content}) }}")
        return [_style("\n".join(rules))] if rules else []

    def _sheets(self) -> list[Element]:
        """The document's style sheets as elements of a head."""
        document = self._room.document
        found: list[Element] = []
        for element in document.root.iter("style", "link"):
            is_sheet = element.tag == "style" or "stylesheet" in element.get("rel", "").lower().split()
            if not is_sheet or any(above.tag == "svg" for above in element.iterancestors()):
                continue
            if self._linked:
                found.append(copy.deepcopy(element))
            elif element.tag == "style":
                found.append(_style(self._embedding.sheet(element.text or "", document.base)))
            else:
                found.append(_style(self._embedding.linked_sheet(element.get("href", ""), document.base)))
        for css, _ in document.styles:
            found.append(_style(css if self._linked else self._embedding.sheet(css, document.base)))
        return found

    def _fill_head(self, sheets: list[Element]) -> None:
        """What browsers want to know, and how the page looks."""
        document = self._room.document
        head = document.root.find("head")
        assert head is not None
        for meta in head.findall("meta"):
            if meta.get("charset") is not None or meta.get("http-equiv") is not None:
                head.remove(meta)
        head.insert(0, etree.Element("meta", {"charset": "utf-8"}))
        if head.find("meta[@name='viewport']") is None:
            head.insert(1, etree.Element("meta", {"name": "viewport", "content": "width=device-width"}))
        title = head.find("title")
        if document.metadata.title:
            title = etree.SubElement(head, "title") if title is None else title
            title.text = document.metadata.title
        head.extend([_style(f"{_as_page(self._with.area)}\n{SCREEN}\n{parts_css()}"), *sheets])


def _as_page(area: PageArea) -> str:
    """The body as wide as a page, with its margins: what lies on pages by coordinates lies there on the body.

    On a narrower screen the margins at the sides give way.
    """
    top, right, bottom, left = (f"{side:g}px" for side in (area.top, area.right, area.bottom, area.left))
    width = f"{area.content_width:g}px"
    return (
        f"body {{ position: relative; max-width: {width}; margin: 0 auto; padding: {top} {right} {bottom} {left} }}\n"
        f"section.fq-plate {{ margin: 0 -{right} 0 -{left} }}\n"
        f"@media (max-width: {area.width:g}px) {{ body {{ padding: {top} 5mm {bottom} }} }}"
    )


def _style(css: str) -> Element:
    element = etree.Element("style")
    element.text = css.replace("</", "<\\/")
    return element


def _kept(element: Element) -> dict[str, str]:
    """What an element is known by, which what takes its place is known by too."""
    return {name: element.get(name, "") for name in ("id", "class", "style") if element.get(name)}


def _made(tag: str, text: str, element: Element) -> Element:
    made = etree.Element(tag, _kept(element))
    made.text = text
    return made


def _call(number: int) -> Element:
    call = etree.Element("a", {"class": "fq-note-call", "href": f"#fq-note-{number}"})
    call.text = str(number)
    return call


def _replace(element: Element, change: Element | None) -> None:
    """Puts something in the place of an element, or nothing; the text after it stays."""
    parent = element.getparent()
    if parent is None:
        return
    if change is not None:
        change.tail = element.tail
        parent.replace(element, change)
        return
    before = element.getprevious()
    if element.tail:
        if before is not None:
            before.tail = (before.tail or "") + element.tail
        else:
            parent.text = (parent.text or "") + element.tail
    parent.remove(element)
