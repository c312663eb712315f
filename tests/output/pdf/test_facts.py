"""What a PDF says of itself: title, producer, direction, what its pages are numbered, how large its letters are."""

import io
import re
import zlib

import pypdfium2 as pdfium
import pytest
from hypothesis import given
from hypothesis import strategies as st
from lxml import etree

import fleetquill as fq
from fleetquill.drawing.paths import rectangle
from fleetquill.graphics.reduction import PictureRules
from fleetquill.output.pdf.document import open_document
from fleetquill.output.pdf.store import PdfStore
from fleetquill.style.values import Rgba


def written(html, **options):
    stream = io.BytesIO()
    fq.write(fq.Manuscript.from_html(html), stream, kind="pdf", **options)
    return stream.getvalue()


def packet(content):
    return etree.fromstring(re.search(rb"<x:xmpmeta.*</x:xmpmeta>", content, re.DOTALL)[0])


@pytest.mark.parametrize(
    "title",
    ["Tolls & fees <May> \"'", "a\x00b\x0bc\x1f", "half \ud800 a pair", "]]>", "Zölle \U0001f6a2"],
)
def test_the_metadata_is_well_formed_whatever_the_title_holds(title):
    for content in (
        written("<p>x", title=title),
        fq.compose(fq.Manuscript(title=title, author=title, language="en")).to_bytes(),
    ):
        said = packet(content).findtext(".//{*}title/{*}Alt/{*}li")
        assert said
        assert not set(said) & set("\x00\x0b\x1f\ud800")
        shown = pdfium.PdfDocument(content).get_metadata_dict()["Title"]
        assert shown.split() == said.split()


def test_the_producer_has_its_version():
    content = written("<p>x")
    producer = f"Fleet Quill {fq.__version__}"
    assert pdfium.PdfDocument(content).get_metadata_dict()["Producer"] == producer
    assert packet(content).findtext(".//{*}Producer") == producer


@pytest.mark.parametrize(
    ("html", "is_said"),
    [
        ("<html dir=rtl><p>x", True),
        ("<body dir=RTL><p>x", True),
        ("<html dir=ltr><p>x", False),
        ("<p dir=rtl>x", False),
    ],
)
def test_documents_from_right_to_left_say_so(html, is_said):
    assert (b"/Direction/R2L" in inner(written(html))) == is_said


def inner(content):
    """A file with its object streams unpacked."""
    found = [content]
    for match in re.finditer(rb"<<[^>]*?/ObjStm[^>]*>>\nstream\n", content):
        length = int(re.search(rb"/Length (\d+)", match[0])[1])
        data = content[match.end() : match.end() + length]
        found.append(zlib.decompress(data) if b"/FlateDecode" in match[0] else data)
    return b"\n".join(found)


def labels(html):
    document = pdfium.PdfDocument(written(html))
    return [document.get_page_label(number) for number in range(len(document))]


PAGES = "<p>1<p style='break-before: page'>2<p style='break-before: page'>3<p style='break-before: page'>4"
CASES = [
    ("@page { @bottom-right { content: counter(page, lower-roman) } }", ["i", "ii", "iii", "iv"]),
    ("@page :first { counter-reset: page -1 }", ["", "1", "2", "3"]),
    ("p:nth-of-type(3) { counter-reset: page 1 }", ["1", "2", "1", "2"]),
    ("p:nth-of-type(n+3) { page: body } @page { @bottom-left { content: counter(page, upper-alpha) } } "
     "@page body { @bottom-left { content: 'Page ' counter(page) } } p:nth-of-type(3) { counter-reset: page 1 }",
     ["A", "B", "1", "2"]),
]  # fmt: skip


@pytest.mark.parametrize(("css", "expected"), CASES)
def test_pages_are_labelled_as_they_are_numbered(css, expected):
    html = f"<style>{css}</style>{PAGES}"
    assert labels(html) == expected


def test_simple_numbers_need_no_labels():
    assert b"PageLabels" not in inner(written(PAGES))
    assert b"PageLabels" in inner(written(f"<style>p:nth-of-type(2) {{ counter-reset: page 1 }}</style>{PAGES}"))


def test_sizes_of_letters_are_exact():
    content = written("<p style='font-size: 10pt'>x</p>")
    for match in re.finditer(rb"<<[^>]*>>\nstream\n", content):
        length = int(re.search(rb"/Length (\d+)", match[0])[1])
        data = content[match.end() : match.end() + length]
        data = zlib.decompress(data) if b"/FlateDecode" in match[0] else data
        if b" Tf" in data:
            assert b"13.3333 Tf" in data
            return
    pytest.fail("no text")


@given(*[st.floats(-50, 50, allow_nan=False, width=32)] * 4)
def test_an_upright_rectangle_is_one_operator_with_its_corners_where_they_were(x, y, width, height):
    def operators(path):
        document = open_document(io.BytesIO(), PdfStore(), PictureRules())
        canvas = document.canvas(100, 100)
        canvas.fill_path(path, Rgba(0, 0, 0, 1))
        return canvas.content()

    steps = rectangle(x, y, width, height)
    found = re.search(r"(\S+) (\S+) (\S+) (\S+) re\nf", operators(steps))
    left, top, wide, high = map(float, found.groups())
    corners = [
        tuple(map(float, pair))
        for pair in re.findall(r"(\S+) (\S+) [ml]\b", operators([*steps[:-1], ("l", x, y), ("h",)]))
    ]
    assert (left, top) == corners[0]
    assert (left + wide, top + high) == pytest.approx(corners[2], abs=1e-9)


def test_a_turned_square_is_none():
    document = open_document(io.BytesIO(), PdfStore(), PictureRules())
    canvas = document.canvas(100, 100)
    canvas.fill_path([("m", 0, 5), ("l", 5, 0), ("l", 10, 5), ("l", 5, 10), ("h",)], Rgba(0, 0, 0, 1))
    assert " re" not in canvas.content()
