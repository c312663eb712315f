"""fleetquill bind and unbind: finished files and new pages put together, and taken apart."""

from __future__ import annotations

import re
from pathlib import Path
from typing import Any, Final, NamedTuple

import click

from fleetquill.cli.locking import allowed, asked_for, locking
from fleetquill.cli.report import report
from fleetquill.errors import OptionError

CHOICE: Final = re.compile(r"(.+):((?:\d+|last|odd|even|all|[-,])+)")


def part_of(given: str) -> tuple[str, str]:
    """A part as it is written: a file, and which of its pages ('terms.pdf:2-5')."""
    found = CHOICE.fullmatch(given)
    return (given, "") if found is None or Path(given).exists() else (found[1], found[2])


@click.command()
@click.argument("parts", nargs=-1, required=True, metavar="PART…")
@click.option("-o", "--output", required=True, metavar="OUT", help="The file to write.")
@click.option("--under", default="", metavar="FILE", help="Lay this PDF under all pages, as a letterhead.")
@click.option("--over", default="", metavar="FILE", help="Lay this PDF over all pages.")
@click.option(
    "--stamp",
    "texts",
    multiple=True,
    metavar="TEXT",
    help="Set this on all pages; it may name {page}, {pages}, {part}, {part_page}, {part_pages}, {title}.",
)
@click.option(
    "--at",
    "place",
    default="bottom-center",
    show_default=True,
    metavar="PLACE",
    help="Where stamps stand: top, middle or bottom, with left, center or right.",
)
@click.option("--stamp-style", default="", metavar="CSS", help="What stamps look like, as 'color: red'.")
@click.option("--stamped", default="", metavar="PAGES", help="The pages that have stamps, as '2-' or 'odd'.")
@click.option("--data", default=None, metavar="FILE", help="Fill in the templates among the parts with this file.")
@click.option("--title", default="", help="Give the file this title.")
@click.option("--fit", "paper", default="", metavar="PAPER", help="Fit all pages into this paper.")
@click.option("--even", is_flag=True, help="Begin each part on an odd page, for printing on both sides.")
@click.option("--numbers", default="", metavar="whole|parts", help="Number the pages of the whole, or part by part.")
@click.option("--no-outline", is_flag=True, help="Set no bookmark for each part.")
@click.option("--sheets", default="", metavar="two-up|booklet", help="Set two pages on each side of larger paper.")
@click.option("--paper", "sheet", default="", metavar="PAPER", help="The paper of --sheets.")
@click.option("--unlock", default=None, metavar="PASSWORD", help="Open locked parts with this ('-' asks for it).")
@click.option("--strict", is_flag=True, help="Write nothing and fail where there is any remark.")
@locking
def bind(**options: Any) -> None:  # fmt: skip
    """Put PARTs together into one PDF.

    Each is a finished PDF ('terms.pdf:2-5' for some of its pages), a picture, or whatever 'press' takes: HTML,
    Markdown, a workbook.
    """
    from fleetquill.bindery.binding import bind as bind_parts
    from fleetquill.bindery.parts import Part
    from fleetquill.bindery.stamps import Stamp

    asked = _Asked(**options)
    unlock = asked_for(asked.unlock, "Password of locked parts")
    parts = [
        Part(source, pages=pages, page=asked.paper, password=unlock, data=asked.data if _is_template(source) else None)
        for source, pages in map(part_of, asked.parts)
    ]
    stamps = [Stamp(text, asked.place, style=asked.stamp_style, pages=asked.stamped) for text in asked.texts]
    target = Path(asked.output)
    if target.suffix.lower() != ".pdf":
        raise OptionError(f"A bound file is a PDF, and '{target.name}' names none.", remedy="Let it end in .pdf.")
    summary = bind_parts(
        parts, target, under=asked.under or None, over=asked.over or None, stamps=stamps, title=asked.title,
        even=asked.even, numbers=asked.numbers, outline=not asked.no_outline, sheets=asked.sheets, page=asked.sheet,
        password=asked_for(asked.password, "Password"),
        owner_password=asked_for(asked.owner_password, "Password of the owner"), allow=allowed(asked.allow),
        strict=asked.strict,
    )  # fmt: skip
    report(target, summary)


class _Asked(NamedTuple):
    """The options of the command, by the names that they have above."""

    parts: tuple[str, ...]
    output: str
    under: str
    over: str
    texts: tuple[str, ...]
    place: str
    stamp_style: str
    stamped: str
    data: str | None
    title: str
    paper: str
    even: bool
    numbers: str
    no_outline: bool
    sheets: str
    sheet: str
    unlock: str | None
    strict: bool
    password: str | None
    owner_password: str | None
    allow: tuple[str, ...]


def _is_template(source: str) -> bool:
    return source.lower().endswith((".html", ".htm", ".md"))


@click.command()
@click.argument("file", metavar="FILE")
@click.option(
    "-o",
    "--output",
    default="{name} {number:02}.pdf",
    show_default=True,
    metavar="NAME",
    help="What files are called: {bookmark}, {number}, {first}, {last}, {label}, {name}.",
)
@click.option("--at", default="", metavar="bookmarks", help="Begin a file at each bookmark.")
@click.option("--level", default=1, show_default=True, metavar="NUMBER", help="Of bookmarks of this level.")
@click.option("--every", default=0, metavar="NUMBER", help="Put so many pages into each file.")
@click.option("--pages", default="", metavar="PAGES", help="Take these out, each range a file: '3-7', '1-2,5-'.")
@click.option("--unlock", default=None, metavar="PASSWORD", help="Open a locked file with this ('-' asks for it).")
def unbind(
    file: str, output: str, at: str, level: int, every: int, pages: str, unlock: str | None
) -> None:  # fmt: skip
    """Take a finished PDF apart."""
    from fleetquill.bindery.unbinding import unbind as take_apart

    if not (at or every or pages):
        raise click.UsageError("Say where: --at bookmarks, --every NUMBER or --pages PAGES.")
    pieces = take_apart(
        file, output, at=at, every=every, pages=pages, level=level, password=asked_for(unlock, "Password")
    )
    for piece in pieces:
        span = f"page {piece.first}" if piece.first == piece.last else f"pages {piece.first} to {piece.last}"
        click.echo(f"{piece.path}: {span}{f', {piece.bookmark}' if piece.bookmark else ''}")
