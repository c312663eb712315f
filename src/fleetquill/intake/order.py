"""What a door is asked for."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any, NamedTuple, Protocol, runtime_checkable

from fleetquill.formats import Formats
from fleetquill.intake.reading import WebReader
from fleetquill.policy import Policy
from fleetquill.tree.document import Document
from fleetquill.tree.lengths import Length
from fleetquill.tree.words import TemplateWords


class Order(NamedTuple):
    """Sources, and what goes with them.

    `data` fills in a template, by `fill_in`; `build` makes a document of plain data, `brief` one of a brief; `formats`
    are those of the locale. `page` is the paper that sources without one of their own are fitted into, `margin` what is
    left free around them.
    """

    sources: tuple[str | os.PathLike[str], ...]
    reader: WebReader
    fill_in: Callable[[Path, Mapping[str, Any]], Document]
    build: Callable[[Any, Path], Document]
    brief: Callable[[Path], Document]
    formats: Formats
    data: Mapping[str, Any] | None = None
    page: str = ""
    margin: Length = 0

    @property
    def source(self) -> str | os.PathLike[str]:
        return self.sources[0]


class Habits(NamedTuple):
    """What is usual for a source: its locale and currency, '' for the press's own, and a folder in which its templates
    find others."""

    locale: str = ""
    currency: str = ""
    shared: Path | None = None


class Run(NamedTuple):
    """What a source that is made at run time is given: rows by name, parameters, connections; and the press's own way
    to write values, its words for templates, its policy, and how it reads a file that data may fill in."""

    data: Any
    parameters: Mapping[str, Any] | None
    connections: Mapping[str, Any] | None
    formats: Formats
    words: TemplateWords
    policy: Policy
    read: Callable[[Path, Any, Habits], Document]


@runtime_checkable
class AtRunTime(Protocol):
    """A source that makes its document of what is given at run time."""

    def document_for(self, run: Run) -> Document:
        """The document; raises an error of the family where what is given does not suit it."""
