"""Form controls show their state, and what a screen would show has its place (HTML §4.10, §15.5)."""

from __future__ import annotations

import pypdfium2 as pdfium
import pytest

import fleetquill as fq

TEXTS = [
    ("<input value='Ada Marsh'>", "Ada Marsh"), ("<input type=TEXT value=a>", "a"), ("<input type=password value=abc>", "•••"),
    ("<input placeholder=Barge>", "Barge"), ("<input value=x placeholder=Barge>", "x"), ("<input type=hidden value=x>", ""),
    ("<input type=submit>", "Submit"), ("<input type=reset>", "Reset"), ("<input type=button value=Go>", "Go"),
    ("<input type=date value=2026-05-04>", "May 4, 2026"), ("<input type=date value=nonsense>", "nonsense"),
    ("<input type=time value=10:30>", "10:30"), ("<input type=file>", "No file chosen"), ("<input type=number value=3>", "3"),
    ("<textarea>one\ntwo</textarea>", "one\ntwo"), ("<textarea>\nfirst</textarea>", "first"), ("<textarea placeholder=x></textarea>", "x"),
    ("<select><option>a<option selected>b<option>c</select>", "b"), ("<select><option disabled>a<option>b</select>", "b"),
    ("<select><option label=L value=v></select>", "L"), ("<select></select>", ""), ("<select><optgroup label=G><option>x</select>", "x"),
    ("<select multiple><option>a<option>b</select>", "a\nb"), ("<select size=2><optgroup label=G><option>a</select>", "G\na"),
    ("<button>two <b>words</b></button>", "two words"), ("<datalist><option>a</datalist>x", "x"),
    ("<details><summary>s</summary>hidden</details>", "▸ s"), ("<details open><summary>s</summary>seen</details>", "▾ s\nseen"),
    ("<dialog>hidden</dialog>x", "x"), ("<object data=no.x>instead</object>", "instead"), ("<fieldset><legend>L</legend>x</fieldset>", "L\nx"),
    ("<ruby>base<rt>over</rt></ruby>", "base\nover"), ("<p style='line-clamp:2;width:60px'>one two three four five six", "one two\nthree …"),
]  # fmt: skip


@pytest.mark.parametrize(("html", "text"), TEXTS, ids=[html for html, _ in TEXTS])
def test_what_can_be_read(html, text):
    edition = fq.compose(fq.Manuscript.from_html(html))
    assert edition.pages[0].text == text


DRAWN = [
    "<input type=checkbox>", "<input type=checkbox checked>", "<input type=radio checked>", "<input type=range>",
    "<input type=color value=red>", "<progress value=.5></progress>", "<meter value=2 max=4></meter>",
]  # fmt: skip


@pytest.mark.parametrize("html", DRAWN)
def test_what_is_drawn_differs_by_its_state(html):
    def picture(source):
        return fq.compose(fq.Manuscript.from_html(source)).to_bytes()

    other = html.replace(" checked", "").replace("value=red", "").replace("value=.5", "").replace("value=2", "")
    changed = other if other != html else html.replace("range", "range value=9").replace("checkbox", "checkbox checked")
    assert picture(html) != picture(changed)


@pytest.mark.parametrize(
    "html", ["<input type=range value=20>", "<progress value=.2></progress>", "<meter value=.2></meter>"]
)
def test_what_is_measured_begins_where_text_does(html):
    def dark(direction):
        page = f"<style>@page{{size:400px 60px;margin:0}}body{{margin:0;direction:{direction}}}</style>{html}"
        shot = pdfium.PdfDocument(fq.compose(fq.Manuscript.from_html(page)).to_bytes())[0].render(scale=2).to_pil()
        return sorted(
            (x, y) for x in range(shot.width) for y in range(shot.height) if sum(shot.getpixel((x, y))[:3]) < 240
        )

    def wide(found):
        return found[-1][0] - found[0][0]

    left, right = dark("ltr"), dark("rtl")
    assert left[0][0] < 5 and right[-1][0] > 525 and wide(left) == pytest.approx(wide(right), abs=2)


REMARKS = [
    ("<iframe src=page.html></iframe>", "An iframe is not shown: page.html."), ("<video src=a.mp4></video>", "A video is not shown: a.mp4."),
    ("<video><source src=b.webm></video>", "A video is not shown: b.webm."), ("<audio src=a.ogg></audio>", "Sound is not shown: a.ogg."),
    ("<canvas></canvas><canvas></canvas>", "A canvas is empty: scripts draw on it, and none is run."),
    ("<embed src=x.swf>", "An embed is not shown: x.swf."), ("<object data=x.swf></object>", "An object is not shown: x.swf."),
    ("<script>x()</script><script>y()</script>", "Scripts are not run."), ("<script type=application/json>{}</script>", None),
    ("<p>Dear {{ name }},</p>", "'{{ name }}' stands in the text as it is: given data, a template is filled in."),
    ("<p>{%- if x %}a</p>", "'{%- if x %}' stands in the text as it is: given data, a template is filled in."), ("<p>{ {x} } {{}}</p>", None),
    ("<p>Write <code>{{ name }}</code>, or <kbd class=k>{% if x %}</kbd>.", None), ("<pre>{{ name }}</pre>", "'{{ name }}' stands in the text as it is: given data, a template is filled in."),
    ("<pre><code>\n{{ name }}\n</code></pre>\n<p>{{ lock }}", "'{{ lock }}' stands in the text as it is: given data, a template is filled in."),
    ("<p style='font-family:Nowhere'>x", "No font of the family 'Nowhere' is there; 'Source Sans Pro' stands in for it."),
    ("<p style='font-family:Nowhere,serif'>x", None),
    ("<p style='font:9pt DejaVu Sans;font-variant:small-caps'>x", "The font has no small capitals; they are made of its others."),
    ("<p style='font-variant:small-caps'>x", None),
    ("<p>漢字</p><p>漢", "No font has a glyph for '漢' (U+6F22), '字' (U+5B57); a box stands in its place. (3 times)"),
    ("<style>p{-moz-x:1;-webkit-y:2}</style>", "Properties, values and selectors with a browser's own prefix are passed over."), ("<style>::-moz-x,p::selection{color:red}</style>", None),
    ("<style>@container (width>1px){p{color:red}}</style>", "Rules in '@container' are left out: sizes of containers are not asked."),
    ("<div style='height:20px;overflow:hidden'><p>a<p>b</div>", "What stands in this box is taller than it: text is cut off."),
    ("<div style='height:20px;overflow:hidden;line-height:20px'>a</div>", None),
    ("<div style='height:20px;overflow:hidden'><div style='position:absolute'>a</div><p>b<p>c</div>", "What stands in this box is taller than it: text is cut off."),
    ("<div style='height:20px'><p style='margin:0'>a<p style='margin:0'>b</div><p>after", "What stands in this box is 15.2 pt taller than it and lies over what follows."),
    ("<div style='height:20px'><p style='margin:0'>a<p style='margin:0'>b</div>", None),
    ("<div style='height:20px'>a<br>b</div><div style='margin-left:50px'>beside it</div>", None),
    ("<div style='width:40px;overflow:hidden;white-space:nowrap'>some words</div>", "'some words' is 30.6 pt wider than its line; it is cut off."),
    ("<div style='display:flex'><div style='flex:none;width:2000px'>x</div></div>", "A box reaches 961.4 pt over the side of the page. A scale of 'fit' makes all of it as much smaller as that takes."),
    ("<div style='display:flex;direction:rtl'><div style='flex:none;width:2000px'>x</div></div>", "A box reaches 961.4 pt over the side of the page. A scale of 'fit' makes all of it as much smaller as that takes."),
    ("<div style='width:1400px;text-align:right'>end</div>", "Text reaches 511.4 pt over the side of the page. A scale of 'fit' makes all of it as much smaller as that takes."),
    ("<div style='width:1400px'><b style='float:right'>end</b></div>", "Text reaches 511.4 pt over the side of the page. A scale of 'fit' makes all of it as much smaller as that takes."),
    ("<p style='margin-left:-200px'>x", "Text reaches 93.3 pt over the side of the page."),
    ("<p style='margin-left:-60px'>x", None), ("<div style='width:1400px'>x</div>", None),
    ("<style>@page{@top-center{content:'a' 'b';font:9pt/99pt serif}}</style>x", "What stands in the margin is taller than the margin box 'top-center' by 42.3 pt; the page's content makes way."),
    ("<input size=3 value='much longer'>", "'much longer' is 15.8 pt wider than its line; it is cut off."),
    ("<textarea rows=1>a\nb</textarea>", "What stands in this box is taller than it: text is cut off."), ("<textarea>a\nb</textarea>", None),
    ("<select size=2><option>a<option>b<option>c</select>", "What stands in this box is taller than it: text is cut off."),
    ("<div style='position:absolute;left:-9999px'>skip</div>", None), ("<div style='position:absolute;left:-300px;width:400px'>x</div>", "A positioned box reaches 168.3 pt over the page."),
]  # fmt: skip


@pytest.mark.parametrize(("html", "said"), REMARKS, ids=[html for html, _ in REMARKS])
def test_nothing_vanishes_in_silence(html, said):
    edition = fq.compose(fq.Manuscript.from_html(html))
    assert [r.message.split(" (column")[0] for r in edition.remarks] == ([said] if said else [])


def test_a_head_that_is_taller_than_its_margin_makes_the_page_make_way(compose):
    edition = compose(
        "<style>@page{size:300px 300px;margin:20px;@top-center{content:element(h)}}h1{position:running(h);margin:0}"
        "html{font:10px/20px serif}h1,p{font:10px/20px serif}p{margin:0}</style><h1>a<br>b<br>c</h1>"
        + "<p>line</p>"
        * 20
    )
    assert [page.number for page in edition.pages] == [1, 2]
    assert edition.locate("p")[0].y == pytest.approx(60 * 0.75)
    assert [r.kind for r in edition.remarks] == ["overflow"]


TURNED = [("vertical-rl", 1), ("vertical-lr", 1), ("sideways-lr", -1), ("sideways-rl", 1)]


@pytest.mark.parametrize(("mode", "down"), TURNED)
def test_turned_text_runs_down_or_up(compose, mode, down):
    import pypdfium2 as pdfium

    edition = compose(f"<h1 style='writing-mode:{mode};float:left'><b id=a>First</b> <b id=b>last</b></h1>")
    (a,), (b,) = edition.locate("#a"), edition.locate("#b")
    assert a.x == pytest.approx(b.x, abs=0.1) and (b.y - a.y) * down > 0
    assert a.height > a.width
    text = pdfium.PdfDocument(edition.to_bytes())[0].get_textpage()
    assert "First" in text.get_text_range()


def test_a_turned_head_makes_its_column_narrow(compose):
    edition = compose(
        "<table><tr><th id=h style='writing-mode:vertical-rl'>A long head<td>x<tr><td id=c>1<td>2</table>"
    )
    (head,), (cell,) = edition.locate("#h"), edition.locate("#c")
    assert head.width == cell.width < 30 and head.height > 60


@pytest.mark.parametrize(("size", "lines"), [("2", 2), ("3", 3), ("3 2", 2), ("1.5", 1)])
def test_an_initial_letter_takes_whole_lines(compose, size, lines):
    words = "word " * 40
    edition = compose(
        f"<style>p{{font:16px/20px serif;width:200px;margin:0}}p::first-letter{{initial-letter:{size}}}</style><p>{words}</p>"
    )
    from fleetquill.layout.contract.fragments import lines_of

    (part,) = edition._fragments[0].parts
    starts = [line.x for line in lines_of(part) if line.width <= 200][: lines + 2]
    moved = [x for x in starts if x > 1]
    assert len(moved) == lines
