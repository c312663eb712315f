"""Drawings in places of another ratio than their own: what preserveAspectRatio says of them (SVG 2 §8.6)."""

import re
import zipfile

import pytest

import fleetquill as fq
from readers import pixels

DISC = "<circle cx='5' cy='5' r='5'/>"
PLACE = "width:100px;height:40px"
CASES = [
    # attributes, style, the ink within the place: left, top, right, bottom
    ("viewBox='0 0 10 10'", PLACE, (30, 0, 70, 40)),
    ("viewBox='0 0 10 10' width='100' height='40'", "", (30, 0, 70, 40)),
    ("viewBox='0 0 10 10' width='30' height='30'", PLACE, (30, 0, 70, 40)),
    ("viewBox='0 0 10 10' width='50' height='20'", "width:40px;height:80px", (0, 20, 40, 60)),
    ("viewBox='0 0 10 10' preserveAspectRatio='xMinYMin slice'", PLACE, (0, 0, 100, 40)),
    ("viewBox='0 0 10 10' preserveAspectRatio='xMaxYMid'", PLACE, (60, 0, 100, 40)),
    ("viewBox='0 0 10 10' preserveAspectRatio='xMinYMax meet'", PLACE, (0, 0, 40, 40)),
    ("viewBox='0 0 10 10' preserveAspectRatio='none'", PLACE, (0, 0, 100, 40)),
    ("viewBox='0 0 10 10'", "width:40px", (0, 0, 40, 40)),
    ("viewBox='0 0 20 10'", "width:100px;height:80px", (0, 15, 50, 65)),
]


def page(html):
    sheet = "@page { size: 200px 200px; margin: 0 } body { margin: 0; font-size: 20px } svg, img { display: block }"
    return f"<!doctype html><style>{sheet}</style>{html}"


def ink(edition):
    """The box around what is dark, and whether its corners are round: a disc that is whole is."""
    shot = pixels(edition.to_bytes(), scale=96 / 72).convert("L").point(lambda level: 255 * (level < 128))
    return shot.getbbox()


@pytest.mark.parametrize(("attributes", "style", "box"), CASES, ids=[f"{a} {s}" for a, s, _ in CASES])
@pytest.mark.parametrize("door", ["element", "file", "data", "background"])
def test_a_drawing_is_fitted_into_its_place(tmp_path, door, attributes, style, box):
    (tmp_path / "disc.svg").write_text(f"<svg xmlns='http://www.w3.org/2000/svg' {attributes}>{DISC}</svg>")
    if door == "element":
        html = f"<svg {attributes} style='{style}'>{DISC}</svg>"
    elif door == "file":
        html = f"<img src='disc.svg' alt=disc style='{style}'>"
    elif door == "data":
        content = (tmp_path / "disc.svg").read_text().replace("#", "%23").replace('"', "'")
        html = f'<img src="data:image/svg+xml,{content}" alt=disc style="{style}">'
    else:
        if "height" not in style:
            pytest.skip("a background has no size of its own")
        html = f"<div style='{style};background:url(disc.svg) no-repeat 0 0/100% 100%'></div>"
    edition = fq.compose(fq.Manuscript.from_html(page(html), base=tmp_path))
    assert ink(edition) == pytest.approx(box, abs=1)


@pytest.mark.parametrize(
    ("attributes", "size"),
    [
        ("width='3em' height='2em'", (60, 40)),
        ("width='3em'", (60, 60)),
        ("height='1.5em'", (30, 30)),
        ("width='25%'", (50, 50)),
        ("width='1in' height='72pt'", (96, 96)),
        ("width='40' height='20.5'", (40, 20.5)),
        ("width='1e2' height='.5e1'", (100, 5)),
        ("width='auto' height='30px'", (30, 30)),
        ("width='wide' height='30'", (30, 30)),
    ],
)
def test_sizes_of_drawings_are_lengths_in_any_unit(attributes, size):
    edition = fq.compose(fq.Manuscript.from_html(page(f"<svg {attributes} viewBox='0 0 10 10'>{DISC}</svg>")))
    (place,) = edition.locate("svg")
    assert (place.width / 0.75, place.height / 0.75) == pytest.approx(size, abs=0.01)


def test_a_file_without_a_view_box_fills_its_place(tmp_path):
    disc = "<svg xmlns='http://www.w3.org/2000/svg' width='10' height='10'><circle cx='5' cy='5' r='5'/></svg>"
    (tmp_path / "disc.svg").write_text(disc)
    edition = fq.compose(fq.Manuscript.from_html(page(f"<img src=disc.svg alt=disc style='{PLACE}'>"), base=tmp_path))
    assert ink(edition) == pytest.approx((0, 0, 100, 40), abs=1)


def test_a_file_is_fitted_anew_for_each_place_that_it_stands_in(tmp_path):
    """One press keeps the drawing: what one place makes of it is not what the next one gets."""
    (tmp_path / "disc.svg").write_text(f"<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 10 10'>{DISC}</svg>")
    press = fq.Press()
    for width, height, box in ((100, 40, (30, 0, 70, 40)), (40, 100, (0, 30, 40, 70)), (50, 50, (0, 0, 50, 50))):
        html = page(f"<img src=disc.svg alt=disc style='width:{width}px;height:{height}px'>")
        assert ink(press.compose(fq.Manuscript.from_html(html, base=tmp_path))) == pytest.approx(box, abs=1)


def test_an_endless_drawing_is_cut_where_its_place_ends():
    """A root's sign as formulas have it: an arm of any length behind a head that keeps its shape."""
    svg = (
        "<span style='position:relative;display:inline-block;overflow:hidden;width:60px;height:20px'>"
        "<svg width='400em' height='1.08em' viewBox='0 0 400000 1080' preserveAspectRatio='xMinYMin slice'"
        " style='position:absolute;width:100%;height:inherit'>"
        "<path d='M0 1080L540 1080L540 540L0 540z M0 0H400000V80H0z'/></svg></span>"
    )
    edition = fq.compose(fq.Manuscript.from_html(page(svg)))
    shot = pixels(edition.to_bytes(), scale=96 / 72).convert("L")
    assert not edition.remarks
    dark = {(x, y) for x in range(100) for y in range(40) if shot.getpixel((x, y)) < 128}
    assert max(x for x, _ in dark) in (58, 59)
    assert max(x for x, y in dark if y > 12) in (9, 10)


def test_word_processor_files_and_svg_have_it_too(tmp_path):
    manuscript = fq.Manuscript.from_html(page(f"<svg viewBox='0 0 10 10' style='{PLACE}'>{DISC}</svg>"))
    press = fq.Press()
    press.write(manuscript, tmp_path / "disc.docx")
    names = [name for name in zipfile.ZipFile(tmp_path / "disc.docx").namelist() if name.endswith(".svg")]
    vector = zipfile.ZipFile(tmp_path / "disc.docx").read(names[0]).decode()
    assert re.search(r'width="100(px)?"', vector) and re.search(r'height="40(px)?"', vector)
    assert ink(press.compose(manuscript)) == pytest.approx((30, 0, 70, 40), abs=1)
