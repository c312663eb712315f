"""The page that a reader sees, as a file: a screen that scripts draw, and the service that makes files of it, in one
application. Who is logged in may ask; here everybody is.

Usage: uvicorn --app-dir examples screen_app:app, and look at http://127.0.0.1:8000/
"""

from __future__ import annotations

from pathlib import Path

from starlette.applications import Starlette
from starlette.requests import Request
from starlette.responses import FileResponse, Response
from starlette.routing import Mount, Route

import fleetquill as fq
from fleetquill.serve import Holder
from fleetquill.serve import app as service

HERE = Path(__file__).parent
SHELF = fq.Shelf.of_package("fleetquill", "demo/shelf")


def who(request: Request) -> Holder | None:
    """Who asks; a session would say so. They may send pages, and ask for nothing else."""
    return Holder(request.cookies.get("session", "keeper"), documents=(), sources=("html",))


async def screen(_: Request) -> Response:
    return FileResponse(HERE / "screen.html")


app = Starlette(routes=[Route("/", screen), Mount("/papers", service(SHELF, admit=who, takes=["html"]))])
