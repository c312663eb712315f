"""Text files, read whole."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Final

from fleetquill.errors import SourceError, Where
from fleetquill.tree.encoding import encoding_of

PICTURE: Final = ("a picture, not text", "Give it with the ending of a picture, or show it from a page.")
FIRST_BYTES: Final = {
    b"%PDF": ("a finished PDF, not text", "Give what it was made from."),
    b"PK\x03\x04": ("an archive, as workbooks are, not text", "Save what is in it as HTML or CSV."),
    b"\x1f\x8b": ("a compressed archive, not text", "Unpack it first."),
    b"\xd0\xcf\x11\xe0": ("an old office file, not text", "Save it as HTML or CSV."),
    b"\x89PNG": PICTURE,
    b"\xff\xd8\xff": PICTURE,
    b"GIF8": PICTURE,
}


def read_page(path: Path) -> str:
    """An HTML file in the encoding that it says, else in UTF-8."""
    encoding = ""
    if path.is_file():
        with suppress(OSError):
            content = path.read_bytes()
            encoding = encoding_of(content)
    if encoding in ("", "utf-8", "utf-8-sig"):
        return read_text(path, "document")
    return content.decode(encoding, "replace")


def read_bytes(path: Path, what: str) -> bytes:
    """A file as it is; an error says what could not be read and why."""
    with _told(path, what):
        return path.read_bytes()


def read_text(path: Path, what: str) -> str:
    """A text file in UTF-8; an error says what could not be read and why."""
    with _told(path, what):
        return path.read_text(encoding="utf-8-sig")


@contextmanager
def _told(path: Path, what: str) -> Iterator[None]:
    try:
        yield
    except FileNotFoundError as error:
        raise SourceError(
            f"The {what} does not exist.", where=Where(str(path)), remedy="Check the name and the folder."
        ) from error
    except IsADirectoryError as error:
        raise SourceError(f"The {what} is a folder.", where=Where(str(path)), remedy="Give a file.") from error
    except UnicodeDecodeError as error:
        known = next((told for start, told in FIRST_BYTES.items() if error.object.startswith(start)), None)
        if known is not None:
            raise SourceError(f"The {what} is {known[0]}.", where=Where(str(path)), remedy=known[1]) from error
        raise SourceError(
            f"The {what} is not UTF-8 text (byte {error.start}).",
            where=Where(str(path)),
            remedy="Save it in UTF-8.",
        ) from error
    except OSError as error:
        reason = error.strerror or "unknown reason"
        raise SourceError(f"The {what} cannot be read ({reason}).", where=Where(str(path))) from error
