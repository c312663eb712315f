"""The service in the words of OpenAPI 3.1."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, Final

from fleetquill.output.kinds import Kind
from fleetquill.serve.plain import plain
from fleetquill.serve.service.problems import MEDIA_TYPE
from fleetquill.shelf.document import ShelfDocument

PROBLEMS: Final = {
    "400": "The body is not what it says, or what is asked for makes no sense.",
    "401": "A token is missing, or is not known.",
    "403": "The token is not for this.",
    "404": "There is no such thing.",
    "406": "This kind of file is not made.",
    "409": "It is not there yet, or was cancelled.",
    "410": "The file is kept no longer.",
    "412": "The one who asks has this file already.",
    "413": "The body is too large.",
    "415": "The body is of another media type.",
    "422": "The data does not suit the document; the path of each fault is told.",
    "429": "Too many documents in a minute.",
    "500": "The service fails.",
    "503": "Too many documents are asked for at once.",
    "504": "The document takes too long.",
}
ALWAYS: Final = ("401", "403")
MAKING: Final = (*ALWAYS, "400", "406", "409", "413", "415", "422", "429", "500", "503", "504")
FETCHING: Final = ("404", "409", "410", "422", "500", "504")
FILE: Final = {"type": "string", "contentMediaType": "application/octet-stream"}
HEADERS: Final = {
    "Page-Count": ("integer", "How many pages it has."),
    "Remark-Count": ("integer", "How many remarks there are; `/runs/{run}` has them."),
    "Run-Id": ("string", "The name of this run."),
    "ETag": ("string", "The same for the same bytes."),
}
JSON: Final = "application/json"
FORM: Final = "multipart/form-data"
SCALE: Final = "How large all is, 1 as it is; 'fit': as much smaller as the widest of it needs."
TEXT: Final = {"type": "string"}
SENT: Final[Mapping[str, tuple[str, dict[str, Any]]]] = {
    "html": ("text/html", TEXT),
    "markdown": ("text/markdown", TEXT),
    "data": (JSON, {"type": "object", "required": ["manuscript"], "properties": {"manuscript": {"type": "object"}}}),
    "address": (JSON, {"type": "object", "required": ["address"], "properties": {"address": TEXT}}),
}


def described(
    documents: Mapping[str, ShelfDocument], kinds: Mapping[str, Kind], sources: Sequence[str], *, secured: bool
) -> dict[str, Any]:
    """Every document as a path of its own, with the schema of its data."""
    run = [_parameter("run", "path", "The name of a run or a job.", TEXT, required=True)]
    paths: dict[str, Any] = {
        "/health": {"get": _reading("Whether the service answers.", problems=())},
        "/metrics": {"get": _reading("How the service fares (Prometheus text format).", "text/plain")},
        "/documents": {"get": _reading("The documents that may be asked for.")},
        "/runs/{run}": {"get": _reading("What is known of a run: stages, pages, what was read, remarks.") | _of(run)},
        "/jobs/{run}": {
            "get": _reading("How far a job is, and where its file is.") | _of(run),
            "delete": {
                "summary": "Ends a job.",
                "responses": {"204": {"description": "It is ended."}, **_problems(*ALWAYS, "404")},
            }
            | _of(run),
        },
        "/jobs/{run}/file": {"get": _file_of("The file of a job.", kinds, *FETCHING) | _of(run)},
    }
    if sources:
        paths["/documents"]["post"] = _sending(sources, kinds)
    for name, document in documents.items():
        paths[f"/documents/{name}"] = {
            "get": _reading(f"What '{name}' takes: its schema and a sample."),
            "post": _making(document, kinds),
        }
        if not document.takes_data:
            file = _file_of(f"'{name}' as a file.", kinds, *MAKING)
            paths[f"/documents/{name}/file"] = {"get": file | _of(_choices(kinds))}
    told: dict[str, Any] = {
        "openapi": "3.1.0",
        "info": {"title": "Documents", "version": "1"},
        "paths": paths,
        "components": {"schemas": {"Problem": _problem_schema(), "Job": _job_schema()}},
    }
    if secured:
        told["components"]["securitySchemes"] = {"bearer": {"type": "http", "scheme": "bearer"}}
        told["security"] = [{"bearer": []}]
    return told


def _of(parameters: Sequence[dict[str, Any]]) -> dict[str, Any]:
    return {"parameters": list(parameters)}


def _parameter(name: str, place: str, what: str, schema: dict[str, Any], *, required: bool = False) -> dict[str, Any]:
    return {"name": name, "in": place, "description": what, "schema": schema, "required": required}


def _reading(summary: str, media_type: str = JSON, problems: Sequence[str] = (*ALWAYS, "404")) -> dict[str, Any]:
    schema = {"type": "object"} if media_type == JSON else TEXT
    found = {"description": "What is asked for.", "content": {media_type: {"schema": schema}}}
    return {"summary": summary, "responses": {"200": found, **_problems(*problems)}}


def _choices(kinds: Mapping[str, Kind]) -> list[dict[str, Any]]:
    """What the address says of a file."""
    return [
        _parameter(
            "kind", "query", "The kind of file; else the first of `Accept`.", {"type": "string", "enum": list(kinds)}
        ),
        _parameter("locale", "query", "How values are written.", TEXT),
        _parameter("name", "query", "The file's name, with names of the data in braces.", TEXT),
        _parameter("download", "query", "Given, the file is to be saved rather than shown.", TEXT),
    ]


def _heads() -> list[dict[str, Any]]:
    """The header fields that an order may have."""
    return [
        _parameter("Prefer", "header", "`respond-async`: made as a job (RFC 7240).", TEXT),
        _parameter("Idempotency-Key", "header", "The same key, the same answer.", TEXT | {"maxLength": 255}),
        _parameter("If-None-Match", "header", "The tags of files that are there already.", TEXT),
    ]


def _file_of(summary: str, kinds: Mapping[str, Kind], *problems: str) -> dict[str, Any]:
    """A file that is read."""
    unchanged = {"304": {"description": "The one who asks has this file already."}}
    return {"summary": summary, "responses": {"200": _file(kinds), **unchanged, **_problems(*ALWAYS, *problems)}}


def _file(kinds: Mapping[str, Kind]) -> dict[str, Any]:
    return {
        "description": "The file.",
        "headers": {name: {"description": what, "schema": {"type": kind}} for name, (kind, what) in HEADERS.items()},
        "content": {kind.media_type.partition(";")[0]: {} for kind in kinds.values()},
    }


def _made(summary: str, parameters: Sequence[dict[str, Any]], kinds: Mapping[str, Kind]) -> dict[str, Any]:
    """A document that is made, or taken on as a job."""
    job = {
        "description": "It is taken on as a job.",
        "headers": {"Location": {"description": "Where to ask how far it is.", "schema": TEXT}},
        "content": {JSON: {"schema": {"$ref": "#/components/schemas/Job"}}},
    }
    return {
        "summary": summary,
        "parameters": list(parameters),
        "responses": {"200": _file(kinds), "202": job, **_problems(*MAKING, "412")},
    }


def _making(document: ShelfDocument, kinds: Mapping[str, Kind]) -> dict[str, Any]:
    made = _made(f"Makes '{document.name}'.", [*_choices(kinds), *_heads()], kinds)
    if document.takes_data:
        schema = {name: value for name, value in document.schema.items() if name != "$schema"}
        schema = schema if document.kind == "template" else {"type": "object"}
        form = {"type": "object", "properties": {"data": schema}, "additionalProperties": FILE}
        made["requestBody"] = {
            "content": {JSON: {"schema": schema, "example": plain(document.sample)}, FORM: {"schema": form}}
        }
    return made


def _sending(sources: Sequence[str], kinds: Mapping[str, Kind]) -> dict[str, Any]:
    paper = [
        _parameter("page", "query", "The paper, such as 'A4' or '80mm 50mm'.", TEXT),
        _parameter("margin", "query", "One to four lengths.", TEXT),
        _parameter("landscape", "query", "Given, the paper lies on its side.", TEXT),
        _parameter("fit", "query", "Px that the paper is to have room for, beside one another.", {"type": "number"}),
        _parameter("scale", "query", SCALE, {"oneOf": [{"type": "number"}, {"const": "fit"}]}),
    ]
    made = _made("Makes a document that is sent.", [*_choices(kinds), *paper, *_heads()], kinds)
    content: dict[str, Any] = {}
    for source in sources:
        media_type, schema = SENT[source]
        before = content.get(media_type)
        content[media_type] = {"schema": schema if before is None else {"oneOf": [before["schema"], schema]}}
    content[FORM] = {"schema": {"type": "object", "required": ["source"], "properties": {"source": TEXT}}}
    made["requestBody"] = {"required": True, "content": content}
    return made


def _problems(*statuses: str) -> dict[str, Any]:
    content = {MEDIA_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    return {status: {"description": PROBLEMS[status], "content": content} for status in sorted(set(statuses))}


def _problem_schema() -> dict[str, Any]:
    number = {"type": "integer"}
    properties = {"title": TEXT, "status": number, "detail": TEXT, "kind": TEXT, "source": TEXT, "line": number,
                  "run": TEXT}  # fmt: skip
    return {"type": "object", "properties": properties, "required": ["title", "status", "detail"]}


def _job_schema() -> dict[str, Any]:
    states = {"type": "string", "enum": ["waiting", "making", "done", "failed", "cancelled"]}
    properties = {"job": TEXT, "state": states, "pages": {"type": "integer"}, "run": TEXT, "file": TEXT,
                  "problem": {"$ref": "#/components/schemas/Problem"}}  # fmt: skip
    return {"type": "object", "properties": properties, "required": ["job", "state", "run"]}
