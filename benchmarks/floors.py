"""Floors: the least that any program must do to put a text on pages. No code of the engine.

Parse the source with lxml; shape each distinct word once and keep its glyphs and width; fill lines
greedily at a fixed width; write the glyph strings at fixed places; deflate each page; subset and
deflate the fonts used. Fonts are open before the clock starts: everything is warm.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterable, Sequence
from importlib.util import find_spec
from pathlib import Path
from typing import Any

import uharfbuzz as hb
from lxml import html

DROPPED = ("GSUB", "GPOS", "GDEF", "BASE", "name", "OS/2", "post", "cmap", "kern")


class FloorFont:
    """An open font."""

    def __init__(self, path: Path) -> None:
        self.face: Any = hb.Face(hb.Blob.from_file_path(str(path)))
        self.font: Any = hb.Font(self.face)
        self.upem: int = self.face.upem


def packaged_font(package: str, name: str) -> FloorFont:
    spec = find_spec(package)
    assert spec is not None and spec.submodule_search_locations
    return FloorFont(Path(next(iter(spec.submodule_search_locations))) / "files" / name)


def fonts() -> dict[str, FloorFont]:
    """The faces that the works use, by the word that blocks ask for them with."""
    return {
        "regular": packaged_font("font_source_sans_pro", "SourceSansPro-Regular.otf"),
        "bold": packaged_font("font_source_sans_pro", "SourceSansPro-Bold.otf"),
        "semibold": packaged_font("font_source_sans_pro", "SourceSansPro-Semibold.otf"),
        "serif": packaged_font("font_source_serif_pro", "SourceSerifPro-Semibold.otf"),
    }


BOLD_TAGS = {"b", "strong", "th"}
SERIF_TAGS = {"h1", "h2", "h3"}


def blocks_of(source: str) -> list[tuple[str, str]]:
    """(font, text) of each piece of text in an HTML source."""
    blocks: list[tuple[str, str]] = []
    for element in html.document_fromstring(source).iter():
        if not isinstance(element.tag, str) or element.tag in ("style", "script", "title"):
            continue
        font = "bold" if element.tag in BOLD_TAGS else "serif" if element.tag in SERIF_TAGS else "regular"
        if element.text and element.text.strip():
            blocks.append((font, element.text))
        if element.tail and element.tail.strip():
            blocks.append(("regular", element.tail))
    return blocks


class Floor:
    """Text onto pages at the least cost."""

    def __init__(self, faces: dict[str, FloorFont]) -> None:
        self.faces = faces

    def pages(self, blocks: Iterable[tuple[str, str]], size: float, width: float, lines: int) -> list[bytes]:
        """Deflated pages and fonts for blocks of text; each block begins a line."""
        words: dict[tuple[str, str], tuple[str, float]] = {}
        used: dict[str, set[int]] = {}
        out: list[bytes] = []
        rows: list[str] = []
        for font, text in blocks:
            line: list[str] = []
            room = width
            for word in text.split():
                shaped = words.get((font, word))
                if shaped is None:
                    shaped = words[font, word] = self._shape(font, word, size, used)
                glyphs, advance = shaped
                if advance > room and line:
                    rows.append(f"1 0 0 1 72 {800 - len(rows) % lines * 14} Tm<{'0001'.join(line)}>Tj")
                    line, room = [], width
                line.append(glyphs)
                room -= advance + size * 0.2
            rows.append(f"1 0 0 1 72 {800 - len(rows) % lines * 14} Tm<{'0001'.join(line)}>Tj")
            while len(rows) >= lines:
                out.append(_deflate(rows[:lines]))
                rows = rows[lines:]
        if rows:
            out.append(_deflate(rows))
        return out + [self._subset(font, glyphs) for font, glyphs in used.items()]

    def rows(self, rows: Iterable[Sequence[str]], size: float, lines: int) -> list[bytes]:
        """A table of plain cells: one operation a cell, each at a fixed place."""
        words: dict[str, str] = {}
        used: dict[str, set[int]] = {}
        out: list[bytes] = []
        page: list[str] = []
        for number, row in enumerate(rows):
            y = 800 - number % lines * 14
            for column, cell in enumerate(row):
                glyphs = words.get(cell)
                if glyphs is None:
                    glyphs = words[cell] = self._shape("regular", cell, size, used)[0]
                page.append(f"1 0 0 1 {40 + column * 65} {y} Tm<{glyphs}>Tj")
            if (number + 1) % lines == 0:
                out.append(_deflate(page))
                page = []
        if page:
            out.append(_deflate(page))
        return out + [self._subset(font, glyphs) for font, glyphs in used.items()]

    def _shape(self, font: str, word: str, size: float, used: dict[str, set[int]]) -> tuple[str, float]:
        face = self.faces[font]
        buffer: Any = hb.Buffer()
        buffer.add_str(word)
        buffer.direction, buffer.script, buffer.language = "ltr", "Latn", "en"
        hb.shape(face.font, buffer, None)
        glyphs = [info.codepoint for info in buffer.glyph_infos]
        used.setdefault(font, set()).update(glyphs)
        advance = sum(position.x_advance for position in buffer.glyph_positions)
        return "".join([f"{glyph:04x}" for glyph in glyphs]), advance * size / face.upem

    def _subset(self, font: str, glyphs: set[int]) -> bytes:
        wish: Any = hb.SubsetInput()
        wish.flags = hb.SubsetFlags.RETAIN_GIDS
        for glyph in glyphs:
            wish.glyph_set.add(glyph)
        for tag in DROPPED:
            wish.drop_table_tag_set.add(int.from_bytes(tag.encode(), "big"))
        made: Any = hb.subset(self.faces[font].face, wish)
        return zlib.compress(bytes(made.reference_table("CFF ").data), 6)


def _deflate(rows: list[str]) -> bytes:
    return zlib.compress(("BT /F1 10 Tf " + " ".join(rows) + " ET").encode("ascii"), 6)
