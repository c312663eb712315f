"""The encoding of an HTML file: a mark at its start, what came with it, what it says itself (HTML §13.2.3.2)."""

from __future__ import annotations

import codecs
import re
from typing import Final

MARKS: Final = ((codecs.BOM_UTF8, "utf-8-sig"), (codecs.BOM_UTF16_LE, "utf-16"), (codecs.BOM_UTF16_BE, "utf-16"))
LOOKED_AT: Final = 1024  # bytes at the start of a file
COMMENT: Final = re.compile(rb"<!--.*?(?:-->|\Z)", re.DOTALL)
META: Final = re.compile(rb"<meta[\s/][^>]*?charset\s*=\s*[\"']?\s*([\w.:-]+)", re.IGNORECASE)
NO_PAGES: Final = ("idna", "punycode", "unicode_escape", "raw_unicode_escape", "utf_7", "undefined")
LABELS: Final = {  # Encoding Standard §4.2: labels that mean more than Python's codecs of that name
    "iso-8859-1": "cp1252", "iso8859-1": "cp1252", "latin1": "cp1252", "ascii": "cp1252", "us-ascii": "cp1252",
    "gb2312": "gb18030", "gbk": "gb18030", "x-sjis": "cp932", "shift_jis": "cp932", "ks_c_5601-1987": "cp949",
    "euc-kr": "cp949", "iso-8859-9": "cp1254", "tis-620": "cp874", "utf-16": "utf-8", "utf-16le": "utf-8",
    "utf-16be": "utf-8", "x-user-defined": "cp1252",
}  # fmt: skip


def encoding_of(content: bytes, declared: str = "") -> str:
    """The codec that a page is written in; '' where nothing says. `declared` is the label that came with it."""
    for mark, codec in MARKS:
        if content.startswith(mark):
            return codec
    return _codec(declared) or _codec(_said(content))


def _said(content: bytes) -> str:
    found = META.search(COMMENT.sub(b"", content[:LOOKED_AT]))
    return found[1].decode("ascii", "replace") if found else ""


def _codec(label: str) -> str:
    name = LABELS.get(label.strip().lower(), label.strip())
    try:
        found = codecs.lookup(name).name if name else ""
        "".encode(found or "ascii")  # codecs that are none of text refuse
    except (LookupError, UnicodeError):
        return ""
    return "" if found.replace("-", "_") in NO_PAGES else found
