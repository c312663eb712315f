"""The guard at the press's edge: a fault of ours becomes an error of ours, which says where in the document."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from types import FrameType
from typing import Any, Final

from lxml import etree

from fleetquill.errors import FaultError, FleetQuillError, LimitError, Where

OWN: Final = __name__.partition(".")[0]
HELPERS: Final = frozenset((  # whose faults are ours, for we have called them
    "PIL", "babel", "barcode", "brotli", "fontTools", "httpcore2", "httpx2", "jinja2", "lxml", "markdown_it",
    "matplotlib", "mdit_py_plugins", "numpy", "openpyxl", "pyphen", "pypdfium2", "rich", "selectolax",
    "tinycss2", "uharfbuzz", "xlsxwriter", "yaml", "zxingcpp",
))  # fmt: skip
STREAMS: Final = (f"{OWN}.output.pdf.file", f"{OWN}.output.counted")  # write to what they were given
BUSY: Final = ("box", "fragment", "child", "placed", "item", "element", "parent")  # what a frame works on
SEEN: Final[list[str]] = []  # the newest faults; tests hold that there are none
MOST_SEEN: Final = 100


@contextmanager
def guarded() -> Iterator[None]:
    """No error but ours comes out. What the caller's own functions raise is theirs, and goes through as it is."""
    try:
        yield
    except (FleetQuillError, RecursionError):
        raise
    except MemoryError as error:
        raise LimitError("The document needs more memory than there is.", where=_place(_frames(error))) from error
    except Exception as error:
        if not is_ours(error):
            raise
        frames = _frames(error)
        what = f"{type(error).__name__}: {error}"
        del SEEN[:-MOST_SEEN]
        SEEN.append(what)
        raise FaultError(
            f"The engine itself fails here ({what}).", where=_place(frames),
            remedy="The fault is not the document's: please report it; without this element it may be made.",
        ) from error  # fmt: skip


def _frames(error: BaseException) -> list[FrameType]:
    """The frames that an error came through, the innermost last."""
    frames = []
    step = error.__traceback__
    while step is not None:
        frames.append(step.tb_frame)
        step = step.tb_next
    return frames


def _module(frame: FrameType) -> str:
    return str(frame.f_globals.get("__name__", ""))


def is_ours(error: BaseException) -> bool:
    """Whether an error began with us, or with what we use; not in a function, an iterator, a stream of the caller's."""
    frames = _frames(error)
    last = max((at for at, frame in enumerate(frames) if _module(frame).partition(".")[0] == OWN), default=-1)
    if last < 0 or _module(frames[last]) in STREAMS:
        return False
    if last + 1 == len(frames):
        return True
    called = _module(frames[last + 1]).partition(".")[0]
    return called in HELPERS or called in sys.stdlib_module_names


def _place(frames: list[FrameType]) -> Where | None:
    """The line of the innermost element that was worked on."""
    element: Any = None
    for frame in reversed(frames):
        names = frame.f_locals
        if element is None:
            element = next((found for name in BUSY if (found := _element(names.get(name))) is not None), None)
        for value in (names.get("context"), names.get("self"), names.get("document")):
            place_of = getattr(value, "place_of", None)
            if element is not None and callable(place_of):
                place: Where = place_of(element)
                return place._replace(source=f"{place.source or 'document'} <{element.tag}>")
    return None


def _element(value: Any) -> Any:
    """The element that something is, or is made for."""
    found = value if isinstance(value, etree._Element) else getattr(value, "element", None)
    found = found if found is not None else getattr(getattr(value, "box", None), "element", None)
    return found if isinstance(found, etree._Element) and isinstance(found.tag, str) else None
