"""The ways out: what files can be. A new one is a folder with a file `document.py`, and its row here."""

from __future__ import annotations

import os
from collections.abc import Callable
from importlib import import_module
from pathlib import Path
from typing import BinaryIO, Final, NamedTuple

from fleetquill.drawing.paged import PagedOutput
from fleetquill.errors import OptionError, nearest
from fleetquill.graphics.reduction import PictureRules
from fleetquill.output.pdf.store import PdfStore

Opener = Callable[[BinaryIO, PdfStore, PictureRules], PagedOutput]


class Kind(NamedTuple):
    """A kind of file: its name, which is its ending, too, and what it is called on the web."""

    name: str
    media_type: str

    def open(self, stream: BinaryIO, store: PdfStore, rules: PictureRules) -> PagedOutput:
        """Begins a file of this kind."""
        opener: Opener = import_module(f"fleetquill.output.{self.name}.document").open_document
        return opener(stream, store, rules)


PDF: Final = Kind("pdf", "application/pdf")
KINDS: Final = {kind.name: kind for kind in (PDF,)}


def kind_of(target: object, name: str | None = None) -> Kind:
    """The kind that is asked for by name, or by the ending of a path; PDF where nothing says. OptionError else."""
    asked = name
    if asked is None:
        asked = Path(target).suffix.lower().removeprefix(".") if isinstance(target, (str, os.PathLike)) else ""
        if not asked:
            return PDF
    if asked not in KINDS:
        meant = nearest(asked, KINDS)
        known = f"Did you mean '{meant}'?" if meant else f"It may be {', '.join(KINDS)}."
        named = f"The output's ending '.{asked}'" if name is None else f"'{asked}'"
        raise OptionError(f"{named} is no kind of file that can be written.", remedy=known)
    return KINDS[asked]
