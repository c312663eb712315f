"""Finished files: an invoice and its terms behind a letter on a letterhead, and a form that is filled in.

Usage: python examples/papers.py [FOLDER]
"""

from __future__ import annotations

import sys
from pathlib import Path

import fleetquill as fq
from fleetquill.demo import documents

DEMO = Path(documents.__file__).parent


def main(folder: Path) -> None:
    for name in ("letterhead", "terms"):
        fq.write(DEMO / f"{name}.html", folder / f"{name}.pdf")
    invoice = fq.compose(DEMO / "invoice.html", data=DEMO / "invoice-short.json", locale="en-IE")
    fq.bind([DEMO / "notice.html"], folder / "notice.pdf", under=folder / "letterhead.pdf")
    summary = fq.bind(
        [folder / "notice.pdf", invoice, fq.Part(folder / "terms.pdf", pages="3-", page="A4")],
        folder / "papers.pdf",
        title="Invoice F-2041 and terms of carriage",
        stamps=fq.Stamp("Page {page} of {pages}", at="bottom-right", margin="4mm 20mm"),
    )
    print(f"papers.pdf: {summary.page_count} pages")
    form = folder / "inspection.pdf"
    fq.write(DEMO / "inspection.html", form, data=DEMO / "barges.json")
    fq.fill_fields(form, {"skipper": "Maren Oldwater", "hull.keel": "worn"}, folder / "filled.pdf")
    print(f"filled.pdf: {fq.Volume(folder / 'filled.pdf').fields['skipper'].value}")


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
