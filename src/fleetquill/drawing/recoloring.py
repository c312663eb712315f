"""Drawings in other colours: each step as it is, its colours through a function."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from fleetquill.drawing.canvas import Drawing, Look, Stamp, Step
from fleetquill.drawing.color_stops import finer
from fleetquill.drawing.gradients import Axial, Round, Sweep
from fleetquill.drawing.pictures import Picture
from fleetquill.style.values import WHITE, Rgba

Recolor = Callable[[Rgba], Rgba]
Redraw = Callable[[Picture], Picture]


def recolored(drawing: Drawing, color: Recolor, picture: Redraw) -> Drawing:
    """The drawing with its colours and pictures changed; what is drawn as a mask stays as it is."""
    found = Drawing(drawing.width, drawing.height, inline=drawing.inline)
    masks = _masks(drawing.steps)
    for index, (verb, arguments) in enumerate(drawing.steps):
        if masks[index]:
            found.steps.append(Step(verb, arguments))
        else:
            found.steps.append(Step(verb, tuple(_changed(part, color, picture) for part in arguments)))
    found.plain = drawing.plain
    found.faults = drawing.faults
    return found


STATE = ("save", "restore", "transform", "clip")


def letters_of(drawing: Drawing) -> Drawing:
    """The text of a drawing and nothing else, in white."""
    found = Drawing(drawing.width, drawing.height)
    for verb, arguments in drawing.steps:
        if verb == "text":
            x, baseline, look, *rest = arguments
            found.text(x, baseline, look._replace(color=WHITE, outline=None), *rest)
        elif verb in STATE:
            found.steps.append(Step(verb, arguments))
        elif verb == "drawing":
            found.drawing(letters_of(arguments[0]), *arguments[1:])
    return found


def _masks(steps: list[Step]) -> list[bool]:
    """For each step whether it stands between the beginning and the end of a mask."""
    inside = [False] * len(steps)
    begun: list[int] = []
    for index, (verb, _) in enumerate(steps):
        if verb == "begin_group":
            begun.append(index)
        elif verb in ("end_group", "end_mask"):
            start = begun.pop()
            if verb == "end_mask":
                inside[start : index + 1] = [True] * (index + 1 - start)
    return inside


def _changed(part: Any, color: Recolor, picture: Redraw) -> Any:
    if isinstance(part, Rgba):
        return color(part)
    if isinstance(part, (Axial, Round, Sweep)):
        return part._replace(stops=tuple((place, color(stop)) for place, stop in finer(part.stops)))
    if isinstance(part, Look):
        outline = part.outline and part.outline._replace(color=color(part.outline.color))
        return part._replace(color=color(part.color), outline=outline)
    if isinstance(part, Picture):
        return picture(part)
    if isinstance(part, list) and part and isinstance(part[0], Stamp):
        return [s._replace(fill=s.fill and color(s.fill), line=s.line and color(s.line)) for s in part]
    if isinstance(part, Drawing):
        return recolored(part, color, picture)
    return part
