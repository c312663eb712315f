"""Where links of parts lead in the bound file: within their part, and from one part to another (ISO 32000-2 §12.3.2 and
§12.6.4)."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from pathlib import PurePosixPath
from typing import Any, Final
from urllib.parse import unquote

from fleetquill.bindery.trees import explicit_destination
from fleetquill.pdf.objects import Name, Ref
from fleetquill.pdf.reading import PdfReader

PAGE_WANTED: Final = re.compile(r"page=(\d+)")
NAME_WANTED: Final = re.compile(r"(?:nameddest=)?([^=&]+)")
Placed = tuple[float, float, float]  # how large a page of a part is drawn, and where its origin goes


class PartNames:
    """The parts by the names of their files, so that links to those lead into the bound file."""

    def __init__(self, names: Iterable[str]) -> None:
        self._places: dict[str, int] = {}
        for place, name in enumerate(names):
            self.add(place, name)

    def add(self, place: int, name: str) -> None:
        self._places.setdefault(PurePosixPath(name.replace("\\", "/")).name.lower(), place)

    def part_of(self, address: str) -> int | None:
        """The part that an address without a host names."""
        path = unquote(address.partition("#")[0])
        if not path or re.match(r"[a-z][a-z0-9+.-]+:", path, re.IGNORECASE):
            return None
        return self._places.get(PurePosixPath(path).name.lower())


class Links:
    """The links of one part, as the bound file has them."""

    def __init__(
        self,
        reader: PdfReader,
        named: dict[bytes, Any],
        renamed: Mapping[bytes, bytes],
        refs: Mapping[int, Ref | None],
        placed: Mapping[int, Placed],
        parts: PartNames,
    ) -> None:
        self._reader = reader
        self._named = named
        self._renamed = renamed
        self._refs = refs
        self._placed = placed
        self._parts = parts
        self.wanted: dict[bytes, None] = {}  # names that links lead to
        self.lost = 0  # links to pages that are not taken

    def edit(self, entries: dict[str, Any]) -> dict[str, Any]:
        """A dictionary with what it leads to as the bound file has it."""
        if entries.get("Dest") is not None:
            return self._without_lost(entries, "Dest", entries["Dest"])
        kind = entries.get("S")
        if kind == "GoTo":
            return {key: one for key, one in self._without_lost(entries, "D", entries.get("D")).items() if key != "SD"}
        if kind in ("URI", "GoToR"):
            return self._across(entries)
        return entries

    def _without_lost(self, entries: dict[str, Any], key: str, value: Any) -> dict[str, Any]:
        found = self.destination(value)
        made = dict(entries)
        if found is None:
            self.lost += 1
            del made[key]
            if key == "D":
                made |= {"S": Name("URI"), "URI": b"#"}
        else:
            made[key] = found
        return made

    def destination(self, value: Any) -> Any:
        """A destination: a name as the bound file has it, or an array; None where its page is not taken."""
        found = self._reader.resolve(value)
        if isinstance(found, (bytes, str)):
            name = found.encode() if isinstance(found, str) else found
            if name in self._named and self.explicit(self._named[name]) is None:
                return None
            new = self._renamed.get(name, name)
            self.wanted[new] = None
            return new
        return self.explicit(found)

    def explicit(self, value: Any) -> list[Any] | None:
        """The array of a destination, with the page's new reference and its place on it."""
        found = explicit_destination(value, self._reader, self._named)
        if found is None or not isinstance(found[0], Ref):
            return None
        ref = self._refs.get(found[0].number)
        if ref is None:
            return None
        rest = [self._reader.resolve(one) for one in found[1:]]
        placed = self._placed.get(found[0].number)
        if placed is not None and rest:
            rest = _moved(rest, placed)
        return [ref, *rest]

    def _across(self, entries: dict[str, Any]) -> dict[str, Any]:
        """A link to a file that is a part."""
        if entries["S"] == "URI":
            address = self._reader.text(entries.get("URI"))
        else:
            file = self._reader.resolve(entries.get("F"))
            said = file.get("UF") or file.get("F") if isinstance(file, dict) else file
            address = f"{self._reader.text(said)}#{_remote(self._reader.resolve(entries.get('D')), self._reader)}"
        part = self._parts.part_of(address)
        if part is None:
            return entries
        wanted = address.partition("#")[2]
        page = PAGE_WANTED.search(wanted)
        name = NAME_WANTED.fullmatch(unquote(wanted)) if wanted and page is None else None
        target = name[1].encode() if name is not None else page_name(part, int(page[1]) if page is not None else 1)
        self.wanted[target] = None
        return {"S": Name("GoTo"), "D": target}


def page_name(part: int, page: int) -> bytes:
    """The name of a page of a part, for links from others."""
    return b"part %d page %d" % (part + 1, page)


def _remote(value: Any, reader: PdfReader) -> str:
    """What a destination in another file asks for."""
    if isinstance(value, list) and value and isinstance(value[0], int):
        return f"page={value[0] + 1}"
    return reader.text(value)


def _moved(rest: list[Any], placed: Placed) -> list[Any]:
    """The numbers of a destination on a page that is drawn larger and elsewhere (table 149)."""
    scale, x, y = placed
    ways = {"XYZ": "xy.", "FitH": "y", "FitBH": "y", "FitV": "x", "FitBV": "x", "FitR": "xyxy"}.get(str(rest[0]), "")
    made = [rest[0]]
    for at, value in enumerate(rest[1:]):
        way = ways[at] if at < len(ways) else "."
        if way == "." or not isinstance(value, (int, float)):
            made.append(value)
        else:
            made.append(value * scale + (x if way == "x" else y))
    return made
