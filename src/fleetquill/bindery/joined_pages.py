"""The pages of a bound file, and the tree that they hang from (ISO 32000-2 §7.7.3)."""

from __future__ import annotations

import re
from array import array
from collections.abc import Sequence
from typing import Any, Final

from fleetquill.bindery.links import Placed
from fleetquill.bindery.overlays import Overlay
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier
from fleetquill.pdf.objects import Name, Ref, number
from fleetquill.pdf.reading import PdfPage
from fleetquill.pdf.syntax import DAMAGE, Parser, without_marks

HOLDS_ANYTHING: Final = re.compile(rb"[(%]|\bBI\b")  # strings, remarks and pictures, in which any word may stand
SAVED: Final = re.compile(rb"(?<![^\s\]>)}])[qQ](?![^\s\[</({])")
PAGES_IN_A_NODE: Final = 64


class PageTree:
    """Pages hang from nodes, which go out when they are full."""

    def __init__(self, file: PdfFile) -> None:
        self._file = file
        self._root = file.reserve()
        self._nodes: list[Ref] = []
        self._kids: list[Ref] = []  # of the node that is filled
        self._objects = array("Q")  # the pages, by the numbers of their objects

    @property
    def count(self) -> int:
        return len(self._objects)

    def page(self, index: int) -> Ref:
        """The page at an index, from 0 on."""
        return Ref(self._objects[index])

    def add(self, entries: dict[str, Any], ref: Ref) -> None:
        """Writes a page."""
        if len(self._kids) == PAGES_IN_A_NODE:
            self._end_node()
        if not self._kids:
            self._nodes.append(self._file.reserve())
        self._kids.append(ref)
        self._objects.append(ref.number)
        self._file.add({"Type": Name("Page"), "Parent": self._nodes[-1], **entries}, ref)

    def _end_node(self) -> None:
        kids, self._kids = self._kids, []
        node = {"Type": Name("Pages"), "Parent": self._root, "Kids": kids, "Count": len(kids)}
        self._file.add(node, self._nodes[-1])

    def finish(self) -> Ref:
        """The root of the tree."""
        if self._kids:
            self._end_node()
        return self._file.add({"Type": Name("Pages"), "Kids": self._nodes, "Count": self.count}, self._root)


def page_content(
    page: PdfPage, copier: Copier, file: PdfFile, placed: Placed | None, overlays: Sequence[Overlay], *, again: bool
) -> tuple[Any, list[Any]]:
    """The resources and the content streams of a page, with what lies under and over it. A page that stands `again` is
    in the structure already."""
    reader = copier.reader
    resources = page.entries.get("Resources")
    given = page.entries.get("Contents")
    if again:
        contents = [file.add_stream(b"/Artifact BMC\n" + without_marks(_readable(page, copier)) + b"\nEMC")]
    else:
        found = reader.resolve(given)
        refs = [copier.value(one) for one in (found if isinstance(found, list) else [given])]
        contents = [ref for ref in refs if ref is not None]
    if placed is None and not overlays:
        return copier.value({} if resources is None else resources), contents
    own = reader.dictionary(resources)
    forms = copier.entries(reader.dictionary(own.get("XObject")))
    before = "q"
    after = " ".join(["Q"] * (1 + _unclosed(_readable(page, copier))))
    if placed is not None:
        scale, x, y = placed
        before += f" {number(scale, 6)} 0 0 {number(scale, 6)} {number(x)} {number(y)} cm"
    for at, overlay in enumerate(overlays):
        name = f"FqOver{at + 1}"
        while name in forms:
            name += "x"
        forms[name] = overlay.form
        matrix = " ".join(number(part, 6) for part in overlay.matrix)
        shown = f"/Artifact<</Type/{overlay.kind}>>BDC q {matrix} cm /{name} Do Q EMC"
        if overlay.below:
            before = f"{shown}\n{before}"
        else:
            after = f"{after}\n{shown}"
    first, last = file.add_stream(f"{before}\n".encode()), file.add_stream(f"\n{after}\n".encode())
    return copier.entries(own, ("XObject",)) | {"XObject": forms or None}, [first, *contents, last]


def _readable(page: PdfPage, copier: Copier) -> bytes:
    """The operators of a page; none where they are damaged."""
    try:
        return copier.reader.page_content(page)
    except DAMAGE:
        return b""


def _unclosed(content: bytes) -> int:
    """How many graphics states a page leaves saved, which it should not (§8.4.2)."""
    depth = 0
    if HOLDS_ANYTHING.search(content):
        names = (operator.name for operator in Parser(content).operators())
    else:  # a word is an operator wherever it stands, but in names
        names = (found[0].decode() for found in SAVED.finditer(content))
    for name in names:
        if name == "q":
            depth += 1
        elif name == "Q" and depth:
            depth -= 1
    return depth
