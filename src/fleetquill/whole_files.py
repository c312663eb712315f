"""Files that are written whole or not at all, and keep what they were where they take another's place."""

from __future__ import annotations

import os
import stat
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from platform import node
from typing import BinaryIO, Final

from fleetquill.caches import Cache
from fleetquill.errors import OutputError, Where

_swept: Final[Cache[Path, bool]] = Cache(1_000)  # folders that were looked through


def write_whole(path: Path, write: Callable[[BinaryIO], None]) -> Path:
    """Writes beside the asked name and renames: nothing half-written is left under it.

    A link stays one, and what is no ordinary file (a device, a pipe) is written to.
    """
    if path.is_dir():
        inside = path / "page.pdf"
        raise OutputError("The output is a folder.", where=Where(str(path)), remedy=f"Give a file in it: '{inside}'.")
    if not path.parent.is_dir():
        raise OutputError(
            f"The folder '{path.parent}' does not exist.",
            where=Where(str(path)),
            remedy="Make it, or choose another.",
        )
    beside = None
    try:
        if path.exists() and not path.is_file():
            with path.open("wb") as device:
                write(device)
            return path
        target = Path(os.path.realpath(path))
        _sweep(target.parent)
        beside, stream = _open_beside(target)
        with stream:
            write(stream)
        _keep_owner(beside, target)
        beside.replace(target)
        beside = None
    except OSError as error:
        reason = error.strerror or str(error)
        raise OutputError(
            f"The file cannot be written ({reason}).",
            where=Where(str(path)),
            remedy="Check that the folder may be written to and has room.",
        ) from error
    finally:
        if beside is not None:
            beside.unlink(missing_ok=True)
    return path


def _keep_owner(new: Path, old: Path) -> None:
    """The file that takes another's place has its mode, and its owner where that may be given."""
    try:
        facts = old.stat()
    except OSError:
        return
    with suppress(OSError, AttributeError):
        new.chmod(stat.S_IMODE(facts.st_mode))
        if (facts.st_uid, facts.st_gid) != (new.stat().st_uid, new.stat().st_gid):
            os.chown(new, facts.st_uid, facts.st_gid)
            new.chmod(stat.S_IMODE(facts.st_mode))  # a new owner takes some bits away


def _sweep(folder: Path) -> None:
    """Takes away what runs of this machine that were killed have left, once for each folder."""
    if os.name != "posix" or _swept.get(folder):
        return
    _swept.put(folder, True)
    for left in folder.glob(f".fleetquill-{node()}-*.part"):
        number = left.name.removesuffix(".part").split("-")[-2]
        if number.isdecimal() and not _is_alive(int(number)):
            left.unlink(missing_ok=True)


def _is_alive(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except OSError:  # somebody else's
        pass
    return True


def _open_beside(path: Path) -> tuple[Path, BinaryIO]:
    """A new file in the same folder, open for writing."""
    number = 0
    while True:
        beside = path.with_name(f".fleetquill-{node()}-{os.getpid()}-{number}.part")
        try:
            return beside, beside.open("xb")
        except FileExistsError:  # another thread's, or a broken run's
            number += 1
