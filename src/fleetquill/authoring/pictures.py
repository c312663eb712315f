"""What Python says of pictures and codes, as attributes of their elements."""

from __future__ import annotations

import base64
import io
import os
from typing import Any, Final

from fleetquill.authoring.inline import Style, css_of
from fleetquill.errors import OptionError
from fleetquill.tree.lengths import Length, css_length


def code_attributes(
    kind: str, text: str, width: Length, height: Length, correction: str, style: Style
) -> dict[str, str]:
    """The attributes of an fq-code element, tried out at once."""
    from fleetquill.graphics.codes import code_drawing

    code_drawing(kind, text, correction.upper())
    css = picture_style(width, height, "") + css_of(style)
    return {"kind": kind, "value": text, "correction": correction, **({"style": css} if css else {})}


FITS: Final = ("", "contain", "cover", "fill", "none", "scale-down")


def picture_style(width: Length, height: Length, fit: str) -> str:
    if fit not in FITS:
        raise OptionError(f"{fit!r} is no way to fit a picture.", remedy=f"It may be {', '.join(FITS[1:])}.")
    css = f"width:{css_length(width, 'width')};" if width != "" else ""
    css += f"height:{css_length(height, 'height')};" if height != "" else ""
    return css + (f"object-fit:{fit};" if fit else "")


def picture_source(source: Any) -> str:
    """An address for a path, for bytes, or for a Pillow image."""
    if isinstance(source, (bytes, bytearray)):
        return f"data:;base64,{base64.b64encode(source).decode('ascii')}"
    if isinstance(source, (str, os.PathLike)):
        return os.fspath(source)
    if hasattr(source, "save") and hasattr(source, "mode"):
        stream = io.BytesIO()
        source.save(stream, "PNG")
        return f"data:image/png;base64,{base64.b64encode(stream.getvalue()).decode('ascii')}"
    raise OptionError(f"{source!r} is not a picture.", remedy="Give a path, bytes, or a Pillow image.")
