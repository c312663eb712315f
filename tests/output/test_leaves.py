"""Pages as files of their own: SVG and PNG."""

import io
import re
import shutil
import subprocess

import numpy as np
import pypdfium2
import pytest
from fontTools import subset
from fontTools.ttLib import TTFont
from lxml import etree
from PIL import Image

import fleetquill as fq
from fleetquill.demo.documents import DOCUMENTS, HERE
from fleetquill.text.fonts import default_faces
from fleetquill.tree.data import read_data

S = "{http://www.w3.org/2000/svg}"
BROWSER = shutil.which("chromium") or shutil.which("chromium-browser")
TALL = "<p style='break-after:page'>one<p style='break-after:page'>two<p>three"
PAINT = """<style>@page { size: 90mm 60mm; margin: 5mm } div { float: left; width: 60px; height: 40px; margin: 3px }</style>
<div style="background:linear-gradient(90deg, #0f4c4a, #b8923a 40%, #eef3f1)"></div>
<div style="background:radial-gradient(ellipse at 30% 40%, red, transparent)"></div>
<div style="background:conic-gradient(from 20deg, red, gold, teal, red)"></div>
<div style="background:#b8923a; opacity:.4; transform:rotate(12deg)"></div>
<div style="border:4px dashed #0f4c4a; border-radius:12px; box-sizing:border-box"></div>
<div style="background:teal; box-shadow:2px 3px 5px rgba(0,0,0,.5)"></div>
<div style="background:gold; mix-blend-mode:multiply; margin-left:-30px"></div>
<div style="background:linear-gradient(teal, gold); mask-image:linear-gradient(90deg, #000, transparent)"></div>
<div style="background:repeating-linear-gradient(45deg, #0f4c4a 0 4px, #eef3f1 4px 8px); clip-path:circle(18px)"></div>
<div><svg viewBox="0 0 60 40"><path d="M5 35 Q30 -20 55 35" fill="none" stroke="#b8923a" stroke-width="4"
stroke-dasharray="6 3" stroke-linecap="round"/><text x="8" y="36" font-size="12">Heron</text></svg></div>
<p style="clear:left; font-size:13px; letter-spacing:1px"><b>Bold</b>, <i>leaning</i>, H<sub>2</sub>O, fi ffl, العربية
<a href="https://reedwater.example">a link</a></p>"""


def composed(html: str, **options) -> fq.Edition:
    return fq.compose(fq.Manuscript.from_html(html, **options))


def test_a_page_is_well_formed_svg_of_its_size():
    page = composed("<title>A &amp; B</title><style>@page { size: A6 }</style><p>Heron").pages[0]
    root = etree.fromstring(page.to_svg().encode())
    assert root.tag == f"{S}svg"
    assert (root.get("width"), root.get("height")) == (f"{page.width:.3f}pt", f"{page.height:.3f}pt")
    assert root.find(f"{S}title").text == "A & B"


def test_letters_are_outlines_or_text_in_fonts_that_go_along():
    page = composed("<p>Heron <b>sails</b>").pages[0]
    outlines, text = page.to_svg(), page.to_svg(letters="text")
    assert "<text" not in outlines and "@font-face" not in outlines
    root = etree.fromstring(text.encode())
    assert [element.text for element in root.iter(f"{S}text")] == ["Heron", "sails"]
    families = {element.get("font-family") for element in root.iter(f"{S}text")}
    assert len(families) == 2
    assert all(f"font-family: {family};" in root.findtext(f"{S}style") for family in families)


def test_letters_that_are_made_bolder_are_so_once_and_no_others_are(tmp_path):
    (mono,) = (
        e.path for e in default_faces() if e.family == "DejaVu Sans Mono" and e.weights[0] == 400 and not e.italic
    )
    face = subset.Subsetter()
    face.populate(text="onetwhr")
    with TTFont(mono) as font:
        face.subset(font)
        font.save(tmp_path / "f.ttf")  # it has no bold face, and no 's'
    rule = "<style>@font-face { font-family: Mine; src: url(f.ttf) } b { font-family: Mine, 'Source Sans Pro' }</style>"
    page = composed(f"{rule}<p><b>one two threes</b>", base=tmp_path).pages[0]
    root = etree.fromstring(page.to_svg().encode())
    groups = [group for group in root.iter(f"{S}g") if group.find(f"{S}use") is not None]
    assert sum(len(group) for group in groups if group.get("fill") != "none") == len("onetwothrees")
    assert sum(len(group) for group in groups if group.get("fill") == "none") == len("onetwothree")


def test_links_lead_out_of_an_svg():
    svg = etree.fromstring(composed("<a href='https://reedwater.example/?a=1&b=2'>here</a>").pages[0].to_svg().encode())
    assert [link.get("href") for link in svg.iter(f"{S}a")] == ["https://reedwater.example/?a=1&b=2"]


@pytest.mark.parametrize("orientation", range(1, 9))
def test_a_picture_is_turned_as_it_says(tmp_path, orientation):
    """The corners of what is stored stand where they stand once it is turned."""
    from PIL import Image, ImageOps

    stored = Image.new("L", (2, 2))
    stored.putdata([10, 80, 160, 240])
    exif = stored.getexif()
    exif[0x0112] = orientation
    stored.resize((16, 16), Image.Resampling.NEAREST).save(tmp_path / "p.jpg", exif=exif, quality=100)
    html = "<img src=p.jpg style='width:40px;height:40px;position:absolute;left:0;top:0'>"
    root = etree.fromstring(composed(html, base=tmp_path).pages[0].to_svg().encode())
    (shown,) = root.iter(f"{S}use")
    a, b, c, d, e, f = map(float, re.fullmatch(r"matrix\((.*)\)", shown.get("transform"))[1].split())
    corner = {}  # of the unit square that holds the picture
    for at, value in enumerate((10, 80, 160, 240)):
        x, y = at % 2 / 2 + 0.25, at // 2 / 2 + 0.25
        corner[value] = (a * x + c * y + e, b * x + d * y + f)
    left, top = min(x for x, _ in corner.values()), min(y for _, y in corner.values())
    found = {value: (x > left + 1, y > top + 1) for value, (x, y) in corner.items()}
    with Image.open(tmp_path / "p.jpg") as turned:
        upright = ImageOps.exif_transpose(turned)
    for value, (right, lower) in found.items():
        assert abs(upright.getpixel((12 if right else 4, 12 if lower else 4)) - value) < 20


def test_margins_stand_on_each_page_with_all_that_they_count():
    html = "<style>@page { @bottom-left { content: 'Page ' counter(page) ' of ' counter(pages) } }</style>" + TALL
    found = []
    for page in composed(html).pages:
        root = etree.fromstring(page.to_svg(letters="text").encode())
        found.append(" ".join(element.text for element in root.iter(f"{S}text")))
    assert found == ["one Page 1 of 3", "two Page 2 of 3", "three Page 3 of 3"]


def test_names_are_used_once_and_all_are_there():
    for page in composed(PAINT).pages:
        svg = page.to_svg()
        names = re.findall(r'\bid="([^"]+)"', svg)
        assert len(names) == len(set(names))
        assert set(re.findall(r'href="#([^"]+)"|url\(#([^)]+)\)', svg)) <= {
            pair for name in names for pair in ((name, ""), ("", name))
        }


def test_a_png_has_the_pixels_of_its_resolution():
    page = composed("<style>@page { size: 4in 2in }</style><p>x").pages[0]
    for dpi, size in ((96, (384, 192)), (50, (200, 100)), (200, (800, 400))):
        with Image.open(io.BytesIO(page.to_png(dpi))) as image:
            assert (image.format, image.size) == ("PNG", size)


@pytest.mark.parametrize("kind", ["svg", "png"])
def test_each_page_has_a_file_that_the_pattern_names(tmp_path, kind):
    summary = fq.write(fq.Manuscript.from_html(TALL), tmp_path / f"page-{{page:02}}.{kind}")
    names = sorted(path.name for path in tmp_path.iterdir())
    assert names == [f"page-0{number}.{kind}" for number in (1, 2, 3)]
    assert summary.page_count == 3
    assert summary.bytes_written == sum(path.stat().st_size for path in tmp_path.iterdir())
    first = composed(TALL).save(tmp_path / f"e-{{page}}.{kind}")
    assert first.name == f"e-1.{kind}"
    assert first.read_bytes() == (tmp_path / names[0]).read_bytes()


def test_one_file_holds_one_page(tmp_path):
    with pytest.raises(fq.OutputError, match="3 pages"):
        fq.write(fq.Manuscript.from_html(TALL), tmp_path / "page.svg")
    with pytest.raises(fq.OutputError, match="3 pages"):
        composed(TALL).save(tmp_path / "page.png")
    assert list(tmp_path.iterdir()) == []
    stream = io.BytesIO()
    assert fq.write(fq.Manuscript.from_html("<p>x"), stream, kind="svg").page_count == 1
    assert stream.getvalue().startswith(b"<svg")


def test_an_edition_is_no_file_that_flows(tmp_path):
    with pytest.raises(fq.OptionError, match=r"fleetquill\.write"):
        composed("<p>x").save(tmp_path / "x.docx")


def test_a_strict_run_writes_no_page(tmp_path):
    with pytest.raises(fq.StrictError):
        fq.write(fq.Manuscript.from_html("<p style='colour:red'>x"), tmp_path / "p-{page}.svg", strict=True)
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("wrong", [{"dpi": 0}, {"dpi": "high"}, {"dpi": 1e9}, {"letters": "glyphs"}])
def test_a_wrong_way_to_draw_pages_is_told(wrong, tmp_path):
    kind = "svg" if "letters" in wrong else "png"
    with pytest.raises(fq.OptionError):
        fq.write(fq.Manuscript.from_html("<p>x"), tmp_path / f"x.{kind}", **wrong)


# ---- beside the same page's PDF ----


def shot(svg: str, width: int, height: int, folder) -> np.ndarray:
    """What a browser shows of a page."""
    page, picture = folder / "page.html", folder / "page.png"
    style = "<meta charset=utf-8><style>html,body{margin:0;background:#fff}svg{display:block}</style>"
    page.write_text(style + svg, encoding="utf-8")
    command = [BROWSER, "--headless", "--no-sandbox", "--disable-gpu", "--hide-scrollbars",
               f"--window-size={width},{height}", f"--screenshot={picture}", page.as_uri()]  # fmt: skip
    subprocess.run(command, capture_output=True, timeout=120, check=True)
    with Image.open(picture) as image:
        return np.asarray(image.convert("RGB").crop((0, 0, width, height)), np.int16)


def spread(pixels: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """The least and the most of each pixel and those around it."""
    high, wide, _ = pixels.shape
    padded = np.pad(pixels, ((1, 1), (1, 1), (0, 0)), mode="edge")
    both = []
    for choose in (np.minimum, np.maximum):
        row = choose(choose(padded[:, :wide], padded[:, 1 : wide + 1]), padded[:, 2:])
        both.append(choose(choose(row[:high], row[1 : high + 1]), row[2:]))
    return both[0], both[1]


def share_that_differs(one: np.ndarray, other: np.ndarray) -> float:
    """Percent of the pixels that differ by more than 40 of 255, after a tolerance of one pixel."""
    differs = np.zeros(one.shape[:2], bool)
    for first, second in ((one, other), (other, one)):
        low, high = spread(first)
        differs |= (np.maximum(low - second, second - high) > 40).any(-1)
    return float(differs.mean() * 100)


def beside_its_pdf(edition: fq.Edition, number: int, letters: str, folder) -> float:
    drawn = pypdfium2.PdfDocument(edition.to_bytes())[number].render(scale=96 / 72).to_pil().convert("RGB")
    pixels = np.asarray(drawn, np.int16)
    svg = edition.pages[number].to_svg(letters=letters)
    return share_that_differs(pixels, shot(svg, *drawn.size, folder))


@pytest.mark.skipif(BROWSER is None, reason="needs a browser that draws SVG")
@pytest.mark.parametrize("letters", ["outlines", "text"])
def test_all_that_is_painted_looks_as_in_its_pdf(letters, tmp_path):
    assert beside_its_pdf(composed(PAINT), 0, letters, tmp_path) < 1.0


@pytest.mark.skipif(BROWSER is None, reason="needs a browser that draws SVG")
@pytest.mark.parametrize("name", ["invoice", "tables", "certificate", "toll", "gallery", "specimen", "labels"])
def test_a_demo_page_looks_as_in_its_pdf(name, tmp_path):
    document = next(one for one in DOCUMENTS if one.name == f"{name}.pdf")
    press = fq.Press(locale="en-IE")
    if document.written is not None:
        edition = press.compose(document.written())
    else:
        edition = press.compose(HERE / document.template, data=read_data(HERE / document.data) if document.data else {})
    assert beside_its_pdf(edition, 0, "outlines", tmp_path) < 1.0
