"""The options that lock a file."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, TypeVar

import click

from fleetquill.pdf.locks import RIGHTS

Command = TypeVar("Command", bound=Callable[..., Any])


def locking(command: Command) -> Command:
    """Adds --password, --owner-password and --allow to a command."""
    for option in (
        click.option("--allow", multiple=True, metavar="NAME",
                     help=f"For PDF: what who has not the owner's password may do: {', '.join(RIGHTS)}."),
        click.option("--owner-password", default=None, metavar="PASSWORD",
                     help="For PDF: lock it, for all but who has this password ('-' asks for it)."),
        click.option("--password", default=None, metavar="PASSWORD",
                     help="For PDF: lock it; it opens with this password ('-' asks for it)."),
    ):  # fmt: skip
        command = option(command)
    return command


def asked_for(password: str | None, what: str) -> str | None:
    """A password; asked for where it is '-', so that it stands in no list of commands."""
    return click.prompt(what, hide_input=True, err=True) if password == "-" else password


def allowed(given: Sequence[str]) -> tuple[str, ...] | None:
    """What is allowed; None where nothing is said, 'nothing' for that."""
    return tuple(name for name in given if name != "nothing") if given else None
