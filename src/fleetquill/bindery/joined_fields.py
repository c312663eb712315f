"""The form of a bound file: the fields of its parts, renamed where names meet (ISO 32000-2 §12.7.3)."""

from __future__ import annotations

import re
from typing import Any, Final

from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier
from fleetquill.pdf.objects import Ref, write
from fleetquill.pdf.reading import PdfReader

MOST_DEEP: Final = 32
FONT_NAME: Final = re.compile(rb"/([^\s/\[\]()<>{}%]+)(?=\s+[-\d.]+\s+Tf)")


class JoinedFields:
    """Gathers the fields of parts."""

    def __init__(self, file: PdfFile) -> None:
        self._file = file
        self._fields: list[Ref] = []
        self._names: set[str] = set()
        self._resources: dict[str, dict[str, Any]] = {}
        self._written: dict[tuple[str, str], bytes] = {}
        self._appearance: Any = None  # the default one
        self._wants_appearances = False
        self.widgets: dict[int, dict[str, Any]] = {}  # what is said of those, by their new number, for the pages
        self.renamed: dict[str, str] = {}
        self.unsigned = 0  # signatures that no longer hold

    def add(self, reader: PdfReader, copier: Copier, widgets: dict[int, Ref]) -> None:
        """Takes the fields of a part; `widgets` are the annotations on the pages that are taken, by their number."""
        form = reader.dictionary(reader.catalog.get("AcroForm"))
        if not form:
            return
        fonts = self._take_resources(reader, copier, form)
        for ref in reader.array(form.get("Fields")):
            made = self._field(reader, copier, widgets, ref, None, fonts, 0)
            if made is not None:
                self._fields.append(made)
        if reader.resolve(form.get("NeedAppearances")) is True:
            self._wants_appearances = True
        if self._appearance is None and "DA" in form:
            self._appearance = reader.resolve(form["DA"])

    def _field(
        self,
        reader: PdfReader,
        copier: Copier,
        widgets: dict[int, Ref],
        ref: Any,
        parent: Ref | None,
        fonts: dict[bytes, bytes],
        deep: int,
    ) -> Ref | None:
        """A field or a widget of one; None where no page that is taken shows it."""
        if not isinstance(ref, Ref) or deep > MOST_DEEP:
            return None
        entries = reader.dictionary(ref)
        kids = reader.array(entries.get("Kids"))
        own = widgets.get(ref.number)
        if not kids and own is None:
            return None
        new = own or self._file.reserve()
        copier.places[ref.number] = new
        made_kids = [self._field(reader, copier, widgets, kid, new, fonts, deep + 1) for kid in kids]
        shown = [kid for kid in made_kids if kid is not None]
        if kids and not shown:
            copier.places[ref.number] = None
            return None
        made = copier.entries(entries, ("Kids", "Parent", "P"))
        if entries.get("FT") == "Sig" and "V" in made:
            del made["V"]
            self.unsigned += 1
        if isinstance(made.get("DA"), bytes) and fonts:
            made["DA"] = FONT_NAME.sub(lambda name: b"/" + fonts.get(name[1], name[1]), made["DA"])
        made |= {"Parent": parent, "Kids": shown or None}
        if parent is None and "T" in entries:
            made["T"] = self._free_name(reader.text(entries["T"]))
        if own is not None:
            self.widgets[own.number] = made
        else:
            self._file.add(made, new)
        return new

    def _free_name(self, name: str) -> str:
        found, number = name, 1
        while found in self._names:
            number += 1
            found = f"{name} {number}"
        if found != name:
            self.renamed[found] = name
        self._names.add(found)
        return found

    def _take_resources(self, reader: PdfReader, copier: Copier, form: dict[str, Any]) -> dict[bytes, bytes]:
        """Takes what default appearances name; gives the fonts that have other names then."""
        renamed: dict[bytes, bytes] = {}
        for kind, named in reader.dictionary(form.get("DR")).items():
            for name, value in reader.dictionary(named).items():
                copied = copier.value(value)
                written = write(copied)
                free, number = name, 1
                while self._written.get((kind, free), written) != written:
                    number += 1
                    free = f"{name}{number}"
                self._written[kind, free] = written
                self._resources.setdefault(kind, {})[free] = copied
                if free != name and kind == "Font":
                    renamed[name.encode()] = free.encode()
        return renamed

    def finish(self) -> Ref | None:
        """The form; None where there are no fields."""
        if not self._fields:
            return None
        return self._file.add(
            {
                "Fields": self._fields,
                "DR": self._resources or None,
                "DA": self._appearance,
                "NeedAppearances": True if self._wants_appearances else None,
            }
        )
