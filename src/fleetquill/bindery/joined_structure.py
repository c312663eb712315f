"""The structure of a bound file: the trees of its parts under one root (ISO 32000-2 §14.7)."""

from __future__ import annotations

from array import array
from collections.abc import Mapping
from typing import Any, Final, NamedTuple

from fleetquill.bindery.joined_names import number_tree
from fleetquill.bindery.trees import entries_of
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.copying import Copier
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.reading import PdfReader

MOST_ELEMENTS: Final = 5_000_000
CONTENT: Final = ("MCR", "OBJR")  # kinds of kids that are no elements


class _Element(NamedTuple):
    """A structure element of a part: its dictionary, its kids, and those of them that are kept."""

    key: int
    entries: dict[str, Any]
    kids: list[Any]
    kept: list[Any]


class JoinedStructure:
    """Joins structure trees, part by part."""

    def __init__(self, file: PdfFile, *, several: bool) -> None:
        self._file = file
        self._several = several
        self._tree = file.reserve()
        self._root = file.reserve()  # the element that holds all
        self._tops: list[Ref] = []
        self._keys, self._row_refs = array("Q"), array("Q")  # the tree of parents: numbers of objects by their keys
        self._roles: dict[str, Any] = {}
        self._classes: dict[str, Any] = {}
        self._spaces: list[Any] = []
        self._identities: set[bytes] = set()
        self.base = 0  # the first key of the part that is read
        self._next = 0
        self.untagged: list[str] = []  # parts that have no structure

    def begin(self, reader: PdfReader) -> bool:
        """Whether a part has a structure; its keys begin at `base`."""
        self.base = self._next
        return bool(reader.dictionary(reader.catalog.get("StructTreeRoot")))

    def edit(self, entries: dict[str, Any]) -> dict[str, Any]:
        """A dictionary with the keys of the bound file's tree of parents."""
        for key in ("StructParent", "StructParents"):
            given = entries.get(key)
            if isinstance(given, int):
                entries = entries | {key: given + self.base}
                self._next = max(self._next, given + self.base + 1)
        return entries

    def add(self, reader: PdfReader, copier: Copier, pages: Mapping[int, Ref], language: str) -> None:
        """Takes the structure of a part, as far as it belongs to pages that are taken."""
        tree = reader.dictionary(reader.catalog.get("StructTreeRoot"))
        part = _PartStructure(reader, copier, self._file, pages)
        tops = part.kept(tree)
        renamed = self._merge(reader, copier, tree)
        prefix = b""
        identities = part.identities()
        if not self._identities.isdisjoint(identities):
            prefix = b"%d-" % len(self._tops)
        self._identities |= {prefix + one for one in identities}
        for key in tops:
            self._tops.append(part.new[key])
        part.write(tops, self._root, renamed, prefix, language if self._several else "", nested=self._several)
        rows: dict[int, Ref] = {}
        for key, value in entries_of(tree.get("ParentTree"), "Nums", reader):
            if not isinstance(key, int):
                continue
            self._next = max(self._next, self.base + key + 1)
            row = self._row(reader, copier, value)
            if row is not None:
                rows[self.base + key] = row
        for key in sorted(rows):
            self._keys.append(key)
            self._row_refs.append(rows[key].number)

    def _row(self, reader: PdfReader, copier: Copier, value: Any) -> Ref | None:
        """What a key leads to: an element, or those of the marked sequences of a page; None where none is kept."""
        found = reader.resolve(value)
        if isinstance(found, list):
            row = [copier.places.get(one.number) if isinstance(one, Ref) else None for one in found]
            return self._file.add(row) if any(one is not None for one in row) else None
        return copier.places.get(value.number) if isinstance(value, Ref) else None

    def _merge(self, reader: PdfReader, copier: Copier, tree: dict[str, Any]) -> dict[str, str]:
        """Takes what the root says of roles, classes and namespaces; gives the roles that have other names then."""
        renamed: dict[str, str] = {}
        for role, value in reader.dictionary(tree.get("RoleMap")).items():
            target = reader.resolve(value)
            free, number = role, 1
            while self._roles.get(free, target) != target:
                number += 1
                free = f"{role}-{number}"
            self._roles[free] = target
            if free != role:
                renamed[role] = free
        for name, value in reader.dictionary(tree.get("ClassMap")).items():
            self._classes.setdefault(name, copier.value(value))
        self._spaces += copier.value(reader.array(tree.get("Namespaces")))
        return renamed

    @property
    def is_there(self) -> bool:
        """Whether any part has a structure."""
        return bool(self._tops)

    def finish(self) -> dict[str, Any]:
        """What the catalog says of the structure; nothing where no part has one."""
        if not self._tops:
            return {}
        self._file.add(
            {"Type": Name("StructElem"), "S": Name("Document"), "P": self._tree, "K": self._tops}
            | ({"NS": self._spaces[0]} if self._spaces else {}),
            self._root,
        )
        self._file.add(
            {
                "Type": Name("StructTreeRoot"),
                "K": self._root,
                "ParentTree": number_tree(self._file, self._keys, self._row_refs),
                "ParentTreeNextKey": self._next,
                "RoleMap": self._roles or None,
                "ClassMap": self._classes or None,
                "Namespaces": self._spaces or None,
            },
            self._tree,
        )
        return {"StructTreeRoot": self._tree, "MarkInfo": None if self.untagged else {"Marked": True}}


class _PartStructure:
    """The tree of one part."""

    def __init__(self, reader: PdfReader, copier: Copier, file: PdfFile, pages: Mapping[int, Ref]) -> None:
        self._reader = reader
        self._copier = copier
        self._file = file
        self._pages = pages
        self._elements: dict[int, _Element] = {}
        self.new: dict[int, Ref] = {}

    def kept(self, tree: dict[str, Any]) -> list[int]:
        """The elements below the root that hold something that is taken."""
        order: list[_Element] = []
        tops = [self._open(kid) for kid in self._kids(tree)]
        waiting = [top for top in tops if top is not None]
        while waiting and len(order) < MOST_ELEMENTS:
            element = waiting.pop()
            order.append(element)
            for kid in element.kids:
                if self._is_element(kid):
                    below = self._open(kid)
                    if below is not None:
                        waiting.append(below)
        for element in reversed(order):  # what is below comes first
            for kid in element.kids:
                if self._is_element(kid):
                    if _key(kid) in self.new:
                        element.kept.append(kid)
                elif self._is_taken(kid, element.entries):
                    element.kept.append(kid)
            ref = self._file.reserve() if element.kept or not element.kids else None
            if ref is not None:
                self.new[element.key] = ref
            if element.key >= 0:
                self._copier.places[element.key] = ref
        return [top.key for top in tops if top is not None and top.key in self.new]

    def _kids(self, entries: dict[str, Any]) -> list[Any]:
        given = entries.get("K")
        found = self._reader.resolve(given)
        if found is None:
            return []
        return list(found) if isinstance(found, list) else [given]

    def _open(self, kid: Any) -> _Element | None:
        """An element that was not met before."""
        key = _key(kid)
        if key in self._elements:
            return None
        entries = self._reader.dictionary(kid)
        if "S" not in entries:
            return None
        element = self._elements[key] = _Element(key, entries, self._kids(entries), [])
        return element

    def _is_element(self, kid: Any) -> bool:
        found = self._reader.resolve(kid)
        return isinstance(found, dict) and "S" in found and found.get("Type") not in CONTENT

    def _is_taken(self, kid: Any, entries: dict[str, Any]) -> bool:
        """Whether content of an element stands on a page that is taken."""
        found = self._reader.resolve(kid)
        if isinstance(found, int):
            return self._is_page(entries.get("Pg"))
        if not isinstance(found, dict):
            return False
        if found.get("Type") == "OBJR":
            target = found.get("Obj")
            return isinstance(target, Ref) and self._copier.places.get(target.number) is not None
        return self._is_page(found.get("Pg", entries.get("Pg")))

    def _is_page(self, ref: Any) -> bool:
        return isinstance(ref, Ref) and ref.number in self._pages

    def identities(self) -> set[bytes]:
        found = (self._elements[key].entries.get("ID") for key in self.new)
        return {one for one in found if isinstance(one, bytes)}

    def write(
        self, tops: list[int], root: Ref, renamed: dict[str, str], prefix: bytes, language: str, *, nested: bool
    ) -> None:
        """Writes the elements that are kept."""
        above = dict.fromkeys(tops, root)
        for key in self.new:
            for kid in self._elements[key].kept:
                if self._is_element(kid):
                    above[_key(kid)] = self.new[key]
        for key, ref in self.new.items():
            element = self._elements[key]
            made = self._copier.entries(element.entries, ("P", "K", "Pg"))
            role = str(element.entries["S"])
            made |= {"S": Name(renamed.get(role, role)), "P": above.get(key, root)}
            if key in tops and nested:
                made["S"] = Name("Part") if role == "Document" else made["S"]
                if language and "Lang" not in made:
                    made["Lang"] = language
            page = element.entries.get("Pg")
            made["Pg"] = self._pages.get(page.number) if isinstance(page, Ref) else None
            kids = [self._kid(kid) for kid in element.kept]
            made["K"] = kids[0] if len(kids) == 1 else kids or None
            if prefix:
                _rename(made, prefix)
            self._file.add(made, ref)

    def _kid(self, kid: Any) -> Any:
        if self._is_element(kid):
            return self.new[_key(kid)]
        found = self._reader.resolve(kid)
        return found if isinstance(found, int) else self._copier.value(found)


def _key(kid: Any) -> int:
    """What an element is known by: the number of its object; another, below nought, where it is none of its own."""
    return kid.number if isinstance(kid, Ref) else -id(kid)


def _rename(made: dict[str, Any], prefix: bytes) -> None:
    """Identities of elements, and the cells' heads that name them, with what tells them from those of other parts."""
    if isinstance(made.get("ID"), bytes):
        made["ID"] = prefix + made["ID"]
    given = made.get("A")
    for one in given if isinstance(given, list) else [given]:
        if isinstance(one, dict) and isinstance(one.get("Headers"), list):
            one["Headers"] = [prefix + head if isinstance(head, bytes) else head for head in one["Headers"]]
