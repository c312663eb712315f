"""fleetquill press: a document to a file of any kind."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Sequence
from datetime import UTC, datetime
from functools import partial
from pathlib import Path, PurePosixPath
from typing import TYPE_CHECKING, Any, BinaryIO, NamedTuple
from urllib.parse import urlsplit

import click

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.cli.bar import bar
from fleetquill.cli.faces import open_press
from fleetquill.cli.locking import allowed, asked_for, locking
from fleetquill.cli.pairs import pairs
from fleetquill.cli.report import report, report_remarks
from fleetquill.cli.watching import make_again
from fleetquill.errors import DataError, LimitError, OutputError, StrictError, Where
from fleetquill.intake.doors import DATA_DOOR, door_of
from fleetquill.intake.endings import WORKBOOKS
from fleetquill.intake.plain_data import BRIEF
from fleetquill.output.how import USUAL
from fleetquill.output.kinds import KINDS, PNG, Kind, kind_of
from fleetquill.output.leaves import check_pattern, is_pattern
from fleetquill.policy import Policy, is_web
from fleetquill.press import Press, Summary
from fleetquill.progress import Listener
from fleetquill.tree.excerpt import Scale
from fleetquill.whole_files import write_whole

if TYPE_CHECKING:
    from fleetquill.invoices.invoice import Invoice


class ScaleType(click.ParamType[Scale]):
    """A number, or the word 'fit'."""

    name = "scale"

    def convert(self, value: Any, param: click.Parameter | None, ctx: click.Context | None) -> Scale:
        try:
            return "fit" if value == "fit" else float(value)
        except ValueError:
            self.fail(f"{value!r} is neither a number nor 'fit'.", param, ctx)


@click.command()
@click.argument("sources", nargs=-1, required=True, metavar="SOURCE…")
@click.option("--data", "data_files", multiple=True, metavar="FILE",
              help="Fill in a template with this file (JSON, YAML, TOML, CSV; - for standard input); "
              "for a brief, a file of rows, or NAME=FILE.")  # fmt: skip
@click.option("--set", "settings", multiple=True, metavar="KEY=VALUE",
              help="Set one value of the data (KEY may be dotted, VALUE may be JSON), "
              "or a parameter of a brief.")  # fmt: skip
@click.option("--connection", "connections", multiple=True, metavar="NAME=ADDRESS",
              help="A database that a brief asks: its address, or env:VARIABLE for one there.")  # fmt: skip
@click.option("--ask", "asks", is_flag=True, help="Ask for the parameters of a brief that are not set.")
@click.option("--describe", "describes", is_flag=True, help="Only tell which parameters and data a brief has.")
@click.option("--style", "styles", multiple=True, type=click.Path(path_type=Path), metavar="FILE",
              help="Apply one more style sheet after the document's own.")  # fmt: skip
@click.option("-o", "--output", metavar="OUT",
              help="A file, a folder, or '-' for standard output. Default: beside the source, as .pdf. "
              "The kind follows from the ending; 'page-{page}.png' names a file for each page.")  # fmt: skip
@click.option("--as", "kind", default=None, metavar="KIND",
              help=f"Write a file of this kind, whatever its name: {', '.join(KINDS)}.")  # fmt: skip
@click.option("--fonts", "folders", multiple=True, type=click.Path(path_type=Path), metavar="FOLDER",
              help="Let documents use the fonts in this folder.")  # fmt: skip
@click.option("--system-fonts", is_flag=True, help="Let documents use the fonts of this system.")
@click.option("--locale", default="en", show_default=True, help="How templates write numbers, money and dates.")
@click.option("--currency", default="", metavar="CODE", help="The currency of amounts that name none, such as EUR.")
@click.option("--header", "headers", multiple=True, metavar="NAME=VALUE", help="Send a header with web requests.")
@click.option("--cookie", "cookies", multiple=True, metavar="NAME=VALUE", help="Send a cookie with web requests.")
@click.option("--network", is_flag=True, help="Let a document that is a file read from the web, too.")
@click.option("--strangers", is_flag=True, help="Trust neither the document nor its template: see docs/security.md.")
@click.option("--time", "most_time", default=None, type=float, metavar="SECONDS",
              help="End a document that takes longer; 0 for never.")  # fmt: skip
@click.option("--timeout", default=None, type=float, metavar="SECONDS",
              help="How long a web server may take to answer: 20, for strangers 5.")  # fmt: skip
@click.option("--page", default="", metavar="PAPER", help="Use pages of this size, such as A5 or '80mm 50mm'.")
@click.option("--margin", default="", metavar="LENGTH", help="Use this margin, or up to four, on every page.")
@click.option("--landscape", is_flag=True, help="Turn the pages on their side.")
@click.option("--scale", default=1.0, type=ScaleType(), metavar="NUMBER|fit",
              help="Make all on the pages larger or smaller; 'fit': smaller where it is wider.")  # fmt: skip
@click.option("--only", default="", metavar="SELECTOR", help="Lay out the one element that this selector names.")
@click.option("--sheet", "sheets", multiple=True, metavar="NAME", help="Of a workbook, this sheet: by name or number.")
@click.option("--fit", default="", metavar="HOW", help="Fit sheets: workbook, width, page, none, or a share as 80%.")
@click.option("--notes", is_flag=True, help="Of a workbook, set its comments at the end.")
@click.option("--title", default="", help="Give the document this title.")
@click.option("--attach", "attached", multiple=True, metavar="FILE", help="For PDF: let this file go along.")
@click.option("--invoice", "invoice_file", default="", metavar="FILE",
              help="For PDF: let the data of this invoice (JSON, YAML, TOML) go along, for machines; "
              "it fills in a template.")  # fmt: skip
@click.option("--profile", default="EN 16931", show_default=True, metavar="NAME",
              help="How much of the invoice goes along: MINIMUM, BASIC WL, BASIC, EN 16931, EXTENDED.")  # fmt: skip
@click.option("--conform", multiple=True, metavar="NAME", help="For PDF: conform to a standard, such as PDF/A-3a.")
@click.option("--untagged", is_flag=True, help="For PDF: do not say what each part of the document is.")
@click.option("--fillable", is_flag=True, help="For PDF: let readers fill in the form controls.")
@locking
@click.option("--dpi", default=0.0, metavar="NUMBER",
              help="Take pixels out of pictures beyond this resolution; for a PNG, draw pages at it (96).")  # fmt: skip
@click.option("--quality", default=0, metavar="1…95", help="Compress photographs anew as JPEG of this quality.")
@click.option(
    "--values", default="raw", metavar="raw|shown", help="For CSV: values for programs, or as pages show them."
)
@click.option("--delimiter", default=",", metavar="CHARACTER", help="For CSV: what stands between values.")
@click.option("--wide", default=80, metavar="COLUMNS", show_default=True, help="For plain text: how wide it is.")
@click.option("--form-feeds", is_flag=True, help="For plain text: end pages where a break is forced.")
@click.option("--letters", default="outlines", metavar="outlines|text", help="For SVG: letters as outlines or as text.")
@click.option("--linked", is_flag=True, help="For HTML: leave pictures and style sheets in their own files.")
@click.option("--shown", default="flow", metavar="flow|pages", help="For HTML: as it flows, or page by page.")
@click.option("--open", "opens", is_flag=True, help="Show the file in the system's viewer afterwards.")
@click.option("--watch", "watches", is_flag=True, help="Make it again whenever a file changes that it is made from.")
@click.option("--strict", is_flag=True, help="Write nothing and fail where there is any remark.")
def press(**options: Any) -> None:
    """Lay out SOURCE and write a PDF, or a file of another kind.

    SOURCE is an HTML or Markdown file, a template (with --data or --set), a brief or a manuscript (YAML, JSON, TOML),
    an address of the web, or '-' for HTML on standard input. Several pictures, or a folder of them, become a page each.
    """
    _Work(Asked(**options)).do()


class Asked(NamedTuple):
    """The options of the command, by the names that they have above."""

    sources: tuple[str, ...]
    data_files: tuple[str, ...]
    settings: tuple[str, ...]
    connections: tuple[str, ...]
    asks: bool
    describes: bool
    styles: tuple[Path, ...]
    output: str | None
    folders: tuple[Path, ...]
    system_fonts: bool
    locale: str
    currency: str
    headers: tuple[str, ...]
    cookies: tuple[str, ...]
    network: bool
    strangers: bool
    most_time: Any  # None: as the policy's profile has it
    timeout: Any
    page: str
    margin: str
    landscape: bool
    scale: Scale
    only: str
    title: str
    attached: tuple[str, ...]
    invoice_file: str
    profile: str
    conform: tuple[str, ...]
    untagged: bool
    fillable: bool
    password: str | None
    owner_password: str | None
    allow: tuple[str, ...]
    sheets: tuple[str, ...]
    fit: str
    notes: bool
    dpi: float
    kind: str | None
    values: str
    delimiter: str
    wide: int
    form_feeds: bool
    letters: str
    linked: bool
    shown: str
    quality: int
    opens: bool
    watches: bool
    strict: bool

    @property
    def source(self) -> str:
        return self.sources[0]

    @property
    def data_file(self) -> str | None:
        """The file that fills in a template."""
        return self.data_files[0] if self.data_files else None


class _Work:
    """A document that is made once, or again and again."""

    def __init__(self, asked: Asked) -> None:
        self.asked = asked
        self.pictures = door_of(asked.sources).several
        self.is_brief = _is_brief(asked.source)
        _check(asked, pictures=self.pictures, brief=self.is_brief)
        self.kind = _kind(asked)
        self.engine = _press_of(asked, self.kind)
        self._lock: dict[str, Any] = {
            "password": asked_for(asked.password, "Password"),
            "owner_password": asked_for(asked.owner_password, "Password of the owner"), "allow": allowed(asked.allow),
        }  # fmt: skip
        self.target = _target(asked.output, asked.source, self.kind)
        data = [name.partition("=")[2] or name for name in asked.data_files]
        names = [*asked.sources, *data, *map(str, asked.styles), *asked.attached, *filter(None, [asked.invoice_file])]
        self.files = [Path(name) for name in names if name != "-" and not is_web(name)]
        if self.target is not None:
            _refuse_sources(self.target, self.files)

    def do(self) -> None:
        if self.asked.describes:
            from fleetquill.cli.briefs import describe, read_brief

            click.echo(describe(read_brief(self.asked.source, self.engine.policy)))
            return
        if self.target is None:
            self._send_on()
            return
        asked = self.asked
        if asked.watches and ("-" in (asked.source, asked.data_file) or not self.files):
            raise click.UsageError("Only files can be watched.")
        if asked.opens or not asked.watches:
            self._make(self.target)
        if asked.opens:
            click.launch(str(self.target))
        if asked.watches:
            make_again(partial(self._make, self.target), self.files)

    def _send_on(self) -> None:
        """To standard output."""
        if self.asked.watches:
            raise click.UsageError("What is watched goes into a file: name one with -o.")
        if sys.stdout.isatty() and not self.kind.media_type.startswith("text/"):
            raise click.UsageError(
                f"A file of the kind '{self.kind.name}' is not for a terminal: name one with -o, "
                "or send it on with '>' or '|'."
            )
        report_remarks(self._write(sys.stdout.buffer).remarks)

    def _make(self, target: Path) -> Sequence[Path]:
        """Makes the file and says so; gives the files that were read for it."""
        summaries: list[Summary] = []
        with bar() as progress:
            if is_pattern(target):
                summaries.append(self._write(target, progress))
            else:
                write_whole(target, lambda stream: summaries.append(self._write(stream, progress)))
        report(target, summaries[0])
        return summaries[0].files

    def _write(self, target: BinaryIO | Path, progress: Listener | None = None) -> Summary:
        asked = self.asked
        data, more = self._given()
        page, margin = ("", "") if self.pictures else (asked.page, asked.margin)  # pictures have theirs already
        summary = self.engine.write(
            self._document(data), target, data=None if asked.source == "-" else data, **more, styles=asked.styles,
            only=asked.only, page=page, margin=margin, landscape=asked.landscape, scale=asked.scale,
            title=asked.title, progress=progress, kind=self.kind.name, values=asked.values, delimiter=asked.delimiter,
            wide=asked.wide, form_feeds=asked.form_feeds, letters=asked.letters, linked=asked.linked,
            shown=asked.shown, date=_date(), tagged=not asked.untagged, conform=asked.conform, attach=asked.attached,
            invoice=_invoice(asked), fillable=asked.fillable, **self._lock,
            dpi=asked.dpi or USUAL.dpi, strict=asked.strict and is_pattern(target),
        )  # fmt: skip
        if asked.strict and summary.remarks:
            report_remarks(summary.remarks)
            count = len(summary.remarks)
            raise StrictError(f"{count} remark{'s' * (count > 1)} on a strict run; nothing was written.")
        return summary

    def _given(self) -> tuple[Any, dict[str, Any]]:
        """The data; for a brief its parameters and connections, too."""
        asked = self.asked
        if not self.is_brief:
            return _data(asked.data_file, asked.settings), {}
        from fleetquill.cli.briefs import ask, connections_of, parameters_of, read_brief, rows_of

        brief = read_brief(asked.source, self.engine.policy)
        parameters: dict[str, Any] = parameters_of(asked.settings)
        if asked.asks:
            parameters = ask(brief, parameters)
        return rows_of(brief, asked.data_files), {
            "parameters": parameters, "connections": connections_of(asked.connections)
        }  # fmt: skip

    def _workbook(self) -> Manuscript:
        """The sheets of a workbook that are asked for."""
        asked = self.asked
        if not asked.source.lower().endswith(WORKBOOKS):
            raise click.UsageError("--sheet, --fit and --notes are for workbooks.")
        self.engine.policy.check(Path(asked.source))
        sheets = [_numbered(sheet) for sheet in asked.sheets] or None
        return Manuscript.from_workbook(
            asked.source, sheets=sheets, fit=asked.fit, notes=asked.notes, locale=asked.locale
        )

    def _document(self, data: dict[str, Any] | None) -> str | Manuscript:
        """What the press is given: pictures and standard input are read here."""
        asked = self.asked
        if self.pictures:
            return self.engine.read(*asked.sources, page=asked.page, margin=asked.margin or "0")
        if asked.sheets or asked.fit or asked.notes:
            return self._workbook()
        if asked.source != "-":
            return asked.source
        text = _typed(self.engine.policy.file_size)
        if data is None:
            return Manuscript.from_html(text, source="standard input")
        return self.engine.fill_in(text, data)


def _date() -> datetime | None:
    """When the document was made, where the environment says so: seconds since 1970 (SOURCE_DATE_EPOCH)."""
    given = os.environ.get("SOURCE_DATE_EPOCH", "").strip()
    if not given:
        return None
    try:
        return datetime.fromtimestamp(int(given), UTC)
    except (ValueError, OverflowError, OSError) as error:
        raise click.UsageError(f"SOURCE_DATE_EPOCH is '{given}', which is no number of seconds.") from error


def _invoice(asked: Asked) -> Invoice | None:
    if not asked.invoice_file:
        return None
    from fleetquill.invoices.invoice import Invoice

    return Invoice.read(asked.invoice_file, profile=asked.profile)


def _numbered(sheet: str) -> str | int:
    """A sheet by its number where it is one."""
    return int(sheet) if sheet.isdecimal() else sheet


def _typed(most: int) -> str:
    """The text of standard input."""
    text = sys.stdin.read(most + 1)
    if len(text) > most:
        raise LimitError("Standard input holds more than the policy allows.")
    return text


def _check(asked: Asked, *, pictures: bool, brief: bool) -> None:
    """Raises UsageError for options that do not go together."""
    if not brief and (asked.connections or asked.asks or asked.describes):
        raise click.UsageError("--connection, --ask and --describe are for briefs.")
    if not brief and len(asked.data_files) > 1:
        raise click.UsageError("A template is filled in with one file of data.")
    if len(asked.sources) > 1 and not pictures:
        raise click.UsageError("Only pictures can be given several at a time.")
    if pictures and (asked.data_files or asked.settings):
        raise click.UsageError("Pictures take no data.")
    if asked.source == "-" and asked.data_file == "-":
        raise click.UsageError("Only one of source and data can be standard input.")


def _is_brief(source: str) -> bool:
    """Whether a source is the file of a brief."""
    path = Path(source)
    if source == "-" or door_of([source]) is not DATA_DOOR or not path.is_file():
        return False
    from fleetquill.tree.data import read_data

    return BRIEF in read_data(path)


def _kind(asked: Asked) -> Kind:
    """The kind that is asked for, or that the output's ending says."""
    output = asked.output
    if asked.kind is not None or output is None or output == "-" or _is_folder(output):
        return kind_of(None, asked.kind)
    kind = kind_of(output)
    check_pattern(kind, output)
    return kind


def _is_folder(output: str) -> bool:
    return Path(output).is_dir() or output.endswith(("/", "\\"))


def _press_of(asked: Asked, kind: Kind) -> Press:
    policy = Policy(
        network=asked.network or is_web(asked.source), timeout=asked.timeout,
        strangers=asked.strangers, time=asked.most_time,
    )  # fmt: skip
    sent = pairs("--header", asked.headers), pairs("--cookie", asked.cookies)
    return open_press(
        asked.folders, asked.system_fonts, asked.locale, policy, *sent,
        currency=asked.currency, picture_dpi=0.0 if kind is PNG else asked.dpi, jpeg_quality=asked.quality,
    )  # fmt: skip


def _target(output: str | None, source: str, kind: Kind) -> Path | None:
    """Where to write; None for standard output. A folder takes a file that is named for the source."""
    if output == "-" or (source == "-" and output is None):
        return None
    if output is None:
        return _beside(source, kind)
    target = Path(output)
    if _is_folder(output):
        if not target.is_dir():
            raise OutputError("The folder does not exist.", where=Where(output), remedy="Make it, or choose another.")
        return target / (f"document.{kind.name}" if source == "-" else _beside(source, kind).name)
    return target


def _refuse_sources(target: Path, sources: Sequence[Path]) -> None:
    """An output never takes the place of what it is made from."""
    if target.exists() and any(file.exists() and target.samefile(file) for file in sources):
        raise OutputError(
            "The output is the source itself.", where=Where(str(target)), remedy="Name another file with -o."
        )


def _beside(source: str, kind: Kind) -> Path:
    """The name of the file for a source: the same with another ending, and a place for the page's number where each
    has a file of its own."""
    ending = f"-{{page}}.{kind.name}" if kind.way == "leaves" else f".{kind.name}"
    if not is_web(source):
        path = Path(source)
        return path.parent / f"{path.resolve().name if path.is_dir() else path.stem.removesuffix('.brief')}{ending}"
    from fleetquill.output.delivery import safe_name

    parts = urlsplit(source)
    name = PurePosixPath(parts.path).stem or parts.hostname or "page"
    return Path(safe_name("{name}", {"name": name}, extension="") + ending)


def _data(data_file: str | None, settings: tuple[str, ...]) -> dict[str, Any] | None:
    if data_file is None and not settings:
        return None
    from fleetquill.tree.data import read_data, read_stream

    data: dict[str, Any] = {}
    if data_file is not None:
        data = read_stream(sys.stdin.read()) if data_file == "-" else read_data(Path(data_file))
    for key, value in pairs("--set", settings, "KEY=VALUE").items():
        _put(data, key.split("."), _value(value), f"{key}={value}")
    return data


def _value(text: str) -> Any:
    """JSON where it is JSON, else the text itself."""
    from decimal import Decimal

    try:
        return json.loads(text, parse_float=Decimal)
    except (ValueError, RecursionError):
        return text


def _put(data: dict[str, Any], path: list[str], value: Any, setting: str) -> None:
    for name in path[:-1]:
        data = data.setdefault(name, {})
        if not isinstance(data, dict):
            raise DataError(f"'--set {setting}' goes through '{name}', which is not a mapping.")
    data[path[-1]] = value
