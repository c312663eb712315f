"""The endings that file names of each kind have."""

from __future__ import annotations

from typing import Final

HTML: Final = (".html", ".htm", ".xhtml")
MARKDOWN: Final = (".md", ".markdown")
WORKBOOKS: Final = (".xlsx", ".xlsm")
DATA: Final = (".json", ".yaml", ".yml", ".toml")
PICTURES: Final = (
    *(".jpg", ".jpeg", ".jpe", ".jfif", ".png", ".gif", ".webp", ".tif", ".tiff", ".bmp", ".avif", ".svg"),
)
