"""What a document's addresses are relative to, and who reads what it asks for."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Protocol
from urllib.parse import urljoin

from fleetquill.errors import PolicyError, Where
from fleetquill.policy import Resource, is_web

Base = Path | str  # a folder, or an address of the web


class Reader(Protocol):
    """Reads for one document, as far as the policy lets it; `files` are those that it was asked for.

    `homes` are the document's own folder and the files that it is made from, which it may always read.
    """

    files: list[Path]
    homes: Sequence[Path]

    def read(self, url: str, base: Base) -> Resource:
        """The resource at an address; raises an error of the family where it may not or cannot be read."""

    def path(self, url: str, base: Base) -> Path:
        """The file at an address; the web has none."""


def absolute(url: str, base: Base) -> Base:
    """The web address that is meant, or the folder that a file's address is relative to."""
    if is_web(url):
        return url
    if isinstance(base, Path):
        return base
    address = urljoin(base, url)
    if not is_web(address):
        raise PolicyError("A page of the web may not read files of this machine.", where=Where(url))
    return address
