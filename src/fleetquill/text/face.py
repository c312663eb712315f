"""One face of a font file: its metrics, its coverage, and HarfBuzz's handles on it."""

from __future__ import annotations

import struct
from collections.abc import Collection, Mapping
from functools import cached_property, lru_cache
from pathlib import Path
from types import MappingProxyType
from typing import Any, Final

import uharfbuzz as hb

from fleetquill.caches import Cache
from fleetquill.errors import FleetQuillError, SourceError, Where
from fleetquill.text.woff import PACKED, unpacked

STRETCH_OF_CLASS: Final = (50.0, 62.5, 75.0, 87.5, 100.0, 112.5, 125.0, 150.0, 200.0)  # OS/2 usWidthClass
OUTLINES: Final = frozenset(("glyf", "CFF ", "CFF2"))  # tables of them
NO_EMBEDDING, BITMAPS_ALONE = 0x0002, 0x0200  # OpenType, OS/2 fsType
ITALIC_BITS: Final = 0x201  # OS/2 fsSelection: italic, oblique
COLLECTION: Final = b"ttcf"
MOST_KEPT: Final = 4_000  # outlines and the like, of one face
MOST_AGAIN: Final = 256  # faces that were sent and are kept
LARGEST: Final = 200_000_000  # bytes that a font of this machine may unpack to


def read_font(path: Path, content: bytes | None = None) -> Any:
    """A HarfBuzz blob of a font file; WOFF and WOFF2 are unpacked."""
    try:
        if content is None:
            blob = hb.Blob.from_file_path(str(path))
            start = bytes(blob.data[:4]) if len(blob.data) >= 4 else b""
        else:
            blob, start = hb.Blob(content), content[:4]
        if start in PACKED:
            return hb.Blob(unpacked(path.read_bytes() if content is None else content, LARGEST))
        return blob
    except FleetQuillError:
        raise
    except (OSError, hb.HarfBuzzError) as error:
        raise SourceError(f"The font cannot be read ({error}).", where=Where(str(path))) from error
    except Exception as error:  # whatever a damaged WOFF file brings about
        raise SourceError(f"The font does not unpack ({error}).", where=Where(str(path))) from error


def faces_in(path: Path) -> int:
    """How many faces a font file has: more than one in a collection."""
    try:
        with path.open("rb") as file:
            start, flavor = file.read(4), file.read(4)
    except OSError as error:
        raise SourceError(f"The font cannot be read ({error}).", where=Where(str(path))) from error
    if COLLECTION not in (start, flavor if start in PACKED else b""):  # which a packed one says at its head (WOFF2 §4)
        return 1
    return int(hb.Face(read_font(path)).count)


def _instance(face: Any, axes: Mapping[str, float]) -> Any:
    """A static face of a variable font, at places on its axes."""
    wish = hb.SubsetInput()
    wish.keep_everything()
    wish.flags = wish.flags | hb.SubsetFlags.DOWNGRADE_CFF2
    wish.pin_all_axes_to_default(face)
    for tag, value in axes.items():
        wish.pin_axis_location(face, tag, value)
    return hb.subset(face, wish)


class Face:
    """A font face. Lengths are in ems; `advances` are in font units.

    `content` holds the font's bytes where it is not a file; `axes` pins a variable font; `ranges`
    limits the characters that the face is used for.
    """

    def __init__(
        self,
        path: Path,
        index: int = 0,
        content: bytes | None = None,
        axes: Mapping[str, float] = MappingProxyType({}),
        ranges: tuple[tuple[int, int], ...] = (),
    ) -> None:
        self.path = path
        self.index = index
        self._ranges = ranges
        self._again = (path, index, content, tuple(sorted(axes.items())), ranges)  # of what it can be made anew
        self.hb_face: Any = hb.Face(read_font(path, content), index)
        self.axes: list[Any] = list(self.hb_face.axis_infos) if self.hb_face.has_var_data else []
        if self.axes and self.hb_face.glyph_count:
            known = {axis.tag for axis in self.axes}
            self.hb_face = _instance(self.hb_face, {tag: v for tag, v in axes.items() if tag in known})
        if not self.hb_face.glyph_count:
            raise SourceError("The file is not a font that can be used.", where=Where(str(path)))
        self.hb_font: Any = hb.Font(self.hb_face)
        self.upem: int = self.hb_face.upem
        self.glyph_count: int = self.hb_face.glyph_count
        extents = self.hb_font.get_font_extents("ltr")
        self.ascent: float = extents.ascender / self.upem
        self.descent: float = -extents.descender / self.upem
        self.line_gap: float = max(0, extents.line_gap) / self.upem
        self.x_height = self._metric("X_HEIGHT", 0.0) or self._height("x", 0.5)
        self.cap_height = self._metric("CAP_HEIGHT", 0.0) or self._height("H", 0.7)
        self.underline_offset = self._metric("UNDERLINE_OFFSET", -0.1)  # up from the baseline
        self.underline_thickness = self._metric("UNDERLINE_SIZE", 0.05) or 0.05
        self.strikeout_offset = self._metric("STRIKEOUT_OFFSET", 0.3)
        self.strikeout_thickness = self._metric("STRIKEOUT_SIZE", 0.05) or 0.05
        self.tables = frozenset(self.hb_face.table_tags)
        self.advances: dict[int, int] = {}
        self.kept: Cache[Any, Any] = Cache(MOST_KEPT)  # what others worked out from its glyphs
        self._covered: set[str] = set()  # characters that have been asked for and are there

    def __reduce__(self) -> tuple[Any, tuple[Any, ...]]:
        """What another process can be sent: where the face is, or its bytes."""
        return face_again, self._again

    def _metric(self, name: str, fallback: float) -> float:
        value = self.hb_font.get_metric_position(getattr(hb.OTMetricsTag, name))
        return fallback if value is None else value / self.upem

    def _height(self, character: str, fallback: float) -> float:
        """How high a letter is, for fonts whose tables do not say."""
        glyph = self.hb_font.get_nominal_glyph(ord(character))
        extents = self.hb_font.get_glyph_extents(glyph) if glyph else None
        return extents.y_bearing / self.upem if extents is not None and extents.y_bearing > 0 else fallback

    @cached_property
    def features(self) -> frozenset[str]:
        """The OpenType features that substitute glyphs."""
        scripts = self.hb_face.get_table_script_tags("GSUB")
        tags = (self.hb_face.get_language_feature_tags("GSUB", index, 0xFFFF) for index in range(len(scripts)))
        return frozenset(tag for found in tags for tag in found)

    @cached_property
    def average_advance(self) -> float:
        """The average width of its glyphs as a share of the font size (OpenType, OS/2 xAvgCharWidth)."""
        return self._number_in("OS/2", 2) or 0.5

    @cached_property
    def widest(self) -> float:
        """The width of the box that holds any of its glyphs (OpenType, head xMin and xMax)."""
        return self._number_in("head", 40) - self._number_in("head", 36)

    def _number_in(self, table: str, place: int) -> float:
        """A signed number of two bytes in a table, as a share of the font size; 0 where there is none."""
        content = self.hb_face.reference_table(table).data if table in self.tables else b""
        return int.from_bytes(content[place : place + 2], "big", signed=True) / self.upem

    @cached_property
    def is_colored(self) -> bool:
        """Whether its glyphs, or some of them, have colours of their own: they are drawn, not set as text."""
        face = self.hb_face
        return bool(face.has_color_layers or face.has_color_paint or face.has_color_png)

    @cached_property
    def has_glyphs(self) -> bool:
        """Whether there is anything to see in it that is known here: outlines, colours."""
        return self.is_colored or bool(self.tables & OUTLINES)

    @cached_property
    def embedding(self) -> int:
        """What its maker allows, as bits (OpenType, OS/2 fsType): 2 for no embedding, 256 for no subsets, 512 for
        bitmaps alone."""
        table = self._table("OS/2", 10)
        return int(struct.unpack_from(">H", table, 8)[0]) if table else 0

    @property
    def is_cff(self) -> bool:
        return "CFF " in self.tables

    @cached_property
    def is_cid_keyed(self) -> bool:
        """Whether the glyphs of a CFF font have numbers of their own in place of names: those of East Asia, mostly."""
        return self.is_cff and bool(self.hb_font.glyph_to_string(1) == "gid1")

    def covers(self, characters: Collection[str]) -> bool:
        """Whether the face has a glyph for each of these characters."""
        return self._covered.issuperset(characters) or all(self._has(character) for character in characters)

    def _has(self, character: str) -> bool:
        if character in self._covered:
            return True
        point = ord(character)
        if not self.has_glyphs:
            return False
        if self._ranges and not any(first <= point <= last for first, last in self._ranges):
            return False
        if not self.hb_font.get_nominal_glyph(point):
            return False
        self._covered.add(character)
        return True

    def name(self, kind: str) -> str:
        """An entry of the 'name' table, by HarfBuzz's word for it."""
        return str(self.hb_face.get_name(getattr(hb.OTNameIdPredefined, kind)) or "")

    @cached_property
    def italic(self) -> bool:
        table = self._table("OS/2", 64)
        return bool(table) and bool(struct.unpack_from(">H", table, 62)[0] & ITALIC_BITS)

    @cached_property
    def stretch(self) -> float:
        """CSS font-stretch, in per cent ('OS/2' table)."""
        table = self._table("OS/2", 8)
        width_class = struct.unpack_from(">H", table, 6)[0] if table else 5
        return STRETCH_OF_CLASS[min(9, max(1, width_class)) - 1]

    def advance(self, glyph: int) -> int:
        """The advance of a glyph on its own, in font units."""
        advance = self.advances.get(glyph)
        if advance is None:
            advance = self.advances[glyph] = self.hb_font.get_glyph_h_advance(glyph)
        return advance

    @cached_property
    def postscript_name(self) -> str:
        name = self.name("POSTSCRIPT_NAME") or self.path.stem
        return "".join(c for c in name if 33 <= ord(c) <= 126 and c not in "[](){}<>/%#") or "Font"

    @cached_property
    def italic_angle(self) -> float:
        """Degrees, negative for a slope to the right ('post' table)."""
        table = self._table("post", 8)
        return struct.unpack_from(">i", table, 4)[0] / 65536 if table else 0.0

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """The box around all glyphs, in thousandths of an em ('head' table)."""
        table = self._table("head", 44)
        corners = struct.unpack_from(">4h", table, 36) if table else (0, -200, 1000, 800)
        left, bottom, right, top = (round(corner * 1000 / self.upem) for corner in corners)
        return left, bottom, right, top

    @cached_property
    def fixed_pitch(self) -> bool:
        table = self._table("post", 16)
        return bool(table) and struct.unpack_from(">I", table, 12)[0] != 0

    @cached_property
    def weight(self) -> int:
        table = self._table("OS/2", 6)
        return int(struct.unpack_from(">H", table, 4)[0]) if table else 400

    def _table(self, tag: str, least: int) -> bytes:
        table = bytes(self.hb_face.reference_table(tag).data or b"")
        return table if len(table) >= least else b""


@lru_cache(MOST_AGAIN)
def face_again(
    path: Path,
    index: int,
    content: bytes | None,
    axes: tuple[tuple[str, float], ...],
    ranges: tuple[tuple[int, int], ...],
) -> Face:
    """A face that was sent: the same one each time, so that it stands in a file once."""
    return Face(path, index, content, dict(axes), ranges)
