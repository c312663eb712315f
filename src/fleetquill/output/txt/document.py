"""A document as plain text, so many columns wide: what a terminal, a mail or a log shows."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Iterator, Sequence
from itertools import chain, islice, zip_longest
from typing import BinaryIO, Final

from rich.cells import cell_len

from fleetquill.output.how import MOST_WIDE, How
from fleetquill.output.txt.columns import Measure, largest, measure_of_text, shared_widths, together
from fleetquill.structure.flow import (
    Beside,
    Block,
    Contents,
    Flow,
    FlowCell,
    FlowRow,
    Frame,
    Inset,
    LineBreak,
    NoteCall,
    PageBreak,
    Paragraph,
    Rule,
    Table,
    Text,
    begins_list,
)
from fleetquill.structure.spans import Spans
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.breaking import pieces
from fleetquill.text.shaping import clusters
from fleetquill.tree.metadata import Metadata

UNDERLINES: Final = ("=", "-", "~")  # of headings by their level; the last one for all below
MEASURED: Final = 500  # rows of a table that its columns are as wide as
TOO_WIDE: Final = "A table is wider than the text, for its numbers are not broken; a larger 'wide' gives it room."
GAP: Final = 2  # columns between those of a table
QUOTED: Final = 4  # columns that a quotation is set in
PX_OF_A_COLUMN: Final = 10.0  # of an indent
LEAST_GAP: Final = 0.4  # em between blocks that are an empty line here
WORDS: Final = re.compile(r"\s*\S+")


def write_flow(flow: Flow, metadata: Metadata, how: How, stream: BinaryIO) -> list[str]:
    """Writes a document as UTF-8 text; gives what could not be said."""
    writer = _Writer(how)
    for line in writer.document(flow.blocks):
        stream.write(f"{line}\n".encode())
    return list(writer.remarks)


class _Writer:
    def __init__(self, how: How) -> None:
        self._wide = int(how.wide)
        self._feeds = how.form_feeds
        self._notes: list[NoteCall] = []
        self._leads: dict[str, int] | None = None  # where links in the table at hand lead, with their numbers
        self.remarks: dict[str, None] = {}

    def document(self, blocks: Iterable[Block]) -> Iterator[str]:
        yield from self._lines(blocks, self._wide)
        if self._notes:
            yield from ("", "-" * min(20, self._wide))
            for call in self._notes:
                mark = f"{call.mark.strip()} "
                yield from _hung(list(self._lines(call.note, self._wide - len(mark))), mark)

    def _lines(self, blocks: Iterable[Block], wide: int) -> Iterator[str]:
        """The lines of blocks, with an empty one between those that stand apart."""
        before: Block | None = None
        for block in blocks:
            if isinstance(block, PageBreak):
                if self._feeds:
                    yield "\f"
                    before = None
                continue
            is_first = True
            for line in self._block(block, wide):
                if is_first and before is not None and _are_apart(before, block):
                    yield ""
                is_first = False
                yield line.rstrip()
            before = before if is_first else block

    def _block(self, block: Block, wide: int) -> Iterator[str]:
        if isinstance(block, Paragraph):
            yield from self._paragraph(block, wide)
        elif isinstance(block, Table):
            yield from (line.strip() for line in self._lines(block.caption, wide))
            yield from self._table(block, wide)
        elif isinstance(block, Beside):
            yield from self._beside(block, wide)
        elif isinstance(block, Frame):
            indent = QUOTED if block.tag == "blockquote" else 0
            yield from (" " * indent + line for line in self._lines(block.blocks, max(1, wide - indent)))
        elif isinstance(block, Contents):
            yield from self._lines(block.blocks, wide)
        elif isinstance(block, Rule):
            yield "-" * wide

    # ---- paragraphs ----

    def _paragraph(self, block: Paragraph, wide: int) -> Iterator[str]:
        text = self._text(block)
        if block.tag == "pre":
            yield from text.expandtabs(8).split("\n")
            return
        if block.level:
            lines = _wrapped(text, wide)
            mark = UNDERLINES[min(block.level, len(UNDERLINES)) - 1]
            yield from lines
            yield mark * max(map(cell_len, lines), default=0)
            return
        if block.marker is not None:
            indent = "  " * block.marker.level
            mark = f"{indent}{block.marker.text} "
            yield from _hung(_wrapped(text, max(1, wide - cell_len(mark))), mark)
            return
        indent = " " * min(_indent(block), wide // 3)
        for line in _wrapped(text, max(1, wide - len(indent))):
            yield indent + _aligned(line, block.style, wide - len(indent))

    def _text(self, block: Paragraph) -> str:
        for piece in block.pieces:
            if isinstance(piece, NoteCall):
                self._notes.append(piece)
            elif isinstance(piece, Inset) and not piece.alternative.strip():
                self.remarks["Pictures without an 'alt' text are not in a text file."] = None
        return _spelt(block, self._shown)

    def _shown(self, link: str) -> str:
        """Where a link leads; in a table a number, which stands below that with what it means."""
        return link if self._leads is None else str(self._leads.setdefault(link, len(self._leads) + 1))

    # ---- side by side ----

    def _beside(self, block: Beside, wide: int) -> Iterator[str]:
        for _, blocks in block.items:
            if _is_picture(blocks):  # what would be said of it does not fit beside
                yield from self._lines(blocks, wide)
        items = [(share, blocks) for share, blocks in block.items if not _is_picture(blocks)]
        shares = [share for share, _ in items]
        room = wide - GAP * (len(shares) - 1)
        total = sum(shares) or 1.0
        widths = [max(1, int(room * share / total)) for share in shares]
        columns = [list(self._lines(blocks, width)) for (_, blocks), width in zip(items, widths, strict=True)]
        for lines in zip_longest(*columns, fillvalue=""):
            yield (" " * GAP).join(_padded(line, width) for line, width in zip(lines, widths, strict=True))

    def _table(self, table: Table, wide: int) -> Iterator[str]:
        rows = iter(table.rows)
        first = list(islice(rows, MEASURED))
        count = max(len(table.columns), max((sum(cell.across for cell in row.cells) for row in first), default=0))
        if not count:
            return
        number = "9" * len(str(sum(1 for row in first for cell in row.cells for _ in _links(cell.blocks))))
        widths = shared_widths(_measures(first, count, number), wide - GAP * (count - 1))
        if sum(widths) + GAP * (count - 1) > wide:
            self.remarks[TOO_WIDE] = None
        is_inner = self._leads is not None
        leads = self._leads = self._leads if self._leads is not None else {}
        spans = Spans(count)
        role = ""
        for row in chain(first, rows):
            if (role == "head" and row.role != "head") or (role == "body" and row.role == "foot"):
                yield (" " * GAP).join("-" * width for width in widths)
            role = row.role
            yield from self._row(row, widths, spans)
        if not is_inner:
            yield from [""] * bool(leads)
            yield from (f"<{number}> {link}" for link, number in leads.items())
            self._leads = None

    def _row(self, row: FlowRow, widths: Sequence[int], spans: Spans) -> Iterator[str]:
        """The lines of a row."""
        cells: list[tuple[list[str], int]] = []
        for column, across, cell, _ in spans.places(row.cells):
            wide = sum(widths[column : column + across]) + GAP * (across - 1)
            cells.append(([] if cell is None else self.cell_lines(cell, wide), wide))
        for lines in zip_longest(*(lines for lines, _ in cells), fillvalue=""):
            yield (" " * GAP).join(_padded(line, wide) for line, (_, wide) in zip(lines, cells, strict=True))

    def cell_lines(self, cell: FlowCell, wide: int) -> list[str]:
        """The lines of a cell, each where its column has it."""
        lines = self._lines(cell.blocks, wide)
        return [_aligned(line.strip(), cell.style, wide) if _is_side(cell.style) else line for line in lines]


def _spelt(block: Paragraph, shown: Callable[[str], str]) -> str:
    """The text of a paragraph; what is `shown` of a link stands after its own text, where that does not name it."""
    parts: list[str] = []
    link = ""
    for piece in (*block.pieces, None):
        own = piece.link if isinstance(piece, (Text, Inset)) else ""
        if link and own != link and not _says("".join(parts), link):
            parts.append(f" <{shown(link)}>")
        link = own if own and not own.startswith("#") else ""
        if isinstance(piece, Text):
            parts.append(piece.text)
        elif isinstance(piece, LineBreak):
            parts.append("\n")
        elif isinstance(piece, Inset) and piece.alternative.strip():
            parts.append(f"[{piece.alternative.strip()}]")
        elif isinstance(piece, NoteCall):
            parts.append(f"[{piece.mark.strip()}]")
    return "".join(parts)


def _links(blocks: Iterable[Block]) -> Iterator[str]:
    """The links in the paragraphs of a cell."""
    for block in blocks:
        if isinstance(block, Paragraph):
            yield from {piece.link for piece in block.pieces if isinstance(piece, (Text, Inset)) and piece.link}


def _measures(rows: Sequence[FlowRow], count: int, number: str) -> list[Measure]:
    """For each column how many columns of text it takes; each link has a number as long as this one."""
    measures = [Measure()] * count
    spans = Spans(count)
    for row in rows:
        for column, across, cell, _ in spans.places(row.cells):
            if cell is not None and across == 1:
                measures[column] = largest([measures[column], _measure(cell.blocks, number)])
    return measures


def _measure(blocks: Iterable[Block], number: str) -> Measure:
    """How many columns of text blocks take."""
    return largest(_measure_of(block, number) for block in blocks)


def _measure_of(block: Block, number: str) -> Measure:
    if isinstance(block, Paragraph):
        indent = 0 if block.marker is None else cell_len(block.marker.text) + 1 + 2 * block.marker.level
        indent += _indent(block)
        return measure_of_text(_spelt(block, lambda _: number)).widened(indent)
    if isinstance(block, Frame):
        return _measure(block.blocks, number).widened(QUOTED if block.tag == "blockquote" else 0)
    if isinstance(block, Beside):
        return _measure_beside(block, number)
    if isinstance(block, Table) and isinstance(block.rows, list):
        count = max((sum(cell.across for cell in row.cells) for row in block.rows), default=0)
        return together(_measures(block.rows, count, number), GAP * max(0, count - 1))
    return Measure()


def _indent(block: Paragraph) -> int:
    """How many columns a paragraph is set in; a list's item hangs on its marker instead."""
    return 0 if block.marker is not None else max(0, round(block.left / PX_OF_A_COLUMN))


def _measure_beside(block: Beside, number: str) -> Measure:
    """What stands side by side has its share of the room, whatever it needs."""
    total = sum(share for share, _ in block.items) or 1.0
    gaps = GAP * (len(block.items) - 1)
    sizes = [(share / total, _measure(blocks, number)) for share, blocks in block.items if share > 0]
    whole = largest(Measure(*(math.ceil(part / share) for part in measure)) for share, measure in sizes)
    return Measure(*(min(part, MOST_WIDE) for part in whole.widened(gaps + len(sizes))))


def _is_picture(blocks: Sequence[Block]) -> bool:
    """Whether blocks hold nothing but pictures."""
    pieces = [piece for block in blocks if isinstance(block, Paragraph) for piece in block.pieces]
    return all(isinstance(block, Paragraph) for block in blocks) and all(isinstance(piece, Inset) for piece in pieces)


def _are_apart(before: Block, after: Block) -> bool:
    """Whether an empty line stands between two blocks."""
    if not (isinstance(before, Paragraph) and isinstance(after, Paragraph)):
        return True
    if before.level or after.level or begins_list(before, after):
        return True
    gap = max(_px(before.style.margin_bottom), _px(after.style.margin_top))
    return gap >= LEAST_GAP * after.style.font_size and not (before.marker is not None and after.marker is not None)


def _px(length: object) -> float:
    return length if isinstance(length, float) else 0.0


def _says(text: str, link: str) -> bool:
    """Whether a text that leads somewhere names that place itself."""
    bare = link.removeprefix("mailto:").removeprefix("tel:")
    return text.endswith((link, bare, bare.split("://")[-1]))


def _is_side(style: ComputedStyle) -> bool:
    return str(style.text_align) in ("right", "end", "center") or _is_decimal(style)


def _is_decimal(style: ComputedStyle) -> bool:
    return str(style.text_align).startswith('"')


def _aligned(line: str, style: ComputedStyle, wide: int) -> str:
    align = str(style.text_align)
    room = wide - cell_len(line)
    if room <= 0 or style.direction == "rtl":
        return line
    if align in ("right", "end") or _is_decimal(style):
        return " " * room + line
    return " " * (room // 2) + line if align == "center" else line


def _padded(line: str, wide: int) -> str:
    return line + " " * max(0, wide - cell_len(line))


def _hung(lines: Sequence[str], mark: str) -> Iterator[str]:
    """Lines of which the first stands beside a mark, and the others under it."""
    for number, line in enumerate(lines or [""]):
        yield f"{' ' * cell_len(mark) if number else mark}{line}"


def _wrapped(text: str, wide: int) -> list[str]:
    """Lines of at most `wide` columns, broken at spaces, and where scripts that have none may be; words that are longer
    are broken between any letters."""
    found: list[str] = []
    for part in text.split("\n"):
        line = ""
        for word in _words(part):
            if line and cell_len(line + word) > wide:
                found.append(line)
                line = ""
            line = line + word if line else word.strip()
            if cell_len(line) > wide:
                *full, line = _broken(line, wide)
                found += full
        found.append(line)
    return found


def _words(text: str) -> Iterator[str]:
    """What no line breaks, each with the spaces before it."""
    for word in WORDS.findall(text):
        if word.isascii():
            yield word
        else:
            inner = word.lstrip()
            first, *others = pieces(inner)
            yield word[: len(word) - len(inner)] + first
            yield from others


def _broken(text: str, wide: int) -> list[str]:
    """A text in lines of at most `wide` columns, cut between letters, each with its marks."""
    lines, room = [""], wide
    for letter in clusters(text):
        taken = cell_len(letter)
        if lines[-1] and taken > room:
            lines.append("")
            room = wide
        lines[-1] += letter
        room -= taken
    return lines
