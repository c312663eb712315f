"""What colours mean where a file has to say so: an output intent with a profile of sRGB (ISO 32000-2 §14.11.5)."""

from __future__ import annotations

from functools import lru_cache
from typing import Any, Final

from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.objects import Name

CONDITION: Final = "sRGB IEC61966-2.1"
DATE: Final = slice(24, 36)  # of a profile's header (ICC.1 §7.2.8)
BORN: Final = (2000, 1, 1, 0, 0, 0)


@lru_cache(maxsize=1)
def srgb_profile() -> bytes:
    """The profile of sRGB, the same each time."""
    from PIL import ImageCms

    made = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    made[DATE] = b"".join(part.to_bytes(2, "big") for part in BORN)
    return bytes(made)


def output_intent(file: PdfFile) -> dict[str, Any]:
    """Device colours are those of sRGB (ISO 19005-2 §6.2.3)."""
    profile = file.add_stream(srgb_profile(), {"N": 3})
    return {
        "Type": Name("OutputIntent"),
        "S": Name("GTS_PDFA1"),
        "OutputConditionIdentifier": CONDITION,
        "Info": CONDITION,
        "DestOutputProfile": profile,
    }
