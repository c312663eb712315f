"""What goes back: files with their headers, the state of jobs, the logs of runs, the page."""

from __future__ import annotations

from importlib.resources import files
from typing import Any, Final

from starlette.background import BackgroundTask
from starlette.exceptions import HTTPException
from starlette.requests import Request
from starlette.responses import FileResponse, Response

from fleetquill.output.delivery import content_disposition
from fleetquill.serve.plain import told
from fleetquill.serve.service.desk import Desk, Run
from fleetquill.serve.service.order import Made
from fleetquill.serve.service.problems import ProblemError

ALWAYS: Final = {
    "Cache-Control": "no-store",
    "Content-Security-Policy": "sandbox; default-src 'none'; style-src 'unsafe-inline'; img-src data:; font-src data:",
    "X-Content-Type-Options": "nosniff",
}
SHOWN: Final = ("Content-Disposition", "ETag", "Location", "Page-Count", "Remark-Count", "Retry-After", "Run-Id")
PAGE: Final = {
    "": ("try.html", "text/html"),
    "try.js": ("try.js", "text/javascript"),
    "try.css": ("try.css", "text/css"),
    "proof.css": ("proof.css", "text/css"),
}
MODULE: Final = "fleetquill-page.js"
PAGE_MAY: Final = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; connect-src 'self'; img-src data:; "
    "font-src data:; frame-src blob:; "
    "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)


def file_of(request: Request, run: Run, desk: Desk) -> Response:
    """The file of a run, or what is wrong with it; nothing but its tag where the one who asks has it already (RFC 9110
    §13.1.2). Raises ProblemError."""
    outcome = run.outcome
    if not isinstance(outcome, Made):
        assert outcome is not None
        raise outcome.problem(run.id)
    headers = ALWAYS | {
        "Content-Type": outcome.media_type,
        "Content-Disposition": content_disposition(outcome.name, inline="download" not in request.query_params),
        "ETag": outcome.tag,
        "Page-Count": str(outcome.pages),
        "Remark-Count": str(len(outcome.remarks)),
        "Run-Id": run.id,
        "Server-Timing": _timing(outcome),
    }
    done = None if run.kept else BackgroundTask(desk.drop, run)
    if _has(request, outcome.tag):
        if request.method not in ("GET", "HEAD"):
            if not run.kept:
                desk.drop(run)
            raise ProblemError(412, "You have this file already.", headers={"ETag": outcome.tag}, run=run.id)
        return Response(status_code=304, headers=headers, background=done)
    if not run.path.is_file():
        raise ProblemError(410, "The file is kept no longer.", run=run.id)
    return FileResponse(run.path, headers=headers, background=done)


def _has(request: Request, tag: str) -> bool:
    """Whether one of the tags of If-None-Match is the file's; weak ones count (RFC 9110 §13.1.2)."""
    tags = [one.strip().removeprefix("W/") for one in request.headers.get("if-none-match", "").split(",")]
    return tag in tags


def _timing(made: Made) -> str:
    """The header Server-Timing (W3C): the whole, and each stage."""
    stages = [f"{stage.name.replace(' ', '-')};dur={stage.seconds * 1000:.1f}" for stage in made.stages]
    return ", ".join([f"make;dur={made.seconds * 1000:.1f}", *stages])


def job_of(run: Run) -> dict[str, Any]:
    """How far a job is; where its file is, once it is there."""
    said: dict[str, Any] = {"job": run.id, "state": run.state, "pages": run.call.pages, "run": f"runs/{run.id}"}
    if run.state == "done":
        said["file"] = f"jobs/{run.id}/file"
    if run.state == "failed" and run.outcome is not None and not isinstance(run.outcome, Made):
        said["problem"] = run.outcome.problem(run.id).told()
    return said


def log_of(run: Run) -> dict[str, Any]:
    """What is known of a run."""
    order, outcome = run.order, run.outcome
    said: dict[str, Any] = {
        "run": run.id, "document": order.document, "source": order.source, "kind": order.kind, "holder": run.holder,
        "asked": run.asked.isoformat(timespec="milliseconds"), "state": run.state,
    }  # fmt: skip
    if outcome is None:
        return said
    said |= {"status": outcome.status, "seconds": outcome.seconds}
    if isinstance(outcome, Made):
        said |= {
            "name": outcome.name,
            "pages": outcome.pages,
            "bytes": outcome.length,
            "stages": {stage.name: round(stage.seconds, 4) for stage in outcome.stages},
            "read": outcome.read,
            "remarks": [told(one) for one in outcome.remarks],
        }
    else:
        said["problem"] = outcome.detail
    return said


async def page_part(request: Request) -> Response:
    """A part of the page on which documents are tried by hand."""
    found = PAGE.get(request.path_params.get("part", ""))
    if found is None:
        raise HTTPException(404)
    return _page_file(*found)


async def page_module(_: Request) -> Response:
    """The module that other pages send themselves with."""
    return _page_file(MODULE, "text/javascript")


def _page_file(name: str, media_type: str) -> Response:
    content = files("fleetquill.serve").joinpath("page", name).read_bytes()
    return Response(content, media_type=media_type, headers=ALWAYS | {"Content-Security-Policy": PAGE_MAY})
