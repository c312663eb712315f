"""Files that go along with a PDF: from Python, from links, from the command line's option; what is refused."""

import io
from datetime import UTC, datetime

import pypdfium2 as pdfium
import pytest

import fleetquill as fq
from fleetquill.pdf.reading import Stream
from structured import subject_of


def files_of(content):
    """Name, content, media type, relationship and description of each."""
    reader = subject_of(content).reader
    found = []
    for ref in reader.array(reader.catalog.get("AF")):
        said = reader.dictionary(ref)
        stream = reader.resolve(reader.dictionary(said["EF"])["F"])
        assert isinstance(stream, Stream)
        assert stream.entries["Params"]["Size"] == len(stream.content)
        name, description = reader.text(said["UF"]), reader.text(said["Desc"])
        found.append((name, stream.content, stream.entries["Subtype"], said["AFRelationship"], description))
    return found


def written(manuscript, **options):
    stream = io.BytesIO()
    summary = fq.write(manuscript, stream, kind="pdf", **options)
    return stream.getvalue(), summary.remarks


def test_bytes_and_files_go_along(tmp_path, check_pdf):
    (tmp_path / "tolls.csv").write_text("lock,toll\n")
    manuscript = fq.Manuscript.from_html("<p>x")
    manuscript.attach(b"<order/>", "order.xml", relationship="Data", description="The order")
    manuscript.attach(tmp_path / "tolls.csv")
    content, _ = written(manuscript)
    assert files_of(content) == [
        ("order.xml", b"<order/>", "text/xml", "Data", "The order"),
        ("tolls.csv", b"lock,toll\n", "text/csv", "Unspecified", "tolls.csv"),
    ]
    document = pdfium.PdfDocument(content)
    assert {document.get_attachment(n).get_name() for n in range(document.count_attachments())} == {
        "order.xml", "tolls.csv"
    }  # fmt: skip
    check_pdf(content)


def test_links_name_files_that_go_along(tmp_path):
    (tmp_path / "a b.json").write_text("{}")
    html = (
        '<link rel="attachment" href="a%20b.json" title="Figures" data-relationship="Source">'
        '<link rel=attachment href="gone.xml"><link rel=attachment><link rel=attachment href="a%20b.json" '
        'data-relationship="Dta"><p>x'
    )
    content, remarks = written(fq.Manuscript.from_html(html, base=tmp_path))
    assert files_of(content) == [("a b.json", b"{}", "application/json", "Source", "Figures")]
    assert [remark.kind for remark in remarks] == ["attachment"] * 3
    assert "gone.xml" in remarks[0].message


def test_what_is_not_attached_is_remarked_once_composed(tmp_path):
    edition = fq.compose(fq.Manuscript.from_html("<link rel=attachment href=gone.xml><p>x", base=tmp_path))
    assert [remark.kind for remark in edition.remarks] == ["attachment"]
    edition.to_bytes()
    assert len(edition.remarks) == 1


def test_files_given_to_write_and_compose_go_along(tmp_path):
    path = tmp_path / "a.txt"
    path.write_text("x")
    assert files_of(written(fq.Manuscript.from_html("<p>x"), attach=[path])[0])[0][:2] == ("a.txt", b"x")
    assert files_of(fq.compose(fq.Manuscript.from_html("<p>x"), attach=[path]).to_bytes())[0][0] == "a.txt"


def test_the_same_name_twice_gets_a_number():
    manuscript = fq.Manuscript.from_html("<p>x")
    for number in range(3):
        manuscript.attach(b"%d" % number, "a.txt")
    assert [one[0] for one in files_of(written(manuscript)[0])] == ["a.txt", "a 2.txt", "a 3.txt"]


@pytest.mark.parametrize(
    ("given", "error", "said"),
    [
        ({"file": b"x"}, fq.OptionError, "has no name"),
        ({"file": b"x", "name": "a/b"}, fq.OptionError, "not the name of an attachment"),
        ({"file": b"x", "name": "a", "kind": "xml"}, fq.OptionError, "no media type"),
        ({"file": b"x", "name": "a", "relationship": "Dta"}, fq.OptionError, "Did you mean 'Data'"),
        ({"file": "gone.xml"}, fq.SourceError, "gone.xml: The file that is to be attached cannot be read"),
    ],
)
def test_what_cannot_be_attached_is_said_at_once(given, error, said):
    with pytest.raises(error, match=said):
        fq.Manuscript.from_html("<p>x").attach(**given)


def test_dates_are_in_a_file_only_where_they_are_given():
    manuscript = fq.Manuscript.from_html("<p>x")
    assert b"Date" not in b"".join(open_objects(written(manuscript)[0]))
    content, _ = written(manuscript, date=datetime(2026, 5, 4, 3, 2, 1, tzinfo=UTC))
    assert pdfium.PdfDocument(content).get_metadata_dict()["CreationDate"] == "D:20260504030201+00'00'"


def open_objects(content):
    reader = subject_of(content).reader
    return [repr(reader.get(number)).encode() for number in reader.numbers()]
