"""Makes the font of signs in colours that comes along, from the Noto Color Emoji that its makers publish (OFL).

    python -m tools.make_signs_font NotoColorEmoji.woff2

What is kept are the vector layers (COLR); the same pictures as SVG, four times as large, and metrics for lines that run
downwards are left out.
"""

from __future__ import annotations

import sys
from pathlib import Path
from typing import Final

from fontTools import subset
from fontTools.ttLib import TTFont

TARGET: Final = Path(__file__).parent.parent / "src/fleetquill/signs/NotoColorEmoji.ttf"
LEFT_OUT: Final = ("SVG ", "vhea", "vmtx")


def make(source: Path) -> None:
    font = TTFont(source)
    for table in LEFT_OUT:
        if table in font:
            del font[table]
    options = subset.Options()
    options.layout_features = options.name_IDs = ["*"]
    options.notdef_outline = True
    options.hinting = options.glyph_names = False
    subsetter = subset.Subsetter(options)
    subsetter.populate(unicodes=list(font.getBestCmap()))
    subsetter.subset(font)
    font.flavor = None
    font.save(TARGET)


if __name__ == "__main__":
    make(Path(sys.argv[1]))
