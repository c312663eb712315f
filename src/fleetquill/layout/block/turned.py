"""Text on its side: content set in lines as ever, then turned by a quarter (CSS Writing Modes 4 §3.2)."""

from __future__ import annotations

from typing import Final

from fleetquill.layout.boxes.boxes import TurnedBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.dispatch import content_widths
from fleetquill.layout.contract.fragments import Fragment, LineFragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.sizing import clamp_height, edges_of, own_height
from fleetquill.layout.contract.space import SLACK, UNBOUNDED, Laid, Space
from fleetquill.layout.items.items import lay_out_item
from fleetquill.style.properties import ComputedStyle

UPWARD: Final = "sideways-lr"


def layout_turned(box: TurnedBox, space: Space, resume: Resume | None) -> Laid:
    """As high as its text is long, or as the box around it is; as wide as its lines are high."""
    length = space.height if space.height is not None else min(_length(box, space.context), space.page)
    if resume is None and not space.at_top and length > space.room + SLACK:
        return Laid(None, Resume())
    inner = _inner(box, space.context, length)
    fragment = Fragment(box, inner.height, length)
    _turn(box, inner, length)
    fragment.children.append(inner)
    return Laid(fragment, None)


def _length(box: TurnedBox, context: Context) -> float:
    """How long its lines are: as the box around it is high, or as long as they like where that does not say."""
    natural = content_widths(box.inner, context)[1]
    around = box.style.parent
    if around is None:
        return natural
    down = edges_of(around, 0.0).down
    height = own_height(around, None, down)
    return clamp_height(around, natural + down if height is None else height, None, down) - down


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
    """How high its lines are."""
    length = _length(box, context)
    high = _inner(box, context, length if length != UNBOUNDED else 0.0).height
    return high, high
