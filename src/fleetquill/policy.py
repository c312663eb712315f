"""What a document may read: folders, schemes, sizes, time. And the reading itself."""

from __future__ import annotations

import base64
import re
import stat
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final, NamedTuple
from urllib.parse import unquote, unquote_to_bytes, urlsplit

from fleetquill.errors import LimitError, OptionError, PolicyError, SourceError, Where

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


class Limits(NamedTuple):
    """What one document may use up. Sizes are bytes, times seconds; 0 seconds are no limit."""

    timeout: float  # for one address of the web, from asking to the last byte
    time: float  # for the whole document
    resources: int  # addresses of the web
    template_steps: int  # work of a template: turns of loops, calls, characters made
    file_size: int  # of each file that is read, and of what an answer of the web unpacks to
    font_size: int  # what a font unpacks to
    style_size: int  # characters of each style sheet and style attribute
    picture_pixels: int
    nesting: int
    pages: int


TRUSTED: Final = Limits(20.0, 0.0, 1_000, 5_000_000, 200_000_000, 200_000_000, 50_000_000, 200_000_000, 500, 100_000)
STRANGERS: Final = Limits(5.0, 8.0, 100, 2_000_000, 20_000_000, 4_000_000, 1_000_000, 40_000_000, 200, 2_000)

USUAL: Any = None  # the profile says


@dataclass(frozen=True)
class Policy:
    """Limits for what one document may do: one of two profiles, and what is told otherwise.

    Documents of one's own may read every file that the process can read, and take their time. With
    `strangers` neither documents nor their templates are trusted: files are read from `folders` and the
    document's own folder alone, templates run sandboxed and use plain values of the data only, and every
    limit is strict. A limit that is given holds in either profile; docs/security.md has both tables.

    `folders` are those that files may be read from besides the document's own; with `any_folder`
    every file that the process can read. With `network` addresses of the web may be read, from
    `hosts` where any are named, as 'host' or 'host:port'. For strangers, private addresses and ports
    besides 80 and 443 are read only where `hosts` names them. `formats` are those that pictures may
    have. `timeout` is for each address, `time` for the whole document (0: no limit).
    """

    folders: Sequence[Path] = ()
    any_folder: bool = USUAL
    network: bool = False
    hosts: Sequence[str] = ()
    timeout: float = USUAL
    resources: int = USUAL
    strangers: bool = False
    template_steps: int = USUAL
    file_size: int = USUAL
    font_size: int = USUAL
    style_size: int = USUAL
    picture_pixels: int = USUAL
    nesting: int = USUAL
    pages: int = USUAL
    time: float = USUAL
    formats: Sequence[str] = PICTURE_FORMATS

    def __post_init__(self) -> None:
        profile = STRANGERS if self.strangers else TRUSTED
        for name, usual in {"any_folder": not self.strangers, **profile._asdict()}.items():
            if getattr(self, name) is None:
                object.__setattr__(self, name, usual)
        unknown = [name for name in self.formats if name not in PICTURE_FORMATS]
        if unknown:
            known = ", ".join(PICTURE_FORMATS)
            raise OptionError(f"Pictures of the format '{unknown[0]}' are not read.", remedy=f"There are: {known}.")

    def check_style(self, css: str, where: Where) -> str:
        """The style, where it is no larger than it may be; LimitError where it is."""
        if len(css) > self.style_size:
            raise LimitError("The style is larger than the policy allows.", where=where)
        return css

    def data(self, url: str) -> Resource:
        """What a data: address holds."""
        return _data_url(url)

    def check(self, path: Path) -> None:
        """Raises an error of the family where something is no regular file, or is too large a one."""
        try:
            facts = path.stat()
        except (OSError, ValueError):
            return  # its reader says why
        if not stat.S_ISREG(facts.st_mode) and not stat.S_ISDIR(facts.st_mode):
            raise SourceError("This is no file: a pipe or a device.", where=Where(str(path)))
        if stat.S_ISREG(facts.st_mode) and facts.st_size > self.file_size:
            raise LimitError("The file is larger than the policy allows.", where=Where(str(path)))

    def read_file(self, path: Path) -> Resource:
        """A file that may be read; raises an error of the family where it cannot be."""
        self.check(path)
        try:
            with path.open("rb") as file:
                content = file.read(self.file_size + 1)
            if len(content) > self.file_size:  # it grew, or its system does not know its size
                raise LimitError("The file is larger than the policy allows.", where=Where(str(path)))
            return Resource(str(path), content)
        except FileNotFoundError as error:
            raise SourceError("The file does not exist.", where=Where(str(path))) from error
        except IsADirectoryError as error:
            raise SourceError("This is a folder, not a file.", where=Where(str(path))) from error
        except OSError as error:
            reason = error.strerror or "unknown reason"
            raise SourceError(f"The file cannot be read ({reason}).", where=Where(str(path))) from error
        except ValueError as error:
            raise SourceError("The address is not one of a file.", where=Where(str(path))) from error

    def path(self, url: str, base: Path, homes: Sequence[Path]) -> Path:
        """The file at an address relative to a folder, where the policy lets it be read; PolicyError where not.

        `homes` are the document's own folder, where it has one, and the files that it is made from.
        """
        scheme = SCHEME.match(url)
        if scheme and not url.lower().startswith("file:"):
            raise PolicyError(f"Addresses that begin with '{scheme[0]}' are not read.", where=Where(url))
        name = unquote(urlsplit(url).path) if scheme or "%" in url or "?" in url or "#" in url else url
        try:
            path = (base / name).resolve()
        except ValueError as error:  # a NUL
            raise PolicyError("The address is not one of a file.", where=Where(url)) from error
        if not self.allows(path, homes):
            raise PolicyError("The file lies outside the folders that may be read.", where=Where(str(path)))
        return path

    def allows(self, path: Path, homes: Sequence[Path] = ()) -> bool:
        """Whether a file lies in a folder that may be read, wherever links to it stand."""
        found = path.resolve()
        return self.any_folder or any(found.is_relative_to(folder.resolve()) for folder in (*homes, *self.folders))


def _data_url(url: str) -> Resource:
    """RFC 2397."""
    head, comma, body = url.partition(",")
    if not comma:
        raise SourceError("The data: address has no data.")
    if head.endswith(";base64"):
        try:
            content = base64.b64decode(unquote(body), validate=False)
        except ValueError as error:
            raise SourceError("The data: address is not valid base64.") from error
    else:
        content = unquote_to_bytes(body.encode("utf-8", "replace"))
    return Resource("data:", content)
