"""fleetquill sketch: a first brief for a file of rows."""

from __future__ import annotations

from pathlib import Path
from typing import BinaryIO

import click

from fleetquill.errors import OutputError, Where
from fleetquill.whole_files import write_whole


@click.command()
@click.argument("rows", type=click.Path(path_type=Path), metavar="ROWS")
@click.option("-o", "--output", metavar="OUT", help="The file to write, or '-' for standard output. "
              "Default: beside ROWS, as .brief.yaml.")  # fmt: skip
def sketch(rows: Path, output: str | None) -> None:
    """Write a brief for the rows of a file (CSV, JSON lines, JSON, a workbook, Parquet), as a first draft."""
    from fleetquill.briefs.sketch import as_yaml
    from fleetquill.briefs.sketch import sketch as sketched

    text = as_yaml(sketched(rows), rows)
    if output == "-":
        click.echo(text, nl=False)
        return
    target = Path(output) if output is not None else rows.with_suffix(".brief.yaml")
    if target.exists():
        raise OutputError(
            "The file is there already.", where=Where(str(target)), remedy="Name another one with -o, or remove it."
        )

    def write(stream: BinaryIO) -> None:
        stream.write(text.encode("utf-8"))

    write_whole(target, write)
    click.echo(f"{target}: a first draft; 'fleetquill press {target} --data {rows}' makes it.")
