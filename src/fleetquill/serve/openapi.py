"""The service in the words of OpenAPI 3.1."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from fleetquill.output.kinds import Kind
from fleetquill.serve.plain import plain
from fleetquill.serve.problems import MEDIA_TYPE
from fleetquill.shelf.document import ShelfDocument

PROBLEMS: Final = {
    "400": "The body is no JSON.",
    "401": "A token is missing, or is not known.",
    "403": "The token is not for this document.",
    "404": "There is no such thing.",
    "406": "This kind of file is not made.",
    "413": "The body is too large.",
    "415": "The body is of another media type.",
    "422": "The data does not suit the document; the path of each fault is told.",
    "503": "Too many documents are asked for at once.",
    "504": "The document takes too long.",
}
HEADERS: Final = {
    "Page-Count": ("integer", "How many pages it has."),
    "Remark-Count": ("integer", "How many remarks there are; `/runs/{run}` has them."),
    "Run-Id": ("string", "The name of this run."),
    "ETag": ("string", "The same for the same bytes."),
}


def described(documents: Mapping[str, ShelfDocument], kinds: Mapping[str, Kind], *, secured: bool) -> dict[str, Any]:
    """Every document as a path of its own, with the schema of its data."""
    paths: dict[str, Any] = {
        "/health": {"get": _reading("Whether the service answers.")},
        "/documents": {"get": _reading("The documents that may be asked for.")},
    }
    for name, document in documents.items():
        paths[f"/documents/{name}"] = {
            "get": _reading(f"What '{name}' takes: its schema and a sample."),
            "post": _making(document, kinds),
        }
    run = {"name": "run", "in": "path", "required": True, "schema": {"type": "string"}}
    log = _reading("What is known of a run: pages, seconds, remarks.")
    paths["/runs/{run}"] = {"get": {**log, "parameters": [run]}}
    told: dict[str, Any] = {
        "openapi": "3.1.0",
        "info": {"title": "Documents", "version": "1"},
        "paths": paths,
        "components": {"schemas": {"Problem": _problem_schema()}},
    }
    if secured:
        told["components"]["securitySchemes"] = {"bearer": {"type": "http", "scheme": "bearer"}}
        told["security"] = [{"bearer": []}]
    return told


def _reading(summary: str) -> dict[str, Any]:
    found = {"description": "What is asked for.", "content": {"application/json": {"schema": {"type": "object"}}}}
    return {"summary": summary, "responses": {"200": found, **_problems("401", "403", "404")}}


def _making(document: ShelfDocument, kinds: Mapping[str, Kind]) -> dict[str, Any]:
    def query(name: str, what: str, schema: dict[str, Any]) -> dict[str, Any]:
        return {"name": name, "in": "query", "description": what, "schema": schema}

    text = {"type": "string"}
    parameters = [
        query("kind", "The kind of file; without it the first of `Accept`.", {"type": "string", "enum": list(kinds)}),
        query("locale", "How values are written.", text),
        query("name", "The file's name, with names of the data in braces.", text),
        query("download", "Given, the file is to be saved rather than shown.", text),
    ]
    file = {
        "description": "The file.",
        "headers": {name: {"description": what, "schema": {"type": kind}} for name, (kind, what) in HEADERS.items()},
        "content": {kind.media_type.partition(";")[0]: {} for kind in kinds.values()},
    }
    made = {
        "summary": f"Makes '{document.name}'.",
        "parameters": parameters,
        "responses": {"200": file, **_problems(*PROBLEMS)},
    }
    if document.takes_data:
        schema = {name: value for name, value in document.schema.items() if name != "$schema"}
        schema = schema if document.kind == "template" else {"type": "object"}
        made["requestBody"] = {"content": {"application/json": {"schema": schema, "example": plain(document.sample)}}}
    return made


def _problems(*statuses: str) -> dict[str, Any]:
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    return {status: {"description": PROBLEMS[status], "content": content} for status in statuses}


def _problem_schema() -> dict[str, Any]:
    text, number = {"type": "string"}, {"type": "integer"}
    properties = {"title": text, "status": number, "detail": text, "kind": text, "source": text, "line": number,
                  "run": text}  # fmt: skip
    return {"type": "object", "properties": properties, "required": ["title", "status", "detail"]}
