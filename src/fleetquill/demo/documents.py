"""The demo documents, each made from the data in this folder."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from time import perf_counter
from typing import Any, Final, NamedTuple

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.demo.gallery import gallery
from fleetquill.demo.labels import crate_labels, toll_receipt
from fleetquill.demo.machines import freight_invoice
from fleetquill.demo.statement import statement
from fleetquill.errors import DataError, Where
from fleetquill.invoices.invoice import Invoice
from fleetquill.press import Press, Summary
from fleetquill.tree.data import read_data

HYBRID: Final = ("PDF/A-3a", "PDF/UA-1")
HERE: Final = Path(__file__).parent


class Document(NamedTuple):
    """A demo document: the file to write, and a template with its data ('' for none) or a brief, or what writes it in
    Python; `only` is the one part that is wanted, `invoice` makes of the data one for machines."""

    name: str
    template: str = ""
    data: str = ""
    written: Callable[[], Manuscript] | None = None
    only: str = ""
    invoice: Callable[[Any], Invoice] | None = None


DOCUMENTS: Final = (
    Document("invoice.pdf", "invoice.html", "invoice-short.json", invoice=freight_invoice),
    Document("invoice-long.pdf", "invoice.html", "invoice-long.json"),
    Document("voyage-log.pdf", "voyage-log.html"),
    Document("tables.pdf", "tables.html"),
    Document("report.pdf", "report.html", "report.json"),
    Document("certificate.pdf", "certificate.html"),
    Document("statement.pdf", written=lambda: statement(HERE)),
    Document("letters.pdf", "letters.html", "members.csv"),
    Document("labels.pdf", written=lambda: crate_labels(HERE)),
    Document("toll.pdf", "toll.html", "toll.yaml"),
    Document("toll-plate.pdf", written=toll_receipt),
    Document("gallery.pdf", written=lambda: gallery(HERE)),
    Document("specimen.pdf", "specimen.html"),
    Document("cargo.pdf", "cargo.xlsx"),
    *(Document(f"statement.{kind}", written=lambda: statement(HERE)) for kind in ("docx", "xlsx", "html", "md", "txt")),
    Document("statement-{page}.svg", written=lambda: statement(HERE)),
    Document("voyages.csv", "voyage-log.html"),
    *(Document(f"tolls.{kind}", "tolls.brief.yaml") for kind in ("pdf", "docx", "xlsx", "txt")),
    Document("tolls.csv", "tolls.brief.yaml", only="fq-ledger"),
    Document("terms.pdf", "terms.html"),
    Document("letterhead.pdf", "letterhead.html"),
    Document("inspection.pdf", "inspection.html", "barges.json"),
)
FINISHED: Final = ("notice.pdf", "papers.pdf", "inspection-filled.pdf", "month.pdf")  # that are made of those
FLEETS: Final = ("letters.zip", "month.zip")
INSPECTED: Final = {  # what an inspector has filled in
    "barge": "Heron", "skipper": "Maren Oldwater", "day": "2026-06-09", "registration": "RW-0102", "draught": "1.38",
    "hull.bow_plates": "renew", "hull.bilge": "worn", "aboard.anchor_light": True,
    "work": "Three plates at the bow are to be renewed. The bilge was pumped dry; it wants tar before autumn.",
}  # fmt: skip


def make_documents(folder: Path) -> Iterator[tuple[Path, Summary]]:
    """Writes every demo document into a folder that exists."""
    press = Press(locale="en-IE")
    for document in DOCUMENTS:
        yield make_document(document, folder, press)
    yield from _finished(folder, press)
    yield from _fleets(folder)


def make_document(document: Document, folder: Path, press: Press) -> tuple[Path, Summary]:
    """Writes one of DOCUMENTS into a folder that exists."""
    target = folder / document.name
    if document.written is not None:
        return target, press.write(document.written(), target)
    is_template = document.template.endswith(".html")
    data = read_data(HERE / document.data) if document.data else {} if is_template else None
    invoice = document.invoice(data) if document.invoice is not None else None
    conform = HYBRID if invoice is not None else ()
    template = HERE / document.template
    return target, press.write(template, target, data=data, only=document.only, invoice=invoice, conform=conform)


def _fleets(folder: Path) -> Iterator[tuple[Path, Summary]]:
    """The members' letters, and a month of invoices, each for itself and all in one."""
    from fleetquill.bindery.stamps import Stamp
    from fleetquill.demo.month import letters, orders
    from fleetquill.fleet.combining import Combined
    from fleetquill.fleet.fleet import Fleet
    from fleetquill.shelf.shelf import Shelf

    shelf = Shelf(HERE / "shelf")
    said = Stamp("Page {page} of {pages}", at="bottom-left", margin="8mm 20mm", style="color: #5b6b6a; font-size: 8pt")
    whole = Combined(folder / "month.pdf", stamps=said)
    asked = (
        (shelf["letter"], letters(HERE / "members.csv"), "{member[number]} {member[name]}.pdf", None),
        (shelf["invoice"], orders(), "{number} {customer[name]}.pdf", whole),
    )
    for name, (source, records, pattern, combined) in zip(FLEETS, asked, strict=True):
        report = Fleet(source, records, pattern, into=folder / name).run(stop_after=1, combined=combined)
        if report.failures is not None:
            raise DataError("A document of a fleet is not made.", where=Where(str(report.failures)))
        yield folder / name, Summary("zip", report.pages, (), (folder / name).stat().st_size, report.seconds)
        if combined is not None:
            path = Path(combined.path)
            yield path, Summary("pdf", report.pages, (), path.stat().st_size, report.seconds)


def _finished(folder: Path, press: Press) -> Iterator[tuple[Path, Summary]]:
    """What is made of finished files: a letter, an invoice and the terms in one, and a form that is filled in."""
    from fleetquill.bindery.binding import bind
    from fleetquill.bindery.filling import fill_fields
    from fleetquill.bindery.parts import Part
    from fleetquill.bindery.stamps import Stamp

    letter, papers, filled, _ = (folder / name for name in FINISHED)
    yield letter, bind([HERE / "notice.html"], letter, under=folder / "letterhead.pdf", press=press)
    stamp = Stamp(
        "Page {page} of {pages}", at="bottom-right", margin="4mm 20mm", style="color: #5b6b6a; font-size: 8pt"
    )
    parts = [letter, folder / "invoice.pdf", Part(folder / "terms.pdf", page="A4")]
    yield papers, bind(parts, papers, title="Invoice F-2041 and terms of carriage", stamps=stamp, press=press)
    start = perf_counter()
    remarks = fill_fields(folder / "inspection.pdf", INSPECTED, filled, press=press)
    yield filled, Summary("pdf", 1, remarks, filled.stat().st_size, perf_counter() - start)
