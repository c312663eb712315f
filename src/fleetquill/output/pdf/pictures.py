"""Pictures in the PDF: JPEG and PNG data as they came where the format allows (ISO 32000-2 §8.9)."""

from __future__ import annotations

import io
import struct
import zlib
from typing import Any, Final, NamedTuple

from fleetquill.drawing.pictures import Picture, pixels_of
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.objects import Name, Ref

PNG_SIGNATURE: Final = b"\x89PNG\r\n\x1a\n"
ICC_CHANNELS: Final = {b"GRAY": 1, b"RGB ": 3, b"CMYK": 4}  # ICC.1 §7.2.6
SPACES: Final = {1: "DeviceGray", 3: "DeviceRGB", 4: "DeviceCMYK"}  # by their channels
PNG_CHANNELS: Final = {0: 1, 2: 3, 3: 1}  # of the kinds of PNG that a PDF can take over: grey, colours, a palette
COMPRESSION: Final = 6
SAMPLE: Final = 96  # rows by which it is told whether predictors win


class PictureWish(NamedTuple):
    """Whether pixels of a picture go over into one another (§8.9.5.3), and whether it may be of inks that nothing
    describes."""

    smooth: bool
    inks: bool


class PngParts(NamedTuple):
    """A PNG's header and its compressed data; `transparent` and `profile` are its chunks tRNS and iCCP."""

    width: int
    height: int
    depth: int
    color_type: int
    interlaced: bool
    palette: bytes
    transparent: bytes
    profile: bytes
    content: bytes

    @property
    def can_be_taken_over(self) -> bool:
        """Whether a PDF can hold its rows as they are; a palette with shades of transparency it cannot."""
        see_through = bool(self.transparent) and self.color_type == 3
        return not self.interlaced and self.color_type in PNG_CHANNELS and not see_through


class PictureWriter:
    """Writes pictures as image XObjects; a colour profile is stored once."""

    def __init__(self, file: PdfFile) -> None:
        self._file = file
        self._profiles: dict[bytes, Ref] = {}

    def write(self, picture: Picture, wish: PictureWish) -> Ref:
        smooth: dict[str, Any] = {"Interpolate": True} if wish.smooth and picture.smooth else {}
        if picture.format == "JPEG":
            ref = self._jpeg(picture, smooth, inks=wish.inks)
            if ref is not None:
                return ref
        if picture.format == "PNG":
            parts = read_png(picture.content)
            if parts is not None and parts.can_be_taken_over:
                return self._png(parts, smooth)
        return self._decoded(picture, smooth, inks=wish.inks)

    def _space(self, profile: bytes | None, channels: int) -> Any:
        """The colour space of a profile, where it has as many channels (§8.6.5.5); else that of devices."""
        if not profile or ICC_CHANNELS.get(profile[16:20]) != channels:
            return Name(SPACES[channels])
        ref = self._profiles.get(profile)
        if ref is None:
            ref = self._profiles[profile] = self._file.add_stream(profile, {"N": channels})
        return [Name("ICCBased"), ref]

    def _jpeg(self, picture: Picture, smooth: dict[str, Any], *, inks: bool) -> Ref | None:
        """The file as it is; None where its pixels are to be written anew."""
        with pixels_of(picture) as image:
            channels = {"L": 1, "RGB": 3, "CMYK": 4}.get(image.mode)
            adobe = "adobe" in image.info
            profile = image.info.get("icc_profile")
        if channels is None:
            return None
        space = self._space(profile, channels)
        if channels == 4 and not inks and isinstance(space, Name):
            return None
        entries = _entries(picture.pixels, space, 8) | smooth | {"Filter": Name("DCTDecode")}
        if channels == 4 and adobe:
            entries["Decode"] = [1, 0, 1, 0, 1, 0, 1, 0]  # such files store the inks inverted
        return self._file.add_stream(picture.content, entries)

    def _png(self, parts: PngParts, smooth: dict[str, Any]) -> Ref:
        """PNG's own deflated rows, with its predictors (§7.4.4.4)."""
        channels = PNG_CHANNELS[parts.color_type]
        space = self._space(parts.profile, 3 if parts.color_type == 3 else channels)
        if parts.color_type == 3:
            space = [Name("Indexed"), space, len(parts.palette) // 3 - 1, parts.palette]
        entries = _entries((parts.width, parts.height), space, parts.depth) | smooth
        entries["DecodeParms"] = _predicted(channels, parts.depth, parts.width)
        if parts.transparent:  # one colour that is not drawn (§8.9.6.4)
            shades = struct.unpack_from(f">{channels}H", parts.transparent)
            entries["Mask"] = [shade for shade in shades for _ in range(2)]
        return self._file.add_stream(parts.content, entries, deflated=True)

    def _decoded(self, picture: Picture, smooth: dict[str, Any], *, inks: bool) -> Ref:
        """Pixels decoded, transparency in a soft mask (§11.6.5.2)."""
        with pixels_of(picture) as image:
            image.load()
            profile = image.info.get("icc_profile")
            has_alpha = "A" in image.getbands() or "transparency" in image.info
            grey = image.mode in ("1", "L", "LA", "La")
            pixels = image.convert("LA" if grey else "RGBA") if has_alpha else image.copy()
        mask = None
        if has_alpha:
            alpha = pixels.getchannel("A")
            if alpha.getextrema() != (255, 255):
                mask = self._rows(alpha, Name("DeviceGray"), smooth)
            pixels = pixels.convert("L" if grey else "RGB")
        keeps_inks = pixels.mode == "CMYK" and (inks or isinstance(self._space(profile, 4), list))
        if pixels.mode not in ("1", "L") and not keeps_inks:
            pixels = pixels.convert("RGB")
        channels = len(pixels.getbands())
        return self._rows(pixels, self._space(profile, channels), smooth, mask)

    def _rows(self, pixels: Any, space: Any, smooth: dict[str, Any], mask: Ref | None = None) -> Ref:
        """Rows of pixels, with PNG's predictors where they win."""
        entries = _entries(pixels.size, space, 1 if pixels.mode == "1" else 8) | smooth
        if mask is not None:
            entries["SMask"] = mask
        if pixels.mode in ("L", "RGB") and _predictors_win(pixels):
            parts = read_png(_as_png(pixels))
            assert parts is not None  # that was just made
            entries["DecodeParms"] = _predicted(len(pixels.getbands()), 8, pixels.size[0])
            return self._file.add_stream(parts.content, entries, deflated=True)
        return self._file.add_stream(zlib.compress(pixels.tobytes(), COMPRESSION), entries, deflated=True)


def _entries(size: tuple[int, int], space: Any, depth: int) -> dict[str, Any]:
    return {
        "Subtype": Name("Image"),
        "Width": size[0],
        "Height": size[1],
        "ColorSpace": space,
        "BitsPerComponent": depth,
    }


def _predicted(channels: int, depth: int, columns: int) -> dict[str, Any]:
    return {"Predictor": 15, "Colors": channels, "BitsPerComponent": depth, "Columns": columns}


def _predictors_win(pixels: Any) -> bool:
    """Whether rows are shorter as differences from those above and beside: by some in the middle."""
    width, height = pixels.size
    top = max(0, (height - SAMPLE) // 2)
    some = pixels.crop((0, top, width, min(height, top + SAMPLE)))
    parts = read_png(_as_png(some))
    return parts is not None and len(parts.content) < len(zlib.compress(some.tobytes(), COMPRESSION))


def _as_png(pixels: Any) -> bytes:
    stream = io.BytesIO()
    pixels.save(stream, "PNG", compress_level=COMPRESSION, icc_profile=None)
    return stream.getvalue()


def read_png(content: bytes) -> PngParts | None:
    """The chunks of a PNG that a PDF can take over; None where it is damaged (PNG 3 §5)."""
    if not content.startswith(PNG_SIGNATURE):
        return None
    place = len(PNG_SIGNATURE)
    chunks: dict[bytes, bytes] = {}
    pieces: list[bytes] = []
    while place + 12 <= len(content):
        (length,) = struct.unpack_from(">I", content, place)
        kind = content[place + 4 : place + 8]
        body = content[place + 8 : place + 8 + length]
        if len(body) < length:
            return None
        if kind == b"IDAT":
            pieces.append(body)
        elif kind == b"IEND":
            break
        else:
            chunks.setdefault(kind, body)
        place += length + 12
    header = chunks.get(b"IHDR", b"")
    if len(header) != 13 or not pieces:
        return None
    width, height, depth, color_type, _, _, interlace = struct.unpack(">IIBBBBB", header)
    palette, transparent = chunks.get(b"PLTE", b""), chunks.get(b"tRNS", b"")
    if color_type != 3 and len(transparent) < 2 * PNG_CHANNELS.get(color_type, 0):
        transparent = b""
    profile = _profile(chunks.get(b"iCCP", b""))
    return PngParts(width, height, depth, color_type, bool(interlace), palette, transparent, profile, b"".join(pieces))


def _profile(chunk: bytes) -> bytes:
    """The colour profile of an iCCP chunk (PNG 3 §11.3.2.3); b'' where it is damaged."""
    packed = chunk.partition(b"\0")[2][1:]
    try:
        return zlib.decompress(packed) if packed else b""
    except zlib.error:
        return b""
