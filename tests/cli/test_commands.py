"""The command line, driven as a user drives it, and what it says."""

from __future__ import annotations

import subprocess
import sys
from functools import partial
from pathlib import Path

import pytest
from click.testing import CliRunner

from command_line import command, process
from conftest import DEMO
from fleetquill.cli import main
from fleetquill.demo.documents import DOCUMENTS, FINISHED, FLEETS

INVOICE = str(DEMO / "invoice.html")
DATA = str(DEMO / "invoice-short.json")


@pytest.fixture
def run(tmp_path):
    return partial(command, folder=tmp_path)


@pytest.mark.parametrize("run", [command, process])
def test_press_says_what_it_wrote(run, tmp_path):
    result = run("press", INVOICE, "--data", DATA, "--locale", "en-IE", "-o", "out.pdf", folder=tmp_path)
    assert result.returncode == 0
    assert result.stdout.startswith("out.pdf: 1 page, ")
    assert result.stderr == ""
    assert (tmp_path / "out.pdf").read_bytes().startswith(b"%PDF-1.7")


@pytest.mark.parametrize("run", [command, process])
def test_press_writes_to_standard_output(run):
    result = run("press", INVOICE, "--data", DATA, "-o", "-", text=False)
    assert result.returncode == 0
    assert result.stdout.startswith(b"%PDF-1.7") and result.stdout.rstrip().endswith(b"%%EOF")


@pytest.mark.skipif(not Path("/dev/full").is_char_device(), reason="needs a device that is always full")
def test_a_full_device_is_a_clear_error_wherever_it_is_met(run, tmp_path):
    full = "No space left on device"
    result = run("press", INVOICE, "--data", DATA, "-o", "/dev/full")
    assert (result.returncode, Path("/dev/full").is_char_device()) == (1, True)
    assert f"/dev/full: The file cannot be written ({full})" in result.stderr
    with open("/dev/full", "wb") as device:
        for output in ("-", "out.pdf"):
            asked = [sys.executable, "-m", "fleetquill", "press", INVOICE, "--data", DATA, "-o", output]
            failed = subprocess.run(asked, stdout=device, stderr=subprocess.PIPE, text=True, cwd=tmp_path)
            assert failed.returncode == 1
            assert failed.stderr in ("", f"fleetquill: Standard output cannot be read or written ({full}).\n")


def test_a_reader_that_stops_reading_is_no_fault(tmp_path):
    asked = [sys.executable, "-m", "fleetquill", "press", INVOICE, "--data", DATA, "-o", "-"]
    with subprocess.Popen(asked, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=False) as pressing:
        pressing.stdout.close()
        assert pressing.stderr.read() == b""
    assert pressing.returncode == 1


def test_without_an_output_the_pdf_stands_beside_its_source(run, tmp_path):
    (tmp_path / "note.html").write_text("<p>Heron</p>")
    assert run("press", "note.html").stdout.startswith("note.pdf: 1 page")
    assert (tmp_path / "note.pdf").exists()


def test_set_changes_one_value_of_the_data(run, tmp_path):
    (tmp_path / "note.html").write_text("<p>{{ barge.name }} {{ tonnes + 1 }}</p>")
    (tmp_path / "note.yaml").write_text("barge: {name: Heron}\ntonnes: 3")
    result = run("press", "note.html", "--data", "note.yaml", "--set", "barge.name=Teal", "--set", "tonnes=41")
    assert result.returncode == 0
    import pypdfium2 as pdfium

    text = pdfium.PdfDocument(tmp_path / "note.pdf")[0].get_textpage().get_text_bounded()
    assert text == "Teal 42"


def test_a_further_style_sheet_wins_over_the_document(run, tmp_path):
    (tmp_path / "note.html").write_text("<style>@page { size: A4 }</style><p>Heron</p>")
    (tmp_path / "more.css").write_text("@page { size: 100mm 50mm; margin: 5mm }")
    run("press", "note.html", "--style", "more.css")
    import pypdfium2 as pdfium

    width, height = pdfium.PdfDocument(tmp_path / "note.pdf")[0].get_size()
    assert (round(width), round(height)) == (283, 142)


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (["none.html"], ["none.html: The document does not exist."]),
        ([INVOICE, "--data", "none.json"], ["none.json: The data file does not exist."]),
        ([INVOICE, "--data", "bad.json"], ["bad.json, line 2, column 7: The JSON does not parse"]),
        ([INVOICE, "--data", "bad.yaml"], ["bad.yaml, line 2", "The YAML does not parse"]),
        ([INVOICE, "--data", "bad.toml"], ["bad.toml: The TOML does not parse"]),
        ([INVOICE, "--data", "list.txt"], ["A data file of the kind '.txt' is not known.", ".json"]),
        ([INVOICE, "--data", "part.json"], ["invoice.html, line 5", "'number'", "Did you mean 'numbr'?"]),
        ([INVOICE, "--data", DATA, "-o", "no/such/x.pdf"], ["The folder 'no/such' does not exist."]),
        ([INVOICE, "--data", DATA, "-o", "no/"], ["no/: The folder does not exist."]),
        ([INVOICE, "--data", DATA, "-o", "x.rtf"], ["The output's ending '.rtf' is no kind of file"]),
        ([INVOICE, "--data", DATA, "--only", "#totl"], ["no element '#totl'", "Did you mean '#total'?"]),
        ([INVOICE, "--data", DATA, "--page", "A5 landscpe"], ["'A5 landscpe' is not a page."]),
        ([INVOICE, "--data", DATA, "--currency", "eur"], ["'eur' is not a currency.", "'EUR'"]),
        (["finished.html"], ["finished.html: The document is a finished PDF, not text."]),
        (["archive.html"], ["archive.html: The document is an archive"]),
        (["filter.html", "--set", "a=1"], ["filter.html, line 1: There is no filter 'monney'. Did you mean 'money'?"]),
        ([INVOICE, "--style", "none.css"], ["none.css: The style sheet does not exist."]),
        (["latin.html"], ["latin.html: The document is not UTF-8 text (byte 3)."]),
        ([INVOICE, "--data", DATA, "--locale", "xx-YY"], ["The locale 'xx-YY' is not known."]),
        (["broken.html", "--set", "a=1"], ["broken.html, line 2: The template does not parse"]),
        (["wrong.html", "--set", "a=x"], ["wrong.html, line 1", "'money' cannot use 'x'"]),
    ],
)
def test_bad_input_is_one_line_that_says_what_and_where(run, tmp_path, arguments, said):
    (tmp_path / "bad.json").write_text('{"a": 1,\n "b": }')
    (tmp_path / "bad.yaml").write_text("a: 1\nb: [1, 2")
    (tmp_path / "bad.toml").write_text("a = ")
    (tmp_path / "list.txt").write_text("x")
    (tmp_path / "part.json").write_text('{"numbr": 1}')
    (tmp_path / "latin.html").write_bytes(b"<p>\xff")
    (tmp_path / "broken.html").write_text("<p>\n{% if %}")
    (tmp_path / "wrong.html").write_text("{{ a | money }}")
    (tmp_path / "filter.html").write_text("{{ a | monney }}")
    (tmp_path / "finished.html").write_bytes(b"%PDF-1.7\n%\xe2\xe3\xcf\xd3\n")
    (tmp_path / "archive.html").write_bytes(b"PK\x03\x04\xff\xfe")
    result = run("press", *arguments)
    assert result.returncode == 1
    assert result.stderr.startswith("fleetquill: ") and result.stderr.count("\n") == 1
    for words in said:
        assert words in result.stderr
    assert not list(tmp_path.glob("*.part")) and not list(tmp_path.glob(".*.part"))


@pytest.mark.parametrize(
    "arguments", [[], ["press"], ["press", "a.html", "--data"], ["nothing"], ["press", "--colour"]]
)
def test_a_wrong_command_line_exits_with_2(run, arguments):
    assert run(*arguments).returncode == 2


def test_remarks_are_said_one_a_line_and_strict_makes_them_an_error(run, tmp_path):
    (tmp_path / "note.html").write_text('<style>\np { colr: red }\n</style>\n<p>x</p>\n<img src="gone.png" width="50">')
    result = run("press", "note.html")
    assert result.returncode == 0
    lines = result.stderr.splitlines()
    assert lines[0] == "  style: note.html, line 2: The property 'colr' is not known. Did you mean 'color'? (column 5)"
    assert lines[1].startswith("  picture: note.html, line 5: The picture 'gone.png' is not shown.")
    (tmp_path / "note.pdf").unlink()
    strict = run("press", "note.html", "--strict")
    assert strict.returncode == 1 and "2 remarks on a strict run" in strict.stderr
    assert not (tmp_path / "note.pdf").exists()


def test_demo_makes_every_document(demo_made):
    folder, result = demo_made
    assert result.returncode == 0
    remarks = result.stderr.splitlines()  # what a kind cannot hold is said, and nothing else
    assert all(remark.startswith("  kind: ") for remark in remarks) and len(remarks) == 4
    names = [line.split(":")[0] for line in result.stdout.splitlines()]
    fleets = [*FLEETS, "month.pdf"]
    assert names == [f"made/{name}" for name in (*(document.name for document in DOCUMENTS), *FINISHED[:-1], *fleets)]
    assert all((folder.parent / name.replace("{page}", "1")).stat().st_size > 3_000 for name in names)


def test_demo_into_a_place_that_is_a_file_is_a_clear_error(run, tmp_path):
    (tmp_path / "made").write_text("")
    result = run("demo", "made")
    assert result.returncode == 1 and "The folder cannot be made" in result.stderr


def test_fonts_lists_families_with_their_weights(run):
    lines = run("faces").stdout.splitlines()
    assert any(line.startswith("Source Sans Pro: weights 200, 300, 400, 600, 700, 900; italic 200") for line in lines)


def test_data_and_source_on_standard_input(tmp_path):
    (tmp_path / "t.html").write_text("<p>{{ number }}")
    for typed in ('{"number": "F-1"}', "number: F-1\n"):
        result = command("press", tmp_path / "t.html", "--data", "-", "-o", "-", typed=typed, text=False)
        assert result.returncode == 0 and result.stdout.startswith(b"%PDF-"), result.stderr
    result = process("press", "-", typed=b"<p>x", text=False)
    assert result.stdout.startswith(b"%PDF-") and result.stderr == b""


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["-", "--data", "-"], 2, "Only one of source and data"),
        (["a.html", "b.html"], 2, "Only pictures can be given several"),
        (["gone.jpg"], 1, "The picture does not exist"),
        (["a.jpg", "--data", "d.json"], 2, "Pictures take no data"),
        (["http://127.0.0.1:9/", "--timeout", "1"], 1, "127.0.0.1:9"),
        (["a.html", "--header", "x"], 2, "NAME=VALUE"),
        (["a.jpg", "--page", "A44"], 1, "Did you mean 'A4'?"),
        (["a.jpg", "--margin", "2 ells"], 1, "is not a length"),
        (["a.jpg", "--quality", "200"], 1, "from 1 to 95"),
    ],
)
def test_what_the_new_options_do_not_take(tmp_path, monkeypatch, arguments, code, words):
    from PIL import Image

    monkeypatch.chdir(tmp_path)
    Image.new("RGB", (9, 9)).save("a.jpg")
    Path("a.html").write_text("<p>x")
    result = CliRunner().invoke(main, ["press", *arguments])
    assert (result.exit_code, words in result.output) == (code, True), result.output


def test_pictures_and_a_folder_become_documents(tmp_path, monkeypatch):
    from PIL import Image

    monkeypatch.chdir(tmp_path)
    Path("scans").mkdir()
    for name in ("a.jpg", "b.png", "scans/c.jpg"):
        Image.effect_noise((300, 200), 50).convert("RGB").save(name)
    assert "2 pages" in CliRunner().invoke(main, ["press", "a.jpg", "b.png", "-o", "two.pdf"]).output
    assert "1 page" in CliRunner().invoke(main, ["press", "scans", "--page", "A6", "--margin", "5mm"]).output
    assert Path("scans.pdf").is_file()


def test_the_pdf_of_a_folder_is_named_for_the_folder(tmp_path, monkeypatch):
    from PIL import Image

    scans = tmp_path / "scans 1.2"
    scans.mkdir()
    Image.new("L", (30, 20)).save(scans / "a.png")
    monkeypatch.chdir(scans)
    for source in (".", "../scans 1.2"):
        result = CliRunner().invoke(main, ["press", source])
        assert (result.exit_code, "1 page" in result.output) == (0, True), result.output
    assert (scans / "scans 1.2.pdf").is_file() and (tmp_path / "scans 1.2.pdf").is_file()


@pytest.mark.parametrize(
    ("options", "name", "starts"),
    [
        (["-o", "order.docx"], "order.docx", b"PK"),
        (["-o", "order.xlsx"], "order.xlsx", b"PK"),
        (["-o", "order.csv"], "order.csv", b"barge,toll"),
        (["-o", "order.txt", "--wide", "40"], "order.txt", b"Order"),
        (["-o", "order.md"], "order.md", b"# Order"),
        (["-o", "page-{page}.svg"], "page-1.svg", b"<svg"),
        (["-o", "page-{page:03}.png", "--dpi", "40"], "page-001.png", b"\x89PNG"),
        (["--as", "txt"], "order.txt", b"Order"),
        (["--as", "svg"], "order-1.svg", b"<svg"),
        (["-o", "data", "--as", "csv", "--values", "shown", "--delimiter", ";"], "data", b"barge;toll"),
    ],
)
def test_the_kind_follows_from_the_ending_or_is_asked_for(run, tmp_path, monkeypatch, options, name, starts):
    monkeypatch.chdir(tmp_path)
    rows = "<tr><th>barge<th>toll<tr><td>Heron<td>1,204.50"
    (tmp_path / "order.html").write_text(f"<h1>Order</h1><table>{rows}</table>")
    result = run("press", "order.html", *options)
    assert result.returncode == 0, result.stderr
    assert (tmp_path / name).read_bytes().startswith(starts)


@pytest.mark.parametrize(
    ("options", "message"),
    [
        (["-o", "order.svg"], "2 pages"),
        (["-o", "order-{page}.pdf"], "has no place in its name"),
        (["-o", "order.csv"], "no table"),
        (["--as", "doc"], "Did you mean 'docx'"),
        (["-o", "o.txt", "--wide", "3"], "from 20 to 1000"),
        (["-o", "o.csv", "--values", "all"], "raw or shown"),
    ],
)
def test_what_a_kind_cannot_hold_is_said(run, tmp_path, monkeypatch, options, message):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "order.html").write_text("<p>one<p style='break-before:page'>two")
    result = run("press", "order.html", *options)
    assert result.returncode != 0
    assert message in result.stderr
    assert [path.name for path in tmp_path.iterdir()] == ["order.html"]
