"""What a press keeps for the documents to come: fonts, parsed sheets, cascades, drawings, measured texts."""

from __future__ import annotations

import copy
from collections.abc import Callable, Mapping, Sequence
from hashlib import blake2b
from pathlib import Path
from threading import Lock
from typing import Any, Final

from fleetquill.caches import Budget, Cache
from fleetquill.drawing.canvas import Drawing
from fleetquill.formats import Formats
from fleetquill.intake.order import Habits
from fleetquill.layout.inline.paragraph import Paragraphs, new_paragraphs
from fleetquill.layout.pages.page_area import page_area
from fleetquill.output.pdf.store import PdfStore
from fleetquill.policy import Policy
from fleetquill.style.cascade import Cascade
from fleetquill.style.media import Medium
from fleetquill.style.page_selectors import PageKind
from fleetquill.style.sheet import Sheet, parse_sheet
from fleetquill.text.fonts import FaceEntry, FontLibrary, default_faces
from fleetquill.text.settings import FontSettings
from fleetquill.text.woff import unpacked
from fleetquill.tree.document import Document
from fleetquill.tree.words import NO_WORDS, TemplateWords

MOST_SHEETS: Final = 256
MOST_DRAWINGS: Final = 64
MOST_CASCADES: Final = 32
MOST_FONT_SETS: Final = 32
MOST_UNPACKED: Final = 24  # fonts

Drawings = Cache[tuple[bytes, FontSettings], Drawing | str]  # of SVG files, by content
CascadeKey = tuple[tuple[tuple[int, Sheet], ...], FontSettings, float]


class FontFolders:
    """Where a press looks for fonts besides those that come along."""

    def __init__(self, folders: Sequence[Path], index: Path | None, *, system: bool) -> None:
        self._folders = folders
        self._index = index
        self._system = system

    def faces(self) -> list[FaceEntry]:
        """The faces in the folders that the press was given, and in the system's."""
        if not self._folders and not self._system:
            return []
        from fleetquill.text.font_files import scan, system_folders

        folders = list(self._folders)
        if self._system:
            folders += [folder for folder in system_folders() if folder.is_dir()]
        return [entry for folder in folders for entry in scan(folder, self._index)]


class Stock:
    """Everything that is dear to make and holds for more than one document."""

    def __init__(
        self,
        locale: str,
        fonts: FontFolders,
        template_folders: Sequence[Path],
        policy: Policy,
        *,
        currency: str = "",
        words: TemplateWords = NO_WORDS,
        budget: Budget | None = None,
    ) -> None:
        self._budget = budget = budget or Budget()
        self._locale = locale
        self._currency = currency
        self._words = words
        self._folders = fonts
        self._template_folders = template_folders
        self._policy = policy
        self._lock = Lock()
        self._settings: FontSettings | None = None
        self._own_settings: Cache[tuple[FaceEntry, ...], FontSettings] = budget.cache(MOST_FONT_SETS, _weight_of_set)
        self._unpacked: Cache[bytes, bytes] = budget.cache(MOST_UNPACKED, _weight_of_font)
        self._sheets: Cache[tuple[str, str, str], Sheet] = budget.cache(MOST_SHEETS, _weight_of_sheet)
        self._cascades: Cache[CascadeKey, Cascade] = budget.cache(MOST_CASCADES, _weight_of_cascade)
        self._formats: Formats | None = None
        self._templates: Any = None
        self.drawings: Drawings = budget.cache(MOST_DRAWINGS, _weight_of_drawing)
        self.paragraphs: Paragraphs = new_paragraphs(budget)  # measured short texts
        self.pdf = PdfStore(budget)

    def with_habits(self, habits: Habits) -> Stock:
        """The same stock with another way to write values and to find templates."""
        other = copy.copy(self)
        other._locale, other._currency = habits.locale or self._locale, habits.currency or self._currency
        if habits.shared is not None:
            other._template_folders = (habits.shared, *self._template_folders)
        other._formats = other._templates = None
        return other

    def font_settings(self, faces: tuple[FaceEntry, ...] = ()) -> FontSettings:
        """The settings for a document with faces of its own; kept as long as the same ones are used."""
        with self._lock:
            if self._settings is None:
                self._settings = FontSettings(FontLibrary([*default_faces(), *self._folders.faces()]), self._budget)
        base = self._settings
        if not faces:
            return base
        found = self._own_settings.get(faces)
        return found or self._own_settings.put(faces, FontSettings(FontLibrary(faces, base.library), self._budget))

    def unpack_font(self, content: bytes, path: Path) -> bytes:
        """A font that was packed for the web, unpacked once."""
        key = blake2b(content, digest_size=16).digest()
        found = self._unpacked.get(key)
        return found or self._unpacked.put(key, unpacked(content, self._policy.font_size, path))

    def formats(self) -> Formats:
        """How the press's locale writes numbers, money and dates."""
        if self._formats is None:
            self._formats = Formats(self._locale, self._currency)
        return self._formats

    def fill_in(self, path: Path, data: Mapping[str, Any]) -> Document:
        """A template file filled in with data."""
        fill: Callable[[Path, Mapping[str, Any]], Document] = self.templates().from_file
        return fill(path, data)

    def fill_in_text(self, text: str, data: Mapping[str, Any], base: Path) -> Document:
        """A template that is given as text, filled in with data."""
        fill: Callable[[str, Mapping[str, Any], Path], Document] = self.templates().from_text
        return fill(text, data, base)

    def templates(self) -> Any:
        """The templates that have been compiled."""
        if self._templates is None:
            from fleetquill.intake.template import Templates

            self._templates = Templates(self.formats(), self._template_folders, self._policy, self._words)
        return self._templates

    def sheet(self, css: str, source: str, folder: str = "") -> Sheet:
        """A parsed style sheet, kept by its text; `folder` is what addresses in it are relative to."""
        key = (css, source, folder)
        found = self._sheets.get(key)
        return found or self._sheets.put(key, parse_sheet(css, source, folder))

    def cascade(self, sheets: Sequence[tuple[int, Sheet]], fonts: FontSettings, scale: float = 1.0) -> Cascade:
        """The sheets made ready for pages of that scale, kept as long as the same ones are used."""
        key = (tuple(sheets), fonts, scale)
        found = self._cascades.get(key)
        return found or self._cascades.put(key, _cascade(sheets, fonts, scale, self._budget))


def _cascade(sheets: Sequence[tuple[int, Sheet]], fonts: FontSettings, scale: float, budget: Budget) -> Cascade:
    """A cascade for the page area that the first page turns out to have."""
    trial = Cascade(sheets, Medium(0.0, 0.0))
    area = page_area(trial.page_style(PageKind(1, right=True)).style, scale)
    medium = Medium(area.content_width, area.content_height)
    return Cascade(sheets, medium, fonts.units, budget)


# ---- what is kept of each, in bytes, about ----


def _weight_of_set(faces: tuple[FaceEntry, ...], settings: FontSettings) -> int:
    return 5_000 + sum(len(face.content or b"") for face in faces)


def _weight_of_font(key: bytes, content: bytes) -> int:
    return len(content)


def _weight_of_sheet(key: tuple[str, str, str], sheet: Sheet) -> int:
    return 500 + 15 * len(key[0])


def _weight_of_cascade(key: CascadeKey, cascade: Cascade) -> int:
    return 10_000 + 150 * sum(len(sheet.rules) for _, sheet in key[0])


def _weight_of_drawing(key: tuple[bytes, FontSettings], drawing: Drawing | str) -> int:
    return len(drawing) if isinstance(drawing, str) else drawing.weight
