"""Pictures in the PDF: JPEG and PNG data as they came where the format allows (ISO 32000-2 §8.9)."""

from __future__ import annotations

import struct
import zlib
from typing import Any, NamedTuple

from fleetquill.drawing.pictures import Picture, pixels_of
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.objects import Name, Ref

PNG_SIGNATURE = b"\x89PNG\r\n\x1a\n"


ICC_CHANNELS = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}  # ICC.1 §7.2.6


class PngParts(NamedTuple):
    """A PNG's header and its compressed data."""

    width: int
    height: int
    depth: int
    color_type: int
    interlaced: bool
    palette: bytes
    transparent: bool
    content: bytes


class PictureWish(NamedTuple):
    """Whether pixels of a picture go over into one another (§8.9.5.3), and whether it may be of inks that nothing
    describes."""

    smooth: bool
    inks: bool


def write_picture(file: PdfFile, picture: Picture, profiles: dict[bytes, Ref], wish: PictureWish) -> Ref:
    """Writes the picture as an image XObject; `profiles` are the colour profiles that are there already."""
    smooth: dict[str, Any] = {"Interpolate": True} if wish.smooth and picture.smooth else {}
    if picture.format == "JPEG":
        ref = _write_jpeg(file, picture, profiles, smooth, inks=wish.inks)
        if ref is not None:
            return ref
    if picture.format == "PNG":
        parts = read_png(picture.content)
        if parts is not None and not parts.interlaced and not parts.transparent and parts.color_type in (0, 2, 3):
            return _write_png(file, parts, smooth)
    return _write_decoded(file, picture, smooth)


def _profile(file: PdfFile, content: bytes, channels: int, profiles: dict[bytes, Ref]) -> list[Any]:
    """An ICC-based colour space (§8.6.5.5); the same profile is stored once."""
    ref = profiles.get(content)
    if ref is None:
        ref = profiles[content] = file.add_stream(content, {"N": channels})
    return [Name("ICCBased"), ref]


def _write_jpeg(
    file: PdfFile, picture: Picture, profiles: dict[bytes, Ref], smooth: dict[str, Any], *, inks: bool
) -> Ref | None:
    """The file as it is; None where its pixels are to be written anew."""
    with pixels_of(picture) as image:
        space = {"L": "DeviceGray", "RGB": "DeviceRGB", "CMYK": "DeviceCMYK"}.get(image.mode)
        adobe = "adobe" in image.info
        profile = image.info.get("icc_profile")
    if space is None:
        return None
    channels = {"DeviceGray": 1, "DeviceRGB": 3, "DeviceCMYK": 4}[space]
    fits = profile is not None and ICC_CHANNELS.get(profile[16:20]) == channels
    if space == "DeviceCMYK" and not fits and not inks:
        return None
    colors: Any = _profile(file, profile, channels, profiles) if profile and fits else Name(space)
    entries: dict[str, Any] = {
        **smooth,
        "Type": Name("XObject"),
        "Subtype": Name("Image"),
        "Width": picture.pixels[0],
        "Height": picture.pixels[1],
        "ColorSpace": colors,
        "BitsPerComponent": 8,
        "Filter": Name("DCTDecode"),
    }
    if space == "DeviceCMYK" and adobe:
        entries["Decode"] = [1, 0, 1, 0, 1, 0, 1, 0]  # such files store the inks inverted
    return file.add_stream(picture.content, entries)


def read_png(content: bytes) -> PngParts | None:
    """The chunks of a PNG that a PDF can take over; None where it is damaged (PNG 3 §5)."""
    if not content.startswith(PNG_SIGNATURE):
        return None
    place = len(PNG_SIGNATURE)
    header = b""
    palette = b""
    transparent = False
    pieces: list[bytes] = []
    while place + 12 <= len(content):
        (length,) = struct.unpack_from(">I", content, place)
        kind = content[place + 4 : place + 8]
        body = content[place + 8 : place + 8 + length]
        if len(body) < length:
            return None
        if kind == b"IHDR":
            header = body
        elif kind == b"PLTE":
            palette = body
        elif kind == b"tRNS":
            transparent = True
        elif kind == b"IDAT":
            pieces.append(body)
        elif kind == b"IEND":
            break
        place += length + 12
    if len(header) != 13 or not pieces:
        return None
    width, height, depth, color_type, _, _, interlace = struct.unpack(">IIBBBBB", header)
    return PngParts(width, height, depth, color_type, bool(interlace), palette, transparent, b"".join(pieces))


def _write_png(file: PdfFile, parts: PngParts, smooth: dict[str, Any]) -> Ref:
    """PNG's own deflated rows, with its predictors (§7.4.4.4)."""
    colors = 3 if parts.color_type == 2 else 1
    space: Any = Name("DeviceRGB" if parts.color_type == 2 else "DeviceGray")
    if parts.color_type == 3:
        space = [Name("Indexed"), Name("DeviceRGB"), len(parts.palette) // 3 - 1, parts.palette]
    entries: dict[str, Any] = {
        **smooth,
        "Type": Name("XObject"),
        "Subtype": Name("Image"),
        "Width": parts.width,
        "Height": parts.height,
        "ColorSpace": space,
        "BitsPerComponent": parts.depth,
        "DecodeParms": {
            "Predictor": 15,
            "Colors": colors,
            "BitsPerComponent": parts.depth,
            "Columns": parts.width,
        },
    }
    return file.add_stream(parts.content, entries, deflated=True)


def _write_decoded(file: PdfFile, picture: Picture, smooth: dict[str, Any]) -> Ref:
    """Pixels decoded, transparency in a soft mask (§11.6.5.2)."""

    with pixels_of(picture) as image:
        image.load()
        has_alpha = "A" in image.getbands() or "transparency" in image.info
        pixels = image.convert("RGBA") if has_alpha else image.copy()
    mask = None
    if has_alpha:
        alpha = pixels.getchannel("A")
        if alpha.getextrema() != (255, 255):
            mask = file.add_stream(
                zlib.compress(alpha.tobytes(), 6), _raw(alpha.size, "DeviceGray") | smooth, deflated=True
            )
        pixels = pixels.convert("RGB")
    if pixels.mode == "1":
        entries = _raw(pixels.size, "DeviceGray") | {"BitsPerComponent": 1}
    elif pixels.mode == "L":
        entries = _raw(pixels.size, "DeviceGray")
    else:
        pixels = pixels.convert("RGB")
        entries = _raw(pixels.size, "DeviceRGB")
    entries |= smooth
    if mask is not None:
        entries["SMask"] = mask
    return file.add_stream(zlib.compress(pixels.tobytes(), 6), entries, deflated=True)


def _raw(size: tuple[int, int], space: str) -> dict[str, Any]:
    return {
        "Type": Name("XObject"),
        "Subtype": Name("Image"),
        "Width": size[0],
        "Height": size[1],
        "ColorSpace": Name(space),
        "BitsPerComponent": 8,
    }
