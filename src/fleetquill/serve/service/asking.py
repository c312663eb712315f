"""What a request asks for: the kind of file, its paper, the body and the files that come along."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator, Mapping, Sequence
from math import isfinite
from pathlib import Path
from typing import Any, Final, NamedTuple

from starlette.datastructures import Headers, QueryParams, UploadFile
from starlette.formparsers import MultiPartException, MultiPartParser
from starlette.requests import Request

from fleetquill.output.delivery import safe_name
from fleetquill.output.kinds import KINDS, Kind
from fleetquill.serve.service.order import SOURCES, Order
from fleetquill.serve.service.problems import ProblemError
from fleetquill.tree.excerpt import Scale

SERVED: Final = {name: kind for name, kind in KINDS.items() if kind.way != "leaves"}
JSON: Final = "application/json"
FORM: Final = "multipart/form-data"
DATA: Final = "data"  # the part of a form that has the data
SOURCE: Final = "source"  # the part that has a document of its own
MOST_PARTS: Final = 1_000
MOST_NUMBER: Final = 100_000.0  # px that a page's area may have to fit


class Body(NamedTuple):
    """What was sent: the content and its media type, the files that came along, by the names of their fields; and all
    of it as it came."""

    content: bytes
    media_type: str
    files: Mapping[str, UploadFile] = {}
    raw: bytes = b""


def kind_of(request: Request) -> Kind:
    """The kind that `?kind=` names, else the first of `Accept` that there is, else PDF. Raises ProblemError."""
    asked = request.query_params.get("kind")
    if asked is not None:
        if asked not in SERVED:
            raise ProblemError(406, f"'{asked}' is no kind that is made here.", kinds=list(SERVED))
        return SERVED[asked]
    for wanted in _accepted(request.headers.get("accept", "*/*")):
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


def asked_of(request: Request, order: Order) -> Order:
    """An order with what the address says of it. Raises ProblemError."""
    query = request.query_params
    pattern = query.get("name", "")
    if ":" in pattern or "!" in pattern:  # how a value is written may ask for any number of characters
        raise ProblemError(400, "A file's name has names of the data in braces, and neither ':' nor '!'.")
    order = order._replace(kind=kind_of(request).name, locale=query.get("locale", ""), name=pattern)
    if order.document:
        return order
    fit = _number(query, "fit", "0")
    scale: Scale = "fit" if query.get("scale") == "fit" else _number(query, "scale", "1")
    page, margin = query.get("page", ""), query.get("margin", "")
    return order._replace(page=page, margin=margin, landscape="landscape" in query, fit=fit, scale=scale)


def _number(query: QueryParams, name: str, usual: str) -> float:
    try:
        found = float(query.get(name, usual))
    except ValueError:
        found = -1.0
    if not isfinite(found) or not 0 <= found <= MOST_NUMBER:
        raise ProblemError(400, f"'{name}' is no number that can be.")
    return found


async def body_of(request: Request, most: int) -> Body:
    """What the request sends. Raises ProblemError where it is too large, or no form where it says that it is one."""
    content = await _content(request, most)
    media_type = request.headers.get("content-type", "").partition(";")[0].strip().lower()
    body = await _parts(request.headers, content) if media_type == FORM else Body(content, media_type)
    return body._replace(raw=content)


async def _content(request: Request, most: int) -> bytes:
    announced = request.headers.get("content-length", "")
    too_large = ProblemError(413, f"The body is larger than {most:,} bytes.", most=most)
    if announced.isdecimal() and int(announced[:12]) > most:
        raise too_large
    body = bytearray()
    async for piece in request.stream():
        body += piece
        if len(body) > most:
            raise too_large
    return bytes(body)


async def _parts(headers: Headers, content: bytes) -> Body:
    """The parts of a form (RFC 7578): one is what a body would be, the others are files."""

    async def pieces() -> AsyncIterator[bytes]:
        yield content

    parser = MultiPartParser(
        headers, pieces(), max_files=MOST_PARTS, max_fields=MOST_PARTS, max_part_size=len(content) + 1
    )
    try:
        form = await parser.parse()
    except (MultiPartException, KeyError, ValueError) as error:
        raise ProblemError(400, f"The body is no form ({error}).") from error
    files: dict[str, UploadFile] = {}
    found = Body(b"", JSON)
    for name, value in form.multi_items():
        if name in (DATA, SOURCE):
            found = await _whole(name, value)
        elif isinstance(value, str):
            raise ProblemError(400, f"The part '{name}' is no file; values go in '{DATA}'.")
        elif name in files:
            raise ProblemError(400, f"There are two parts '{name}'.")
        else:
            files[name] = value
    return found._replace(files=files)


async def _whole(name: str, value: str | UploadFile) -> Body:
    if isinstance(value, str):
        return Body(value.encode("utf-8", "replace"), JSON if name == DATA else "text/html")
    media_type = (value.content_type or JSON).partition(";")[0].strip().lower()
    return Body(await value.read(), media_type)


async def kept_files(body: Body, folder: Path) -> dict[str, str]:
    """Puts files that came along into a folder; gives their names there, by the names of their fields."""
    names: dict[str, str] = {}
    for field, file in body.files.items():
        name = safe_name("{name}", {"name": Path(file.filename or field).name}, extension="")
        if name in names.values():
            raise ProblemError(400, f"Two files are called '{name}'.")
        names[field] = name
        folder.mkdir(exist_ok=True)
        (folder / name).write_bytes(await file.read())
    return names


def source_of(body: Body) -> str:
    """What a body that is a document of its own is: 'html', 'markdown', 'data' or 'address'. Raises ProblemError."""
    source = SOURCES.get(body.media_type)
    if source is None:
        raise ProblemError(415, f"The body is one of {', '.join(SOURCES)}, or a form with a part '{SOURCE}'.")
    if source != "data":
        return source
    try:
        said: Any = json.loads(body.content)
    except (ValueError, RecursionError) as error:
        raise ProblemError(400, f"The body is no JSON ({error}).") from error
    if isinstance(said, dict) and isinstance(said.get("address"), str) and len(said) == 1:
        if not said["address"].lower().startswith(("http://", "https://")):
            raise ProblemError(422, "An address begins with 'https://'.")
        return "address"
    if isinstance(said, dict) and isinstance(said.get("manuscript"), dict) and len(said) == 1:
        return "data"
    raise ProblemError(422, "The body has either 'manuscript', plain data, or 'address', a text; and nothing else.")
