"""The JSON Schema of manuscripts as plain data, made from the signatures of what they call (JSON Schema 2020-12)."""

from __future__ import annotations

import inspect
from typing import Any, Final

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.authoring.parts import Parts
from fleetquill.authoring.plain_data import (
    COLUMN_FACTS,
    FACTS,
    FONT_FACTS,
    PARTS,
    Described,
    described,
    methods_of,
    pieces,
)
from fleetquill.authoring.plate import Plate

TYPES: Final[dict[str, Any]] = {
    "str": {"type": "string"}, "bool": {"type": "boolean"}, "int": {"type": "integer"}, "float": {"type": "number"},
    "Length": {"type": ["string", "number"]}, "PageSize": {"type": ["string", "array"]},
    "Style": {"type": ["string", "object"]}, "Side": {"enum": ["", "left", "right"]},
}  # fmt: skip


def manuscript_schema() -> dict[str, Any]:
    """What a file of plain data may say."""
    texts = {name: {"type": "string"} for name in FACTS} | {"page": TYPES["PageSize"], "margin": {}}
    font = {"type": "object", "properties": {name: {} for name in FONT_FACTS}, "required": ["family", "source"]}
    edges = {name: _arguments(described(getattr(Parts, name)), holds=True) for name in ("header", "footer")}
    columns = {"anyOf": [{"type": "string"}, {"type": "object", "properties": {name: {} for name in COLUMN_FACTS},
               "required": ["name"], "additionalProperties": False}]}  # fmt: skip
    cls: Any = Manuscript
    inner = {
        **texts,
        "fonts": {"type": "array", "items": {**font, "additionalProperties": False}},
        **edges,
        PARTS: {"$ref": "#/$defs/parts"},
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "A manuscript as plain data",
        "type": "object",
        "required": ["manuscript"],
        "additionalProperties": False,
        "properties": {"manuscript": {"type": "object", "properties": inner, "additionalProperties": False}},
        "$defs": {
            "parts": {"type": "array", "items": _one_of(methods_of(cls))},
            "drawn": {"type": "array", "items": _one_of(methods_of(Plate))},
            "piece": {"anyOf": [{"type": ["string", "number", "boolean", "null", "array"]}, _one_of(pieces())]},
            "column": columns,
        },
    }


def _one_of(methods: dict[str, Described]) -> dict[str, Any]:
    """A mapping of one name to its arguments, or the name alone."""
    known = {name: _call(method) for name, method in methods.items()}
    mapping = {
        "type": "object", "properties": known, "minProperties": 1, "maxProperties": 1, "additionalProperties": False,
    }  # fmt: skip
    return {"anyOf": [{"enum": list(methods)}, mapping]}


def _call(method: Described) -> dict[str, Any]:
    """What stands for the arguments of a method."""
    named = _arguments(method, holds=method.holds)
    others: list[Any] = [{"type": "null"}]
    if method.content:
        others += [{"type": ["string", "number", "boolean"]}, {"type": "array", "items": {"$ref": "#/$defs/piece"}}]
    elif method.holds:
        others.append({"$ref": f"#/$defs/{_held(method)}"})
    elif method.first:
        others.append({"type": ["string", "number", "array"]})
    return {"anyOf": [named, *others]}


def _arguments(method: Described, *, holds: bool) -> dict[str, Any]:
    known: dict[str, Any] = {}
    for name, parameter in method.parameters.items():
        written = name.rstrip("_")
        if name == method.content:
            pieces_of = {"type": "array", "items": {"$ref": "#/$defs/piece"}}
            known[written] = {"anyOf": [{"type": ["string", "number", "boolean"]}, pieces_of, {"type": "object"}]}
        elif name == "columns" and "Column" in str(parameter.annotation):
            known[written] = {"type": "array", "items": {"$ref": "#/$defs/column"}}
        else:
            known[written] = TYPES.get(str(parameter.annotation), {})
    if holds:
        known[PARTS] = {"$ref": f"#/$defs/{_held(method)}"}
    required = [
        name.rstrip("_") for name, parameter in method.parameters.items()
        if parameter.default is inspect.Parameter.empty and name != method.content
    ]  # fmt: skip
    return {"type": "object", "properties": known, "additionalProperties": False} | (
        {"required": required} if required else {}
    )


def _held(method: Described) -> str:
    """Which parts stand in one: those of a plate are drawn."""
    return "drawn" if method.name in ("plate", "layer") else "parts"
