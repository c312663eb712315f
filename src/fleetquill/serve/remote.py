"""A press elsewhere: the documents of a service, asked for as if they were made here."""

from __future__ import annotations

import json
import os
import time
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from datetime import date, datetime
from datetime import time as clock_time
from decimal import Decimal
from io import BytesIO
from pathlib import Path
from time import perf_counter
from typing import Any, BinaryIO, Final

import httpx2

from fleetquill import errors
from fleetquill.errors import DataError, FleetQuillError, LimitError, OptionError, OutputError, PolicyError, Where
from fleetquill.output.kinds import kind_of
from fleetquill.press import Summary
from fleetquill.remarks import Remark
from fleetquill.serve.plain import number
from fleetquill.whole_files import write_whole

TRIES: Final = 5
LONGEST_WAIT: Final = 10.0  # seconds between two tries
SENT: Final = "Give text, numbers, dates, lists, and names with values."
ACCEPTED: Final = 202
AGAIN: Final = (502, 503)  # statuses after which the same may go well
STATUSES: Final[Mapping[int, type[FleetQuillError]]] = {
    400: DataError, 401: PolicyError, 403: PolicyError, 404: OptionError, 406: OptionError, 413: LimitError,
    415: DataError, 422: DataError, 504: LimitError,
}  # fmt: skip


class RemotePress:
    """Asks a service, `fleetquill serve`, for the documents of its shelf.

    `url` is where it is, such as 'https://documents.example/'; `timeout` is in seconds. Where it does not answer, or
    has too much to do, it is asked again, up to `tries` times: making a document twice does no harm.
    """

    def __init__(self, url: str, token: str = "", *, timeout: float = 60.0, tries: int = TRIES) -> None:
        if not url.startswith(("https://", "http://")):
            raise OptionError(f"'{url}' is not the address of a service.", remedy="Begin it with 'https://'.")
        if tries < 1:
            raise OptionError(f"{tries} tries are none.", remedy="Give at least 1.")
        self.url = url.rstrip("/")
        self._tries = tries
        headers = {"Authorization": f"Bearer {token}"} if token else {}
        self._client = httpx2.Client(headers=headers, timeout=timeout)

    def __repr__(self) -> str:
        return f"<RemotePress {self.url}>"

    def __enter__(self) -> RemotePress:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """Ends its connections."""
        self._client.close()

    @property
    def names(self) -> tuple[str, ...]:
        """The documents that may be asked for."""
        with self._answer("GET", "documents") as answer:
            return tuple(one["name"] for one in json.loads(answer.read())["documents"])

    def compose(
        self, name: str, data: Any = None, *, parameters: Mapping[str, Any] | None = None, locale: str = ""
    ) -> bytes:
        """A document as the bytes of a PDF. Raises what `write` raises."""
        stream = BytesIO()
        self.write(name, stream, kind="pdf", data=data, parameters=parameters, locale=locale)
        return stream.getvalue()

    def write(
        self,
        name: str,
        target: str | os.PathLike[str] | BinaryIO,
        *,
        kind: str | None = None,
        data: Any = None,
        parameters: Mapping[str, Any] | None = None,
        locale: str = "",
        job: bool = False,
    ) -> Summary:
        """Writes a document as a file of a kind, else the one that the target's ending says, else PDF. What takes long
        is made as a `job`, and waited for.

        A file is written whole or not at all; it comes in pieces and is never whole in memory. `data` are those of a
        template; those of a brief, and its `parameters`. Raises the error that the service has met, OptionError where
        it has no such document, PolicyError where the token is not for it, OutputError where it does not answer.
        """
        asked = kind_of(target, kind).name
        body = data if parameters is None else {"data": data, "parameters": parameters}
        content = b"" if body is None else _sent_as(body)
        query = {"kind": asked} | ({"locale": locale} if locale else {})
        start, found = perf_counter(), Summary(asked, 0, (), 0, 0.0)

        def fetch(stream: BinaryIO) -> None:
            nonlocal found
            with self._file(f"documents/{name}", query, content, job=job) as answer:
                length = 0
                for piece in answer.iter_bytes():
                    stream.write(piece)
                    length += len(piece)
                found = self._summary(answer, asked, length)

        if isinstance(target, (str, os.PathLike)):
            write_whole(Path(target), fetch)
        else:
            fetch(target)
        return found._replace(seconds=perf_counter() - start)

    @contextmanager
    def _file(self, path: str, query: Mapping[str, str], content: bytes, *, job: bool) -> Iterator[httpx2.Response]:
        """The answer that has the file; that of a job once it is done."""
        with self._answer("POST", path, query, content, job=job) as answer:
            if answer.status_code != ACCEPTED:
                yield answer
                return
            said = json.loads(answer.read())
        wait = 0.1
        while said["state"] in ("waiting", "making"):
            time.sleep(wait)
            wait = min(2 * wait, LONGEST_WAIT)
            with self._answer("GET", f"jobs/{said['job']}") as state:
                said = json.loads(state.read())
        with self._answer("GET", f"jobs/{said['job']}/file") as answer:
            yield answer

    def _summary(self, answer: httpx2.Response, kind: str, length: int) -> Summary:
        headers = answer.headers
        remarks: tuple[Remark, ...] = ()
        if headers.get("remark-count", "0") != "0":
            with self._answer("GET", f"runs/{headers['run-id']}") as run:
                remarks = tuple(Remark(**one) for one in json.loads(run.read())["remarks"])
        return Summary(kind, int(headers.get("page-count", "0")), remarks, length, 0.0)

    @contextmanager
    def _answer(
        self, method: str, path: str, query: Mapping[str, str] | None = None, content: bytes = b"", *, job: bool = False
    ) -> Iterator[httpx2.Response]:
        """The answer to a request, of which nothing has been read yet. Raises what the service says is wrong."""
        headers = {"Content-Type": "application/json"} if content else {}
        headers |= {"Prefer": "respond-async"} if job else {}
        request = self._client.build_request(
            method, f"{self.url}/{path}", params=query, content=content, headers=headers
        )
        answer = self._sent(request)
        try:
            if answer.status_code not in (200, ACCEPTED):
                answer.read()
                raise _error_of(answer)
            yield answer
        except httpx2.HTTPError as error:  # while the file comes: what has come is not one
            raise self._silent(error) from error
        finally:
            answer.close()

    def _sent(self, request: httpx2.Request) -> httpx2.Response:
        for left in range(self._tries - 1, -1, -1):
            try:
                answer = self._client.send(request, stream=True)
            except httpx2.HTTPError as error:
                if not left:
                    raise self._silent(error) from error
                time.sleep(_wait("", self._tries - left))
                continue
            if answer.status_code not in AGAIN or not left:
                return answer
            answer.close()
            time.sleep(_wait(answer.headers.get("retry-after", ""), self._tries - left))
        raise AssertionError("there is at least one try")

    def _silent(self, error: Exception) -> OutputError:
        return OutputError(
            f"The service does not answer ({error or type(error).__name__}).", where=Where(self.url),
            remedy="See whether it runs, and whether its address is right.",
        )  # fmt: skip


def _wait(said: str, turn: int) -> float:
    """How many seconds to wait: what the service says, else twice as long each time."""
    wanted = float(said) if said.isdecimal() else 0.1 * 2**turn
    return min(wanted, LONGEST_WAIT)


def _error_of(answer: httpx2.Response) -> FleetQuillError:
    """What the service says is wrong (RFC 9457), as the error that was raised there."""
    try:
        said = answer.json()
    except ValueError:
        said = {}
    said = said if isinstance(said, dict) else {}
    kind = getattr(errors, str(said.get("kind", "")), None)
    if not (isinstance(kind, type) and issubclass(kind, FleetQuillError)):
        kind = STATUSES.get(answer.status_code, OutputError)
    what = str(said.get("detail") or f"The service answers with {answer.status_code}.")
    line = said.get("line", 0)
    where = Where(str(said.get("source") or answer.url), line if isinstance(line, int) else 0)
    raised: Callable[..., FleetQuillError] = kind
    return raised(what, where=where)


def _sent_as(body: Any) -> bytes:
    """Data as JSON. Raises DataError where that has no words for it."""
    try:
        return json.dumps(body, default=_plain, ensure_ascii=False, allow_nan=False).encode("utf-8", "replace")
    except (TypeError, ValueError, RecursionError) as error:
        raise DataError(f"The data cannot be sent as JSON ({error}).", remedy=SENT) from error


def _plain(value: Any) -> Any:
    """A value that JSON has no word for."""
    if isinstance(value, Decimal):
        return number(value)
    if isinstance(value, (date, datetime, clock_time)):
        return value.isoformat()
    raise TypeError(f"a value is of the type '{type(value).__name__}'")
