"""What is wrong with a request, in the form that programs read (RFC 9457)."""

from __future__ import annotations

from collections.abc import Mapping
from http import HTTPStatus
from typing import Any, Final

from starlette.responses import JSONResponse

from fleetquill.errors import (
    ConformanceError,
    DataError,
    FaultError,
    FleetQuillError,
    LimitError,
    OptionError,
    StrictError,
    TemplateError,
)
from fleetquill.serve.plain import file_name

MEDIA_TYPE: Final = "application/problem+json"
THEIRS: Final = (
    ConformanceError,
    DataError,
    LimitError,
    OptionError,
    StrictError,
    TemplateError,
)  # may be of their data


class ProblemError(Exception):
    """A request that cannot be answered, with its status."""

    def __init__(self, status: int, detail: str, headers: Mapping[str, str] | None = None, **more: Any) -> None:
        super().__init__(detail)
        self.status = status
        self.detail = detail
        self.headers = headers
        self.more = more

    def told(self) -> dict[str, Any]:
        return {"title": HTTPStatus(self.status).phrase, "status": self.status, "detail": self.detail, **self.more}

    def response(self) -> JSONResponse:
        return JSONResponse(self.told(), self.status, headers=self.headers, media_type=MEDIA_TYPE)


def problem_of(error: FleetQuillError, *, sent: bool) -> ProblemError:
    """What an error of the press is for the one who asked: 422 where the data may be at fault, 500 where it cannot be.
    Paths of this machine are not told."""
    where = error.where
    line = {"line": where.line} if where is not None and where.line else {}
    source = file_name(where.source) if where is not None else ""
    said: dict[str, Any] = {"kind": type(error).__name__, **({"source": source} if source else {}), **line}
    detail = f"{error.what} {error.remedy}".rstrip()
    theirs = isinstance(error, THEIRS) or (sent and not isinstance(error, FaultError))
    return ProblemError(422 if theirs else 500, detail, **said)
