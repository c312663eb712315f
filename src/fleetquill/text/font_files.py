"""Font files in folders: what faces are in them, with an index kept on disk."""

from __future__ import annotations

import json
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final

from fleetquill.errors import FleetQuillError, SourceError, Where
from fleetquill.text.face import Face, faces_in
from fleetquill.text.fonts import FaceEntry

SUFFIXES: Final = (".otf", ".ttf", ".otc", ".ttc", ".woff", ".woff2")
INDEX_VERSION: Final = 2


def system_folders() -> list[Path]:
    """The usual folders for fonts on this kind of system."""
    home = Path.home()
    if sys.platform == "darwin":
        return [Path("/System/Library/Fonts"), Path("/Library/Fonts"), home / "Library/Fonts"]
    if sys.platform == "win32":
        return [Path("C:/Windows/Fonts"), home / "AppData/Local/Microsoft/Windows/Fonts"]
    return [Path("/usr/share/fonts"), Path("/usr/local/share/fonts"), home / ".local/share/fonts", home / ".fonts"]


def scan(folder: Path, index: Path | None = None) -> list[FaceEntry]:
    """The faces of all font files below a folder. Files that are not fonts are passed over.

    `index` is a file that keeps what was found, by path, size and time of change; it is made anew
    where it cannot be used. Raises SourceError where the folder does not exist.
    """
    if not folder.is_dir():
        raise SourceError("The folder of fonts does not exist.", where=Where(str(folder)), remedy="Check its name.")
    known = _read_index(index)
    fresh: dict[str, Any] = {}
    entries: list[FaceEntry] = []
    for path in sorted(p for p in folder.rglob("*") if p.suffix.lower() in SUFFIXES and p.is_file()):
        state = path.stat()
        stamp = [state.st_size, state.st_mtime_ns]
        row = known.get(str(path))
        if row is None or row["stamp"] != stamp:
            row = {"stamp": stamp, "faces": [_packed(entry) for entry in faces_of(path)]}
        fresh[str(path)] = row
        entries += [_unpacked(packed, path) for packed in row["faces"]]
    if index is not None and any(known.get(name) != row for name, row in fresh.items()):
        _write_index(index, {**known, **fresh})
    return entries


def faces_of(path: Path) -> Iterator[FaceEntry]:
    """The faces in one file; none where it is not a font that can be used."""
    try:
        count = faces_in(path)
        for number in range(count):
            yield describe(Face(path, number), path, number)
    except FleetQuillError:
        return


def describe(face: Face, path: Path, index: int, content: bytes | None = None) -> FaceEntry:
    """What a face says of itself: family, weight, slope and width ('name', 'OS/2', 'fvar')."""
    family = face.name("TYPOGRAPHIC_FAMILY") or face.name("FONT_FAMILY") or path.stem
    weights = (float(face.weight), float(face.weight))
    stretches = (face.stretch, face.stretch)
    slope = ("", 0.0)
    for axis in face.axes:
        if axis.tag == "wght":
            weights = (axis.min_value, axis.max_value)
        elif axis.tag == "wdth":
            stretches = (axis.min_value, axis.max_value)
        elif axis.tag == "slnt":  # degrees, below 0 for a slope to the right
            slope = ("slnt", max(axis.min_value, -14.0))
        elif axis.tag == "ital":
            slope = ("ital", axis.max_value)
    name = face.name("FULL_NAME")
    return FaceEntry(family, weights, face.italic, path, stretches, index, content, full_name=name, slope=slope)


def _packed(entry: FaceEntry) -> list[Any]:
    return [
        *(entry.family, *entry.weights, entry.italic, *entry.stretches),
        *(entry.number, entry.full_name, *entry.slope),
    ]


def _unpacked(row: list[Any], path: Path) -> FaceEntry:
    family, light, heavy, italic, narrow, wide, number, full_name, axis, slope = row
    return FaceEntry(
        family, (light, heavy), italic, path, (narrow, wide), number, full_name=full_name, slope=(axis, slope)
    )


def _read_index(index: Path | None) -> dict[str, Any]:
    try:
        content = json.loads(index.read_text(encoding="utf-8")) if index else {}
    except (OSError, ValueError):
        return {}
    return content.get("files", {}) if content.get("version") == INDEX_VERSION else {}


def _write_index(index: Path, files: dict[str, Any]) -> None:
    """An index that cannot be written is no fault: the folder is scanned again next time."""
    try:
        index.parent.mkdir(parents=True, exist_ok=True)
        beside = index.with_suffix(".part")
        beside.write_text(json.dumps({"version": INDEX_VERSION, "files": files}), encoding="utf-8")
        beside.replace(index)
    except OSError:
        return
