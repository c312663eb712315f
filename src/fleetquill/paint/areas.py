"""The border, padding and content boxes of a box on the page, with their corners (CSS Backgrounds 3 §3.7, §4.3)."""

from __future__ import annotations

from fleetquill.drawing.canvas import Area, Path
from fleetquill.drawing.paths import Corners, inset, rounded
from fleetquill.paint.borders import Frame
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle


class Areas:
    """The boxes of a frame by their CSS names."""

    def __init__(self, style: ComputedStyle, frame: Frame, corners: Corners) -> None:
        borders = (style.border_top_width * frame.first, style.border_right_width,
                   style.border_bottom_width * frame.last, style.border_left_width)  # fmt: skip
        pads = tuple(
            resolve(pad, frame.width if frame.basis is None else frame.basis)
            for pad in (style.padding_top, style.padding_right, style.padding_bottom, style.padding_left)
        )
        outer: Area = (frame.x, frame.y, frame.width, frame.height)
        full = (borders[0] + pads[0], borders[1] + pads[1], borders[2] + pads[2], borders[3] + pads[3])
        self.borders = borders
        self.boxes: dict[str, Area] = {
            "border-box": outer,
            "padding-box": shrunk(outer, borders),
            "content-box": shrunk(outer, full),
        }
        self.corners: dict[str, Corners] = {
            "border-box": corners,
            "padding-box": inset(corners, *borders),
            "content-box": inset(corners, *full),
        }

    def path(self, name: str) -> Path:
        return rounded(*self.boxes[name], self.corners[name])


def shrunk(box: Area, edges: tuple[float, float, float, float]) -> Area:
    """A box without so much at its edges, clockwise from the top."""
    top, right, bottom, left = edges
    return box[0] + left, box[1] + top, max(0.0, box[2] - left - right), max(0.0, box[3] - top - bottom)
