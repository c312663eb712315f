"""Who may ask: this machine's own browser, at the address that it was given."""

from __future__ import annotations

import hmac
from typing import Final

from starlette.responses import PlainTextResponse
from starlette.types import ASGIApp, Receive, Scope, Send

HOSTS: Final = ("127.0.0.1", "localhost", "[::1]")


class Guard:
    """Lets requests pass whose Host is this machine, whose Origin, if they have one, is too, and whose path begins with
    the token: no other page in the browser can ask (DNS rebinding, cross-site requests)."""

    def __init__(self, app: ASGIApp, token: str) -> None:
        self._app = app
        self._token = token

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = dict(scope["headers"])
        host = headers.get(b"host", b"").decode("latin-1")
        origin = headers.get(b"origin", b"").decode("latin-1")
        first = scope["path"].split("/")[1] if scope["path"].startswith("/") else ""
        if not is_here(host) or (origin and not is_here(origin.partition("://")[2])):
            await PlainTextResponse("This is for this machine alone.", 403)(scope, receive, send)
        elif not hmac.compare_digest(first.encode(), self._token.encode()):
            await PlainTextResponse("Nothing is here.", 404)(scope, receive, send)
        else:
            await self._app(scope, receive, send)


def is_here(host: str) -> bool:
    name = host.rpartition(":")[0] if host.rpartition(":")[2].isdecimal() else host
    return name in HOSTS
