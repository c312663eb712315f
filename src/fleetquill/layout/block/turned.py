"""Text on its side: content set in lines as ever, then turned by a quarter (CSS Writing Modes 4 §3.2)."""

from __future__ import annotations

from typing import Final

from fleetquill.layout.boxes.boxes import TurnedBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.items.items import lay_out_item
from fleetquill.style.properties import ComputedStyle

UPWARD: Final = "sideways-lr"


def layout_turned(box: TurnedBox, space: Space, resume: Resume | None) -> Laid:
    """As high as its text is long, or as the box around it is; as wide as its lines are high."""
    length = space.height if space.height is not None else min(content_widths(box.inner, space.context)[1], space.page)
    if resume is None and not space.at_top and length > space.room + SLACK:
        return Laid(None, Resume())
    inner = _inner(box, space.context, length)
    fragment = Fragment(box, inner.height, length)
    _turn(box, inner, length)
    fragment.children.append(inner)
    return Laid(fragment, None)


def _inner(box: TurnedBox, context: Context, length: float) -> Fragment:
    return lay_out_item(box.inner, Space(context, length, None, fixed_width=length)).twin()


def _turn(box: TurnedBox, inner: Fragment, length: float) -> None:
    style = box.inner.style
    mode = box.mode
    if mode == UPWARD:
        matrix = (0.0, -1.0, 1.0, 0.0, 0.0, length)
    else:
        matrix = (0.0, 1.0, -1.0, 0.0, inner.height, 0.0)
    if mode == "vertical-lr" and all(isinstance(child, LineFragment) for child in inner.children):
        for line in inner.children:  # the first line stands at the left
            line.y = inner.height - line.y - line.height
    box.inner.style = ComputedStyle(
        style.parent, {**style.__dict__, "transform": (matrix,), "transform_origin": (0.0, 0.0)}
    )


def turned_content_widths(box: TurnedBox, context: Context) -> tuple[float, float]:
    """How high its lines are where each is as long as it likes."""
    length = content_widths(box.inner, context)[1]
    high = _inner(box, context, length if length != UNBOUNDED else 0.0).height
    return high, high
