"""What commands say about a document that was written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import click

from fleetquill.press import Summary
from fleetquill.remarks import Remark


def report(path: Path, summary: Summary) -> None:
    """One line for what was written, then one for each remark, on standard error."""
    counts = ((summary.page_count, "page"), (summary.row_count, "row"))
    said = [f"{count} {name}{'s' * (count != 1)}" for count, name in counts if count]
    click.echo(f"{path}: {', '.join([*said, size(summary.bytes_written)])}, {summary.seconds:.2f} s")
    report_remarks(summary.remarks)


def report_remarks(remarks: Sequence[Remark]) -> None:
    for remark in remarks:
        click.echo(f"  {remark.kind}: {remark}", err=True)


def size(count: int) -> str:
    if count < 1000:
        return f"{count} bytes"
    return f"{count / 1000:.0f} kB" if count < 1_000_000 else f"{count / 1_000_000:.1f} MB"
