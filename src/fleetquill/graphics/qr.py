"""segno's encoder by itself: the whole of segno loads what writes its files too, and with that an HTTP client.

A module with a path is a package (Python reference §5.2.1), and this one's modules are those in segno's folder:
`fleetquill.graphics.qr.encoder` is segno's.
"""

from __future__ import annotations

from collections.abc import Sequence
from importlib import import_module
from importlib.util import find_spec
from typing import Any

_segno = find_spec("segno")
__path__ = list(_segno.submodule_search_locations or ()) if _segno else []


def qr_rows(text: str, correction: str) -> Sequence[Any]:
    """The rows of a QR code (ISO/IEC 18004), 1 where a module is dark; ValueError where the text does not fit."""
    rows: Sequence[Any] = _encoder().encode(text, error=correction, micro=False, boost_error=False).matrix
    return rows


def _encoder() -> Any:
    try:
        return import_module(f"{__name__}.encoder")
    except ModuleNotFoundError:  # in an application that was bundled, segno has no folder
        from segno import encoder

        return encoder
