"""What a door is asked for."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, NamedTuple

from fleetquill.formats import Formats
from fleetquill.intake.reading import WebReader
from fleetquill.tree.document import Document
from fleetquill.tree.lengths import Length


class Order(NamedTuple):
    """Sources, and what goes with them.

    `data` fills in a template, by `fill_in`; `build` makes a document of plain data; `formats` are those of the
    locale. `page` is the paper that sources without one of their own are fitted into, `margin` what is left free
    around them.
    """

    sources: tuple[str | os.PathLike[str], ...]
    reader: WebReader
    fill_in: Callable[[Path, Mapping[str, Any]], Document]
    build: Callable[[Any, Path], Document]
    formats: Formats
    data: Mapping[str, Any] | None = None
    page: str = ""
    margin: Length = 0

    @property
    def source(self) -> str | os.PathLike[str]:
        return self.sources[0]
