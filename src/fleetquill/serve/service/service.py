"""The service: other programs ask for a shelf's documents, and for documents that they send, over HTTP."""

from __future__ import annotations

import asyncio
import shutil
import tempfile
from collections.abc import AsyncIterator, Callable, Sequence
from contextlib import asynccontextmanager
from functools import cached_property
from http import HTTPStatus
from pathlib import Path
from typing import Any, Final

from starlette.applications import Starlette
from starlette.exceptions import HTTPException
from starlette.middleware import Middleware
from starlette.middleware.cors import CORSMiddleware
from starlette.requests import Request
from starlette.responses import JSONResponse, Response
from starlette.routing import Route

from fleetquill.briefs.parameters import Parameter
from fleetquill.errors import OptionError, meant
from fleetquill.serve.guarding import is_here
from fleetquill.serve.plain import plain
from fleetquill.serve.service.again import Rate, Repeats, fingerprint
from fleetquill.serve.service.answers import ALWAYS, MODULE, SHOWN, file_of, job_of, log_of, page_module, page_part
from fleetquill.serve.service.asking import JSON, SERVED, Body, asked_of, body_of, kept_files, source_of
from fleetquill.serve.service.desk import MOST_RUNS, Desk, Run
from fleetquill.serve.service.figures import MEDIA_TYPE, Figures
from fleetquill.serve.service.hands import Hands, OwnHands, WorkerHands
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.maker import Maker, Setup
from fleetquill.serve.service.order import Order
from fleetquill.serve.service.problems import ProblemError
from fleetquill.serve.service.tokens import SOURCES, Holder, Tokens
from fleetquill.shelf.document import ShelfDocument
from fleetquill.shelf.shelf import Shelf

Admit = Callable[[Request], Holder | None]
ASYNC: Final = "respond-async"  # the preference for a job (RFC 7240 §4.1)
SENT: Final = ("Authorization", "Content-Type", "Idempotency-Key", "If-None-Match", "Prefer")


class Service:
    """Makes the documents of a shelf for whoever may ask.

    `tokens` say who may; else `admit`, a function of the request, which gives the holder or None; else programs of this
    machine may. `workers` processes make the documents, each one at a time, or this process where there are none.
    `takes` are the sources that others may send: 'html', 'markdown', 'data' and 'address', the last of `hosts` alone.
    Pages of `origins` may ask from a browser. Raises OptionError where these do not fit together.
    """

    def __init__(
        self,
        shelf: Shelf,
        tokens: Tokens | None = None,
        limits: Limits | None = None,
        *,
        workers: int = 0,
        takes: Sequence[str] = (),
        hosts: Sequence[str] = (),
        origins: Sequence[str] = (),
        admit: Admit | None = None,
    ) -> None:
        _check(takes, hosts, origins, workers)
        self._shelf = shelf
        self._tokens = tokens
        self._admit = admit
        self._limits = limits or Limits()
        self._takes = tuple(takes)
        self._origins = tuple(origins)
        self._hosts = tuple(hosts)
        self._workers = workers
        self._repeats, self._rate = Repeats(), Rate()
        self._figures = Figures(lambda: self._desk.pending, workers)

    @cached_property
    def _folder(self) -> tempfile.TemporaryDirectory[str]:
        return tempfile.TemporaryDirectory(prefix="documents-", ignore_cleanup_errors=True)

    @cached_property
    def _desk(self) -> Desk:
        """Where documents are made, from the first that is asked for on."""
        folder = Path(self._folder.name).resolve()
        setup = Setup(str(self._shelf.folder), str(folder), self._limits, self._hosts)
        hands: list[Hands]
        if self._workers:
            hands = [WorkerHands(setup, self._figures.replaced) for _ in range(self._workers)]
        else:
            hands = [OwnHands(Maker(setup, self._shelf))] * self._limits.at_once
        return Desk(hands, self._limits, folder)

    def app(self) -> Starlette:
        """The ASGI application, to be served or mounted."""
        routes = [
            Route("/", page_part),
            Route("/page/{part}", page_part),
            Route(f"/{MODULE}", page_module),
            Route("/health", self._health),
            Route("/metrics", self._metrics),
            Route("/documents", self._list, methods=["GET"]),
            Route("/documents", self._make_sent, methods=["POST"]),
            Route("/documents/{name}", self._describe, methods=["GET"]),
            Route("/documents/{name}", self._make, methods=["POST"]),
            Route("/documents/{name}/file", self._make, methods=["GET"]),
            Route("/jobs/{run}", self._job, methods=["GET"]),
            Route("/jobs/{run}", self._cancel, methods=["DELETE"]),
            Route("/jobs/{run}/file", self._file),
            Route("/runs/{run}", self._run),
            Route("/openapi.json", self._openapi),
        ]
        handlers: Any = {ProblemError: self._problem, HTTPException: self._refused}
        cors = Middleware(
            CORSMiddleware, allow_origins=self._origins, allow_methods=["GET", "POST", "DELETE"], allow_headers=SENT,
            expose_headers=SHOWN, allow_credentials=self._admit is not None,
        )  # fmt: skip
        return Starlette(routes=routes, exception_handlers=handlers, middleware=[cors], lifespan=self._lifespan)

    @asynccontextmanager
    async def _lifespan(self, _: Starlette) -> AsyncIterator[None]:
        await asyncio.to_thread(lambda: self._desk)  # workers begin now, not when the first asks
        try:
            yield
        finally:
            await asyncio.to_thread(self.end)

    def end(self) -> None:
        """Ends what is being made, and the workers."""
        self._desk.end()
        self._folder.cleanup()
        del self._desk, self._folder

    # ---- who asks ----

    def _holder(self, request: Request, document: str = "") -> Holder:
        """Who asks. Raises ProblemError where nobody may, or for another document."""
        origin, host = request.headers.get("origin", ""), request.headers.get("host", "")
        if origin and origin not in self._origins and origin.partition("://")[2] != host:
            raise ProblemError(403, f"Pages of {origin} may not ask here.")
        if self._tokens is not None:
            holder = self._holder_of_token(request)
        elif self._admit is not None:
            found = self._admit(request)
            if found is None:
                raise ProblemError(403, "You may not ask here.")
            holder = found
        elif is_here(host):
            holder = Holder("")
        else:
            raise ProblemError(403, "Without tokens this is for programs of this machine, at its own address.")
        if document and not holder.may_ask_for(document):
            raise ProblemError(403, f"'{holder.name}' may not ask for '{document}'.")
        return holder

    def _holder_of_token(self, request: Request) -> Holder:
        assert self._tokens is not None
        scheme, _, token = request.headers.get("authorization", "").partition(" ")
        holder = self._tokens.holder_of(token.strip()) if scheme.lower() == "bearer" and token else None
        if holder is None:
            raise ProblemError(401, "This needs the header 'Authorization: Bearer …'.", {"WWW-Authenticate": "Bearer"})
        return holder

    def _document(self, request: Request) -> tuple[ShelfDocument, Holder]:
        name = request.path_params["name"]
        holder = self._holder(request, name)
        if name not in self._shelf:
            raise ProblemError(404, f"There is no document '{name}'.", documents=self._names(holder))
        return self._shelf[name], holder

    def _names(self, holder: Holder) -> list[str]:
        return [name for name in self._shelf.names if holder.may_ask_for(name)]

    def _taken(self, holder: Holder) -> list[str]:
        return [source for source in self._takes if holder.may_send(source)]

    # ---- what there is ----

    async def _health(self, _: Request) -> Response:
        return JSONResponse({"status": "ok", "asked": self._desk.pending}, headers=ALWAYS)

    async def _metrics(self, request: Request) -> Response:
        self._holder(request)
        return Response(self._figures.told(), media_type=MEDIA_TYPE, headers=ALWAYS)

    async def _list(self, request: Request) -> Response:
        holder = self._holder(request)
        names = self._names(holder)
        listed = [{"name": name, "kind": self._shelf[name].kind, "url": f"documents/{name}"} for name in names]
        said = {"documents": listed, "kinds": list(SERVED), "sources": self._taken(holder)}
        return JSONResponse(said, headers=ALWAYS)

    async def _describe(self, request: Request) -> Response:
        document, _ = self._document(request)
        return JSONResponse(await asyncio.to_thread(_described, document), headers=ALWAYS)

    async def _openapi(self, request: Request) -> Response:
        """The service in the words of OpenAPI 3.1."""
        from fleetquill.serve.service.openapi import described

        holder = self._holder(request)
        documents = {name: self._shelf[name] for name in self._names(holder)}
        secured = self._tokens is not None
        said = await asyncio.to_thread(described, documents, SERVED, self._taken(holder), secured=secured)
        return JSONResponse(said, headers=ALWAYS)

    # ---- making ----

    async def _make(self, request: Request) -> Response:
        """A document of the shelf, of what the body says, as a file of the kind that is asked for."""
        document, holder = self._document(request)
        body = await body_of(request, self._limits.body)
        if (body.content or body.files) and body.media_type != JSON:
            raise ProblemError(415, f"The body is said to be {JSON}, or a form with a part 'data' and files.")
        return await self._answer(request, holder, body, Order("", document=document.name, content=body.content))

    async def _make_sent(self, request: Request) -> Response:
        """A document that is sent."""
        holder = self._holder(request)
        taken = self._taken(holder)
        if not taken:
            raise ProblemError(403, "No documents are taken here but those of the shelf.")
        body = await body_of(request, self._limits.body)
        source = source_of(body)
        if source not in taken:
            raise ProblemError(403, f"Documents as '{source}' are not taken here.", sources=taken)
        return await self._answer(request, holder, body, Order("", source=source, content=body.content))

    async def _answer(self, request: Request, holder: Holder, body: Body, order: Order) -> Response:
        """The file, once it is made; where a job is preferred, where that is."""
        order = asked_of(request, order)
        key, content = request.headers.get("idempotency-key", ""), ""
        if key:
            content = fingerprint(request, body.raw)
            known = self._repeats.found(holder.name, key, content)
            if known is not None:
                return await self._awaited(request, known)
        self._rate.check(holder.name, self._limits.per_minute if holder.per_minute is None else holder.per_minute)
        run = await self._taken_on(request, holder, body, order)
        if key:
            self._desk.keep(run)
            self._repeats.remember(holder.name, key, content, run)
        return await self._awaited(request, run)

    async def _taken_on(self, request: Request, holder: Holder, body: Body, order: Order) -> Run:
        if self._desk.full:
            raise ProblemError(503, "Too many documents are asked for at once.", {"Retry-After": "1"})
        job = request.method == "POST" and ASYNC in request.headers.get("prefer", "")
        target = self._desk.target()
        folder = target.with_suffix(".files")
        order = order._replace(target=str(target), seconds=self._limits.job_seconds if job else self._limits.seconds)
        if body.files:
            try:
                order = order._replace(folder=str(folder), files=await kept_files(body, folder))
            except ProblemError:
                shutil.rmtree(folder, ignore_errors=True)
                raise
        run = self._desk.take(order, holder.name, job=job)
        run.future.add_done_callback(lambda done: self._figures.ended(run.order, done.result()))
        return run

    async def _awaited(self, request: Request, run: Run) -> Response:
        if run.job:
            headers = {"Location": f"{request.scope.get('root_path', '')}/jobs/{run.id}", "Preference-Applied": ASYNC}
            return JSONResponse(job_of(run), 202, headers=ALWAYS | headers)
        try:
            await asyncio.shield(asyncio.wrap_future(run.future))
        except asyncio.CancelledError:
            self._desk.cancel(run)
            raise
        return await asyncio.to_thread(file_of, request, run, self._desk)

    # ---- what was asked for ----

    def _own_run(self, request: Request, *, job: bool) -> Run:
        """A run, for the one who asked for it and nobody else."""
        holder = self._holder(request)
        found = self._desk.run(request.path_params["run"])
        if found is None or found.holder != holder.name or (job and not found.job):
            raise ProblemError(404, f"There is no such {'job' if job else 'run'} among the last {MOST_RUNS:,}.")
        return found

    async def _run(self, request: Request) -> Response:
        return JSONResponse(log_of(self._own_run(request, job=False)), headers=ALWAYS)

    async def _job(self, request: Request) -> Response:
        return JSONResponse(job_of(self._own_run(request, job=True)), headers=ALWAYS)

    async def _cancel(self, request: Request) -> Response:
        """Ends a job; what it has made is dropped."""
        self._desk.cancel(self._own_run(request, job=True))
        return Response(status_code=204, headers=ALWAYS)

    async def _file(self, request: Request) -> Response:
        run = self._own_run(request, job=True)
        if run.outcome is None:
            raise ProblemError(409, f"The file is not there yet: the job is {run.state}.", {"Retry-After": "1"})
        return await asyncio.to_thread(file_of, request, run, self._desk)

    # ---- what is wrong ----

    async def _problem(self, _: Request, error: Exception) -> Response:
        assert isinstance(error, ProblemError)
        self._figures.refused(error.status)
        return error.response()

    async def _refused(self, request: Request, error: Exception) -> Response:
        """What the framework itself refuses: an address or a method that there is not."""
        assert isinstance(error, HTTPException)
        detail = HTTPStatus(error.status_code).description
        return await self._problem(request, ProblemError(error.status_code, detail, error.headers))


def _check(takes: Sequence[str], hosts: Sequence[str], origins: Sequence[str], workers: int) -> None:
    unknown = next((source for source in takes if source not in SOURCES), None)
    if unknown is not None:
        raise OptionError(f"Documents as '{unknown}' are not known.", remedy=meant(unknown, SOURCES))
    if ("address" in takes) != bool(hosts):
        raise OptionError("Addresses are taken of hosts that are named.", remedy="Give both 'address' and hosts.")
    bad = next((one for one in origins if not one.startswith(("https://", "http://")) or one.count("/") != 2), None)
    if bad is not None:
        raise OptionError(f"'{bad}' is no origin.", remedy="Write it as 'https://app.example'.")
    if workers < 0:
        raise OptionError(f"{workers} workers are none.", remedy="Give 0, or how many there are to be.")


def _described(document: ShelfDocument) -> dict[str, Any]:
    return {
        "name": document.name,
        "kind": document.kind,
        "takes_data": document.takes_data,
        "schema": document.schema,
        "sample": plain(document.sample),
        "parameters": [_told(one) for one in document.brief.parameters] if document.kind == "brief" else [],
    }


def _told(parameter: Parameter) -> dict[str, Any]:
    """A parameter of a brief."""
    known = ("name", "type", "prompt", "needed", "several")
    said = {name: getattr(parameter, name) for name in known}
    return said | {"default": plain(parameter.default), "choices": plain(list(parameter.choices))}
