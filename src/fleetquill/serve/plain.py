"""Values and remarks as JSON has them."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any

from fleetquill.remarks import Remark


def plain(value: Any) -> Any:
    """A value of data as JSON has it: amounts as numbers, dates as text."""
    if isinstance(value, Mapping):
        return {str(name): plain(inner) for name, inner in value.items()}
    if isinstance(value, (list, tuple)):
        return [plain(inner) for inner in value]
    if isinstance(value, Decimal):
        return number(value)
    return value if value is None or isinstance(value, (bool, int, float, str)) else str(value)


def number(value: Decimal) -> int | float:
    """An amount as JSON has it."""
    return int(value) if value.is_finite() and value == value.to_integral_value() else float(value)


def file_name(source: str) -> str:
    """The last part of a path: the folders of this machine are not told."""
    return source.replace("\\", "/").rpartition("/")[2]


def told(remark: Remark) -> dict[str, Any]:
    """A remark, without the folder of its source."""
    return remark._replace(source=file_name(remark.source))._asdict()
