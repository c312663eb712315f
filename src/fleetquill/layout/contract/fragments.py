"""Fragments: what layout makes of boxes. Positions are px from the parent fragment's top-left corner."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Final, NamedTuple, Self

from fleetquill.layout.boxes.boxes import CONTAINERS, AnchorBox, Box, Element, InlineBox
from fleetquill.layout.contract.sizing import Edges
from fleetquill.layout.inline.inline_items import TextRun
from fleetquill.style.box_values import IDENTITY, Matrix, multiply, transform_matrix, translation
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.shaping import Word


class Fragment:
    """The border box of (a part of) a box. `first` and `last` say which of its ends are here."""

    __slots__ = ("baseline", "box", "children", "cut", "first", "height", "last", "settled", "width", "x", "y")

    def __init__(self, box: Box, width: float, height: float) -> None:
        self.box = box
        self.x = 0.0
        self.y = 0.0
        self.width = width
        self.height = height
        self.children: list[Fragment | LineFragment] = []
        self.first = True
        self.last = True
        self.baseline: float | None = None  # of the first line, from the top
        self.cut = False  # whether it has more to show and does not
        self.settled = False  # whether positioned boxes in it have been placed

    def inside(self) -> Sequence[Fragment | LineFragment]:
        """What stands in it, for those who look for boxes: plain rows of a table make theirs only then."""
        return self.children

    def twin(self) -> Self:
        """The same fragment to be placed elsewhere: what is in it is shared."""
        twin: Self = object.__new__(self.__class__)
        for kind in self.__class__.__mro__[:-1]:
            for name in kind.__dict__["__slots__"]:
                setattr(twin, name, getattr(self, name))
        twin.children = [*self.children]
        return twin


class FieldsetFragment(Fragment):
    """A fieldset: its upper border is drawn `cap` px below its top edge, and not behind its `legend`."""

    __slots__ = ("cap", "legend")

    def __init__(self, box: Box, width: float, height: float) -> None:
        super().__init__(box, width, height)
        self.cap = 0.0
        self.legend: Fragment | None = None

    @classmethod
    def around(cls, plain: Fragment, legend: Fragment, cap: float) -> FieldsetFragment:
        """The fragment of a block, with its legend."""
        made = cls(plain.box, plain.width, plain.height)
        made.children, made.first, made.last, made.baseline = plain.children, plain.first, plain.last, plain.baseline
        made.legend, made.cap = legend, cap
        return made


class Rule(NamedTuple):
    """A line between two columns, px from the box's corner."""

    x: float
    y: float
    height: float


class ColumnsFragment(Fragment):
    """A multi-column box, with the lines between its columns."""

    __slots__ = ("rules",)

    def __init__(self, box: Box, width: float) -> None:
        super().__init__(box, width, 0.0)
        self.rules: list[Rule] = []


class PictureFragment(Fragment):
    """A picture, with the edges around it."""

    __slots__ = ("edges",)

    def __init__(self, box: Box, width: float, height: float, edges: Edges) -> None:
        super().__init__(box, width, height)
        self.edges = edges


class StaticArea(NamedTuple):
    """The content box of a container, in which a box without offsets is aligned (CSS Flexbox 1 §4.1)."""

    style: ComputedStyle
    width: float
    height: float

    def shares(self, own: ComputedStyle) -> tuple[float, float]:
        """How much of the spare room lies before the box: across and down."""
        container = self.style
        align = container.align_items if own.align_self == "auto" else own.align_self
        if container.display.endswith("grid"):
            justify = container.justify_items if own.justify_self == "auto" else own.justify_self
        else:
            justify = container.justify_content
        across, down = SHARES.get(justify, 0.0), SHARES.get(align, 0.0)
        if container.flex_direction.startswith("column"):
            across, down, justify = down, across, align
        if container.direction == "rtl" and justify not in ("left", "right"):
            across = 1.0 - across
        return across, down


SHARES: Final = {
    "center": 0.5,
    "end": 1.0,
    "flex-end": 1.0,
    "self-end": 1.0,
    "right": 1.0,
    "space-around": 0.5,
    "space-evenly": 0.5,
}


class AnchorFragment(Fragment):
    """The point where a box stood that was taken out of the flow: among the inline boxes `around` it, or in an area.

    In text that runs from right to left it is the box's right edge.
    """

    __slots__ = ("area", "around", "containing")

    box: AnchorBox

    def __init__(self, box: AnchorBox) -> None:
        super().__init__(box, 0.0, 0.0)
        self.around: tuple[InlineBox, ...] = ()
        self.area: StaticArea | None = None
        self.containing: tuple[float, float, float, float] | None = None  # x, y, width, height in the container

    @property
    def from_right(self) -> bool:
        around = self.box.target.style.parent
        return self.area is None and around is not None and around.direction == "rtl"


class LineFault(NamedTuple):
    """What is wrong with a line, for a remark where it stays on its page."""

    message: str
    element: Element | None


class LineFragment:
    """One line of text: spans, inline boxes and atomic boxes from left to right."""

    __slots__ = ("baseline", "fault", "height", "items", "width", "x", "y")

    def __init__(self, width: float, height: float, baseline: float) -> None:
        self.fault: LineFault | None = None
        self.x = 0.0
        self.y = 0.0
        self.width = width
        self.height = height
        self.baseline = baseline  # from the line's top
        self.items: list[TextSpan | InlineFragment | Fragment] = []


class TextSpan:
    """Words of one run that stand together on a line.

    `spaced` tells for each word whether a space of `space` px follows it; None where one follows
    each word but the last. `baseline` is px from the line's top.
    """

    __slots__ = ("baseline", "run", "space", "spaced", "width", "words", "x")

    def __init__(
        self,
        run: TextRun,
        words: list[Word],
        x: float,
        width: float,
        baseline: float,
        space: float,
        spaced: list[bool] | None,
    ) -> None:
        self.run = run
        self.words = words
        self.x = x
        self.width = width
        self.baseline = baseline
        self.space = space
        self.spaced = spaced

    @property
    def text(self) -> str:
        if self.spaced is None:
            return " ".join([word.text for word in self.words])
        return "".join([w.text + " " * s for w, s in zip(self.words, self.spaced, strict=True)])


def end_with_space(span: TextSpan) -> None:
    """Where a forced break ends the line: who copies the text wants to have a space there."""
    if span.words and span.run.level % 2 == 0:
        gaps = [True] * len(span.words) if span.spaced is None else span.spaced
        span.spaced = [*gaps[:-1], True]


class LeaderSpan(TextSpan):
    """A pattern that fills a line: there for the eye, no text."""

    __slots__ = ()


class InlineFragment:
    """The part of an inline box that is on one line: its border box, from the line's top-left. `first` and `last` say
    whether its left and its right side are here.

    `whole` is how wide the box would be in one line, and `before` how much of that stands on lines above.
    """

    __slots__ = ("before", "box", "first", "height", "last", "whole", "width", "x", "y")

    def __init__(self, box: Box, x: float, y: float, width: float, height: float, first: bool, last: bool) -> None:
        self.box = box
        self.x = x
        self.y = y
        self.width = width
        self.height = height
        self.first = first
        self.last = last
        self.before = 0.0
        self.whole = width


class Placed(NamedTuple):
    """A fragment of a box on a page: its border box in px from the page's top-left corner."""

    box: Box
    x: float
    y: float
    width: float
    height: float
    first: bool


def first_baseline(fragment: Fragment) -> float | None:
    """The baseline of the first line in flow in a block, from its top."""
    for child in fragment.children:
        if isinstance(child, LineFragment):
            return child.y + child.baseline
        if child.baseline is not None and not _floats(child):
            return child.y + child.baseline
    return None


def last_baseline(fragment: Fragment) -> float | None:
    """The baseline of the last line in flow in a fragment, from its top; of rows, columns and grids theirs. Lines in a
    table are none of them (CSS 2 §10.8.1, as browsers read it)."""
    if fragment.box.style.display in CONTAINERS:
        return fragment.baseline
    for child in reversed(fragment.children):
        if isinstance(child, LineFragment):
            return child.y + child.baseline
        if not isinstance(child, Fragment) or isinstance(child, AnchorFragment) or _floats(child):
            continue
        inner = None if child.box.style.display == "table" else last_baseline(child)
        if inner is not None:
            return child.y + inner
    return None


def _floats(fragment: Fragment) -> bool:
    """Whether a fragment is of a float: it is out of the flow, but for one that is the item of a container."""
    return fragment.box.style.float != "none" and not fragment.box.is_item


def reach(fragment: Fragment) -> float:
    """How far what is in a fragment reaches down from its top edge, where that is more than its own height."""
    deepest = fragment.height
    if fragment.box.style.overflow == "visible":
        for child in fragment.children:
            deepest = max(deepest, child.y + (reach(child) if isinstance(child, Fragment) else child.height))
    return deepest


def lines_of(fragment: Fragment) -> Iterator[LineFragment]:
    """Every line below a fragment, in document order."""
    for child in fragment.inside():
        if isinstance(child, Fragment):
            yield from lines_of(child)
            continue
        yield child
        for item in child.items:
            if isinstance(item, Fragment):
                yield from lines_of(item)


def walk(fragment: Fragment, x: float = 0.0, y: float = 0.0) -> list[Placed]:
    """Every box fragment below and including `fragment`, in document order."""
    found: list[Placed] = []
    _walk(fragment, x, y, found, pass_by=False)
    return found


def walk_transformed(fragment: Fragment) -> list[Placed]:
    """As `walk`, where each box stands once transforms have moved it: the rectangle around its corners."""
    found: list[Placed] = []
    _walk_transformed(fragment, 0.0, 0.0, IDENTITY, found)
    return found


def _walk_transformed(fragment: Fragment, x: float, y: float, matrix: Matrix, found: list[Placed]) -> None:
    x += fragment.x
    y += fragment.y
    style = fragment.box.style
    if style.transform:
        own = transform_matrix(style.transform, style.transform_origin, fragment.width, fragment.height)
        matrix = multiply(multiply(multiply(matrix, translation(x, y)), own), translation(-x, -y))
    placed = Placed(fragment.box, x, y, fragment.width, fragment.height, fragment.first)
    found.append(_moved(placed, matrix))
    for child in fragment.inside():
        if isinstance(child, Fragment):
            _walk_transformed(child, x, y, matrix, found)
            continue
        for item in child.items:
            if isinstance(item, Fragment):
                _walk_transformed(item, x + child.x, y + child.y, matrix, found)
            elif isinstance(item, InlineFragment):
                at_x, at_y = x + child.x + item.x, y + child.y + item.y
                found.append(_moved(Placed(item.box, at_x, at_y, item.width, item.height, item.first), matrix))


def _moved(placed: Placed, matrix: Matrix) -> Placed:
    if matrix is IDENTITY:
        return placed
    a, b, c, d, e, f = matrix
    corners = [(x, y) for x in (placed.x, placed.x + placed.width) for y in (placed.y, placed.y + placed.height)]
    across = [a * x + c * y + e for x, y in corners]
    down = [b * x + d * y + f for x, y in corners]
    left, top = min(across), min(down)
    return placed._replace(x=left, y=top, width=max(across) - left, height=max(down) - top)


def walk_past_quiet(fragment: Fragment) -> list[Placed]:
    """The box fragments below and including `fragment` whose boxes are not quiet, in document order."""
    found: list[Placed] = []
    _walk(fragment, 0.0, 0.0, found, pass_by=True)
    return found


def _walk(fragment: Fragment, x: float, y: float, found: list[Placed], *, pass_by: bool) -> None:
    if pass_by and fragment.box.quiet:
        return
    x += fragment.x
    y += fragment.y
    found.append(Placed(fragment.box, x, y, fragment.width, fragment.height, fragment.first))
    for child in fragment.inside():
        if isinstance(child, Fragment):
            _walk(child, x, y, found, pass_by=pass_by)
            continue
        for item in child.items:
            if isinstance(item, Fragment):
                _walk(item, x + child.x, y + child.y, found, pass_by=pass_by)
            elif isinstance(item, InlineFragment):
                at_x, at_y = x + child.x + item.x, y + child.y + item.y
                found.append(Placed(item.box, at_x, at_y, item.width, item.height, item.first))
