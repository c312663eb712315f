"""Damaged files: read as far as they can be, with a remark for each repair, or refused in our own words."""

import re
import subprocess

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

import fleetquill as fq
from readers import needs


@pytest.fixture(scope="module")
def made():
    html = "".join(f"<h1>Page {n}</h1><p style='break-after:page'>text {n}</p>" for n in range(1, 4))
    return fq.compose(fq.Manuscript.from_html(f"<html lang=en><title>Three</title>{html}<p>last")).to_bytes()


@pytest.fixture(scope="module")
def table(made, tmp_path_factory):
    """The same with a plain table and no object streams, as older files are."""
    needs("qpdf")
    path = tmp_path_factory.mktemp("old") / "old.pdf"
    path.write_bytes(made)
    return subprocess.run(
        ["qpdf", "--object-streams=disable", "--stream-data=uncompress", str(path), "-"], capture_output=True
    ).stdout


def texts(content):
    return [page.text.split("\n")[0] for page in fq.Volume(content).pages]


WANTED = ["Page 1", "Page 2", "Page 3", "last"]


def wrong_offsets(content):
    return re.sub(rb"(\d{10}) 00000 n", lambda row: b"%010d 00000 n" % (int(row[1]) + 7), content)


def one_wrong_offset(content):
    rows = list(re.finditer(rb"(\d{10}) 00000 n", content))
    row = rows[len(rows) // 2]
    return content[: row.start()] + b"0000000009 00000 n" + content[row.end() :]


DAMAGES = {
    "no start of its table": lambda content: content.replace(b"startxref", b"startwxyz"),
    "cut off at its end": lambda content: content[: content.rindex(b"startxref") - 20],
    "junk before it": lambda content: b"From: somebody\r\n\r\n" + content,
    "a table elsewhere": lambda content: re.sub(rb"startxref\s+\d+", b"startxref\n17", content),
    "no marks of its end": lambda content: content.replace(b"%%EOF", b""),
    "offsets that are wrong": wrong_offsets,
    "one offset that is wrong": one_wrong_offset,
    "objects without their ends": lambda content: content.replace(b"endobj", b"      "),
    "lengths that are wrong": lambda content: re.sub(rb"/Length \d+", b"/Length 3", content),
    "no table": lambda content: content[: content.rindex(b"\nxref")] + b"\ntrailer\n<< /Root 1 0 R >>",
}


@pytest.mark.parametrize("damage", DAMAGES.values(), ids=DAMAGES)
def test_what_is_damaged_is_read_all_the_same(table, damage):
    broken = damage(table)
    assert broken != table
    assert texts(broken) == WANTED


@pytest.mark.parametrize("name", ["no start of its table", "junk before it", "offsets that are wrong", "no table"])
def test_each_repair_is_remarked(table, name):
    remarks = fq.Volume(DAMAGES[name](table)).remarks
    assert remarks and {remark.kind for remark in remarks} == {"damage"}


def test_a_whole_file_has_no_remarks(made, table):
    assert fq.Volume(made).remarks == fq.Volume(table).remarks == ()


def test_object_streams_are_found_without_a_table(made):
    assert texts(made.replace(b"startxref", b"startwxyz")) == WANTED


def test_pages_that_nothing_leads_to_are_found(table):
    broken = re.sub(rb"/Pages \d+ 0 R", b"/Pages 999 0 R", table)
    volume = fq.Volume(broken)
    assert volume.page_count == 4
    assert any("order" in remark.message for remark in volume.remarks)


def test_what_was_written_last_holds(table):
    """An update whose table cannot be read: the scan takes the later of two objects with one number."""
    number, catalog = next(
        (int(found[1]), found[2])
        for found in re.finditer(rb"(\d+) 0 obj\s*(<<.*?>>)\s*endobj", table, re.S)
        if b"/Type /Catalog" in found[2]
    )
    update = b"\n%d 0 obj\n%b\nendobj\n" % (
        number,
        catalog.replace(b"<<", b"<< /Lang (fr)", 1).replace(b"/Lang (en)", b""),
    )
    assert fq.Volume(table.replace(b"startxref", b"startwxyz") + update).metadata["language"] == "fr"


@pytest.mark.parametrize(
    ("content", "message"),
    [
        (b"", "no PDF file"),
        (b"<html>", "no PDF file"),
        (b"%PDF-1.7\n", "no pages can be found"),
        (
            b"%PDF-1.7\n1 0 obj\n<</Type/Catalog/Pages 2 0 R>>\nendobj\n2 0 obj\n<</Kids[]/Count 0>>\nendobj\n",
            "no pages",
        ),
    ],
)
def test_what_is_none_is_said_to_be(content, message):
    with pytest.raises(fq.SourceError, match=message):
        fq.Volume(content)


def test_a_tree_of_pages_that_goes_in_a_circle_ends():
    content = (
        b"%PDF-1.7\n1 0 obj\n<</Type/Catalog/Pages 2 0 R>>\nendobj\n"
        b"2 0 obj\n<</Type/Pages/Kids[2 0 R 3 0 R 3 0 R]/Count 3>>\nendobj\n"
        b"3 0 obj\n<</Type/Page/Parent 2 0 R/MediaBox[0 0 10 10]>>\nendobj\ntrailer\n<</Root 1 0 R>>"
    )
    assert fq.Volume(content).page_count == 1


def test_a_stream_that_unpacks_without_end_is_refused():
    import zlib

    from fleetquill.pdf import filters

    bomb = zlib.compress(bytes(filters.MOST_UNPACKED + 10), 9)
    with pytest.raises(filters.PdfSyntaxError, match="unpacks to more"):
        filters.unpacked(bomb, ["FlateDecode"], [])


@settings(max_examples=150, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(data=st.data())
def test_no_damage_raises_anything_but_our_own(made, table, data):
    content = bytearray(data.draw(st.sampled_from([made, table])))
    for _ in range(data.draw(st.integers(1, 8))):
        at = data.draw(st.integers(0, len(content) - 1))
        kind = data.draw(st.sampled_from(["flip", "drop", "double", "swap"]))
        length = data.draw(st.integers(1, 60))
        if kind == "flip":
            content[at] ^= data.draw(st.integers(1, 255))
        elif kind == "drop":
            del content[at : at + length]
        elif kind == "double":
            content[at:at] = content[at : at + length]
        else:
            content[at : at + length] = bytes(reversed(content[at : at + length]))
    try:
        volume = fq.Volume(bytes(content))
        for page in volume.pages:
            assert isinstance(page.text, str)
        assert isinstance(volume.outline, tuple) and isinstance(volume.fields, dict)
        assert all(isinstance(value, str) for value in volume.metadata.values())
        fq.bind([bytes(content)], __import__("io").BytesIO())
    except fq.FleetQuillError:
        pass
