"""fleetquill demo: every demo document, made from the demo data."""

from __future__ import annotations

from pathlib import Path

import click

from fleetquill.cli.report import report
from fleetquill.errors import OutputError, Where


@click.command()
@click.argument("folder", type=click.Path(path_type=Path), default=Path("fleetquill-demo"))
def demo(folder: Path) -> None:
    """Make the demo documents in FOLDER (default: fleetquill-demo)."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        reason = error.strerror or str(error)
        raise OutputError(f"The folder cannot be made ({reason}).", where=Where(str(folder))) from error
    from fleetquill.demo.documents import make_documents

    for path, summary in make_documents(folder):
        report(path, summary)
