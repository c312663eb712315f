"""A document as Markdown: CommonMark with tables, strikethrough and footnotes."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from itertools import chain, groupby
from typing import BinaryIO, Final, NamedTuple

from fleetquill.output.how import How
from fleetquill.structure.flow import (
    Beside,
    Block,
    Contents,
    Flow,
    FlowRow,
    Frame,
    Inset,
    LineBreak,
    NoteCall,
    Paragraph,
    Piece,
    Rule,
    Table,
    Text,
    begins_list,
)
from fleetquill.structure.spans import Spans
from fleetquill.tree.metadata import Metadata

SPECIAL: Final = re.compile(r"([\\`*_\[\]<>|~])")
AT_START: Final = re.compile(r"^(#(?=#{0,5}(?:\s|$))|[-+](?=\s|$)|[=-](?=[=-]*\s*$)|-(?=[- ]*$))")
NUMBERED: Final = re.compile(r"^(\d{1,9})([.)])(?=\s|$)")
BOLD: Final = 600
MONOSPACE: Final = frozenset(("monospace", "ui-monospace", "DejaVu Sans Mono"))
FENCE: Final = "```"
HARD_BREAK: Final = "\\\n"
BACKSLASHED: Final = r"\\\1"


class _Marks(NamedTuple):
    """How text is set apart."""

    code: bool = False
    bold: bool = False
    italic: bool = False
    struck: bool = False
    rise: str = ""
    link: str = ""


def write_flow(flow: Flow, metadata: Metadata, how: How, stream: BinaryIO) -> list[str]:
    """Writes a document in UTF-8; gives what could not be said."""
    writer = _Writer()
    for line in writer.document(flow.blocks):
        stream.write(f"{line}\n".encode())
    return list(writer.remarks)


class _Writer:
    def __init__(self) -> None:
        self._notes: list[NoteCall] = []
        self.remarks: dict[str, None] = {}

    def document(self, blocks: Iterable[Block]) -> Iterator[str]:
        yield from self._blocks(blocks)
        for number, call in enumerate(self._notes, 1):
            lines = list(self._blocks(call.note)) or [""]
            yield ""
            yield f"[^{number}]: {lines[0]}"
            yield from (f"    {line}" if line else "" for line in lines[1:])

    def _blocks(self, blocks: Iterable[Block]) -> Iterator[str]:
        """The lines of blocks, with an empty one between them; items of a list stand together."""
        before: Block | None = None
        for block in blocks:
            is_first = True
            for line in self._block(block):
                if is_first and before is not None and not _is_one_list(before, block):
                    yield ""
                is_first = False
                yield line
            before = before if is_first else block

    def _block(self, block: Block) -> Iterator[str]:
        if isinstance(block, Paragraph):
            yield from self._paragraph(block)
        elif isinstance(block, Table):
            yield from self._blocks(block.caption)
            if block.caption:
                yield ""
            yield from self._table(block.rows)
        elif isinstance(block, Beside):
            yield from self._blocks(chain.from_iterable(blocks for _, blocks in block.items))
        elif isinstance(block, Frame):
            mark = "> " if block.tag == "blockquote" else ""
            yield from (f"{mark}{line}".rstrip() for line in self._blocks(block.blocks))
        elif isinstance(block, Contents):
            for entry in block.blocks:
                if isinstance(entry, Paragraph):
                    yield f"- {self._inline(entry.pieces)}"
        elif isinstance(block, Rule):
            yield "---"

    def _paragraph(self, block: Paragraph) -> Iterator[str]:
        if block.tag == "pre":
            text = block.text
            fence = FENCE
            while fence in text:
                fence += "`"
            yield fence
            yield from text.split("\n")
            yield fence
            return
        text = self._inline(block.pieces, is_bold=bool(block.level))
        if block.level:
            yield f"{'#' * block.level} {text.replace(HARD_BREAK, ' ')}"
            return
        if not text and block.marker is None:
            return
        lines = text.split("\n")
        lines = [NUMBERED.sub(r"\1\\\2", AT_START.sub(r"\\\1", line)) for line in lines]
        if block.marker is not None:
            indent = "    " * block.marker.level
            mark = "- " if block.marker.number is None else f"{block.marker.number}. "
            yield f"{indent}{mark}{lines[0]}"
            yield from (f"{indent}{' ' * len(mark)}{line}" for line in lines[1:])
        else:
            mark = "> " if block.tag == "blockquote" else ""
            yield from (f"{mark}{line}" for line in lines)

    # ---- tables ----

    def _table(self, rows: Iterable[FlowRow]) -> Iterator[str]:
        """A head, a line that says how columns are aligned, then the rows; there is no table without a head."""
        spans = Spans()
        started = False
        for row in rows:
            cells, sides = self._cells(row, spans)
            if not started:
                started = True
                if row.role == "head" or all(cell.is_head for cell in row.cells):
                    yield f"| {' | '.join(cells)} |"
                    yield f"| {' | '.join(sides)} |"
                    continue
                yield f"| {' | '.join([''] * len(cells))} |"
                yield f"| {' | '.join(sides)} |"
            yield f"| {' | '.join(cells)} |"

    def _cells(self, row: FlowRow, spans: Spans) -> tuple[list[str], list[str]]:
        """The texts of a row's columns, and at which side they stand."""
        texts: list[str] = []
        sides: list[str] = []
        for _, across, cell, _ in spans.places(row.cells):
            if cell is None:
                texts += [""] * across
                sides += ["---"] * across
                continue
            is_bold = cell.is_head or row.role == "head"
            lines = [line for line in self._cell_lines(cell.blocks, is_bold=is_bold) if line]
            texts += ["<br>".join(lines), *[""] * (across - 1)]
            align = str(cell.style.text_align)
            sides += ["---:" if align in ("right", "end") or align.startswith('"') else "---"] * across
        return texts, sides

    def _cell_lines(self, blocks: Iterable[Block], *, is_bold: bool) -> Iterator[str]:
        """What stands in a cell, in which there is nothing but text."""
        for block in blocks:
            if isinstance(block, Paragraph):
                marker = f"{block.marker.text} " if block.marker is not None else ""
                yield marker + self._inline(block.pieces, is_bold=is_bold).replace(HARD_BREAK, "<br>")
            elif isinstance(block, Table):
                for row in block.rows:
                    texts = ("<br>".join(self._cell_lines(cell.blocks, is_bold=is_bold)) for cell in row.cells)
                    yield " · ".join(texts)
            elif isinstance(block, Beside):
                yield from self._cell_lines(chain.from_iterable(inner for _, inner in block.items), is_bold=is_bold)
            elif isinstance(block, (Frame, Contents)):
                yield from self._cell_lines(block.blocks, is_bold=is_bold)

    # ---- lines ----

    def _inline(self, pieces: Sequence[Piece], *, is_bold: bool = False) -> str:
        """Pieces with their marks; `is_bold` tells that weight goes without saying."""
        parts: list[str] = []
        for marks, group in groupby(pieces, key=lambda piece: _marks(piece, is_bold=is_bold)):
            inner = "".join(map(self._piece, group))
            parts.append(_marked(inner, marks))
        return "".join(parts).strip()

    def _piece(self, piece: Piece) -> str:
        if isinstance(piece, Text):
            if piece.style.font_family[0] in MONOSPACE:
                return piece.text
            return SPECIAL.sub(BACKSLASHED, piece.text)
        if isinstance(piece, LineBreak):
            return HARD_BREAK
        if isinstance(piece, Inset):
            self.remarks["Pictures are not in a Markdown file; their 'alt' text is."] = None
            if not piece.alternative.strip():
                return ""
            return f"*{SPECIAL.sub(BACKSLASHED, ' '.join(piece.alternative.split()))}*"
        if isinstance(piece, NoteCall):
            self._notes.append(piece)
            return f"[^{len(self._notes)}]"
        return ""


def _marks(piece: Piece, *, is_bold: bool) -> _Marks:
    if not isinstance(piece, Text):
        return _Marks(link=piece.link) if isinstance(piece, Inset) else _Marks()
    style = piece.style
    return _Marks(
        style.font_family[0] in MONOSPACE, style.font_weight >= BOLD and not is_bold, style.font_style != "normal",
        "line-through" in piece.lines, piece.rise, "" if piece.link.startswith("#") else piece.link,
    )  # fmt: skip


def _marked(text: str, marks: _Marks) -> str:
    """Text between its marks, which stand close to it: white space goes outside."""
    bare = text.strip(" ")
    if not bare or bare == HARD_BREAK:
        return text
    before, after = text[: len(text) - len(text.lstrip(" "))], text[len(text.rstrip(" ")) :]
    if marks.code:
        tick = "``" if "`" in bare else "`"
        bare = f"{tick}{bare}{tick}"
    if marks.struck:
        bare = f"~~{bare}~~"
    if marks.italic:
        bare = f"*{bare}*"
    if marks.bold:
        bare = f"**{bare}**"
    if marks.rise:
        tag = "sup" if marks.rise == "super" else "sub"
        bare = f"<{tag}>{bare}</{tag}>"
    if marks.link:
        address = marks.link.replace(" ", "%20").replace("(", "%28").replace(")", "%29")
        bare = f"[{bare}]({address})"
    return f"{before}{bare}{after}"


def _is_one_list(before: Block, after: Block) -> bool:
    return (
        isinstance(before, Paragraph)
        and isinstance(after, Paragraph)
        and before.marker is not None
        and after.marker is not None
        and not begins_list(before, after)
    )
