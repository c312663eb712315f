"""fleetquill proof: documents live in the browser while they are worked on."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Mapping
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from fleetquill.errors import OptionError

if TYPE_CHECKING:
    from fleetquill.press import Press
    from fleetquill.serve.proof.proofs import Trial
    from fleetquill.shelf.document import ShelfDocument


@click.command()
@click.argument("source", metavar="SOURCE|SHELF")
@click.option("--data", default=None, metavar="FILE", help="Fill in a template with this file.")
@click.option("--port", default=0, metavar="NUMBER", help="Listen there. Default: any that is free.")
@click.option("--open", "opens", is_flag=True, help="Show it in the system's browser.")
@click.option("--edit", is_flag=True, help="Edit the document's files in the browser, too.")
@click.option("--locale", default="en", show_default=True, help="How values are written, where a shelf does not say.")
def proof(source: str, data: str | None, port: int, opens: bool, edit: bool, locale: str) -> None:
    """Show SOURCE, or all documents of a SHELF, in the browser, and again whenever a file is saved.

    It listens on this machine alone, at an address that nobody else can guess. End it with Ctrl-C.
    """
    try:
        import uvicorn

        from fleetquill.serve.proof.server import ProofServer
    except ImportError:
        raise OptionError("The proof needs packages that are not there.", remedy="Install fleetquill[serve].") from None
    trials, press_for = _trials(source, data, locale)
    token = secrets.token_urlsafe(16)
    server = ProofServer(trials, press_for, token, _folders(source, data) if edit else ())
    settings = uvicorn.Config(
        server.app(), host="127.0.0.1", port=port, log_level="warning", timeout_graceful_shutdown=1
    )
    listening = settings.bind_socket()
    listening.listen()  # who asks before all is ready waits
    address = f"http://127.0.0.1:{listening.getsockname()[1]}/{token}/"
    click.echo(f"{source}: {address}")
    if opens:
        click.launch(address)
    uvicorn.Server(settings).run(sockets=[listening])


def _folders(source: str, data: str | None) -> list[Path]:
    """The folders of the project: the shelf, or that of the document; and that of its data."""
    path = Path(source).absolute()
    return [path if path.is_dir() else path.parent, *([] if data is None else [Path(data).absolute().parent])]


def _trials(source: str, data: str | None, locale: str) -> tuple[list[Trial], Callable[[str], Press]]:
    """What is shown, and the press for a locale, '' for the usual one."""
    from fleetquill.press import Press
    from fleetquill.serve.proof.proofs import Trial
    from fleetquill.tree.data import read_data

    path = Path(source)
    if not path.is_dir():
        if not path.is_file():
            raise OptionError(f"'{source}' is neither a file nor a shelf.")

        def given() -> Mapping[str, Any]:
            return {} if data is None else {"data": read_data(Path(data))}

        files = [path.absolute(), *([] if data is None else [Path(data).absolute()])]
        return [Trial(path.stem, lambda _: path, given, tuple(files))], lambda own: Press(locale=own or locale)
    from fleetquill.shelf.shelf import Shelf

    shelf = Shelf(path)
    if not shelf.names:
        raise OptionError(f"The shelf '{source}' has no documents.")
    trials: list[Trial] = []
    for name in shelf.names:
        document = shelf[name]
        files = [document.path.absolute(), *([] if document.sample_path is None else [document.sample_path.absolute()])]
        trials.append(Trial(name, partial(_in_locale, document), partial(_given, document), tuple(files)))
    return trials, lambda own: shelf.press(locale=own or locale)


def _in_locale(document: ShelfDocument, locale: str) -> ShelfDocument:
    return document.in_locale(locale) if locale else document


def _given(document: ShelfDocument) -> Mapping[str, Any]:
    data, parameters = document.trial()
    return {"data": data, "parameters": parameters}
