"""The modules of QR codes (ISO/IEC 18004)."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any, Final

DARK: Final = bytes([1]) + bytes(255)  # a picture's black is 0
NUMBER_OF_ERROR: Final = re.compile(r"^Error \d+: ")


def qr_rows(text: str, correction: str) -> Sequence[bytes]:
    """The rows of a QR code, 1 where a module is dark; ValueError where the text does not fit.

    Text beyond ASCII is written as UTF-8 and says so (ISO/IEC 18004 §7.4.2, ECI 26): readers that know no such
    sign guess UTF-8, and no reader can tell the other character sets apart.
    """
    import zxingcpp

    text.encode("utf-8")  # half of a pair of surrogates is no text
    said: dict[str, Any] = {} if text.isascii() else {"eci": "UTF-8"}
    try:
        code = zxingcpp.create_barcode(text, zxingcpp.BarcodeFormat.QRCode, ec_level=correction, **said)
    except ValueError as error:
        raise ValueError(NUMBER_OF_ERROR.sub("", str(error)).rstrip(".")) from error
    picture: Any = code.to_image(scale=1, add_quiet_zones=False)
    wide = picture.shape[1]
    modules = memoryview(picture).tobytes().translate(DARK)
    return [modules[start : start + wide] for start in range(0, len(modules), wide)]
