"""Positioned boxes, stacking, ratios and logical sides: geometry from the standards' rules."""

import pytest

import fleetquill as fq


def rects(px, edition, selector):
    return [p.rect for p in px(edition, selector)]


@pytest.mark.parametrize(
    ("css", "rect"),
    [
        ("left:10px;top:20px;width:50px;height:30px", (10, 20, 50, 30)),
        ("right:10px;bottom:5px;width:50px;height:30px", (140, 65, 50, 30)),
        ("inset:0", (0, 0, 200, 100)),
        ("inset:10px 20px", (20, 10, 160, 80)),
        ("left:10%;top:10%;width:50%;height:50%", (20, 10, 100, 50)),
        ("left:0;right:0;margin:0 auto;width:60px;top:0;height:10px", (70, 0, 60, 10)),
        ("top:0;bottom:0;margin:auto 0;height:40px;width:10px;left:0", (0, 30, 10, 40)),
        ("left:0;right:50px;margin-left:auto;width:60px;top:0;height:10px", (90, 0, 60, 10)),
        ("left:5px;top:5px;width:40px;padding:3px;border:2px solid;height:10px", (5, 5, 50, 20)),
        ("left:5px;right:5px;min-width:300px;top:0;height:1px", (5, 0, 300, 1)),
        ("right:0;top:0;width:30px;aspect-ratio:2", (170, 0, 30, 15)),
    ],
)
def test_an_absolute_box_stands_where_its_offsets_say(compose, px, css, rect):
    edition = compose(
        f"<div style='position:relative;width:200px;height:100px'><p id=a style='position:absolute;{css}'></p></div>"
    )
    assert px(edition, "#a")[0].rect == rect


def test_the_containing_block_is_the_padding_box_of_the_nearest_positioned_ancestor(compose, px):
    edition = compose(
        "<div style='position:relative;margin:10px;border:5px solid;padding:20px;height:50px'>"
        "<div><p id=a style='position:absolute;left:0;top:0;width:9px;height:9px'></p></div></div>"
        "<p id=b style='position:absolute;right:0;bottom:0;width:9px;height:9px'></p>"
    )
    assert px(edition, "#a")[0].rect == (15, 15, 9, 9)
    assert px(edition, "#b")[0].rect == (391, 591, 9, 9)


def test_an_inline_box_can_be_the_containing_block(compose, px):
    edition = compose(
        "<p>abc <span id=s style='position:relative'>def<b id=a style='position:absolute;left:0;top:100%'>x</b></span>"
    )
    span, inner = px(edition, "#s")[0], px(edition, "#a")[0]
    assert (inner.x, inner.y) == pytest.approx((span.x, span.bottom), abs=0.02)


def test_without_offsets_a_box_stays_where_it_would_have_been(compose, px):
    edition = compose(
        "<p>one</p><div id=a style='position:absolute;width:5px;height:5px'></div><p id=p>two <i id=b style='position:absolute'>x</i>"
    )
    assert px(edition, "#a")[0].rect == (0, 20, 5, 5)
    assert px(edition, "#b")[0].x > 20 and px(edition, "#b")[0].y == px(edition, "#p")[0].y


def test_a_block_in_a_line_would_have_begun_below_it(compose, px):
    edition = compose("<div>text<div id=a style='position:absolute;width:5px;height:5px'></div></div>")
    assert px(edition, "#a")[0].rect == (0, 20, 5, 5)


def test_absolute_boxes_shrink_to_fit_and_take_no_room(compose, px):
    edition = compose("<p id=a style='position:absolute'>abc def</p><p id=b>next</p>")
    assert 0 < px(edition, "#a")[0].width < 100 and px(edition, "#b")[0].y == 0


def test_relative_boxes_move_without_moving_others(compose, px):
    edition = compose(
        "<div id=a style='position:relative;left:10px;top:-5px;height:20px'></div><div id=b style='height:20px'></div>"
        "<div style='width:200px'><p id=c style='position:relative;left:10%;right:3px'>x</p></div>"
        "<p><b style='position:relative;top:4px;left:3px' id=d>y</b> <i id=e>z</i>"
    )
    assert px(edition, "#a")[0].rect == (10, -5, 400, 20) and px(edition, "#b")[0].y == 20
    assert px(edition, "#c")[0].x == 20
    plain = compose("<div style='height:60px'></div><p><b id=d>y</b> <i id=e>z</i>")
    moved, still = px(edition, "#d")[0], px(plain, "#d")[0]
    assert (moved.x - still.x, moved.y - still.y) == pytest.approx((3, 4), abs=0.02)
    assert px(edition, "#e")[0].x == pytest.approx(px(plain, "#e")[0].x, abs=0.02)


def test_fixed_boxes_stand_on_every_page(compose, px):
    edition = compose("<div id=a style='position:fixed;right:0;top:0;width:40px;height:10px'></div>" + "<p>x</p>" * 100)
    assert edition.page_count == 4
    assert [(p.page, p.rect) for p in px(edition, "#a")] == [(n, (360, 0, 40, 10)) for n in (1, 2, 3, 4)]


def test_a_positioned_box_is_placed_on_the_page_of_its_place(compose, px):
    edition = compose(
        "<p style='height:590px'></p><div style='position:relative;height:50px;break-inside:avoid' id=r><i id=a style='position:absolute;right:0'>x</i></div>"
    )
    assert [p.page for p in px(edition, "#a")] == [2] and px(edition, "#a")[0].y == 0


def test_a_positioned_box_that_leaves_the_paper_goes_on_on_the_next_page(compose, px):
    edition = compose("<p id=a style='position:absolute;top:590px'>a<br>b")
    assert [(p.page, p.y) for p in px(edition, "#a")] == [(2, 0)] and not edition.remarks
    edition = compose("<p id=a style='position:absolute;top:560px;background:red'>a<br>b<br>c<br>d")
    assert [(p.page, p.y, p.height) for p in px(edition, "#a")] == [(1, 560, 40), (2, 0, 40)]
    edition = compose("<p id=a style='position:absolute;top:1300px;height:700px'>far")
    assert [(p.page, p.y, p.height) for p in px(edition, "#a")] == [(3, 100, 500), (4, 0, 200)]


def test_a_fixed_box_that_leaves_the_paper_is_a_remark(compose):
    remarks = compose("<p style='position:fixed;top:590px'>a<br>b").remarks
    assert [r.kind for r in remarks] == ["overflow"] and "over the page" in remarks[0].message


@pytest.mark.parametrize(
    ("css", "size"),
    [
        ("width:100px;aspect-ratio:2", (100, 50)),
        ("height:50px;aspect-ratio:3/1", (150, 50)),
        ("width:100px;padding:10px;aspect-ratio:1", (120, 120)),
        ("width:100px;padding:10px;aspect-ratio:1;box-sizing:border-box", (100, 100)),
        ("width:100px;height:20px;aspect-ratio:1", (100, 20)),
        ("width:100px;aspect-ratio:2;max-height:30px", (100, 30)),
    ],
)
def test_aspect_ratio_gives_the_size_that_is_not_given(compose, px, css, size):
    assert px(compose(f"<div id=a style='{css}'></div>"), "#a")[0].rect[2:] == size


def test_content_taller_than_the_ratio_makes_the_box_taller(compose, px):
    assert px(compose("<div id=a style='width:100px;aspect-ratio:10'>a<br>b</div>"), "#a")[0].height == 40


@pytest.mark.parametrize("direction", ["ltr", "rtl"])
def test_logical_sides_follow_the_direction(compose, px, direction):
    edition = compose(
        f"<div dir={direction}><div id=a style='margin-inline:10px 30px;padding-block-start:7px;border-inline-start:5px solid;block-size:20px'>"
        "<p id=b>x</p></div></div>"
    )
    outer, inner = px(edition, "#a")[0], px(edition, "#b")[0]
    assert outer.rect == ((10 if direction == "ltr" else 30), 0, 360, 27)
    assert inner.x == (15 if direction == "ltr" else 30) and inner.y == 7


def test_empty_boxes_are_located_too(compose, px):
    assert px(compose("<div id=a style='width:50px;margin-left:5px'></div><p>x"), "#a")[0].rect == (5, 0, 50, 0)


# ---- what is painted over what ----


@pytest.fixture
def pixel(compose, tmp_path):
    import pypdfium2 as pdfium

    def run(html, x, y):
        edition = compose(html)
        page = pdfium.PdfDocument(edition.to_bytes())[0]
        return page.render(scale=96 / 72).to_pil().convert("RGB").getpixel((x, y))

    return run


RED, GREEN, BLUE = (255, 0, 0), (0, 128, 0), (0, 0, 255)


@pytest.mark.parametrize(
    ("first", "second", "color"),
    [
        ("position:absolute", "position:absolute", GREEN),
        ("position:absolute;z-index:1", "position:absolute", RED),
        ("position:relative", "margin-top:-50px", RED),
        ("", "margin-top:-50px", GREEN),
        ("position:absolute;z-index:-1", "", GREEN),
        ("float:left", "", RED),
        ("opacity:.999;", "margin-top:-50px", (255, 0, 0)),
    ],
)
def test_boxes_lie_over_one_another_in_the_standards_order(pixel, first, second, color):
    size = "width:50px;height:50px;top:0;left:0;"
    found = pixel(
        f"<div style='{size}background:red;{first}'></div><div style='{size}background:green;{second}'></div>", 25, 25
    )
    assert found == pytest.approx(color, abs=2)


def test_layers_of_a_stacking_context_stay_in_it(pixel):
    html = (
        "<div style='position:relative;z-index:1'><div style='position:absolute;z-index:99;width:50px;height:50px;background:red'></div></div>"
        "<div style='position:relative;z-index:2;width:50px;height:50px;background:blue'></div>"
    )
    assert pixel(html, 25, 25) == BLUE


def test_a_clip_holds_for_layers_in_it_but_not_for_those_placed_outside(pixel):
    html = (
        "<div style='overflow:hidden;width:50px;height:50px;{}'>"
        "<div style='position:absolute;left:0;top:0;width:100px;height:100px;background:red'></div></div>"
    )
    assert pixel(html.format("position:relative"), 75, 75) == (255, 255, 255)
    assert pixel(html.format(""), 75, 75) == RED


def test_opacity_lets_through_as_one_picture(pixel):
    html = "<div style='background:red;opacity:.5;width:50px;height:50px'><div style='background:red;height:50px'></div></div>"
    assert pixel(html, 25, 25) == pytest.approx((255, 127, 127), abs=2)


def test_transforms_turn_around_their_origin(pixel):
    box = (
        "<div style='position:absolute;left:100px;top:100px;width:100px;height:20px;background:red;transform:{}'></div>"
    )
    assert pixel(box.format("rotate(90deg)"), 150, 150) == RED
    assert pixel(box.format("rotate(90deg)"), 105, 110) == (255, 255, 255)
    assert pixel(box.format("translate(0,50%) scale(2,1);transform-origin:left"), 290, 125) == RED


@pytest.mark.parametrize(
    ("background", "color"),
    [
        ("linear-gradient(to right, red, red 50%, blue 50%)", RED),
        ("linear-gradient(to left, red, red 50%, blue 50%)", BLUE),
        ("radial-gradient(circle 10px at 20px 20px, green 100%, red)", GREEN),
        ("conic-gradient(red 25%, blue 0 75%, green 0)", GREEN),
        ("linear-gradient(green, green) 0 0 / 10px 10px no-repeat, red", RED),
        ("linear-gradient(green, green) 20px 20px / 10px 10px no-repeat, red", GREEN),
        ("linear-gradient(transparent, transparent), red", RED),
        ("repeating-linear-gradient(90deg, red 0 10px, blue 10px 20px)", RED),
    ],
)
def test_gradients_are_painted_where_the_standard_says(pixel, background, color):
    assert pixel(f"<div style='width:100px;height:100px;background:{background}'></div>", 24, 24) == pytest.approx(
        color, abs=3
    )


def test_pictures_tile_from_their_position(pixel, tmp_path):
    from PIL import Image

    tile = Image.new("RGB", (10, 10), "red")
    tile.paste((0, 0, 255), (5, 0, 10, 10))
    tile.save(tmp_path / "t.png")
    box = "<div style='width:200px;height:200px;background:url(t.png) {}'></div>"
    assert pixel(box.format("0 0"), 192, 102) == RED and pixel(box.format("0 0"), 197, 102) == BLUE
    assert pixel(box.format("5px 0"), 192, 102) == BLUE
    assert pixel(box.format("no-repeat"), 192, 102) == (255, 255, 255)
    assert pixel(box.format("0 0 / 100% 100%"), 50, 100) == RED


def test_shadows_lie_outside_and_inside(pixel):
    box = "<div style='margin:30px;width:50px;height:50px;background:white;box-shadow:{}'></div>"
    assert pixel(box.format("10px 10px red"), 85, 85) == RED and pixel(box.format("10px 10px red"), 50, 50) == (
        255,
        255,
        255,
    )
    assert pixel(box.format("inset 10px 0 blue"), 33, 55) == BLUE
    soft = pixel(box.format("0 0 10px black"), 55, 25)
    assert 100 < soft[0] < 250
    assert pixel(box.format("none").replace("box-shadow", "outline:5px solid red;box-shadow"), 27, 50) == RED


def test_the_background_of_the_body_covers_the_page(pixel):
    assert pixel("<style>@page{margin:100px}</style><body style='background:red'>x", 5, 5) == RED
    assert pixel("<style>@page{margin:100px;background:red}</style><body>x", 5, 5) == RED


@pytest.mark.parametrize(
    ("style", "shown"),
    [
        ("left: -310px; width: 300px", False),  # a menu that slides in on a screen
        ("right: -310px; width: 300px", False),
        ("left: -60px; width: 50px", True),  # a note in the margin
        ("left: -90px; width: 100px", True),  # a strip that runs off the paper
        ("left: -90px; width: 80px", True),
        ("left: -310px; width: 300px; transform: translateX(250px)", True),
        ("left: -310px; width: 300px; -fq-reference: page", True),
    ],
)
@pytest.mark.parametrize("position", ["fixed", "absolute"])
def test_what_stands_beside_the_page_is_left_out_and_told(position, style, shown):
    page = "<style>@page { size: 600px 400px; margin: 75px }</style>"
    edition = fq.compose(fq.Manuscript.from_html(f"{page}<p>x<div style='position: {position}; {style}'>menu</div>"))
    assert ("menu" in edition.pages[0].text) == shown
    assert any("is left out" in remark.message for remark in edition.remarks) != shown
