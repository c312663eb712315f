"""Documents in the browser and over HTTP: the proof and the service."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from starlette.applications import Starlette

    from fleetquill.serve.service.limits import Limits as Limits
    from fleetquill.serve.service.service import Admit
    from fleetquill.serve.service.tokens import Holder as Holder
    from fleetquill.shelf.shelf import Shelf


def __getattr__(name: str) -> object:
    """What comes with `app`, once it is asked for."""
    if name in ("Holder", "Limits"):
        from fleetquill.serve.service import limits, tokens

        return {"Holder": tokens.Holder, "Limits": limits.Limits}[name]
    raise AttributeError(f"module '{__name__}' has no attribute '{name}'")


def app(
    shelf: Shelf,
    tokens: str | Path | None = None,
    limits: Limits | None = None,
    *,
    workers: int = 0,
    takes: Sequence[str] = (),
    hosts: Sequence[str] = (),
    origins: Sequence[str] = (),
    admit: Admit | None = None,
) -> Starlette:
    """The service as an ASGI application, to be served or mounted.

    `tokens` is a TOML file with the hashes of the tokens of those who may ask; or `admit` says who does, a function of
    the request that gives a `Holder`, or None for nobody; without both only programs of this machine may. `limits` are
    those of one request. With `workers` so many processes make the documents, else this one does. `takes` are the
    sources that may be sent, of 'html', 'markdown', 'data' and 'address', the last of `hosts` alone. Pages of `origins`
    may ask from a browser. Raises DataError and OptionError where these cannot be.
    """
    from fleetquill.serve.service.service import Service
    from fleetquill.serve.service.tokens import Tokens

    known = None if tokens is None else Tokens.read(Path(tokens), shelf.names)
    return Service(shelf, known, limits, workers=workers, takes=takes, hosts=hosts, origins=origins, admit=admit).app()
