"""What streams are compressed with: Flate with its predictors, LZW, run lengths, text forms (ISO 32000-2 §7.4)."""

from __future__ import annotations

import base64
import re
import zlib
from collections.abc import Callable
from typing import Any, Final

from fleetquill.pdf.syntax import PdfSyntaxError

PICTURES: Final = ("DCTDecode", "JPXDecode", "CCITTFaxDecode", "JBIG2Decode")  # which are decoded by who shows them
SHORT: Final = {
    "Fl": "FlateDecode", "LZW": "LZWDecode", "AHx": "ASCIIHexDecode", "A85": "ASCII85Decode",
    "RL": "RunLengthDecode",
}  # fmt: skip
MOST_UNPACKED: Final = 250_000_000  # bytes of one stream


def unpacked(content: bytes, filters: list[str], parameters: list[dict[str, Any]]) -> bytes:
    """The content of a stream. Raises PdfSyntaxError where it is damaged or asks for a filter that is not known."""
    for index, name in enumerate(filters):
        name = SHORT.get(name, name)
        if name in PICTURES or name == "Crypt":
            return content
        decode = FILTERS.get(name)
        if decode is None:
            raise PdfSyntaxError(f"A stream is compressed with '{name}', which is not known.")
        content = decode(content)
        own = parameters[index] if index < len(parameters) else {}
        if own.get("Predictor", 1) > 1:
            content = _predicted(content, own)
    return content


def _inflate(content: bytes) -> bytes:
    machine = zlib.decompressobj()
    try:
        found = machine.decompress(content, MOST_UNPACKED)
    except zlib.error as error:
        try:
            found = zlib.decompressobj(-15).decompress(content[2:], MOST_UNPACKED)
        except zlib.error:
            raise PdfSyntaxError(f"A stream is damaged: {error}.") from error
    if machine.unconsumed_tail:
        raise PdfSyntaxError(f"A stream unpacks to more than {MOST_UNPACKED:,} bytes.")
    return found


def _hexadecimal(content: bytes) -> bytes:
    digits = re.sub(rb"[^0-9A-Fa-f]", b"", content.split(b">")[0])
    return bytes.fromhex((digits + b"0" * (len(digits) % 2)).decode())


def _base_85(content: bytes) -> bytes:
    body = re.sub(rb"[^!-uz]", b"", content.split(b"~>")[0])
    try:
        return base64.a85decode(body)
    except ValueError as error:
        raise PdfSyntaxError(f"A stream is damaged: {error}.") from error


def _run_lengths(content: bytes) -> bytes:
    found, place = bytearray(), 0
    while place < len(content) and content[place] != 128:
        length = content[place]
        if length < 128:
            found += content[place + 1 : place + 2 + length]
            place += 2 + length
        else:
            found += content[place + 1 : place + 2] * (257 - length)
            place += 2
    return bytes(found)


def _lzw(content: bytes) -> bytes:
    """§7.4.4; codes grow one early, as nearly all files have it."""
    found = bytearray()
    table: list[bytes] = []
    bits = held = 0
    width = 9
    before = b""
    for byte in content:
        held, bits = (held << 8) | byte, bits + 8
        while bits >= width:
            code = (held >> (bits - width)) & ((1 << width) - 1)
            bits -= width
            if code == 257:
                return bytes(found)
            if code == 256:
                table, width, before = [bytes((value,)) for value in range(256)] + [b"", b""], 9, b""
                continue
            if code < len(table):
                entry = table[code]
            elif before:
                entry = before + before[:1]
            else:
                raise PdfSyntaxError("A stream compressed by LZW is damaged.")
            found += entry
            if len(found) > MOST_UNPACKED:
                raise PdfSyntaxError(f"A stream unpacks to more than {MOST_UNPACKED:,} bytes.")
            if before:
                table.append(before + entry[:1])
            before = entry
            width = min(12, max(9, (len(table) + 1).bit_length()))
    return bytes(found)


def _predicted(content: bytes, parameters: dict[str, Any]) -> bytes:
    """Undoes what makes rows easier to compress (§7.4.4.4)."""
    colors, bits = parameters.get("Colors", 1), parameters.get("BitsPerComponent", 8)
    row = (parameters.get("Columns", 1) * colors * bits + 7) // 8
    step = max(1, colors * bits // 8)
    if parameters["Predictor"] == 2:
        return b"".join(_added(content[at : at + row], step) for at in range(0, len(content), row))
    found: list[bytes] = []
    above = bytes(row)
    for at in range(0, len(content), row + 1):
        above = _row(content[at], content[at + 1 : at + 1 + row], above, step)
        found.append(above)
    return b"".join(found)


def _added(row: bytes, step: int) -> bytes:
    made = bytearray(row)
    for index in range(step, len(made)):
        made[index] = (made[index] + made[index - step]) & 255
    return bytes(made)


def _row(kind: int, row: bytes, above: bytes, step: int) -> bytes:
    """One row by its PNG filter (PNG 3 §9)."""
    if kind == 0:
        return row
    if kind == 1:
        return _added(row, step)
    if kind == 2:
        return bytes([(value + up) & 255 for value, up in zip(row, above, strict=False)])
    made = bytearray(row)
    for index, value in enumerate(row):
        left = made[index - step] if index >= step else 0
        up = above[index]
        corner = above[index - step] if index >= step else 0
        made[index] = (value + ((left + up) // 2 if kind == 3 else _nearest(left, up, corner))) & 255
    return bytes(made)


def _nearest(left: int, up: int, corner: int) -> int:
    guess = left + up - corner
    if abs(guess - left) <= abs(guess - up) and abs(guess - left) <= abs(guess - corner):
        return left
    return up if abs(guess - up) <= abs(guess - corner) else corner


FILTERS: Final[dict[str, Callable[[bytes], bytes]]] = {
    "FlateDecode": _inflate,
    "LZWDecode": _lzw,
    "ASCIIHexDecode": _hexadecimal,
    "ASCII85Decode": _base_85,
    "RunLengthDecode": _run_lengths,
}
