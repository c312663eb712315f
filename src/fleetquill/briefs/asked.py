"""What a brief asks of its data, found in what it says: how often each is read, and which values rows must have."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, Final

from fleetquill.briefs.datasets import uses_of
from fleetquill.briefs.expressions import names_in

MAKING: Final = ("compute", "running", "share", "figures")  # what gives rows more names

Sets = Mapping[str, Mapping[str, Any]]


def uses(brief: Mapping[str, Any], names: Iterable[str]) -> dict[str, int]:
    """How often each data is named where rows are read: more than once in parts that are repeated."""
    names = list(names)
    texts = _texts({name: value for name, value in brief.items() if name != "parameters"})
    once = uses_of(names, texts)
    repeated = uses_of(names, _repeated(brief.get("parts")))
    return {name: once[name] + repeated[name] for name in names}


def columns(brief: Mapping[str, Any]) -> dict[str, tuple[str, ...]]:
    """For each data that is given at run time, the names that its rows must have; see Brief.columns."""
    sets: Sets = brief.get("data") or {}
    found: dict[str, dict[str, None]] = {name: {} for name, one in sets.items() if "given" in one}
    known = {*sets, *(brief.get("parameters") or {})}
    for name, names in _asked(brief, sets):
        wanted = [one for one in names if one not in known]
        while name in sets:
            made = _made(sets[name])
            wanted = [one for one in wanted if one not in made]
            if name in found:
                found[name].update(dict.fromkeys(wanted))
            name = str(sets[name].get("from"))
    return {name: tuple(names) for name, names in found.items()}


def _asked(brief: Mapping[str, Any], sets: Sets) -> Iterator[tuple[str, list[str]]]:
    """Names that data and parts ask of rows, with the name of those."""
    for name, one in sets.items():
        yield name, list(_asked_by_shaping(one))
    for arguments in _with_rows(brief.get("parts")):
        rows = arguments["rows"]
        names = list(_asked_by_part(arguments))
        if isinstance(rows, str):
            yield rows, names
        else:
            made = _made(rows)
            yield str(rows.get("from")), [one for one in names if one not in made] + list(_asked_by_shaping(rows))


def _made(shaping: Mapping[str, Any]) -> set[str]:
    return {str(name) for one in MAKING for name in shaping.get(one) or ()}


def _texts(value: Any) -> Iterator[str]:
    if isinstance(value, str):
        yield value
    elif isinstance(value, Mapping):
        for name, inner in value.items():
            if name == "join" and isinstance(inner, Mapping):
                yield from map(str, inner)
            if name != "sql":
                yield from _texts(inner)
    elif isinstance(value, Sequence):
        for inner in value:
            yield from _texts(inner)


def _parts_of(parts: Any) -> Iterator[tuple[str, Any]]:
    for part in parts if isinstance(parts, list) else []:
        if isinstance(part, Mapping) and len(part) == 1:
            ((name, arguments),) = part.items()
            yield str(name), arguments


def _repeated(parts: Any) -> Iterator[str]:
    """The texts of parts that stand in parts which are repeated."""
    for name, arguments in _parts_of(parts):
        inner = arguments.get("parts") if isinstance(arguments, Mapping) else arguments
        yield from _texts(inner) if name == "each" else _repeated(inner)


def _with_rows(parts: Any) -> Iterator[Mapping[str, Any]]:
    """The arguments of parts that have rows, wherever they stand."""
    for _, arguments in _parts_of(parts):
        if isinstance(arguments, Mapping):
            if isinstance(arguments.get("rows"), (str, Mapping)):
                yield arguments
            for inner in ("parts", "otherwise"):
                yield from _with_rows(arguments.get(inner))
        else:
            yield from _with_rows(arguments)


def _asked_by_part(arguments: Mapping[str, Any]) -> Iterator[str]:
    for column in arguments.get("columns") or ():
        if isinstance(column, str):
            yield column
        elif isinstance(column, Mapping) and not column.get("counts"):
            yield str(column.get("name"))
    for group in arguments.get("groups") or ():
        yield group if isinstance(group, str) else str(group.get("by"))
    for name in ("by", "down", "across", "of", "x", "y", "y2"):
        given = arguments.get(name)
        yield from [given] if isinstance(given, str) else map(str, given or ())


def _asked_by_shaping(value: Mapping[str, Any]) -> Iterator[str]:
    expressions = [*(value.get("compute") or {}).values()]
    where = value.get("where")
    expressions += where if isinstance(where, list) else [where] if where is not None else []
    made = set(value.get("compute") or {})
    for expression in expressions:
        yield from sorted(names_in(f"{{{{ {expression} }}}}") - made)
    yield from value.get("types") or ()
    for name in ("by", "distinct"):
        given = value.get(name)
        yield from [given] if isinstance(given, str) else map(str, given) if isinstance(given, list) else ()
    for name, figure in (value.get("figures") or {}).items():
        kind, _, of = str(figure).partition(" ")
        if of.strip() or kind != "count":
            yield of.strip() or name
    for name in ("running", "share"):
        for one in (value.get(name) or {}).values():
            yield one if isinstance(one, str) else str(one.get("of"))
