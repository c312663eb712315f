"""The edition: a document laid out in memory, to be saved, written or asked questions."""

from __future__ import annotations

import hashlib
import io
import os
from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import Any, BinaryIO

from lxml import etree

from fleetquill.drawing.paged import Bookmark
from fleetquill.errors import OptionError
from fleetquill.inspecting import ElementFound, Explained, Placement, columns_on, element_at
from fleetquill.layout.contract.fragments import walk_transformed
from fleetquill.layout.pages.page import PageFragment
from fleetquill.output.how import USUAL, How, checked
from fleetquill.output.kinds import PDF, PNG, SVG, Kind, kind_of
from fleetquill.output.leaves import check_pattern, is_pattern, write_leaves, write_only_leaf
from fleetquill.remarks import Remark
from fleetquill.structure.bookmarks import bookmarks_of, nested
from fleetquill.structure.text import text_of
from fleetquill.style.selectors import SelectorError, Siblings, parse_selectors
from fleetquill.style.tokens import Token
from fleetquill.units import POINTS_PER_PX
from fleetquill.whole_files import write_whole

Element = etree._Element
LeafPainter = Callable[[PageFragment, Kind, How], bytes]  # paints a page as a file of its own


class Page:
    """One page of an edition. Lengths are points."""

    __slots__ = ("_fragment", "_paint")

    def __init__(self, fragment: PageFragment, paint: LeafPainter) -> None:
        self._fragment = fragment
        self._paint = paint

    def to_svg(self, letters: str = "outlines") -> str:
        """The page as SVG: its letters as 'outlines', or as 'text' in fonts that go along."""
        return self._paint(self._fragment, SVG, checked(How(letters=letters))).decode("utf-8")

    def to_png(self, dpi: float = 96.0) -> bytes:
        """The page as a PNG picture of a resolution. Raises OptionError where pypdfium2 is not installed."""
        return self._paint(self._fragment, PNG, checked(How(dpi=dpi)))

    @property
    def number(self) -> int:
        """Counts from 1."""
        return self._fragment.kind.number

    @property
    def width(self) -> float:
        return round(self._fragment.area.width * _points(self._fragment), 3)

    @property
    def height(self) -> float:
        return round(self._fragment.area.height * _points(self._fragment), 3)

    @property
    def page_area(self) -> Placement:
        """Where the content of the page stands, within its margins (CSS Paged Media 3 §3.1)."""
        area = self._fragment.area
        sides = area.x, area.y, area.content_width, area.content_height
        x, y, width, height = (round(side * _points(self._fragment), 3) for side in sides)
        return Placement(self.number, x, y, width, height)

    @property
    def columns(self) -> tuple[Placement, ...]:
        """The columns of the multi-column boxes on the page."""
        return columns_on(self._fragment)

    @property
    def text(self) -> str:
        """The text of the page area in reading order, a line for each line on the page."""
        return "\n".join(text_of(part) for part in self._fragment.parts)

    @property
    def margins(self) -> dict[str, str]:
        """What stands in the margin boxes, by their name: {'bottom-right': 'Page 1 of 3'}."""
        return {name: text_of(fragment) for name, fragment in self._fragment.margins.items()}

    def __repr__(self) -> str:
        return f"<Page {self.number}: {self.width:g} × {self.height:g} pt>"


def _points(page: PageFragment) -> float:
    """How many points a px of a page is on paper."""
    return POINTS_PER_PX * page.area.scale


class Edition:
    """The laid-out result of `compose`: its `pages`, what was remarked, where elements landed, and the file itself."""

    def __init__(
        self,
        fragments: list[PageFragment],
        remarks: Callable[[], tuple[Remark, ...]],
        write: Callable[[BinaryIO, bool], None],
        paint: LeafPainter,
        explain: Callable[[Element], Explained],
        files: tuple[Path, ...] = (),
    ) -> None:
        self.files = files  # that it was made from
        self._fragments = fragments
        self._remarks = remarks
        self._write = write
        self._explain = explain
        self._bytes: bytes | None = None
        self._pages = tuple(Page(fragment, paint) for fragment in fragments)

    def __repr__(self) -> str:
        count, said = len(self.pages), len(self.remarks)
        shown = f"; {said} remark{'s' * (said != 1)}" if said else ""
        return f"<Edition: {count} page{'s' * (count != 1)}{shown}>"

    @property
    def pages(self) -> tuple[Page, ...]:
        """The pages, from the first on."""
        return self._pages

    def _repr_mimebundle_(self, **_: Any) -> dict[str, str]:
        """What a notebook shows: the first pages as pictures, and the remarks."""
        from fleetquill.notebook import shown_pages

        return {
            "text/html": shown_pages(repr(self)[1:-1], self.to_bytes(), self.remarks),
            "text/plain": repr(self),
        }

    @property
    def page_count(self) -> int:
        return len(self.pages)

    @property
    def remarks(self) -> tuple[Remark, ...]:
        """What a proof-reader would point out, in the order in which it was noticed."""
        return self._remarks()

    @property
    def outline(self) -> tuple[Bookmark, ...]:
        """The bookmarks as a tree."""
        flat: list[Bookmark] = []
        for fragment in self._fragments:
            marks = bookmarks_of(fragment.parts, fragment.kind.number, fragment.area.scale)
            flat += [mark._replace(part=None) for mark in marks]
        return nested(flat)

    def locate(self, selector: str) -> list[Placement]:
        """Where the elements that a CSS selector matches landed: one placement for each fragment, transforms applied.

        Raises OptionError where the selector is not understood.
        """
        import tinycss2

        from fleetquill.style.tokens import tamed

        tokens: list[Token] = tinycss2.parse_component_value_list(tamed(selector))
        try:
            selectors = parse_selectors(tokens)
        except SelectorError as error:
            raise OptionError(f"The selector '{selector}' is not understood: {error}.") from error
        siblings = Siblings()
        matched = {element for element in self._elements if any(one.matches(element, siblings) for one in selectors)}
        return [place for element, place in self._landed if element in matched]

    @cached_property
    def _landed(self) -> list[tuple[Element, Placement]]:
        """Where elements landed, in the order of pages and of what is on them."""
        found = []
        for fragment in self._fragments:
            points = _points(fragment)
            for placed in (placed for part in fragment.parts for placed in walk_transformed(part)):
                element = placed.box.element
                if element is not None:
                    rect = (placed.x, placed.y, placed.width, placed.height)
                    x, y, width, height = (round(side * points, 3) for side in rect)
                    found.append((element, Placement(fragment.kind.number, x, y, width, height)))
        return found

    @cached_property
    def _elements(self) -> dict[Element, None]:
        """The elements that landed, each once."""
        return dict.fromkeys(element for element, _ in self._landed)

    def element_at(self, page: int, x: float, y: float) -> ElementFound | None:
        """The innermost element at a point of a page, from 1, in points from the page's top-left corner: its box, and
        the declarations that make it look as it does, with their rules and lines. None where there is none.
        """
        if not 1 <= page <= self.page_count:
            raise OptionError(f"There is no page {page}.", remedy=f"Name one from 1 to {self.page_count}.")
        return element_at(self._fragments[page - 1], x, y, self._explain)

    def write_to(self, stream: BinaryIO) -> None:
        """Writes the PDF to a binary stream."""
        self._write(stream, False)

    def write_for_binding(self, stream: BinaryIO) -> None:
        """Writes the PDF so that other parts of a bound file may lead to every identifier in it."""
        self._write(stream, True)

    def to_bytes(self) -> bytes:
        """The PDF as bytes. The same edition gives the same bytes."""
        if self._bytes is None:
            stream = io.BytesIO()
            self._write(stream, False)
            self._bytes = stream.getvalue()
        return self._bytes

    def headers(self, filename: str = "document.pdf", *, inline: bool = True) -> dict[str, str]:
        """HTTP headers with which a web application hands this edition over.

        Content-Type, Content-Disposition (RFC 6266; the name may be in any script), Content-Length
        and ETag. `inline` shows the file in the browser; else it is downloaded.
        """
        from fleetquill.output.delivery import content_disposition

        content = self.to_bytes()
        return {
            "Content-Type": "application/pdf",
            "Content-Disposition": content_disposition(filename, inline=inline),
            "Content-Length": str(len(content)),
            "ETag": f'"{hashlib.sha256(content).hexdigest()[:32]}"',
        }

    def save(self, path: str | os.PathLike[str]) -> Path:
        """Writes the PDF to a file, whole or not at all, and gives its path; SVG and PNG where its ending says so.

        Those hold one page: a path with a place for its number, such as 'page-{page}.png', names a file for each, and
        the first one's path is given. Raises OutputError where the file cannot be written, OptionError where its
        ending says another kind.
        """
        kind = kind_of(path)
        check_pattern(kind, path)
        if kind is PDF:
            return write_whole(Path(path), self.write_to)
        if kind.way != "leaves":
            raise OptionError(
                f"An edition is laid out in pages already, and a file of the kind '{kind.name}' has none.",
                remedy=f"Write the source: fleetquill.write(source, '{path}').",
            )
        files = (page._paint(page._fragment, kind, USUAL) for page in self._pages)
        if is_pattern(path):
            return write_leaves(str(path), files)[0]
        return write_whole(Path(path), lambda stream: write_only_leaf(kind, self.page_count, files, stream))
