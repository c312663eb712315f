"""The fields of finished forms: names, kinds, choices, values (ISO 32000-2 §12.7)."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from fleetquill.pdf.objects import Ref
from fleetquill.pdf.reading import PdfReader

MOST_DEEP: Final = 32
INHERITED: Final = ("FT", "Ff", "V", "DV", "DA", "Q", "MaxLen", "Opt")  # by what stands below (table 226)
READ_ONLY, REQUIRED = 1, 2  # flags of all fields (table 227)
MULTILINE, PASSWORD = 1 << 12, 1 << 13  # of text (table 228)
COMB = 1 << 24
RADIO, PUSH = 1 << 15, 1 << 16  # of buttons (table 229)
COMBO, EDITABLE, MULTIPLE = 1 << 17, 1 << 18, 1 << 21  # of choices (table 230)
OFF: Final = "Off"

Value = str | bool | tuple[str, ...] | None


class Field(NamedTuple):
    """A field of a form.

    `kind` is 'text', 'checkbox', 'radio', 'select' (one of a list that opens), 'list', 'button' or 'signature';
    `value` a text, for a checkbox whether it is ticked, for a list a tuple of those that are chosen, None where nothing
    is; `label` is how it is called aloud; `pages` those that show it, from 1 on.
    """

    name: str
    kind: str
    value: Value
    default: Value
    choices: tuple[str, ...]
    label: str
    required: bool
    read_only: bool
    multiline: bool
    most_letters: int | None
    pages: tuple[int, ...]


class FieldNode(NamedTuple):
    """A field as it stands in the file: its name, what is said of it with what it inherits, its object, and the
    widgets that show it, each with its object."""

    name: str
    entries: dict[str, Any]
    ref: Ref | None
    widgets: list[tuple[Ref | None, dict[str, Any]]]

    @property
    def flags(self) -> int:
        found = self.entries.get("Ff")
        return found if isinstance(found, int) else 0

    @property
    def kind(self) -> str:
        flags, kind = self.flags, self.entries.get("FT")
        if kind == "Btn":
            return "button" if flags & PUSH else "radio" if flags & RADIO else "checkbox"
        if kind == "Ch":
            return "select" if flags & COMBO else "list"
        return "signature" if kind == "Sig" else "text"


def field_nodes(reader: PdfReader) -> Iterator[FieldNode]:
    """The fields at the ends of the tree, in their order."""
    form = reader.dictionary(reader.catalog.get("AcroForm"))
    waiting: list[tuple[Any, str, dict[str, Any], int]] = [
        (ref, "", {}, 0) for ref in reversed(reader.array(form.get("Fields")))
    ]
    seen: set[int] = set()
    while waiting:
        ref, above, given, deep = waiting.pop()
        if isinstance(ref, Ref):
            if ref.number in seen:
                continue
            seen.add(ref.number)
        entries = reader.dictionary(ref)
        if not entries or deep > MOST_DEEP:
            continue
        own = given | {key: reader.resolve(entries[key]) for key in INHERITED if key in entries}
        partial = reader.text(entries["T"]) if "T" in entries else ""
        name = f"{above}.{partial}" if above and partial else above or partial
        kids = reader.array(entries.get("Kids"))
        if any("T" in reader.dictionary(kid) for kid in kids):
            waiting += [(kid, name, own, deep + 1) for kid in reversed(kids)]
            continue
        shown = kids if kids else [ref]
        widgets = [(kid if isinstance(kid, Ref) else None, reader.dictionary(kid)) for kid in shown]
        yield FieldNode(name, entries | own, ref if isinstance(ref, Ref) else None, widgets)


def fields_of(reader: PdfReader, page_numbers: dict[int, int]) -> dict[str, Field]:
    """The fields by their names; `page_numbers` are those of pages by the number of their object."""
    on_page = _pages_of_widgets(reader, page_numbers)
    found: dict[str, Field] = {}
    for node in field_nodes(reader):
        pages: set[int] = set()
        for ref, widget in node.widgets:
            page = widget.get("P")
            number = on_page.get(ref.number) if ref is not None else None
            if number is None and isinstance(page, Ref):
                number = page_numbers.get(page.number)
            pages.update(() if number is None else (number,))
        flags = node.flags
        longest = node.entries.get("MaxLen")
        found[node.name] = Field(
            node.name, node.kind, value_of(node, reader, "V"), value_of(node, reader, "DV"), choices_of(node, reader),
            reader.text(node.entries.get("TU")), bool(flags & REQUIRED), bool(flags & READ_ONLY),
            node.kind == "text" and bool(flags & MULTILINE), longest if isinstance(longest, int) else None,
            tuple(sorted(pages)),
        )  # fmt: skip
    return found


def _pages_of_widgets(reader: PdfReader, page_numbers: dict[int, int]) -> dict[int, int]:
    found: dict[int, int] = {}
    for page, number in page_numbers.items():
        for ref in reader.array(reader.dictionary(Ref(page)).get("Annots")):
            if isinstance(ref, Ref):
                found[ref.number] = number
    return found


def value_of(node: FieldNode, reader: PdfReader, key: str) -> Value:
    """The value of a field, or its default."""
    given = reader.resolve(node.entries.get(key))
    kind = node.kind
    if kind == "checkbox":
        return isinstance(given, str) and given != OFF
    if kind == "radio":
        return None if not isinstance(given, str) or given == OFF else _told_state(node, reader, str(given))
    if kind == "signature":
        return None
    if kind == "list":
        chosen = given if isinstance(given, list) else [] if given is None else [given]
        return tuple(reader.text(one) for one in chosen) or None
    if given is None:
        return None
    return reader.text(given).replace("\r\n", "\n").replace("\r", "\n")


def options_of(node: FieldNode, reader: PdfReader) -> list[tuple[str, str]]:
    """The choices of a list: what each is in the file, and what it shows (§12.7.5.4)."""
    found: list[tuple[str, str]] = []
    for one in reader.array(node.entries.get("Opt")):
        own = reader.resolve(one)
        if isinstance(own, list) and len(own) > 1:
            found.append((reader.text(own[0]), reader.text(own[1])))
        else:
            found.append((reader.text(own), reader.text(own)))
    return found


def states_of(node: FieldNode, reader: PdfReader) -> list[str]:
    """The states of the widgets of a checkbox or of radio buttons, besides 'Off', in their order."""
    found: list[str] = []
    for _, widget in node.widgets:
        usual = reader.dictionary(reader.dictionary(widget.get("AP")).get("N"))
        found += [state for state in usual if state != OFF][:1]
    return found


def choices_of(node: FieldNode, reader: PdfReader) -> tuple[str, ...]:
    """What can be chosen, as values are given."""
    if node.kind in ("select", "list"):
        return tuple(value for value, _ in options_of(node, reader))
    if node.kind == "radio":
        return tuple(dict.fromkeys(_told_state(node, reader, state) for state in states_of(node, reader)))
    return ()


def _told_state(node: FieldNode, reader: PdfReader, state: str) -> str:
    """What a state of radio buttons stands for: that of 'Opt' where there is one (§12.7.5.2.4)."""
    given = [reader.text(one) for one in reader.array(node.entries.get("Opt"))]
    states = states_of(node, reader)
    if given and state in states and len(given) == len(node.widgets):
        return given[states.index(state)]
    return state
