"""Rectangles that the standards fix, on a page 600 px wide without margins: one line a case.

Each case: what it shows, HTML, and for each element of class `i` its x, y, width and height in px.
"""

import pytest

import fleetquill as fq

HEAD = "<style>@page{size:600px 3000px;margin:0} body,p,ul,ol,dl,dd,h1{margin:0} html{font:16px/20px monospace} ul,ol{padding:0}</style>"


def box(css, inner="", tag="div"):
    return f'<{tag} class=i style="{css}">{inner}</{tag}>'


def around(css, *inner):
    return f'<div style="{css}">{"".join(inner)}</div>'


H10, S = "height:10px", "width:20px;height:10px"
PICTURE = '<img class=i style=\'max-width:100%;height:auto;vertical-align:top\' width=48 src=\'data:image/svg+xml,<svg xmlns="http://www.w3.org/2000/svg" width="48" height="24"/>\'>'
CASES = [
    # CSS 2.2 §8.3.1: margins that adjoin
    ("siblings", box("margin:10px 0 20px;height:5px") + box("margin:30px 0;height:5px"), [(0, 10, 600, 5), (0, 45, 600, 5)]),
    ("negative and positive", box("margin-bottom:-10px;height:20px") + box("margin-top:25px;height:5px"), [(0, 0, 600, 20), (0, 35, 600, 5)]),
    ("two negative", box("margin-bottom:-10px;height:20px") + box("margin-top:-4px;height:5px"), [(0, 0, 600, 20), (0, 10, 600, 5)]),
    ("parent and first child", around(H10) + box("", box("margin-top:15px;height:5px")), [(0, 25, 600, 5), (0, 25, 600, 5)]),
    ("padding keeps them apart", around(H10) + box("padding-top:1px", box("margin-top:15px;height:5px")), [(0, 10, 600, 21), (0, 26, 600, 5)]),
    ("through an empty box", around("height:5px;margin-bottom:10px") + around("margin:20px 0") + box(H10), [(0, 25, 600, 10)]),
    ("a flow root keeps its own", around(H10) + box("display:flow-root", around("margin:15px 0;height:5px")), [(0, 10, 600, 35)]),
    ("a height keeps the bottom margin in", box("height:30px", around("margin-bottom:15px;height:5px")) + box(H10), [(0, 0, 600, 30), (0, 30, 600, 10)]),
    ("the last child's goes out", box("", around("margin-bottom:15px;height:5px")) + box(H10), [(0, 0, 600, 5), (0, 20, 600, 10)]),
    # §10.3.3: widths
    ("auto margins", box("width:100px;margin:0 auto;height:1px"), [(250, 0, 100, 1)]),
    ("one auto margin", box("width:100px;margin-left:auto;margin-right:20px;height:1px"), [(480, 0, 100, 1)]),
    ("too wide", box("width:700px;margin:0 auto;height:1px"), [(0, 0, 700, 1)]),
    ("padding and border", box("width:100px;padding:10px;border:5px solid;height:20px"), [(0, 0, 130, 50)]),
    ("border-box", box("box-sizing:border-box;width:100px;padding:10px;border:5px solid;height:50px"), [(0, 0, 100, 50)]),
    ("border-box smaller than its edges", box("box-sizing:border-box;width:10px;padding:10px;height:0"), [(0, 0, 20, 20)]),
    ("percentages of the width", box("width:50%;padding:5% 0;margin-left:10%"), [(60, 0, 300, 60)]),
    ("min over max", box("min-width:200px;max-width:100px;height:1px;width:50px"), [(0, 0, 200, 1)]),
    ("a percentage of no height", around("", box("height:50%", "x")), [(0, 0, 600, 20)]),
    ("a percentage of a height", around("height:80px", box("height:50%")), [(0, 0, 600, 40)]),
    ("clamp and calc", box("width:clamp(100px,50%,200px);height:calc(1em + 2 * 2px)"), [(0, 0, 200, 20)]),
    ("min() and max()", box("width:min(50%,200px);height:max(10px,1em)"), [(0, 0, 200, 16)]),
    ("viewport units", box("width:50vw;height:1vw"), [(0, 0, 300, 6)]),
    ("fit-content", box("width:fit-content;height:1px", around("width:70px")), [(0, 0, 70, 1)]),
    # §9.5: floats
    ("left and right", box("float:left;" + S) + box("float:right;" + S), [(0, 0, 20, 10), (580, 0, 20, 10)]),
    ("side by side", box("float:left;" + S) + box("float:left;" + S), [(0, 0, 20, 10), (20, 0, 20, 10)]),
    ("wrapped below", box("float:left;width:400px;height:10px") + box("float:left;width:300px;height:10px"), [(0, 0, 400, 10), (0, 10, 300, 10)]),
    ("never above an earlier one", box("float:left;width:500px;height:30px") + box("float:left;width:200px;height:10px") + box("float:right;width:50px;height:10px"), [(0, 0, 500, 30), (0, 30, 200, 10), (550, 30, 50, 10)]),
    ("clear", around("float:left;" + S) + box("clear:both;" + H10), [(0, 10, 600, 10)]),
    ("clear with a margin", around("float:left;" + S) + box("clear:left;margin-top:50px;" + H10), [(0, 10, 600, 10)]),
    ("a context stands beside", around("float:left;width:100px;height:50px") + box("overflow:hidden;" + H10), [(100, 0, 500, 10)]),
    ("a context too wide goes below", around("float:left;width:400px;height:50px") + box("overflow:hidden;width:300px;height:10px"), [(0, 50, 300, 10)]),
    ("a context holds its floats", box("display:flow-root", around("float:left;width:10px;height:40px")), [(0, 0, 600, 40)]),
    ("a block does not", box("", around("float:left;width:10px;height:40px")), [(0, 0, 600, 0)]),
    ("a margin around", box("float:left;margin:5px;" + S) + box("float:left;" + S), [(5, 5, 20, 10), (30, 0, 20, 10)]),
    # Flexbox 1
    ("basis and grow", around("display:flex", box("flex:1;" + H10), box("flex:2;" + H10)), [(0, 0, 200, 10), (200, 0, 400, 10)]),
    ("grow shares what is left", around("display:flex", box("flex:1 0 100px;" + H10), box("flex:1 0 200px;" + H10)), [(0, 0, 250, 10), (250, 0, 350, 10)]),
    ("shrink by size", around("display:flex;width:300px", box("flex:0 1 200px;" + H10), box("flex:0 1 400px;" + H10)), [(0, 0, 100, 10), (100, 0, 200, 10)]),
    ("no shrink", around("display:flex;width:300px", box("flex:none;width:200px;" + H10), box("flex:none;width:200px;" + H10)), [(0, 0, 200, 10), (200, 0, 200, 10)]),
    ("a least width holds", around("display:flex;width:300px", box("flex:1 1 200px;min-width:180px;" + H10), box("flex:1 1 200px;" + H10)), [(0, 0, 180, 10), (180, 0, 120, 10)]),
    ("a most width frees room", around("display:flex", box("flex:1;max-width:100px;" + H10), box("flex:1;" + H10)), [(0, 0, 100, 10), (100, 0, 500, 10)]),
    ("fractions of one", around("display:flex", box("flex:0.2 0 0;" + H10), box("flex:0.3 0 0;" + H10)), [(0, 0, 120, 10), (120, 0, 180, 10)]),
    ("stretch", around("display:flex", box("width:20px"), box("width:20px;height:30px")), [(0, 0, 20, 30), (20, 0, 20, 30)]),
    ("centre across", around("display:flex;align-items:center;height:50px", box(S)), [(0, 20, 20, 10)]),
    ("end along", around("display:flex;justify-content:flex-end", box(S)), [(580, 0, 20, 10)]),
    ("space between", around("display:flex;justify-content:space-between", box(S), box(S), box(S)), [(0, 0, 20, 10), (290, 0, 20, 10), (580, 0, 20, 10)]),
    ("space around", around("display:flex;justify-content:space-around;width:200px", box(S), box(S)), [(40, 0, 20, 10), (140, 0, 20, 10)]),
    ("space evenly", around("display:flex;justify-content:space-evenly;width:220px", box(S), box(S)), [(60, 0, 20, 10), (140, 0, 20, 10)]),
    ("gap", around("display:flex;gap:5px 15px", box(S), box(S)), [(0, 0, 20, 10), (35, 0, 20, 10)]),
    ("wrap", around("display:flex;flex-wrap:wrap;width:50px;row-gap:5px", box(S), box(S), box(S)), [(0, 0, 20, 10), (20, 0, 20, 10), (0, 15, 20, 10)]),
    ("wrap-reverse", around("display:flex;flex-wrap:wrap-reverse;width:30px", box(S), box(S)), [(0, 10, 20, 10), (0, 0, 20, 10)]),
    ("row-reverse", around("display:flex;flex-direction:row-reverse", box(S), box("width:30px;height:10px")), [(580, 0, 20, 10), (550, 0, 30, 10)]),
    ("column", around("display:flex;flex-direction:column;height:100px", box(H10), box("flex:1")), [(0, 0, 600, 10), (0, 10, 600, 90)]),
    ("column, centred", around("display:flex;flex-direction:column;align-items:center", box(S)), [(290, 0, 20, 10)]),
    ("auto margins take all", around("display:flex;height:50px", box("margin:auto;" + S)), [(290, 20, 20, 10)]),
    ("auto margin pushes", around("display:flex", box(S), box("margin-left:auto;" + S)), [(0, 0, 20, 10), (580, 0, 20, 10)]),
    ("align-content", around("display:flex;flex-wrap:wrap;width:30px;height:60px;align-content:center", box(S), box(S)), [(0, 20, 20, 10), (0, 30, 20, 10)]),
    ("lines stretch", around("display:flex;flex-wrap:wrap;width:30px;height:60px", box(S), box(S)), [(0, 0, 20, 10), (0, 30, 20, 10)]),
    ("percent height in a stretched item", around("display:flex;height:100px", around("", box("height:50%;width:10px"))), [(0, 0, 10, 50)]),
    ("out of flow, aligned", around("display:flex;justify-content:center;align-items:flex-end;height:50px", box("position:absolute;" + S)), [(290, 40, 20, 10)]),
    ("out of flow in a grid", around("display:grid;place-items:center;height:50px", box("position:absolute;" + S)), [(290, 20, 20, 10)]),
    ("cleared, not pushed", box("float:left;" + S) + box("clear:left;margin-top:50px;" + H10), [(0, 0, 20, 10), (0, 10, 600, 10)]),
    # tables
    ("fixed layout", '<table style="table-layout:fixed;width:300px;border-spacing:0"><tr><td class=i style="width:100px;padding:0">a<td class=i style="padding:0">b</table>', [(0, 0, 100, 20), (100, 0, 200, 20)]),
    ("percentages", '<table style="width:100%;border-spacing:0"><tr><td class=i style="width:25%;padding:0">a<td class=i style="padding:0">b</table>', [(0, 0, 150, 20), (150, 0, 450, 20)]),
    ("spacing", '<table style="border-spacing:10px 5px;width:200px"><tr><td class=i style="padding:0;width:50%">a<td class=i style="padding:0">b</table>', [(10, 5, 85, 20), (105, 5, 85, 20)]),
    ("row span", '<table style="border-spacing:0"><tr><td class=i rowspan=2 style="padding:0;width:30px">a<td class=i style="padding:0;width:40px;height:30px">b<tr><td class=i style="padding:0;height:30px">c</table>', [(0, 0, 30, 60), (30, 0, 40, 30), (30, 30, 40, 30)]),
    ("column span", '<table style="border-spacing:0"><tr><td class=i colspan=2 style="padding:0">a<tr><td class=i style="padding:0;width:40px">b<td class=i style="padding:0;width:50px">c</table>', [(0, 0, 90, 20), (0, 20, 40, 20), (40, 20, 50, 20)]),
    ("collapsed borders", '<table style="border-collapse:collapse"><tr><td class=i style="border:4px solid;padding:0;width:20px">a<td class=i style="border:2px solid;padding:0;width:20px">b</table>', [(2, 2, 24, 24), (26, 2, 23, 24)]),
    # lines and blocks in lines
    ("inline-block", f"<p>{box('display:inline-block;width:30px;height:40px;vertical-align:top', tag='span')}</p>", [(0, 0, 30, 40)]),
    ("inline-block, shrunk", f"<div>{box('display:inline-block', around('width:33px;height:20px'), tag='span')}</div>", [(0, 0, 33, 20)]),
    ("a block in an inline box", '<span>a<div class=i style="height:10px"></div>b</span>', [(0, 20, 600, 10)]),
    ("contents", around("display:flex", around("display:contents", box(S), box(S))), [(0, 0, 20, 10), (20, 0, 20, 10)]),
    ("lists", '<ul style="padding-left:40px"><li class=i>x<li class=i>y</ul>', [(40, 0, 560, 20), (40, 20, 560, 20)]),
    ("hidden takes room", box("visibility:hidden;" + H10) + box("display:none") + box(H10), [(0, 0, 600, 10), (0, 10, 600, 10)]),
    # pictures no wider than what they stand in (CSS Sizing 3 §5.2.2), as a browser has them
    *(
        (f"a picture in {where}", html.replace("[]", PICTURE), [rect])
        for where, html, rect in (
            ("a float", "<div style='float:left'>[]</div>", (0, 0, 48, 24)),
            ("an inline block", "<div style='display:inline-block'>[]</div>", (0, 0, 48, 24)),
            ("a cell", "<table style='border-spacing:0'><td style='padding:0'>[]<td>x</table>", (0, 0, 48, 24)),
            ("a flex item", "<div style='display:flex;width:90px'><a>[]</a><b>b</b></div>", (0, 0, 48, 24)),
            ("a narrow flex container", "<div style='display:flex;width:30px'>[]<b>b</b></div>", (0, 0, 30, 20)),
            ("a grid", "<div style='display:grid;grid-template-columns:auto 1fr'><a>[]</a><b>b</b></div>", (0, 0, 48, 24)),
            ("as little as can be", "<div style='width:min-content'>four []</div>", (0, 20, 38.53, 19.27)),
        )
    ),
    ("half of what it stands in", around("width:min-content", box("width:100px;max-width:50%;height:10px")), [(0, 0, 50, 10)]),
    ("attributes as hints", '<table cellspacing=0><tr><td class=i width=80 height=30 style="padding:0">x</table>', [(0, 0, 80, 30)]),
]  # fmt: skip


@pytest.mark.parametrize(("html", "rects"), [case[1:] for case in CASES], ids=[case[0] for case in CASES])
def test_boxes_land_where_the_standard_says(press, px, html, rects):
    edition = press.compose(fq.Manuscript.from_html(HEAD + html))
    assert [p.rect for p in px(edition, ".i")] == [pytest.approx(rect, abs=0.05) for rect in rects]
