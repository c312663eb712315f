"""Options that are given as NAME=VALUE."""

from __future__ import annotations

from collections.abc import Sequence

import click


def pairs(option: str, given: Sequence[str], form: str = "NAME=VALUE") -> dict[str, str]:
    """Values by their names, the last of each. Raises UsageError where one is no pair; `form` is how it is written."""
    found: dict[str, str] = {}
    for pair in given:
        name, equals, value = pair.partition("=")
        if not equals or not name:
            raise click.UsageError(f"{option} takes {form}, not '{pair}'.")
        found[name] = value
    return found
