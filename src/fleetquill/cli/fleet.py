"""fleetquill fleet: one document for each record."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path
from time import monotonic
from typing import TYPE_CHECKING, Any, Final

import click

from fleetquill.cli.bar import terminal
from fleetquill.cli.briefs import connections_of
from fleetquill.cli.pairs import pairs
from fleetquill.errors import OptionError
from fleetquill.policy import is_web

if TYPE_CHECKING:
    from fleetquill.fleet.fleet import FleetProgress, FleetReport, Mismatch
    from fleetquill.fleet.records import Query

RECORDS: Final = "records"  # the connection that a query is asked of
LOOK: Final = 0.1  # seconds between two looks at the bar


@click.command()
@click.argument("source", metavar="SOURCE", required=False)
@click.option("--records", default=None, metavar="FILE", help="CSV, JSON, JSON lines, Excel or Parquet.")
@click.option("--query", default=None, metavar="SQL", help="Records of the database that is the connection 'records'.")
@click.option(
    "--connection",
    "connections",
    multiple=True,
    metavar="NAME=ADDRESS",
    help="A database of the query, or of a brief; NAME=env:VARIABLE takes the address from the environment.",
)
@click.option(
    "--name", default=None, metavar="PATTERN", help="Such as '{number} {customer}.pdf'; the ending is the kind."
)
@click.option("--into", default=".", show_default=True, metavar="PLACE", help="A folder, a .zip, or s3://…")
@click.option("--document", default=None, metavar="NAME", help="Of the shelf that SOURCE is.")
@click.option(
    "--workers", default=None, type=int, metavar="NUMBER", help="Default: one for each core; 0: this process."
)
@click.option("--cluster", default="", metavar="ADDRESS", help="Dask workers: tcp://…, or local.")
@click.option("--combine", default=None, metavar="FILE", help="One PDF of all, too.")
@click.option("--even", is_flag=True, help="In it each document begins on an odd page.")
@click.option("--index", default="", metavar="NAME", help="It ends with an index by that value.")
@click.option("--stamp", default="", metavar="TEXT", help="On its pages: 'Page {part_page} of {part_pages}'.")
@click.option("--again", default="", metavar="WHICH", help="'all', or those that 'failed'.")
@click.option("--only", default="", metavar="EXPRESSION", help="Records for which it holds, such as 'amount > 100'.")
@click.option("--numbered", is_flag=True, help="Two of one name get numbers.")
@click.option("--stop-after", default=0, metavar="NUMBER", help="Failures after which nothing more is begun.")
@click.option("--seconds", default=60.0, show_default=True, metavar="NUMBER", help="That one document may take.")
@click.option("--log", default=None, metavar="FILE", help="Default: fleet.jsonl, where the documents go.")
@click.option("--locale", default="en", show_default=True, help="How values are written.")
@click.option("--header", "headers", multiple=True, metavar="NAME=VALUE", help="Sent to the host of an address.")
@click.option("--cookie", "cookies", multiple=True, metavar="NAME=VALUE", help="Sent to the host of an address.")
@click.option("--check", "checks", is_flag=True, help="Compare the files of PLACE (or SOURCE) with its log.")
def fleet(
    source: str | None,
    records: str | None,
    query: str | None,
    connections: tuple[str, ...],
    name: str | None,
    into: str,
    document: str | None,
    workers: int | None,
    cluster: str,
    combine: str | None,
    even: bool,
    index: str,
    stamp: str,
    again: str,
    only: str,
    numbered: bool,
    stop_after: int,
    seconds: float,
    log: str | None,
    locale: str,
    headers: tuple[str, ...],
    cookies: tuple[str, ...],
    checks: bool,
) -> None:
    """Make one document of SOURCE for each record.

    SOURCE is a template, a brief, a shelf with --document, or an address with values of the record in it. It may be
    stopped at
    any moment and run again: what is done is kept, what has changed is made anew, and what failed is in a file of its
    own.
    """
    from fleetquill.bindery.stamps import Stamp
    from fleetquill.fleet.combining import Combined
    from fleetquill.fleet.fleet import Fleet, check
    from fleetquill.fleet.places import place_of

    if checks:
        place = source or into
        _tell_check(check(place_of(place), Path(log) if log else _log_in(place)))
        return
    if source is None or name is None or (records is None) == (query is None):
        raise click.UsageError("A fleet needs SOURCE, --name, and --records or --query.")
    known = connections_of(connections)
    given = records if query is None else _query(query, known)
    options: dict[str, Any] = {"connections": known} if known else {}
    made = Fleet(
        _source(source, document), given, name, into=into, log=log, numbered=numbered, only=only,
        press=_press(locale, headers, cookies), **options,
    )  # fmt: skip
    combined = Combined(combine, even, index, Stamp(stamp) if stamp else ()) if combine else None
    with _bar() as progress:
        report = made.run(
            workers, cluster=cluster, progress=progress, again=again, stop_after=stop_after, seconds=seconds,
            combined=combined,
        )  # fmt: skip
    _tell(report, combine)


def _query(text: str, connections: dict[str, str]) -> Query:
    from fleetquill.fleet.records import Query

    address = connections.pop(RECORDS, None)
    if address is None:
        raise click.UsageError(f"--query needs --connection {RECORDS}=ADDRESS.")
    return Query(text, Path(address) if "://" not in address else address)


def _press(locale: str, headers: Sequence[str], cookies: Sequence[str]) -> dict[str, Any]:
    sent = {"headers": pairs("--header", headers), "cookies": pairs("--cookie", cookies)}
    return {"locale": locale, **{name: values for name, values in sent.items() if values}}


def _source(source: str, document: str | None) -> Any:
    if document is not None:
        from fleetquill.shelf.shelf import Shelf

        return Shelf(source)[document]
    if not is_web(source) and not Path(source).is_file():
        raise OptionError(f"'{source}' is no file.", remedy="Of a shelf say which one, with --document.")
    return source


def _log_in(place: str) -> Path:
    from fleetquill.fleet.log import NAME

    return Path(f"{Path(place).absolute()}.{NAME}") if place.lower().endswith(".zip") else Path(place, NAME)


def _tell(report: FleetReport, combine: str | None) -> None:
    done = [f"{report.made:,} made ({report.pages:,} pages, {report.bytes:,} bytes)"]
    done += [f"{report.kept:,} kept"] if report.kept else []
    done += [f"{report.failed:,} failed"] if report.failed else []
    rate = f", {report.made / report.seconds:.1f} a second" if report.made else ""
    click.echo(f"{', '.join(done)} in {report.seconds:.1f} s{rate}")
    if combine and report.ended:
        click.echo(f"{combine}: all in one")
    if report.failures is not None:
        click.echo(f"{report.failures}: what failed, and why", err=True)
        raise click.exceptions.Exit(1)


def _tell_check(found: list[Mismatch]) -> None:
    for one in found:
        click.echo(f"{one.name} {one.what}")
    if found:
        raise click.exceptions.Exit(1)
    click.echo("All files are as they were written.")


@contextmanager
def _bar() -> Iterator[Callable[[FleetProgress], None] | None]:
    """The documents so far, with rate, time left and failures, on a terminal and nowhere else."""
    if not terminal():
        yield None
        return
    from rich.console import Console
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeRemainingColumn

    columns = (BarColumn(), MofNCompleteColumn(), TextColumn("{task.description}"), TimeRemainingColumn())
    with Progress(*columns, console=Console(stderr=True), transient=True) as display:
        task = display.add_task("", total=None)
        last = 0.0

        def tell(progress: FleetProgress) -> None:
            nonlocal last
            done = progress.made + progress.kept + progress.failed
            if monotonic() - last < LOOK and done < progress.total:
                return
            last = monotonic()
            said = f"{progress.rate:.1f} a second" + (f", {progress.failed:,} failed" if progress.failed else "")
            display.update(task, completed=done, total=progress.total, description=said)

        yield tell
