"""How wide the letters of the fonts are that every reader has, where a file does not say (ISO 32000-1 §9.6.2.2)."""

from __future__ import annotations

import re
from functools import lru_cache
from pathlib import Path
from typing import Final

ROW: Final = re.compile(r"^C -?\d+ ; WX (\d+) ; N (\S+) ;", re.M)
OTHER_NAMES: Final = {"Arial": "Helvetica", "CourierNew": "Courier", "TimesNewRoman": "Times"}


@lru_cache(maxsize=16)
def core_widths(name: str) -> dict[str, float]:
    """The widths of glyphs by their names, in thousandths of an em; nothing for a font that is none of those."""
    import matplotlib

    file = _file_of(name)
    path = Path(matplotlib.get_data_path()) / "fonts" / "pdfcorefonts" / f"{file}.afm"
    if not file or not path.is_file():
        return {}
    return {glyph: float(width) for width, glyph in ROW.findall(path.read_text("latin-1"))}


def _file_of(name: str) -> str:
    """The font that a name means: 'Helvetica-Bold', 'Arial,BoldItalic'."""
    plain = name.rpartition("+")[2].replace("MT", "").replace("PS", "")
    family = re.split(r"[-,]", plain)[0]
    family = OTHER_NAMES.get(family, family)
    bold, slanted = "Bold" in plain, "Italic" in plain or "Oblique" in plain
    if family in ("Helvetica", "Courier"):
        style = ("Bold" if bold else "") + ("Oblique" if slanted else "")
        return f"{family}-{style}" if style else family
    if family == "Times":
        return f"Times-{('Bold' if bold else '') + ('Italic' if slanted else '') or 'Roman'}"
    return family if family in ("Symbol", "ZapfDingbats") else ""
