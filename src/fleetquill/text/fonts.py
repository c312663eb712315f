"""The font library: which faces there are, and which of them a style asks for (CSS Fonts 4 §5)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from importlib.util import find_spec
from pathlib import Path
from typing import Final

from fleetquill.errors import SourceError, Where
from fleetquill.text.face import Face

GENERIC: Final = {  # what the generic families stand for
    "sans-serif": "source sans pro",
    "serif": "source serif pro",
    "monospace": "dejavu sans mono",
    "system-ui": "source sans pro",
    "ui-sans-serif": "source sans pro",
    "ui-serif": "source serif pro",
    "ui-monospace": "dejavu sans mono",
    "cursive": "source serif pro",
    "fantasy": "source sans pro",
    "math": "dejavu sans",
}
LAST_RESORT: Final = ("source sans pro", "dejavu sans")


@dataclass(frozen=True, slots=True)
class FaceEntry:
    """A face that may be loaded: where it is, and what it is asked for by."""

    family: str
    weight: int
    italic: bool
    stretch: float
    path: Path
    index: int = 0


_WEIGHTS: Final = {
    "ExtraLight": 200,
    "Light": 300,
    "": 400,
    "Regular": 400,
    "Semibold": 600,
    "Bold": 700,
    "Black": 900,
}


def _packaged(package: str, folder: str) -> Path | None:
    """A folder of an installed package, found without importing it."""
    spec = find_spec(package)
    if spec is None or not spec.submodule_search_locations:
        return None
    return Path(next(iter(spec.submodule_search_locations))) / folder


def default_faces() -> list[FaceEntry]:
    """The faces that come with the package's dependencies."""
    entries: list[FaceEntry] = []
    for package, stem, family in (
        ("font_source_sans_pro", "SourceSansPro", "Source Sans Pro"),
        ("font_source_serif_pro", "SourceSerifPro", "Source Serif Pro"),
    ):
        folder = _packaged(package, "files")
        if folder is None:
            continue
        for name, weight in _WEIGHTS.items():
            for suffix, italic in (("It", True), ("", False)):
                path = folder / f"{stem}-{name}{suffix}.otf"
                if (name or italic) and path.is_file():
                    entries.append(FaceEntry(family, weight, italic, 100.0, path))
    dejavu = _packaged("matplotlib", "mpl-data/fonts/ttf")
    for stem, family, slanted in (
        ("DejaVuSans", "DejaVu Sans", "Oblique"),
        ("DejaVuSansMono", "DejaVu Sans Mono", "Oblique"),
        ("DejaVuSerif", "DejaVu Serif", "Italic"),
    ):
        for suffix, weight, italic in (
            ("", 400, False),
            ("-Bold", 700, False),
            (f"-{slanted}", 400, True),
            (f"-Bold{slanted}", 700, True),
        ):
            file = dejavu / f"{stem}{suffix}.ttf" if dejavu else None
            if file is not None and file.is_file():
                entries.append(FaceEntry(family, weight, italic, 100.0, file))
    return entries


class FontLibrary:
    """Every face that a press can use. Faces are opened when they are first asked for."""

    def __init__(self, entries: Iterable[FaceEntry] | None = None) -> None:
        self._families: dict[str, list[FaceEntry]] = {}
        self._faces: dict[tuple[Path, int], Face] = {}
        for entry in default_faces() if entries is None else entries:
            self.add(entry)
        if not self._families:
            raise SourceError(
                "No font was found.",
                where=Where("font library"),
                remedy="Install the packages font-source-sans-pro and font-source-serif-pro.",
            )

    def add(self, entry: FaceEntry) -> None:
        self._families.setdefault(entry.family.lower(), []).append(entry)

    @property
    def families(self) -> dict[str, list[FaceEntry]]:
        """Entries by family name in lower case."""
        return self._families

    def face(self, entry: FaceEntry) -> Face:
        key = (entry.path, entry.index)
        face = self._faces.get(key)
        if face is None:
            face = self._faces[key] = Face(entry.path, entry.index)
        return face

    def match(self, families: tuple[str, ...], weight: int, style: str, stretch: float) -> tuple[Face, ...]:
        """The faces to try in order: one for each known family of the list, then the fallbacks."""
        found: dict[Face, None] = {}
        for name in (*families, *LAST_RESORT):
            entries = self._families.get(GENERIC.get(name.lower(), name.lower()))
            if entries:
                found[self.face(best(entries, weight, style, stretch))] = None
        if not found:
            first = next(iter(self._families.values()))
            found[self.face(best(first, weight, style, stretch))] = None
        return tuple(found)

    def knows(self, family: str) -> bool:
        return family.lower() in self._families or family.lower() in GENERIC


def best(entries: list[FaceEntry], weight: int, style: str, stretch: float) -> FaceEntry:
    """CSS Fonts 4 §5.2: by width, then slope, then weight."""
    wants_italic = style != "normal"
    return min(
        entries,
        key=lambda e: (
            _stretch_distance(e.stretch, stretch),
            e.italic != wants_italic,
            _weight_distance(e.weight, weight),
        ),
    )


def _stretch_distance(has: float, wants: float) -> tuple[bool, float]:
    """Narrower first for a narrow wish, wider first for a wide one."""
    wrong_side = has > wants if wants <= 100 else has < wants
    return (wrong_side, abs(has - wants))


def _weight_distance(has: int, wants: int) -> tuple[int, int]:
    """CSS Fonts 4 §5.2, step 4 of the list for font-weight."""
    if has == wants:
        return (0, 0)
    if 400 <= wants <= 500:
        if wants < has <= 500:
            return (1, has - wants)
        return (2, wants - has) if has < wants else (3, has - wants)
    if wants < 400:
        return (1, wants - has) if has < wants else (2, has - wants)
    return (1, has - wants) if has > wants else (2, wants - has)
