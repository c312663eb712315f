"""fleetquill shelf: the documents of a folder, and whether they can be made."""

from __future__ import annotations

import io
import sys
from typing import TYPE_CHECKING

import click

from fleetquill.cli.report import report_remarks
from fleetquill.errors import FleetQuillError

if TYPE_CHECKING:
    from fleetquill.press import Press
    from fleetquill.shelf.document import ShelfDocument


@click.command()
@click.argument("folder", metavar="FOLDER")
@click.argument("names", nargs=-1, metavar="[NAME…]")
@click.option("--check", "checks", is_flag=True, help="Make each document with its sample; fail on remarks and errors.")
@click.option(
    "--schema", "tells_schema", is_flag=True, help="Tell what the data of a document has to be like, as JSON."
)
def shelf(folder: str, names: tuple[str, ...], checks: bool, tells_schema: bool) -> None:
    """List the documents that FOLDER keeps, or NAMEs of them.

    The exit code of --check is 1 where any document cannot be made with its sample, or has remarks.
    """
    from fleetquill.shelf.shelf import Shelf

    found = Shelf(folder)
    documents = [found[name] for name in names or found.names]
    if tells_schema:
        import json

        schemas = {document.name: document.schema for document in documents}
        click.echo(json.dumps(schemas[names[0]] if len(names) == 1 else schemas, ensure_ascii=False, indent=2))
        return
    if not checks:
        for document in documents:
            sample = "" if document.sample_path is None else f", sample {document.sample_path.name}"
            click.echo(f"{document.name}: {document.kind}, {document.path.relative_to(found.folder)}{sample}")
        return
    press = found.press()
    sound = [_is_sound(document, press) for document in documents]  # each of them is tried
    if not all(sound):
        sys.exit(1)


def _is_sound(document: ShelfDocument, press: Press) -> bool:
    """Makes a document with its sample and says what came of it."""
    try:
        data, parameters = document.trial()
        summary = press.write(document, io.BytesIO(), kind="pdf", data=data, parameters=parameters)
    except FleetQuillError as error:
        click.echo(f"{document.name}: cannot be made", err=True)
        click.echo(f"  error: {error}", err=True)
        return False
    count = summary.page_count
    click.echo(f"{document.name}: {count} page{'s' * (count != 1)}, {summary.seconds:.2f} s")
    report_remarks(summary.remarks)
    return not summary.remarks
