"""Where boxes of pages that others wrote stand elsewhere than in a browser, the innermost ones.

    python -m tools.compare_pages PAGE…

Documentation packages carry thousands of such pages. Sheets count as they do on paper, scripts and controls not at all.
What remains are faults and what is done otherwise on purpose: lines wider than the page, breaks after slashes. A fault
becomes a case of tests/rectangles. The browser is Chromium, found on the path.
"""

from __future__ import annotations

import argparse
import html
import json
import re
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from lxml import etree

import fleetquill as fq
from fleetquill.units import POINTS_PER_PX
from tools.browser import ask

Rect = tuple[float, float, float, float]  # px: x, y, width, height

UNSEEN: Final = ("script", "noscript", "iframe", "frame", "frameset", "object", "embed", "base", "dialog")
PASSED_BY: Final = ("br", "wbr", "col", "colgroup", "option", "optgroup", "source", "style", "map", "area", "link")
LEAST: Final = 1.6  # px that count
SHARE: Final = 0.006  # of a height: lines of the usual height are rounded by browsers
SHOWN: Final = 6  # causes of a page
BASIC: Final = (
    "html { font: 16px sans-serif } body { margin: 8px } pre { white-space: pre } a { text-decoration: underline }"
    "pre, code, kbd, samp, tt { font-family: monospace; font-size: 13px }"
)
PAPER: Final = (
    "@page { size: 800px 60000px; margin: 0 } input, select, textarea, button { display: none !important }"
    "* { animation: none !important; transition: none !important }"
)
MEASURE: Final = """
<script>document.fonts.ready.then(() => {
  const found = {};
  document.querySelectorAll('[data-n]').forEach(element => {
    const r = element.getBoundingClientRect();
    if (r.width * r.height) found[element.dataset.n] = [r.x + scrollX, r.y + scrollY, r.width, r.height];
  });
  const pre = document.createElement('pre');
  pre.id = 'facts';
  pre.textContent = JSON.stringify(found);
  document.body.append(pre);
})</script>"""


def for_paper(css: str) -> str:
    """A sheet in which what holds for paper holds everywhere."""

    def for_all(query: str) -> str:
        return "not all" if re.search(r"\bscreen\b", query) else re.sub(r"(?:\bonly\s+)?\bprint\b", "all", query)

    def renamed(match: re.Match[str]) -> str:
        return f"@media {','.join(map(for_all, match[1].split(',')))}{{"

    return re.sub(r"@media\s+([^{]*)\{", renamed, css)


def sheet(path: Path, depth: int = 4) -> str:
    """A sheet with those that it imports, its addresses absolute."""
    try:
        css = path.read_text(encoding="utf-8", errors="replace")
    except OSError:
        return ""
    imported = r"@import\s+(?:url\()?[\"']?([^\"')\s;]+)[\"']?\)?[^;]*;"
    css = re.sub(imported, lambda m: sheet((path.parent / m[1]).resolve(), depth - 1) if depth else "", css)
    return for_paper(with_addresses(css, path.parent))


def with_addresses(css: str, folder: Path) -> str:
    def absolute(match: re.Match[str]) -> str:
        address = re.split(r"[?#]", match[1])[0]
        return match[0] if re.match(r"\w+:|#", match[1]) else f'url("{(folder / address).resolve().as_uri()}")'

    return re.sub(r"url\(\s*[\"']?([^\"')]+)[\"']?\s*\)", absolute, css)


def prepared(path: Path) -> str:
    """A page in one file, as both sides take it; each element in its body has a number."""
    text = path.read_text(encoding="utf-8", errors="replace")
    root = fq.Manuscript.from_html(text).root
    etree.strip_elements(root, *UNSEEN, with_tail=False)
    for element in root.iter("link", "style", "img", "details"):
        address = element.get("href") or element.get("src") or ""
        if element.tag == "link" and "stylesheet" in (element.get("rel") or "").lower().split():
            css = sheet((path.parent / re.split(r"[?#]", address)[0]).resolve())
            media = for_paper(f"@media {element.get('media') or 'all'}{{")
            element.tag, element.text = "style", f"{media}{css}}}"
            element.attrib.clear()
        elif element.tag == "style":
            element.text = for_paper(with_addresses(element.text or "", path.parent))
        elif element.tag == "img" and address and not re.match(r"\w+:", address):
            element.set("src", (path.parent / address).resolve().as_uri())
        elif element.tag == "details":
            element.set("open", "")
    head, body = root.find("head"), root.find("body")
    if head is None or body is None:
        raise SystemExit(f"{path} is a page of frames.")
    first, last = etree.Element("style"), etree.Element("style")
    first.text, last.text = BASIC, PAPER
    head.insert(0, first)
    head.append(last)
    for number, element in enumerate(body.iterdescendants(etree.Element)):
        if element.tag not in PASSED_BY:
            element.set("data-n", str(number))
    doctype = re.search(r"<!doctype[^>]*>", text, re.IGNORECASE)
    return (doctype[0] if doctype else "") + etree.tostring(root, method="html", encoding="unicode")


def in_browser(source: str) -> dict[str, Rect]:
    """By number the rectangles of the elements that take any room."""
    with tempfile.TemporaryDirectory() as name:
        page = Path(name) / "page.html"
        page.write_text(source + MEASURE, encoding="utf-8")
        said = ask(
            page, Path(name), "--allow-file-access-from-files", "--dump-dom", "--hide-scrollbars",
            "--force-device-scale-factor=4", "--window-size=800,1000",
        )  # fmt: skip
    found = re.search(r'<pre id="facts"[^>]*>(.*?)</pre>', said, re.DOTALL)
    if found is None:
        raise SystemExit("The browser gave no rectangles.")
    return {number: (x, y, w, h) for number, (x, y, w, h) in json.loads(html.unescape(found[1])).items()}


def in_edition(manuscript: fq.Manuscript, press: fq.Press) -> dict[str, Rect]:
    edition = press.compose(manuscript)
    found: dict[str, Rect] = {}
    for element in manuscript.root.iter(etree.Element):
        number = element.get("data-n")
        placed = edition.locate(f"[data-n='{number}']") if number is not None else []
        whole = [place for place in placed if place.width * place.height]
        if number is not None and whole:
            left, top = min(p.x for p in whole), min(p.y for p in whole)
            right, bottom = max(p.x + p.width for p in whole), max(p.y + p.height for p in whole)
            x, y, w, h = (side / POINTS_PER_PX for side in (left, top, right - left, bottom - top))
            found[number] = (x, y, w, h)
    return found


def differs(ours: Rect | None, theirs: Rect | None) -> bool:
    """Whether a box has another size, or is not on one side."""
    if ours is None or theirs is None:
        return ours is not theirs
    return abs(ours[2] - theirs[2]) > LEAST or abs(ours[3] - theirs[3]) > max(LEAST, SHARE * theirs[3])


def causes(manuscript: fq.Manuscript, ours: dict[str, Rect], theirs: dict[str, Rect]) -> Iterator[etree._Element]:
    """The elements whose size differs, and that of none in them."""
    numbered = [element for element in manuscript.root.iter(etree.Element) if element.get("data-n") is not None]
    apart = {e for e in numbered if differs(ours.get(e.get("data-n", "")), theirs.get(e.get("data-n", "")))}
    return (e for e in numbered if e in apart and not any(inner in apart for inner in e.iterdescendants()))


def shown(element: etree._Element) -> str:
    named = ".".join([str(element.tag), *(element.get("class") or "").split()])
    return f"{named}#{element.get('id')}" if element.get("id") else named


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m tools.compare_pages", description=__doc__)
    parser.add_argument("pages", nargs="+", type=Path, metavar="PAGE", help="a page of HTML")
    press = fq.Press(policy=fq.Policy(any_folder=True))
    alike = 0
    pages = parser.parse_args().pages
    for path in pages:
        source = prepared(path)
        manuscript = fq.Manuscript.from_html(source, base=path.parent)
        ours, theirs = in_edition(manuscript, press), in_browser(source)
        found = list(causes(manuscript, ours, theirs))
        alike += not found
        print(f"{path}: {len(found)} of {len(theirs)} boxes", flush=True)
        for element in found[:SHOWN]:
            number = element.get("data-n", "")
            sides = [[round(side, 1) for side in sides.get(number, ())] for sides in (ours, theirs)]
            text = " ".join("".join(map(str, element.itertext())).split())[:40]
            print(f"  {shown(element)} {sides[0]}, in a browser {sides[1]}: {text!r}")
    print(f"{alike} of {len(pages)} pages have no box of another size.")


if __name__ == "__main__":
    main()
