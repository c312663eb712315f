"""A clause of a standard: its number in each of them, what it asks for, and the function that looks."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Final, NamedTuple

from fleetquill.bindery.subject import Subject
from fleetquill.standards import Standards

Look = Callable[[Subject, Standards], Iterator[str]]
LEVELS: Final = ("B", "U", "A", "", "F")


class Clause(NamedTuple):
    """What a standard asks for. `archive` is the clause of ISO 19005-2 and -3, `modern` that of ISO 19005-4, `access`
    that of ISO 14289-1, `access_2` that of ISO 14289-2; '' where a standard does not ask for it. `levels` are the
    levels of conformance of ISO 19005 at which it holds."""

    title: str
    look: Look
    archive: str = ""
    modern: str = ""
    access: str = ""
    access_2: str = ""
    levels: tuple[str, ...] = LEVELS

    def numbers(self, standards: Standards) -> list[tuple[str, str]]:
        """The standards that ask for it, each with the number of its clause."""
        found: list[tuple[str, str]] = []
        if standards.part and standards.level in self.levels:
            own = self.modern if standards.part == 4 else self.archive
            if own:
                found.append((f"ISO 19005-{standards.part}", own))
        own = {1: self.access, 2: self.access_2}.get(standards.access, "")
        if own:
            found.append((f"ISO 14289-{standards.access}", own))
        return found


CLAUSES: Final[list[Clause]] = []


def clause(
    title: str, *, archive: str = "", modern: str = "", access: str = "", access_2: str = "",
    levels: tuple[str, ...] = LEVELS,
) -> Callable[[Look], Look]:  # fmt: skip
    """Notes a function that yields what breaks a clause, each with its place."""

    def note(look: Look) -> Look:
        CLAUSES.append(Clause(title, look, archive, modern, access, access_2, levels))
        return look

    return note
