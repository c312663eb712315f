"""One face of a font file: its metrics, its coverage, and HarfBuzz's handles on it."""

from __future__ import annotations

import struct
from pathlib import Path
from typing import Any, Final

import uharfbuzz as hb

from fleetquill.errors import SourceError, Where


class Face:
    """A font face. Lengths are in ems; `advances` are in font units."""

    def __init__(self, path: Path, index: int = 0) -> None:
        self.path = path
        self.index = index
        try:
            self.hb_face: Any = hb.Face(hb.Blob.from_file_path(str(path)), index)
        except (OSError, hb.HarfBuzzError) as error:
            raise SourceError(f"The font cannot be read ({error}).", where=Where(str(path))) from error
        if not self.hb_face.glyph_count:
            raise SourceError("The file is not a font that can be used.", where=Where(str(path)))
        self.hb_font: Any = hb.Font(self.hb_face)
        self.upem: int = self.hb_face.upem
        self.glyph_count: int = self.hb_face.glyph_count
        extents = self.hb_font.get_font_extents("ltr")
        self.ascent: float = extents.ascender / self.upem
        self.descent: float = -extents.descender / self.upem
        self.line_gap: float = max(0, extents.line_gap) / self.upem
        self.x_height = self._metric("X_HEIGHT", 0.5)
        self.cap_height = self._metric("CAP_HEIGHT", 0.7)
        self.underline_offset = self._metric("UNDERLINE_OFFSET", -0.1)  # up from the baseline
        self.underline_thickness = self._metric("UNDERLINE_SIZE", 0.05) or 0.05
        self.strikeout_offset = self._metric("STRIKEOUT_OFFSET", 0.3)
        self.strikeout_thickness = self._metric("STRIKEOUT_SIZE", 0.05) or 0.05
        self.tables = frozenset(self.hb_face.table_tags)
        self.advances: dict[int, int] = {}
        self._coverage: frozenset[str] | None = None

    def _metric(self, name: str, fallback: float) -> float:
        value = self.hb_font.get_metric_position(getattr(hb.OTMetricsTag, name))
        return fallback if value is None else value / self.upem

    @property
    def is_cff(self) -> bool:
        return "CFF " in self.tables

    @property
    def coverage(self) -> frozenset[str]:
        """Every character that the face has a glyph for."""
        if self._coverage is None:
            self._coverage = frozenset(map(chr, self.hb_face.unicodes))
        return self._coverage

    def advance(self, glyph: int) -> int:
        """The advance of a glyph on its own, in font units."""
        advance = self.advances.get(glyph)
        if advance is None:
            advance = self.advances[glyph] = self.hb_font.get_glyph_h_advance(glyph)
        return advance

    @property
    def postscript_name(self) -> str:
        name = self.hb_face.get_name(hb.OTNameIdPredefined.POSTSCRIPT_NAME) or self.path.stem
        return "".join(c for c in name if 33 <= ord(c) <= 126 and c not in "[](){}<>/%#") or "Font"

    @property
    def italic_angle(self) -> float:
        """Degrees, negative for a slope to the right ('post' table)."""
        table = self._table("post", 8)
        return struct.unpack_from(">i", table, 4)[0] / 65536 if table else 0.0

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """The box around all glyphs, in thousandths of an em ('head' table)."""
        table = self._table("head", 44)
        corners = struct.unpack_from(">4h", table, 36) if table else (0, -200, 1000, 800)
        left, bottom, right, top = (round(corner * 1000 / self.upem) for corner in corners)
        return left, bottom, right, top

    @property
    def fixed_pitch(self) -> bool:
        table = self._table("post", 16)
        return bool(table) and struct.unpack_from(">I", table, 12)[0] != 0

    @property
    def weight(self) -> int:
        table = self._table("OS/2", 6)
        return int(struct.unpack_from(">H", table, 4)[0]) if table else 400

    def _table(self, tag: str, least: int) -> bytes:
        table = bytes(self.hb_face.reference_table(tag).data or b"")
        return table if len(table) >= least else b""


NOTDEF: Final = 0
