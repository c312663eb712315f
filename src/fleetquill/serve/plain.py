"""Values as JSON has them."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import Any


def plain(value: Any) -> Any:
    """A value of data as JSON has it: amounts as numbers, dates as text."""
    if isinstance(value, Mapping):
        return {str(name): plain(inner) for name, inner in value.items()}
    if isinstance(value, (list, tuple)):
        return [plain(inner) for inner in value]
    if isinstance(value, Decimal):
        return int(value) if value == value.to_integral_value() else float(value)
    return value if value is None or isinstance(value, (bool, int, float, str)) else str(value)
