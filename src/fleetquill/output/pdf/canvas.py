"""A Canvas that writes PDF content streams (ISO 32000-2 §8 and §9)."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import chain, islice
from typing import TYPE_CHECKING, Final, NamedTuple

from fleetquill.drawing.canvas import Area, Drawing, Look, Matrix, Path, Stamp, Stroke, show_state
from fleetquill.drawing.color_stops import is_opaque, opaque, parts_of, shadows_of
from fleetquill.drawing.fields import Field
from fleetquill.drawing.gradients import Axial, Round, Shade, Sweep, round_matrix, within
from fleetquill.drawing.matrices import moved, moved_corners
from fleetquill.drawing.paths import bounds, rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.drawing.places import LAYOUT, Artifact, Place
from fleetquill.drawing.rows import Rows, draw_cells
from fleetquill.drawing.sweeps import paint_sweep
from fleetquill.drawing.thin_lines import THIN, area_of
from fleetquill.drawing.words import SLOPE, THICKENING, advance_of, gaps_after
from fleetquill.output.pdf.field_places import FieldOnPage
from fleetquill.output.pdf.operators import PLACES, CellOperators, factors, font_size, is_gray, places_at, rgb, upright
from fleetquill.output.pdf.reach import Reach
from fleetquill.output.pdf.shadings import band_of
from fleetquill.output.pdf.strings import pieces_of
from fleetquill.pdf.finished import FinishedPage
from fleetquill.pdf.objects import Ref, number, write
from fleetquill.style.box_values import IDENTITY, multiply
from fleetquill.style.values import TRANSPARENT, Rgba
from fleetquill.text.face import Face
from fleetquill.text.glyph_runs import GlyphRun
from fleetquill.text.shaping import Synthesis, Word

if TYPE_CHECKING:
    from fleetquill.output.pdf.resources import Resources
    from fleetquill.output.pdf.tags import Sheet, Tags


FEW_TILES: Final = 60
ROOM: Final = 2.0  # ems around a baseline that letters, their marks and outlines keep within
MOST_PARTS: Final = 200  # that a gradient is made of
SMALLEST: Final = 0.001  # times as large as it is, that a drawing is drawn
FAR: Final = 8_000.0  # px: further than any page reaches
USUAL_LINE: Final = {"d": "[] 0 d", "J": "0 J", "j": "0 j", "M": "10 M"}  # by its operator (§8.4.1)
USUAL_MITER: Final = 10.0  # of a graphics state at its beginning (§8.4.1)


class Link(NamedTuple):
    """A rectangle in px from the page's top-left corner, and where it leads."""

    x: float
    y: float
    width: float
    height: float
    target: str
    said: str = ""
    place: Place | None = None


class Tagging:
    """What a page's canvas notes of the structure: the marked sequences of its content, and of groups in it."""

    def __init__(self, tags: Tags, page: Ref) -> None:
        self.tags = tags
        self.page = page
        self.own = tags.sheet(page)
        self.sheets = [self.own]

    def begin_form(self) -> Sheet:
        """A content stream in the page's."""
        sheet = self.tags.sheet(self.page)
        self.sheets.append(sheet)
        return sheet


class State(NamedTuple):
    """What the operators so far have set; `scale` is that of all transforms."""

    fill: Rgba | None
    stroke: Rgba | None
    alpha: float
    font: tuple[Face, float] | None
    spacing: float
    scale: float
    matrix: Matrix  # of all transforms since the group began


class PdfCanvas:
    """The content of one page, or of a form that is drawn `scale` times as large.

    Coordinates are px, y down; the page's transform does the rest.
    """

    def __init__(
        self,
        resources: Resources,
        scale: float = 1.0,
        extent: tuple[float, float] = (0.0, 0.0),
        tagging: Tagging | None = None,
        *,
        is_page: bool = False,
    ) -> None:
        self.extent = extent
        self._is_page = is_page
        self.tagging = tagging
        self._sheet = None if tagging is None else tagging.own
        self._place: Place | None = None  # that was marked last
        self._aside: Artifact | None = None
        self._wanted: Place | Artifact | None = None if tagging is None else LAYOUT  # what is to be drawn in
        self._open: Place | Artifact | None = None  # what is drawn in
        self._resources = resources
        self._out: list[str] = []
        self._in_text = False
        self._fill: Rgba | None = None
        self._stroke: Rgba | None = None
        self._alpha = 1.0
        self._font: tuple[Face, float] | None = None
        self._spacing = 0.0
        self._scale = scale
        self._places = places_at(scale)  # decimal ones, that coordinates want there
        self._in_drawing = False  # which is made small by its scale
        self._saved: list[State] = []
        self._groups: list[tuple[list[str], State, Sheet | None]] = []
        self._matrix: Matrix = IDENTITY
        self._reaches: list[Reach] = []  # of the groups that are open
        self._masks: list[tuple[int, str]] = []  # of the states they hold for
        self.links: list[Link] = []
        self.fields: list[FieldOnPage] = []

    def content(self) -> str:
        """The operators so far."""
        self._end_masks()
        self._end_mark()
        return "\n".join(self._out)

    # ---- state ----

    def _num(self, value: float) -> str:
        """A coordinate, as finely as it is seen."""
        return number(value, self._places)

    def _end_text(self) -> None:
        if self._in_text:
            self._out.append("ET")
            self._in_text = False

    def _begin_shape(self) -> None:
        """What follows is drawn, and is no text."""
        self._end_text()
        if self._wanted is not self._open:
            self._turn()

    def _end_mark(self) -> None:
        """Ends the marked sequence that is open (§14.6)."""
        self._end_text()
        if self._open is not None:
            self._out.append("EMC")
            self._open = None

    def _turn(self) -> None:
        """Ends one marked sequence and begins another: text objects and those nest (§14.6.1)."""
        self._end_mark()
        wanted = self._wanted
        if wanted is None or self.tagging is None or self._sheet is None:
            return
        self._out.append(self._begin(wanted) if isinstance(wanted, Place) else _artifact(wanted))
        self._open = wanted

    def _set_alpha(self, alpha: float) -> None:
        if alpha != self._alpha:
            self._end_text()
            self._out.append(f"/{self._resources.alpha(alpha)} gs")
            self._alpha = alpha

    def _set_fill(self, color: Rgba) -> None:
        if color.alpha != self._alpha:
            self._set_alpha(color.alpha)
        if color[:3] != (self._fill[:3] if self._fill else None):
            self._out.append(f"{rgb(color)} {'g' if is_gray(color) else 'rg'}")
            self._fill = color

    def _set_stroke(self, color: Rgba) -> None:
        self._set_alpha(color.alpha)
        if color[:3] != (self._stroke[:3] if self._stroke else None):
            self._out.append(f"{rgb(color)} {'G' if is_gray(color) else 'RG'}")
            self._stroke = color

    def _state(self) -> State:
        return State(self._fill, self._stroke, self._alpha, self._font, self._spacing, self._scale, self._matrix)

    def _go_back(self, state: State) -> None:
        self._fill, self._stroke, self._alpha, self._font, self._spacing, self._scale, self._matrix = state
        self._places = places_at(self._scale)

    def save(self) -> None:
        self._end_text()
        self._saved.append(self._state())
        self._out.append("q")

    def restore(self) -> None:
        self._end_text()
        self._end_masks()
        self._go_back(self._saved.pop())
        self._out.append("Q")

    # ---- shapes ----

    def fill_rect(self, x: float, y: float, width: float, height: float, color: Rgba) -> None:
        self._begin_shape()
        self._reach(x, y, width, height)
        self._set_fill(color)
        num = self._num
        self._out.append(f"{num(x)} {num(y)} {num(width)} {num(height)} re f")

    def fill_path(self, path: Path, color: Rgba, even_odd: bool = False) -> None:
        self._begin_shape()
        self._reach_path(path)
        self._set_fill(color)
        self._path(path)
        self._out.append("f*" if even_odd else "f")

    def stroke_path(self, path: Path, color: Rgba, stroke: Stroke) -> None:
        if self._in_drawing and not stroke.dash and stroke.width * self._scale < THIN:
            self.fill_path(area_of(path, stroke), color)
            return
        self._begin_shape()
        self._reach_path(path, stroke.width * max(1.0, stroke.miter) / 2)
        self._set_stroke(color)
        more = self._stroke_state(stroke)
        if more:
            self._out.append("q")
        self._out.append(f"{self._num(stroke.width)} w")
        self._out += more
        self._path(path)
        self._out.append("S")
        if more:
            self._out.append("Q")

    def stamps(self, path: Path, places: Sequence[Stamp], stroke: Stroke) -> None:
        """The shape takes its colours and its line from where it is set, as a form does (§8.10.1)."""
        self._begin_shape()
        for place in places if self._reaches else ():
            placed = (place.scale, 0.0, 0.0, place.scale, place.x, place.y)
            self._reach_path([moved(step, placed) for step in path], stroke.width)
        before = self._state()
        self._fill = self._stroke = None
        same_size = len({place.scale for place in places}) == 1
        out, num = self._out, self._num
        out += ["q", *self._stroke_state(stroke)]
        width = x = y = 0.0
        if same_size and places:
            scale = number(places[0].scale, 6)
            out.append(f"{scale} 0 0 {scale} 0 0 cm")
        for place in places:
            if place.line is not None and width != stroke.width / place.scale:
                width = stroke.width / place.scale
                out.append(f"{number(width, 4)} w")
            shapes = self._ink(path, place)
            if same_size:
                at_x, at_y = round(place.x / place.scale, 4), round(place.y / place.scale, 4)
                out.append(f"1 0 0 1 {number(at_x - x, 4)} {number(at_y - y, 4)} cm {shapes}")
                x, y = at_x, at_y
            else:
                scale = number(place.scale, 6)
                out.append(f"q {scale} 0 0 {scale} {num(place.x)} {num(place.y)} cm {shapes} Q")
        out.append("Q")
        self._go_back(before)

    def _ink(self, path: Path, place: Stamp) -> str:
        """Sets the colours of a shape; gives the operators that draw it."""
        fill, line = place.fill, place.line
        places = places_at(self._scale * place.scale)
        if fill is not None and line is not None and fill.alpha == line.alpha:
            self._set_fill(fill)
            self._set_stroke(line)
            return self._resources.shape(path, "B", places, self._shape)
        if fill is not None:
            self._set_fill(fill)
        shown = [] if fill is None else [self._resources.shape(path, "f", places, self._shape)]
        if line is not None:
            if shown and fill is not None and fill.alpha != line.alpha:
                shown.append(f"/{self._resources.alpha(line.alpha)} gs")
                self._alpha = line.alpha
            self._set_stroke(line)
            shown.append(self._resources.shape(path, "S", places, self._shape))
        return " ".join(shown)

    def _shape(self, path: Path, verb: str, places: int) -> str:
        """A shape without its colours: filled, outlined or both."""
        shape = PdfCanvas(self._resources, 10.0 ** (places - PLACES))
        shape._path(path)
        return f"{shape.content()}\n{verb}"

    def _stroke_state(self, stroke: Stroke) -> list[str]:
        """What an outline has beyond its width (§8.4.3)."""
        state: list[str] = []
        if stroke.dash:
            state.append(f"[{' '.join(map(self._num, stroke.dash))}] {self._num(stroke.offset)} d")
        if stroke.cap:
            state.append(f"{stroke.cap} J")
        if stroke.join:
            state.append(f"{stroke.join} j")
        if stroke.miter != USUAL_MITER:
            state.append(f"{number(stroke.miter, PLACES)} M")
        return state

    def clip(self, path: Path, even_odd: bool = False) -> None:
        self._end_text()
        self._path(path)
        self._out.append("W* n" if even_odd else "W n")

    def _rectangles(self, path: Path) -> list[str]:
        """The operators of the upright rectangles that a path begins with."""
        found: list[str] = []
        places = self._places
        for five in zip(*[iter(path)] * 5, strict=False):
            shown = upright(five, places)
            if not shown:
                break
            found.append(shown)
        return found

    def _path(self, path: Path) -> None:
        num, out = self._num, self._rectangles(path)
        for segment in path[5 * len(out) :] if out else path:
            if len(segment) == 3:
                verb, x, y = segment
                out.append(f"{num(x)} {num(y)} {verb}")
            else:
                verb, *points = segment
                out.append(f"{' '.join(map(num, points))} {verb}" if points else verb)
        self._out.append("\n".join(out))

    # ---- text ----

    def text(
        self,
        x: float,
        baseline: float,
        look: Look,
        words: Sequence[Word],
        space: float = 0.0,
        spaced: Sequence[bool] | None = None,
    ) -> None:
        """Words as one string where they are of one face and their glyphs tell their text, else one by one."""
        setting, resources = look.setting, self._resources
        face = setting.face
        if self._reaches:
            self._reach(x, baseline, advance_of(look, words, space, spaced), 0.0, ROOM * look.size)
        strings: Mapping[Word, str] = resources.store.words
        if resources.use_words(words):
            strings = resources.strings(words)
        goes_on = bool(words) and words[-1].spaced and (spaced is None or not spaced[-1])
        if len(words) == 1 and spaced is None and not goes_on:
            if words[0].face is face:
                self._show(x, baseline, face, look, strings[words[0]])
                return
        elif ((len(words) > 1 and setting.alike) or {word.face for word in words} == {face}) and (
            setting.space.face is face
        ):
            between = self._space(look, space)
            if spaced is None:
                joined = between.join(map(strings.__getitem__, words))
            else:
                joined = "".join([strings[w] + between * s for w, s in zip(words, spaced, strict=True)])
            if goes_on:  # on the next line: who copies the text wants to have the space
                joined += between
            self._show(x, baseline, face, look, joined)
            return
        self._word_by_word(x, baseline, look, words, space, gaps_after(words, spaced))

    def _space(self, look: Look, space: float) -> str:
        """A space as TJ content, with what it is wider than the font's own."""
        own = look.setting.space
        more = space - own.advance * look.size - look.letter_spacing
        strings = self._string(own)
        if abs(more) < 0.001 or not look.size:
            return strings
        return f"{strings}{number(-more * 1000 / look.size)}"

    def _string(self, word: Word) -> str:
        """The TJ content of a word, in the codes that its glyphs have in this file."""
        resources = self._resources
        return resources.strings((word,))[word] if resources.use_words((word,)) else resources.store.words[word]

    def _word_by_word(
        self, x: float, baseline: float, look: Look, words: Sequence[Word], space: float, spaced: Sequence[bool]
    ) -> None:
        """Words of several faces, with raised marks, or whose glyphs do not tell their text."""
        own = look.setting.space
        for word, has_space in zip(words, spaced, strict=True):
            x = self._word(x, baseline, look, word)
            if has_space:
                if own.face is not None:
                    self._show(x, baseline, own.face, look, self._string(own))
                x += space

    def _word(self, x: float, baseline: float, look: Look, word: Word) -> float:
        self._resources.use_words((word,))
        for run in word.runs:
            for part, before, said in run.parts() if run.unclear else ((run, 0, None),):
                if said is not None:
                    self._begin_text(look)
                    text = said.encode("utf-16-be", "surrogatepass").hex()
                    self._out.append(f"/Span<</ActualText<FEFF{text}>>>BDC")
                self._glyphs(x + before * look.letter_spacing, baseline, look, part)
                if said is not None:
                    self._out.append("EMC")
            x += run.advance * look.size + len(run.glyphs) * look.letter_spacing
        return x

    def _glyphs(self, x: float, baseline: float, look: Look, run: GlyphRun) -> None:
        size, spacing = look.size, look.letter_spacing
        for piece in pieces_of(run, self._resources.codes(run)):
            at = x + piece.offset * size + piece.before * spacing
            self._show(at, baseline - piece.rise * size, run.face, look, piece.strings)

    def _begin_text(self, look: Look) -> None:
        """Begins a text object, with all set that would end it."""
        if look.color.alpha:
            self._set_alpha(look.color.alpha)
        if self._wanted is not self._open:
            self._turn()
        if not self._in_text:
            self._out.append("BT")
            self._in_text = True

    def _show(self, x: float, baseline: float, face: Face, look: Look, strings: str) -> None:
        """Sets glyphs: `strings` is the content of a TJ array (§9.4.3)."""
        setting, size, color, letter_spacing, outline = look
        synthesis: Synthesis | None = setting.synthesis.get(face) if setting.synthesis else None
        if outline is not None and outline.below and outline.stroke.width > 0:  # the letters lie over their outline
            self._show(
                x, baseline, face, look._replace(color=TRANSPARENT, outline=outline._replace(below=False)), strings
            )
            outline = None
        if color.alpha and (color != self._fill or color.alpha != self._alpha):
            self._set_fill(color)
        if outline is not None and outline.color != color and color.alpha and outline.stroke.width > 0:
            self._show(x, baseline, face, look._replace(outline=None), strings)
            color = TRANSPARENT
        if outline is not None and outline.stroke.width > 0:
            self._set_stroke(outline.color)
        elif synthesis is not None and synthesis.bold:
            self._set_stroke(color)
        out, num = self._out, self._num
        if self._wanted is not self._open:
            self._turn()
        if not self._in_text:
            out.append("BT")
            self._in_text = True
        if self._font != (face, size):
            out.append(f"/{self._resources.font(face).name} {font_size(size)} Tf")
            self._font = (face, size)
        if letter_spacing != self._spacing:
            out.append(f"{num(letter_spacing)} Tc")
            self._spacing = letter_spacing
        if synthesis is None and outline is None and color.alpha:
            out.append(f"1 0 0 -1 {num(x)} {num(baseline)} Tm[{strings}]TJ")
            return
        slope = SLOPE if synthesis is not None and synthesis.slope else 0
        shown = f"1 0 {slope} -1 {num(x)} {num(baseline)} Tm[{strings}]TJ"
        if outline is not None and outline.stroke.width > 0:
            state = self._stroke_state(outline.stroke)
            more, back = " ".join([*state, ""]), " ".join(["", *(USUAL_LINE[part[-1]] for part in state)])
            how = 2 if color.alpha else 1
            out.append(f"{more}{how} Tr {num(outline.stroke.width)} w {shown} 0 Tr{back.rstrip()}")
        elif not color.alpha:
            out.append(f"3 Tr {shown} 0 Tr")
        elif synthesis is not None and synthesis.bold:
            out.append(f"2 Tr {num(size * THICKENING)} w {shown} 0 Tr")
        else:
            out.append(shown)

    # ---- meaning ----

    def mark(self, place: Place | None) -> None:
        if self.tagging is not None:
            self._place = place
            self._wanted = self._aside or place or LAYOUT

    def set_aside(self, artifact: Artifact | None) -> None:
        if self.tagging is not None:
            self._aside = artifact
            self._wanted = artifact or self._place or LAYOUT

    # ---- rows of ledgers ----

    def stamp_rows(self, x: float, y: float, rows: Rows) -> None:
        """Each row moves the origin down; its cells are strings that were made ready once."""
        if self._aside is not None:
            draw_cells(self, x, y, rows)
            return
        self._end_mark()
        looks = Counter([cell.look for row in rows.cells[:2] for cell in row if cell.look is not None])
        if not looks:
            looks = Counter([cell.look for row in rows.cells for cell in row if cell.look is not None])
        out = [f"q 1 0 0 1 {self._num(x)} {self._num(y)} cm"]
        texts = [""] * len(rows.cells)
        if looks:
            look = looks.most_common(1)[0][0]
            ops = self._resources.cell_operators(look)
            out[0] += f" {self._resources.look_operators(look)}"
            ops.known.trim()
            if self.tagging is not None and (rows.model or rows.places):
                texts = self._tagged_rows(rows, ops, self.tagging.tags)
            else:
                known, make = ops.known, ops.make
                texts = [f"BT {''.join([known.get(cell) or make(cell) for cell in row])}ET" for row in rows.cells]
                if self.tagging is not None:
                    texts = [f"{_artifact(LAYOUT)} {text} EMC" for text in texts]
        ready = {
            ground: (self._row_ground(ground.drawing), f"1 0 0 1 0 {number(ground.height, 4)} cm ")
            for ground in set(rows.grounds)
        }
        down = ""  # from the row before
        for ground, text in zip(rows.grounds, texts, strict=True):
            shown, step = ready[ground]
            out.append(f"{down}{shown}{text}")
            down = step
        out.append(f"{down}{self._row_ground(rows.closing)}Q")
        self._out.append("\n".join(out))

    def _tagged_rows(self, rows: Rows, ops: CellOperators, tags: Tags) -> list[str]:
        """The operators of rows, each cell in a marked sequence of its own."""
        assert self._sheet is not None  # where anything is tagged
        known, make = ops.known, ops.make
        columns = [*range(len(rows.places[0]) if rows.model is None else len(rows.model.cells))]
        found: list[list[str]] = []
        for row in rows.cells:
            shown = [known.get(cell) or make(cell) for cell in row]
            if [cell.column for cell in row] != columns:  # some are empty, or have several lines
                own = [""] * len(columns)
                for cell, operators in zip(row, shown, strict=True):
                    own[cell.column] += operators
                shown = own
            found.append(shown)
        if rows.model is not None and not self._groups:
            return tags.rows(self._sheet, rows.model, found)
        places = rows.places if rows.model is None else [rows.model.parts() for _ in found]
        marks = map(self._marked, chain(*places), chain(*found))
        return [" ".join(islice(marks, len(columns))) for _ in found]

    def _marked(self, place: Place | None, operators: str) -> str:
        """The operators of a cell in a marked sequence."""
        if not operators:
            return ""
        begin = _artifact(LAYOUT) if place is None else self._begin(place)
        return f"{begin} BT {operators}ET EMC"

    def _begin(self, place: Place) -> str:
        """Begins a marked sequence of a part."""
        assert self.tagging is not None
        assert self._sheet is not None
        text = f"/ActualText{write(place.facts.text).decode('latin-1')}" if place.facts.text else ""
        return f"/{place.role}<</MCID {self.tagging.tags.mark(self._sheet, place)}{text}>>BDC"

    def _row_ground(self, drawing: Drawing) -> str:
        """The operators of an empty row, which is no part of the document."""
        ground = self._ground(drawing)
        return f"{_artifact(LAYOUT)} {ground}EMC " if ground and self.tagging is not None else ground

    def _ground(self, drawing: Drawing) -> str:
        """The operators of an empty row, written once for the whole file."""
        ground = self._resources.grounds.get(drawing)
        if ground is None:
            canvas = PdfCanvas(self._resources)
            drawing.paint(canvas)
            content = canvas.content()
            ground = self._resources.grounds[drawing] = f"q {content} Q " if content else ""
        return ground

    # ---- pictures and links ----

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None:
        self._begin_shape()
        self._reach(x, y, width, height)
        self._set_alpha(1.0)
        name = self._resources.picture(picture, width, height)
        a, b, c, d, e, f = ORIENTED[picture.orientation]
        matrix = (a * width, b * height, c * width, d * height, x + e * width, y + f * height)
        self._out.append(f"q {' '.join(map(self._num, matrix))} cm /{name} Do Q")

    def tiles(
        self, picture: Picture, columns: Sequence[float], rows: Sequence[float], width: float, height: float
    ) -> None:
        """A row is a form of its own where there are many, so that rows and columns add up, not multiply."""
        if len(columns) * len(rows) <= FEW_TILES:
            for y in rows:
                for x in columns:
                    self.picture(picture, x, y, width, height)
            return
        self._reach(columns[0], rows[0], columns[-1] + width - columns[0], rows[-1] + height - rows[0])
        row = PdfCanvas(self._resources, self._scale)
        for x in columns:
            row.picture(picture, x, 0.0, width, height)
        box = (columns[0], 0.0, columns[-1] + width - columns[0], height)
        name = self._resources.form(row.content(), box)
        self._begin_shape()
        self._set_alpha(1.0)
        for y in rows:
            self._out.append(f"q 1 0 0 1 0 {self._num(y)} cm /{name} Do Q")

    # ---- gradients, transforms, groups ----

    def shade(self, gradient: Shade, x: float, y: float, width: float, height: float) -> None:
        """Shadings (§8.7.4.5); colours that let through get a soft mask (§11.5)."""
        self._end_text()
        self.save()
        self.clip(rectangle(x, y, width, height))
        self._reach(x, y, width, height)
        self.transform((1.0, 0.0, 0.0, 1.0, x, y))
        around, self._reaches = self._reaches, []  # the rest is cut off
        if isinstance(gradient, Sweep):
            paint_sweep(self, gradient, width, height)
        else:
            self.shade_all(gradient)
        self._reaches = around
        self.restore()

    def shade_all(self, gradient: Shade) -> None:
        self._end_text()
        if isinstance(gradient, Sweep):
            if self._reaches:
                self._reaches[-1].take_all()
            paint_sweep(self, gradient, *gradient.center)
            return
        self.save()
        if not is_opaque(gradient.stops):
            aside = self._aside
            self.set_aside(LAYOUT)
            self.begin_group()
            self._bands(gradient._replace(stops=shadows_of(gradient.stops)))
            self.end_mask()
            self.set_aside(aside)
        self._bands(gradient._replace(stops=opaque(gradient.stops)))
        self.restore()

    def _bands(self, gradient: Axial | Round) -> None:
        """An opaque gradient; in parts, where its colours change at once: readers take few samples of the whole."""
        parts = parts_of(gradient.stops)
        if len(parts) > MOST_PARTS or (isinstance(gradient, Round) and gradient.focus != (0.0, 0.0)):
            self._band(gradient)
            return
        if isinstance(gradient, Round):
            parts = parts[::-1]
        for at, stops in enumerate(parts):  # each lies over those before it
            self.save()
            if at:
                edge = stops[0][0] if isinstance(gradient, Axial) else stops[-1][0]
                self.clip(band_of(gradient, edge, FAR / self._scale))
            self._band(gradient._replace(stops=stops))
            self.restore()

    def _band(self, gradient: Axial | Round) -> None:
        if self._reaches:
            self._reaches[-1].take_all()
        self._set_alpha(1.0)
        color = gradient.stops[0][1]
        if all(stop == color for _, stop in gradient.stops):
            x, y = gradient.start if isinstance(gradient, Axial) else gradient.center
            far = FAR / self._scale
            self.fill_rect(x - far, y - far, 2 * far, 2 * far, color)
            return
        gradient = within(gradient)
        self.save()
        if isinstance(gradient, Round):
            self.transform(round_matrix(gradient))
        self._begin_shape()
        self._out.append(f"/{self._resources.shading(gradient)} sh")
        self.restore()

    def drawing(self, drawing: Drawing, x: float, y: float, width: float, height: float) -> None:
        """A form of its own, so that a drawing that stands often is stored once."""
        if not drawing.width or not drawing.height:
            return
        self._begin_shape()
        if drawing.inline:
            self.save()
            self.transform((width / drawing.width, 0.0, 0.0, height / drawing.height, x, y))
            outside, self._in_drawing = self._in_drawing, True
            drawing.paint(self)
            self._in_drawing = outside
            self.restore()
            return
        scale_x, scale_y = width / drawing.width, height / drawing.height
        self._reach(x, y, width, height)
        scale = max(round(self._scale * max(scale_x, scale_y), 3), SMALLEST)
        name = self._resources.drawing(drawing, scale, self._form_content)
        self._set_alpha(1.0)
        self._out.append(f"q {factors((scale_x, 0, 0, scale_y, x, y))} cm /{name} Do Q")

    def finished_page(self, page: FinishedPage, x: float, y: float, width: float, height: float) -> None:
        self._begin_shape()
        self._reach(x, y, width, height)
        self._set_alpha(1.0)
        name = self._resources.finished(page)
        wide, high = page.size
        self._out.append(f"q {factors((width / wide, 0, 0, -height / high, x, y + height))} cm /{name} Do Q")

    def _form_content(self, drawing: Drawing, scale: float) -> str:
        canvas = PdfCanvas(self._resources, scale)
        canvas._in_drawing = True
        drawing.paint(canvas)
        return canvas.content()

    def end_mask(self) -> None:
        """A soft mask by luminosity (§11.5.3): what follows becomes a group, within which others may be set."""
        content, box, _ = self._end_form()
        mask = self._resources.luminosity(content, box)
        self._masks.append((len(self._saved), mask))
        self.begin_group()

    def _end_masks(self) -> None:
        """Sets the groups that are seen through the masks of this state."""
        while self._masks and self._masks[-1][0] == len(self._saved):
            _, mask = self._masks.pop()
            name = self._resources.group(*self._end_form())
            self._set_alpha(1.0)
            self._out.append(f"q /{mask} gs /{name} Do Q")

    def transform(self, matrix: Matrix) -> None:
        self._end_text()
        self._out.append(f"{factors(matrix)} cm")
        if self._reaches:
            self._matrix = multiply(self._matrix, matrix)
        a, b, c, d, _, _ = matrix
        self._scale *= max(math.hypot(a, b), math.hypot(c, d))
        places = places_at(self._scale)
        if places != self._places:
            self._places = places
            self._font, self._spacing = None, math.nan  # they were said too roughly

    def begin_group(self) -> None:
        self._end_text()
        self._end_mark()
        self._groups.append((self._out, self._state(), self._sheet))
        self._matrix = IDENTITY
        self._reaches.append(Reach())
        if self.tagging is not None:
            self._sheet = self.tagging.begin_form()
        self._out = []
        self._fill = self._stroke = self._font = None
        self._alpha, self._spacing = 1.0, math.nan  # a form inherits the letter spacing: it must be said

    def _end_form(self) -> tuple[str, Area, Sheet | None]:
        """What was drawn since `begin_group`, how far it reaches, and what was marked in it."""
        self._end_mark()
        content, sheet = "\n".join(self._out), self._sheet
        self._out, state, self._sheet = self._groups.pop()
        self._go_back(state)
        box = self._reaches.pop().box
        self._reach(*box)
        return content, box, sheet

    def _reach(self, x: float, y: float, width: float, height: float, more: float = 0.0) -> None:
        """Something is drawn there, and up to `more` px around it: groups are as large as what is in them."""
        if self._reaches:
            area = (x - more, y - more, width + 2 * more, height + 2 * more)
            self._reaches[-1].take(moved_corners(self._matrix, area))

    def _reach_path(self, path: Path, more: float = 0.0) -> None:
        if self._reaches and path:
            self._reach(*bounds(path), more)

    def end_group(self, alpha: float, blend: str = "normal") -> None:
        """A transparency group (§11.6.6), blended with what is below it (§11.3.5)."""
        name = self._resources.group(*self._end_form())
        self._end_mark()
        self._set_alpha(alpha)
        if blend == "normal":
            self._out.append(f"/{name} Do")
        else:
            self._out.append(f"q /{self._resources.blend(blend)} gs /{name} Do Q")

    def link(self, x: float, y: float, width: float, height: float, target: str, said: str) -> None:
        place = None if self._aside is not None else self._place
        self.links.append(Link(x, y, width, height, target, said, place))

    def field(
        self, field: Field, x: float, y: float, width: float, height: float, states: Mapping[str, Drawing]
    ) -> None:
        forbidden = field.kind == "button" and self._resources.archived  # it acts (ISO 19005-2 §6.4.1)
        if forbidden or not self._is_page:
            self._begin_shape()
            show_state(self, x, y, width, height, states)
            return
        place = None if self._aside is not None else self._place
        self.fields.append(FieldOnPage(field, x, y, width, height, states, place))


def _artifact(artifact: Artifact) -> str:
    """The operator that begins what belongs to no part of the document (§14.8.2.2.2)."""
    subtype = f"/Subtype/{artifact.subtype}" if artifact.subtype else ""
    return f"/Artifact<</Type/{artifact.kind}{subtype}>>BDC"


# The unit square of a picture onto the unit rectangle, y down, for each EXIF orientation.
ORIENTED = {
    1: (1, 0, 0, -1, 0, 1),
    2: (-1, 0, 0, -1, 1, 1),
    3: (-1, 0, 0, 1, 1, 0),
    4: (1, 0, 0, 1, 0, 0),
    5: (0, 1, -1, 0, 1, 0),
    6: (0, 1, 1, 0, 0, 0),
    7: (0, -1, 1, 0, 0, 1),
    8: (0, -1, -1, 0, 1, 1),
}
