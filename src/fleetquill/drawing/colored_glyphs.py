"""Glyphs that have colours of their own: layers and gradients (OpenType COLR) as drawings, bitmaps (sbix, CBDT) as
pictures in them."""

from __future__ import annotations

import io
import math
from functools import lru_cache
from hashlib import blake2b
from typing import Any, Final

import uharfbuzz as hb

from fleetquill.drawing.canvas import Drawing, Matrix, Segment, Step
from fleetquill.drawing.color_stops import ColorStop
from fleetquill.drawing.gradients import Axial, Round, Sweep
from fleetquill.drawing.paths import rectangle
from fleetquill.drawing.pictures import Picture
from fleetquill.drawing.recoloring import recolored
from fleetquill.style.values import BLACK, WHITE, Rgba
from fleetquill.text.face import Face
from fleetquill.text.outlines import outline_of

EM: Final = 1_000.0  # units of a drawing
BESIDE: Final = 500.0  # units left and right of a glyph's advance that a drawing holds
ABOVE, BELOW = 1_400.0, 700.0  # units over and under the baseline
FAR: Final = 16.0  # ems
BLENDS: Final = frozenset(
    "multiply screen overlay darken lighten color-dodge color-burn hard-light soft-light difference exclusion hue "
    "saturation color luminosity".split()
)
COMPOSED: Final = {  # of the operators of Porter and Duff: what is drawn (S, B), and within or without what (I, O)
    "clear": (), "src": ("S ",), "dest": ("B ",), "dest-over": ("S ", "B "), "src-in": ("SI",), "dest-in": ("BI",),
    "src-out": ("SO",), "dest-out": ("BO",), "src-atop": ("B ", "SI"), "dest-atop": ("BI", "SO"), "xor": ("SO", "BO"),
}  # fmt: skip
HSL: Final = {"hsl-hue": "hue", "hsl-saturation": "saturation", "hsl-color": "color", "hsl-luminosity": "luminosity"}


def glyph_drawing(face: Face, glyph: int, color: Rgba) -> Drawing:
    """A glyph in its own colours; `color` is that of the text around it. The origin of the glyph is `BESIDE` units from
    the drawing's left edge and `ABOVE` from its top; an em is `EM`."""
    drawing, hangs = _drawn(face, glyph)
    return _in_text(face, glyph, color) if hangs else drawing


MOST_KEPT: Final = 512  # signs: each takes some 140 kB, and files have them once as long as they are kept


@lru_cache(maxsize=MOST_KEPT)
def _drawn(face: Face, glyph: int) -> tuple[Drawing, bool]:
    """A glyph whose parts that are of the colour of the text are of `FOREGROUND`, and whether there are any."""
    advance = face.advance(glyph) / face.upem * EM
    drawing = Drawing(advance + 2 * BESIDE, ABOVE + BELOW)
    drawing.save()
    unit = EM / face.upem
    drawing.transform((unit, 0.0, 0.0, -unit, BESIDE, ABOVE))
    bitmap = face.hb_font.get_glyph_color_png(glyph) if face.hb_face.has_color_png else None
    if bitmap is not None and bitmap.data:
        _place_bitmap(drawing, bytes(bitmap.data), face.hb_font.get_glyph_extents(glyph))
    else:
        face.hb_font.paint_glyph(glyph, _functions(), _Painter(drawing, face), 0, hb.Color(0, 0, 0, 255))
    drawing.restore()
    return drawing, any(part is FOREGROUND for step in drawing.steps for part in step.arguments)


@lru_cache(maxsize=MOST_KEPT)
def _in_text(face: Face, glyph: int, color: Rgba) -> Drawing:
    plain, _ = _drawn(face, glyph)
    drawing = Drawing(plain.width, plain.height)
    drawing.plain = plain.plain
    drawing.steps = [
        step._replace(arguments=tuple([color if part is FOREGROUND else part for part in step.arguments]))
        for step in plain.steps
    ]
    return drawing


def _place_bitmap(drawing: Drawing, content: bytes, extents: Any) -> None:
    """A bitmap, as large as the font says; nothing for one that cannot be read."""
    picture = _picture(content)
    if picture is not None and extents is not None:
        drawing.save()
        drawing.transform((1.0, 0.0, 0.0, -1.0, extents.x_bearing, extents.y_bearing))
        drawing.picture(picture, 0.0, 0.0, extents.width, -extents.height)
        drawing.restore()


FOREGROUND: Final = Rgba(0.0, 0.0, 0.0)  # this object, not what equals it


class _Painter:
    """What HarfBuzz tells of a glyph, as calls on a drawing; font units, y up."""

    def __init__(self, drawing: Drawing, face: Face) -> None:
        self.drawing = drawing
        self.face = face
        self._groups: list[int] = []  # where those that are open begin in the drawing's steps

    def push(self, matrix: Matrix) -> None:
        self.drawing.save()
        self.drawing.transform(matrix)

    def clip_glyph(self, glyph: int) -> None:
        upem = self.face.upem
        outline = outline_of(self.face, glyph)
        path: list[Segment] = [(step[0], *(float(part) * upem for part in step[1:])) for step in outline]
        self.drawing.save()
        self.drawing.clip(path or rectangle(0.0, 0.0, 0.0, 0.0))

    def clip_rectangle(self, left: float, bottom: float, right: float, top: float) -> None:
        self.drawing.save()
        self.drawing.clip(rectangle(left, bottom, right - left, top - bottom))

    def fill(self, color: Rgba) -> None:
        far = FAR * self.face.upem
        self.drawing.fill_rect(-far, -far, 2 * far, 2 * far, color)

    def linear(self, line: Any, x0: float, y0: float, x1: float, y1: float, x2: float, y2: float) -> None:
        """The third point turns the line of the gradient (OpenType, COLR, PaintLinearGradient)."""
        across, up = x2 - x0, y2 - y0
        size = across * across + up * up
        share = (across * (x1 - x0) + up * (y1 - y0)) / size if size > 1e-6 else 0.0
        self.drawing.shade_all(Axial((x0, y0), (x1 - share * across, y1 - share * up), _stops(line)))

    def radial(self, line: Any, x0: float, y0: float, r0: float, x1: float, y1: float, r1: float) -> None:
        outer = max(r1, 1e-3)
        stops = tuple(((r0 + (r1 - r0) * place) / outer, color) for place, color in _stops(line))
        focus = ((x0 - x1) / outer, (y0 - y1) / outer)
        self.drawing.shade_all(Round((x1, y1), (outer, outer), stops, focus))

    def sweep(self, line: Any, x: float, y: float, start: float, end: float) -> None:
        share = (end - start) / math.tau
        stops = tuple((place * share, color) for place, color in _stops(line))
        self.drawing.shade_all(Sweep((x, y), math.degrees(start) + 90.0, stops))

    def end_clip(self) -> None:
        """A shape in one colour is filled, not cut out of a plane."""
        steps = self.drawing.steps
        if [step.verb for step in steps[-3:]] == ["save", "clip", "fill_rect"]:
            path, color = steps[-2].arguments[0], steps[-1].arguments[-1]
            del steps[-3:]
            self.drawing.fill_path(path, color)
        else:
            self.drawing.restore()

    def begin_group(self) -> None:
        self._groups.append(len(self.drawing.steps))
        self.drawing.begin_group()

    def end_group(self, mode: Any) -> None:
        """HarfBuzz draws what is below in a group, within it what comes on top in another that tells the mode."""
        name = mode.name.lower().replace("_", "-")
        name = HSL.get(name, name)
        begun = self._groups.pop()
        if name in COMPOSED and self._groups:
            self._compose(COMPOSED[name], self._groups[-1] + 1, begun)
        else:
            self.drawing.end_group(1.0, name if name in BLENDS else "normal")

    def _compose(self, parts: tuple[str, ...], outer: int, inner: int) -> None:
        """Draws two pictures anew, each whole or where the other is, or is not."""
        steps = self.drawing.steps
        below, above = steps[outer:inner], steps[inner + 1 :]
        del steps[outer:]
        for part in parts:
            drawn, other = (above, below) if part[0] == "S" else (below, above)
            if part[1] == " ":
                steps += drawn
                continue
            self.drawing.save()
            self.drawing.begin_group()
            if part[1] == "O":
                self.fill(WHITE)
            steps += _in(WHITE if part[1] == "I" else BLACK, other)
            self.drawing.end_mask()
            steps += drawn
            self.drawing.restore()


def _in(color: Rgba, steps: list[Step]) -> list[Step]:
    """The same in one colour, each part of it as opaque as it is."""
    drawing = Drawing(0.0, 0.0)
    drawing.steps = steps
    return recolored(drawing, lambda given: color._replace(alpha=given.alpha), lambda picture: picture).steps


def _color(color: Any) -> Rgba:
    return Rgba(color.red / 255, color.green / 255, color.blue / 255, color.alpha / 255)


def _stops(line: Any) -> tuple[ColorStop, ...]:
    """The stops of a gradient, those of the text's colour as black."""
    found = sorted(((stop.offset, _color(stop.color)) for stop in line.color_stops), key=lambda stop: stop[0])
    return tuple(found) or ((0.0, FOREGROUND),)


def _picture(content: bytes) -> Picture | None:
    from PIL import Image, UnidentifiedImageError

    try:
        with Image.open(io.BytesIO(content), formats=["PNG", "JPEG"]) as image:
            size, kind = image.size, str(image.format)
    except (UnidentifiedImageError, OSError, ValueError):
        return None
    key = blake2b(content, digest_size=16).hexdigest()
    return Picture(key, kind, content, float(size[0]), float(size[1]), size)


@lru_cache(maxsize=1)
def _functions() -> Any:
    made: Any = hb.PaintFuncs()
    made.set_push_transform_func(lambda *given: given[-1].push(given[:6]))
    made.set_pop_transform_func(lambda painter: painter.drawing.restore())
    made.set_push_clip_glyph_func(lambda glyph, painter: painter.clip_glyph(glyph))
    made.set_push_clip_rectangle_func(lambda *given: given[-1].clip_rectangle(*given[:4]))
    made.set_pop_clip_func(lambda painter: painter.end_clip())
    made.set_color_func(lambda color, own, painter: painter.fill(FOREGROUND if own else _color(color)))
    made.set_linear_gradient_func(lambda line, *given: given[-1].linear(line, *given[:-1]))
    made.set_radial_gradient_func(lambda line, *given: given[-1].radial(line, *given[:-1]))
    made.set_sweep_gradient_func(lambda line, *given: given[-1].sweep(line, *given[:-1]))
    made.set_push_group_func(lambda painter: painter.begin_group())
    made.set_pop_group_func(lambda mode, painter: painter.end_group(mode))
    return made
