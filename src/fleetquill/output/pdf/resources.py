"""What the pages of one file share: fonts, pictures and graphics states, by resource name."""

from __future__ import annotations

import re
import zlib
from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import TYPE_CHECKING, Any, Final

from fleetquill.caches import Cache
from fleetquill.drawing.canvas import Area, Drawing, Look, Path
from fleetquill.drawing.gradients import Axial, Round
from fleetquill.drawing.pictures import Picture
from fleetquill.errors import ConformanceError
from fleetquill.graphics.reduction import PictureRules
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.fonts import PdfFont, descriptor_of
from fleetquill.output.pdf.form_fonts import write_form_font
from fleetquill.output.pdf.operators import CellOperators, font_size, is_gray, num, rgb
from fleetquill.output.pdf.packing import COMPRESSION
from fleetquill.output.pdf.pictures import PictureWish, PictureWriter
from fleetquill.output.pdf.reach import EVERYWHERE
from fleetquill.output.pdf.shadings import shading
from fleetquill.output.pdf.store import PdfStore
from fleetquill.output.pdf.strings import strings_of
from fleetquill.pdf.copying import Copier, Shared, form_of_page
from fleetquill.pdf.finished import FinishedPage
from fleetquill.pdf.objects import Name, Ref
from fleetquill.text.face import Face
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import Word

if TYPE_CHECKING:
    from fleetquill.output.pdf.tags import Sheet

NAMED: Final = re.compile(r"/([A-Z]\w*) (?:[\d.]+ Tf|Do|gs|sh)")  # operators that name resources
SHORT_SHAPE: Final = 60  # bytes of operators: a form has a hundred besides
GROUP: Final = {"S": Name("Transparency"), "CS": Name("DeviceRGB"), "I": True}  # isolated (§11.4.5)
MOST_WORDS = 10_000  # that are known to have been noted


class Resources:
    """What the content streams of one file may name, and for each of them what it does (ISO 32000-2 §7.8.3)."""

    def __init__(self, file: PdfFile, rules: PictureRules, store: PdfStore, *, archived: bool = False) -> None:
        self._file = file
        self.store = store
        self._rules = rules
        self.archived = archived
        self._copied = Shared()
        self._copiers: dict[int, Copier] = {}  # by the file that they copy from
        self._finished: dict[tuple[int, int], str] = {}
        self.form_fonts: dict[str, Ref] = {}  # that fields are set in, by name
        self._form_faces: dict[Face, str] = {}
        self._writer = PictureWriter(file)
        self._named: dict[str, tuple[str, Any]] = {}  # by name: the kind of resource, and what it is
        self._shared: dict[frozenset[str], Ref] = {}
        self._fonts: dict[Face, PdfFont] = {}
        self._pictures: dict[str, tuple[str, Ref]] = {}
        self._alphas: dict[float, str] = {}
        self.grounds: dict[Drawing, str] = {}  # the operators of ledgers' empty rows
        self._words: set[Word] = set()
        self._cells: dict[Look, CellOperators] = {}
        self._recoded: Cache[Word, str] = Cache(MOST_WORDS)
        self._drawings: dict[tuple[Drawing, float], str] = {}
        self._drawn: dict[tuple[Drawing, bytes], str] = {}  # by what they hold
        self._forms: dict[Any, str] = {}
        self._appearances: dict[tuple[str, float, float], Ref] = {}
        self._form_count = 0
        self._shadings: dict[Axial | Round, str] = {}
        self._masks: dict[tuple[str, Area], str] = {}
        self._shapes: dict[tuple[int, str, int], tuple[Path, str]] = {}  # with the path, so that its id stays its own

    def font(self, face: Face) -> PdfFont:
        font = self._fonts.get(face)
        if font is None:
            font = self._fonts[face] = PdfFont(face, f"F{len(self._fonts) + 1}", self._file.reserve())
            self._named[font.name] = "Font", font.ref
        return font

    def form_font(self, face: Face) -> str:
        """The name of a face as the font that is typed in."""
        name = self._form_faces.get(face)
        if name is None:
            name = f"T{len(self._form_faces) + 1}"
            written = write_form_font(self._file, face, descriptor_of(face))
            if written is None:  # no name for any of its letters
                usual = {"Type": Name("Font"), "Subtype": Name("Type1"), "BaseFont": Name("Helvetica")}
                written = self._file.add(usual | {"Encoding": Name("WinAnsiEncoding")})
            self._form_faces[face] = name
            self.form_fonts[name] = written
        return name

    def finished(self, page: FinishedPage) -> str:
        """The form of a page of another file, by name."""
        key = (id(page.reader), page.page.number)
        name = self._finished.get(key)
        if name is None:
            if self.archived and not page.is_archived:
                raise ConformanceError(
                    f"A page of '{page.name}' is shown, and nothing says that it can be archived.",
                    remedy="Make that file one for archives, too, or leave 'conform' away.",
                )
            copier = self._copiers.get(key[0])
            if copier is None:
                copier = self._copiers[key[0]] = Copier(page.reader, self._file, self._copied)
                copier.places |= {one.ref.number: None for one in page.reader.pages() if one.ref is not None}
            self._form_count += 1
            name = self._finished[key] = f"X{self._form_count}"
            self._named[name] = "XObject", form_of_page(page.page, copier, self._file)
        return name

    def appearance(self, drawing: Drawing, content: str, *, typed: bool) -> Ref:
        """What shows a field: a form whose y runs up. Text that is typed in stands between marks (§12.7.4.3) and has
        a form of its own, which a reader may write anew; of others, like ones are the same."""
        marked = f"/Tx BMC\n{content}\nEMC" if typed else content
        key = content, drawing.width, drawing.height
        if not typed and key in self._appearances:
            return self._appearances[key]
        entries: dict[str, Any] = {
            "Type": Name("XObject"),
            "Subtype": Name("Form"),
            "BBox": [0, 0, drawing.width, drawing.height],
            "Matrix": [1, 0, 0, -1, 0, drawing.height],
            "Resources": self.dictionary(self.named_in(content)),
        }
        ref = self._appearances[key] = self._file.add_stream(marked.encode("ascii"), entries)
        return ref

    def named_in(self, content: str) -> frozenset[str]:
        """The resources that operators name."""
        return frozenset(NAMED.findall(content))

    def dictionary(self, names: Iterable[str]) -> dict[str, Any]:
        """The resource dictionary of those names."""
        found: dict[str, Any] = {}
        for name in sorted(names, key=lambda name: (name[0], len(name), name)):
            kind, value = self._named[name]
            found.setdefault(kind, {})[name] = value
        return found

    def shared(self, names: frozenset[str]) -> Ref:
        """That dictionary as an object, which all that name the same share."""
        ref = self._shared.get(names)
        if ref is None:
            ref = self._shared[names] = self._file.add(self.dictionary(names))
        return ref

    def use_words(self, words: Sequence[Word]) -> bool:
        """Notes the glyphs of these words, and the text that each glyph stands for.

        True where one of the words has a glyph that stands for another text than before: it gets another code
        in this file (see `strings`).
        """
        if not self._words.issuperset(words):
            for word in words:
                if word not in self._words:
                    if len(self._words) >= MOST_WORDS:
                        self._words.clear()
                    self._words.add(word)
                    self._note(word)
        return bool(self._recoded) and not self._recoded.keys().isdisjoint(words)

    def strings(self, words: Sequence[Word]) -> Mapping[Word, str]:
        """The TJ content of words, in the codes that their glyphs have in this file."""
        known, usual = self._recoded, self.store.words
        return {word: known.get(word) or usual[word] for word in words}

    def codes(self, run: GlyphRun) -> tuple[int, ...]:
        """The codes of a run's glyphs: their numbers, as long as they stand for one text."""
        codes = self.font(run.face).codes
        return tuple([codes.get(meaning, meaning[0]) for meaning in run.meanings])

    def _note(self, word: Word) -> None:
        for run in word.runs:
            font = self.font(run.face)
            font.glyphs.update(run.glyphs)
            if not font.said.issuperset(run.meanings):
                font.say(run.meanings)
            if font.codes and not font.codes.keys().isdisjoint(run.meanings):
                self._recoded.put(word, strings_of(word, self.codes))

    def look_operators(self, look: Look) -> str:
        """Font, size, letter spacing and colour of a ledger's cells."""
        operator = "g" if is_gray(look.color) else "rg"
        return (
            f"/{self.font(look.setting.face).name} {font_size(look.size)} Tf {num(look.letter_spacing)} Tc "
            f"{rgb(look.color)} {operator}"
        )

    def cell_operators(self, base: Look) -> CellOperators:
        """The ready operators of cells in rows that begin in a look."""
        found = self._cells.get(base)
        if found is None:
            found = self._cells[base] = CellOperators(
                base, self.look_operators, self.use_words, self.store.words, self.strings, self.store.figures
            )
        return found

    def alpha(self, alpha: float) -> str:
        name = self._alphas.get(alpha)
        if name is None:
            name = self._alphas[alpha] = f"A{len(self._alphas) + 1}"
            self._state(name, {"ca": alpha, "CA": alpha})
        return name

    def _state(self, name: str, entries: dict[str, Any]) -> None:
        self._named[name] = "ExtGState", self._file.add({"Type": Name("ExtGState"), **entries})

    def blend(self, mode: str) -> str:
        """The name of a state that blends (§11.3.5); the standards name the modes alike, but for their case."""
        name = "B" + "".join(word.capitalize() for word in mode.split("-"))
        if name not in self._named:
            self._state(name, {"BM": Name(name[1:])})
        return name

    def picture(self, picture: Picture, width: float, height: float) -> str:
        """The name of a picture that is shown at a size in px."""
        if self._rules.active:
            picture = self._rules.apply(picture, width, height)
        found = self._pictures.get(picture.key)
        if found is None:
            enlarged = width > picture.pixels[0] * 1.01
            how = PictureWish(enlarged and not self.archived, inks=not self.archived)
            found = (f"P{len(self._pictures) + 1}", self._writer.write(picture, how))
            self._pictures[picture.key] = found
            self._named[found[0]] = "XObject", found[1]
        return found[0]

    # ---- forms and shadings ----

    def form(self, content: str, box: Area, *, group: bool = False) -> str:
        """A form XObject (§8.10) of those operators, by name; like ones are the same."""
        key = (content, box, group)
        name = self._forms.get(key)
        if name is None:
            more = {"Group": GROUP} if group else {}
            name, _ = self._add_form(content, box, more)
            self._forms[key] = name
        return name

    def group(self, content: str, box: Area, sheet: Sheet | None) -> str:
        """A form that is drawn as one picture (§11.6.6), by name; one in which parts are marked is its own."""
        if sheet is None or not sheet.places:
            return self.form(content, box, group=True)
        name, sheet.stream = self._add_form(content, box, {"Group": GROUP, "StructParents": sheet.key})
        return name

    def _add_form(self, content: str, box: Area, more: dict[str, Any]) -> tuple[str, Ref]:
        return self._put_form(content.encode("ascii"), box, self.named_in(content), more, deflated=False)

    def _put_form(
        self, content: bytes, box: Area, names: frozenset[str], more: dict[str, Any], *, deflated: bool
    ) -> tuple[str, Ref]:
        x, y, width, height = box
        entries: dict[str, Any] = {
            "Subtype": Name("Form"),
            "BBox": [x, y, x + width, y + height],
            "Resources": self.dictionary(names) if names else None,
            **more,
        }
        ref = self._file.add_stream(content, entries, deflated=deflated)
        self._form_count += 1
        name = f"X{self._form_count}"
        self._named[name] = "XObject", ref
        return name, ref

    def shape(self, path: Path, verb: str, places: int, content_of: Callable[[Path, str, int], str]) -> str:
        """The operators that draw a shape without colours; `content_of` makes its own, once for each verb. Those of a
        shape that is set again and again are a form, but where they are shorter than what a form has besides."""
        key = (id(path), verb, places)
        found = self._shapes.get(key)
        if found is None:
            content = content_of(path, verb, places)
            drawn = content if len(content) <= SHORT_SHAPE else f"/{self.form(content, EVERYWHERE)} Do"
            found = self._shapes[key] = (path, drawn)
        return found[1]

    def shading(self, gradient: Axial | Round) -> str:
        """The name of a shading whose stops stand from 0 to 1."""
        name = self._shadings.get(gradient)
        if name is None:
            name = self._shadings[gradient] = f"S{len(self._shadings) + 1}"
            self._named[name] = "Shading", self._file.add(shading(gradient))
        return name

    def drawing(self, drawing: Drawing, scale: float, content_of: Callable[[Drawing, float], str]) -> str:
        """The form of a vector picture that is drawn `scale` times as large, by name; `content_of` makes its operators.

        Where those are the same at several scales there is one form.
        """
        key = (drawing, scale)
        name = self._drawings.get(key)
        if name is None:
            box = (0.0, 0.0, drawing.width, drawing.height)
            deflated = self.store.drawings.get(key)
            names: frozenset[str] = frozenset()  # nothing that is kept names anything
            if deflated is None:
                content = content_of(drawing, scale)
                names = self.named_in(content)
                deflated = zlib.compress(content.encode("ascii"), COMPRESSION)
                if drawing.plain and not names:
                    self.store.drawings.put(key, deflated)
            name = self._drawn.get((drawing, deflated))
            if name is None:
                name, _ = self._put_form(deflated, box, names, {}, deflated=True)
                self._drawn[drawing, deflated] = name
            self._drawings[key] = name
        return name

    def luminosity(self, content: str, box: Area) -> str:
        """A graphics state whose soft mask is the lightness of what those operators draw (§11.6.5.3)."""
        name = self._masks.get((content, box))
        if name is None:
            group = {"Group": {"S": Name("Transparency"), "CS": Name("DeviceRGB")}}
            _, ref = self._add_form(content, box, group)
            name = self._masks[content, box] = f"M{len(self._masks) + 1}"
            self._state(name, {"SMask": {"Type": Name("Mask"), "S": Name("Luminosity"), "G": ref}})
        return name

    def write(self) -> None:
        """Writes the fonts: nothing more will be drawn."""
        for font in self._fonts.values():
            font.write(self._file, self.store.subsets)
        self._cells.clear()  # they know these resources, and would hold them
