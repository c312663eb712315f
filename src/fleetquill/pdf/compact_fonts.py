"""Font programs in the Compact Font Format, as far as a PDF says by which numbers their glyphs are shown."""

from __future__ import annotations

import io
from typing import Any


def read_compact(content: bytes) -> Any:
    """The top dictionary of a program's one font. Raises what its reader raises where it is damaged."""
    from fontTools.cffLib import CFFFontSet

    fonts = CFFFontSet()
    fonts.decompile(io.BytesIO(content), None, isCFF2=False)
    return fonts[0]


def cids_of(top: Any) -> list[int] | None:
    """The numbers that the glyphs of a CID-keyed font are shown by, whatever their places (ISO 32000-2 §9.7.4.2); None
    for a font whose glyphs have names, where their places are their numbers."""
    if not hasattr(top, "ROS"):
        return None
    return [0, *(int(name[len("cid") :]) for name in top.charset[1:])]
