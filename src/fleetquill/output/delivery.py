"""File names made from data, and the headers with which a PDF is handed over the web."""

from __future__ import annotations

import re
import string
import unicodedata
from collections.abc import Mapping
from typing import Any, Final
from urllib.parse import quote

from fleetquill.errors import DataError, nearest

FORBIDDEN: Final = re.compile(r'[<>:"/\\|?*\x00-\x1f\x7f\u200e\u200f\u202a-\u202e\u2066-\u2069]+')
RESERVED: Final = re.compile(r"(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])(\.|$)", re.IGNORECASE)
MOST_BYTES: Final = 200  # of a name in UTF-8, so that any file system takes it with an ending


def safe_name(pattern: str, record: Mapping[str, Any] | Any = None, *, extension: str = ".pdf") -> str:
    """A file name from a pattern such as '{number} {customer}' and the record that it names.

    The result is one name that every system takes: without separators, control characters, names
    that are reserved, or spaces and dots at its ends; never empty and of at most 200 bytes before
    its extension. Raises DataError where the record lacks what the pattern names.
    """
    try:
        text = _Formatter().vformat(pattern, (), record if isinstance(record, Mapping) else _Attributes(record))
    except KeyError as error:
        known = [str(key) for key in record] if isinstance(record, Mapping) else dir(record)
        meant = nearest(str(error.args[0]), known)
        raise DataError(
            f"The record has no '{error.args[0]}' for the file name '{pattern}'.",
            remedy=f"Did you mean '{meant}'?" if meant else "Name a value that it has.",
        ) from error
    except (ValueError, IndexError, AttributeError) as error:
        raise DataError(f"The pattern '{pattern}' is not a pattern for a file name ({error}).") from error
    name = unicodedata.normalize("NFC", text)
    name = FORBIDDEN.sub("-", name)
    name = " ".join(name.split()).strip(" .-")
    if extension and name.lower().endswith(extension.lower()):
        name = name[: -len(extension)].rstrip(" .")
    if RESERVED.match(name):
        name = f"_{name}"
    while len(name.encode("utf-8", "ignore")) > MOST_BYTES:
        name = name[:-1].rstrip(" .")
    name = name.encode("utf-8", "ignore").decode("utf-8")
    return (name or "document") + extension


class _Formatter(string.Formatter):
    """Fills in names; attributes that begin with an underscore are not reached."""

    def get_field(self, field_name: str, args: Any, kwargs: Any) -> Any:
        if "._" in field_name or "[_" in field_name or field_name.startswith("_"):
            raise KeyError(field_name)
        return super().get_field(field_name, args, kwargs)


class _Attributes(Mapping[str, Any]):
    """An object's attributes as a mapping."""

    def __init__(self, record: Any) -> None:
        self._record = record

    def __getitem__(self, name: str) -> Any:
        try:
            return getattr(self._record, name)
        except AttributeError as error:
            raise KeyError(name) from error

    def __iter__(self) -> Any:
        return iter(dir(self._record))

    def __len__(self) -> int:
        return len(dir(self._record))


def content_disposition(filename: str, *, inline: bool) -> str:
    """A Content-Disposition header for a name in any script (RFC 6266, RFC 8187)."""
    kind = "inline" if inline else "attachment"
    name = safe_name("{name}", {"name": filename}, extension="")
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode("ascii")
    plain = re.sub(r'[\\"%;]', "_", plain).strip() or "document.pdf"
    if plain.startswith("."):
        plain = f"document{plain}"
    value = f'{kind}; filename="{plain}"'
    if plain != name:
        value += f"; filename*=UTF-8''{quote(name, safe='')}"
    return value
