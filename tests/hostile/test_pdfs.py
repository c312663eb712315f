"""Finished PDFs that are damaged at random are read as far as they can be, or refused in our own words."""

import random
import subprocess

import pytest

import fleetquill as fq

CHANGES = 160


@pytest.fixture(scope="module")
def files(tmp_path_factory):
    """A hybrid invoice, packed and with nothing packed."""
    path = tmp_path_factory.mktemp("pdfs") / "a.pdf"
    party = {"name": "A", "vat_identifier": "XR1", "address": {"country": "XR"}}
    line = {"name": "x", "quantity": 2, "unit": "C62", "price": "10", "vat_category": "S", "vat_rate": 21}
    data = {"number": "F-1", "date": "2026-06-02", "due": "2026-07-02", "currency": "EUR", "seller": party,
            "buyer": party, "lines": [line]}  # fmt: skip
    html = "<html lang=en><title>t</title><h1>a</h1><ul><li>b</ul><p><a href='#x'>c</a><p id=x style='opacity:.5'>d"
    fq.write(fq.Manuscript.from_html(html), path, invoice=fq.Invoice(data), conform=("PDF/A-3a", "PDF/UA-1"))
    command = ["qpdf", "--qdf", "--object-streams=disable", str(path), "-"]
    try:
        plain = subprocess.run(command, capture_output=True, check=True).stdout
    except FileNotFoundError:
        plain = path.read_bytes()
    return path.read_bytes(), plain


def damaged(content, chance):
    """A file with some bytes changed, left out, doubled, or exchanged for others that mean something."""
    made = bytearray(content)
    for _ in range(chance.randrange(1, 6)):
        at = chance.randrange(len(made))
        kind = chance.randrange(5)
        if kind == 0:
            made[at] = chance.randrange(256)
        elif kind == 1:
            del made[at : at + chance.randrange(1, 200)]
        elif kind == 2:
            made[at:at] = made[at : at + chance.randrange(1, 200)]
        elif kind == 3:
            made[at : at + 1] = chance.choice([b"<<", b">>", b"[", b"]", b"(", b"/", b" 1 0 R", b"endobj", b"stream"])
        else:
            numbers = [place for place in range(at, min(at + 400, len(made))) if 48 <= made[place] <= 57]
            if numbers:
                made[chance.choice(numbers)] = 48 + chance.randrange(10)
    return bytes(made)


@pytest.mark.parametrize("which", [0, 1], ids=["packed", "plain"])
def test_damaged_files_are_read_or_refused(files, which, tmp_path):
    chance = random.Random(20 + which)
    path = tmp_path / "damaged.pdf"
    for _ in range(CHANGES):
        path.write_bytes(damaged(files[which], chance))
        for read in (lambda: fq.check(path, ["PDF/A-3a", "PDF/UA-1"]), lambda: fq.read_invoice(path)):
            try:
                read()
            except fq.FleetQuillError:
                continue
