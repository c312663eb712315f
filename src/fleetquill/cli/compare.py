"""fleetquill compare: what differs between two documents."""

from __future__ import annotations

import sys
from pathlib import Path

import click

from fleetquill.cli.locking import asked_for

MOST_TOLD = 40  # changes


@click.command()
@click.argument("old", metavar="OLD")
@click.argument("new", metavar="NEW")
@click.option("--near", default=0.5, show_default=True, metavar="POINTS", help="How far something may have moved.")
@click.option("--picture", default=None, metavar="PNG", help="Show the pages that differ side by side.")
@click.option("--all", "tells_all", is_flag=True, help=f"Tell every change, not only the first {MOST_TOLD}.")
@click.option("--unlock", default=None, metavar="PASSWORD", help="Open locked files with this ('-' asks for it).")
def compare(old: str, new: str, near: float, picture: str | None, tells_all: bool, unlock: str | None) -> None:
    """Compare two PDFs page by page: which words, shapes and pictures came, went or moved.

    The exit code is 1 where there is any change.
    """
    from fleetquill.bindery.comparing import compare as compare_files

    password = asked_for(unlock, "Password")
    found = compare_files(old, new, near=near, old_password=password, new_password=password)
    if found.same:
        click.echo("The two are the same.")
        return
    told = found.changes if tells_all else found.changes[:MOST_TOLD]
    for change in told:
        click.echo(str(change))
    if len(found.changes) > len(told):
        click.echo(f"… and {len(found.changes) - len(told)} more: --all tells them")
    if picture is not None:
        click.echo(f"{found.save_picture(Path(picture))}: the pages that differ")
    sys.exit(1)
