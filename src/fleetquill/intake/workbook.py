"""The workbook door: what a workbook's sheets say is what pages show (ISO/IEC 29500-1 §18)."""

from __future__ import annotations

import io
import re
import warnings
import zipfile
from collections.abc import Iterator, Sequence
from datetime import datetime
from pathlib import Path
from typing import Any, Final

from lxml import etree

from fleetquill.errors import LimitError, OptionError, SourceError, Where, nearest
from fleetquill.formats import Formats
from fleetquill.intake.order import Order
from fleetquill.intake.workbooks.lost_parts import lost_parts, without_lost_parts
from fleetquill.tree.document import Document, Note
from fleetquill.tree.head import new_document
from fleetquill.unpacking import PACKED, check_package

FITS: Final = ("", "workbook", "width", "page", "none")
SHEETS: Final = "worksheets/"
MACROS: Final = "vbaProject.bin"
OLD: Final = b"\xd0\xcf\x11\xe0"  # of compound files: workbooks before 2007, and those with a password
UNKEPT: Final = re.compile(
    rb'<c r="([A-Z]+\d+)"[^>]*><f(?:\s[^>]*)?(?:/>|>[^<]*</f>)(?:<v></v>|<v\s*/>)?</c>'
)  # a formula without the value that it had
EXTENDED: Final = "Newer parts of sheets, such as some bars, small charts and slicers, are not shown."
MOST_NAMED: Final = 12  # cells in one remark
UNDATED: Final = datetime(2000, 1, 1)
STYLE: Final = """
.fq-sheet table { border-collapse: collapse; table-layout: fixed }
.fq-sheet table { font: 14.667px/1.2 Calibri, "Source Sans Pro", sans-serif }
.fq-sheet td, .fq-sheet th { padding: 0 2px; vertical-align: bottom; white-space: pre; overflow: hidden }
.fq-gridded td { border: 1px dotted #9aa7a5 }
.fq-sheet td { text-align: left } .fq-sheet a:link { color: inherit }
.fq-sheet th.fq-letter { font-weight: normal; text-align: center; background: #eef3f1; border: 1px solid #9aa7a5 }
.fq-filled { display: flex; justify-content: space-between } .fq-sign { float: left; font-family: "DejaVu Sans" }
.fq-sheet fq-chart, .fq-sheet img { max-width: none }
.fq-sheet fq-chart { background: #fff; border: 1px solid #d0d7d5; box-sizing: border-box; white-space: normal }
.fq-sheet-notes { page: auto; break-before: page; font: 10pt/1.4 "Source Sans Pro", sans-serif }
.fq-sheet-notes dt { font-weight: bold; margin-top: 2mm }
.fq-sheet-notes dd { margin: 0 0 0 6mm; white-space: pre-wrap }
"""


def read(order: Order) -> Document:
    """The document of a workbook file."""
    path = Path(order.source)
    content = order.reader.policy.read_file(path).content
    most = order.reader.policy.file_size * PACKED
    return workbook_document(content, order.formats, name=str(path), base=path.parent, most=most)


def workbook_document(
    content: bytes,
    formats: Formats,
    *,
    name: str = "",
    base: Path | None = None,
    sheets: Sequence[str | int] | None = None,
    fit: str = "",
    notes: bool = False,
    most: int = 4_000_000_000,
) -> Document:
    """A section for each sheet that is shown, on pages as the workbook sets them up.

    `sheets` names those that are wanted, or counts them from 1. `fit` is 'workbook' (what its page set-up says, the
    usual), 'width', 'page', 'none' or a share such as '80%'. With `notes` comments stand at the end; `most` is how
    many bytes the file may unpack to. Raises SourceError where the content is no workbook, OptionError for a sheet
    that is not there.
    """
    fit = _checked(fit)
    book, faults = _opened(content, name, most)
    document = new_document(base or Path(), name, title=str(book.properties.title or "") or Path(name).stem)
    document.files = [Path(name)] if name else []
    document.notes += [Note("workbook", fault, Where(name)) for fault in faults]
    _fill(document, book, content, formats, sheets, fit, name, notes=notes)
    return document


def _checked(fit: str) -> str:
    if fit in FITS:
        return fit or "workbook"
    share = re.fullmatch(r"(\d{1,3})%", fit) if isinstance(fit, str) else None
    if share is None or not 10 <= int(share[1]) <= 400:
        meant = nearest(str(fit), FITS)
        remedy = f"Did you mean '{meant}'?" if meant else "It may be workbook, width, page, none, or 10% to 400%."
        raise OptionError(f"{fit!r} is no way to fit a sheet.", remedy=remedy)
    return fit


def _opened(content: bytes, name: str, most: int) -> tuple[Any, list[str]]:
    """The workbook, with the values that its formulas had, and what of it is not read."""
    where = Where(name) if name else None
    if content.startswith(OLD):
        raise SourceError(
            "The workbook is of a kind before 2007, or has a password.", where=where,
            remedy="Save it as .xlsx without a password.",
        )  # fmt: skip
    try:
        import openpyxl  # noqa: F401
    except ImportError as error:
        raise OptionError(
            "Reading workbooks needs the package openpyxl.", remedy='Install "fleetquill[workbook]".'
        ) from error
    try:
        check_package(io.BytesIO(content), most, where)
        lost = lost_parts(content)
        sheets = [part for part in lost if SHEETS in part]
        if sheets:
            raise SourceError(f"The workbook names sheets that are not in it: {', '.join(sheets)}.", where=where)
        try:
            return _loaded(content)
        except KeyError:  # of a part that another names
            if not lost:
                raise
            book, faults = _loaded(without_lost_parts(content))
            return book, [*faults, f"Parts that the workbook names are not in it: {', '.join(lost)}."]
    except (LimitError, SourceError):
        raise
    except Exception as error:  # whatever a damaged file brings about in those who read it
        raise SourceError(f"The file is no workbook that can be read ({error}).", where=where) from error


def _loaded(content: bytes) -> tuple[Any, list[str]]:
    import openpyxl

    with warnings.catch_warnings(record=True) as said:
        warnings.simplefilter("always")
        book = openpyxl.load_workbook(io.BytesIO(content), data_only=True, rich_text=True, keep_links=False)
    return book, [EXTENDED] if any("xtension" in str(warning.message) for warning in said) else []


def _fill(
    document: Document,
    book: Any,
    content: bytes,
    formats: Formats,
    wanted: Sequence[str | int] | None,
    fit: str,
    name: str,
    *,
    notes: bool,
) -> None:
    from fleetquill.intake.workbooks.colors import Palette
    from fleetquill.intake.workbooks.page_setup import Facts
    from fleetquill.intake.workbooks.sheet import SheetPages

    palette = Palette(book.loaded_theme, list(book._colors or ()))
    faults: list[str] = []
    with zipfile.ZipFile(io.BytesIO(content)) as package:
        if any(part.endswith(MACROS) for part in package.namelist()):
            faults.append("The workbook has macros, which are not run.")
    moment = book.properties.modified or UNDATED
    rules: list[str] = [STYLE]
    comments: list[tuple[str, str, str, str]] = []
    for number, sheet in enumerate(_wanted(book, wanted), 1):
        facts = Facts(
            Path(name).name, sheet.title, str(Path(name).parent) if name else "", moment,
            formats.date(moment, "short"), formats.time(moment.time(), "short"),
        )  # fmt: skip
        pages = SheetPages(sheet, palette, formats, facts, number, fit, document.add_rows)
        if not pages.areas:
            continue
        document.body.append(pages.section())
        rules += pages.rules
        faults += [f"Sheet '{sheet.title}': {fault}" for fault in pages.faults]
        comments += [(sheet.title, *note) for note in pages.notes()]
    if notes and comments:
        _add_notes(document, comments)
    for cells, title in _unkept(content, book):
        shown = ", ".join(cells[:MOST_NAMED]) + (" and more" if len(cells) > MOST_NAMED else "")
        faults.append(f"Sheet '{title}': formulas without a kept value show nothing: {shown}.")
    document.styles.append(("".join(rules), name))
    for fault in dict.fromkeys(faults):
        document.notes.append(Note("workbook", fault, Where(name)))


def _wanted(book: Any, wanted: Sequence[str | int] | None) -> Iterator[Any]:
    """The sheets that are asked for, else those that are shown; sheets with nothing but a chart are none."""
    if wanted is None:
        yield from (sheet for sheet in book.worksheets if sheet.sheet_state == "visible")
        return
    if isinstance(wanted, (str, int)):
        wanted = [wanted]
    names = book.sheetnames
    for one in wanted:
        if isinstance(one, int) and not isinstance(one, bool) and 1 <= one <= len(book.worksheets):
            yield book.worksheets[one - 1]
        elif one in names and hasattr(book[one], "_cells"):
            yield book[one]
        else:
            meant = nearest(str(one), names)
            remedy = f"Did you mean '{meant}'?" if meant else f"It has: {', '.join(names[:8])}."
            raise OptionError(f"The workbook has no sheet {one!r}.", remedy=remedy)


def _unkept(content: bytes, book: Any) -> Iterator[tuple[list[str], str]]:
    """The cells of each sheet whose formulas have no kept value."""
    with zipfile.ZipFile(io.BytesIO(content)) as package:
        for sheet in book.worksheets:
            path = f"xl/worksheets/sheet{book.worksheets.index(sheet) + 1}.xml"
            if sheet.sheet_state == "visible" and path in package.namelist():
                cells = [found[1].decode() for found in UNKEPT.finditer(package.read(path))]
                if cells:
                    yield cells, sheet.title


def _add_notes(document: Document, comments: Sequence[tuple[str, str, str, str]]) -> None:
    """The comments of all sheets at the end."""
    section = etree.SubElement(document.body, "section", {"class": "fq-sheet-notes"})
    listed = etree.SubElement(section, "dl")
    for sheet, cell, author, text in comments:
        etree.SubElement(listed, "dt").text = f"{sheet}, {cell}" + (f" ({author})" if author else "")
        etree.SubElement(listed, "dd").text = text
