"""fleetquill check: a finished PDF against the standards that it says it conforms to."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING, Final

import click

from fleetquill.standards import NAMES

if TYPE_CHECKING:
    from fleetquill.bindery.check import CheckReport

WIDE: Final = 132  # columns where no terminal says how many it has
MOST_TOLD: Final = 5  # faults of one clause


@click.command()
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path), metavar="FILE…")
@click.option("--conform", multiple=True, metavar="NAME",
              help=f"Check against this standard, whatever the file says: {', '.join(NAMES)}.")  # fmt: skip
@click.option("--faults", "only_faults", is_flag=True, help="Show only the clauses that are broken.")
def check(files: tuple[Path, ...], conform: tuple[str, ...], only_faults: bool) -> None:
    """Check PDFs against the standards that they say they conform to, clause by clause.

    The exit code is 1 where a clause is broken.
    """
    from fleetquill.bindery.check import check as check_file

    broken = False
    for file in files:
        report = check_file(file, conform)
        broken = broken or not report.conforms
        _show(file, report, only_faults=only_faults)
    if broken:
        sys.exit(1)


def _show(file: Path, report: CheckReport, *, only_faults: bool) -> None:
    from rich.console import Console
    from rich.table import Table
    from rich.text import Text

    console = Console(width=None if sys.stdout.isatty() else WIDE, highlight=False)
    told = [finding for finding in report.findings if not (only_faults and finding.kept)]
    if told:
        table = Table(box=None, pad_edge=False, header_style="bold")
        for name in ("Standard", "Clause", "", "What it asks for"):
            table.add_column(name, no_wrap=name != "What it asks for")
        for finding in told:
            text = Text(finding.title)
            for fault in finding.faults[:MOST_TOLD]:
                text.append(f"\n– {fault}", style="red")
            if len(finding.faults) > MOST_TOLD:
                text.append(f"\n– and {len(finding.faults) - MOST_TOLD} more", style="red")
            mark = Text("kept", style="green") if finding.kept else Text("broken", style="bold red")
            table.add_row(finding.standard, finding.number, mark, text)
        console.print(table)
    count = sum(not finding.kept for finding in report.findings)
    said = f"{count} of {len(report.findings)} clauses broken" if count else f"all {len(report.findings)} clauses kept"
    console.print(Text(f"{file}: {' and '.join(report.standards)}: {said}."))
