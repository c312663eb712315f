"""A Starlette application: documents are composed in a thread, so that the server goes on answering.

Usage: uvicorn --app-dir examples starlette_app:app
"""

from __future__ import annotations

from decimal import Decimal
from typing import Any

from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import HTMLResponse, PlainTextResponse, Response, StreamingResponse
from starlette.routing import Route

import fleetquill as fq

TOLLS: dict[str, dict[str, Any]] = {"88213": {"number": "88213", "barge": "Heron", "toll": Decimal("53.42")}}
press = fq.Press(locale="en-IE")


def receipt(record: dict[str, Any]) -> fq.Edition:
    m = fq.Manuscript(title=f"Receipt {record['number']}", language="en", page="80mm auto", margin="5mm")
    m.heading("Lock toll", level=2)
    m.paragraph("Barge ", fq.strong(record["barge"]), ": ", fq.value(record["toll"], "money:EUR"))
    m.code("qr", f"https://reedwater.example/toll/{record['number']}")
    return press.compose(m)


async def index(_: Request) -> Response:
    return HTMLResponse("".join(f'<a href="/toll/{number}.pdf">Receipt {number}</a>' for number in TOLLS))


async def toll(request: Request) -> Response:
    record = TOLLS.get(request.path_params["number"])
    if record is None:
        return PlainTextResponse("There is no such receipt.", status_code=404)
    edition = await run_in_threadpool(receipt, record)
    return Response(edition.to_bytes(), headers=edition.headers(fq.safe_name("toll {number}", record)))


async def export(request: Request) -> Response:
    """Every toll, of the kind that is asked for; pieces go out as they are made."""
    m = fq.Manuscript(title="Tolls", language="en")
    m.ledger(iter(TOLLS.values()), ["number", "barge", fq.Column("toll", form="money:EUR", align="right")])
    try:
        pieces = await run_in_threadpool(press.stream, m, kind=request.path_params["kind"])
    except fq.OptionError as error:
        return PlainTextResponse(str(error), status_code=404)
    return StreamingResponse(pieces, headers=pieces.headers(f"tolls.{request.path_params['kind']}", inline=False))


routes = [Route("/", index), Route("/toll/{number}.pdf", toll), Route("/tolls.{kind}", export)]
app = Starlette(routes=routes)  # in a FastAPI application these are views as they stand
