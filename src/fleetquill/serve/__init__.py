"""Documents in the browser and over HTTP: the proof and the service."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from starlette.applications import Starlette

    from fleetquill.serve.service import Limits
    from fleetquill.shelf.shelf import Shelf


def app(shelf: Shelf, tokens: str | Path | None = None, limits: Limits | None = None) -> Starlette:
    """The service as an ASGI application, to be served or mounted.

    `tokens` is a TOML file with the hashes of the tokens of those who may ask; without it only programs of this machine
    may. `limits` are those of one request.
    """
    from fleetquill.serve.service import Service
    from fleetquill.serve.tokens import Tokens

    known = None if tokens is None else Tokens.read(Path(tokens), shelf.names)
    return Service(shelf, known, limits).app()
