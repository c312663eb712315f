"""The reference, from what the package itself says: docstrings, commands, schemas."""

from __future__ import annotations

import inspect
import json
import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

import click

import fleetquill as fq
from fleetquill.cli.main import main as commands

SOURCES: Final = Path(fq.__file__).parent
SCHEMAS: Final = {
    "A document in plain data": (
        "authoring/manuscript.schema.json",
        "under the name `manuscript`, in JSON, YAML or TOML",
    ),
    "A brief": ("briefs/brief.schema.json", "under the name `brief`; [Briefs](../briefs.md) explains it"),
}
GROUPS: Final = {
    "Making documents": "compose write Press Edition Page Placement Remark Summary Progress Policy",
    "Saying documents": "Manuscript Plate Column Group Brief look",
    "In a line": "strong emphasis small mono superscript subscript span link value footnote page_of text_of "
    "page_number spark line_break Inline",
    "Finished PDFs": "Volume VolumePage Field AttachedFile bind Part Stamp unbind Piece fill_fields seal Seal "
    "SealFound compare Comparison Change check CheckReport Finding",
    "Invoices for machines": "Invoice read_invoice InvoiceError",
    "Many documents, shelves, services": "Fleet Query Combined FleetReport FleetProgress Shelf ShelfDocument "
    "RemotePress safe_name",
    "Looking closer": "ElementFound Declared Bookmark Where",
}
DEEPEST: Final = 2  # names within names that are listed
GIVEN: Final = ("self", "cls")
ROLE: Final = re.compile(r"\s*\n\s*")


def python_page() -> str:
    """Every public name with its signature and its docstring."""
    parts = ["# Python", "All public names stand in `fleetquill`. Lengths are points unless a unit is written."]
    for group, names in GROUPS.items():
        parts.append(f"## {group}")
        for name in names.split():
            parts += _entry(name, getattr(fq, name))
    parts += ["## Errors", "All derive from `FleetQuillError`: [Errors](errors.md)."]
    return "\n\n".join(parts) + "\n"


def missing_names() -> list[str]:
    """Public names that no group has, errors apart."""
    known = {name for names in GROUPS.values() for name in names.split()}
    errors = {
        name for name in fq.__all__ if isinstance(getattr(fq, name), type) and issubclass(getattr(fq, name), Exception)
    }
    return sorted(set(fq.__all__) - known - errors - {"__version__"})


def _entry(name: str, thing: Any) -> Iterator[str]:
    yield f"### {name}"
    yield f"```text\n{_signature(name, thing)}\n```"
    yield _told(thing)
    if isinstance(thing, type):
        for own, member in _members(thing):
            yield f"#### {name}.{own}"
            if isinstance(member, property):
                kind = member.fget.__annotations__.get("return", "") if member.fget else ""
                yield f"`{kind}` {_told(member)}".strip()
            else:
                yield f"```text\n{_signature(own, member)}\n```"
                yield _told(member)


def _members(kind: type) -> Iterator[tuple[str, Any]]:
    """What a class has of its own that is public and says what it is."""
    found: dict[str, Any] = {}
    for one in reversed(kind.__mro__):
        if one.__module__.startswith("fleetquill"):
            found |= vars(one)
    for name, member in found.items():
        plain = member.__func__ if isinstance(member, (classmethod, staticmethod)) else member
        if (
            not name.startswith("_")
            and (inspect.isfunction(plain) or isinstance(plain, property))
            and inspect.getdoc(plain)
        ):
            yield name, plain


def _signature(name: str, thing: Any) -> str:
    """A call with its parameters, a line each where they are many."""
    try:
        found = inspect.signature(inspect.unwrap(thing) if not isinstance(thing, type) else thing)
    except (TypeError, ValueError):
        return name
    shown: list[str] = []
    starred = False
    for parameter in found.parameters.values():
        if parameter.name in GIVEN:
            continue
        if parameter.kind is parameter.KEYWORD_ONLY and not starred:
            shown.append("*")
            starred = True
        starred = starred or parameter.kind is parameter.VAR_POSITIONAL
        shown.append(_parameter(parameter))
    line = f"{name}({', '.join(shown)})"
    return line if len(line) <= 96 else f"{name}(\n    " + ",\n    ".join(shown) + ",\n)"


def _parameter(parameter: inspect.Parameter) -> str:
    star = (
        "*" if parameter.kind is parameter.VAR_POSITIONAL else "**" if parameter.kind is parameter.VAR_KEYWORD else ""
    )
    kind = parameter.annotation
    said = (
        ""
        if kind is parameter.empty
        else f": {kind if isinstance(kind, str) else getattr(kind, '__name__', str(kind))}"
    )
    if parameter.default is parameter.empty:
        return f"{star}{parameter.name}{said}"
    default = repr(parameter.default)
    return f"{star}{parameter.name}{said}" + (
        f" = {default}" if len(default) < 40 and " at 0x" not in default else " = …"
    )


def _told(thing: Any) -> str:
    """A docstring as Markdown: names in backticks stay, paragraphs stay."""
    text = inspect.getdoc(thing) or ""
    return re.sub(r"<(?=[a-z/!])", "&lt;", text.replace("|", "\\|")) if "`" not in text else text


def command_page() -> str:
    """Every command, as the command line tells it."""
    parts = [
        "# Command line",
        "Exit codes: 0 done, 1 the document or its data is at fault, 2 the command line is. Long work shows a bar on "
        "a terminal. "
        '`eval "$(_FLEETQUILL_COMPLETE=bash_source fleetquill)"` lets bash complete commands and options.',
    ]
    for name, command in commands.commands.items():
        parts.append(f"## fleetquill {name}")
        context = click.Context(command, info_name=f"fleetquill {name}")
        parts.append(ROLE.sub(" ", inspect.cleandoc(command.help or "").replace("\n\n", "\0")).replace("\0", "\n\n"))
        parts.append(f"```text\n{command.get_usage(context)}\n```")
        rows = [record for one in command.get_params(context) if (record := one.get_help_record(context)) is not None]
        if rows:
            parts.append(
                _table(("option", "what it is"), [(f"`{option}`", ROLE.sub(" ", said)) for option, said in rows])
            )
    return "\n\n".join(parts) + "\n"


def format_page() -> str:
    """The file formats with a schema, name by name."""
    parts = ["# File formats", "Each schema lies in the package and lets an editor check a file as it is written."]
    for title, (path, said) in SCHEMAS.items():
        schema = json.loads((SOURCES / path).read_text(encoding="utf-8"))
        parts += [f"## {title}", f"`fleetquill/{path}`: {said}."]
        for name, node in {"": schema, **schema.get("$defs", {})}.items():
            rows = list(_rows(node))
            if rows:
                parts += [f"### {name}"] if name else []
                parts.append(_table(("name", "what it is"), rows))
    parts += ["## A shelf", "`shelf.toml`: [A shelf](../shelf.md)."]
    return "\n\n".join(parts) + "\n"


def _rows(node: dict[str, Any], before: str = "", depth: int = 0) -> Iterator[tuple[str, str]]:
    """The names of a value, and those of what is in it."""
    needed = node.get("required", ())
    for name, one in node.get("properties", {}).items():
        if not isinstance(one, dict):
            continue
        path = f"{before}{name}"
        yield (
            f"`{path}`",
            " ".join(filter(None, (one.get("description", ""), _kind(one), "Needed." if name in needed else ""))),
        )
        within = one.get("items", one)
        for option in [within, *within.get("anyOf", ()), *within.get("oneOf", ())] if isinstance(within, dict) else ():
            if depth < DEEPEST and option.get("properties"):
                yield from _rows(option, f"{path}[]." if "items" in one else f"{path}.", depth + 1)


def _kind(node: Any) -> str:
    """What a value may be, in words."""
    if not isinstance(node, dict):
        return ""
    if "enum" in node:
        return (
            "One of "
            + ", ".join(f"`{value}`" for value in node["enum"][:12])
            + ("…" if len(node["enum"]) > 12 else "")
            + "."
        )
    if "$ref" in node:
        return f"*{node['$ref'].rpartition('/')[2]}*."
    kind = node.get("type")
    return f"{' or '.join(kind) if isinstance(kind, list) else kind}.".capitalize() if kind else ""


def _table(heads: tuple[str, str], rows: list[tuple[str, str]]) -> str:
    lines = [f"| {heads[0]} | {heads[1]} |", "| --- | --- |"]
    lines += ["| " + " | ".join(cell.replace("|", "\\|") or " " for cell in row) + " |" for row in rows]
    return "\n".join(lines)


PAGES: Final = {"python.md": python_page, "command-line.md": command_page, "formats.md": format_page}
