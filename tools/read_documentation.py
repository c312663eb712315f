"""Composes pages that others wrote, and compares the letters: what is set with what is asked, what is on the paper
with what is set.

    python tools/read_documentation.py /usr/share/doc --most 1500 --seed 1

Any folders of HTML files do; documentation packages carry thousands. It is for the night: some pages take seconds.
"""

from __future__ import annotations

import argparse
import multiprocessing
import random
import re
import time
from collections import Counter
from pathlib import Path
from typing import Final, NamedTuple

import pypdfium2 as pdfium

import fleetquill as fq
from fleetquill.errors import FaultError, FleetQuillError

LETTERS: Final = re.compile(r"[^\W_]")  # words may be broken over lines: letters are what can be compared
MOST_SECONDS: Final = 30.0
UNSEEN: Final = (
    "script",
    "style",
    "template",
    "noscript",
    "title",
    "head",
    "svg",
    "math",
    "button",
    "select",
    "iframe",
)


PRESS: Final = fq.Press(policy=fq.Policy(time=MOST_SECONDS))


class Read(NamedTuple):
    """What came of a page: how many letters it has, which were not set, which are not on the paper."""

    path: str
    seconds: float
    letters: int = 0
    not_set: tuple[str, ...] = ()
    off_paper: tuple[str, ...] = ()
    error: str = ""
    is_fault: bool = False


def read(path: str) -> Read:
    start = time.monotonic()
    try:
        m = PRESS.read(path)
        asked = Counter(_letters_of(m))
        edition = PRESS.compose(m)
        placed = Counter(LETTERS.findall(" ".join(page.text for page in edition.pages)))
        seen = Counter[str]()
        for page in pdfium.PdfDocument(edition.to_bytes()):
            seen.update(LETTERS.findall(page.get_textpage().get_text_bounded()))
    except FleetQuillError as error:
        return Read(path, time.monotonic() - start, error=str(error), is_fault=isinstance(error, FaultError))
    except Exception as error:  # the very thing that is looked for
        return Read(path, time.monotonic() - start, error=f"{type(error).__name__}: {error}", is_fault=True)
    seconds = time.monotonic() - start
    return Read(path, seconds, asked.total(), tuple((asked - placed).elements()), tuple((placed - seen).elements()))


def _letters_of(m: fq.Manuscript) -> list[str]:
    """The letters of a document that a reader sees, but for what style sheets hide."""
    found: list[str] = []
    body = m.root.find("body")
    for node in (body if body is not None else m.root).iter():
        above = [node, *node.iterancestors()]
        if not isinstance(node.tag, str) or any(a.tag in UNSEEN or a.get("hidden") is not None for a in above):
            found += LETTERS.findall(node.tail or "") if not isinstance(node.tag, str) else []
            continue
        found += LETTERS.findall(node.text or "")
        found += LETTERS.findall(node.tail or "") if node is not body else []
    return found


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("folders", nargs="+", type=Path)
    parser.add_argument("--most", type=int, default=1500)
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    files = sorted(str(path) for folder in asked.folders for path in folder.rglob("*.html") if path.is_file())
    random.Random(asked.seed).shuffle(files)
    with multiprocessing.Pool(maxtasksperchild=50) as pool:
        found = list(pool.imap_unordered(read, files[: asked.most]))
    letters, off = sum(one.letters for one in found), sum(len(one.off_paper) for one in found)
    unset = sum(len(one.not_set) for one in found)
    print(f"{len(found)} pages, {letters} letters; off the paper {off} ({off / max(letters, 1):.4%}), not set {unset}")
    for one in sorted(found, key=lambda one: -len(one.off_paper))[:10]:
        if one.off_paper:
            print(f"  off the paper: {one.path}: {len(one.off_paper)} ({''.join(one.off_paper[:40])})")
    for one in sorted(found, key=lambda one: -len(one.not_set))[:10]:
        if one.not_set:
            print(f"  not set: {one.path}: {len(one.not_set)} ({''.join(one.not_set[:40])})")
    for one in sorted(found, key=lambda one: -one.seconds)[:5]:
        print(f"  {one.seconds:.1f} s: {one.path}")
    for one in found:
        if one.error:
            print(f"  {'FAULT' if one.is_fault else 'error'}: {one.path}: {one.error}")
    return any(one.is_fault for one in found)


if __name__ == "__main__":
    raise SystemExit(main())
