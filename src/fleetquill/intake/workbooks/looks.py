"""How cells look: fonts, fills, borders and alignment of a workbook as CSS (ISO/IEC 29500-1 §18.8)."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.intake.workbooks.colors import Palette, mixed
from fleetquill.intake.workbooks.fitting import size_of

BORDERS: Final = {
    "thin": (1.0, "solid"), "medium": (2.0, "solid"), "thick": (3.0, "solid"), "hair": (0.5, "dotted"),
    "dotted": (1.0, "dotted"), "dashed": (1.0, "dashed"), "mediumDashed": (2.0, "dashed"), "double": (3.0, "double"),
    "dashDot": (1.0, "dashed"), "mediumDashDot": (2.0, "dashed"), "dashDotDot": (1.0, "dotted"),
    "mediumDashDotDot": (2.0, "dotted"), "slantDashDot": (2.0, "dashed"),
}  # fmt: skip
SHADES: Final = {"gray0625": 0.0625, "gray125": 0.125, "lightGray": 0.25, "mediumGray": 0.5, "darkGray": 0.75}
STRIPES: Final = {  # the directions of lines, and how much of the ground they cover
    "lightHorizontal": ((0,), 0.25), "darkHorizontal": ((0,), 0.5), "lightVertical": ((90,), 0.25),
    "darkVertical": ((90,), 0.5), "lightDown": ((45,), 0.25), "darkDown": ((45,), 0.5), "lightUp": ((135,), 0.25),
    "darkUp": ((135,), 0.5), "lightGrid": ((0, 90), 0.25), "darkGrid": ((0, 90), 0.5),
    "lightTrellis": ((45, 135), 0.25), "darkTrellis": ((45, 135), 0.5),
}  # fmt: skip
ACROSS: Final = {"left": "left", "right": "right", "center": "center", "centerContinuous": "center",
                 "justify": "justify", "distributed": "justify", "fill": "left"}  # fmt: skip
DOWN: Final = {"top": "top", "center": "middle", "justify": "top", "distributed": "middle"}
UNDERLINES: Final = {"double": "double", "doubleAccounting": "double"}
INDENT: Final = 9.0  # px of one step


class Looks:
    """Makes CSS of what cells say; lengths are px times `scale`."""

    def __init__(self, palette: Palette, scale: float = 1.0) -> None:
        self._palette = palette
        self.scale = scale

    def px(self, value: float) -> str:
        return f"{round(value * self.scale, 3):g}px"

    def font(self, font: Any) -> str:
        """A font as CSS."""
        if font is None:
            return ""
        css = f"font-size:{self.px(size_of(font))};"
        if font.name:
            css += f"font-family:'{str(font.name).replace(chr(39), '')}','Source Sans Pro',sans-serif;"
        if font.b:
            css += "font-weight:bold;"
        if font.i:
            css += "font-style:italic;"
        lines = ["underline"] * bool(font.u and font.u != "none") + ["line-through"] * bool(font.strike)
        if lines:
            css += f"text-decoration:{' '.join(lines)} {UNDERLINES.get(font.u or '', 'solid')};"
        if font.vertAlign in ("superscript", "subscript"):
            css += f"vertical-align:{'super' if font.vertAlign == 'superscript' else 'sub'};font-size:70%;"
        color = self._palette.css(font.color)
        return css + (f"color:{color};" if color and color != "#000000" else "")

    def fill(self, fill: Any) -> str:
        """A fill as a background."""
        if fill is None:
            return ""
        if fill.tagname == "gradientFill":
            stops = ",".join(f"{self._palette.css(s.color) or '#fff'} {s.position * 100:g}%" for s in fill.stop)
            kind = f"linear-gradient({(fill.degree or 0) + 90:g}deg,{stops})" if fill.type != "path" else (
                f"radial-gradient({stops})")  # fmt: skip
            return f"background-image:{kind};" if stops else ""
        pattern = fill.patternType
        if not pattern or pattern == "none":
            return ""
        front = self._palette.css(fill.fgColor) or "#000000"
        if pattern == "solid":
            return f"background-color:{front};"
        back = self._palette.css(fill.bgColor) or "#ffffff"
        if pattern in SHADES:
            return f"background-color:{mixed(back, front, SHADES[pattern])};"
        angles, share = STRIPES.get(pattern, ((0,), 0.5))
        line, step = 4 * self.scale * share, 4 * self.scale
        layers = ",".join(
            f"repeating-linear-gradient({angle}deg,{front} 0 {line:g}px,transparent {line:g}px {step:g}px)"
            for angle in angles
        )
        return f"background-color:{back};background-image:{layers};"

    def borders(self, border: Any) -> str:
        """The lines around a cell, and through it."""
        if border is None:
            return ""
        css = ""
        for side in ("top", "right", "bottom", "left"):
            line = self.line(getattr(border, side))
            css += f"border-{side}:{line};" if line else ""
        diagonal = self._diagonal(border)
        return css + (f"background-image:{diagonal};" if diagonal else "")

    def line(self, side: Any) -> str:
        if side is None or side.style not in BORDERS:
            return ""
        width, kind = BORDERS[side.style]
        return f"{self.px(width)} {kind} {self._palette.css(side.color) or '#000000'}"

    def _diagonal(self, border: Any) -> str:
        side = border.diagonal
        if side is None or side.style not in BORDERS or not (border.diagonalUp or border.diagonalDown):
            return ""
        half = BORDERS[side.style][0] * self.scale / 2
        tone = self._palette.css(side.color) or "#000000"
        stops = f"transparent calc(50% - {half:g}px),{tone} calc(50% - {half:g}px) calc(50% + {half:g}px)"
        stops += f",transparent calc(50% + {half:g}px)"
        ways = ["to bottom right"] * bool(border.diagonalUp) + ["to top right"] * bool(border.diagonalDown)
        return ",".join(f"linear-gradient({way},{stops})" for way in ways)

    def alignment(self, alignment: Any, *, usual: str) -> str:
        """Where text stands in its cell; `usual` is the side of values of its kind."""
        across = ACROSS.get((alignment.horizontal or "") if alignment is not None else "", usual)
        css = f"text-align:{across};" if across != "left" else ""
        if alignment is None:
            return css
        if alignment.vertical in DOWN:
            css += f"vertical-align:{DOWN[alignment.vertical]};"
        if alignment.wrap_text or alignment.horizontal in ("justify", "distributed"):
            css += "white-space:pre-wrap;overflow-wrap:break-word;"
        if alignment.indent:
            side = "right" if across == "right" else "left"
            css += f"padding-{side}:{self.px(2 + INDENT * alignment.indent)};"
        if alignment.readingOrder == 2:
            css += "direction:rtl;"
        return css
