"""What the command line says to a brief, and what it tells of one."""

from __future__ import annotations

import os
from collections.abc import Iterator, Mapping, Sequence
from datetime import date
from pathlib import Path
from typing import Any, Final

import click

from fleetquill.briefs.brief import Brief
from fleetquill.briefs.parameters import Parameter
from fleetquill.cli.pairs import pairs
from fleetquill.errors import OptionError
from fleetquill.policy import Policy

FROM_ENVIRONMENT: Final = "env:"


def read_brief(source: str, policy: Policy) -> Brief:
    policy.check(Path(source))
    return Brief.read(source)


def rows_of(brief: Brief, files: Sequence[str]) -> Any:
    """What --data gives: a file for the one data that is asked for, or NAME=FILE for each of several. A file that has
    the name of data is for that."""
    if not files:
        return None
    names = list(brief.columns())
    found: dict[str, Path] = {}
    for given in files:
        name, equals, file = given.partition("=")
        if not equals or name not in names:
            name, file = Path(given).stem, given
        if name not in names and len(names) == 1:
            name = names[0]
        if name in found:
            raise click.UsageError(f"--data gives '{name}' twice.")
        found[name] = Path(file)
    return found


def parameters_of(settings: Sequence[str]) -> dict[str, str]:
    """What --set gives: the types are the brief's affair."""
    return pairs("--set", settings, "KEY=VALUE")


def connections_of(given: Sequence[str]) -> dict[str, str]:
    """What --connection gives: an address, or the name of the variable of the environment that holds it."""
    found: dict[str, str] = {}
    for name, address in pairs("--connection", given, "NAME=ADDRESS or NAME=env:VARIABLE").items():
        if address.startswith(FROM_ENVIRONMENT):
            variable = address.removeprefix(FROM_ENVIRONMENT)
            address = os.environ.get(variable, "")
            if not address:
                raise OptionError(f"The connection '{name}': there is no variable '{variable}' in the environment.")
        found[name] = address
    return found


def ask(brief: Brief, given: Mapping[str, Any]) -> dict[str, Any]:
    """The parameters, those that are not given as a person answers."""
    found = dict(given)
    for parameter in brief.parameters:
        if parameter.name not in found:
            default = _shown(parameter.default, parameter.type)
            found[parameter.name] = click.prompt(
                parameter.prompt or parameter.name, default=default, show_default=bool(default),
                value_proc=_checked(parameter), err=True,
            )  # fmt: skip
    return found


def _checked(parameter: Parameter) -> Any:
    def check(text: str) -> Any:
        if not text and not parameter.needed:
            return None
        try:
            return parameter.value(text)
        except ValueError as error:
            raise click.BadParameter(f"{error}.") from error

    return check


def describe(brief: Brief) -> str:
    """The parameters and sources of a brief, as text."""
    lines = [brief.title or "A brief without a title", ""]
    if brief.parameters:
        rows = [(one.name, _type(one), _default(one), one.prompt) for one in brief.parameters]
        lines += ["Parameters (--set NAME=VALUE)", *_columns(rows), ""]
    sources = [(one.name, _source(brief, one.kind, one.name, one.detail)) for one in brief.sources]
    if sources:
        lines += ["Data", *_columns(sources), ""]
    if brief.connections:
        lines += ["Connections (--connection NAME=ADDRESS)", *(f"  {name}" for name in brief.connections), ""]
    return "\n".join(lines[:-1])


def _type(parameter: Parameter) -> str:
    kind = f"several of {parameter.type}" if parameter.several else parameter.type
    return f"{kind}: {', '.join(map(str, parameter.choices))}" if parameter.choices else kind


def _default(parameter: Parameter) -> str:
    if parameter.default is None:
        return "needed" if parameter.needed else "may be left out"
    return f"else {_shown(parameter.default, parameter.type)}"


def _shown(default: Any, kind: str) -> str:
    """A default as --set would say it."""
    if isinstance(default, list):
        return ",".join(_shown(one, kind) for one in default)
    if kind == "month" and isinstance(default, date):
        return f"{default:%Y-%m}"
    return "" if default is None else str(default)


def _source(brief: Brief, kind: str, name: str, detail: str) -> str:
    if kind == "given":
        needed = ", ".join(brief.columns()[name])
        return f"is given (--data {name}=FILE){f', with {needed}' if needed else ''}"
    shown = detail if len(detail) <= 80 else f"{detail[:79]}…"
    return {"file": f"the file {shown}", "sql": f"a query of {shown}"}.get(kind, f"made of {shown}")


def _columns(rows: Sequence[Sequence[str]]) -> Iterator[str]:
    """Texts below one another."""
    widths = [max(map(len, column)) for column in zip(*rows, strict=True)]
    for row in rows:
        yield "  " + "  ".join(text.ljust(width) for text, width in zip(row, widths, strict=True)).rstrip()
