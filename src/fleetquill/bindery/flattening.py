"""Flattening a form: what its fields show becomes part of the pages."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from fleetquill.bindery.annotations import appearance_of, is_shown, placed
from fleetquill.bindery.fields import FieldNode
from fleetquill.bindery.trees import entries_of
from fleetquill.bindery.updating import Update
from fleetquill.pdf.objects import Name, Ref, number
from fleetquill.pdf.reading import PdfPage, PdfReader
from fleetquill.remarks import Remark


def flatten_fields(update: Update, nodes: Sequence[FieldNode]) -> list[Remark]:
    """Draws all fields on their pages, and takes the form away."""
    reader = update.reader
    remarks: list[Remark] = []
    if any(node.kind == "signature" and node.entries.get("V") is not None for node in nodes):
        remarks.append(Remark("seal", "Its signatures do not hold any more: the pages are others.", reader.source))
    flat = _Flattening(update)
    for page in reader.pages():
        if page.ref is not None:
            flat.page(page, page.ref)
    root = reader.trailer["Root"]
    catalog = update.dictionary(root)
    update.add({key: one for key, one in catalog.items() if key not in ("AcroForm", "Perms")}, root)
    return remarks


class _Flattening:
    def __init__(self, update: Update) -> None:
        self._update = update
        self._reader: PdfReader = update.reader
        tree = self._reader.dictionary(self._reader.catalog.get("StructTreeRoot"))
        self._parents = dict(entries_of(tree.get("ParentTree"), "Nums", self._reader))

    def page(self, page: PdfPage, ref: Ref) -> None:
        """Draws the fields of a page."""
        update, reader = self._update, self._reader
        entries = update.dictionary(ref)
        shown: list[str] = []
        forms: dict[str, Any] = {}
        kept: list[Any] = []
        row = self._row(page)
        for given in reader.array(page.entries.get("Annots")):
            widget = update.dictionary(given)
            if widget.get("Subtype") != "Widget":
                kept.append(given)
                continue
            form = appearance_of(widget, reader) if is_shown(widget, reader) else None
            matrix = None if form is None else placed(widget, update.dictionary(form), reader)
            if matrix is None:
                continue
            name = f"FqField{len(forms) + 1}"
            forms[name] = form
            begin = self._begin(widget, given, ref, row)
            shown.append(f"{begin} q {' '.join(number(part, 6) for part in matrix)} cm /{name} Do Q EMC")
        if len(kept) == len(reader.array(page.entries.get("Annots"))):
            return
        if shown:
            resources = dict(reader.dictionary(page.entries.get("Resources")))
            held = dict(reader.dictionary(resources.get("XObject"))) | forms
            entries["Resources"] = resources | {"XObject": held}
            contents = reader.resolve(page.entries.get("Contents"))
            before = contents if isinstance(contents, list) else [page.entries.get("Contents")]
            around = update.add_stream(b"q\n"), update.add_stream(("\nQ\n" + "\n".join(shown)).encode("ascii"))
            entries["Contents"] = [around[0], *(one for one in before if one is not None), around[1]]
        entries["Annots"] = kept or None
        update.add(entries, ref)
        if row is not None and isinstance(row[0], Ref):
            update.add(row[1], row[0])

    def _row(self, page: PdfPage) -> tuple[Any, list[Any]] | None:
        """The elements of the marked sequences of a page, where new ones can be added."""
        given = self._parents.get(page.entries.get("StructParents"))
        found = self._reader.resolve(given)
        return (given, list(found)) if isinstance(given, Ref) and isinstance(found, list) else None

    def _begin(self, widget: dict[str, Any], given: Any, page: Ref, row: tuple[Any, list[Any]] | None) -> str:
        """Begins the marked sequence of a field: that of its element, in whose place it comes; else an artifact."""
        element = self._parents.get(widget.get("StructParent"))
        if row is None or not isinstance(element, Ref) or not isinstance(given, Ref):
            return "/Artifact BMC"
        entries = self._update.dictionary(element)
        kids = entries.get("K")
        found = self._reader.resolve(kids)
        listed = found if isinstance(found, list) else [found]
        mark = len(row[1])
        made = [
            {"Type": Name("MCR"), "Pg": page, "MCID": mark} if self._is_object(kid, given) else kid for kid in listed
        ]
        row[1].append(element)
        self._update.add(entries | {"K": made}, element)
        return f"/Form<</MCID {mark}>>BDC"

    def _is_object(self, kid: Any, ref: Ref) -> bool:
        entries = self._reader.dictionary(kid)
        return entries.get("Type") == "OBJR" and entries.get("Obj") == ref
