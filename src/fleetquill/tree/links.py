"""Links: those that would run a program, or read a stranger's choice of file, lead nowhere; others where they say."""

from __future__ import annotations

import copy
from typing import Final
from urllib.parse import unquote

from fleetquill.tree.document import Document, Element, Note

RUNNING: Final = frozenset(("javascript", "vbscript"))  # schemes of links that run what they hold


def without_unsafe_links(document: Document, *, strangers: bool) -> Document:
    """The document, or one like it without such links and with a note on each; `strangers` wrote it, or not."""
    unsafe = RUNNING | {"file"} if strangers else RUNNING
    if not any(_scheme(link) in unsafe for link in document.root.iter("a")):
        return document
    found = document.with_root(copy.deepcopy(document.root))
    found.notes = list(document.notes)
    for link in found.root.iter("a"):
        scheme = _scheme(link)
        if scheme in unsafe:
            found.notes.append(Note("link", f"A link of the kind '{scheme}:' was taken out.", found.place_of(link)))
            del link.attrib["href"]
    return found


def _scheme(link: Element) -> str:
    return str(link.get("href", "")).strip().partition(":")[0].lower()


def decode_fragments(root: Element) -> None:
    """Lets links lead to names that they have percent-encoded, where nothing is called as it stands (HTML §7.4.6.4)."""
    encoded = [link for link in root.iter("a") if "%" in link.get("href", "") and link.get("href", "").startswith("#")]
    if not encoded:
        return
    names = {element.get("id") for element in root.iter() if element.get("id")}
    for link in encoded:
        wanted = link.get("href", "")[1:]
        if wanted not in names and unquote(wanted) in names:
            link.set("href", f"#{unquote(wanted)}")
