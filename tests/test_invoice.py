"""The freight invoice, as its users judge it."""

from __future__ import annotations

import re
from collections import Counter
from decimal import Decimal
from itertools import pairwise
from pathlib import Path

import pytest

import fleetquill as fq
from conftest import DEMO
from fleetquill.tree.data import read_data


@pytest.mark.parametrize("name", ["short", "long"])
def test_it_has_no_remarks_and_passes_a_strict_reader(name, invoice, check_pdf):
    assert invoice(name).remarks == ()
    check_pdf(invoice(name).to_bytes())


def test_the_short_one_is_one_page_and_the_long_one_several(invoice):
    assert invoice("short").page_count == 1
    assert invoice("long").page_count == 4
    assert (invoice("short").pages[0].width, invoice("short").pages[0].height) == (595.276, 841.89)


@pytest.mark.parametrize("name", ["short", "long"])
def test_every_line_is_there_once_and_in_order(name, invoice, read_pdf):
    waybills = [line["waybill"] for line in read_data(DEMO / f"invoice-{name}.json")["lines"]]
    text = "\n".join(read_pdf(invoice(name).to_bytes()))
    assert re.findall(r"W-\d+", text) == waybills


@pytest.mark.parametrize("name", ["short", "long"])
def test_the_reader_finds_the_same_words_as_the_edition(name, invoice, read_pdf):
    edition = invoice(name)
    for page, text in zip(edition.pages, read_pdf(edition.to_bytes()), strict=True):
        theirs = Counter(text.split())
        ours = Counter(page.text.split())
        margins = Counter(f"Reedwater Barge Cooperative Page {page.number} of {edition.page_count}".split())
        assert theirs == ours + margins


def test_the_money_column_is_flush_to_the_right(invoice):
    edition = invoice("long")
    cells = edition.locate(".lines tbody td:last-child")
    assert len(cells) == 90
    assert len({round(cell.x + cell.width, 2) for cell in cells}) == 1


def test_the_head_is_repeated_on_each_page_with_lines_and_overlaps_none(invoice):
    edition = invoice("long")
    heads = {head.page: head for head in edition.locate(".lines thead:first-child")}
    rows = edition.locate(".lines tbody tr")
    assert set(heads) == {row.page for row in rows} == {1, 2, 3, 4}
    for row in rows:
        assert row.y >= heads[row.page].y + heads[row.page].height - 0.01


def test_no_row_overlaps_the_next_or_leaves_the_page_area(invoice):
    edition = invoice("long")
    rows = edition.locate(".lines tbody tr")
    for row, following in pairwise(rows):
        if row.page == following.page:
            assert following.y >= row.y + row.height - 0.01
    bottom = 841.89 - 22 * 72 / 25.4
    assert max(row.y + row.height for row in rows) <= bottom + 0.01


def test_the_totals_are_not_alone_on_the_last_page(invoice):
    edition = invoice("long")
    (total,) = edition.locate("#total")
    assert total.page == edition.page_count
    assert sum(row.page == total.page for row in edition.locate(".lines tbody tr")) >= 3


def test_the_total_is_the_sum_of_its_lines(invoice):
    data = read_data(DEMO / "invoice-long.json")
    assert sum(line["amount"] for line in data["lines"]) == data["net"]
    assert data["net"] + sum(row["tax"] for row in data["vat"]) == data["total"]
    assert isinstance(data["total"], Decimal)
    assert f"€{data['total']:,}" in invoice("long").pages[-1].text


def test_page_numbers_count_all_pages(invoice, read_pdf):
    texts = read_pdf(invoice("long").to_bytes())
    assert [re.findall(r"Page \d of \d", text) for text in texts] == [[f"Page {n} of 4"] for n in range(1, 5)]


def test_the_same_input_gives_the_same_bytes(invoice):
    data = read_data(DEMO / "invoice-short.json")
    again = fq.Press(locale="en-IE").compose(DEMO / "invoice.html", data=data)
    assert again.to_bytes() == invoice("short").to_bytes() == invoice("short").to_bytes()


def test_write_writes_the_same_bytes_as_compose(press, invoice, tmp_path):
    summary = press.write(DEMO / "invoice.html", tmp_path / "a.pdf", data=read_data(DEMO / "invoice-long.json"))
    written = (tmp_path / "a.pdf").read_bytes()
    assert written == invoice("long").to_bytes()
    assert (summary.page_count, summary.bytes_written) == (4, len(written))


def test_metadata_and_outline(invoice):
    import pypdfium2 as pdfium

    document = pdfium.PdfDocument(invoice("short").to_bytes())
    found = document.get_metadata_dict()
    assert found["Title"] == "Freight invoice F-2041"
    assert found["Author"] == "Reedwater Barge Cooperative"
    assert found["Subject"] == "Freight on the River Alder for Osier Paper Works"
    assert found["Keywords"] == "invoice, freight, F-2041"
    assert found["CreationDate"] == ""
    (root,) = invoice("short").outline
    assert [root.label, [child.label for child in root.children]] == ["Freight invoice", ["For", "Payment"]]


def test_demo_data_is_small_and_ships_in_the_package():
    assert sum(path.stat().st_size for path in Path(DEMO).iterdir() if path.is_file()) < 1_000_000
