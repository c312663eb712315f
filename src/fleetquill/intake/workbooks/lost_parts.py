"""Parts that a workbook names and does not hold, as some programs leave them behind (ISO/IEC 29500-2 §6.5)."""

from __future__ import annotations

import io
import posixpath
import zipfile
from collections.abc import Iterator, Set

from lxml import etree

from fleetquill.tree.document import Element


def lost_parts(content: bytes) -> list[str]:
    """The parts that others of a package name and that are not in it."""
    with zipfile.ZipFile(io.BytesIO(content)) as package:
        names = frozenset(package.namelist())
        relations = [(name, _root(package.read(name))) for name in names if name.endswith(".rels")]
    return sorted({target for name, root in relations for _, target in _lost(name, root, names)})


def without_lost_parts(content: bytes) -> bytes:
    """The package without the relationships that lead to no part of it."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(content)) as package, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as whole:
        names = frozenset(package.namelist())
        for name in package.namelist():
            part = package.read(name)
            if name.endswith(".rels"):
                root = _root(part)
                for relationship, _ in list(_lost(name, root, names)):
                    root.remove(relationship)
                part = etree.tostring(root, xml_declaration=True, encoding="UTF-8")
            whole.writestr(name, part)
    return out.getvalue()


def _root(part: bytes) -> Element:
    return etree.fromstring(part, etree.XMLParser(resolve_entities=False, no_network=True))


def _lost(name: str, root: Element, names: Set[str]) -> Iterator[tuple[Element, str]]:
    """The relationships that lead to none of these names, each with the one that it leads to."""
    folder = posixpath.dirname(posixpath.dirname(name))
    for relationship in root:
        target = posixpath.normpath(posixpath.join("/", folder, relationship.get("Target", ""))).lstrip("/")
        if relationship.get("TargetMode") != "External" and target not in names:
            yield relationship, target
