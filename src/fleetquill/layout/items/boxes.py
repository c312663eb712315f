"""The boxes of flex and grid containers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from fleetquill.drawing.fields import Field
from fleetquill.layout.boxes.boxes import AnchorBox, Box, Element
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.resume import Size
from fleetquill.layout.contract.sizing import Edges
from fleetquill.layout.contract.space import Space
from fleetquill.style.properties import ComputedStyle


class Whole(NamedTuple):
    """A container laid out whole: its fragment, the space of each item, its edges."""

    fragment: Fragment
    spaces: list[Space]  # of the items, in the order of the fragment's children
    edges: Edges
    items: list[Fragment]
    order: list[int]  # of the items, from the top down
    tops: list[float]  # of the items in that order
    reaches: list[float]  # of each item, the bottom edge of what is in it
    lowest: float  # of those, and of the container
    gap: float  # between rows


class ItemsBox(Box):
    """A container whose children are its items, blockified. `anchors` are where positioned children stood.

    `whole` is the container laid out for a size, kept while its pages are made.
    """

    leads = True
    __slots__ = ("anchors", "whole")

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        super().__init__(style, element, children)
        self.anchors: list[AnchorBox] = []
        self.whole: tuple[Size, Whole] | None = None

    @property
    def inside(self) -> Sequence[Box]:
        return [*self.children, *self.anchors]

    def forget(self) -> None:
        super().forget()
        self.forget_whole()

    def forget_whole(self) -> None:
        self.whole = None


class FlexBox(ItemsBox):
    """A flex container."""

    __slots__ = ()


class ButtonBox(FlexBox):
    """A button, what it says in the middle of it."""

    __slots__ = ("field",)

    def __init__(self, style: ComputedStyle, element: Element | None, children: list[Box]) -> None:
        super().__init__(style, element, children)
        self.field: Field | None = None


class GridBox(ItemsBox):
    """A grid container."""

    __slots__ = ()
