"""Pages as sheets on a screen: one file of HTML with each page as SVG."""

from __future__ import annotations

from collections.abc import Iterable
from html import escape
from typing import BinaryIO, Final

from fleetquill.tree.metadata import Metadata

SCREEN: Final = """body { margin: 0; padding: 6mm; background: #dfe5e3; text-align: center }
.sheet { display: inline-block; margin: 0 0 6mm; background: #fff; box-shadow: 0 0.5mm 2mm rgb(0 0 0 / 0.3) }
.sheet svg { display: block; max-width: calc(100vw - 12mm); height: auto }
@media print { body { padding: 0; background: none } .sheet { margin: 0; box-shadow: none; break-after: page } }"""


def write_pages(pages: Iterable[bytes], metadata: Metadata, stream: BinaryIO) -> None:
    """Writes one file in which pages stand one below the other."""
    language = f' lang="{escape(metadata.language)}"' if metadata.language else ""
    title = escape(metadata.title, quote=False)
    head = f'<meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>{title}</title>'
    stream.write(f"<!DOCTYPE html>\n<html{language}><head>{head}<style>{SCREEN}</style></head><body>\n".encode())
    for page in pages:
        stream.write(b'<div class="sheet">')
        stream.write(page)
        stream.write(b"</div>\n")
    stream.write(b"</body></html>\n")
