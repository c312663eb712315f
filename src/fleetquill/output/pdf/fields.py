"""Fields in the PDF: their widgets on the pages, with what shows each of their states, and the form that holds them
(ISO 32000-2 §12.5.6.19 and §12.7)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final

from fleetquill.drawing.fields import OFF, Field
from fleetquill.output.pdf.field_places import FieldOnPage
from fleetquill.output.pdf.file import PdfFile
from fleetquill.output.pdf.operators import is_gray, rgb
from fleetquill.output.pdf.resources import Resources
from fleetquill.pdf.objects import Name, Ref, number, text_bytes
from fleetquill.units import POINTS_PER_PX

TYPED: Final = ("text", "select", "list")  # kinds whose text a reader draws anew (§12.7.4.3)
PRINTED: Final = 4  # flag of annotations (table 167)
READ_ONLY, REQUIRED = 1, 2  # flags of fields (tables 227 to 230)
MULTILINE, SECRET, UNCHECKED, COMB = 1 << 12, 1 << 13, 1 << 22, 1 << 24
ALWAYS_ONE, RADIO, PUSH = 1 << 14, 1 << 15, 1 << 16
OPENS, EDITABLE, SEVERAL = 1 << 17, 1 << 18, 1 << 21
TYPES: Final = {
    "text": "Tx", "checkbox": "Btn", "radio": "Btn", "button": "Btn", "select": "Ch", "list": "Ch", "signature": "Sig",
}  # fmt: skip


class _Held:
    """A field of the form: what is said of it, and its widgets, which are written at the end."""

    def __init__(self, field: Field) -> None:
        self.field = field
        self.widgets: list[tuple[Ref, dict[str, Any], Field]] = []


class FormFields:
    """The fields of one file."""

    def __init__(self, file: PdfFile, resources: Resources) -> None:
        self._file = file
        self._resources = resources
        self._held: dict[str, _Held] = {}

    def add(self, ref: Ref, placed: FieldOnPage, widget: dict[str, Any]) -> None:
        """Notes a widget, whose dictionary says where it stands."""
        field = placed.field
        held = self._held.get(field.name)
        if held is not None and held.field.kind != field.kind:  # two things cannot have one name
            index = 2
            while f"{field.name} {index}" in self._held:
                index += 1
            held = self._held[f"{field.name} {index}"] = _Held(field)
        elif held is None:
            held = self._held[field.name] = _Held(field)
        held.widgets.append((ref, widget, field))

    def finish(self) -> Ref | None:
        """Writes the fields and the form; None where there are none."""
        if not self._held:
            return None
        tops: dict[str, Ref] = {}
        kids: dict[str, list[Ref]] = {}
        order: list[Ref] = []
        for name, held in self._held.items():
            *above, last = [part for part in name.split(".") if part] or [name]
            parent: Ref | None = None
            path = ""
            for part in above:
                path = f"{path}.{part}" if path else part
                if path not in tops:
                    tops[path] = self._file.reserve()
                    kids[path] = []
                    (order if parent is None else kids[path.rpartition(".")[0]]).append(tops[path])
                parent = tops[path]
            ref = self._write(held, last, parent)
            (order if parent is None else kids[path]).append(ref)
        for path, own in tops.items():
            before, _, last = path.rpartition(".")
            self._file.add({"T": last, "Kids": kids[path], "Parent": tops.get(before)}, own)
        fonts = self._resources.form_fonts
        usual = next(iter(fonts), None)
        return self._file.add(
            {
                "Fields": order,
                "DR": {"Font": dict(fonts)} if fonts else None,
                "DA": None if usual is None else f"/{usual} 0 Tf 0 g".encode(),
            }
        )

    def _write(self, held: _Held, name: str, parent: Ref | None) -> Ref:
        """A field; where one widget shows it, the two are one dictionary (§12.5.6.19)."""
        field = held.field
        entries = self._entries(held) | {"T": name, "Parent": parent, "TU": field.group or field.label or None}
        if len(held.widgets) == 1 and field.kind != "radio":
            ref, widget, _ = held.widgets[0]
            return self._file.add({**widget, **entries}, ref)
        own = self._file.reserve()
        for ref, widget, shown in held.widgets:
            self._file.add(widget | {"Parent": own, "TU": shown.label or None}, ref)
        return self._file.add(entries | {"Kids": [ref for ref, _, _ in held.widgets]}, own)

    def _entries(self, held: _Held) -> dict[str, Any]:
        field = held.field
        entries: dict[str, Any] = {"FT": Name(TYPES[field.kind]), "Ff": _flags(field) or None}
        if field.kind in ("checkbox", "radio"):
            ticked = next((own.state for _, _, own in held.widgets if own.ticked), "")
            entries["V"] = entries["DV"] = Name(ticked or OFF)
        elif field.kind == "signature" or field.kind == "button":
            return entries
        else:
            entries |= {"DA": self.appearance(field), "Q": field.align or None}
            value: Any = list(field.value) if isinstance(field.value, tuple) else field.value
            if field.kind == "list" and isinstance(value, list):
                chosen = [at for at, (own, _) in enumerate(field.choices) if own in value]
                entries["I"] = chosen or None
                value = value[0] if len(value) == 1 else value
            if value and not field.secret:
                entries["V"] = entries["DV"] = value
            entries["MaxLen"] = field.longest or None
            if field.kind in ("select", "list"):
                entries["Opt"] = [own if own == shown else [own, shown] for own, shown in field.choices]
        return entries

    def appearance(self, field: Field) -> bytes:
        """The operators with which readers set what is typed in (§12.7.4.3)."""
        font = self._resources.form_font(field.setting.face)
        size = number(field.size * POINTS_PER_PX, 3)
        return f"/{font} {size} Tf {rgb(field.color)} {'g' if is_gray(field.color) else 'rg'}".encode()


def _flags(field: Field) -> int:
    flags = READ_ONLY * field.read_only | REQUIRED * field.required
    if field.kind == "text":
        flags |= MULTILINE * field.multiline | SECRET * field.secret | UNCHECKED * field.unchecked
        flags |= COMB * bool(field.cells)
    elif field.kind == "radio":
        flags |= RADIO | ALWAYS_ONE
    elif field.kind == "button":
        flags |= PUSH
    elif field.kind == "select":
        flags |= OPENS | EDITABLE * field.editable
    elif field.kind == "list":
        flags |= SEVERAL * field.several
    return flags


def states_of(field: Field, states: Mapping[str, Ref]) -> dict[str, Any]:
    """What shows a widget in each of its states (§12.5.5)."""
    if field.kind in ("checkbox", "radio"):
        return {"AP": {"N": dict(states)}, "AS": Name(field.state if field.ticked else OFF)}
    return {"AP": {"N": next(iter(states.values()))}} if states else {}


def action_of(field: Field) -> dict[str, Any] | None:
    """What a button does (§12.6.4 and §12.7.6)."""
    if field.kind != "button":
        return None
    if not field.target:
        return {"Type": Name("Action"), "S": Name("ResetForm")}
    return {"Type": Name("Action"), "S": Name("URI"), "URI": text_bytes(field.target)}
