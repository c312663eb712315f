"""What templates know besides their data."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, Final, NamedTuple


class TemplateWords(NamedTuple):
    """Filters, and values by name, that a press gives to all of its templates."""

    filters: Mapping[str, Callable[..., Any]]
    values: Mapping[str, Any]


NO_WORDS: Final = TemplateWords({}, {})
