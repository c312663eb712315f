"""Making a document again each time that a file changes which it is made from."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from contextlib import suppress
from pathlib import Path
from time import time_ns
from typing import Final

import click

from fleetquill.errors import FleetQuillError, OptionError

STEP: Final = 10  # ms in which changes that belong together follow one another
LONGEST: Final = 50  # ms that they may take in all


def make_again(make: Callable[[], Iterable[Path]], given: Iterable[Path]) -> None:
    """Calls `make`, which gives the files that it read, whenever one of them changes, until it is interrupted.

    An error is shown and waits for the next change, of what is `given` and of what was read before.
    """
    watch = _watch()
    files = set(map(_absolute, given))
    with suppress(KeyboardInterrupt):
        while True:
            start = time_ns()
            try:
                files = {*map(_absolute, given), *map(_absolute, make())}
            except FleetQuillError as error:
                click.echo(f"fleetquill: {error}", err=True)
            if not any(_changed_since(file, start) for file in files):
                next(watch(files), None)


def _watch() -> Callable[[set[Path]], Iterator[object]]:
    """What waits for a change of any of some files."""
    try:
        from watchfiles import watch
    except ImportError as error:
        raise OptionError(
            "Files cannot be watched: a package is missing.", remedy="Install it with: pip install 'fleetquill[watch]'."
        ) from error

    def changes(files: set[Path]) -> Iterator[object]:
        folders = {file.parent for file in files if file.parent.is_dir()}
        return watch(
            *folders, watch_filter=lambda _, name: Path(name) in files, step=STEP, debounce=LONGEST, recursive=False
        )

    return changes


def _absolute(file: Path) -> Path:
    return Path(file).absolute()


def _changed_since(file: Path, moment: int) -> bool:
    try:
        return file.stat().st_mtime_ns > moment
    except OSError:
        return False
