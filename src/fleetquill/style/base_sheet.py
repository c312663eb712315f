"""The base sheet: what HTML and pages mean before anyone styles them (HTML §15)."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path
from typing import Final

import tinycss2

from fleetquill.style.selectors import Compound, Selector, parse_selectors
from fleetquill.style.sheet import Declarations, Rule, Sheet, parse_sheet, parse_style_attribute

COMMENT: Final = re.compile(r"/\*.*?\*/", re.DOTALL)
TAGS: Final = re.compile(r"\s*[\w-]+(?:\s*,\s*[\w-]+)*\s*")
RULE: Final = re.compile(r"([^{}]+){([^{}]*)}")
FOLDER: Final = Path(__file__).parent


class LaterRule(Rule):
    """A rule whose declarations are read when an element first matches it: in one document, few of them are."""

    __slots__ = ("block", "prelude")

    def __init__(self, selectors: tuple[Selector, ...], prelude: str, block: str) -> None:
        self.selectors = selectors
        self.media = ()
        self.layer = ""
        self.place = (0, 0)
        self.prelude = prelude
        self.block = block

    def __getattr__(self, name: str) -> Declarations:
        if name != "declarations":
            raise AttributeError(name)
        self.declarations = parse_style_attribute(self.block, [])
        return self.declarations


def parts_css() -> str:
    """How what Python objects make looks, which is the same on paper and on a screen."""
    return COMMENT.sub("", (FOLDER / "parts.css").read_text(encoding="utf-8")).strip()


@cache
def base_sheet() -> Sheet:
    """Rules without nesting, from base.css and parts.css; what is said of pages is read whole."""
    sheet = parse_sheet((FOLDER / "base_page.css").read_text(encoding="utf-8"), "base sheet")
    rules = COMMENT.sub("", (FOLDER / "base.css").read_text(encoding="utf-8"))
    for prelude, block in RULE.findall(rules + parts_css()):
        if TAGS.fullmatch(prelude):
            selectors = [Selector(Compound(name.strip()), (), (0, 0, 1)) for name in prelude.split(",")]
        else:
            selectors = parse_selectors(tinycss2.parse_component_value_list(prelude))
        sheet.rules.append(LaterRule(tuple(selectors), prelude, block))
    return sheet
