"""fleetquill press: a document to a PDF file."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any, BinaryIO

import click

from fleetquill.cli.fonts import open_press
from fleetquill.cli.report import report, report_remarks
from fleetquill.edition import write_whole
from fleetquill.errors import DataError, StrictError
from fleetquill.press import Summary


@click.command()
@click.argument("source", type=click.Path(path_type=Path))
@click.option("--data", "data_file", type=click.Path(path_type=Path), metavar="FILE",
              help="Fill the source in as a template with this JSON, YAML or TOML file.")  # fmt: skip
@click.option("--set", "settings", multiple=True, metavar="KEY=VALUE",
              help="Set one value of the data; KEY may be dotted, VALUE may be JSON.")  # fmt: skip
@click.option("--style", "styles", multiple=True, type=click.Path(path_type=Path), metavar="FILE",
              help="Apply one more style sheet after the document's own.")  # fmt: skip
@click.option("-o", "--output", metavar="OUT",
              help="Where to write; '-' for standard output. Default: beside the source, as .pdf.")  # fmt: skip
@click.option("--fonts", "folders", multiple=True, type=click.Path(path_type=Path), metavar="FOLDER",
              help="Let documents use the fonts in this folder.")  # fmt: skip
@click.option("--system-fonts", is_flag=True, help="Let documents use the fonts of this system.")
@click.option("--locale", default="en", show_default=True, help="How templates write numbers, money and dates.")
@click.option("--strict", is_flag=True, help="Write nothing and fail where there is any remark.")
def press(
    source: Path,
    data_file: Path | None,
    settings: tuple[str, ...],
    styles: tuple[Path, ...],
    output: str | None,
    folders: tuple[Path, ...],
    system_fonts: bool,
    locale: str,
    strict: bool,
) -> None:
    """Lay out SOURCE, an HTML file or a template, and write a PDF."""
    data = _data(data_file, settings)
    engine = open_press(folders, system_fonts, locale)
    summaries: list[Summary] = []

    def write(stream: BinaryIO) -> None:
        summary = engine.publish(source, stream, data=data, styles=styles)
        if strict and summary.remarks:
            report_remarks(summary.remarks)
            count = len(summary.remarks)
            raise StrictError(f"{count} remark{'s' * (count > 1)} on a strict run; nothing was written.")
        summaries.append(summary)

    if output == "-":
        write(sys.stdout.buffer)
        report_remarks(summaries[0].remarks)
        return
    target = Path(output) if output else source.with_suffix(".pdf")
    write_whole(target, write)
    report(target, summaries[0])


def _data(data_file: Path | None, settings: tuple[str, ...]) -> dict[str, Any] | None:
    if data_file is None and not settings:
        return None
    from fleetquill.intake.records import read_data

    data = read_data(data_file) if data_file else {}
    for setting in settings:
        key, equals, value = setting.partition("=")
        if not equals or not key:
            raise click.UsageError(f"--set takes KEY=VALUE, not '{setting}'.")
        _put(data, key.split("."), _value(value), setting)
    return data


def _value(text: str) -> Any:
    """JSON where it is JSON, else the text itself."""
    from decimal import Decimal

    try:
        return json.loads(text, parse_float=Decimal)
    except json.JSONDecodeError:
        return text


def _put(data: dict[str, Any], path: list[str], value: Any, setting: str) -> None:
    for name in path[:-1]:
        data = data.setdefault(name, {})
        if not isinstance(data, dict):
            raise DataError(f"'--set {setting}' goes through '{name}', which is not a mapping.")
    data[path[-1]] = value
