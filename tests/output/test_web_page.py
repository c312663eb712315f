"""Documents as pages of the web: one file that a browser shows."""

import base64
import io
import json
import re
import shutil
import subprocess
from decimal import Decimal

import pytest
from lxml import etree, html
from PIL import Image

import fleetquill as fq

BROWSER = shutil.which("chromium") or shutil.which("chromium-browser")


def written(source, **options):
    stream = io.BytesIO()
    summary = fq.write(source, stream, kind="html", **options)
    return stream.getvalue().decode(), summary


def tree_of(source, **options):
    return html.document_fromstring(written(source, **options)[0])


@pytest.fixture
def folder(tmp_path):
    Image.new("RGB", (4, 4), "#0f4c4a").save(tmp_path / "barge.png")
    (tmp_path / "sheets").mkdir()
    (tmp_path / "more.css").write_text("h1 { color: teal }")
    css = "@import url('../more.css') screen; p { background: url(../barge.png) } q { background: url(gone.png) }"
    (tmp_path / "sheets" / "main.css").write_text(css)
    return tmp_path


HTML = "<link rel=stylesheet href=sheets/main.css><title>Tolls</title><h1>Tolls</h1><p><img src=barge.png alt=x>"


def test_everything_is_in_the_file(folder):
    text, summary = written(fq.Manuscript.from_html(HTML, base=folder))
    root = html.document_fromstring(text)
    picture = root.find(".//img").get("src")
    assert base64.b64decode(picture.removeprefix("data:image/png;base64,")) == (folder / "barge.png").read_bytes()
    css = " ".join(element.text for element in root.iter("style"))
    assert "@media screen { h1 { color: teal } }" in css
    assert f'background: url("{picture}")' in css
    assert root.findall(".//link") == []
    assert [remark.kind for remark in summary.remarks if "gone.png" in remark.message] == ["kind"]


def test_the_faces_of_the_press_go_along():
    m = fq.Manuscript.from_html(
        "<p style='font-family:Source Serif Pro'>Heron <b>sails</b></p><p style='font-family:serif'>x"
    )
    css = " ".join(element.text for element in tree_of(m).iter("style"))
    rules = re.findall(
        r'@font-face { font-family: "([^"]+)"; font-weight: (\d+); font-style: (\w+); src: url\(data:font', css
    )
    assert rules == [("Source Serif Pro", "400", "normal"), ("Source Serif Pro", "700", "normal")]
    assert "@font-face" not in written(m, linked=True)[0]


def test_a_document_that_names_no_font_is_set_without_serifs_as_on_paper():
    said, _ = written(fq.Manuscript.from_html("<p>x"))
    assert "html { font-family: sans-serif }" in said
    own, _ = written(fq.Manuscript.from_html("<style>html { font-family: serif }</style><p>x"))
    assert own.index("font-family: sans-serif") < own.index("font-family: serif")  # what the document says comes later


def test_links_are_kept_on_request(folder):
    root = tree_of(fq.Manuscript.from_html(HTML, base=folder), linked=True)
    assert root.find(".//img").get("src") == "barge.png"
    assert [link.get("href") for link in root.iter("link")] == ["sheets/main.css"]


def test_what_only_pages_know_becomes_what_browsers_know():
    m = fq.Manuscript(title="May", language="en")
    m.heading("Tolls")
    m.paragraph(
        "Paid ", fq.value(Decimal("1204.5"), "money:EUR"), fq.footnote("As the ", fq.strong("keeper"), " says.")
    )
    m.chart("bar", [{"lock": "Saltgate", "boats": 3}], x="lock", y="boats")
    m.code("qr", "W-31400")
    m.table([{"a": "x", "n": 2}, {"a": "y", "n": 3}], [fq.Column("a"), fq.Column("n", total="sum", carry=True)])
    root = tree_of(m)
    assert [element.tag for element in root.iter() if str(element.tag).startswith("fq-")] == []
    assert root.findtext(".//title") == "May"
    assert "Paid €1,204.50" in root.text_content()
    call, note = root.find(".//a[@class='fq-note-call']"), root.find(".//ol[@class='fq-notes']/li")
    assert (call.get("href"), note.get("id"), note.text_content()) == ("#fq-note-1", "fq-note-1", "As the keeper says.")
    labels = [svg.get("aria-label") for svg in root.iter("svg")]
    assert labels[0].startswith("Bar chart.") and labels[1] == "W-31400"
    rows = [" ".join(cell.text_content() for cell in row) for row in root.iter("tr")]
    assert rows == ["a n", "x 2", "y 3", "Total 5"]


@pytest.mark.parametrize("group", ["", "a"])
def test_a_ledger_is_a_table_with_all_its_rows(group):
    m = fq.Manuscript()
    rows = ({"a": f"<{number // 1000}>", "n": number} for number in range(2500))
    m.ledger(rows, [fq.Column("a"), fq.Column("n", form="#,##0", total="sum")], group=group, caption="Numbers", id="n")
    (table,) = tree_of(m).iter("table")
    assert (table.get("id"), table.findtext("caption")) == ("n", "Numbers")
    texts = [[cell.text_content() for cell in row] for row in table.iter("tr")]
    assert texts[0] == ["a", "n"] and texts[-1] == ["Total", "3,123,750"]
    assert [row for row in texts if len(row) == 1] == ([["<0>"], ["<1>"], ["<2>"]] if group else [])
    numbers = [row[1] for row in texts if len(row) == 2 and row[0] in ("<0>", "<1>", "<2>")]
    assert len(numbers) == 2500 + 3 * bool(group)


def test_pages_are_sheets_on_the_screen():
    m = fq.Manuscript.from_html("<title>A&amp;B</title><p style='break-after:page'>one<p>two")
    text, summary = written(m, shown="pages")
    root = html.document_fromstring(text)
    sheets = root.findall(".//div[@class='sheet']")
    assert [" ".join("".join(t.itertext()) for t in sheet.iter("text")) for sheet in sheets] == ["one", "two"]
    assert (summary.page_count, root.findtext(".//title")) == (2, "A&B")


def test_what_would_run_or_break_out_is_not_there():
    m = fq.Manuscript.from_html("<script>alert(1)</script><style>p::after { content: '<\\/style><b>' }</style><p>x")
    text, _ = written(m)
    root = html.document_fromstring(text)
    assert root.findall(".//script") == [] and root.findall(".//b") == []
    assert root.find(".//p").text_content() == "x"


def test_a_stranger_reads_no_other_file(tmp_path):
    (tmp_path / "key.txt").write_text("0f4c4a-the-key")
    inner = tmp_path / "in"
    inner.mkdir()
    (inner / "page.html").write_text("<style>p { background: url(../key.txt) }</style><p><img src=../key.txt>")
    press = fq.Press(policy=fq.Policy(strangers=True))
    stream = io.BytesIO()
    press.write(inner / "page.html", stream, kind="html")
    secret = base64.b64encode(b"0f4c4a-the-key")
    assert b"the-key" not in stream.getvalue() and secret not in stream.getvalue()


def test_the_file_composes_again():
    m = fq.Manuscript()
    m.heading("Tolls")
    m.bullets(["barley", "clay"])
    text, _ = written(m)
    page = fq.compose(fq.Manuscript.from_html(text)).pages[0]
    assert page.text.split("\n")[0] == "Tolls" and "barley" in page.text
    assert etree.HTML(text) is not None


def boxes_in_browser(source, selectors, tmp_path):
    """The rectangles of elements in a browser's window of 900 px: x, y, width, height."""
    path = tmp_path / "page.html"
    script = f"{json.dumps(selectors)}.map(s => document.querySelector(s).getBoundingClientRect())"
    script = f"<script>document.title = JSON.stringify({script}.map(b => [b.x, b.y, b.width, b.height]))</script>"
    path.write_text(written(source)[0].replace("</body>", script + "</body>"))
    command = [BROWSER, "--headless", "--no-sandbox", "--window-size=900,800", "--hide-scrollbars", "--dump-dom"]
    dom = subprocess.run([*command, path.as_uri()], capture_output=True, check=True, text=True).stdout
    return json.loads(html.document_fromstring(dom).findtext(".//title"))


@pytest.mark.skipif(BROWSER is None, reason="no browser is installed")
@pytest.mark.parametrize("first_page_only", [True, False])
def test_the_body_is_a_page_and_layers_lie_where_they_do_on_paper(folder, tmp_path, first_page_only):
    m = fq.Manuscript(title="May", language="en", page="A4", margin="20mm 18mm", base=folder)
    with m.layer(first_page_only=first_page_only) as sheet:
        sheet.picture("barge.png", x=sheet.width - 98, y="10mm", width="16mm", alt="x")
    m.paragraph("Freight")
    m.table([{"a": "x", "n": 2}], ["a", "n"])
    picture, paragraph, table = boxes_in_browser(m, ["img", "p", "table"], tmp_path)
    mm = 96 / 25.4
    left = (900 - 210 * mm) / 2
    assert picture[0] - left == pytest.approx(fq.compose(m).locate("img")[0].x / 0.75, abs=0.5)
    assert picture[1] == pytest.approx(10 * mm, abs=0.5)
    assert paragraph[0] - left == pytest.approx(18 * mm, abs=0.5)
    assert (table[0], table[2]) == pytest.approx((paragraph[0], 174 * mm), abs=0.5)
