"""Text files, read whole."""

from __future__ import annotations

from pathlib import Path

from fleetquill.errors import SourceError, Where


def read_text(path: Path, what: str) -> str:
    """A text file in UTF-8; an error says what could not be read and why."""
    try:
        return path.read_text(encoding="utf-8-sig")
    except FileNotFoundError as error:
        raise SourceError(
            f"The {what} does not exist.", where=Where(str(path)), remedy="Check the name and the folder."
        ) from error
    except IsADirectoryError as error:
        raise SourceError(f"The {what} is a folder.", where=Where(str(path)), remedy="Give a file.") from error
    except UnicodeDecodeError as error:
        raise SourceError(
            f"The {what} is not UTF-8 text (byte {error.start}).",
            where=Where(str(path)),
            remedy="Save it in UTF-8.",
        ) from error
    except OSError as error:
        reason = error.strerror or "unknown reason"
        raise SourceError(f"The {what} cannot be read ({reason}).", where=Where(str(path))) from error
