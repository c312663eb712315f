"""Pages of finished PDFs as pictures, in backgrounds, on plates, under whole pages."""

import pytest

import fleetquill as fq
from fleetquill.pdf.objects import Ref
from readers import accepted, difference, pixels


def made(html, tmp_path, folder, **options):
    target = tmp_path / "made.pdf"
    summary = fq.write(fq.Manuscript.from_html(html, base=folder), target, **options)
    accepted(target)
    return fq.Volume(target), summary


PAGE = "<style>@page{size:A5;margin:0} body{margin:0} img{display:block;width:148mm;height:210mm}</style>"


def test_a_page_is_a_picture_with_its_vectors(tolls, tmp_path):
    volume, summary = made(f"{PAGE}<img src=tolls.pdf alt=Toll>", tmp_path, tolls.parent)
    assert volume.pages[0].text == fq.Volume(tolls).pages[0].text
    assert volume.pages[0].marks.pictures == [] and summary.remarks == ()
    assert difference(pixels(tmp_path / "made.pdf"), pixels(tolls)) < 0.003


def test_the_page_is_named_in_the_address(tolls, tmp_path):
    volume, _ = made(f"{PAGE}<img src='tolls.pdf#page=3' alt=Toll>", tmp_path, tolls.parent)
    assert volume.pages[0].text.startswith("Toll 3")


def test_its_size_is_that_of_the_page(tolls, press):
    edition = press.compose(
        fq.Manuscript.from_html(
            "<style>@page{size:A4;margin:0} body{margin:0}</style><img id=i src=tolls.pdf alt=x>", base=tolls.parent
        )
    )
    (place,) = edition.locate("#i")
    page = fq.Volume(tolls).pages[0]
    assert (place.width, place.height) == pytest.approx((page.width, page.height), abs=0.1)


def test_a_turned_page_is_shown_upright(tolls, tmp_path):
    turned = tmp_path / "turned.pdf"
    fq.bind([fq.Part(tolls, pages="1", turn=90)], turned)
    made(
        "<style>@page{size:A5 landscape;margin:0} body{margin:0} img{display:block;width:210mm;height:148mm}</style><img src=turned.pdf alt=x>",
        tmp_path,
        tmp_path,
    )
    assert difference(pixels(tmp_path / "made.pdf"), pixels(turned)) < 0.003


def test_a_page_that_stands_often_is_stored_once(tolls, tmp_path):
    volume, _ = made("".join("<img src=tolls.pdf alt=x style='width:3cm'>" for _ in range(9)), tmp_path, tolls.parent)
    forms = [n for n in volume.reader.numbers() if volume.reader.dictionary(Ref(n)).get("Subtype") == "Form"]
    assert len(forms) <= 2


@pytest.mark.parametrize(
    ("address", "message"),
    [
        ("tolls.pdf#page=9", "has no page 9: it has 4"),
        ("locked.pdf", "The file is locked"),
        ("rubbish.pdf", "no pages can be found"),
    ],
)
def test_what_cannot_be_shown_is_remarked(tolls, tmp_path, address, message):
    (tmp_path / "tolls.pdf").write_bytes(tolls.read_bytes())
    (tmp_path / "rubbish.pdf").write_bytes(b"%PDF-1.7 rubbish")
    fq.write(fq.Manuscript.from_html("<p>x"), tmp_path / "locked.pdf", password="a")
    _, summary = made(f"<img src='{address}' alt=x>", tmp_path, tmp_path)
    assert message in str(summary.remarks[0])


def test_fields_and_links_on_it_are_left_out_with_a_remark(form, tmp_path):
    volume, summary = made("<img src=form.pdf alt=x style='width:10cm'>", tmp_path, form.parent)
    assert volume.fields == {}
    assert "links and notes" in summary.remarks[0].message


def test_css_lays_it_under_pages(tolls, tmp_path):
    html = (
        "<style>@page{size:A5;margin:50mm 20mm;background:url(tolls.pdf#page=2) 0 0/100% 100%} "
        "@page:first{background-image:url(tolls.pdf)}</style><p>mine<p style='break-before:page'>more"
    )
    volume, _ = made(html, tmp_path, tolls.parent)
    assert ["Toll 1" in page.text for page in volume.pages] == [True, False]
    assert ["Toll 2" in page.text for page in volume.pages] == [False, True]
    assert volume.pages[0].text.startswith("Toll 1"), "it lies under what the page says"


def test_python_lays_it_under_pages(tolls, tmp_path):
    m = fq.Manuscript(title="L", language="en", page="A5")
    m.layer(under=f"{tolls}#page=2", first=tolls)
    m.paragraph("mine")
    m.page_break()
    m.paragraph("more")
    with m.section(page="A5"):
        m.layer(under=f"{tolls}#page=4")
        m.paragraph("section")
    target = tmp_path / "layer.pdf"
    fq.write(m, target)
    assert [next(line for line in page.text.split("\n") if line.startswith("Toll")) for page in fq.Volume(target).pages] == [
        "Toll 1", "Toll 2", "Toll 4",
    ]  # fmt: skip


def test_plates_show_it(tolls, tmp_path):
    m = fq.Manuscript()
    with m.plate(page="100mm 100mm") as plate:
        plate.picture(tolls, x="10mm", y="10mm", width="50mm")
    target = tmp_path / "plate.pdf"
    fq.write(m, target)
    words = fq.Volume(target).pages[0].words
    assert words[0].text == "Toll" and words[0].x < 170


def test_bytes_are_taken_too(tolls, tmp_path):
    m = fq.Manuscript()
    m.picture(tolls.read_bytes(), width="5cm", alt="toll")
    target = tmp_path / "bytes.pdf"
    fq.write(m, target)
    assert "Toll 1" in fq.Volume(target).pages[0].text


@pytest.mark.parametrize("kind", ["svg", "png", "html", "docx"])
def test_other_kinds_show_its_pixels(tolls, tmp_path, kind):
    target = tmp_path / f"a.{kind}"
    summary = fq.write(fq.Manuscript.from_html(f"{PAGE}<img src=tolls.pdf alt=Toll>", base=tolls.parent), target)
    assert target.stat().st_size > 4_000
    assert [remark for remark in summary.remarks if remark.kind == "picture"] == []


def test_a_file_for_archives_takes_it_only_from_one(tolls, finished, tmp_path):
    archived = finished("archived.pdf", "<html lang=en><title>A</title><p>archived", conform=("PDF/A-2b",))
    html = "<html lang=en><title>T</title><h1>T</h1><img src={} alt=x style='width:5cm'>"
    made(html.format("archived.pdf"), tmp_path, archived.parent, conform=("PDF/A-2b",))
    assert fq.check(tmp_path / "made.pdf").conforms
    with pytest.raises(fq.ConformanceError, match="nothing says that it can be archived"):
        made(html.format("tolls.pdf"), tmp_path, tolls.parent, conform=("PDF/A-2b",))


def test_what_it_shows_is_no_part_of_the_structure(tolls, tmp_path):
    made(
        "<html lang=en><title>T</title><h1>T</h1><p><img src=tolls.pdf alt=Toll style='width:5cm'>",
        tmp_path,
        tolls.parent,
    )
    assert fq.check(tmp_path / "made.pdf", "PDF/UA-1").faults == ("It says part nothing.",)
