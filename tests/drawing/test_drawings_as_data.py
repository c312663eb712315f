"""Drawings are data: calls on a canvas that can be compared, sent on and drawn again."""

from __future__ import annotations

import inspect
import pickle

import pytest

from fleetquill.drawing.canvas import Canvas, Drawing, Step, Stroke
from fleetquill.drawing.gradients import Axial
from fleetquill.drawing.pictures import Picture
from fleetquill.output.pdf.canvas import PdfCanvas
from fleetquill.style.values import BLACK

PATH = [("m", 0.0, 0.0), ("l", 5.0, 5.0), ("h",)]
PICTURE = Picture("a", "PNG", b"", 1.0, 1.0, (1, 1))
SHADE = Axial((0.0, 0.0), (1.0, 0.0), ((0.0, BLACK), (1.0, BLACK)))
VERBS = [name for name, member in vars(Canvas).items() if inspect.isfunction(member) and name[0] != "_"]


def draw(canvas: Canvas) -> None:
    canvas.save()
    canvas.transform((1.0, 0.0, 0.0, 1.0, 3.0, 4.0))
    canvas.clip(PATH, True)
    canvas.fill_path(PATH, BLACK)
    canvas.stroke_path(PATH, BLACK, Stroke(2.0, (1.0, 2.0)))
    canvas.fill_rect(0.0, 0.0, 9.0, 9.0, BLACK)
    canvas.picture(PICTURE, 0.0, 0.0, 2.0, 2.0)
    canvas.shade_all(SHADE)
    canvas.restore()


def test_the_same_calls_make_equal_drawings():
    one, two = Drawing(10, 10), Drawing(10, 10)
    draw(one)
    one.paint(two)
    assert one.steps == two.steps and one.steps[0] == Step("save", ())


def test_a_drawing_can_be_sent_to_another_process():
    drawing = Drawing(10, 10)
    draw(drawing)
    assert pickle.loads(pickle.dumps(drawing.steps)) == drawing.steps


def test_a_verb_that_no_canvas_has_is_an_error():
    drawing = Drawing(10, 10)
    with pytest.raises(AttributeError):
        drawing.paint_everything_red()


@pytest.mark.parametrize("kind", [Drawing, PdfCanvas])
def test_every_canvas_has_every_verb_with_the_same_parameters(kind):
    assert len(VERBS) >= 15
    for verb in VERBS:
        asked = list(inspect.signature(getattr(Canvas, verb)).parameters.values())
        found = list(inspect.signature(getattr(kind, verb)).parameters.values())
        assert [(p.name, p.default) for p in asked] == [(p.name, p.default) for p in found], verb


@pytest.mark.parametrize(
    ("call", "plain"),
    [
        (lambda d: d.fill_path(PATH, BLACK), True),
        (lambda d: d.fill_path(PATH, BLACK._replace(alpha=0.5)), False),
        (lambda d: d.stroke_path(PATH, BLACK, Stroke(1.0)), True),
        (lambda d: d.picture(PICTURE, 0.0, 0.0, 1.0, 1.0), False),
        (lambda d: d.shade_all(SHADE), False),
        (lambda d: d.clip(PATH), True),
    ],
)
def test_a_drawing_is_plain_while_it_has_opaque_shapes_alone(call, plain):
    drawing = Drawing(10, 10)
    call(drawing)
    assert drawing.plain is plain
