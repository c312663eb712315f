"""Makes what is ordered, in whatever process it is: the presses, kept warm."""

from __future__ import annotations

import hashlib
from functools import cached_property
from pathlib import Path
from time import monotonic, perf_counter
from typing import Any, Final, NamedTuple

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.deadline import until
from fleetquill.errors import DataError, FleetQuillError, LimitError
from fleetquill.output.delivery import safe_name
from fleetquill.policy import Policy
from fleetquill.press import Press, Summary
from fleetquill.serve.plain import file_name
from fleetquill.serve.service.limits import Limits
from fleetquill.serve.service.order import Call, CancelledError, Failed, Made, Order, Outcome
from fleetquill.serve.service.problems import problem_of
from fleetquill.shelf.document import ShelfDocument
from fleetquill.shelf.shelf import Shelf
from fleetquill.tree.data import parse_json
from fleetquill.tree.lengths import css_lengths, css_page, page_px, px_of

MARGIN: Final = "10mm"  # of pages that say none, where something is fitted to them
WARM: Final = 3.0  # seconds after which no further sample is made
PIECE: Final = 1 << 20


class Setup(NamedTuple):
    """All that a process needs to be told: the folder of the shelf, that of files that come along, what one document
    may take, and the hosts that addresses may be of."""

    shelf: str
    uploads: str
    limits: Limits
    hosts: tuple[str, ...] = ()


class Maker:
    """Makes documents of a shelf, and of what others send. It may be used from several threads."""

    def __init__(self, setup: Setup, shelf: Shelf | None = None) -> None:
        self._setup = setup
        self._shelf = shelf or Shelf(setup.shelf)

    @cached_property
    def _own(self) -> Press:
        """For documents of the shelf. Data of others may name pictures: none but the shelf's and theirs are read."""
        folders = (self._shelf.folder, Path(self._setup.uploads))
        policy = Policy(folders=folders, any_folder=False, pages=self._setup.limits.pages)
        return self._shelf.press(policy=policy)

    @cached_property
    def _strange(self) -> Press:
        """For documents of others."""
        hosts = self._setup.hosts
        policy = Policy(strangers=True, network=bool(hosts), hosts=hosts, pages=self._setup.limits.pages, time=0.0)
        return Press(policy=policy)

    def warm(self) -> None:
        """Makes what there are samples of, so that the first who ask need not wait."""
        end = monotonic() + WARM
        for name in self._shelf.names:
            if monotonic() > end:
                return
            call = Call(end - monotonic())
            call.begin()
            sample = self._shelf[name].trial()
            try:
                with until(call.ask):
                    self._own.compose(self._shelf[name], data=sample[0], parameters=sample[1])
            except FleetQuillError:
                continue  # whoever asks for it is told

    def make(self, order: Order, call: Call) -> Outcome:
        """Makes the file; says what is wrong where that cannot be."""
        start = perf_counter()
        call.begin()
        try:
            with until(call.ask):
                return self._made(order, call, start)
        except FleetQuillError as error:
            seconds = round(perf_counter() - start, 4)
            if isinstance(error, CancelledError):
                return Failed(409, "It was cancelled.", seconds)
            problem = problem_of(error, sent=not order.document)
            late = isinstance(error, LimitError) and call.late > 0
            return Failed(504 if late else problem.status, problem.detail, seconds, problem.more)

    def _made(self, order: Order, call: Call, start: float) -> Outcome:
        data = None
        if order.content and order.source not in ("html", "markdown"):
            try:
                data = parse_json(order.content.decode("utf-8"), "body")
            except UnicodeDecodeError:
                return Failed(400, "The body is not UTF-8.")
            except DataError as error:
                return Failed(400, str(error))
        name = safe_name(
            order.name or order.document or "document",
            data if isinstance(data, dict) else {},
            extension=f".{order.kind}",
        )
        with open(order.target, "wb") as stream:
            if order.document:
                document = self._shelf[order.document]
                source = document.in_locale(order.locale) if order.locale else document
                summary = self._own.write(
                    source, stream, kind=order.kind, progress=call.hear, **_given(document, data, order)
                )
            else:
                summary = self._strange.write(
                    self._sent(order, data), stream, kind=order.kind, progress=call.hear, **_paper(order)
                )
        return Made(
            order.kind, name, summary.page_count, summary.bytes_written, _tag_of(order.target),
            round(perf_counter() - start, 4), summary.remarks, summary.stages, self._read(summary),
        )  # fmt: skip

    def _sent(self, order: Order, data: Any) -> Manuscript | str:
        """The source that an order brings along."""
        folder = order.folder or None
        if order.source == "address":
            return str(data["address"])
        if order.source == "data":
            manuscript = Manuscript.from_data(data["manuscript"], base=folder, source="manuscript")
        else:
            text = order.content.decode("utf-8", "replace")
            make = Manuscript.from_markdown if order.source == "markdown" else Manuscript.from_html
            manuscript = make(text, base=folder, source=order.source)
        if order.locale:
            manuscript.document.locale = order.locale
        return manuscript

    def _read(self, summary: Summary) -> tuple[str, ...]:
        """What was read, without the folders of this machine."""
        shelf = self._shelf.folder.resolve()
        found = dict.fromkeys(path.resolve() for path in summary.files)
        return tuple(
            path.relative_to(shelf).as_posix() if path.is_relative_to(shelf) else file_name(str(path)) for path in found
        )


def _given(document: ShelfDocument, data: Any, order: Order) -> dict[str, Any]:
    """What fills in a document of the shelf. Files that came along are values of its data: where they lie."""
    files = {field: Path(order.folder, name) for field, name in order.files.items()}
    if document.kind != "brief":
        if files:
            data = {**(data if isinstance(data, dict) else {}), **{name: str(path) for name, path in files.items()}}
        return {} if data is None else {"data": data}
    given = {name: data[name] for name in ("data", "parameters") if isinstance(data, dict) and name in data}
    if data is not None and not given:
        given = {"data": data}
    if files:
        rows = given.get("data", {})
        given["data"] = {**(rows if isinstance(rows, dict) else {}), **files}
    return given


def _paper(order: Order) -> dict[str, Any]:
    """The pages of a document that others send; where it is to fit, it is made smaller, never larger."""
    paper: dict[str, Any] = {
        "page": order.page, "margin": order.margin, "landscape": order.landscape, "scale": order.scale,
    }  # fmt: skip
    if order.fit:
        paper["margin"] = order.margin or MARGIN
        width, height = page_px(css_page(order.page)) if order.page else page_px("A4")
        width = max(width, height) if order.landscape else width
        sides = css_lengths(paper["margin"], "margin").split()
        right = sides[min(1, len(sides) - 1)]
        left = sides[3] if len(sides) == 4 else right
        room = width - px_of(left, "margin", width) - px_of(right, "margin", width)
        paper["scale"] = max(0.05, min(1.0, room / order.fit))
    return paper


def _tag_of(path: str) -> str:
    """The entity tag of a file: the same for the same bytes (RFC 9110 §8.8.3)."""
    found = hashlib.sha256()
    with open(path, "rb") as file:
        while piece := file.read(PIECE):
            found.update(piece)
    return f'"{found.hexdigest()[:32]}"'
