"""Pictures as phones and scanners write them: several in a file, a film after it, pixels that lie on their side."""

import base64
import io
import re
import zipfile

import pypdfium2 as pdfium
import pytest
from PIL import Image, ImageDraw

import fleetquill as fq
from readers import difference
from structured import subject_of

ORIENTATION = 0x0112
TURNED_BACK = {  # how an upright picture is stored, by orientation
    1: [], 2: [Image.Transpose.FLIP_LEFT_RIGHT], 3: [Image.Transpose.ROTATE_180],
    4: [Image.Transpose.FLIP_TOP_BOTTOM], 5: [Image.Transpose.TRANSPOSE], 6: [Image.Transpose.ROTATE_90],
    7: [Image.Transpose.TRANSVERSE], 8: [Image.Transpose.ROTATE_270],
}  # fmt: skip


def upright():
    """Wider than high, and no two corners alike."""
    image = Image.new("RGB", (96, 64), "white")
    draw = ImageDraw.Draw(image)
    draw.rectangle((0, 0, 40, 15), fill="black")
    draw.rectangle((70, 10, 95, 20), fill="black")
    draw.rectangle((0, 40, 10, 63), fill="black")
    return image


def stored(kind, orientation=1, mode="RGB", **options):
    image = upright().convert(mode)
    for turn in TURNED_BACK[orientation]:
        image = image.transpose(turn)
    exif = Image.Exif()
    exif[ORIENTATION] = orientation
    out = io.BytesIO()
    given = {"tiffinfo": {ORIENTATION: orientation}} if kind == "TIFF" else {"exif": exif}
    image.save(out, kind, **given, **options)
    return out.getvalue()


def composed(content):
    sheet = "@page { size: 96px 64px; margin: 0 } body { margin: 0 } img { display: block; width: 96px }"
    manuscript = fq.Manuscript.from_html(f"<!doctype html><style>{sheet}</style>")
    manuscript.picture(content, alt="the quay")
    return fq.compose(manuscript)


def said(edition):
    return [remark.message for remark in edition.remarks if "dpi" not in remark.message]


def pages_shot(content):
    return pdfium.PdfDocument(content)[0].render(scale=96 / 72).to_pil().convert("RGB")


def streams_of(content):
    return [s for _, s in subject_of(content).streams if s.entries.get("Subtype") == "Image"]


@pytest.mark.parametrize("orientation", range(1, 9))
@pytest.mark.parametrize(
    ("kind", "mode", "options"),
    [
        ("TIFF", "1", {"compression": "group4"}),
        ("TIFF", "RGB", {"compression": "tiff_lzw"}),
        ("TIFF", "L", {}),
        ("JPEG", "RGB", {"quality": 95}),
        ("PNG", "RGB", {}),
        ("WEBP", "RGB", {"lossless": True}),
    ],
    ids=["a fax", "a scan", "a grey scan", "a photograph", "a PNG", "a WebP"],
)
def test_pixels_that_lie_on_their_side_are_turned_once(kind, mode, options, orientation):
    edition = composed(stored(kind, orientation, mode, **options))
    assert not said(edition)
    assert difference(pages_shot(edition.to_bytes()), upright()) < 0.02
    png = Image.open(io.BytesIO(edition.pages[0].to_png(dpi=96))).convert("RGB")
    assert difference(png, upright()) < 0.02


def several(**options):
    """A file of two pictures, as phones write them with a map of how bright they are, and the first of them alone."""
    first = Image.effect_noise((480, 320), 90).convert("RGB")
    second = Image.effect_noise((480, 320), 20).convert("RGB")
    both, alone = io.BytesIO(), io.BytesIO()
    first.save(both, "MPO", save_all=True, append_images=[second], quality=90, **options)
    first.save(alone, "JPEG", quality=90, **options)
    return both.getvalue(), alone.getvalue()


def test_of_several_pictures_in_a_file_the_first_goes_into_the_pdf_as_it_is():
    both, alone = several()
    edition = composed(both)
    assert not said(edition)
    (stream,) = streams_of(edition.to_bytes())
    assert stream.entries["Filter"] == "DCTDecode"
    assert both.startswith(stream.raw)
    assert len(stream.raw) < len(alone) + 300 < len(both)
    assert difference(pages_shot(edition.to_bytes()), pages_shot(composed(alone).to_bytes())) == 0


def test_a_film_after_a_photograph_is_no_damage_and_stays_out_of_the_file():
    photograph = stored("JPEG", quality=90)
    film = b"\x00\x00\x00\x18ftypmp42" + bytes(300_000)
    edition = composed(photograph + film)
    assert not said(edition)
    (stream,) = streams_of(edition.to_bytes())
    assert stream.raw == photograph


def test_a_photograph_that_breaks_off_is_not_shown_and_said_so():
    _, photograph = several()
    remark = said(composed(photograph[: len(photograph) // 2]))[0]
    assert remark.endswith(" is not shown. The JPEG ends too early; the file is damaged.")


@pytest.mark.parametrize("kind", ["docx", "svg", "html"])
def test_other_kinds_take_the_first_of_several_as_it_is(kind, tmp_path):
    both, alone = several()
    manuscript = fq.Manuscript(title="Quay")
    manuscript.picture(both, alt="the quay", width="80px")
    target = tmp_path / f"quay.{kind}"
    fq.Press().write(manuscript, target)
    if kind == "docx":
        (name,) = [n for n in zipfile.ZipFile(target).namelist() if n.startswith("word/media/")]
        assert name.endswith((".jpg", ".jpeg"))
        assert both.startswith(zipfile.ZipFile(target).read(name))
    else:
        address = re.search(r'"data:[a-z/]*;base64,([^"]+)"', target.read_text(encoding="utf-8"))
        assert both.startswith(base64.b64decode(address[1])[: len(alone)])
