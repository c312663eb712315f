"""Generated content: what the property content makes, with the counters and quotes that it reads (CSS Content 3)."""

from __future__ import annotations

import re
from typing import Final

from fleetquill.layout.boxes.boxes import (
    Box,
    Element,
    LeaderBox,
    PageCounterBox,
    TallyBox,
    TargetBox,
    TextBox,
    element_text,
    integer,
)
from fleetquill.layout.boxes.counters import Counters
from fleetquill.layout.boxes.replaced_elements import picture_box
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.findings import Findings
from fleetquill.style import generated
from fleetquill.style.properties import ComputedStyle

FIRST_LETTER: Final = re.compile(r"[^\w\s]*\w")  # with punctuation before it (CSS Pseudo-elements 4 §2.2)
QUOTES: Final = {  # the quotation marks of 'quotes: auto', by language (CLDR, delimiters)
    language: tuple([mark.replace("_", "\u00a0") for mark in marks.split()])
    for marks, languages in (
        ("„ “ ‚ ‘", "cs de et hr is lb sk sl"),
        ("„ “ „ “", "bg lt"),
        ("„ “ ‘ ’", "mk"),
        ("„ ” « »", "pl ro"),
        ("„ ” » «", "hu"),
        ("„ ” ’ ’", "bs sr"),
        ("” ” ’ ’", "fi he sv"),
        ("” “ ’ ‘", "ur"),
        ("« » “ ”", "ar ca el es hy it pt-pt sq"),
        ("« » „ “", "be ru uk"),
        ("« » ‘ ’", "nb nn no"),
        ("« » ‹ ›", "am fa fr-ch gsw"),
        ("«_ _» ” “", "fr-ca"),
        ("«_ _» “ ”", "fr"),
        ("‘ ’ “ ”", "nl"),
        ("「 」 『 』", "ja zh-hant zh-hk zh-tw"),
    )
    for language in languages.split()
}
ENGLISH_QUOTES: Final = ("“", "”", "‘", "’")
BUILT_IN_COUNTERS: Final = frozenset(("page", "pages", "list-item", "footnote"))


class GeneratedContent:
    """Makes generated content while a document is walked in order."""

    def __init__(self, context: Context, found: Findings, *, restarts_notes: bool) -> None:
        self._restarts_notes = restarts_notes
        self.counters = Counters()
        self.counters.reset([("footnote", 0)])
        self._context = context
        self._found = found
        self._quote_depth = 0
        self.notes: set[Element] = set()  # the elements that are footnotes: what they say is not part of others' text
        self.said: dict[tuple[Element, str], str] = {}  # what ::before and ::after of an element say

    def boxes(self, style: ComputedStyle, element: Element) -> list[Box]:
        """The boxes of a style's content."""
        boxes: list[Box] = []
        for part in style.content if isinstance(style.content, tuple) else ():
            if isinstance(part, generated.Tally):
                boxes.append(TallyBox(style, element, part))
                self._found.moving_text = True
            elif isinstance(part, generated.Counter) and part.name in ("page", "pages"):
                boxes.append(PageCounterBox(style, element, part))
                self._found.moving_text = True
                self._found.wants_targets = self._found.wants_targets or part.name == "pages"
            elif isinstance(part, generated.Counter) and part.name == "footnote" and self._restarts_notes:
                counter = PageCounterBox(style, element, part)
                counter.place = self.counters.value("footnote")
                boxes.append(counter)
                self._found.moving_text = self._found.wants_targets = True
            elif isinstance(part, generated.Target):
                boxes.append(TargetBox(style, element, part))
                self._found.moving_text = self._found.wants_targets = True
            elif isinstance(part, generated.Leader):
                boxes.append(LeaderBox(style, element, part.pattern))
            elif isinstance(part, generated.Picture):
                boxes.append(picture_box(self._context, style, element, part.url, ""))
            else:
                boxes.append(TextBox(style, element, self._text(part, style, element)))
        return boxes

    def _text(self, part: generated.ContentPart, style: ComputedStyle, element: Element) -> str:
        if isinstance(part, generated.Text):
            return part.text
        if isinstance(part, generated.Attribute):
            return element.get(part.name, part.fallback)
        if isinstance(part, generated.Counter):
            return self._context.represent(self.counters.value(part.name), part.style)
        if isinstance(part, generated.Counters):
            said = [self._context.represent(value, part.style) for value in self.counters.values(part.name)]
            return part.separator.join(said)
        if isinstance(part, generated.Quote):
            return self._quote(part, style)
        if isinstance(part, generated.Target):
            self._found.wants_targets = self._found.builds_with_targets = True
            return self._context.target_text(part, element) if self._context.found.targets else "0"
        if isinstance(part, generated.ContentOf):
            return self.texts_of(element).get("content" if part.part == "text" else part.part, "")
        return ""

    def texts_of(self, element: Element) -> dict[str, str]:
        """What content() and target-text() say of an element (CSS Content 3 §2.6), by their keyword."""
        text = element_text(element, self.notes)
        first = FIRST_LETTER.match(text)
        said = {name: self.said.get((element, name), "") for name in ("before", "after")}
        return {"content": text, "first-letter": first[0] if first is not None else text[:1], **said}

    def string(self, content: generated.Content, style: ComputedStyle, element: Element) -> str:
        """Generated content as plain text: for string-set and bookmark-label."""
        parts = content if isinstance(content, tuple) else ()
        return "".join(self._text(part, style, element) for part in parts)

    def _quote(self, part: generated.Quote, style: ComputedStyle) -> str:
        marks = style.quotes
        if marks == "auto":
            marks = _quotes_of(_language_around(style))
        if not part.opens:
            self._quote_depth = max(0, self._quote_depth - 1)
        level = self._quote_depth
        if part.opens:
            self._quote_depth += 1
        if not part.shown or isinstance(marks, str):
            return ""
        pair = min(level, len(marks) // 2 - 1) * 2
        return marks[pair] if part.opens else marks[pair + 1]

    def count(self, element: Element, style: ComputedStyle) -> None:
        """counter-reset, -increment and -set, with what lists count by themselves."""
        if style.counter_reset:
            resets = style.counter_reset
            if element.tag == "ol" and (element.get("start") or element.get("reversed") is not None):
                start = _before_first(element)
                resets = tuple((name, start if name == "list-item" else value) for name, value in resets)
            self.counters.reset(resets)
        if style.display == "list-item":
            if element.get("value"):
                self.counters.set([("list-item", integer(element.get("value"), 1))])
            elif all(name != "list-item" for name, _ in style.counter_increment):
                parent = element.getparent()
                down = parent is not None and parent.tag == "ol" and parent.get("reversed") is not None
                self.counters.increment([("list-item", -1 if down else 1)])
        if style.counter_increment:
            self.counters.increment(style.counter_increment)
        if style.counter_set:
            self.counters.set(style.counter_set)

    def own_counters(self, style: ComputedStyle) -> dict[str, int]:
        """The counters that an element sets or moves, as they are at its start: margin boxes may show them."""
        names = {name for name, _ in (*style.counter_reset, *style.counter_set, *style.counter_increment)}
        return {name: self.counters.value(name) for name in names - BUILT_IN_COUNTERS}


def _before_first(element: Element) -> int:
    """What the items of an ol are counted from (HTML §4.4.5): a reversed one ends with 1 where nothing else is said."""
    if element.get("reversed") is None:
        return integer(element.get("start"), 1) - 1
    count = sum(child.tag == "li" for child in element)
    return integer(element.get("start"), count) + 1


def _language_around(style: ComputedStyle) -> str:
    """The language around the element that is quoted: its marks are of the text that they stand in."""
    quoted = style.parent
    return (quoted.parent or quoted).language if quoted is not None else style.language


def _quotes_of(language: str) -> tuple[str, ...]:
    tag = language.lower()
    return QUOTES.get(tag) or QUOTES.get(tag.split("-")[0], ENGLISH_QUOTES)
