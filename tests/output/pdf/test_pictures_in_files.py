"""Pictures in the PDF: as they came where that can be, their colours and shades kept, as small as predictors make them."""

import io
import zlib

import pypdfium2 as pdfium
import pytest
from PIL import Image, ImageCms

import fleetquill as fq
from fleetquill.pdf.reading import Stream
from structured import subject_of


def saved(image, kind, **options):
    stream = io.BytesIO()
    image.save(stream, kind, **options)
    return stream.getvalue()


def document(content, width="40px"):
    manuscript = fq.Manuscript(title="x", page="100px 100px", margin=0)
    manuscript.picture(content, alt="x", width=width)
    return fq.compose(manuscript).to_bytes()


def images_of(content):
    """The image XObjects, soft masks last."""
    found = [s for _, s in subject_of(content).streams if s.entries.get("Subtype") == "Image"]
    masks = {one.entries["SMask"].number for one in found if "SMask" in one.entries}
    reader = subject_of(content).reader
    return sorted(
        found, key=lambda s: any(isinstance(reader.get(n), Stream) and reader.get(n).raw == s.raw for n in masks)
    )


def seen(content):
    """What a reader shows of the picture's middle."""
    page = pdfium.PdfDocument(content)[0].render(scale=96 / 72).to_pil().convert("RGB")
    return page.getpixel((20, 20))


def test_smooth_pictures_are_stored_as_differences():
    image = Image.merge("RGB", [Image.linear_gradient("L"), Image.radial_gradient("L"), Image.linear_gradient("L")])
    (found,) = images_of(document(saved(image, "TIFF")))
    assert found.entries["DecodeParms"]["Predictor"] == 15
    assert len(found.raw) < len(zlib.compress(image.tobytes(), 6)) / 2
    assert found.content == image.tobytes()


def test_flat_pictures_are_stored_as_they_are():
    image = Image.effect_noise((64, 64), 80).quantize(3).convert("RGB")
    (found,) = images_of(document(saved(image, "BMP")))
    assert found.content == image.tobytes()


def test_grey_with_alpha_stays_grey():
    image = Image.merge("LA", [Image.linear_gradient("L"), Image.radial_gradient("L")])
    picture, mask = images_of(document(saved(image, "PNG")))
    assert picture.entries["ColorSpace"] == mask.entries["ColorSpace"] == "DeviceGray"
    assert picture.content == image.getchannel("L").tobytes()
    assert mask.content == image.getchannel("A").tobytes()


@pytest.mark.parametrize("kind", ["PNG", "TIFF", "WEBP", "JPEG"])
def test_profiles_are_kept(kind):
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    content = document(saved(Image.new("RGB", (30, 30), (200, 30, 30)), kind, icc_profile=profile))
    (found,) = images_of(content)
    reader = subject_of(content).reader
    name, ref = found.entries["ColorSpace"]
    assert name == "ICCBased"
    assert reader.resolve(ref).content == profile
    assert reader.resolve(ref).entries["N"] == 3


def test_a_profile_of_another_kind_of_colour_is_left_out():
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
    content = document(saved(Image.new("RGB", (30, 30)), "PNG", icc_profile=profile))
    assert images_of(content)[0].entries["ColorSpace"] == "DeviceRGB"


def test_palettes_keep_their_profile():
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    image = Image.linear_gradient("L").convert("RGB").quantize(16)
    (found,) = images_of(document(saved(image, "PNG", icc_profile=profile)))
    assert found.entries["ColorSpace"][0] == "Indexed"
    assert found.entries["ColorSpace"][1][0] == "ICCBased"


def png_of_16_bits(channels, shade, transparent):
    """A PNG of 20 × 20 pixels with 16 bits a channel, one of whose colours is not drawn."""
    row = b"\0" + shade * 20
    chunks = [
        (b"IHDR", (20).to_bytes(4, "big") * 2 + bytes((16, 0 if channels == 1 else 2, 0, 0, 0))),
        (b"tRNS", transparent),
        (b"IDAT", zlib.compress(row * 20)),
        (b"IEND", b""),
    ]
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        len(body).to_bytes(4, "big") + kind + body + zlib.crc32(kind + body).to_bytes(4, "big") for kind, body in chunks
    )


@pytest.mark.parametrize("channels", [1, 3])
def test_a_colour_of_16_bits_that_is_not_drawn_is_that_colour_alone(channels):
    clear, near = b"\x12\x34" * channels, b"\x12\x35" * channels
    assert seen(document(png_of_16_bits(channels, clear, clear))) == (255, 255, 255)
    assert seen(document(png_of_16_bits(channels, near, clear)))[0] == pytest.approx(0x12, abs=3)


@pytest.mark.parametrize("kind", ["WEBP", "AVIF", "GIF", "TIFF", "BMP", "PNG", "JPEG"])
def test_kinds_of_pictures(kind):
    content = document(saved(Image.new("RGB", (30, 30), (200, 30, 30)), kind))
    assert seen(content) == pytest.approx((200, 30, 30), abs=6)


def test_inks_stay_inks_and_keep_their_shade():
    image = Image.new("CMYK", (30, 30), (0, 255, 255, 0))
    for kind in ("TIFF", "JPEG"):
        content = document(saved(image, kind))
        assert images_of(content)[0].entries["ColorSpace"] == "DeviceCMYK"
        red, green, blue = seen(content)
        assert red > 200
        assert green < 90
        assert blue < 90
