"""The error family. Every error says what is wrong, where, and what to do about it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Final, NamedTuple


class Where(NamedTuple):
    """A place in a source. Lines and columns count from 1; 0 means 'not known'."""

    source: str
    line: int = 0
    column: int = 0

    def __str__(self) -> str:
        parts = [self.source]
        if self.line:
            parts.append(f"line {self.line}")
        if self.column:
            parts.append(f"column {self.column}")
        return ", ".join(parts)


LONGEST_SHOWN: Final = 60  # characters of a value
PASSWORD: Final = re.compile(r"(://[^/\s:@]*):[^/\s@]+@")


IN_MEMORY: Final = re.compile(r" at 0x[0-9A-Fa-f]{4,16}(?=>|&gt;)")  # what Python says of a value without a text


def without_places_in_memory(text: str) -> str:
    """A text in which values have no places in memory, which are others each time."""
    return IN_MEMORY.sub("", text) if " at 0x" in text else text


def without_secrets(text: str) -> str:
    """A text with the passwords of addresses in it left out."""
    return PASSWORD.sub(r"\1:…@", text) if "://" in text else text


class FleetQuillError(Exception):
    """What every error raised on purpose derives from.

    `what` is the fault in one sentence, `where` the place if there is one, `remedy` what to do.
    """

    def __init__(self, what: str, *, where: Where | None = None, remedy: str = "") -> None:
        self.what = without_places_in_memory(without_secrets(what))
        super().__init__(self.what)
        self.where = where._replace(source=without_secrets(where.source)) if where is not None else None
        self.remedy = remedy

    def __str__(self) -> str:
        text = f"{self.where}: {self.what}" if self.where else self.what
        return f"{text} {self.remedy}" if self.remedy else text


class SourceError(FleetQuillError):
    """A source (document, data file, style sheet) that cannot be read or understood."""


class DataError(FleetQuillError):
    """Data of the wrong shape, or a data file that does not parse."""


class TemplateError(FleetQuillError):
    """A template that does not parse, or names what the data does not have."""


class OutputError(FleetQuillError):
    """An output that cannot be written."""


class OptionError(FleetQuillError):
    """An argument that makes no sense: an unknown unit, paper or locale."""


class PolicyError(FleetQuillError):
    """A document that asks for something which the press's policy forbids."""


class LimitError(FleetQuillError):
    """A document that crosses one of the policy's limits."""


class FaultError(FleetQuillError):
    """A fault of the engine itself, and where in the document it was met."""


class ConformanceError(FleetQuillError):
    """A document that lacks what a standard asks for, which its file was to conform to."""


class StrictError(FleetQuillError):
    """A remark that was asked to be an error."""


def shown(value: object) -> str:
    """A value as messages show it."""
    text = repr(value)
    return text if len(text) <= LONGEST_SHOWN else f"{text[: LONGEST_SHOWN - 3]}…"


def meant(name: str, known: Iterable[str]) -> str:
    """What to do about a name that is not known: the nearest one, or all of them; '' where there is none."""
    known = list(known)
    found = nearest(name, known)
    return f"Did you mean '{found}'?" if found else f"It may be {', '.join(known)}." if known else ""


def nearest(name: str, known: Iterable[str]) -> str:
    """The known name that `name` was most likely meant to be, or ''."""
    import difflib  # seldom needed

    found = difflib.get_close_matches(name, list(known), n=1, cutoff=0.6)
    return found[0] if found else ""
