"""The PDF itself: what readers find in it."""

from __future__ import annotations

import io
import re

import pypdfium2 as pdfium
import pypdfium2.raw as raw
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

import fleetquill as fq
from fleetquill.pdf.objects import Name, Raw, Ref, number, write


@pytest.mark.parametrize(
    ("value", "expected"),
    [
        (None, b"null"), (True, b"true"), (7, b"7"), (0.5, b"0.5"), (1e-9, b"0"), (1234567.891, b"1234567.891"),
        (float("nan"), b"0"),
        (float("-inf"), b"-100000000"), (Name("A B#"), b"/A#20B#23"), ("a(b)\\", b"(a\\(b\\)\\\\)"), ("é", b"<FEFF00E9>"), (b"\x00\xff", b"<00FF>"),
        ([1, [2]], b"[1 [2]]"), ({"K": Ref(3), "N": None}, b"<</K 3 0 R>>"), (Raw("1 2"), b"1 2"),
    ],
)  # fmt: skip
def test_objects_are_written_as_the_standard_says(value, expected):
    assert write(value) == expected


@given(st.floats(allow_nan=True, allow_infinity=True))
def test_numbers_never_have_an_exponent(value):
    assert re.fullmatch(r"-?\d+(\.\d+)?", number(value))


def picture(mode: str, size: tuple[int, int], kind: str, **options: object) -> bytes:
    image = Image.new(
        mode,
        size,
        {
            "RGB": (200, 30, 60),
            "L": 90,
            "RGBA": (200, 30, 60, 128),
            "CMYK": (0, 200, 200, 0),
            "1": 1,
            "P": 3,
            "LA": (90, 100),
            "I;16": 900,
        }[mode],
    )
    out = io.BytesIO()
    image.save(out, kind, **options)
    return out.getvalue()


@pytest.mark.parametrize(
    ("mode", "kind"),
    [("RGB", "PNG"), ("L", "PNG"), ("RGBA", "PNG"), ("LA", "PNG"), ("P", "PNG"), ("1", "PNG"), ("I;16", "PNG"),
     ("RGB", "JPEG"), ("L", "JPEG"), ("CMYK", "JPEG"), ("RGB", "GIF"), ("RGB", "WEBP"), ("RGB", "BMP"), ("RGB", "TIFF")],
)  # fmt: skip
def test_pictures_of_all_kinds_are_shown(compose, tmp_path, check_pdf, mode, kind):
    (tmp_path / "p").write_bytes(picture(mode, (40, 30), kind))
    edition = compose("<img src=p style='display:block'>")
    assert all("prints at 96 dpi" in remark.message for remark in edition.remarks)
    content = edition.to_bytes()
    check_pdf(content)
    shot = pdfium.PdfDocument(content)[0].render(scale=1).to_pil().convert("RGB")
    assert shot.getpixel((5, 5)) != (255, 255, 255) or mode in ("1", "P")
    assert shot.getpixel((200, 200)) == (255, 255, 255)


def test_jpeg_and_png_data_go_in_as_they_are(compose, tmp_path):
    jpeg, png = picture("RGB", (64, 64), "JPEG"), picture("RGB", (64, 64), "PNG")
    (tmp_path / "a.jpg").write_bytes(jpeg)
    (tmp_path / "b.png").write_bytes(png)
    content = compose("<img src=a.jpg><img src=b.png><img src=a.jpg>").to_bytes()
    assert content.count(jpeg) == 1
    (length,) = re.findall(rb"IDAT", png) and [png.index(b"IDAT")]
    size = int.from_bytes(png[length - 4 : length], "big")
    assert png[length + 4 : length + 4 + size] in content


@pytest.mark.parametrize("orientation", range(1, 9))
def test_the_exif_orientation_is_honoured(compose, tmp_path, orientation):
    image = Image.new("RGB", (60, 40), "white")
    image.paste("red", (0, 0, 20, 20))
    exif = Image.Exif()
    exif[0x0112] = orientation
    image.save(tmp_path / "p.jpg", exif=exif, quality=95)
    content = compose("<img src=p.jpg style='display:block'>").to_bytes()
    shot = pdfium.PdfDocument(content)[0].render(scale=96 / 72).to_pil().convert("RGB")
    wide, high = (60, 40) if orientation < 5 else (40, 60)
    corners = {(x, y): shot.getpixel((4 + x * (wide - 9), 4 + y * (high - 9))) for x in (0, 1) for y in (0, 1)}
    red = {corner for corner, (r, g, _) in corners.items() if r > 180 and g < 90}
    expected = {1: (0, 0), 2: (1, 0), 3: (1, 1), 4: (0, 1), 5: (0, 0), 6: (1, 0), 7: (1, 1), 8: (0, 1)}[orientation]
    assert red == {expected}


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"not a picture", "is not a picture that can be read"),
        (b"", "is not a picture"),
        (picture("RGB", (9, 9), "PNG")[:20], "is not a picture"),
    ],
)
def test_a_damaged_picture_is_a_remark_and_a_placeholder(compose, px, tmp_path, content, said):
    (tmp_path / "p.png").write_bytes(content)
    edition = compose("<img id=a src=p.png width=80 height=50>")
    assert said in edition.remarks[0].message
    assert px(edition, "#a")[0].rect[2:] == (80, 50)


def test_sizes_follow_from_the_ratio(compose, px, tmp_path):
    (tmp_path / "p.png").write_bytes(picture("RGB", (60, 30), "PNG"))
    edition = compose(
        "<style>img{display:block}</style>"
        + "".join(
            f"<img src=p.png style='{s}'>" for s in ("", "width:100px", "height:10px", "max-width:30px", "width:50%")
        )
    )
    assert [p.rect[2:] for p in px(edition, "img")] == [(60, 30), (100, 50), (20, 10), (30, 15), (200, 100)]


def test_links_lead_to_the_web_and_into_the_document(compose, read_pdf):
    edition = compose(
        '<p><a href="https://reedwater.example/ä?b=1">web</a> <a href="#there">in</a> <a href="#gone">gone</a></p>'
        '<p id=there style="break-before:page">x</p>'
    )
    content = edition.to_bytes()
    assert [r.message for r in edition.remarks] == ["A link leads to '#gone', which is not in the document."]
    document = pdfium.PdfDocument(content)
    page = document[0]
    found = []
    position, link = raw.c_int(0) if hasattr(raw, "c_int") else __import__("ctypes").c_int(0), raw.FPDF_LINK()
    while raw.FPDFLink_Enumerate(page.raw, position, link):
        destination = raw.FPDFLink_GetDest(document.raw, link)
        found.append(raw.FPDFDest_GetDestPageIndex(document.raw, destination) if destination else None)
    assert found == [None, 1, None]


def test_bookmarks_nest_by_level_and_lead_to_their_pages(compose):
    edition = compose("<h1>A</h1><h3>B</h3><h2>C</h2><h1 style='break-before:page'>D <b>e</b></h1>")
    tree = [(b.label, b.page, [c.label for c in b.children]) for b in edition.outline]
    assert tree == [("A", 1, ["B", "C"]), ("D e", 2, [])]
    titles = [
        (b.get_title(), b.level, b.get_dest().get_index()) for b in pdfium.PdfDocument(edition.to_bytes()).get_toc()
    ]
    assert titles == [("A", 0, 0), ("B", 1, 0), ("C", 1, 0), ("D e", 0, 1)]


def test_metadata_stands_in_both_places_and_a_date_only_where_given(compose):
    head = "<html lang=de><title>Fracht &amp; Zoll</title><meta name=author content='Ä'>"
    plain = compose(f"{head}<p>x", plain=False).to_bytes()
    assert b"CreationDate" not in plain
    dated = compose(f"{head}<meta name=date content='2026-06-02T10:00:00+02:00'><p>x", plain=False)
    found = pdfium.PdfDocument(dated.to_bytes()).get_metadata_dict()
    assert (found["Title"], found["Author"], found["CreationDate"]) == ("Fracht & Zoll", "Ä", "D:20260602100000+02'00'")
    assert plain.count(b"<dc:language><rdf:Bag><rdf:li>de</rdf:li>") == 1  # XMP stands open in the file
    assert b"xmp:CreateDate" in dated.to_bytes() and b"xmp:CreateDate" not in plain


def test_colours_and_transparency_reach_the_page(compose):
    edition = compose(
        "<div style='width:50px;height:50px;background:rgba(255,0,0,.5)'></div><div style='width:50px;height:50px;background:#0f4c4a'>"
    )
    shot = pdfium.PdfDocument(edition.to_bytes())[0].render(scale=96 / 72).to_pil().convert("RGB")
    assert shot.getpixel((20, 20)) == pytest.approx((255, 127, 127), abs=2)
    assert shot.getpixel((20, 70)) == pytest.approx((15, 76, 74), abs=1)


@pytest.mark.parametrize("style", ["solid", "dashed", "dotted", "double", "groove", "ridge", "inset", "outset"])
def test_borders_of_every_style_are_drawn_inside_the_border_box(compose, check_pdf, style):
    edition = compose(
        f"<div style='margin:20px;width:60px;height:40px;border:6px {style} #804000;border-radius:8px'></div>"
    )
    content = edition.to_bytes()
    check_pdf(content)
    shot = pdfium.PdfDocument(content)[0].render(scale=96 / 72).to_pil().convert("L")
    box = Image.eval(shot, lambda value: 255 - value).getbbox()
    assert box[0] >= 19 and box[1] >= 19 and box[2] <= 93 and box[3] <= 73


def test_nothing_half_written_is_left_when_the_work_fails(tmp_path):
    (tmp_path / "t.html").write_text("<p style='break-after:page'>x" * 9)
    press = fq.Press(policy=fq.Policy(pages=3))
    with pytest.raises(fq.LimitError):
        press.write(tmp_path / "t.html", tmp_path / "t.pdf")
    assert [p.name for p in tmp_path.iterdir()] == ["t.html"]


def test_an_older_file_stays_when_the_new_one_fails(tmp_path):
    (tmp_path / "t.pdf").write_bytes(b"old")
    (tmp_path / "t.html").write_text("<p style='break-after:page'>x" * 9)
    with pytest.raises(fq.LimitError):
        fq.Press(policy=fq.Policy(pages=3)).write(tmp_path / "t.html", tmp_path / "t.pdf")
    assert (tmp_path / "t.pdf").read_bytes() == b"old"


def test_four_threads_on_one_press_make_the_same_bytes(press):
    from concurrent.futures import ThreadPoolExecutor

    sources = [
        f"<html lang=en><h1>Document {n}</h1><p style='hyphens:auto;width:90px'>{'freight on the river ' * 40}</p>"
        f"<table>{'<tr><td>Heron<td>42.0<td>Nether Mill – Stonecross</tr>' * 20}</table>"
        for n in range(4)
    ]

    def make(source: str) -> bytes:
        return press.compose(fq.Manuscript.from_html(source)).to_bytes()

    alone = [make(source) for source in sources]
    with ThreadPoolExecutor(4) as pool:
        for _ in range(3):
            assert list(pool.map(make, sources)) == alone
