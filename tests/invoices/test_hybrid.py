"""Hybrid invoices: PDFs that carry their data; the command line that writes and reads them."""

import io
import json

import pytest
from lxml import etree
from sample import FULL, PLAIN, changed

import fleetquill as fq
from command_line import command as run
from fleetquill.demo.machines import freight_invoice
from fleetquill.pdf.reading import PdfReader
from fleetquill.tree.data import read_data

TEMPLATE = """<html lang="en"><title>Invoice {{ number }}</title><h1>Invoice {{ number }}</h1>
<p>{{ seller.name }} to {{ buyer.name }}, {{ date | date }}</p>
<table><tr><th>What<th>Net</tr>{% for line in lines %}<tr><td>{{ line.name }}<td>{{ line.net_amount }}</tr>{% endfor %}
<tr><td>To pay<td>{{ totals.due | money(currency) }}</tr></table>"""


@pytest.fixture
def template(tmp_path):
    path = tmp_path / "invoice.html"
    path.write_text(TEMPLATE)
    return path


def packet(content):
    reader = PdfReader(content)
    return etree.fromstring(reader.resolve(reader.catalog["Metadata"]).content)


@pytest.mark.parametrize(
    ("profile", "relationship"),
    [("MINIMUM", "Data"), ("BASIC WL", "Data"), ("BASIC", "Alternative"), ("EN 16931", "Alternative")],
)
def test_the_data_fills_the_page_and_goes_along(template, tmp_path, profile, relationship, read_pdf, check_pdf):
    target = tmp_path / "F-2041.pdf"
    data = changed(FULL, ("totals.rounding", ...))
    fq.write(template, target, invoice=fq.Invoice(data, profile=profile), conform=("PDF/A-3a", "PDF/UA-1"))
    content = target.read_bytes()
    text = " ".join(read_pdf(content)[0].split())
    assert "Reedwater Barge Cooperative to Osier Paper Works" in text
    assert "Paper reels" in text
    assert fq.check(target).faults == ()
    check_pdf(content)
    said = packet(content)
    assert said.findtext(".//{urn:factur-x:*}ConformanceLevel") is None
    names = {"fx": "urn:factur-x:pdfa:CrossIndustryDocument:invoice:1p0#"}
    assert said.findtext(".//fx:ConformanceLevel", namespaces=names) == profile
    assert said.findtext(".//fx:DocumentFileName", namespaces=names) == "factur-x.xml"
    assert said.findtext(".//fx:DocumentType", namespaces=names) == "INVOICE"
    reader = PdfReader(content)
    (ref,) = reader.array(reader.catalog["AF"])
    assert reader.dictionary(ref)["AFRelationship"] == relationship
    if profile == "EN 16931":
        assert fq.read_invoice(target).data.totals == fq.Invoice(data).data.totals


def test_a_hybrid_is_an_archive_without_being_asked(template, tmp_path):
    target = tmp_path / "a.pdf"
    fq.write(template, target, invoice=fq.Invoice(PLAIN))
    assert fq.check(target).standards == ("PDF/A-3b",)
    edition = fq.compose(template, invoice=fq.Invoice(PLAIN))
    edition.save(target)
    assert fq.read_invoice(target).data.number == "F-1"


@pytest.mark.parametrize("name", ["PDF/A-2b", "PDF/A-4f", "PDF/A-4"])
def test_other_parts_of_the_standard_take_no_invoice(template, tmp_path, name):
    with pytest.raises(fq.OptionError, match="a file of PDF/A-3, not of"):
        fq.write(template, tmp_path / "a.pdf", invoice=fq.Invoice(PLAIN), conform=[name])
    assert not (tmp_path / "a.pdf").exists()


def test_other_kinds_show_the_same_data(template, tmp_path):
    fq.write(template, tmp_path / "a.txt", invoice=fq.Invoice(PLAIN))
    assert "To pay" in (tmp_path / "a.txt").read_text()


def test_data_of_its_own_goes_before_that_of_the_invoice(tmp_path):
    path = tmp_path / "a.html"
    path.write_text("<title>t</title><p>{{ greeting }}")
    stream = io.BytesIO()
    fq.write(path, stream, kind="pdf", data={"greeting": "Good day"}, invoice=fq.Invoice(PLAIN))
    (tmp_path / "a.pdf").write_bytes(stream.getvalue())
    assert fq.read_invoice(tmp_path / "a.pdf").data.number == "F-1"


def test_files_without_data_of_an_invoice_are_told(tmp_path):
    path = tmp_path / "a.pdf"
    fq.write(fq.Manuscript.from_html("<p>x"), path)
    with pytest.raises(fq.SourceError, match="No data of an invoice"):
        fq.read_invoice(path)


def test_the_demo_invoice_is_worked_out_as_its_order_says():
    from fleetquill.demo import documents

    for name in ("invoice-short.json", "invoice-long.json"):
        order = read_data(documents.HERE / name)
        invoice = freight_invoice(order)
        assert invoice.data.totals.due == order["total"]
        assert {row.rate / 100: row.tax for row in invoice.data.vat} == {
            row["rate"]: row["tax"] for row in order["vat"]
        }


# ---- the command line ----


@pytest.mark.parametrize("ending", ["json", "yaml", "xml"])
def test_the_command_line_writes_and_shows_hybrids(template, tmp_path, ending):
    given = tmp_path / f"f.{ending}"
    given.write_bytes(fq.Invoice(PLAIN).to_bytes() if ending == "xml" else json.dumps({"invoice": PLAIN}).encode())
    target = tmp_path / "f.pdf"
    done = run("press", template, "--invoice", given, "-o", target)
    assert done.returncode == 0, done.stderr
    shown = run("invoice-data", target)
    assert shown.returncode == 0
    for said in ("F-1", "2026-07-02", "EN 16931", "VAT S 21 on 20", "24.20"):
        assert said in shown.stdout
    assert json.loads(run("invoice-data", target, "--json").stdout)["totals"]["due"] == "24.20"
    assert "<Invoice " in run("invoice-data", target, "--ubl").stdout
    assert "CrossIndustryInvoice" in run("invoice-data", target, "--xml").stdout


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["press", "{template}", "--invoice", "gone.json"], "gone.json"),
        (["press", "{template}", "--invoice", "{bad}"], "BR-2: number: it is missing (BT-1)."),
        (["press", "{template}", "--invoice", "{good}", "--profile", "X"], "'X' is no profile"),
        (["press", "{template}", "--invoice", "{good}", "--conform", "PDF/A-2a"], "PDF/A-3"),
        (["invoice-data", "gone.pdf"], "gone.pdf: The file cannot be read"),
        (["invoice-data", "{template}"], "The data of the invoice is no XML"),
    ],
)
def test_mistakes_on_the_command_line(template, tmp_path, arguments, said):
    (tmp_path / "bad.json").write_text(json.dumps(changed(PLAIN, ("number", ...))))
    (tmp_path / "good.json").write_text(json.dumps(PLAIN))
    names = {"template": template, "bad": tmp_path / "bad.json", "good": tmp_path / "good.json"}
    done = run(
        *(argument.format(**names) for argument in arguments), *(["-o", tmp_path / "x.pdf"] * ("press" in arguments))
    )
    assert done.returncode == 1
    assert said in done.stderr
    assert "Traceback" not in done.stderr
    assert not (tmp_path / "x.pdf").exists()
