"""Anchors: what was taken out of the flow is a point where it stood."""

from __future__ import annotations

from fleetquill.layout.boxes.boxes import AnchorBox
from fleetquill.layout.contract.context import Context
from fleetquill.layout.contract.fragments import AnchorFragment
from fleetquill.layout.contract.resume import Resume
from fleetquill.layout.contract.space import Laid, Space


def layout_anchor(box: AnchorBox, _space: Space, _resume: Resume | None) -> Laid:
    return Laid(AnchorFragment(box), None)


def anchor_content_widths(_box: AnchorBox, _context: Context) -> tuple[float, float]:
    return 0.0, 0.0
