"""What a document may read: folders, schemes, sizes, time. And the reading itself."""

from __future__ import annotations

import base64
import binascii
import re
import stat
from collections.abc import Sequence
from pathlib import Path
from typing import Final, NamedTuple
from urllib.parse import unquote, unquote_to_bytes, urlsplit

from fleetquill.errors import LimitError, PolicyError, SourceError, Where

SCHEME: Final = re.compile(r"[A-Za-z][A-Za-z0-9+.-]+:")

PICTURE_FORMATS: Final = (  # that are read, by the names that Pillow gives them: none of them starts another program
    "PNG", "JPEG", "GIF", "BMP", "PPM", "WEBP", "TIFF", "JPEG2000", "ICO", "AVIF",
)  # fmt: skip


def is_web(address: str) -> bool:
    """Whether an address is one of the web."""
    return address[:8].lower().startswith(("http://", "https://"))


class Resource(NamedTuple):
    """Bytes that a document asked for, and what to call them."""

    name: str
    content: bytes


class Policy(NamedTuple):
    """Limits for what one document may do.

    `folders` are those that files may be read from besides the document's own; with
    `any_folder` every file that the process can read. With `network` addresses of the web may be
    read, from `hosts` where any are named, each within `timeout` seconds, up to `resources` of them.
    With `strangers` templates are not trusted: they run sandboxed and take at most `template_steps`
    turns of their loops. Sizes are bytes.
    """

    folders: Sequence[Path] = ()
    any_folder: bool = True
    network: bool = False
    hosts: Sequence[str] = ()
    timeout: float = 20.0
    resources: int = 1_000
    strangers: bool = False
    template_steps: int = 5_000_000
    file_size: int = 200_000_000
    picture_pixels: int = 200_000_000
    nesting: int = 500
    pages: int = 100_000

    def read(self, url: str, base: Path) -> Resource:
        """The resource at an address relative to `base`; raises an error of the family where it may not be."""
        if url.startswith("data:"):
            return _data_url(url)
        return self.read_file(self.path(url, base))

    def read_file(self, path: Path) -> Resource:
        """A file that may be read; raises an error of the family where it cannot be."""
        try:
            facts = path.stat()
            if not stat.S_ISREG(facts.st_mode) and not stat.S_ISDIR(facts.st_mode):
                raise SourceError("This is no file: a pipe or a device.", where=Where(str(path)))
            if facts.st_size > self.file_size:
                raise LimitError("The file is larger than the policy allows.", where=Where(str(path)))
            return Resource(str(path), path.read_bytes())
        except FileNotFoundError as error:
            raise SourceError("The file does not exist.", where=Where(str(path))) from error
        except IsADirectoryError as error:
            raise SourceError("This is a folder, not a file.", where=Where(str(path))) from error
        except OSError as error:
            reason = error.strerror or "unknown reason"
            raise SourceError(f"The file cannot be read ({reason}).", where=Where(str(path))) from error
        except ValueError as error:
            raise SourceError("The address is not one of a file.", where=Where(str(path))) from error

    def path(self, url: str, base: Path) -> Path:
        """The file at an address, where the policy lets it be read; PolicyError where not."""
        scheme = SCHEME.match(url)
        if scheme and not url.lower().startswith("file:"):
            raise PolicyError(f"Addresses that begin with '{scheme[0]}' are not read.", where=Where(url))
        name = unquote(urlsplit(url).path) if scheme or "%" in url or "?" in url or "#" in url else url
        path = (base / name).resolve()
        if not self.any_folder and not any(path.is_relative_to(f.resolve()) for f in (base, *self.folders)):
            raise PolicyError("The file lies outside the folders that may be read.", where=Where(str(path)))
        return path


def _data_url(url: str) -> Resource:
    """RFC 2397."""
    head, comma, body = url.partition(",")
    if not comma:
        raise SourceError("The data: address has no data.")
    if head.endswith(";base64"):
        try:
            content = base64.b64decode(unquote(body), validate=False)
        except binascii.Error as error:
            raise SourceError("The data: address is not valid base64.") from error
    else:
        content = unquote_to_bytes(body)
    return Resource("data:", content)
