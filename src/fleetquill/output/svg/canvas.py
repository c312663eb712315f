"""A canvas that writes SVG (SVG 2): shapes, outlines of letters or letters, pictures, masks."""

from __future__ import annotations

import base64
from collections.abc import Iterator, Mapping, Sequence
from html import escape
from typing import Final

from fleetquill.drawing.canvas import Drawing, Look, Matrix, Path, Stamp, Stroke, show_state
from fleetquill.drawing.fields import Field
from fleetquill.drawing.gradients import Axial, Shade, Sweep, round_matrix, within
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture, pixels_of, png_picture
from fleetquill.drawing.places import Artifact, Place
from fleetquill.drawing.sweeps import paint_sweep
from fleetquill.drawing.words import SLOPE, THICKENING, advance_of, gaps_after, runs_along
from fleetquill.graphics.finished_pages import draw_pixels
from fleetquill.output.svg.fonts import FontUses
from fleetquill.pdf.finished import FinishedPage
from fleetquill.pdf.objects import number
from fleetquill.style.values import Rgba
from fleetquill.text.face import Face
from fleetquill.text.outlines import outline_of
from fleetquill.text.shaping import Word

CAPS: Final = ("butt", "round", "square")
JOINS: Final = ("miter", "round", "bevel")
FAR: Final = 8_000.0  # px: further than any page reaches
EMS: Final = 1000  # units of an em, in which letters are kept
AS_IS: Final = {"JPEG": "image/jpeg", "PNG": "image/png", "GIF": "image/gif", "WEBP": "image/webp"}
ORIENTED: Final = {  # the unit square of a picture onto the unit rectangle, for each EXIF orientation
    1: (1, 0, 0, 1, 0, 0), 2: (-1, 0, 0, 1, 1, 0), 3: (-1, 0, 0, -1, 1, 1), 4: (1, 0, 0, -1, 0, 1),
    5: (0, 1, 1, 0, 0, 0), 6: (0, 1, -1, 0, 1, 0), 7: (0, -1, -1, 0, 1, 1), 8: (0, -1, 1, 0, 0, 1),
}  # fmt: skip


class Definitions:
    """What is used by name in one SVG file, each written once."""

    def __init__(self, numbers: Iterator[int]) -> None:
        self.parts: list[str] = []
        self._names: dict[object, str] = {}
        self._numbers = numbers

    def known(self, key: object) -> str:
        """The name of what is kept by a key; '' where it is not there."""
        return self._names.get(key, "")

    def add(self, key: object, form: str) -> str:
        """Keeps a part, in whose text '{}' is its name; gives that."""
        name = self.name()
        self.parts.append(form.replace("{}", name, 1))
        self._names[key] = name
        return name

    def name(self) -> str:
        return f"d{next(self._numbers)}"


class SvgCanvas:
    """The content of one page. Coordinates are px, y down, as in SVG."""

    def __init__(self, extent: tuple[float, float], definitions: Definitions, fonts: FontUses | None) -> None:
        """With `fonts` letters stay letters, set in faces that go along; else they are outlines."""
        self.extent = extent
        self.definitions = definitions
        self.fonts = fonts
        self._out: list[str] = []
        self._open = [0]  # elements that each `restore` closes
        self._groups: list[tuple[list[str], list[int]]] = []
        self.links: list[str] = []

    def content(self) -> str:
        """The elements so far, links above them."""
        return "\n".join([*self._out, "</g>" * sum(self._open), *self.links])

    # ---- shapes ----

    def fill_rect(self, x: float, y: float, width: float, height: float, color: Rgba) -> None:
        self._out.append(
            f'<rect x="{_n(x)}" y="{_n(y)}" width="{_n(width)}" height="{_n(height)}"{_ink("fill", color)}/>'
        )

    def fill_path(self, path: Path, color: Rgba, even_odd: bool = False) -> None:
        rule = ' fill-rule="evenodd"' if even_odd else ""
        self._out.append(f'<path d="{path_data(path)}"{_ink("fill", color)}{rule}/>')

    def stroke_path(self, path: Path, color: Rgba, stroke: Stroke) -> None:
        self._out.append(f'<path d="{path_data(path)}" fill="none"{_outline(color, stroke)}/>')

    def stamps(self, path: Path, places: Sequence[Stamp], stroke: Stroke) -> None:
        data = path_data(path)
        name = self.definitions.known(data) or self.definitions.add(data, f'<path id="{{}}" d="{data}"/>')
        for place in places:
            fill = _ink("fill", place.fill) if place.fill is not None else ' fill="none"'
            line = ""
            if place.line is not None:
                line = _outline(place.line, stroke._replace(width=stroke.width / place.scale))
            scale = number(place.scale, 6)
            matrix = f"matrix({scale} 0 0 {scale} {_n(place.x)} {_n(place.y)})"
            self._out.append(f'<use href="#{name}" transform="{matrix}"{fill}{line}/>')

    def shade(self, gradient: Shade, x: float, y: float, width: float, height: float) -> None:
        self.save()
        self.clip(rectangle(x, y, width, height))
        self.transform((1.0, 0.0, 0.0, 1.0, x, y))
        if isinstance(gradient, Sweep):
            paint_sweep(self, gradient, width, height)
        else:
            self.shade_all(gradient)
        self.restore()

    def shade_all(self, gradient: Shade) -> None:
        if isinstance(gradient, Sweep):
            paint_sweep(self, gradient, *gradient.center)
            return
        name = self.definitions.known(gradient) or self.definitions.add(gradient, _gradient(gradient))
        self._out.append(
            f'<rect x="{-FAR:g}" y="{-FAR:g}" width="{2 * FAR:g}" height="{2 * FAR:g}" fill="url(#{name})"/>'
        )

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
        outline = look.outline
        if not look.color.alpha and outline is None:
            return
        if outline is not None and outline.below:
            self._letters(x, baseline, look._replace(color=outline.color), words, space, spaced, outline.stroke)
            outline = None
        if self.fonts is not None and outline is None and self._set_letters(x, baseline, look, words, space, spaced):
            return
        self._letters(x, baseline, look, words, space, spaced, None)
        if outline is not None and outline.stroke.width > 0:
            self._letters(x, baseline, look._replace(color=outline.color), words, space, spaced, outline.stroke)

    def _letters(
        self,
        x: float,
        baseline: float,
        look: Look,
        words: Sequence[Word],
        space: float,
        spaced: Sequence[bool] | None,
        stroke: Stroke | None,
    ) -> None:
        """The outlines of letters, each kept once; with a stroke the lines around them alone."""
        size = look.size
        if not size or not look.color.alpha:
            return
        unit = EMS / size
        uses: list[str] = []
        bolder: list[str] = []  # those whose strokes are thickened
        for start, run in runs_along(look, words, space, spaced):
            synthesis = look.setting.synthesis.get(run.face)
            slope = synthesis is not None and synthesis.slope
            for index, (glyph, across, rise) in enumerate(run.places()):
                name = self._glyph(run.face, glyph)
                if not name:
                    continue
                at = (start + index * look.letter_spacing) * unit + across * EMS
                if slope:
                    place = f' transform="matrix(1 0 {SLOPE} 1 {_n(at)} {_n(rise * EMS)})"'
                else:
                    place = (f' x="{_n(at)}"' if at else "") + (f' y="{_n(rise * EMS)}"' if rise else "")
                uses.append(f'<use href="#{name}"{place}/>')
                if synthesis is not None and synthesis.bold and stroke is None:
                    bolder.append(uses[-1])
        scale = number(size / EMS, 6)
        matrix = f"matrix({scale} 0 0 -{scale} {_n(x)} {_n(baseline)})"
        for letters, line in ((bolder, Stroke(size * THICKENING)), (uses, stroke)):
            if not letters:
                continue
            if line is None:
                ink = _ink("fill", look.color)
            else:
                dash = tuple(part * unit for part in line.dash)
                wider = line._replace(width=line.width * unit, dash=dash, offset=line.offset * unit)
                ink = ' fill="none"' + _outline(look.color, wider)
            self._out.append(f'<g transform="{matrix}"{ink}>{"".join(letters)}</g>')

    def _glyph(self, face: Face, glyph: int) -> str:
        """The name of a letter's outline; '' where it has none."""
        key = (face, glyph)
        found = self.definitions.known(key)
        if not found:
            outline = outline_of(face, glyph)
            if outline:
                data = "".join(_segment(s[0], [v * EMS for v in s[1:]], places=1) for s in outline)
                found = self.definitions.add(key, f'<path id="{{}}" d="{data}"/>')
        return found

    def _set_letters(
        self,
        x: float,
        baseline: float,
        look: Look,
        words: Sequence[Word],
        space: float,
        spaced: Sequence[bool] | None,
    ) -> bool:
        """Sets words as text, each as wide as it was shaped; False where their faces cannot go along."""
        fonts, size = self.fonts, look.size
        if fonts is None or look.setting.synthesis or any(word.face is None for word in words):
            return False
        is_ltr = look.setting.direction != "rtl"
        at = x
        for word, has_space in zip(words, gaps_after(words, spaced), strict=True):
            width = advance_of(look, (word,), 0.0, None)
            if word.text.strip() and word.face is not None:
                family = fonts.family(word.face, word.text)
                fit = (
                    f' textLength="{_n(width)}" lengthAdjust="spacingAndGlyphs"'
                    if is_ltr and len(word.text) > 1
                    else ""
                )
                features = fonts.features(look.setting)
                turned = "" if is_ltr else ' direction="rtl" text-anchor="end"'
                self._out.append(
                    f'<text x="{_n(at)}" y="{_n(baseline)}" font-family="{family}" font-size="{_n(size)}"'
                    f"{features}{turned}{_ink('fill', look.color)}{fit}>{escape(word.text, quote=False)}</text>"
                )
            at += width + (space if has_space else 0.0)
        return True

    # ---- pictures ----

    def picture(self, picture: Picture, x: float, y: float, width: float, height: float) -> None:
        name = self.definitions.known(picture.key) or self.definitions.add(picture.key, _image(picture))
        a, b, c, d, e, f = ORIENTED.get(picture.orientation, ORIENTED[1])
        numbers = (a * width, b * height, c * width, d * height, x + e * width, y + f * height)
        self._out.append(f'<use href="#{name}" transform="matrix({" ".join(number(v, 4) for v in numbers)})"/>')

    def tiles(
        self, picture: Picture, columns: Sequence[float], rows: Sequence[float], width: float, height: float
    ) -> None:
        for y in rows:
            for x in columns:
                self.picture(picture, x, y, width, height)

    def finished_page(self, page: FinishedPage, x: float, y: float, width: float, height: float) -> None:
        draw_pixels(self, page, x, y, width, height)

    def drawing(self, drawing: Drawing, x: float, y: float, width: float, height: float) -> None:
        """A group that is kept once, however often it stands."""
        if not drawing.width or not drawing.height:
            return
        scale_x, scale_y = number(width / drawing.width, 6), number(height / drawing.height, 6)
        matrix = f"matrix({scale_x} 0 0 {scale_y} {_n(x)} {_n(y)})"
        if drawing.inline:
            self._out.append(f'<g transform="{matrix}">{self._inner(drawing)}</g>')
            return
        name = self.definitions.known(drawing)
        if not name:
            name = self.definitions.add(drawing, f'<g id="{{}}">{self._inner(drawing)}</g>')
        self._out.append(f'<use href="#{name}" transform="{matrix}"/>')

    def _inner(self, drawing: Drawing) -> str:
        canvas = SvgCanvas(drawing.extent, self.definitions, self.fonts)
        drawing.paint(canvas)
        return canvas.content()

    # ---- state ----

    def save(self) -> None:
        self._open.append(0)

    def restore(self) -> None:
        self._out.append("</g>" * self._open.pop())

    def clip(self, path: Path, even_odd: bool = False) -> None:
        rule = ' clip-rule="evenodd"' if even_odd else ""
        data = path_data(path)
        key = ("clip", data, even_odd)
        form = f'<clipPath id="{{}}"><path d="{data}"{rule}/></clipPath>'
        name = self.definitions.known(key) or self.definitions.add(key, form)
        self._begin(f'clip-path="url(#{name})"')

    def transform(self, matrix: Matrix) -> None:
        self._begin(f'transform="matrix({" ".join(number(value, 6) for value in matrix)})"')

    def _begin(self, attributes: str) -> None:
        self._out.append(f"<g {attributes}>")
        self._open[-1] += 1

    def begin_group(self) -> None:
        self._groups.append((self._out, self._open))
        self._out, self._open = [], [0]

    def _end_form(self) -> str:
        """What was drawn since `begin_group`."""
        content = "\n".join([*self._out, "</g>" * sum(self._open)])
        self._out, self._open = self._groups.pop()
        return content

    def end_group(self, alpha: float, blend: str = "normal") -> None:
        content = self._end_form()
        opacity = f' opacity="{number(alpha, 4)}"' if alpha < 1.0 else ""
        style = "isolation:isolate" if blend == "normal" else f"mix-blend-mode:{blend};isolation:isolate"
        self._out.append(f'<g{opacity} style="{style}">{content}</g>')

    def end_mask(self) -> None:
        content = self._end_form()
        area = f'x="{-FAR:g}" y="{-FAR:g}" width="{2 * FAR:g}" height="{2 * FAR:g}"'
        name = self.definitions.name()
        self.definitions.parts.append(
            f'<mask id="{name}" maskUnits="userSpaceOnUse" maskContentUnits="userSpaceOnUse" {area}>{content}</mask>'
        )
        self._begin(f'mask="url(#{name})"')

    # ---- meaning ----

    def mark(self, place: Place | None) -> None:
        """Parts are for formats that have a structure."""

    def set_aside(self, artifact: Artifact | None) -> None:
        """See `mark`."""

    def link(self, x: float, y: float, width: float, height: float, target: str, said: str) -> None:
        rect = f'<rect x="{_n(x)}" y="{_n(y)}" width="{_n(width)}" height="{_n(height)}" fill-opacity="0"/>'
        self.links.append(f'<a href="{escape(target)}">{rect}</a>')

    def field(
        self, field: Field, x: float, y: float, width: float, height: float, states: Mapping[str, Drawing]
    ) -> None:
        """A field as it is: nobody fills it in here."""
        show_state(self, x, y, width, height, states)


def path_data(path: Path) -> str:
    """A path as SVG writes it."""
    return "".join(_segment(segment[0], segment[1:]) for segment in path)


def _segment(verb: str, numbers: Sequence[float], places: int = 3) -> str:
    if verb == "h":
        return "Z"
    return verb.upper() + " ".join([number(value, places) for value in numbers])


def _n(value: float) -> str:
    return number(value, 3)


def _ink(name: str, color: Rgba) -> str:
    """An attribute for a colour, and one for what it lets through."""
    channels = "".join(f"{round(min(1.0, max(0.0, part)) * 255):02x}" for part in color[:3])
    opacity = f' {name}-opacity="{number(color.alpha, 4)}"' if color.alpha < 1.0 else ""
    return f' {name}="#{channels}"{opacity}'


def _outline(color: Rgba, stroke: Stroke) -> str:
    found = f'{_ink("stroke", color)} stroke-width="{number(stroke.width, 4)}"'
    if stroke.dash:
        found += f' stroke-dasharray="{" ".join(map(_n, stroke.dash))}"'
        found += f' stroke-dashoffset="{_n(stroke.offset)}"' if stroke.offset else ""
    if stroke.cap:
        found += f' stroke-linecap="{CAPS[stroke.cap]}"'
    if stroke.join:
        found += f' stroke-linejoin="{JOINS[stroke.join]}"'
    return found + f' stroke-miterlimit="{_n(stroke.miter)}"'


def _gradient(gradient: Shade) -> str:
    """SVG 2 §14.2; colours meet as they do on pages, by their numbers."""
    assert not isinstance(gradient, Sweep)
    placed = within(gradient)
    stops = "".join(
        f'<stop offset="{number(min(1.0, max(0.0, place)), 5)}"{_ink("stop-color", color).replace("-color-", "-")}/>'
        for place, color in placed.stops
    )
    if isinstance(placed, Axial):
        (x1, y1), (x2, y2) = placed.start, placed.end
        where = f'x1="{_n(x1)}" y1="{_n(y1)}" x2="{_n(x2)}" y2="{_n(y2)}"'
        return f'<linearGradient id="{{}}" gradientUnits="userSpaceOnUse" {where}>{stops}</linearGradient>'
    matrix = " ".join(number(value, 6) for value in round_matrix(placed))
    focus = f'fx="{number(placed.focus[0], 5)}" fy="{number(placed.focus[1], 5)}"'
    return (
        f'<radialGradient id="{{}}" gradientUnits="userSpaceOnUse" cx="0" cy="0" r="1" {focus} '
        f'gradientTransform="matrix({matrix})">{stops}</radialGradient>'
    )


def _image(picture: Picture) -> str:
    """A picture as the unit square."""
    if picture.format not in AS_IS:
        with pixels_of(picture) as image:
            picture = png_picture(image.convert("RGBA"), picture.width, picture.height)
    content = base64.b64encode(picture.content).decode("ascii")
    rendering = "" if picture.smooth else ' style="image-rendering:pixelated"'
    return (
        f'<image id="{{}}" width="1" height="1" preserveAspectRatio="none"{rendering} '
        f'href="data:{AS_IS[picture.format]};base64,{content}"/>'
    )
