"""Every demo document is told right: nothing is missing but what its author would have to give."""

import pytest

import fleetquill as fq

CLAIMS = {"6.6.4", "6.2.4.3", "5"}  # what a file says of itself, and of its colours, where it is not asked to conform
LACKS = {
    "cargo.pdf": {"6.7.4", "7.2"},  # a workbook does not say its language
    "inspection.pdf": {"6.5.1"},  # a button empties the form
    "inspection-filled.pdf": {"6.5.1"},
}


@pytest.fixture
def folder(demo_made):
    return demo_made[0]


def test_demo_documents_are_told_right(folder):
    files = sorted(folder.glob("*.pdf"))
    assert len(files) >= 15
    broken = {}
    for file in files:
        if file.stat().st_size > 500_000:  # the log, which is more of the same
            continue
        report = fq.check(file, ["PDF/A-3a", "PDF/UA-1"])
        broken[file.name] = {finding.number for finding in report.findings if finding.faults} - CLAIMS
    assert {name: numbers for name, numbers in broken.items() if numbers} == LACKS


def test_the_invoice_is_what_it_says(folder):
    assert fq.check(folder / "invoice.pdf").faults == ()
    assert fq.read_invoice(folder / "invoice.pdf").data.number == "F-2041"
