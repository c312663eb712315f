"""Blocks and pieces of a flowing document as WordprocessingML (ISO/IEC 29500-1 §17)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from itertools import groupby
from typing import Final

from fleetquill.deadline import heed
from fleetquill.drawing.canvas import Drawing
from fleetquill.output.docx.lists import DEEPEST, Lists
from fleetquill.output.docx.looks import Looks, Role, frame_properties, indent, role_of, spacing
from fleetquill.output.docx.package import Package, Part
from fleetquill.output.docx.xml import attribute, border, color, element, emus, encoded, text, twips
from fleetquill.structure.flow import (
    Beside,
    Block,
    Columns,
    Contents,
    FlowCell,
    FlowRow,
    Frame,
    Inset,
    Leader,
    LineBreak,
    NoteCall,
    PageBreak,
    PageField,
    PageReference,
    Paragraph,
    Piece,
    Place,
    Rule,
    Sheet,
    Table,
    Text,
)
from fleetquill.structure.spans import Spans
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import TRANSPARENT

UNNAMED: Final = re.compile(r"\W+")
LONGEST_NAME: Final = 40  # characters of a bookmark's (§17.13.6.2)
HANGING: Final = 1.4  # em that a list's item hangs out
SVG_EXTENSION: Final = (
    '<a:extLst><a:ext uri="{{96DAC541-7B7A-43D3-8B79-37D633B846F1}}"><asvg:svgBlip '
    'xmlns:asvg="http://schemas.microsoft.com/office/drawing/2016/SVG/main" r:embed="{}"/></a:ext></a:extLst>'
)
NOTE_STYLE: Final = '<w:rPr><w:rStyle w:val="FootnoteReference"/></w:rPr>'
TINY: Final = '<w:spacing w:before="0" w:after="0" w:line="20" w:lineRule="exact"/>'
ABOVE: Final = {"top": "top", "middle": "center", "bottom": "bottom", "baseline": "top"}


class Shared:
    """What all parts of one document share."""

    def __init__(self, package: Package, base: ComputedStyle) -> None:
        self.package = package
        self.looks = Looks(base)
        self.lists = Lists()
        self.notes: list[str] = []
        self.notes_part = Part("word/footnotes.xml", "footnotes")
        self.remarks: dict[str, None] = {}
        self.placed: set[str] = set()  # names of bookmarks that stand somewhere
        self._bookmarks: dict[str, str] = {}
        self._count = 0

    def number(self) -> int:
        """Another number for what has to have one of its own."""
        self._count += 1
        return self._count

    def bookmark(self, place: str) -> str:
        """The name of a bookmark for a place in the document."""
        found = self._bookmarks.get(place)
        if found is None:
            plain = UNNAMED.sub("_", place)[: LONGEST_NAME - 8] or "place"
            if not plain[0].isalpha():
                plain = f"p{plain}"
            found = plain if plain not in self._bookmarks.values() else f"{plain}_{len(self._bookmarks)}"
            self._bookmarks[place] = found
        return found


class Writer:
    """Writes what stands in one part: the body, the notes, a head or a foot; `around` is what it is."""

    def __init__(self, shared: Shared, part: Part, around: str = "") -> None:
        self._shared = shared
        self._part = part
        self._around = around
        self._breaks = False  # whether the next paragraph begins on a new page
        self._after = 0.0  # px of space that the last paragraph leaves

    def blocks(self, blocks: Iterable[Block], width: float) -> Iterator[str]:
        """The elements of blocks in a room of that width."""
        for block in blocks:
            heed()
            yield from self._block(block, width)

    def _block(self, block: Block, width: float) -> Iterator[str]:
        if isinstance(block, Paragraph):
            yield self.paragraph(block, width)
        elif isinstance(block, Table):
            yield from self._table(block, width)
        elif isinstance(block, Beside):
            yield from self._beside(block)
        elif isinstance(block, Frame):
            yield from self._frame(block, width)
        elif isinstance(block, Contents):
            yield from self._contents(block, width)
        elif isinstance(block, Rule):
            yield self._rule(block)
        elif isinstance(block, PageBreak):
            self._breaks = True
        elif isinstance(block, (Sheet, Columns)):
            self._shared.remarks["Columns and pages of their own stand in no cell, note or margin."] = None

    # ---- paragraphs ----

    def paragraph(
        self, block: Paragraph, width: float, frame: Frame | None = None, opening: str = "", closing: str = ""
    ) -> str:
        """One paragraph; `opening` and `closing` are runs before and after its own."""
        style = block.style
        role = role_of(block, self._around)
        own: dict[str, str] = dict(frame_properties(style, frame, width=width))
        if self._breaks:
            own["pageBreakBefore"] = element("pageBreakBefore")
            self._breaks = False
        left, right = block.left, block.right
        if frame is not None:
            left, right = left + frame.edges.left, right + frame.edges.right
        if block.marker is not None:
            hanging = min(HANGING * style.font_size, max(left, HANGING * style.font_size))
            left = max(left, hanging)
            number = self._shared.lists.number(block.marker, left, hanging)
            level = element("ilvl", val=min(block.marker.level, DEEPEST))
            own["numPr"] = f"<w:numPr>{level}{element('numId', val=number)}</w:numPr>"
            own["ind"] = indent(left, right, 0.0, hanging)
        else:
            first = resolve(style.text_indent, width)
            if left or right or first:
                own["ind"] = indent(left, right, first)
        own["spacing"] = self._spacing(style)
        if any(isinstance(piece, Leader) for piece in block.pieces):
            tab = element("tab", val="right", leader="dot", pos=twips(width - right))
            own["tabs"] = f"<w:tabs>{tab}</w:tabs>"
        properties = self._shared.looks.paragraph(role, style, own)
        runs = "".join(self.runs(block.pieces, role, style))
        return f"<w:p><w:pPr>{properties}</w:pPr>{opening}{runs}{closing}</w:p>"

    def _spacing(self, style: ComputedStyle) -> str:
        """Space above and below: where two meet the larger holds, as margins collapse."""
        before, after = (max(0.0, _px(margin)) for margin in (style.margin_top, style.margin_bottom))
        shown = max(0.0, before - self._after)
        self._after = after
        return spacing(style, shown, after)

    def _rule(self, block: Rule) -> str:
        style = block.style
        width = style.border_top_width or style.border_bottom_width or 1.0
        kind = style.border_top_style if style.border_top_width else style.border_bottom_style
        tone = style.border_top_color if style.border_top_width else style.border_bottom_color
        line = border("bottom", width, kind if kind != "none" else "solid", tone or style.color)
        return f"<w:p><w:pPr><w:pBdr>{line}</w:pBdr>{self._spacing(style)}</w:pPr></w:p>"

    def _contents(self, block: Contents, width: float) -> Iterator[str]:
        """A field that readers can bring up to date; what it says now is kept in it (§17.16.5.68)."""
        entries = [entry for entry in block.blocks if isinstance(entry, Paragraph)]
        inner = Writer(self._shared, self._part, "contents")
        for index, entry in enumerate(entries):
            opening = closing = ""
            if index == 0:
                said = f' TOC \\o "1-{block.levels}" \\h \\z \\u '
                opening = (
                    f'{_field("begin")}<w:r><w:instrText xml:space="preserve">{attribute(said)}</w:instrText></w:r>'
                )
                opening += _field("separate")
            if index == len(entries) - 1:
                closing = _field("end")
            yield inner.paragraph(entry, width, None, opening, closing)

    # ---- pieces ----

    def runs(self, pieces: Sequence[Piece], role: Role, style: ComputedStyle) -> Iterator[str]:
        """The runs of pieces, those that lead somewhere together in a link."""
        for link, group in groupby(pieces, key=_link_of):
            content = "".join(self._piece(piece, role, style) for piece in group)
            if not link or not content:
                yield content
            elif link.startswith("#"):
                anchor = "_top" if link == "#" else self._shared.bookmark(link[1:])  # which every document has
                yield f'<w:hyperlink w:anchor="{attribute(anchor)}">{content}</w:hyperlink>'
            elif address := encoded(link):
                name = self._part.relate("hyperlink", address, outside=True)
                yield f'<w:hyperlink r:id="{name}">{content}</w:hyperlink>'
            else:
                self._shared.remarks["A link whose address is none leads nowhere in a word-processor file."] = None
                yield content

    def _piece(self, piece: Piece, role: Role, style: ComputedStyle) -> str:
        if isinstance(piece, Text):
            return self._run(_said(piece.text), piece, role, style)
        if isinstance(piece, LineBreak):
            return "<w:r><w:br/></w:r>"
        if isinstance(piece, Inset):
            return self._inset(piece, role, style)
        if isinstance(piece, PageField):
            said = " PAGE " if piece.name == "page" else " NUMPAGES "
            run = self._run(_said("1"), Text("1", piece.style), role, style)
            return f'<w:fldSimple w:instr="{said}">{run}</w:fldSimple>'
        if isinstance(piece, PageReference):
            run = self._run(_said(piece.text), Text(piece.text, piece.style), role, style)
            return f'<w:fldSimple w:instr=" PAGEREF {self._shared.bookmark(piece.place)} \\h ">{run}</w:fldSimple>'
        if isinstance(piece, Leader):
            return "<w:r><w:tab/></w:r>"
        if isinstance(piece, NoteCall):
            return self._note(piece)
        assert isinstance(piece, Place)
        name = attribute(self._shared.bookmark(piece.name))
        if name in self._shared.placed:  # a name stands once
            return ""
        self._shared.placed.add(name)
        number = self._shared.number()
        return f'<w:bookmarkStart w:id="{number}" w:name="{name}"/><w:bookmarkEnd w:id="{number}"/>'

    def _run(self, content: str, piece: Text, role: Role, style: ComputedStyle) -> str:
        return f"<w:r>{self._shared.looks.run(role, piece, style)}{content}</w:r>"

    def _note(self, piece: NoteCall) -> str:
        """§17.11: the note stands in a part of its own."""
        shared = self._shared
        if self._around in ("note", "header", "footer"):
            shared.remarks["Notes within notes and in margins are set in brackets."] = None
            inner = "".join(p for block in piece.note if isinstance(block, Paragraph) for p in [block.text])
            return _said_run(f" [{inner}]")
        number = len(shared.notes) + 1
        shared.notes.append("")
        writer = Writer(shared, shared.notes_part, "note")
        mark = f"<w:r>{NOTE_STYLE}<w:footnoteRef/></w:r>{_said_run(' ')}"
        paragraphs = [block for block in piece.note if isinstance(block, Paragraph)]
        content = "".join(
            writer.paragraph(block, 600.0, None, mark if index == 0 else "") for index, block in enumerate(paragraphs)
        )
        shared.notes[number - 1] = f'<w:footnote w:id="{number}">{content or "<w:p/>"}</w:footnote>'
        return f'<w:r>{NOTE_STYLE}<w:footnoteReference w:id="{number}"/></w:r>'

    def _inset(self, piece: Inset, role: Role, style: ComputedStyle) -> str:
        """A picture in a line (§20.4.2.8); a vector picture has one of pixels beside it."""
        if piece.picture is None or piece.width <= 0 or piece.height <= 0:
            shown = f"[{piece.alternative}]" if piece.alternative else ""
            return self._run(_said(shown), Text(shown, piece.style), role, style) if shown else ""
        package, part = self._shared.package, self._part
        more = ""
        if isinstance(piece.picture, Drawing):
            vector, pixels = package.drawing(piece.picture.at_size(piece.width, piece.height))
            name = part.relate("image", pixels)
            more = SVG_EXTENSION.format(part.relate("image", vector))
        else:
            name = part.relate("image", package.picture(piece.picture))
        number = self._shared.number()
        size = f'cx="{emus(piece.width)}" cy="{emus(piece.height)}"'
        said = f'id="{number}" name="Picture {number}" descr="{attribute(piece.alternative)}"'
        return (
            f'<w:r><w:drawing><wp:inline distT="0" distB="0" distL="0" distR="0"><wp:extent {size}/>'
            f"<wp:docPr {said}/><a:graphic><a:graphicData "
            'uri="http://schemas.openxmlformats.org/drawingml/2006/picture"><pic:pic>'
            f"<pic:nvPicPr><pic:cNvPr {said}/><pic:cNvPicPr/></pic:nvPicPr>"
            f'<pic:blipFill><a:blip r:embed="{name}">{more}</a:blip><a:stretch><a:fillRect/></a:stretch></pic:blipFill>'
            f'<pic:spPr><a:xfrm><a:off x="0" y="0"/><a:ext {size}/></a:xfrm>'
            '<a:prstGeom prst="rect"><a:avLst/></a:prstGeom></pic:spPr></pic:pic></a:graphicData></a:graphic>'
            "</wp:inline></w:drawing></w:r>"
        )

    # ---- boxes and tables ----

    def _frame(self, block: Frame, width: float) -> Iterator[str]:
        """Paragraphs have the frame's ground and lines themselves; a table of one cell holds anything else."""
        self._remark_unsaid(block.style)
        if all(isinstance(inner, Paragraph) for inner in block.blocks):
            for inner in block.blocks:
                assert isinstance(inner, Paragraph)
                yield self.paragraph(inner, width, block)
            return
        cell = FlowCell(block.style, block.blocks, block.edges)
        row = FlowRow("body", [cell], block.style)
        yield from self._grid([min(block.width, width)], [row], block.style, is_table=False)

    def _remark_unsaid(self, style: ComputedStyle) -> None:
        """What the format has no word for."""
        if style.has_background_pictures:
            self._shared.remarks["Pictures and gradients behind text are not in a word-processor file."] = None
        if style.transform or style.opacity < 1.0:
            self._shared.remarks["Boxes that are turned or let through stand plain in a word-processor file."] = None

    def _beside(self, block: Beside) -> Iterator[str]:
        cells = [FlowCell(_bare(block.style), blocks) for _, blocks in block.items]
        columns = [share for share, _ in block.items]
        yield from self._grid(columns, [FlowRow("body", cells, block.style)], None, is_table=False)

    def _table(self, block: Table, width: float) -> Iterator[str]:
        below = block.style.caption_side == "bottom"
        captions = Writer(self._shared, self._part, "caption")
        caption = [captions.paragraph(p, width) for p in block.caption if isinstance(p, Paragraph)]
        if not below:
            yield from caption
        yield from self._grid(block.columns, block.rows, block.style)
        if below:
            yield from caption

    def _grid(
        self, columns: Sequence[float], rows: Iterable[FlowRow], style: ComputedStyle | None, *, is_table: bool = True
    ) -> Iterator[str]:
        """§17.4; the rows come one after the other."""
        if self._breaks:
            self._breaks = False
            yield f"<w:p><w:pPr>{element('pageBreakBefore')}{TINY}</w:pPr></w:p>"
        self._after = 0.0
        columns = [max(1.0, width) for width in columns]
        total = sum(columns)
        facts = element("tblW", w=twips(total), type="dxa")
        if style is not None:
            if style.margin_left == "auto" and style.margin_right == "auto":
                facts += element("jc", val="center")
            facts += _box("tblBorders", style) if style.display in ("table", "inline-table") else ""
            if style.direction == "rtl":
                facts = element("bidiVisual") + facts
        facts += element("tblLayout", type="fixed")
        grid = "".join(element("gridCol", w=twips(width)) for width in columns)
        yield f"<w:tbl><w:tblPr>{facts}</w:tblPr><w:tblGrid>{grid}</w:tblGrid>"
        spans = Spans(len(columns))
        empty = True
        for row in rows:
            empty = False
            yield self._row(row, columns, spans, is_table=is_table)
        yield ("<w:tr><w:tc><w:p/></w:tc></w:tr>" if empty else "") + f"</w:tbl><w:p><w:pPr>{TINY}</w:pPr></w:p>"

    def _row(self, row: FlowRow, columns: Sequence[float], spans: Spans, *, is_table: bool) -> str:
        facts = element("cantSplit") if row.style.break_inside.startswith("avoid") else ""
        facts += element("tblHeader") if row.role == "head" else ""
        cells: list[str] = []
        for place in spans.places(row.cells):
            widths = columns[place.column : place.column + place.across]
            if place.cell is None:
                cells.append(_empty(widths, "<w:vMerge/>" if place.is_covered else ""))
                continue
            cell = place.cell._replace(across=place.across)
            around = self._around or ("" if not is_table else "th" if cell.is_head else "td")
            cells.append(self._cell(cell, row, sum(widths), around))
        return f"<w:tr>{f'<w:trPr>{facts}</w:trPr>' if facts else ''}{''.join(cells)}</w:tr>"

    def _cell(self, cell: FlowCell, row: FlowRow, width: float, around: str) -> str:
        style = cell.style
        facts = element("tcW", w=twips(width), type="dxa") + _spanned(cell.across)
        if cell.down > 1:
            facts += element("vMerge", val="restart")
        self._remark_unsaid(style)
        facts += _box("tcBorders", style)
        ground = _ground(style, row.style)
        if ground:
            facts += element("shd", val="clear", color="auto", fill=ground)
        facts += _margins(cell)
        facts += element("vAlign", val=ABOVE.get(str(style.vertical_align), "top"))
        writer = Writer(self._shared, self._part, around)
        inner = width - (cell.edges.across if cell.edges is not None else 0.0)
        content = "".join(writer.blocks(cell.blocks, max(1.0, inner)))
        if not content.endswith("</w:p>"):
            content += "<w:p/>"
        return f"<w:tc><w:tcPr>{facts}</w:tcPr>{content}</w:tc>"


def _empty(widths: Sequence[float], facts: str = "") -> str:
    """A cell of so many columns with nothing in it."""
    size = element("tcW", w=twips(sum(widths)), type="dxa")
    return f"<w:tc><w:tcPr>{size}{_spanned(len(widths))}{facts}</w:tcPr><w:p/></w:tc>"


def _px(length: object) -> float:
    return length if isinstance(length, float) else 0.0


def _field(kind: str) -> str:
    return f'<w:r><w:fldChar w:fldCharType="{kind}"/></w:r>'


def _link_of(piece: Piece) -> str:
    return piece.link if isinstance(piece, (Text, Inset, PageReference)) else ""


def _said(content: str) -> str:
    """Text in a run; tabs are elements of their own."""
    parts = content.split("\t")
    return "<w:tab/>".join(f'<w:t xml:space="preserve">{text(part)}</w:t>' if part else "" for part in parts)


def _said_run(content: str) -> str:
    return f"<w:r>{_said(content)}</w:r>"


def _spanned(columns: int) -> str:
    return element("gridSpan", val=columns) if columns > 1 else ""


def _box(name: str, style: ComputedStyle) -> str:
    """The lines around a table or a cell."""
    lines = (
        border("top", style.border_top_width, style.border_top_style, style.border_top_color)
        + border("left", style.border_left_width, style.border_left_style, style.border_left_color)
        + border("bottom", style.border_bottom_width, style.border_bottom_style, style.border_bottom_color)
        + border("right", style.border_right_width, style.border_right_style, style.border_right_color)
    )
    return f"<w:{name}>{lines}</w:{name}>" if lines else ""


def _margins(cell: FlowCell) -> str:
    edges = cell.edges
    if edges is None:
        return ""
    sides = {
        "top": edges.top - edges.border_top, "left": edges.left - edges.border_left,
        "bottom": edges.bottom - edges.border_bottom, "right": edges.right - edges.border_right,
    }  # fmt: skip
    if not any(sides.values()):
        return ""
    return "<w:tcMar>" + "".join(element(s, w=twips(px), type="dxa") for s, px in sides.items()) + "</w:tcMar>"


def _ground(style: ComputedStyle, row: ComputedStyle) -> str:
    """The colour that a cell stands on: its own, its row's, that of the row's group."""
    group = row.parent
    for found in (style, row, group):
        if (
            found is not None
            and found.background_color.alpha
            and (found is style or found.display.startswith("table-"))
        ):
            return color(found.background_color)
    return ""


def _bare(style: ComputedStyle) -> ComputedStyle:
    """The style of a cell that only holds what stands beside something else."""
    plain: dict[str, object] = {"background_color": TRANSPARENT}
    for side in ("top", "right", "bottom", "left"):
        plain |= {f"border_{side}_width": 0.0, f"padding_{side}": 0.0}
    return ComputedStyle(style.parent, {**style.__dict__, **plain})
