"""fleetquill fields: the fields of a finished form, and filling them in."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import click

from fleetquill.cli.locking import asked_for
from fleetquill.cli.pairs import pairs
from fleetquill.cli.report import report_remarks, size


@click.command()
@click.argument("file", metavar="FILE")
@click.option(
    "--set",
    "settings",
    multiple=True,
    metavar="NAME=VALUE",
    help='Fill in a field; VALUE may be JSON: true for a tick, ["a", "b"] for a list.',
)
@click.option(
    "--data", default=None, metavar="FILE", help="Fill in the fields that this file names (JSON, YAML, TOML)."
)
@click.option("-o", "--output", default=None, metavar="OUT", help="The file to write with fields filled in.")
@click.option("--flatten", is_flag=True, help="Make what the fields show a part of the pages.")
@click.option("--unlock", default=None, metavar="PASSWORD", help="Open a locked file with this ('-' asks for it).")
def fields(
    file: str, settings: tuple[str, ...], data: str | None, output: str | None, flatten: bool, unlock: str | None
) -> None:  # fmt: skip
    """Tell the fields of a form as JSON: names, kinds, choices, values. With -o, fill them in."""
    from fleetquill.bindery.filling import fill_fields
    from fleetquill.bindery.volume import Volume

    password = asked_for(unlock, "Password")
    if output is None:
        if settings or data or flatten:
            raise click.UsageError("What is filled in goes into another file: name it with -o.")
        found = {
            name: {key: value for key, value in field._asdict().items() if key != "name"}
            for name, field in Volume(file, password).fields.items()
        }
        click.echo(json.dumps(found, ensure_ascii=False, indent=2))
        return
    values: dict[str, Any] = {}
    if data is not None:
        from fleetquill.tree.data import read_data

        values |= dict(read_data(Path(data)))
    values |= {name: _value(text) for name, text in pairs("--set", settings).items()}
    remarks = fill_fields(file, values, output, flatten=flatten, password=password)
    count = len(values)
    click.echo(f"{output}: {count} field{'s' * (count != 1)} filled in, {size(Path(output).stat().st_size)}")
    report_remarks(remarks)


def _value(text: str) -> Any:
    """True, false, null and lists as JSON has them; all else is text, figures too."""
    try:
        found = json.loads(text)
    except (ValueError, RecursionError):
        return text
    return found if found is None or isinstance(found, (bool, list)) else text
