"""What the pages of one file share: fonts, pictures and graphics states, by resource name."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from fleetquill.graphics.pictures import Picture
from fleetquill.pdf.file import PdfFile
from fleetquill.pdf.fonts import PdfFont, SubsetStore
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.operators import CellOperators, is_gray, num, rgb
from fleetquill.pdf.pictures import write_picture
from fleetquill.text.face import Face
from fleetquill.text.shaping import Word

if TYPE_CHECKING:
    from fleetquill.layout.fragments import Fragment
    from fleetquill.layout.ledger import Cell, Look

MOST_WORDS = 10_000  # that are known to have been noted


class Resources:
    """One resource dictionary for the whole file (ISO 32000-2 §7.8.3)."""

    def __init__(self, file: PdfFile) -> None:
        self._file = file
        self.ref = file.reserve()
        self._fonts: dict[Face, PdfFont] = {}
        self._pictures: dict[str, tuple[str, Ref]] = {}
        self._alphas: dict[float, str] = {}
        self.grounds: dict[Fragment, str] = {}  # the operators of ledgers' empty rows
        self._words: set[Word] = set()
        self._cells: dict[Look, CellOperators] = {}
        self._contested: set[Word] = set()

    def font(self, face: Face) -> PdfFont:
        font = self._fonts.get(face)
        if font is None:
            font = self._fonts[face] = PdfFont(face, f"F{len(self._fonts) + 1}", self._file.reserve())
        return font

    def use_words(self, words: Sequence[Word]) -> bool:
        """Notes the glyphs of these words, and the text that each glyph stands for.

        True where one of the words needs its text said beside it: the map of a font gives each
        glyph one text, that of the word which came first.
        """
        if not self._words.issuperset(words):
            for word in words:
                if word not in self._words:
                    if len(self._words) >= MOST_WORDS:
                        self._words.clear()
                    self._words.add(word)
                    self._note(word)
        return bool(self._contested) and not self._contested.isdisjoint(words)

    def _note(self, word: Word) -> None:
        for run in word.runs:
            font = self.font(run.face)
            font.glyphs |= run.glyphs
            if not run.exact:
                continue
            for glyph, text in run.meanings:
                if font.texts.setdefault(glyph, text) != text:
                    self._contested.add(word)

    def look_operators(self, look: Look) -> str:
        """Font, size, letter spacing and colour of a ledger's cells."""
        assert not isinstance(look.face, str)
        operator = "g" if is_gray(look.color) else "rg"
        return (
            f"/{self.font(look.face).name} {num(look.size)} Tf {num(look.letter_spacing)} Tc "
            f"{rgb(look.color)} {operator}"
        )

    def cell_operators(self, base: Look) -> CellOperators:
        """The ready operators of cells in rows that begin in a look."""
        found = self._cells.get(base)
        if found is None:
            found = self._cells[base] = CellOperators(base, self.look_operators, self._use_cell)
        return found

    def _use_cell(self, cell: Cell) -> None:
        self.use_words(cell.words)

    def alpha(self, alpha: float) -> str:
        name = self._alphas.get(alpha)
        if name is None:
            name = self._alphas[alpha] = f"A{len(self._alphas) + 1}"
        return name

    def picture(self, picture: Picture) -> str:
        found = self._pictures.get(picture.key)
        if found is None:
            found = (f"P{len(self._pictures) + 1}", write_picture(self._file, picture))
            self._pictures[picture.key] = found
        return found[0]

    def write(self, subsets: SubsetStore) -> None:
        """Writes fonts and the resource dictionary: nothing more will be drawn."""
        for font in self._fonts.values():
            font.write(self._file, subsets)
        resources: dict[str, Any] = {"Font": {f.name: f.ref for f in self._fonts.values()}}
        if self._pictures:
            resources["XObject"] = dict(self._pictures.values())
        if self._alphas:
            resources["ExtGState"] = {
                name: {"Type": Name("ExtGState"), "ca": alpha, "CA": alpha} for alpha, name in self._alphas.items()
            }
        self._file.add(resources, self.ref)
