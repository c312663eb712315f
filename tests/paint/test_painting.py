"""What is painted, as calls on a canvas that only remembers."""

from __future__ import annotations

from typing import Any

import pytest

import fleetquill as fq
from fleetquill.drawing.canvas import Drawing
from fleetquill.paint.painter import paint_fragment


class Recorder(Drawing):
    """A canvas that only remembers; a verb that no canvas has is an error."""

    def named(self, verb: str) -> list[tuple[Any, ...]]:
        return [step.arguments for step in self.steps if step.verb == verb]


@pytest.fixture
def paint(compose):
    def run(html: str) -> Recorder:
        recorder = Recorder(400, 600)
        for fragment in compose(html)._fragments:
            paint_fragment(recorder, fragment.content, 0.0, 0.0)
        return recorder

    return run


def test_a_line_of_one_style_is_one_operation(paint):
    assert len(paint("<p>five words on one line").named("text")) == 1
    assert len(paint("<p>five <b>words</b> on one line").named("text")) == 3


def test_backgrounds_come_before_text_and_borders(paint):
    calls = [verb for verb, _ in paint("<p style='background:#eee;border:2px solid'>x").steps]
    assert calls == ["fill_rect", "fill_path", "text"]


COLUMNS = (
    "<style>table{border-spacing:0} td{padding:0;width:50px;height:20px} .a{background:red} .b{background:blue}"
    "#row{background:lime}</style><table>%s<tr><td>1<td>2<td>3<tr id=row><td>4<td colspan=2>5</table>"
)


@pytest.mark.parametrize(
    ("columns", "patches"),
    [
        ("<col class=a>", [(0, 0, 50, 40, "red")]),
        ("<col><col class=a>", [(50, 0, 50, 20, "red"), (50, 20, 100, 20, "red")]),
        ("<colgroup class=b span=2>", [(0, 0, 50, 40, "blue"), (50, 0, 50, 20, "blue"), (50, 20, 100, 20, "blue")]),
        ("<colgroup class=b><col class=a></colgroup>", [(0, 0, 50, 40, "blue"), (0, 0, 50, 40, "red")]),
        ("<col><col><col class=a>", [(100, 0, 50, 20, "red")]),
        ("<col class=a style='visibility:hidden'>", []),
        ("<col>", []),
    ],
)
def test_columns_and_their_groups_have_backgrounds_below_rows(paint, columns, patches):
    found = paint(COLUMNS % columns).named("fill_rect")
    names = {(1.0, 0.0, 0.0): "red", (0.0, 0.0, 1.0): "blue", (0.0, 1.0, 0.0): "row"}
    *under, row = [(*map(round, place), names[color[:3]]) for *place, color in found]
    assert (under, row) == (patches, (0, 20, 150, 20, "row"))


def test_backgrounds_of_columns_go_on_over_pages(paint):
    rows = "".join(f"<tr><td>{number}<td>x" for number in range(70))
    found = paint(
        f"<style>td{{padding:0}} table{{border-spacing:0}}</style><table><col style='background:red'>{rows}</table>"
    )
    heights = [round(height) for _, _, _, height, _ in found.named("fill_rect")]
    assert heights == [600, 600, 200]


def test_hidden_boxes_are_not_painted_but_keep_their_place(paint):
    assert paint("<p style='visibility:hidden;background:red'>x").steps == []
    assert len(paint("<p style='visibility:hidden'>x <span style='visibility:visible'>y").named("text")) == 1


def test_what_overflows_is_clipped_where_that_is_asked_for(paint):
    verbs = [verb for verb, _ in paint("<div style='overflow:hidden;height:10px'><p>x</div>").steps]
    assert verbs.index("save") < verbs.index("clip") < verbs.index("text") < verbs.index("restore")
    assert paint("<div style='height:10px'><p>x</div>").named("clip") == []


def test_an_underline_skips_what_hangs_through_it(paint):
    assert len(paint("<u>nnnn</u>").named("fill_rect")) == 1
    assert len(paint("<u>ngng</u>").named("fill_rect")) > 1
    assert len(paint("<u style='text-decoration-skip-ink:none'>ngng</u>").named("fill_rect")) == 1


@pytest.mark.parametrize(
    ("style", "verb", "count"),
    [("underline", "fill_rect", 1), ("underline double", "fill_rect", 2), ("underline dotted", "stroke_path", 1),
     ("underline dashed", "stroke_path", 1), ("underline wavy", "stroke_path", 1), ("line-through", "fill_rect", 1),
     ("underline overline", "fill_rect", 2), ("none", "fill_rect", 0)],
)  # fmt: skip
def test_decorations(paint, style, verb, count):
    assert len(paint(f"<span style='text-decoration:{style}'>nnn</span>").named(verb)) == count


def test_decorations_reach_into_what_is_within(paint):
    lines = paint("<p style='text-decoration:underline red'>nn <b>nn</b></p>").named("fill_rect")
    assert len(lines) == 2 and {line[4][:3] for line in lines} == {(1, 0, 0)}


def test_shadows_are_set_before_their_text(paint):
    texts = paint("<p style='color:#000;text-shadow:2px 3px #f00, 1px 1px #00f'>x").named("text")
    assert [t[2].color[:3] for t in texts] == [(0, 0, 1), (1, 0, 0), (0, 0, 0)]
    assert texts[1][0] - texts[2][0] == 2 and texts[1][1] - texts[2][1] == 3


def test_a_picture_that_is_not_there_has_a_frame_with_a_cross(paint):
    recorder = paint("<img src=gone.png width=50 height=40>")
    assert [a[:4] for a in recorder.named("fill_rect")][0][2:] == (50, 40)
    assert len(recorder.named("stroke_path")) == 1 and recorder.named("picture") == []


@pytest.mark.parametrize(
    ("fit", "size"),
    [("fill", (100, 100)), ("contain", (100, 50)), ("cover", (200, 100)), ("none", (40, 20)), ("scale-down", (40, 20))],
)
def test_object_fit(paint, tmp_path, fit, size):
    from PIL import Image

    Image.new("RGB", (40, 20)).save(tmp_path / "p.png")
    recorder = paint(f"<img src=p.png style='width:100px;height:100px;object-fit:{fit}'>")
    ((*_, width, height),) = recorder.named("picture")
    assert (width, height) == size
    assert bool(recorder.named("clip")) == (fit == "cover")


def test_links_cover_each_line_of_their_text(paint):
    recorder = paint("<p style='width:90px'><a href='#x'>words of a link over lines</a>")
    assert len(recorder.named("link")) > 1 and {link[4] for link in recorder.named("link")} == {"#x"}


def test_plain_rows_of_a_ledger_are_drawn_on_any_canvas():
    manuscript = fq.Manuscript.from_html("<style>@page{size:300px 300px;margin:0} td{background:#eee}</style>")
    manuscript.ledger([("a", "1"), ("b", "2")], [fq.Column("x"), fq.Column("y")])
    recorder = Recorder(300, 300)
    for fragment in fq.compose(manuscript)._fragments:
        paint_fragment(recorder, fragment.content, 0.0, 0.0)
    *_, first, second = [[], [], *zip(*[iter(recorder.named("text")[2:])] * 2, strict=True)]
    assert [word.text for _, _, _, words, *_ in (*first, *second) for word in words] == ["a", "1", "b", "2"]
    assert first[0][1] < second[0][1] and first[0][0] == second[0][0]
    assert len([rect for rect in recorder.named("fill_rect") if rect[2] > 10]) == 4


class Rows(Recorder):
    """A canvas that takes rows ready made."""

    def stamp_rows(self, x, y, rows):
        self.stamped = x, y, rows


def test_plain_rows_of_a_ledger_are_stamped_where_a_canvas_can():
    manuscript = fq.Manuscript.from_html("<style>@page{size:300px 300px;margin:0}</style>")
    manuscript.ledger([("a", "1"), ("b", "2")], [fq.Column("x"), fq.Column("y")])
    recorder = Rows(300, 300)
    for fragment in fq.compose(manuscript)._fragments:
        paint_fragment(recorder, fragment.content, 0.0, 0.0)
    x, y, rows = recorder.stamped
    assert [[cell.text for cell in row] for row in rows.cells] == [["a", "1"], ["b", "2"]]
    assert [cell.figures is not None for cell in rows.cells[0]] == [False, True]
    assert x == 0 and y > 0 and all(ground.height > 10 for ground in rows.grounds)
