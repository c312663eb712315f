"""Colours of workbooks: plain, indexed, or of the theme with a tint (ISO/IEC 29500-1 §18.8.19)."""

from __future__ import annotations

import colorsys
from collections.abc import Sequence
from typing import Any, Final

from lxml import etree

USUAL_THEME: Final = (
    "FFFFFF", "000000", "E7E6E6", "44546A", "4472C4", "ED7D31", "A5A5A5", "FFC000", "5B9BD5", "70AD47", "0563C1",
    "954F72",
)  # fmt: skip
THEME_ORDER: Final = ("lt1", "dk1", "lt2", "dk2", "accent1", "accent2", "accent3", "accent4", "accent5", "accent6",
                      "hlink", "folHlink")  # fmt: skip
DRAWING: Final = "{http://schemas.openxmlformats.org/drawingml/2006/main}"


class Palette:
    """The colours that a workbook names by number."""

    def __init__(self, theme: bytes | str | None, indexed: Sequence[str]) -> None:
        self._theme = _theme_colors(theme)
        self._indexed = indexed

    def css(self, color: Any) -> str:
        """A colour as CSS writes it; '' for none, or the one that comes of itself."""
        if color is None:
            return ""
        found = self._plain(color)
        if not found:
            return ""
        tint = color.tint if isinstance(color.tint, (int, float)) else 0.0
        return f"#{tinted(found, tint)}".lower()

    def theme(self, number: int, tint: float = 0.0) -> str:
        return f"#{tinted(self._theme[number], tint)}".lower()

    def _plain(self, color: Any) -> str:
        if color.type == "rgb" and isinstance(color.rgb, str):
            return color.rgb[-6:]
        if color.type == "theme" and isinstance(color.theme, int) and color.theme < len(self._theme):
            return self._theme[color.theme]
        if color.type == "indexed" and isinstance(color.indexed, int) and color.indexed < min(64, len(self._indexed)):
            return self._indexed[color.indexed][-6:]
        return ""


def tinted(color: str, tint: float) -> str:
    """A colour made lighter (above 0) or darker (below)."""
    if not tint:
        return color
    red, green, blue = (int(color[at : at + 2], 16) / 255 for at in (0, 2, 4))
    hue, light, saturation = colorsys.rgb_to_hls(red, green, blue)
    light = light * (1 + tint) if tint < 0 else light * (1 - tint) + tint
    return "".join(f"{round(part * 255):02X}" for part in colorsys.hls_to_rgb(hue, min(1.0, light), saturation))


def mixed(first: str, second: str, share: float) -> str:
    """A colour between two that CSS writes: `share` of the second."""
    pairs = ((int(first[at : at + 2], 16), int(second[at : at + 2], 16)) for at in (1, 3, 5))
    return "#" + "".join(f"{round(one + (two - one) * share):02x}" for one, two in pairs)


def _theme_colors(theme: bytes | str | None) -> tuple[str, ...]:
    if not theme:
        return USUAL_THEME
    parser = etree.XMLParser(resolve_entities=False, no_network=True)
    try:
        root = etree.fromstring(theme.encode() if isinstance(theme, str) else theme, parser)
    except etree.XMLSyntaxError:
        return USUAL_THEME
    scheme = root.find(f".//{DRAWING}clrScheme")
    found = list(USUAL_THEME)
    for number, name in enumerate(THEME_ORDER):
        element = scheme.find(f"{DRAWING}{name}") if scheme is not None else None
        for color in element if element is not None else ():
            value = color.get("lastClr") or color.get("val") or ""
            if len(value) == 6:
                found[number] = value
    return tuple(found)
