"""What elements say to the page that they stand on: named strings, running elements, the page's number."""

from __future__ import annotations

from typing import Generic, NamedTuple, TypeVar

from fleetquill.layout.boxes.boxes import AnchorBox, Box
from fleetquill.layout.contract.fragments import Fragment, walk_past_quiet

T = TypeVar("T")


class Uses(NamedTuple, Generic[T]):
    """What a name stood for when the page began, and what was set on it, in order; `at_top`: at its very start."""

    before: T | None
    here: list[T]
    at_top: bool

    def pick(self, which: str) -> T | None:
        """The value for the first, start, last or first-except place (CSS GCPM 3 §1.2)."""
        if which == "last":
            return self.here[-1] if self.here else self.before
        if which == "first-except":
            return None if self.here else self.before
        if which == "start" and not self.at_top:
            return self.before
        return self.here[0] if self.here else self.before


class PageMarks:
    """The marks of one page."""

    __slots__ = ("counters", "number", "running", "strings")

    def __init__(self) -> None:
        self.strings: dict[str, Uses[str]] = {}
        self.running: dict[str, Uses[Box]] = {}
        self.counters: dict[str, int] = {}  # as the last element on the page left them
        self.number: int | None = None  # that an element on the page gives it

    def __eq__(self, other: object) -> bool:
        return isinstance(other, PageMarks) and all(
            getattr(self, name) == getattr(other, name) for name in PageMarks.__slots__
        )

    __hash__ = None  # type: ignore[assignment]

    def following(self) -> PageMarks:
        """The marks with which the next page begins."""
        marks = PageMarks()
        marks.counters = dict(self.counters)
        marks.strings = {name: Uses(uses.pick("last"), [], False) for name, uses in self.strings.items()}
        marks.running = {name: Uses(uses.pick("last"), [], False) for name, uses in self.running.items()}
        return marks

    def read(self, content: Fragment, top: float) -> None:
        """Notes what the elements of a page say; `top` is the upper edge of its page area."""
        for placed in walk_past_quiet(content):
            box = placed.box
            at_top = placed.y <= top + 1.0
            if isinstance(box, AnchorBox):
                position = box.target.style.position
                if box.kind == "running" and not isinstance(position, str):
                    uses = self.running.get(position.name) or Uses(None, [], at_top)
                    self.running[position.name] = uses._replace(
                        here=[*uses.here, box.target], at_top=uses.at_top or (not uses.here and at_top)
                    )
                continue
            says = box.says
            if says is None or not placed.first:
                continue
            for name, text in says.strings:
                known = self.strings.get(name) or Uses(None, [], at_top)
                self.strings[name] = known._replace(
                    here=[*known.here, text], at_top=known.at_top or (not known.here and at_top)
                )
            self.counters.update(says.counters)
            if self.number is None:
                self.number = says.number
