"""The service: other programs ask for a shelf's documents over HTTP."""

from __future__ import annotations

import asyncio
import hashlib
import io
import secrets
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from http import HTTPStatus
from importlib.resources import files
from time import perf_counter
from typing import Any, Final, NamedTuple

from starlette.applications import Starlette
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from fleetquill.errors import FleetQuillError, LimitError
from fleetquill.output.delivery import safe_name
from fleetquill.output.kinds import KINDS, Kind
from fleetquill.policy import Policy
from fleetquill.press import Summary
from fleetquill.remarks import Remark
from fleetquill.serve.guarding import is_here
from fleetquill.serve.plain import plain, told
from fleetquill.serve.problems import ProblemError, problem_of
from fleetquill.serve.tokens import Holder, Tokens
from fleetquill.shelf.document import ShelfDocument
from fleetquill.shelf.shelf import Shelf
from fleetquill.tree.data import parse_json

SERVED: Final = {name: kind for name, kind in KINDS.items() if kind.way != "leaves"}
MOST_RUNS: Final = 200  # whose logs are kept
JSON: Final = "application/json"
ALWAYS: Final = {
    "Cache-Control": "no-store",
    "Content-Security-Policy": "sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:",
    "X-Content-Type-Options": "nosniff",
}
PAGE: Final = {
    "": ("try.html", "text/html"),
    "try.js": ("try.js", "text/javascript"),
    "try.css": ("try.css", "text/css"),
    "proof.css": ("proof.css", "text/css"),
}
PAGE_MAY: Final = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; connect-src 'self'; img-src data:; "
    "font-src data:; frame-src blob:; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


class Limits(NamedTuple):
    """What one request may take: bytes of its body, pages and seconds of its document; and how many documents are made
    at once and may wait for that."""

    body: int = 4 * 2**20
    pages: int = 2_000
    seconds: float = 30.0
    at_once: int = 2  # in one process more would only wait for one another
    waiting: int = 64


class _Run(NamedTuple):
    """A document that was made, or could not be."""

    document: str
    kind: str
    holder: str
    status: int
    seconds: float
    pages: int = 0
    remarks: tuple[Remark, ...] = ()


class Service:
    """Makes the documents of a shelf for whoever may ask; `tokens` None lets every program of this machine."""

    def __init__(self, shelf: Shelf, tokens: Tokens | None = None, limits: Limits | None = None) -> None:
        self._shelf = shelf
        self._tokens = tokens
        self._limits = limits or Limits()
        own = Policy(
            folders=(shelf.folder,), any_folder=False, pages=self._limits.pages, time=self._limits.seconds
        )  # data of others may name pictures: none but the shelf's are read
        self._press = shelf.press(policy=own)
        self._running = asyncio.Semaphore(self._limits.at_once)
        self._asked = 0  # for documents that are made or wait for it
        self._runs: OrderedDict[str, _Run] = OrderedDict()

    def app(self) -> Starlette:
        """The ASGI application, to be served or mounted."""
        routes = [
            Route("/", _page),
            Route("/page/{part}", _page),
            Route("/health", self._health),
            Route("/documents", self._list),
            Route("/documents/{name}", self._describe),
            Route("/documents/{name}", self._make, methods=["POST"]),
            Route("/runs/{run}", self._run),
            Route("/openapi.json", self._openapi),
        ]
        handlers: Any = {ProblemError: _problem, HTTPException: _refused}
        return Starlette(routes=routes, exception_handlers=handlers)

    # ---- who asks ----

    def _holder(self, request: Request, document: str = "") -> Holder:
        """Who asks. Raises ProblemError where nobody may, or for another document."""
        if self._tokens is None:
            if not is_here(request.headers.get("host", "")):
                raise ProblemError(403, "Without tokens this is for programs of this machine, at its own address.")
            return Holder("", "")
        scheme, _, token = request.headers.get("authorization", "").partition(" ")
        holder = self._tokens.holder_of(token.strip()) if scheme.lower() == "bearer" and token else None
        if holder is None:
            raise ProblemError(401, "This needs the header 'Authorization: Bearer …'.", {"WWW-Authenticate": "Bearer"})
        if document and not holder.may_ask_for(document):
            raise ProblemError(403, f"This token is not for '{document}'.")
        return holder

    def _document(self, request: Request) -> tuple[ShelfDocument, Holder]:
        name = request.path_params["name"]
        holder = self._holder(request, name)
        if name not in self._shelf:
            raise ProblemError(404, f"There is no document '{name}'.", documents=self._names(holder))
        return self._shelf[name], holder

    def _names(self, holder: Holder) -> list[str]:
        return [name for name in self._shelf.names if holder.may_ask_for(name)]

    # ---- what there is ----

    async def _health(self, _: Request) -> Response:
        return JSONResponse({"status": "ok", "asked": self._asked}, headers=ALWAYS)

    async def _list(self, request: Request) -> Response:
        names = self._names(self._holder(request))
        listed = [{"name": name, "kind": self._shelf[name].kind, "url": f"documents/{name}"} for name in names]
        return JSONResponse({"documents": listed, "kinds": list(SERVED)}, headers=ALWAYS)

    async def _describe(self, request: Request) -> Response:
        document, _ = self._document(request)
        return JSONResponse(await asyncio.to_thread(_described, document), headers=ALWAYS)

    async def _run(self, request: Request) -> Response:
        """What is known of a run: only the one who asked for it is told."""
        holder = self._holder(request)
        found = self._runs.get(request.path_params["run"])
        if found is None or found.holder != holder.name:
            raise ProblemError(404, f"There is no such run among the last {MOST_RUNS}.")
        return JSONResponse(found._asdict() | {"remarks": [told(one) for one in found.remarks]}, headers=ALWAYS)

    async def _openapi(self, request: Request) -> Response:
        """The service in the words of OpenAPI 3.1."""
        from fleetquill.serve.openapi import described

        holder = self._holder(request)
        documents = {name: self._shelf[name] for name in self._names(holder)}
        secured = self._tokens is not None
        return JSONResponse(await asyncio.to_thread(described, documents, SERVED, secured=secured), headers=ALWAYS)

    # ---- making ----

    async def _make(self, request: Request) -> Response:
        """The document, of what the body says, as a file of the kind that is asked for."""
        document, holder = self._document(request)
        kind = _kind_of(request)
        data = await self._data(request)
        if self._asked >= self._limits.at_once + self._limits.waiting:
            raise ProblemError(503, "Too many documents are asked for at once.", {"Retry-After": "1"})
        self._asked += 1
        try:
            async with self._running:
                return await self._made(request, document, holder, kind, data)
        finally:
            self._asked -= 1

    async def _made(self, request: Request, document: ShelfDocument, holder: Holder, kind: Kind, data: Any) -> Response:
        run, start = secrets.token_hex(8), perf_counter()
        try:
            name = _file_name(request, document, data, kind)
            summary, content = await asyncio.to_thread(self._written, document, request, kind, data)
        except FleetQuillError as error:
            seconds = perf_counter() - start
            problem = problem_of(error, run)
            if isinstance(error, LimitError) and seconds >= self._limits.seconds:
                problem.status = 504
            self._keep(run, _Run(document.name, kind.name, holder.name, problem.status, round(seconds, 4)))
            raise problem from error
        seconds = perf_counter() - start
        pages, remarks = summary.page_count, summary.remarks
        self._keep(run, _Run(document.name, kind.name, holder.name, 200, round(seconds, 4), pages, remarks))
        headers = summary.headers(name, inline="download" not in request.query_params) | {
            "ETag": f'"{hashlib.sha256(content).hexdigest()[:32]}"',
            "Page-Count": str(pages),
            "Remark-Count": str(len(remarks)),
            "Run-Id": run,
            "Server-Timing": f"make;dur={seconds * 1000:.1f}",
        }
        return Response(content, headers=ALWAYS | headers)

    def _written(self, document: ShelfDocument, request: Request, kind: Kind, data: Any) -> tuple[Summary, bytes]:
        locale = request.query_params.get("locale", "")
        source = document.in_locale(locale) if locale else document
        given: Mapping[str, Any] = {} if data is None else {"data": data}
        if document.kind == "brief" and isinstance(data, dict):
            given = {name: data[name] for name in ("data", "parameters") if name in data}
        stream = io.BytesIO()
        summary = self._press.write(source, stream, kind=kind.name, **given)
        return summary, stream.getvalue()

    def _keep(self, run: str, known: _Run) -> None:
        self._runs[run] = known
        while len(self._runs) > MOST_RUNS:
            self._runs.popitem(last=False)

    async def _data(self, request: Request) -> Any:
        """What the body says; None where there is none. Raises ProblemError where it is too large or no JSON."""
        most = self._limits.body
        announced = request.headers.get("content-length", "")
        too_large = ProblemError(413, f"The body is larger than {most:,} bytes.", most=most)
        if announced.isdecimal() and int(announced[:12]) > most:
            raise too_large
        body = bytearray()
        async for piece in request.stream():
            body += piece
            if len(body) > most:
                raise too_large
        if not body:
            return None
        if request.headers.get("content-type", "").partition(";")[0].strip().lower() != JSON:
            raise ProblemError(415, f"The body is said to be {JSON}.")
        try:
            return await asyncio.to_thread(parse_json, body.decode("utf-8"), "body")
        except UnicodeDecodeError as error:
            raise ProblemError(400, "The body is not UTF-8.") from error
        except FleetQuillError as error:
            raise ProblemError(400, str(error)) from error


async def _page(request: Request) -> Response:
    """The page on which documents are tried by hand."""
    found = PAGE.get(request.path_params.get("part", ""))
    if found is None:
        raise HTTPException(404)
    content = files("fleetquill.serve").joinpath("page", found[0]).read_bytes()
    return Response(content, media_type=found[1], headers=ALWAYS | {"Content-Security-Policy": PAGE_MAY})


def _described(document: ShelfDocument) -> dict[str, Any]:
    return {
        "name": document.name,
        "kind": document.kind,
        "takes_data": document.takes_data,
        "schema": document.schema,
        "sample": plain(document.sample),
    }


def _kind_of(request: Request) -> Kind:
    """The kind that `?kind=` names, else the first of `Accept` that there is, else PDF. Raises ProblemError."""
    asked = request.query_params.get("kind")
    if asked is not None:
        if asked not in SERVED:
            raise ProblemError(406, f"'{asked}' is no kind that is made here.", kinds=list(SERVED))
        return SERVED[asked]
    accepted = _accepted(request.headers.get("accept", "*/*"))
    for wanted in accepted:
        for kind in SERVED.values():
            own = kind.media_type.partition(";")[0]
            if wanted in (own, "*/*", f"{own.partition('/')[0]}/*"):
                return kind
    raise ProblemError(406, "None of what is accepted is made here.", kinds=list(SERVED))


def _accepted(header: str) -> Sequence[str]:
    """The media types of an Accept header, the most wanted first (RFC 9110 §12.5.1)."""
    found: list[tuple[float, str]] = []
    for part in header.split(","):
        media_type, *parameters = (piece.strip().lower() for piece in part.split(";"))
        quality = next((one[2:] for one in parameters if one.startswith("q=")), "1")
        try:
            share = float(quality)
        except ValueError:
            share = 0.0
        if media_type and share > 0:
            found.append((share, media_type))
    return [media_type for _, media_type in sorted(found, key=lambda pair: -pair[0])]


def _file_name(request: Request, document: ShelfDocument, data: Any, kind: Kind) -> str:
    """The file's name: that of `?name=`, a pattern with the data's own names, else the document's."""
    pattern = request.query_params.get("name", document.name)
    if ":" in pattern or "!" in pattern:  # how a value is written may ask for any number of characters
        raise ProblemError(400, "A file's name has names of the data in braces, and neither ':' nor '!'.")
    return safe_name(pattern, data if isinstance(data, dict) else {}, extension=f".{kind.name}")


async def _problem(_: Request, error: Exception) -> Response:
    assert isinstance(error, ProblemError)
    return error.response()


async def _refused(_: Request, error: Exception) -> Response:
    """What the framework itself refuses: an address or a method that there is not."""
    assert isinstance(error, HTTPException)
    return ProblemError(error.status_code, HTTPStatus(error.status_code).description, error.headers).response()
