"""A word-processor file (ISO/IEC 29500): the body, then all that it refers to."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import chain
from typing import Any, BinaryIO, Final

from fleetquill.output.docx.body import Shared, Writer
from fleetquill.output.docx.looks import ROLES
from fleetquill.output.docx.package import Package, Part
from fleetquill.output.docx.xml import DECLARATION, NAMESPACES, element, twips
from fleetquill.output.how import How
from fleetquill.structure.flow import (
    Columns,
    Flow,
    PageSides,
    Piece,
    Sheet,
    SheetKind,
    Text,
    Which,
)
from fleetquill.style.properties import ComputedStyle
from fleetquill.tree.metadata import Metadata

MOST_COLUMNS: Final = 45  # §17.6.4
WHICH: Final[dict[Which, str]] = {"first": "first", "right": "default", "left": "even"}
EMPTY: Final = '<w:p><w:pPr><w:spacing w:before="0" w:after="0" w:line="20" w:lineRule="exact"/>'
NOTE_MARKS: Final = (
    '<w:footnote w:type="separator" w:id="-1"><w:p><w:r><w:separator/></w:r></w:p></w:footnote>'
    '<w:footnote w:type="continuationSeparator" w:id="0"><w:p><w:r><w:continuationSeparator/></w:r></w:p></w:footnote>'
)


def write_flow(flow: Flow, metadata: Metadata, how: How, stream: BinaryIO) -> list[str]:
    """Writes a document; gives what could not be said."""
    with Package(stream) as package:
        document = _Document(flow, package)
        document.write(metadata)
    return list(document.shared.remarks)


class _Document:
    def __init__(self, flow: Flow, package: Package) -> None:
        self._flow = flow
        self._package = package
        self.shared = Shared(package, flow.base)
        self._part = Part("word/document.xml", "document.main")
        self._sides: dict[str, str] = {}  # references to heads and feet, by the pages' name
        self._side_parts: list[tuple[Part, str]] = []
        self._evens = any(_differs(kind, "left", "right") for kind in flow.sheets.values())

    def write(self, metadata: Metadata) -> None:
        with self._package.open(self._part) as file:
            file.write(f"{DECLARATION}<w:document {NAMESPACES}><w:body>".encode())
            for part in self._body():
                file.write(part.encode("utf-8", "replace"))
            file.write(b"</w:body></w:document>")
        self._add_others()
        self._package.add_relationships(self._part)
        self._package.finish(self._part, metadata)

    # ---- the body and its sections ----

    def _body(self) -> Iterator[str]:
        """Paragraphs and tables; the last paragraph of a section says what its pages are (§17.6.18)."""
        writer = Writer(self.shared, self._part)
        sheet, columns = "", Columns(1, 0.0)
        held = ""  # the last element, for what a section says at its end
        fresh = True  # whether nothing stands in the section yet
        ends = "nextPage"  # how the section at hand begins
        for block in self._flow.blocks:
            if isinstance(block, (Sheet, Columns)):
                after = (block.name, Columns(1, 0.0)) if isinstance(block, Sheet) else (sheet, block)
                if not fresh and after != (sheet, columns):
                    yield from _closed(held, self._section(sheet, columns, ends))
                    held, fresh = "", True
                    ends = "nextPage" if isinstance(block, Sheet) else "continuous"
                sheet, columns = after
                continue
            for part in writer.blocks([block], self._width(sheet, columns)):
                yield held
                held, fresh = part, False
        yield held
        yield self._section(sheet, columns, ends)

    def _width(self, sheet: str, columns: Columns) -> float:
        """The width of the room for text."""
        inner = self._kind(sheet).inner_width
        return (inner - columns.gap * (columns.number - 1)) / columns.number

    def _kind(self, sheet: str) -> SheetKind:
        return self._flow.sheets.get(sheet) or self._flow.sheets[""]

    def _section(self, sheet: str, columns: Columns, begins: str) -> str:
        """§17.6.17: heads and feet, the paper, its margins, columns."""
        kind = self._kind(sheet)
        if sheet not in self._sides:
            self._sides[sheet] = self._references(kind)
        turned = {"orient": "landscape"} if kind.width > kind.height else {}
        size = element("pgSz", w=twips(kind.width), h=twips(kind.height), **turned)  # at most 22 inches, rolls too
        margins = element(
            "pgMar", top=twips(kind.top), right=twips(kind.right), bottom=twips(kind.bottom), left=twips(kind.left),
            header=twips(max(0.0, kind.top / 2 - 8)), footer=twips(max(0.0, kind.bottom / 2 - 8)), gutter=0,
        )  # fmt: skip
        number = min(columns.number, MOST_COLUMNS)
        lines = element("cols", num=number, space=twips(columns.gap)) if number > 1 else ""
        first = element("titlePg") if _differs(kind, "first", "right") else ""
        rtl = element("bidi") if self._flow.rtl else ""
        facts = f"{element('type', val=begins)}{size}{margins}{lines}{first}{rtl}"
        return f"<w:sectPr>{self._sides[sheet]}{facts}</w:sectPr>"

    # ---- heads and feet ----

    def _references(self, kind: SheetKind) -> str:
        """§17.10: a part for each, those that every page needs and those that are others on some."""
        found: list[str] = []
        wanted: list[Which] = ["right"]
        if _differs(kind, "first", "right"):
            wanted.append("first")
        if self._evens:
            wanted.append("left")
        for name, sides in (("header", kind.heads), ("footer", kind.feet)):
            for which in wanted:
                if sides[which] or which != "right":
                    part = self._side(name, sides[which], kind.inner_width)
                    reference = self._part.relate(name, part.name.removeprefix("word/"))
                    found.append(f'<w:{name}Reference w:type="{WHICH[which]}" r:id="{reference}"/>')
        return "".join(found)

    def _side(self, name: str, sides: PageSides, width: float) -> Part:
        part = Part(f"word/{name}{len(self._side_parts) + 1}.xml", name)
        writer = Writer(self.shared, part, name)
        content = "".join(writer.blocks(sides.blocks, width)) + self._line(writer, sides, name, width)
        tag = "hdr" if name == "header" else "ftr"
        self._side_parts.append((part, f"<w:{tag} {NAMESPACES}>{content or '<w:p/>'}</w:{tag}>"))
        return part

    def _line(self, writer: Writer, sides: PageSides, name: str, width: float) -> str:
        """What stands at the left, in the middle and at the right, on one line with stops between."""
        style = next((style for style in map(_style_of, chain(sides.left, sides.center, sides.right)) if style), None)
        if style is None:
            return ""
        role = ROLES[name]
        stops = element("tab", val="center", pos=twips(width / 2)) + element("tab", val="right", pos=twips(width))
        properties = self.shared.looks.paragraph(role, style, {"tabs": f"<w:tabs>{stops}</w:tabs>", "jc": ""})
        tab = "<w:r><w:tab/></w:r>"
        parts = ["".join(writer.runs(pieces, role, style)) for pieces in (sides.left, sides.center, sides.right)]
        while len(parts) > 1 and not parts[-1]:
            parts.pop()
        return f"<w:p><w:pPr>{properties}</w:pPr>{tab.join(parts)}</w:p>"

    # ---- all else ----

    def _add_others(self) -> None:
        """Writes the other parts."""
        shared, package, main = self.shared, self._package, self._part
        for part, content in self._side_parts:
            package.add(part, content)
        styles = shared.looks.sheet()
        others: list[tuple[Part, str]] = [
            (Part("word/styles.xml", "styles"), f"<w:styles {NAMESPACES}>{styles}</w:styles>"),
            (Part("word/settings.xml", "settings"), f"<w:settings {NAMESPACES}>{self._settings()}</w:settings>"),
        ]
        if shared.lists.part():
            numbering = Part("word/numbering.xml", "numbering")
            others.append((numbering, f"<w:numbering {NAMESPACES}>{shared.lists.part()}</w:numbering>"))
        if shared.notes:
            notes = "".join(shared.notes)
            others.append((shared.notes_part, f"<w:footnotes {NAMESPACES}>{NOTE_MARKS}{notes}</w:footnotes>"))
        for part, content in others:
            main.relate(part.kind, part.name.removeprefix("word/"))
            package.add(part, content)

    def _settings(self) -> str:
        evens = element("evenAndOddHeaders") if self._evens else ""
        notes = ""
        if self.shared.notes:
            notes = '<w:footnotePr><w:footnote w:id="-1"/><w:footnote w:id="0"/></w:footnotePr>'
        compatible = (
            '<w:compat><w:compatSetting w:name="compatibilityMode" w:uri="http://schemas.microsoft.com/office/word" '
            'w:val="15"/></w:compat>'
        )
        return f"{evens}{notes}{compatible}"


def _differs(kind: SheetKind, one: Which, other: Which) -> bool:
    """Whether pages of two sorts have something else in their margins."""
    return any(_shown(sides[one]) != _shown(sides[other]) for sides in (kind.heads, kind.feet))


def _shown(sides: PageSides) -> tuple[Any, ...]:
    return (*map(_plain, (sides.left, sides.center, sides.right)), len(sides.blocks))


def _plain(pieces: Sequence[Piece]) -> tuple[object, ...]:
    return tuple(piece.text if isinstance(piece, Text) else type(piece).__name__ for piece in pieces)


def _style_of(piece: Piece) -> ComputedStyle | None:
    return getattr(piece, "style", None)


def _closed(held: str, section: str) -> Iterator[str]:
    """The last element of a section, which says what its pages are."""
    before, paragraph, last = held.rpartition("<w:p>")
    if paragraph and "</w:pPr>" in last:
        yield f"{before}{paragraph}{last.replace('</w:pPr>', f'{section}</w:pPr>', 1)}"
    else:
        yield f"{held}{EMPTY}{section}</w:pPr></w:p>"
