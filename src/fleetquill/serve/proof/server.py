"""The proof: documents live in the browser while they are worked on."""

from __future__ import annotations

import asyncio
import json
import secrets
from collections.abc import AsyncIterator, Callable, Sequence
from contextlib import asynccontextmanager
from functools import lru_cache, partial
from importlib.resources import files
from pathlib import Path
from typing import Final, TypeVar

from starlette.applications import Starlette
from starlette.middleware import Middleware
from starlette.requests import Request
from starlette.responses import JSONResponse, Response, StreamingResponse
from starlette.routing import Route

from fleetquill.errors import FleetQuillError
from fleetquill.output.delivery import content_disposition
from fleetquill.press import Press
from fleetquill.serve.guarding import Guard
from fleetquill.serve.proof.editing import LARGEST, Editing, OtherTextError, read_file, save_file
from fleetquill.serve.proof.proofs import Picked, Proof, Trial

Made = TypeVar("Made")

STEP: Final = 10  # ms in which changes that belong together follow one another
LONGEST: Final = 50  # ms that they may take in all
LOOK_AGAIN: Final = 400  # ms after which files are looked at though nothing was told
PAGE: Final = {"": ("index.html", "text/html"), "proof.css": ("proof.css", "text/css"),
               "proof.js": ("proof.js", "text/javascript"), "editing.js": ("editing.js", "text/javascript"),
               "editor.js": ("editor.js", "text/javascript")}  # fmt: skip
HEADERS: Final = {
    "Cache-Control": "no-store",
    "Content-Security-Policy": "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data:; "
    "connect-src 'self'; font-src data:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}
MOST_LOCALES: Final = 8  # whose presses are kept
KINDS: Final = ("pdf", "docx", "html", "txt", "xlsx", "csv")


class ProofServer:
    """Shows trials by their names, and tells the browser when one has changed."""

    def __init__(
        self, trials: Sequence[Trial], press_for: Callable[[str], Press], token: str, folders: Sequence[Path] = ()
    ) -> None:
        """`press_for` gives the press for a locale, '' for the usual one. Files in `folders` may be edited."""
        self._editing = Editing(folders)
        self._nonce = secrets.token_urlsafe(16) if folders else ""  # of the style that the editor adds to the page
        press_for = lru_cache(MOST_LOCALES)(press_for)
        self._proofs = {trial.name: Proof(trial, press_for) for trial in trials}
        self._token = token
        self._changed = asyncio.Event()
        self._ends = asyncio.Event()
        self._other = asyncio.Event()  # other files are to be watched
        self._seen: set[str] = set()  # documents that the browser has asked for: those are made again

    def app(self) -> Starlette:
        """The ASGI application. All stands below the token."""
        root = f"/{self._token}"
        routes = [
            Route(f"{root}/events", self._events),
            Route(f"{root}/documents", self._documents),
            Route(f"{root}/documents/{{name}}", self._state),
            Route(f"{root}/documents/{{name}}/file", self._file),
            Route(f"{root}/documents/{{name}}/data", self._data),
            Route(f"{root}/documents/{{name}}/files", self._files),
            Route(f"{root}/documents/{{name}}/files/{{file:path}}", self._text, methods=["GET"]),
            Route(f"{root}/documents/{{name}}/files/{{file:path}}", self._save, methods=["PUT"]),
            Route(f"{root}/documents/{{name}}/picked", self._pick, methods=["POST"]),
            Route(f"{root}/documents/{{name}}/{{version:int}}/{{number:int}}.svg", self._drawing),
            Route(f"{root}/documents/{{name}}/{{version:int}}/{{number:int}}/element", self._element),
            Route(f"{root}/documents/{{name}}/{{version:int}}/{{number:int}}/columns", self._columns),
            Route(f"{root}/documents/{{name}}/{{version:int}}/changes", self._changes),
            Route(f"{root}/{{part:path}}", self._page),
        ]
        return Starlette(routes=routes, lifespan=self._lifespan, middleware=[Middleware(Guard, token=self._token)])

    @asynccontextmanager
    async def _lifespan(self, _: Starlette) -> AsyncIterator[None]:
        watching = asyncio.create_task(self._watch())
        try:
            yield
        finally:
            self.end()
            watching.cancel()

    def end(self) -> None:
        """Lets go of browsers that listen."""
        self._ends.set()
        self._other.set()
        self._changed.set()

    # ---- what changes ----

    async def _watch(self) -> None:
        """Makes documents again when a file changes that they are made from."""
        from watchfiles import awatch

        while not self._ends.is_set():
            watched = frozenset[Path]().union(*(proof.files for proof in self._proofs.values()))
            folders = {path.parent for path in watched if path.parent.is_dir()}
            if not folders:
                await asyncio.sleep(0.2)
                continue
            other = self._other = asyncio.Event()
            saved = awatch(
                *folders, step=STEP, debounce=LONGEST, rust_timeout=LOOK_AGAIN, yield_on_timeout=True, recursive=False,
                stop_event=other,
            )  # fmt: skip
            async for changes in saved:  # one may come while nothing watches: what counts is how the files are now
                for name in sorted(self._seen):
                    proof = self._proofs[name]
                    if await self._made(proof, partial(proof.renew, saved=bool(changes))):
                        self._tell()

    async def _made(self, proof: Proof, make: Callable[[], Made]) -> Made:
        """Makes a document; where it is made from other files then, those are watched."""
        before = proof.files
        made = await asyncio.to_thread(make)
        if {path.parent for path in proof.files} != {path.parent for path in before}:
            self._other.set()
        return made

    def _tell(self) -> None:
        changed, self._changed = self._changed, asyncio.Event()
        changed.set()

    async def _events(self, _: Request) -> Response:
        """What has changed, as it happens (HTML, server-sent events)."""

        async def told() -> AsyncIterator[str]:
            yield "retry: 300\n\n"
            while not self._ends.is_set():
                versions = {name: self._proofs[name].version for name in sorted(self._seen)}
                yield f"data: {json.dumps(versions)}\n\n"
                await self._changed.wait()

        return StreamingResponse(told(), media_type="text/event-stream", headers=HEADERS)

    # ---- what is shown ----

    async def _documents(self, _: Request) -> Response:
        return JSONResponse({"documents": list(self._proofs), "kinds": KINDS, "nonce": self._nonce}, headers=HEADERS)

    async def _state(self, request: Request) -> Response:
        proof = self._proofs.get(request.path_params["name"])
        if proof is None:
            return _missing()
        self._seen.add(proof.trial.name)
        await self._made(proof, proof.begin)
        return JSONResponse(await asyncio.to_thread(proof.state), headers=HEADERS)

    async def _pick(self, request: Request) -> Response:
        """Tries the document on other paper, in another locale, or to be filled in."""
        proof = self._proofs.get(request.path_params["name"])
        try:
            picked = Picked.read(await request.json())
        except (ValueError, RecursionError):
            picked = None
        if proof is None or picked is None:
            return _missing() if proof is None else _wrong("This is not a choice of page, landscape, locale, fillable.")
        proof.picked = picked
        await self._made(proof, proof.make)
        self._tell()
        return Response(status_code=204, headers=HEADERS)

    async def _drawing(self, request: Request) -> Response:
        asked = request.path_params
        proof = self._proofs.get(asked["name"])
        drawing = None if proof is None else await asyncio.to_thread(proof.drawing, asked["version"], asked["number"])
        return _missing() if drawing is None else Response(drawing, media_type="image/svg+xml", headers=HEADERS)

    async def _columns(self, request: Request) -> Response:
        """The columns on a page."""
        asked = request.path_params
        proof = self._proofs.get(asked["name"])
        found = None if proof is None else await asyncio.to_thread(proof.columns, asked["version"], asked["number"])
        return _missing() if found is None else JSONResponse(found, headers=HEADERS)

    async def _element(self, request: Request) -> Response:
        """The element at a point of a page; null where there is none."""
        asked = request.path_params
        proof = self._proofs.get(asked["name"])
        try:
            x, y = (float(request.query_params.get(side, "")) for side in "xy")
        except ValueError:
            return _wrong("A point has an x and a y.")
        if proof is None:
            return _missing()
        found = await asyncio.to_thread(proof.element, asked["version"], asked["number"], x, y)
        return JSONResponse(found, headers=HEADERS)

    async def _changes(self, request: Request) -> Response:
        """What is another than before the last change; null where the document has changed since."""
        proof = self._proofs.get(request.path_params["name"])
        if proof is None:
            return _missing()
        return JSONResponse(await asyncio.to_thread(proof.changes, request.path_params["version"]), headers=HEADERS)

    async def _data(self, request: Request) -> Response:
        """What the document is filled in with; what is wrong, where that cannot be read."""
        proof = self._proofs.get(request.path_params["name"])
        if proof is None:
            return _missing()
        try:
            content = await asyncio.to_thread(proof.data)
        except FleetQuillError as error:
            return Response(str(error), 422, media_type="text/plain", headers=HEADERS)
        return Response(content, media_type="application/json", headers=HEADERS)

    async def _file(self, request: Request) -> Response:
        """The document as a file of a kind."""
        proof = self._proofs.get(request.path_params["name"])
        kind = request.query_params.get("kind", "pdf")
        if proof is None or kind not in KINDS:
            return _missing()
        try:
            content = await asyncio.to_thread(proof.file, kind)
        except FleetQuillError as error:
            return Response(str(error), 422, media_type="text/plain", headers=HEADERS)
        named = content_disposition(f"{proof.trial.name}.{kind}", inline=False)
        return Response(content, headers=HEADERS | {"Content-Disposition": named})

    # ---- what is edited ----

    def _edited(self, request: Request) -> Path | None:
        proof = self._proofs.get(request.path_params["name"])
        return None if proof is None else self._editing.path(request.path_params["file"], proof.files)

    async def _files(self, request: Request) -> Response:
        """The files of a document that may be edited."""
        proof = self._proofs.get(request.path_params["name"])
        return _missing() if proof is None else JSONResponse(self._editing.names(proof.files), headers=HEADERS)

    async def _text(self, request: Request) -> Response:
        path = self._edited(request)
        if path is None:
            return _missing()
        try:
            found = await asyncio.to_thread(read_file, path)
        except FleetQuillError as error:
            return Response(str(error), 422, media_type="text/plain", headers=HEADERS)
        return Response(found.content, media_type="text/plain", headers=HEADERS | {"ETag": found.tag})

    async def _save(self, request: Request) -> Response:
        """Saves a file; 412 where it has been changed elsewhere since it was read (RFC 9110 §13.1.1)."""
        path = self._edited(request)
        if path is None:
            return _missing()
        content = bytearray()
        async for piece in request.stream():
            content += piece
            if len(content) > LARGEST:
                return Response("The text is too large.", 413, media_type="text/plain", headers=HEADERS)
        try:
            tag = await asyncio.to_thread(save_file, path, bytes(content), request.headers.get("if-match", ""))
        except FleetQuillError as error:
            status = 412 if isinstance(error, OtherTextError) else 422
            return Response(str(error), status, media_type="text/plain", headers=HEADERS)
        return Response(status_code=204, headers=HEADERS | {"ETag": tag})

    async def _page(self, request: Request) -> Response:
        found = PAGE.get(request.path_params["part"])
        if found is None:
            return _missing()
        content = files("fleetquill.serve").joinpath("page", found[0]).read_bytes()
        headers = HEADERS
        if self._nonce:
            may = f"style-src 'self' 'nonce-{self._nonce}'; style-src-attr 'unsafe-inline'"
            policy = HEADERS["Content-Security-Policy"].replace("style-src 'self'", may)
            headers = HEADERS | {"Content-Security-Policy": policy}
        return Response(content, media_type=found[1], headers=headers)


def _wrong(what: str) -> Response:
    return Response(what, 400, media_type="text/plain", headers=HEADERS)


def _missing() -> Response:
    return Response("Nothing is here.", 404, media_type="text/plain", headers=HEADERS)
