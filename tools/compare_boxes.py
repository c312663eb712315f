"""Random pages whose boxes stand elsewhere in a browser, each made as small as it can be.

    python -m tools.compare_boxes [--from SEED] [--count N] [--depth N]

A page that shows a fault becomes a case of tests/rectangles. The browser is Chromium, found on the path.
"""

from __future__ import annotations

import argparse
import copy
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from lxml import etree
from lxml import html as lxml_html

import fleetquill as fq
from tools.random_pages import random_page
from tools.record_rectangles import facts

sys.path.insert(0, str(Path(__file__).parent.parent / "tests" / "layout"))
from test_browser_rectangles import is_empty, rectangles  # type: ignore[import-not-found]

Rectangles = list[list[object]]

LEAST: Final = 1.6  # px that count
AT_ONCE: Final = 120  # smaller pages that are tried in one go
MOST_STEPS: Final = 40


def differing(press: fq.Press, page: str, wanted: Rectangles) -> str:
    """The first box that stands elsewhere, in words; '' where none does."""
    found = rectangles(press, page)
    if [box[0] for box in found] != [box[0] for box in wanted]:
        return ""
    for ours, theirs in zip(found, wanted, strict=True):
        both = zip(ours[1:], theirs[1:], strict=False)
        if is_empty(ours) and is_empty(theirs):
            continue
        if len(ours) != len(theirs) or max(abs(a - b) for a, b in both) > LEAST:
            shown = [side if isinstance(side, str) else round(side, 2) for side in ours]
            return f"{shown} where a browser has {theirs}"
    return ""


def smaller(page: str) -> list[str]:
    """What a page becomes without an element, its tags, a declaration or some words, the shortest first."""
    root = lxml_html.fragment_fromstring(page, create_parent="main")
    count = sum(1 for _ in root.iterdescendants())
    found = {text for index in range(count) for text in _without(root, index)}
    return sorted(found - {page}, key=lambda text: (len(text), text))


def _without(root: etree._Element, index: int) -> Iterator[str]:
    element = _element(root, index)
    for change in ("drop_tree", "drop_tag") if element.tag not in ("tr", "td", "caption") else ("drop_tree",):
        other = copy.deepcopy(root)
        getattr(_element(other, index), change)()
        yield _written(other)
    declarations = [part for part in element.get("style", "").split(";") if part]
    for place in range(len(declarations)):
        other = copy.deepcopy(root)
        _element(other, index).set("style", ";".join(declarations[:place] + declarations[place + 1 :]))
        yield _written(other).replace(' style=""', "")
    for name in ("text", "tail"):
        words = (getattr(element, name) or "").split()
        for kept in {len(words) // 2, len(words) - 1, 0} if words else ():
            other = copy.deepcopy(root)
            setattr(_element(other, index), name, " ".join(words[:kept]))
            yield _written(other)


def _element(root: etree._Element, index: int) -> etree._Element:
    return list(root.iterdescendants())[index]


def _written(root: etree._Element) -> str:
    inside = (etree.tostring(child, method="html", encoding="unicode") for child in root)
    return (root.text or "") + "".join(inside)


def smallest(press: fq.Press, page: str) -> str:
    """The page without all that its fault does not need."""
    for _ in range(MOST_STEPS):
        tried = smaller(page)[:AT_ONCE]
        wanted = facts([(str(number), text) for number, text in enumerate(tried)])
        still = (text for number, text in enumerate(tried) if differing(press, text, wanted[str(number)]))
        page, before = next(still, page), page
        if page == before:
            break
    return page


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m tools.compare_boxes", description=__doc__)
    parser.add_argument("--from", type=int, default=0, dest="first", metavar="SEED", help="seed of the first page")
    parser.add_argument("--count", type=int, default=100, metavar="N", help="how many pages")
    parser.add_argument("--depth", type=int, default=1, metavar="N", help="how deep boxes lie in one another")
    arguments = parser.parse_args()
    press = fq.Press(locale="en-IE")
    seeds = range(arguments.first, arguments.first + arguments.count)
    pages = {str(seed): random_page(seed, arguments.depth) for seed in seeds}
    wanted = facts(list(pages.items()))
    faulty = [seed for seed, page in pages.items() if differing(press, page, wanted[seed])]
    print(f"{len(faulty)} of {len(pages)} pages have a box that stands elsewhere.")
    for seed in faulty:
        page = smallest(press, pages[seed])
        print(f"\n{seed}: {page}\n  {differing(press, page, facts([(seed, page)])[seed])}", flush=True)


if __name__ == "__main__":
    main()
