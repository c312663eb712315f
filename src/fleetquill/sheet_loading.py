"""The style sheets of a document: its own, those that it links to and imports, those added to it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Final, Protocol
from urllib.parse import urljoin

from fleetquill.errors import FleetQuillError, Where
from fleetquill.policy import is_web
from fleetquill.remarks import Remarks
from fleetquill.style.font_face import FontFaceRule
from fleetquill.style.sheet import PREFIXED, Sheet
from fleetquill.tree.base import Base, Reader
from fleetquill.tree.document import Document
from fleetquill.tree.files import read_text

DEEPEST_IMPORT: Final = 16  # sheets that import one another


class FaceLoader(Protocol):
    """Takes the faces that sheets bring along."""

    def __call__(self, rule: FontFaceRule, base: Base) -> str:
        """Takes the face that a rule means; what is wrong, where it cannot be used."""


class SheetLoader:
    """Loads the sheets of one document in order; what cannot be used is a remark."""

    def __init__(
        self,
        document: Document,
        reader: Reader,
        remarks: Remarks,
        parse: Callable[[str, str, str], Sheet],
        add_face: FaceLoader,
        check: Callable[[str, Where], str],
    ) -> None:
        self._document = document
        self._reader = reader
        self._remarks = remarks
        self._parse = parse
        self._add_face = add_face
        self._check = check
        self._said_prefixed = False  # once is enough for a document
        self.starts: list[tuple[Sheet, int]] = []  # the sheets, and on which line of its source each begins

    def load(self, more: Sequence[Path]) -> list[Sheet]:
        """The author's sheets, the strongest last; `more` are files of sheets after the document's own."""
        sheets: list[Sheet] = []
        document = self._document
        for element in document.root.iter("style", "link"):
            if any(ancestor.tag == "svg" for ancestor in element.iterancestors("svg")):
                continue
            place = document.place_of(element)
            if element.tag == "style":
                self._use(element.text or "", place.source, document.base, sheets, first_line=place.line or 1)
            elif "stylesheet" in element.get("rel", "").lower().split() and element.get("href"):
                self._load(element.get("href", ""), document.base, sheets, place)
        for css, source in document.styles:
            self._use(css, source, document.base, sheets)
        for path in more:
            self._use(read_text(path, "style sheet"), str(path), path.parent, sheets)
        return sheets

    def _load(self, url: str, base: Base, sheets: list[Sheet], place: Where, depth: int = 0) -> None:
        try:
            resource = self._reader.read(url, base)
        except FleetQuillError as error:
            what = f"The style sheet '{url}' is not used. {error.what} {error.remedy}".rstrip()
            self._remarks.add("style", what, source=place.source, line=place.line)
            return
        css = resource.content.decode("utf-8-sig", "replace")
        folder: Base = urljoin(resource.name, ".") if is_web(resource.name) else Path(resource.name).parent
        self._use(css, resource.name, folder, sheets, depth=depth)

    def _use(
        self, css: str, source: str, base: Base, sheets: list[Sheet], *, first_line: int = 1, depth: int = 0
    ) -> None:
        folder, own = (str(b.resolve()) if isinstance(b, Path) else b for b in (base, self._document.base))
        css = self._check(css, Where(source, first_line))
        sheet = self._parse(css, source, "" if folder == own else folder)
        above = first_line - 1
        for wanted in sheet.imports:
            place = Where(source, wanted.line + above)
            if depth >= DEEPEST_IMPORT:
                what = "Style sheets import one another without end."
                self._remarks.add("style", what, source=source, line=place.line)
                break
            inner: list[Sheet] = []
            self._load(wanted.url, base, inner, place, depth + 1)
            for imported in inner:
                sheets.append(imported.within(wanted.scope))
                self.starts.append((sheets[-1], 1))
        for fault in sheet.faults:
            if fault.message == PREFIXED and self._said_prefixed:
                continue
            self._said_prefixed |= fault.message == PREFIXED
            what = f"{fault.message} (column {fault.column})"
            self._remarks.add("style", what, source=source, line=fault.line + above)
        for face in sheet.font_faces:
            what = self._add_face(face, base)
            if what:
                self._remarks.add("font", what, source=source, line=face.line + above)
        sheets.append(sheet)
        self.starts.append((sheet, first_line))
