"""What goes into a file of pages besides the pages."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.drawing.places import Structure
from fleetquill.pdf.locks import Wish
from fleetquill.standards import NONE, Standards
from fleetquill.tree.attachments import Attachment


class Besides(NamedTuple):
    """The parts of the document, where they are to be told, the standards that the file conforms to, the files that
    go along, how it is to be locked, and whether links of other files may lead to every identifier in it."""

    structure: Structure | None = None
    standards: Standards = NONE
    attachments: tuple[Attachment, ...] = ()
    lock: Wish | None = None
    destinations: bool = False


NOTHING: Final = Besides()
