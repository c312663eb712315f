"""What data of a document has to be like: a JSON Schema, given or guessed from its sample."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from datetime import date, datetime
from decimal import Decimal
from pathlib import Path
from typing import Any, Final

from fleetquill.errors import DataError, OptionError, Where, shown
from fleetquill.tree.files import read_text

DRAFT: Final = "https://json-schema.org/draft/2020-12/schema"
MOST_TOLD: Final = 5  # faults in one message


def guessed_schema(sample: Any, title: str = "") -> dict[str, Any]:
    """A schema that a sample fits: what it names is needed, and of the kind that it has there."""
    return {"$schema": DRAFT, **({"title": title} if title else {}), **_guess(sample)}


def _guess(value: Any) -> dict[str, Any]:
    if isinstance(value, bool):
        return {"type": "boolean"}
    if isinstance(value, (int, float, Decimal)):
        return {"type": "number"}
    if isinstance(value, Mapping):
        properties = {str(name): _guess(inner) for name, inner in value.items()}
        return {"type": "object", "properties": properties, "required": list(properties)}
    if isinstance(value, Sequence) and not isinstance(value, str):
        return {"type": "array", **({"items": _joined([_guess(one) for one in value])} if value else {})}
    return {} if value is None else {"type": "string"}


def _joined(schemas: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """A schema that all of them fit: what only some name is not needed."""
    kinds = {str(schema.get("type", "")) for schema in schemas}
    if len(kinds) > 1:
        found = sorted(kinds - {""})
        return {"type": found} if "" not in kinds else {}
    if kinds == {"object"}:
        names = dict.fromkeys(name for schema in schemas for name in schema["properties"])
        properties = {
            name: _joined([schema["properties"][name] for schema in schemas if name in schema["properties"]])
            for name in names
        }
        needed = [name for name in names if all(name in schema["required"] for schema in schemas)]
        return {"type": "object", "properties": properties, "required": needed}
    if kinds == {"array"}:
        items = [schema["items"] for schema in schemas if "items" in schema]
        return {"type": "array", **({"items": _joined(items)} if items else {})}
    return schemas[0] if schemas else {}


def read_schema(path: Path) -> dict[str, Any]:
    """The schema of a file. Raises DataError where it is none."""
    try:
        found = json.loads(read_text(path, "schema"))
    except ValueError as error:
        raise DataError(f"The schema is no JSON: {error}.", where=Where(str(path))) from error
    if not isinstance(found, dict):
        raise DataError(f"The schema is {shown(found)}, not a mapping.", where=Where(str(path)))
    return found


def check_schema(data: Any, schema: Mapping[str, Any], source: str) -> None:
    """Raises DataError with the path of each value that does not fit, such as `lines[2].price`."""
    try:
        import jsonschema
    except ImportError:
        raise OptionError(
            "Checking data needs the package jsonschema, which is not there.",
            remedy="Install fleetquill[serve] or fleetquill[fleet].",
        ) from None
    try:
        kind = jsonschema.validators.validator_for(schema, jsonschema.Draft202012Validator)
        kind.check_schema(schema)
        checker = kind(schema)
        faults = sorted(checker.iter_errors(_plain(data)), key=lambda fault: list(map(str, fault.absolute_path)))
    except (jsonschema.SchemaError, jsonschema.exceptions.UnknownType) as error:
        said = getattr(error, "message", "") or f"the type '{getattr(error, 'type', '?')}' is not known"
        raise DataError(f"The schema is none: {said}.", where=Where(source)) from error
    if faults:
        told = "; ".join(
            f"{path_of(fault.absolute_path) or 'the data'}: {fault.message}" for fault in faults[:MOST_TOLD]
        )
        more = f"; and {len(faults) - MOST_TOLD} more" if len(faults) > MOST_TOLD else ""
        raise DataError(f"The data does not fit. {told}{more}.", where=Where(source))


def path_of(steps: Any) -> str:
    """A path in data: 'lines[2].price'."""
    text = ""
    for step in steps:
        text += f"[{step}]" if isinstance(step, int) else f"{'.' if text else ''}{step}"
    return text


def _plain(value: Any) -> Any:
    """Data as JSON has it: amounts are numbers, dates texts."""
    if isinstance(value, Mapping):
        return {str(name): _plain(inner) for name, inner in value.items()}
    if isinstance(value, Decimal):
        return float(value)
    if isinstance(value, (date, datetime)):
        return value.isoformat()
    if isinstance(value, Sequence) and not isinstance(value, (str, bytes)):
        return [_plain(one) for one in value]
    return value
