"""Anchors: what was taken out of the flow is a point where it stood."""

from __future__ import annotations

from fleetquill.layout.boxes import AnchorBox
from fleetquill.layout.context import Context
from fleetquill.layout.fragments import Fragment
from fleetquill.layout.space import Laid, Resume, Space


def layout_anchor(box: AnchorBox, _space: Space, _resume: Resume | None) -> Laid:
    return Laid(Fragment(box, 0.0, 0.0), None)


def anchor_content_widths(_box: AnchorBox, _context: Context) -> tuple[float, float]:
    return 0.0, 0.0
