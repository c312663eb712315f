"""The JSON Schema of briefs (JSON Schema 2020-12): what `Brief.read` takes."""

from __future__ import annotations

from typing import Any, Final

from fleetquill.authoring.schema import manuscript_schema
from fleetquill.briefs.brief import TOP
from fleetquill.briefs.datasets import SHAPING, SOURCES
from fleetquill.briefs.parameters import FACTS as PARAMETER_FACTS
from fleetquill.briefs.parameters import TYPES
from fleetquill.briefs.parts import COLUMN, GROUP, OWN, RULE
from fleetquill.tree.groups import SUMMARIES

TEXT: Final = {"type": "string"}
FLAG: Final = {"type": "boolean"}
NAMES: Final = {"anyOf": [TEXT, {"type": "array", "items": TEXT}]}
BY_NAME: Final[dict[str, Any]] = {"type": "object", "additionalProperties": TEXT}
ROWS: Final = {"anyOf": [TEXT, {"$ref": "#/$defs/shaped"}]}
PARTS: Final = {"$ref": "#/$defs/parts"}
SHAPES: Final[dict[str, Any]] = {
    "types": {"type": "object", "additionalProperties": {"enum": list(TYPES)}}, "compute": BY_NAME, "where": NAMES,
    "by": NAMES, "figures": BY_NAME, "sort": NAMES, "distinct": {"anyOf": [NAMES, {"const": True}]}, "keep": NAMES,
    "top": {"type": ["integer", "string"]}, "join": {"type": "object"}, "running": {"type": "object"},
    "share": {"type": "object"},
}  # fmt: skip
ARGUMENTS: Final[dict[str, Any]] = {
    "rows": ROWS, "columns": {"type": "array", "items": {"$ref": "#/$defs/column"}},
    "groups": {"type": "array", "items": {"$ref": "#/$defs/group"}}, "parts": PARTS, "otherwise": PARTS,
    "new_page": FLAG, "totals": FLAG, "heads": {"type": "array", "items": TEXT}, "down": NAMES,
}  # fmt: skip


def brief_schema() -> dict[str, Any]:
    """What a file of a brief may say."""
    base = manuscript_schema()
    inner = base["properties"]["manuscript"]["properties"]
    known: dict[str, Any] = {name: {} for name in TOP} | {name: inner[name] for name in TOP if name in inner}
    known |= {
        "subtitle": TEXT, "show_title": FLAG, "locale": TEXT, "currency": TEXT, "style": NAMES, "connections": BY_NAME,
        "parameters": {"type": "object", "additionalProperties": {"$ref": "#/$defs/parameter"}},
        "data": {"type": "object", "additionalProperties": {"$ref": "#/$defs/data"}}, "parts": PARTS,
    }  # fmt: skip
    return {
        **base,
        "title": "A brief: a report that a file describes",
        "required": ["brief"],
        "properties": {"brief": {"type": "object", "properties": known, "additionalProperties": False}},
        "$defs": {**base["$defs"], **_definitions(base["$defs"]["parts"]["items"])},
    }


def _definitions(part: dict[str, Any]) -> dict[str, Any]:
    names, mapping = part["anyOf"]
    own = {name: _own(name, mapping["properties"].get(name)) for name in OWN}
    parts = {**mapping, "properties": {**mapping["properties"], **own}}
    sources: dict[str, Any] = {"given": {"const": True}, "file": TEXT, "sql": TEXT, "from": TEXT}
    return {
        "parts": {"type": "array", "items": {"anyOf": [names, parts]}},
        "parameter": {
            "anyOf": [
                {"enum": list(TYPES)},
                _object(PARAMETER_FACTS, type={"enum": list(TYPES)}, choices={"type": "array"}, prompt=TEXT,
                        needed=FLAG, several=FLAG),
            ]
        },
        "data": {
            **_object((*SOURCES, "connection", "sheet", *SHAPING), **sources, connection=TEXT, **SHAPES),
            "oneOf": [{"required": [source]} for source in SOURCES],
            "dependentRequired": {"sql": ["connection"], "by": ["figures"], "figures": ["by"]},
        },
        "shaped": {**_object(("from", *SHAPING), **{"from": TEXT}, **SHAPES), "required": ["from"]},
        "column": {"anyOf": [TEXT, {**_object(COLUMN, rules={"type": "array", "items": {"$ref": "#/$defs/rule"}}),
                                    "required": ["name"]}]},
        "rule": {**_object(RULE, when=TEXT, style=TEXT), "required": list(RULE)},
        "group": {"anyOf": [TEXT, {**_object(GROUP, by=TEXT, heading=TEXT, label=TEXT, heads=FLAG, new_page=FLAG,
                                             summaries=_summaries()), "required": ["by"]}]},
    }  # fmt: skip


def _summaries() -> dict[str, Any]:
    labelled = {"type": "object", "propertyNames": {"enum": list(SUMMARIES)}, "maxProperties": 1}
    one = {"anyOf": [{"enum": list(SUMMARIES)}, labelled]}
    return {"anyOf": [one, {"type": "array", "items": one}]}


def _own(name: str, usual: dict[str, Any] | None) -> dict[str, Any]:
    """A part of briefs; where manuscripts have one of that name, it takes what that does, too."""
    more: dict[str, Any] = {}
    for one in usual["anyOf"] if usual is not None else []:
        more |= {known: fact for known, fact in one.get("properties", {}).items() if known not in ("data", "group")}
    taken = _object((*more, *OWN[name]), **{**more, **{known: ARGUMENTS.get(known, {}) for known in OWN[name]}})
    return {"anyOf": [taken, {"type": "array", "items": taken}]} if name == "cards" else taken


def _object(names: Any, **known: Any) -> dict[str, Any]:
    return {
        "type": "object",
        "properties": {name: known.get(name, {}) for name in dict.fromkeys(names)},
        "additionalProperties": False,
    }
