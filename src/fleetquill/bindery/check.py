"""Checking finished PDFs against the standards that they say they conform to, clause by clause."""

from __future__ import annotations

import os
from collections.abc import Iterator, Sequence
from importlib import import_module
from typing import Final, NamedTuple

from fleetquill.bindery.clauses.clause import CLAUSES, Clause
from fleetquill.bindery.sources import read_source
from fleetquill.bindery.subject import Subject
from fleetquill.errors import OptionError, SourceError, Where
from fleetquill.pdf.reading import PdfReader
from fleetquill.pdf.syntax import DAMAGE
from fleetquill.standards import NONE, Standards, standards_of, standards_said

ROOMS: Final = ("files", "graphics", "fonts", "interaction", "metadata", "structure")
MOST_FAULTS: Final = 20  # of one clause that are told


class Finding(NamedTuple):
    """A clause of a standard, what it asks for, and what breaks it: nothing, where the file keeps it."""

    standard: str
    number: str
    title: str
    faults: tuple[str, ...]

    @property
    def kept(self) -> bool:
        return not self.faults


class CheckReport(NamedTuple):
    """What a file was checked against, and what was found: a finding for each clause."""

    standards: tuple[str, ...]
    findings: tuple[Finding, ...]

    @property
    def conforms(self) -> bool:
        """Whether every clause that was looked at is kept."""
        return all(finding.kept for finding in self.findings)

    @property
    def faults(self) -> tuple[str, ...]:
        return tuple(fault for finding in self.findings for fault in finding.faults)


def check(source: str | os.PathLike[str] | bytes, conform: Sequence[str] | str = ()) -> CheckReport:
    """Checks a PDF against standards: those of `conform`, else those that it says it conforms to.

    What is looked at is listed in docs/standards.md: what a program can tell. Whether a text says what a picture
    shows, no program can. Raises SourceError where the file cannot be read or says no standard.
    """
    name, content = read_source(source)
    try:
        subject = Subject(PdfReader(content, name))
        standards = standards_of(conform) if conform else _claimed(subject)
    except DAMAGE as error:
        raise SourceError(f"The file is damaged: {error}", where=Where(name) if name else None) from error
    if not standards.names:
        raise SourceError(
            "The file does not say that it conforms to any standard that is known here.",
            where=Where(name) if name else None,
            remedy="Name one, such as PDF/A-3a.",
        )
    for room in ROOMS:
        import_module(f"fleetquill.bindery.clauses.{room}")
    findings: list[Finding] = []
    for clause in CLAUSES:
        numbers = clause.numbers(standards)
        if numbers:
            faults = tuple(dict.fromkeys(_faults(clause, subject, standards)))[:MOST_FAULTS]
            findings += [Finding(standard, number, clause.title, faults) for standard, number in numbers]
    findings.sort(key=lambda finding: (finding.standard, [int(p) for p in finding.number.split(".")]))
    return CheckReport(standards.names, tuple(findings))


def _faults(clause: Clause, subject: Subject, standards: Standards) -> Iterator[str]:
    """What breaks a clause; where the file is so damaged that it cannot be looked at, that."""
    try:
        yield from clause.look(subject, standards)
    except DAMAGE as error:
        yield f"The file is damaged there: {error}"


def _claimed(subject: Subject) -> Standards:
    """The standards that a file says it conforms to."""
    said = subject.said
    names = standards_said(said("pdfaid:part"), said("pdfaid:conformance"), said("pdfuaid:part"))
    try:
        return standards_of(names)
    except OptionError:
        return NONE
