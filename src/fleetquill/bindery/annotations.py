"""What shows annotations: the appearance of their state, and where it is drawn (ISO 32000-2 §12.5.5)."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import PdfReader, Stream
from fleetquill.style.box_values import Matrix

UNSEEN: Final = 1 | 2 | 32  # flags of annotations that are not shown (table 167)
OFF: Final = "Off"


def is_shown(annotation: dict[str, Any], reader: PdfReader) -> bool:
    flags = reader.resolve(annotation.get("F"))
    return not (isinstance(flags, int) and flags & UNSEEN) and annotation.get("Subtype") != "Popup"


def appearance_of(annotation: dict[str, Any], reader: PdfReader) -> Any:
    """The reference of the form that shows an annotation as it is; None where nothing does."""
    ref = reader.dictionary(annotation.get("AP")).get("N")
    found = reader.resolve(ref)
    if isinstance(found, dict):
        ref = found.get(str(reader.resolve(annotation.get("AS")) or OFF))
        found = reader.resolve(ref)
    return ref if isinstance(found, Stream) or _is_new(ref, reader) else None


def _is_new(ref: Any, reader: PdfReader) -> bool:
    """Whether a reference is one that the file does not have yet."""
    return isinstance(ref, Ref) and ref.number not in reader.places


def placed(annotation: dict[str, Any], form: dict[str, Any], reader: PdfReader) -> Matrix | None:
    """What fits the form into the annotation's rectangle (algorithm 8); None where it shows nothing."""
    box = [reader.resolve(side) for side in reader.array(form.get("BBox"))]
    rect = [reader.resolve(side) for side in reader.array(annotation.get("Rect"))]
    given = [reader.resolve(one) for one in reader.array(form.get("Matrix"))] or [1, 0, 0, 1, 0, 0]
    numbers = [*box, *rect, *given]
    if len(numbers) != 14 or not all(isinstance(one, (int, float)) for one in numbers):
        return None
    a, b, c, d, e, f = given
    corners = [(a * x + c * y + e, b * x + d * y + f) for x in (box[0], box[2]) for y in (box[1], box[3])]
    across, down = [x for x, _ in corners], [y for _, y in corners]
    wide, high = max(across) - min(across), max(down) - min(down)
    if not wide or not high:
        return None
    scale_x, scale_y = abs(rect[2] - rect[0]) / wide, abs(rect[3] - rect[1]) / high
    left, bottom = min(rect[0], rect[2]), min(rect[1], rect[3])
    return scale_x, 0.0, 0.0, scale_y, left - min(across) * scale_x, bottom - min(down) * scale_y
