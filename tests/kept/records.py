"""Finished files as text that says all that was written, and nothing of how it was packed.

A PDF is its objects, streams unpacked, without the bytes of fonts, pictures and profiles, which are other packages' work;
a word-processor file or a workbook is its parts.
"""

from __future__ import annotations

import hashlib
import io
import re
import tempfile
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import fleetquill as fq
from fleetquill.demo import documents
from fleetquill.pdf.reading import PdfReader, Stream
from kept import made
from paintings import cases as paintings
from rectangles import cases as rectangles

FOLDER = Path(__file__).parent
KEPT = FOLDER / "kept.json"  # the digest of each record, by its name
PREFIX = re.compile(r"\b[A-Z]{6}\+")  # of a part of a font: it says what the font's bytes are
OF_OTHERS = {
    "ID",
    "Producer",
    "CreationDate",
    "ModDate",
    "Length",
    "Length1",
    "Length2",
    "Length3",
    "Filter",
    "DecodeParms",
}
CHARTS = (
    "cargo",
    "report",
    "gallery",
    "statement",
    "tolls",
)  # demo documents with charts, whose marks are Matplotlib's choice
PARTS = re.compile(r"(?!docProps/).*\.(xml|rels)$")


def digest(record: str) -> str:
    return hashlib.sha256(record.encode("utf-8", "surrogatepass")).hexdigest()[:16]


def record_of(content: bytes) -> str:
    """A file as text, by what it begins with."""
    if content.startswith(b"%PDF"):
        return "\n".join(_objects(PdfReader(content)))
    if content.startswith(b"PK"):
        with zipfile.ZipFile(io.BytesIO(content)) as package:
            names = sorted(name for name in package.namelist() if PARTS.match(name))
            return "\n".join(f"{name}\n{package.read(name).decode()}" for name in names)
    return content.decode("utf-8")


def _objects(reader: PdfReader) -> Iterator[str]:
    for number in sorted(reader.numbers()):
        value = reader.get(number)
        if not isinstance(value, Stream):
            yield f"{number} {_told(value)}"
        elif value.entries.get("Type") not in ("Metadata", "XRef", "ObjStm"):
            yield f"{number} {_told(value.entries)}"
            is_of_others = value.entries.get("Subtype") in ("Image", "CIDFontType0C", "OpenType", "Type1C")
            if not is_of_others and not {"N", "Length1"} & set(value.entries):
                yield value.content.decode("latin-1")


def _told(value: Any) -> str:
    if isinstance(value, dict):
        return "{" + " ".join(f"{key} {_told(value[key])}" for key in sorted(value) if key not in OF_OTHERS) + "}"
    if isinstance(value, list):
        return "[" + " ".join(map(_told, value)) + "]"
    return PREFIX.sub("", repr(value))


# ---- what is kept ----


def all_records() -> dict[str, Callable[[], str]]:
    """Everything that is recorded, by its name; what gives its text."""
    press = fq.Press(locale="en-IE")
    found: dict[str, Callable[[], str]] = {}
    for cases in (paintings, rectangles):
        for path in sorted(Path(cases.__file__).parent.glob("*.html")):
            if path.stem == "filters":  # pixels that not every processor comes to in the same way
                continue
            for name, source in cases.cases_of(path):
                found[f"{path.parent.name}/{path.stem}: {name}"] = _of_html(press, cases.page(source), "pdf")
    for path in sorted(FOLDER.glob("*.html")):
        for name, source in paintings.cases_of(path):
            for kind in ("pdf", "docx", "html", "txt", "md", "svg"):
                found[f"kept/{path.stem}: {name}.{kind}"] = _of_html(press, source, kind)
    for name, manuscript in (("workbook", made.workbook), ("parts", made.parts), ("brief", made.brief)):
        for kind in ("pdf", "docx", "html", "txt", "md", "xlsx"):
            found[f"kept/made: {name}.{kind}"] = _of(press, manuscript, kind)
    for name, content in made.bound(press):
        found[f"kept/bound: {name}"] = _of_bytes(content)
    for document in documents.DOCUMENTS:
        if not document.name.startswith(CHARTS):
            found[f"demo/{document.name}"] = _of_demo(press, document)
    return found


def _of_html(press: fq.Press, html: str, kind: str) -> Callable[[], str]:
    def record() -> str:
        manuscript = fq.Manuscript.from_html(html)
        if kind == "svg":
            return "\n".join(page.to_svg() for page in press.compose(manuscript).pages)
        stream = io.BytesIO()
        press.write(manuscript, stream, kind=kind)
        return record_of(stream.getvalue())

    return record


def _of(press: fq.Press, source: Callable[[], fq.Manuscript | fq.Brief], kind: str) -> Callable[[], str]:
    def record() -> str:
        given = source()
        data = made.TOLLS if isinstance(given, fq.Brief) else None
        stream = io.BytesIO()
        press.write(given, stream, kind=kind, data=data)
        return record_of(stream.getvalue())

    return record


def _of_bytes(content: Callable[[], bytes]) -> Callable[[], str]:
    return lambda: record_of(content())


def _of_demo(press: fq.Press, document: documents.Document) -> Callable[[], str]:
    def record() -> str:
        with tempfile.TemporaryDirectory() as folder:
            path, _ = documents.make_document(document, Path(folder), press)
            return record_of(path.read_bytes())

    return record
