"""How a kind of file is to be written, where it can be written in several ways."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Final, NamedTuple

from fleetquill.errors import OptionError, nearest
from fleetquill.pdf.locks import Wish
from fleetquill.standards import NONE, Standards

MOST_DPI: Final = 1200.0
LEAST_WIDE: Final = 20  # columns of text
MOST_WIDE: Final = 1000
CHOICES: Final = {"values": ("raw", "shown"), "letters": ("outlines", "text"), "shown": ("flow", "pages")}


class How(NamedTuple):
    """`dpi` of pictures of pages; `wide`, the columns of plain text, and whether `form_feeds` end its pages; `values`
    of data files, raw or as they are shown; `delimiter` between them; `letters` of SVG, as text or as outlines; of
    HTML whether its pictures stay `linked`, and whether it is `shown` as it flows or as pages; of PDF whether it is
    `tagged`, the `standards` that it conforms to, how it is to be
    locked, and whether every identifier is one of its `destinations`."""

    dpi: float = 96.0
    wide: int = 80
    form_feeds: bool = False
    values: str = "raw"
    delimiter: str = ","
    letters: str = "outlines"
    linked: bool = False
    shown: str = "flow"
    tagged: bool = True
    standards: Standards = NONE
    lock: Wish | None = None
    destinations: bool = False


USUAL: Final = How()


class RowsWritten(NamedTuple):
    """How many rows were written, and what could not be kept."""

    rows: int
    remarks: Sequence[str]


def checked(how: How) -> How:
    """The way to write; raises OptionError where a value of it is none."""
    if how.standards.wants_tags and not how.tagged:
        raise OptionError(f"A file without tags cannot be {' and '.join(how.standards.names)}.")
    if how.standards.part and how.lock is not None:
        raise OptionError(f"A locked file cannot be {how.standards.names[0]}.", remedy="Leave the passwords away.")
    _between("dpi", how.dpi, 1.0, MOST_DPI)
    _between("wide", how.wide, LEAST_WIDE, MOST_WIDE)
    for name, allowed in CHOICES.items():
        given = getattr(how, name, allowed[0])
        if given not in allowed:
            meant = nearest(str(given), allowed)
            remedy = f"Did you mean '{meant}'?" if meant else f"It may be {' or '.join(allowed)}."
            raise OptionError(f"'{given}' is not a value of '{name}'.", remedy=remedy)
    if not isinstance(how.delimiter, str) or len(how.delimiter) != 1 or how.delimiter in '\r\n"':
        raise OptionError(f"{how.delimiter!r} cannot stand between values.", remedy="Give one character, such as ';'.")
    return how


def _between(name: str, given: Any, least: float, most: float) -> None:
    if isinstance(given, bool) or not isinstance(given, (int, float)) or not least <= given <= most:
        raise OptionError(f"'{name}' is {given!r}.", remedy=f"Give a number from {least:g} to {most:g}.")
