"""SVG, codes, charts and pictures: what is drawn, read back from the rendered page where it can be."""

import io
import re
import struct
import zlib

import pypdfium2 as pdfium
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

import fleetquill as fq
from fleetquill.drawing.paths import bounds
from fleetquill.graphics import qr
from fleetquill.graphics.svg.paths import path_data

RED, GREEN, BLUE, WHITE = (255, 0, 0), (0, 128, 0), (0, 0, 255), (255, 255, 255)


def svg(body, more=""):
    return f'<svg width="100" height="100" viewBox="0 0 100 100" style="display:block" {more}>{body}</svg>'


DEFS = """<defs><linearGradient id="g"><stop offset=".5" stop-color="red"/><stop offset=".5" stop-color="blue"/></linearGradient>
<linearGradient id="h" href="#g" x1="1" x2="0"/><radialGradient id="r"><stop offset=".5" stop-color="red"/><stop offset=".5" stop-color="blue"/></radialGradient>
<pattern id="p" width="20" height="20" patternUnits="userSpaceOnUse"><rect width="10" height="20" fill="red"/></pattern>
<clipPath id="c"><circle cx="50" cy="50" r="20"/></clipPath><mask id="m"><rect width="50" height="100" fill="white"/></mask>
<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10" fill="red"/></symbol></defs>"""


@pytest.mark.parametrize(
    ("body", "point", "color"),
    [
        ('<rect x="10" y="10" width="20" height="20" fill="red"/>', (20, 20), RED),
        ('<circle cx="50" cy="50" r="10" fill="#008000"/>', (50, 58), GREEN),
        ('<ellipse cx="50" cy="50" rx="30" ry="5" fill="red"/>', (75, 50), RED),
        ('<polygon points="0,0 100,0 0,100" fill="red"/>', (20, 70), RED),
        ('<path d="M10 50h80" stroke="blue" stroke-width="10"/>', (50, 53), BLUE),
        ('<path d="M0 50 A50 50 0 0 1 100 50Z" fill="red"/>', (50, 5), RED),
        ('<path d="M0 50A50 50 0 01100 50Z" fill="red"/>', (50, 5), RED),
        ('<path d="M10 10h80v80h-80z M30 30h40v40h-40z" fill="red" fill-rule="evenodd"/>', (50, 50), WHITE),
        ('<g transform="translate(50 50) rotate(90)"><rect width="40" height="10" fill="red"/></g>', (45, 80), RED),
        ('<rect width="100" height="100" fill="url(#g)"/>', (80, 50), BLUE),
        ('<rect width="100" height="100" fill="url(#h)"/>', (80, 50), RED),
        ('<rect width="100" height="100" fill="url(#r)"/>', (50, 40), RED),
        ('<rect width="100" height="100" fill="url(#p)"/>', (45, 50), RED),
        ('<rect width="100" height="100" fill="url(#p)"/>', (55, 50), WHITE),
        ('<rect width="100" height="100" fill="red" clip-path="url(#c)"/>', (5, 5), WHITE),
        ('<rect width="100" height="100" fill="red" mask="url(#m)"/>', (75, 50), WHITE),
        ('<rect width="100" height="100" fill="red" mask="url(#m)"/>', (25, 50), RED),
        ('<use href="#s" x="20" y="20" width="30" height="30"/>', (45, 45), RED),
        ('<rect width="100" height="100" fill="red" opacity=".5"/>', (50, 50), (255, 127, 127)),
        ('<style>.a{fill:blue} rect{fill:red}</style><rect class="a" width="9" height="9"/>', (4, 4), BLUE),
        ('<rect width="9" height="9" fill="red" style="fill:blue"/>', (4, 4), BLUE),
        ('<g fill="red"><rect width="9" height="9"/></g>', (4, 4), RED),
        ('<g color="blue"><rect width="9" height="9" fill="currentColor"/></g>', (4, 4), BLUE),
        ('<svg x="50" width="50" height="50" viewBox="0 0 10 10"><rect width="10" height="10" fill="red"/></svg>', (75, 25), RED),
        ('<rect width="9" height="9" fill="red" display="none"/>', (4, 4), WHITE),
        ('<line x1="0" y1="50" x2="100" y2="50" stroke="red" stroke-width="8" stroke-dasharray="20 30"/>', (35, 50), WHITE),
        ('<marker id="k" markerWidth="9" markerHeight="9" refX="4" refY="4" markerUnits="userSpaceOnUse"><rect width="9" height="9" fill="red"/></marker><path d="M20 50H80" stroke="none" fill="none" marker-end="url(#k)"/>', (80, 50), RED),
    ],
)  # fmt: skip
def test_svg_is_drawn_as_the_standard_says(shot, body, point, color):
    assert shot(svg(DEFS + body)).getpixel(point) == pytest.approx(color, abs=3)


@pytest.mark.parametrize(
    ("aspect", "x", "color"),
    [("xMinYMid", 10, RED), ("xMaxYMid", 10, WHITE), ("none", 190, RED), ("xMidYMid slice", 190, RED)],
)
def test_preserve_aspect_ratio(shot, aspect, x, color):
    html = f'<svg width="200" height="100" viewBox="0 0 10 10" preserveAspectRatio="{aspect}" style="display:block"><rect width="10" height="10" fill="red"/></svg>'
    assert shot(html).getpixel((x, 50)) == color


@pytest.mark.parametrize("aspect", ["none", "xMidYMid", "xMinYMin slice"])
def test_a_view_box_begins_where_it_says(shot, aspect):
    html = (
        f'<svg width="100" height="100" viewBox="30 20 10 10" preserveAspectRatio="{aspect}" style="display:block">'
        '<rect x="30" y="20" width="5" height="5" fill="red"/></svg>'
    )
    assert [shot(html).getpixel(point) for point in ((25, 25), (75, 25), (25, 75))] == [RED, WHITE, WHITE]


def ink(page):
    """The rectangle around all that is darker than its paper: left, top, right, bottom in px."""
    return page.convert("L").point(lambda value: 255 * (value < 128)).getbbox()


@pytest.mark.parametrize(
    ("baseline", "top", "bottom"),
    [  # of an x of 40 px whose place is at y = 50
        ("auto", 30.5, 50), ("middle", 40, 60), ("central", 45, 64), ("text-before-edge", 70, 89),
        ("text-after-edge", 19, 39), ("hanging", 62, 82),
    ],
)  # fmt: skip
def test_svg_text_stands_on_the_baseline_that_it_asks_for(shot, baseline, top, bottom):
    for place in (f'dominant-baseline="{baseline}"', f'style="alignment-baseline:{baseline}"'):
        box = ink(shot(svg(f'<text x="10" y="50" font-size="40" {place}>x</text>'), 4.0))
        assert (box[1] / 4, box[3] / 4) == (pytest.approx(top, abs=1.5), pytest.approx(bottom, abs=1.5))


def test_svg_text_has_lines_and_spaces_between_its_letters(shot):
    def width(more):
        left, _, right, _ = ink(shot(svg(f'<text x="5" y="50" {more}>iiii</text>'), 4.0))
        return (right - left) / 4

    assert width('letter-spacing="6"') == pytest.approx(width("") + 18, abs=0.5)
    assert width('style="letter-spacing:.5em" font-size="16"') == pytest.approx(width("") + 24, abs=0.5)
    assert width('style="letter-spacing:3pt"') == pytest.approx(width("") + 12, abs=0.5)
    text = '<text x="5" y="50" fill="red" text-decoration="%s">iiii</text>'
    for line, y in (("underline", 52), ("line-through", 45)):
        column = [shot(svg(text % line), 4.0).getpixel((4 * 10, 4 * y + step))[1] for step in range(-6, 7)]
        assert min(column) < 80, line


def test_svg_text_is_text_in_the_documents_fonts(compose, read_pdf):
    html = svg(
        '<text x="50" y="50" text-anchor="middle" font-family="Source Serif Pro">Al<tspan font-weight="bold">der</tspan></text>'
    )
    assert read_pdf(compose(html).to_bytes())[0].strip() == "Alder"


def test_an_svg_file_is_a_picture_and_a_background(shot, tmp_path):
    (tmp_path / "a.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 2 1"><rect width="2" height="1" fill="red"/></svg>'
    )
    assert shot("<img src=a.svg style='width:100px;display:block'>").getpixel((95, 45)) == RED
    assert shot("<img src=a.svg style='width:100px;display:block'>").getpixel((50, 55)) == WHITE
    assert shot("<div style='width:100px;height:100px;background:url(a.svg) 0 0/50px'></div>").getpixel((95, 95)) == RED


@pytest.mark.parametrize(
    ("content", "words"),
    [
        ("<svg xmlns:xlink='x'><g id='a'><use xlink:href='#a'/></g></svg>", "in itself"),
        ("<svg><image href='/etc/passwd' width='9' height='9'/></svg>", "not a picture"),
        ("<svg><foreignObject><img src='x'/></foreignObject></svg>", "shown as plain text"),
        (
            "<svg><filter id='f'><feNothing/></filter><rect filter='url(#f)' width='1' height='1'/></svg>",
            "passed over",
        ),
        ("<svg><use href='#gone'/></svg>", "does not have"),
        ("<!DOCTYPE svg [<!ENTITY a SYSTEM 'file:///etc/passwd'>]><svg><text>&a;</text></svg>", ""),
        ("<svg" + "><g" * 200 + "/>" + "</g>" * 199 + "</svg>", "nested too deep"),
        ("<svg><broken", ""),
    ],
)
def test_svg_that_asks_for_too_much_is_remarked_and_the_document_comes_out(compose, tmp_path, content, words):
    (tmp_path / "a.svg").write_text(content)
    edition = compose("<img src=a.svg width=50 height=50><p>after")
    assert "after" in edition.pages[0].text and "root:" not in edition.pages[0].text
    assert words in " ".join(r.message for r in edition.remarks)


@settings(max_examples=150, deadline=None)
@given(st.text("MmLlHhVvCcSsQqTtAaZz0123456789.,- e+", max_size=60))
def test_any_path_data_is_read_without_an_exception(d):
    path = path_data(d)
    assert all(segment[0] in "mlch" for segment in path) and len(bounds(path)) == 4


@given(st.floats(-9, 9), st.floats(-9, 9), st.floats(0.5, 30), st.booleans(), st.booleans())
@settings(max_examples=80, deadline=None)
def test_arcs_end_where_they_should(x, y, r, large, sweep):
    path = path_data(f"M0 0 A{r:.4f} {r:.4f} 0 {int(large)} {int(sweep)} {x:.4f} {y:.4f}")
    assert path[-1][-2:] == pytest.approx((round(x, 4), round(y, 4)), abs=0.01) or len(path) == 1


# ---- codes ----


@pytest.mark.parametrize(
    ("kind", "text", "read"),
    [("qr", "https://reedwater.example/F-2041", None), ("qr", "Grüße 船", None), ("code128", "W-31400", None), ("code39", "HERON 7", None),
     ("ean13", "200000002041", "2000000020411"), ("ean8", "2000204", None), ("itf", "12345678", None)],
)  # fmt: skip
def test_codes_are_read_back_from_the_page(shot, kind, text, read):
    import zxingcpp

    page = shot(f"<fq-code kind={kind} value='{text}' style='margin:20px'></fq-code>", 3.0)
    found = zxingcpp.read_barcodes(page)
    assert [result.text.startswith(read[:12] if read else text) for result in found] == [True]


SCRIPTS = (
    "Grüne Mühle, Straße 4",
    "Écluse fermée à midi",
    "Ελλάδα και θάλασσα",
    "Река и шлюз",
    "河川航行",
    "Łódź nad rzeką",
    "🚢 Heron",
)


@given(
    st.one_of(st.text("".join(map(chr, range(32, 127))), min_size=1, max_size=60), st.sampled_from(SCRIPTS)),
    st.sampled_from("LMQH"),
)
def test_any_text_is_read_back_from_its_modules(text, correction):
    import zxingcpp

    rows = qr.qr_rows(text, correction)
    size = len(rows)
    assert size % 4 == 1 and {len(row) for row in rows} == {size} and set(b"".join(rows)) == {0, 1}
    finder = [bytes([1] * 7), bytes([1, 0, 0, 0, 0, 0, 1]), bytes([1, 0, 1, 1, 1, 0, 1])]
    assert (
        [row[:7] for row in rows[:3]]
        == [row[-7:] for row in rows[:3]]
        == [row[:7] for row in reversed(rows[-3:])]
        == finder
    )
    wide = (size + 8) * 4
    picture = Image.new("L", (wide, wide), 255)
    dark = Image.frombytes("L", (size, size), b"".join(rows).translate(bytes([255, 0]) + bytes(254)))
    picture.paste(dark.resize((size * 4, size * 4), Image.Resampling.NEAREST), (16, 16))
    found = zxingcpp.read_barcodes(picture)
    assert [result.text for result in found] == [text] and found[0].ec_level == correction
    assert found[0].bytes == text.encode("utf-8")


@pytest.mark.parametrize(
    ("correction", "most"), [("L", 2953), ("M", 2331), ("Q", 1663), ("H", 1273)]
)  # ISO/IEC 18004, table 7
def test_a_code_holds_as_much_as_the_standard_says_and_no_more(correction, most):
    assert len(qr.qr_rows("x" * most, correction)) == 177
    with pytest.raises(ValueError, match="too long") as caught:
        qr.qr_rows("x" * (most + 1), correction)
    assert "Error" not in str(caught.value)


@pytest.mark.parametrize("text", ["", "\ud800", "x\udfff", 5, None, b"x", ["a"]])
def test_what_is_no_text_makes_no_code(text):
    with pytest.raises(fq.OptionError):
        fq.Manuscript().code("qr", text)


def test_a_payment_code_says_what_the_guidelines_want(press):
    import zxingcpp

    m = fq.Manuscript()
    m.payment("Reedwater Barge Cooperative", "IE22 REED 0000 0012 3456 78", "3361.99", text="F-2041")
    page = pdfium.PdfDocument(press.compose(m).to_bytes())[0].render(scale=3).to_pil()
    lines = zxingcpp.read_barcodes(page)[0].text.split("\n")
    assert lines == [
        "BCD",
        "002",
        "1",
        "SCT",
        "",
        "Reedwater Barge Cooperative",
        "IE22REED00000012345678",
        "EUR3361.99",
        "",
        "",
        "F-2041",
    ]


def test_a_payment_code_is_in_the_character_set_that_it_names(press):
    """1 is UTF-8 (EPC069-12 §2.3); a banking app that believes it must read the umlauts."""
    import zxingcpp

    m = fq.Manuscript()
    m.payment("Müller & Søn, Łódź", "IE22 REED 0000 0012 3456 78", 12, text="Grüße – 5 t")
    page = pdfium.PdfDocument(press.compose(m).to_bytes())[0].render(scale=3).to_pil()
    lines = zxingcpp.read_barcodes(page)[0].bytes.decode("utf-8").split("\n")
    assert (lines[2], lines[5], lines[-1]) == ("1", "Müller & Søn, Łódź", "Grüße – 5 t")


@pytest.mark.parametrize(
    "attributes",
    ["kind=qr", "kind=nonsense value=x", "kind=ean13 value=abc", "kind=payment name=A iban=IE00 amount=3", "kind=payment name=A iban='IE22REED00000012345678' amount=-3",
     f"kind=qr value={'x' * 8000}", "kind=payment name=A iban='IE22REED00000012345678' text=a reference=b"],
)  # fmt: skip
def test_a_code_that_cannot_be_is_a_remark(compose, attributes):
    edition = compose(f"<fq-code {attributes}></fq-code><p>after")
    assert [r.kind for r in edition.remarks] == ["code"] and "after" in edition.pages[0].text


def test_modules_too_narrow_to_print_are_a_remark(compose):
    assert "few printers" in compose("<fq-code value=F-2041 style='width:4mm'></fq-code>").remarks[0].message


# ---- charts ----

DATA = (
    '[{"month":"May","clay":3,"brick":5},{"month":"June","clay":4,"brick":-2},{"month":"July","clay":null,"brick":9}]'
)


@pytest.mark.parametrize("kind", ["bar", "line", "area", "scatter", "pie", "histogram", "box"])
def test_every_kind_of_chart_is_vectors_with_text(compose, check_pdf, read_pdf, kind):
    x = "clay" if kind == "scatter" else "month"
    edition = compose(
        f"<fq-chart kind={kind} x={x} y=brick title='Tonnes carried' style='width:380px'>{DATA}</fq-chart>"
    )
    assert kind == "pie" or not edition.remarks  # a part below nought
    content = edition.to_bytes()
    check_pdf(content)
    assert (
        "Tonnes carried" in read_pdf(content)[0]
        and b"/Subtype/Image" not in content
        and b"/Subtype/Image" not in content
    )


@pytest.mark.parametrize(
    ("attributes", "data", "words"),
    [("kind=pi", DATA, "no kind of chart"), ("", "[]", "has no data"), ("", "", "has no data"), ("y=tonnes", DATA, "has no 'tonnes'"),
     ("x=month", '[{"month":"May"}]', "no numbers"), ("y=a", '[{"a":NaN}]', "no finite numbers"), ("", "[", "does not parse"), ("src=gone.csv", "", "does not exist")],
)  # fmt: skip
def test_a_chart_of_nothing_is_a_remark(compose, attributes, data, words):
    edition = compose(f"<fq-chart {attributes}>{data}</fq-chart><p>after")
    assert words in edition.remarks[0].message and "after" in edition.pages[0].text


@pytest.mark.parametrize("count", [1, 2, 200])
@pytest.mark.parametrize("kind", ["bar", "line", "pie", "box", "histogram"])
def test_charts_of_one_point_and_of_two_hundred_come_out(press, kind, count):
    m = fq.Manuscript(page="A4")
    m.chart(kind, [{"x": f"n{i}", "y": i % 7} for i in range(1, count + 1)], x="x", y="y", form="#,##0")
    assert press.compose(m).page_count == 1


def test_a_chart_says_in_words_what_it_shows(press):
    m = fq.Manuscript()
    m.chart("bar", [{"month": "May", "t": 3}, {"month": "June", "t": 5}], x="month", y="t", title="Carried")
    box = next(
        p.box for p in _placed(press.compose(m)) if p.box.element is not None and p.box.element.tag == "fq-chart"
    )
    assert box.alternative == "Carried. Bar chart. t: May 3, June 5."


def _placed(edition):
    from fleetquill.layout.contract.fragments import walk

    return [placed for page in edition._fragments for part in page.parts for placed in walk(part)]


def test_a_figure_of_ones_own_is_vectors_in_the_documents_fonts(press, read_pdf):
    from matplotlib.figure import Figure

    figure = Figure(figsize=(3, 2))
    axes = figure.add_subplot()
    axes.plot([1, 2, 3], [3, 1, 2], "--o", label="tonnes")
    axes.set_title("Own figure")
    axes.bar([1, 2], [1, 2], hatch="//")
    axes.legend()
    axes.annotate("$x^2$", (1, 1))
    m = fq.Manuscript()
    m.figure(figure, caption="A figure")
    content = press.compose(m).to_bytes()
    assert {"Own figure", "tonnes", "A figure"} <= set(re.sub(r"\r", "", read_pdf(content)[0]).split("\n"))
    assert b"Matplotlib" not in content and b"DejaVu" not in content
    assert "<svg" in m.to_html()


@pytest.mark.parametrize(
    ("kind", "values"),
    [("line", "3 5 2"), ("line", "3"), ("line", "4 4 4"), ("bar", "3 -5 2"), ("progress", ".7"), ("progress", "7")],
)
def test_small_charts_stand_in_a_line(compose, px, kind, values):
    edition = compose(f"<p>a <fq-spark kind={kind} values='{values}'></fq-spark> b")
    assert not edition.remarks and px(edition, "fq-spark")[0].rect[2:] == (80, 14.4)


@pytest.mark.parametrize("attributes", ["values=''", "values='a b'", "values='nan'", "kind=pie values=1"])
def test_small_charts_of_nothing_are_remarks(compose, attributes):
    edition = compose(f"<p>a <fq-spark {attributes}></fq-spark> b")
    assert [r.kind for r in edition.remarks] == ["chart"] and edition.pages[0].text == "a – b"


# ---- pictures ----


def picture(size=(400, 300), kind="JPEG", **more):
    out = io.BytesIO()
    Image.effect_noise(size, 60).convert("RGB").save(out, kind, **more)
    return out.getvalue()


@pytest.mark.parametrize(
    ("html", "width"),
    [("<img src=a.jpg style='image-resolution:200dpi'>", 192), ("<img src=a.jpg srcset='a.jpg 1x, b.jpg 2x'>", 400), ("<img srcset='b.jpg 2x, c.jpg 9x'>", 400),
     ("<img src=a.jpg style='aspect-ratio:1;width:50px'>", 50)],
)  # fmt: skip
def test_pictures_have_the_size_that_their_sharpness_gives(compose, px, tmp_path, html, width):
    (tmp_path / "a.jpg").write_bytes(picture())
    (tmp_path / "b.jpg").write_bytes(picture((800, 600)))
    assert px(compose(html), "img")[0].width == width


def test_a_picture_of_few_pixels_is_a_remark(compose, tmp_path):
    (tmp_path / "a.jpg").write_bytes(picture())
    assert not compose("<img src=a.jpg width=200>").remarks
    assert "prints at 100 dpi" in compose("<img src=a.jpg width=384>").remarks[0].message


def test_pictures_are_made_smaller_where_the_press_is_asked_to(tmp_path):
    (tmp_path / "a.jpg").write_bytes(picture((2000, 1500), quality=95))
    (tmp_path / "a.png").write_bytes(picture((1000, 1000), "PNG"))
    html = "<img src=a.jpg width=200><img src=a.png width=100>"
    sizes = [
        len(fq.Press(**options).compose(fq.Manuscript.from_html(html, base=tmp_path)).to_bytes())
        for options in ({}, {"picture_dpi": 150}, {"picture_dpi": 150, "jpeg_quality": 40})
    ]
    assert sizes[0] > 10 * sizes[1] > 10 * sizes[2]
    for options in ({"picture_dpi": 3}, {"jpeg_quality": 200}):
        with pytest.raises(fq.OptionError):
            fq.Press(**options)


def test_colour_profiles_are_kept_once(tmp_path):
    from PIL import ImageCms

    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    for name in "ab":
        (tmp_path / f"{name}.jpg").write_bytes(picture((300 + ord(name), 300), icc_profile=profile))
    content = fq.Press().compose(fq.Manuscript.from_html("<img src=a.jpg><img src=b.jpg>", base=tmp_path)).to_bytes()
    assert content.count(b"/N 3") == 1


def _png(width, height):
    def chunk(kind, body):
        return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 99)) + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("size", "words"), [((60_000, 60_000), "more pixels"), ((12_000, 20_000), "more pixels"), ((0, 0), "not a picture")]
)
@pytest.mark.filterwarnings("error")
def test_pictures_that_are_too_large_or_nothing_are_remarks(compose, tmp_path, size, words):
    (tmp_path / "a.png").write_bytes(_png(*size))
    edition = compose("<img src=a.png><p>after")
    assert words in edition.remarks[0].message and edition.pages[0].text.endswith("after")


@pytest.mark.parametrize("cut", [300, 5000])
def test_a_picture_that_ends_too_early_is_a_remark(compose, tmp_path, cut):
    (tmp_path / "a.jpg").write_bytes(picture()[:-cut])
    edition = compose("<img src=a.jpg><p>after")
    assert "ends too early" in edition.remarks[0].message and edition.pages[0].text.endswith("after")


def test_a_folder_of_pictures_becomes_a_page_for_each(tmp_path, press):
    (tmp_path / "1.jpg").write_bytes(picture((600, 300), dpi=(300, 300)))
    (tmp_path / "2.png").write_bytes(picture((300, 450), "PNG"))
    (tmp_path / "3.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="96" height="48"/>')
    (tmp_path / "note.txt").write_text("x")
    edition = press.compose(fq.Manuscript.from_pictures([tmp_path]))
    assert [(p.width, p.height) for p in edition.pages] == [(144, 72), (144, 216), (72, 36)]
    fitted = press.compose(fq.Manuscript.from_pictures([tmp_path / "1.jpg"], page="A4", margin="10mm"))
    (place,) = fitted.locate("img")
    assert place.width == pytest.approx(190 / 25.4 * 72, abs=0.02) and place.y == pytest.approx(
        (297 - 95) / 2 / 25.4 * 72, abs=0.05
    )
    for bad in (tmp_path / "gone.jpg", tmp_path / "note.txt"):
        with pytest.raises(fq.SourceError):
            fq.Manuscript.from_pictures([bad])


def test_a_press_keeps_drawings_by_content_and_not_by_name(tmp_path):
    press = fq.Press()
    shape = '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><rect width="9" height="9" fill="{}"/>{}</svg>'
    html = "<img src=a.svg style='width:90px;display:block'>"

    def color(at):
        page = pdfium.PdfDocument(press.compose(fq.Manuscript.from_html(html, base=tmp_path)).to_bytes())[0]
        return page.render(scale=96 / 72).to_pil().convert("RGB").getpixel(at)

    place = (76 + 40, 76 + 40)  # in the page's margins of 20 mm
    for name in ("red", "blue", "red"):
        (tmp_path / "a.svg").write_text(shape.format(name, ""))
        assert color(place) == (RED if name == "red" else BLUE)
    Image.new("RGB", (9, 9), "blue").save(tmp_path / "p.png")
    (tmp_path / "a.svg").write_text(shape.format("red", '<image href="p.png" width="9" height="9"/>'))
    assert color(place) == BLUE
    Image.new("RGB", (9, 9), "#008000").save(tmp_path / "p.png")
    assert color(place) == GREEN
