"""Style sheets and pictures put into a file itself: what their addresses lead to, as data."""

from __future__ import annotations

import base64
import re
from collections.abc import Callable
from pathlib import Path
from typing import Final
from urllib.parse import urljoin

from fleetquill.errors import FleetQuillError
from fleetquill.graphics.finished_pages import finished_page, is_finished, page_picture
from fleetquill.policy import Resource, is_web
from fleetquill.tree.base import Base

ADDRESS: Final = re.compile(r"url\(\s*(?:\"([^\"]*)\"|'([^']*)'|([^\"'()\s]+))\s*\)")
IMPORT: Final = re.compile(r"@import\s+(?:url\(\s*)?[\"']?([^\"'()\s;]+)[\"']?\s*\)?([^;]*);")
DEEPEST_IMPORT: Final = 16
TYPES: Final = (
    (b"\x89PNG", "image/png"), (b"\xff\xd8", "image/jpeg"), (b"GIF8", "image/gif"), (b"RIFF", "image/webp"),
    (b"wOF2", "font/woff2"), (b"wOFF", "font/woff"), (b"OTTO", "font/otf"), (b"\0\1\0\0", "font/ttf"),
)  # fmt: skip


class Embedding:
    """Reads what addresses lead to; what cannot be read keeps its address, with a remark."""

    def __init__(self, read: Callable[[str, Base], Resource]) -> None:
        self._read = read
        self.remarks: dict[str, None] = {}

    def linked_sheet(self, url: str, base: Base, depth: int = 0) -> str:
        """The text of a style sheet, with all that it asks for in it."""
        try:
            resource = self._read(url, base)
        except FleetQuillError as error:
            self.remarks[f"The style sheet '{url}' is not in the file. {error.what}"] = None
            return ""
        name = resource.name
        folder: Base = urljoin(name, ".") if is_web(name) else Path(name).parent
        return self.sheet(resource.content.decode("utf-8-sig", "replace"), folder, depth)

    def sheet(self, css: str, base: Base, depth: int = 0) -> str:
        """A style sheet with the sheets that it imports, its pictures and its fonts in it."""
        if depth < DEEPEST_IMPORT:
            css = IMPORT.sub(lambda found: self._import(found, base, depth), css)
        return ADDRESS.sub(lambda found: self._shown(found, base), css)

    def _import(self, found: re.Match[str], base: Base, depth: int) -> str:
        css = self.linked_sheet(found[1], base, depth + 1)
        media = found[2].strip()
        return f"@media {media} {{ {css} }}" if media else css

    def _shown(self, found: re.Match[str], base: Base) -> str:
        url = found[1] or found[2] or found[3] or ""
        return f'url("{self.address(url, base)}")'

    def address(self, url: str, base: Base) -> str:
        """The content of a file as an address."""
        if not url or url.startswith(("data:", "#")):
            return url
        try:
            content = self._read(url, base).content
        except FleetQuillError as error:
            self.remarks[f"'{url}' is not in the file. {error.what}"] = None
            return url
        if is_finished(content):
            page = finished_page(content, url)
            if isinstance(page, str):
                self.remarks[f"'{url}' is not in the file. {page}"] = None
                return url
            content = page_picture(page).content
        return f"data:{_type_of(content)};base64,{base64.b64encode(content).decode('ascii')}"


def _type_of(content: bytes) -> str:
    known = next((kind for first, kind in TYPES if content.startswith(first)), "")
    is_svg = content[:64].lstrip().startswith((b"<svg", b"<?xml", b"<!"))
    return known or ("image/svg+xml" if is_svg else "application/octet-stream")
