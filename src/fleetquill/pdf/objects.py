"""PDF objects as Python values, and how they are written (ISO 32000-2 §7.3).

A dictionary is a dict with names (without slash) as keys, an array a list, a name a `Name`, a text
string a str, a byte string bytes, a reference a `Ref`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from functools import lru_cache
from typing import Any, Final, NamedTuple


class Ref(NamedTuple):
    """A reference to an indirect object."""

    number: int


class Name(str):
    """A name object, without its slash."""

    __slots__ = ()


class Raw(str):
    """Text that is written as it is."""

    __slots__ = ()


class Real(float):
    """A number that was read and is written as it was: rounded, the matrix of a font makes its letters other ones."""

    __slots__ = ("text",)

    def __init__(self, text: bytes) -> None:
        self.text = text


MOST_NAMES: Final = 1_000  # written ones that are kept
LARGEST: Final = 1e8  # no coordinate is larger
FORMATS: Final = tuple([f"%.{places}f" for places in range(16)])  # of a number, by its decimal places
DELIMITERS: Final = b"/[<("  # that begin an object without a space before them (§7.2.3)
UNSAFE_IN_NAME: Final = re.compile(rb"[^!$&'*+,\-.0-9:;=?@A-Z\\^_`a-z|~]")


def write(value: Any) -> bytes:
    """The bytes of an object."""
    writer = WRITERS.get(type(value))
    if writer is None:
        raise TypeError(f"{type(value).__name__} is not a PDF object")
    return writer(value)


def _write_number(value: float) -> bytes:
    return number(value).encode()


def number(value: float, places: int = 3) -> str:
    """A real number to some decimal place, never with an exponent (§7.3.3): every number is written here."""
    if not -LARGEST < value < LARGEST:
        return "0" if math.isnan(value) else str(int(math.copysign(LARGEST, value)))
    text = FORMATS[places] % value
    if text[-1] == "0" and places:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


@lru_cache(maxsize=MOST_NAMES)
def _write_name(value: str) -> bytes:
    return b"/" + UNSAFE_IN_NAME.sub(lambda match: b"#%02X" % match[0][0], value.encode("utf-8"))


def text_bytes(value: str) -> bytes:
    """A text string: PDFDocEncoding where ASCII will do, else UTF-16 with its mark (§7.9.2.2)."""
    try:
        return value.encode("ascii")
    except UnicodeEncodeError:
        return b"\xfe\xff" + value.encode("utf-16-be", "surrogatepass")


def _write_text(value: str) -> bytes:
    content = text_bytes(value)
    return _write_bytes(content) if content.startswith(b"\xfe\xff") else write_string(content)


ESCAPES: Final = {ord("\\"): b"\\\\", ord("("): b"\\(", ord(")"): b"\\)", 13: b"\\r", 10: b"\\n"}


def write_string(value: bytes) -> bytes:
    return b"(" + b"".join([ESCAPES.get(byte) or bytes((byte,)) for byte in value]) + b")"


def _write_bytes(value: bytes) -> bytes:
    return b"<" + value.hex().upper().encode() + b">"


def _write_list(value: list[Any]) -> bytes:
    return b"[" + b" ".join([write(item) for item in value]) + b"]"


def _write_dict(value: dict[str, Any]) -> bytes:
    parts: list[bytes] = []
    for key, item in value.items():
        if item is not None:
            written = write(item)
            parts += [_write_name(key), written if written[0] in DELIMITERS else b" " + written]
    return b"<<" + b"".join(parts) + b">>"


WRITERS: Final[dict[type, Callable[[Any], bytes]]] = {
    dict: _write_dict,
    list: _write_list,
    tuple: _write_list,
    str: _write_text,
    bytes: _write_bytes,
    int: lambda value: str(value).encode(),
    float: _write_number,
    Real: lambda value: value.text,
    bool: lambda value: b"true" if value else b"false",
    Name: _write_name,
    Raw: lambda value: value.encode("ascii"),
    Ref: lambda value: b"%d 0 R" % value.number,
    type(None): lambda _value: b"null",
}
