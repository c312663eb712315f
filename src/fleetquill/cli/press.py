"""fleetquill press: a document to a PDF file."""

from __future__ import annotations

import json
import sys
from collections.abc import Sequence
from functools import partial
from pathlib import Path, PurePosixPath
from typing import Any, BinaryIO, NamedTuple
from urllib.parse import urlsplit

import click

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.cli.bar import bar
from fleetquill.cli.faces import open_press
from fleetquill.cli.report import report, report_remarks
from fleetquill.cli.watching import make_again
from fleetquill.errors import DataError, LimitError, OutputError, StrictError, Where
from fleetquill.intake.doors import door_of
from fleetquill.output.kinds import kind_of
from fleetquill.policy import Policy, is_web
from fleetquill.press import Press, Summary
from fleetquill.progress import Listener
from fleetquill.whole_files import write_whole


@click.command()
@click.argument("sources", nargs=-1, required=True, metavar="SOURCE…")
@click.option("--data", "data_file", metavar="FILE",
              help="Fill in a template with this file (JSON, YAML, TOML, CSV; - for standard input).")  # fmt: skip
@click.option("--set", "settings", multiple=True, metavar="KEY=VALUE",
              help="Set one value of the data; KEY may be dotted, VALUE may be JSON.")  # fmt: skip
@click.option("--style", "styles", multiple=True, type=click.Path(path_type=Path), metavar="FILE",
              help="Apply one more style sheet after the document's own.")  # fmt: skip
@click.option("-o", "--output", metavar="OUT",
              help="A file, a folder, or '-' for standard output. Default: beside the source, as .pdf.")  # fmt: skip
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
@click.option("--scale", default=1.0, metavar="NUMBER", help="Make all that stands on the pages larger or smaller.")
@click.option("--only", default="", metavar="SELECTOR", help="Lay out the one element that this selector names.")
@click.option("--title", default="", help="Give the document this title.")
@click.option("--dpi", default=0.0, metavar="NUMBER", help="Take pixels out of pictures beyond this resolution.")
@click.option("--quality", default=0, metavar="1…95", help="Compress photographs anew as JPEG of this quality.")
@click.option("--open", "opens", is_flag=True, help="Show the file in the system's viewer afterwards.")
@click.option("--watch", "watches", is_flag=True, help="Make it again whenever a file changes that it is made from.")
@click.option("--strict", is_flag=True, help="Write nothing and fail where there is any remark.")
def press(**options: Any) -> None:
    """Lay out SOURCE and write a PDF.

    SOURCE is an HTML or Markdown file, a template (with --data or --set), an address of the web, or
    '-' for HTML on standard input. Several pictures, or a folder of them, become a page each.
    """
    _Work(Asked(**options)).do()


class Asked(NamedTuple):
    """The options of the command, by the names that they have above."""

    sources: tuple[str, ...]
    data_file: str | None
    settings: tuple[str, ...]
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
    scale: float
    only: str
    title: str
    dpi: float
    quality: int
    opens: bool
    watches: bool
    strict: bool

    @property
    def source(self) -> str:
        return self.sources[0]


class _Work:
    """A document that is made once, or again and again."""

    def __init__(self, asked: Asked) -> None:
        self.asked = asked
        self.pictures = door_of(asked.sources).several
        _check(asked, pictures=self.pictures)
        self.engine = _press_of(asked)
        self.target = _target(asked.output, asked.source)
        names = [*asked.sources, asked.data_file or "-", *map(str, asked.styles)]
        self.files = [Path(name) for name in names if name != "-" and not is_web(name)]
        if self.target is not None:
            _refuse_sources(self.target, self.files)

    def do(self) -> None:
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
        if sys.stdout.isatty():
            raise click.UsageError("A PDF is not for a terminal: name a file with -o, or send it on with '>' or '|'.")
        report_remarks(self._write(sys.stdout.buffer).remarks)

    def _make(self, target: Path) -> Sequence[Path]:
        """Makes the file and says so; gives the files that were read for it."""
        summaries: list[Summary] = []
        with bar() as progress:
            write_whole(target, lambda stream: summaries.append(self._write(stream, progress)))
        report(target, summaries[0])
        return summaries[0].files

    def _write(self, stream: BinaryIO, progress: Listener | None = None) -> Summary:
        asked = self.asked
        data = _data(asked.data_file, asked.settings)
        page, margin = ("", "") if self.pictures else (asked.page, asked.margin)  # pictures have theirs already
        summary = self.engine.write(
            self._document(data), stream, data=None if asked.source == "-" else data, styles=asked.styles,
            only=asked.only, page=page, margin=margin, landscape=asked.landscape, scale=asked.scale,
            title=asked.title, progress=progress,
        )  # fmt: skip
        if asked.strict and summary.remarks:
            report_remarks(summary.remarks)
            count = len(summary.remarks)
            raise StrictError(f"{count} remark{'s' * (count > 1)} on a strict run; nothing was written.")
        return summary

    def _document(self, data: dict[str, Any] | None) -> str | Manuscript:
        """What the press is given: pictures and standard input are read here."""
        asked = self.asked
        if self.pictures:
            return self.engine.read(*asked.sources, page=asked.page, margin=asked.margin or "0")
        if asked.source != "-":
            return asked.source
        text = _typed(self.engine.policy.file_size)
        if data is None:
            return Manuscript.from_html(text, source="standard input")
        return self.engine.fill_in(text, data)


def _typed(most: int) -> str:
    """The text of standard input."""
    text = sys.stdin.read(most + 1)
    if len(text) > most:
        raise LimitError("Standard input holds more than the policy allows.")
    return text


def _check(asked: Asked, *, pictures: bool) -> None:
    """Raises UsageError for options that do not go together."""
    if len(asked.sources) > 1 and not pictures:
        raise click.UsageError("Only pictures can be given several at a time.")
    if pictures and (asked.data_file or asked.settings):
        raise click.UsageError("Pictures take no data.")
    if asked.source == "-" and asked.data_file == "-":
        raise click.UsageError("Only one of source and data can be standard input.")


def _press_of(asked: Asked) -> Press:
    policy = Policy(
        network=asked.network or is_web(asked.source), timeout=asked.timeout,
        strangers=asked.strangers, time=asked.most_time,
    )  # fmt: skip
    sent = _pairs("--header", asked.headers), _pairs("--cookie", asked.cookies)
    return open_press(
        asked.folders, asked.system_fonts, asked.locale, policy, *sent,
        currency=asked.currency, picture_dpi=asked.dpi, jpeg_quality=asked.quality,
    )  # fmt: skip


def _target(output: str | None, source: str) -> Path | None:
    """Where to write; None for standard output. A folder takes a file that is named for the source."""
    if output == "-" or (source == "-" and output is None):
        return None
    if output is None:
        return _beside(source)
    target = Path(output)
    if target.is_dir() or output.endswith(("/", "\\")):
        if not target.is_dir():
            raise OutputError("The folder does not exist.", where=Where(output), remedy="Make it, or choose another.")
        return target / ("document.pdf" if source == "-" else _beside(source).name)
    kind_of(target)
    return target


def _refuse_sources(target: Path, sources: Sequence[Path]) -> None:
    """An output never takes the place of what it is made from."""
    if target.exists() and any(file.exists() and target.samefile(file) for file in sources):
        raise OutputError(
            "The output is the source itself.", where=Where(str(target)), remedy="Name another file with -o."
        )


def _beside(source: str) -> Path:
    """The name of the PDF for a source: the same with another ending."""
    if not is_web(source):
        path = Path(source)
        return path.parent / f"{path.resolve().name}.pdf" if path.is_dir() else path.with_suffix(".pdf")
    from fleetquill.output.delivery import safe_name

    parts = urlsplit(source)
    name = PurePosixPath(parts.path).stem or parts.hostname or "page"
    return Path(safe_name("{name}", {"name": name}))


def _pairs(option: str, given: tuple[str, ...]) -> dict[str, str]:
    found: dict[str, str] = {}
    for pair in given:
        name, equals, value = pair.partition("=")
        if not equals or not name:
            raise click.UsageError(f"{option} takes NAME=VALUE, not '{pair}'.")
        found[name] = value
    return found


def _data(data_file: str | None, settings: tuple[str, ...]) -> dict[str, Any] | None:
    if data_file is None and not settings:
        return None
    from fleetquill.tree.data import read_data, read_stream

    data: dict[str, Any] = {}
    if data_file is not None:
        data = read_stream(sys.stdin.read()) if data_file == "-" else read_data(Path(data_file))
    for setting in settings:
        key, equals, value = setting.partition("=")
        if not equals or not key:
            raise click.UsageError(f"--set takes KEY=VALUE, not '{setting}'.")
        _put(data, key.split("."), _value(value), setting)
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
