"""Over the page: what stands on which page, as an independent reader finds it within the paper.

Each row is a document, its style, the words of its pages and the kinds of its remarks. A page is 300pt by 180pt:
ten lines of 18pt. '{a1-9}' stands for nine paragraphs, '{br a1-9}' for lines, '{tr a1-9}' for rows of a table.
"""

from __future__ import annotations

import random
import re
from itertools import pairwise

import pypdfium2 as pdfium
import pytest

import fleetquill as fq

TEN_LINES = """<style>@page { size: 300pt 180pt; margin: 0 } * { margin: 0 } p, div, td, th, li, span { font: 12pt/18pt serif } body { margin: 0 }
%s</style>"""
PATTERNS = {"": "<p>{}</p>", "br ": "{}<br>", "tr ": "<tr><td>{}"}

CONTENT = [
    ("neg margin flex item", "<div style='display:flex;flex-wrap:wrap'><div style='margin-top:-6pt;width:100%'>{a1-3}</div><div style='width:100%'>{b1-12}</div></div>", "", ["a1-3 b1-7", "b8-12"], ""),
    ("neg margin grid item", "<p>x</p><div style='display:grid;grid-template-columns:1fr 1fr'><div style='margin-top:-9pt'>{a1-14}</div><div>{b1-12}</div></div>", "", ["x a1-9 b1-9", "a10-14 b10-12"], ""),
    ("forced in columns in flex", "<div style='display:flex'><div style='flex:1'><div style='columns:2'>{a1-3}<p style='break-before:page'>b1</p>{b2-4}</div></div><div>s</div></div><p>after</p>", "", ["a1-3 s", "b1-4 after"], ""),
    ("forced in columns in grid", "<div style='display:grid'><div><div style='columns:2'>{a1-3}<p style='break-before:page'>b1</p>{b2-4}</div></div></div><p>after</p>", "", ["a1-3", "b1-4 after"], ""),
    ("forced in columns in cell", "<table><tr><td><div style='columns:2'>{a1-3}<p style='break-before:page'>b1</p>{b2-4}</div></td><td>s</td></tr><tr><td>n</td></tr></table><p>after</p>", "", ["a1-3 s", "b1-4 n after"], ""),
    ("forced in columns in float", "<div style='float:left;width:200pt'><div style='columns:2'>{a1-3}<p style='break-before:page'>b1</p>{b2-4}</div></div><p>after</p>", "", ["a1-3 b1-4 after"], ""),
    ("forced in columns in inline-block", "<div><span style='display:inline-block;width:200pt'><div style='columns:2'>{a1-3}<p style='break-before:page'>b1</p>{b2-4}</div></span></div><p>after</p>", "", ["a1-3 b1-4 after"], ""),
    ("forced column break in columns in flex", "<div style='display:flex'><div style='flex:1'><div style='columns:2'>{a1-3}<p style='break-before:column'>b1</p>{b2-4}</div></div><div>s</div></div><p>after</p>", "", ["a1-3 b1-4 s after"], ""),
    ("flex forced in later row", "<table>{tr r0-7}<tr><td><div style='display:flex;flex-direction:column'><div>{a1-2}</div><div style='break-before:page'>{b1-3}</div></div></td></tr>{tr q0-7}</table><p>after</p>", "", ["r0-7", "a1 a2", "b1-3 q0-4", "q5-7 after"], ""),
    ("grid forced in later row", "<table>{tr r0-7}<tr><td><div style='display:grid'><div>{a1-2}</div><div style='break-before:page'>{b1-3}</div></div></td></tr>{tr q0-7}</table><p>after</p>", "", ["r0-7", "a1 a2", "b1-3 q0-4", "q5-7 after"], ""),
    ("float tall two col text", "<div style='columns:2'><div style='float:left;width:50pt'>{f1-14}</div>{t1-24}</div>", "", ["f1-14 t1-20", "t21-24"], ""),
    ("float in columns, short", "<div style='columns:2'>{t1-7}<div style='float:left;width:50pt'>{f1-24}</div>{t8-31}</div>", "", ["f1-13 t1-20", "f14-24 t21-31"], ""),
    ("inline-flex tall", "<p>x <span style='display:inline-flex;flex-direction:column'><span>a1</span><span>a2</span><span>a3</span><span>a4</span><span>a5</span><span>a6</span><span>a7</span><span>a8</span><span>a9</span><span>a10</span><span>a11</span><span>a12</span><span>a13</span><span>a14</span></span> y</p>", "", ["x a1-10 y", "a11-14"], ""),
    ("inline-table tall", "<p>x <span style='display:inline-table'><span style=display:table-row><span style=display:table-cell>c0</span></span><span style=display:table-row><span style=display:table-cell>c1</span></span><span style=display:table-row><span style=display:table-cell>c2</span></span><span style=display:table-row><span style=display:table-cell>c3</span></span><span style=display:table-row><span style=display:table-cell>c4</span></span><span style=display:table-row><span style=display:table-cell>c5</span></span><span style=display:table-row><span style=display:table-cell>c6</span></span><span style=display:table-row><span style=display:table-cell>c7</span></span><span style=display:table-row><span style=display:table-cell>c8</span></span><span style=display:table-row><span style=display:table-cell>c9</span></span><span style=display:table-row><span style=display:table-cell>c10</span></span><span style=display:table-row><span style=display:table-cell>c11</span></span><span style=display:table-row><span style=display:table-cell>c12</span></span><span style=display:table-row><span style=display:table-cell>c13</span></span></span> y</p>", "", ["x c0-9 y", "c10-13"], ""),
    ("absolute tall", "<div style='position:relative'><p>x</p><div style='position:absolute;top:0;left:100pt'>{a1-14}</div></div>", "", ["x a1-10", "a11-14"], ""),
    ("absolute tall in tall rel", "<div style='position:relative'>{x1-25}<div style='position:absolute;top:0;left:100pt'>{a1-14}</div></div>", "", ["x1-10", "x11-20", "x21-25 a1-10", "a11-14"], ""),
    ("line taller", "<p>a</p><p>b <span style='font-size:300pt;line-height:1'>H</span> c</p><p>d</p>", "", ["a", "", "b c d"], "overflow"),
    ("line of line-height 400", "<p>a</p><p style='line-height:400pt'>b</p><p>d</p>", "", ["a", "", "b", "d"], "overflow"),
    ("pic taller", "<p>a</p><p>b <span style='display:inline-block;width:20pt;height:400pt;background:red'></span> c</p><p>d</p>", "", ["a", "b c", "", "d"], ""),
    ("head taller than page", "<table><thead><tr><th>{h1-12}</th></tr></thead>{tr r0-7}</table>", "", ["h1-9", "h10-12 r0-4", "r5-7"], "table"),
    ("head half", "<table><thead><tr><th>{h1-6}</th></tr></thead>{tr r0-11}</table>", "", ["h1-6 r0-2", "r3-10", "r11"], "table"),
    ("head+foot", "<table><thead><tr><th>{h1-6}</th></tr></thead><tfoot><tr><th>{f1-6}</th></tr></tfoot>{tr r0-11}</table>", "", ["h1-6 r0-2", "r3-10", "r11 f1-6"], "table"),
    ("padding free on each page", "<div style='background:#eee;border:2pt solid;padding:6pt' id=a>{l1-22}</div><p>after</p>", "", ["l1-9", "l10-19", "l20-22 after"], ""),
    ("stretched", "<div style='display:flex'><div style='width:60pt' id=s><p>s1</p></div><div id=m>{m1-25}</div></div><p>after</p>", "", ["s1 m1-10", "m11-20", "m21-25 after"], ""),
    ("grid sidebar", "<div style='display:grid;grid-template-columns:60pt 1fr'><div id=s><p>s1</p></div><div id=m>{m1-25}</div></div><p>after</p>", "", ["s1 m1-10", "m11-20", "m21-25 after"], ""),
    ("fixed rows", "<div style='display:grid;grid-template-rows:200pt 100pt'><div id=s><p>s1</p></div><div id=m>{m1-2}</div></div><p>after</p>", "", ["s1", "m1 m2 after"], ""),
    ("rowspan", "<table cellspacing=0 cellpadding=1><tr><td rowspan=25 id=s>s<td>r0{tr r1-24}</table><p>after</p>", "", ["s r0-8", "r9-17", "r18-24 after"], ""),
    ("empty 400", "<div style='height:400pt' id=s></div><p>after</p>", "", ["", "", "after"], ""),
    ("min 400", "<div style='min-height:400pt' id=s>{l1-3}</div><p>after</p>", "", ["l1-3", "", "after"], ""),
    ("height 250 text 12", "<p>a</p><div style='height:250pt' id=s>{l1-12}</div><p>after</p>", "", ["a l1-9", "l10-12 after"], ""),
    ("flex container height 400", "<div style='height:400pt;display:flex' id=s>{l1-3}</div><p>after</p>", "", ["l1l2l3", "", "after"], ""),
    ("columns height 400", "<div style='height:400pt;columns:2' id=s>{l1-3}</div><p>after</p>", "", ["l1-3", "", "after"], ""),
    ("row height 400", "<table cellspacing=0 cellpadding=1><tr style='height:400pt' id=s><td id=t>a<td>b</table><p>after</p>", "", ["ab", "", "after"], ""),
    ("cell height 400", "<table cellspacing=0 cellpadding=1><tr id=s><td id=t style='height:400pt'>a<td>b</table><p>after</p>", "", ["a b", "", "after"], ""),
    ("table height 400", "<table cellspacing=0 cellpadding=1 style='height:400pt' id=s><tr><td id=t>a<td>b</table><p>after</p>", "", ["ab", "", "after"], ""),
    ("rows in flex item", "<div style='display:flex'><div><table cellspacing=0 cellpadding=1>{tr r0-2}<tr style='break-before:page'><td>n1<tr style='break-after:page'><td>n2<tr><td>n3</table></div><div>side</div></div><p>after</p>", "", ["r0-2 side", "n1 n2", "n3 after"], ""),
    ("table IS flex item", "<div style='display:flex'><table cellspacing=0 cellpadding=1>{tr r0-2}<tr style='break-before:page'><td>n1<tr style='break-after:page'><td>n2<tr><td>n3</table><div>side</div></div><p>after</p>", "", ["r0-2 side", "n1 n2", "n3 after"], ""),
    ("rows in grid item", "<div style='display:grid'><div><table cellspacing=0 cellpadding=1>{tr r0-2}<tr style='break-before:page'><td>n1<tr style='break-after:page'><td>n2<tr><td>n3</table></div><div>side</div></div><p>after</p>", "", ["r0-2", "n1 n2", "n3 side after"], ""),
    ("nested table in cell", "<table cellspacing=0 cellpadding=1><tr><td>a<td><table cellspacing=0 cellpadding=1><tr><td>n1<tr style='break-before:page'><td>n2<tr style='break-after:page'><td>n3<tr><td>n4</table><tr><td>b<td>c</table><p>after</p>", "", ["a n1", "n2 n3", "n4 bc after"], ""),
    ("break in cell", "<table cellspacing=0 cellpadding=1><tr><td>a<td><p>n1</p><p style='break-before:page'>n2</p><p style='break-after:page'>n3</p><p>n4</p><tr><td>b<td>c</table><p>after</p>", "", ["a n1", "n2 n3", "n4 bc after"], ""),
    ("break on cell", "<table cellspacing=0 cellpadding=1><tr><td>a<td>b<tr><td style='break-before:page'>c<td>d<tr><td>e</table><p>after</p>", "", ["ab c d e after"], ""),
    ("page on items", "<div style='display:flex;flex-direction:column'><div>a</div><div style='page:wide'>b</div><div>c</div></div><p>after</p>", "@page wide{size:400pt 180pt}", ["a", "b", "c after"], ""),
    ("page on grid items", "<div style='display:grid'><div>a</div><div style='page:wide'>b</div><div>c</div></div><p>after</p>", "@page wide{size:400pt 180pt}", ["a", "b", "c after"], ""),
    ("page on rows", "<table><tr><td>a<tr style='page:wide'><td>b<tr><td>c</table><p>after</p>", "@page wide{size:400pt 180pt}", ["a", "b", "c after"], ""),
    ("page on tbody", "<table><tr><td>a<tbody style='page:wide'><tr><td>b<tbody><tr><td>c</table><p>after</p>", "@page wide{size:400pt 180pt}", ["a", "b", "c after"], ""),
    ("orphans 999", "<p style='orphans:999'>{br l0-21}</p>", "", ["l0-9", "l10-19", "l20 l21"], ""),
    ("widows 999", "<p>x</p><p style='widows:999'>{br l0-21}</p>", "", ["x", "l0-9", "l10-19", "l20 l21"], ""),
    ("both 999", "<p>x</p><p style='widows:999;orphans:999'>{br l0-4}</p>{l1-6}<p style='widows:999;orphans:999'>{br k0-4}</p>", "", ["x l0-4 l1-4", "l5 l6 k0-4"], ""),
    ("line taller again", "<p>a</p><p id=x>b <span style='font-size:300pt;line-height:1'>H</span> c</p><p>d</p>", "", ["a", "", "b c d"], "overflow"),
    ("2 lines of line-height 400", "<p>a</p><p style='line-height:400pt'>b<br>c</p><p>d</p>", "", ["a", "", "b", "", "", "c", "d"], "overflow"),
    ("absolute tall again", "<div style='position:relative'><p>x</p><div style='position:absolute;top:0;left:100pt;background:#eee' id=a>{a1-24}</div></div>", "", ["x a1-10", "a11-20", "a21-24"], ""),
    ("absolute tall in tall rel again", "<div style='position:relative'>{x1-25}<div style='position:absolute;top:0;left:100pt' id=a>{a1-14}</div></div>", "", ["x1-10", "x11-20", "x21-25 a1-10", "a11-14"], ""),
    ("absolute below", "<p>x</p><div style='position:absolute;top:400pt;left:100pt' id=a>far</div>", "", ["x", "", "far"], ""),
    ("absolute pic", "<p>x</p><div style='position:absolute;top:40pt;left:100pt;height:300pt;background:red' id=a>far</div>", "", ["x far", ""], ""),
    ("absolute h", "<p>x</p><div style='position:absolute;top:-400pt;left:-9999px' id=a>far</div>", "", ["x"], ""),
    ("fixed tall", "<p>x</p><div style='position:fixed;top:0pt;left:100pt' id=a>{l1-14}</div>", "", ["x l1-10"], "overflow"),
    ("inline abs", "<p>x</p><p>s <span style='position:absolute;' id=a>{br k0-13}</span></p>", "", ["x sk0 k1-8", "k9-13"], ""),
    ("float top", "{l1-3}<div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div>{l4-15}", "", ["l1-8 FIG", "l9-15"], ""),
    ("float bottom", "{l1-3}<div style='float:bottom;float-reference:page;height:36pt;background:#eee'>FIG</div>{l4-15}", "", ["l1-8 FIG", "l9-15"], ""),
    ("float top at end of page", "{l1-9}<div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div>{l10-21}", "", ["l1-10", "l11-18 FIG", "l19-21"], ""),
    ("two", "{l1-2}<div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:bottom;float-reference:page;height:36pt;background:#eee'>FIG</div>{l10-21}", "", ["l1 l2 l10-13 FIG FIG", "l14-21"], ""),
    ("many", "{l1-2}<div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div><div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div>{l10-14}", "", ["l1 l2 FIG FIG FIG FIG", "l10 l11 FIG FIG FIG FIG", "l12-14"], ""),
    ("with footnote", "{l1-2}<p>k<span style='float:footnote'>note</span></p><div style='float:bottom;float-reference:page;height:36pt;background:#eee'>FIG</div>{l10-21}", "", ["l1 l2 k 1 l10-12 FIG 1 note", "l13-21"], ""),
    ("column", "<div style='columns:2;column-fill:auto;height:180pt'>{l1-3}<div style='float:top;float-reference:column;height:36pt;background:#eee'>FIG</div>{l4-19}</div>", "", ["l1-8 FIG l9-18", "l19"], ""),
    ("column 2nd", "<div style='columns:2'>{l1-9}<div style='float:top;float-reference:column;height:36pt;background:#eee'>FIG</div>{l10-25}</div>", "", ["l1-18 FIG", "l19-25"], ""),
    ("column bottom", "<div style='columns:2'>{l1-3}<div style='float:bottom;float-reference:column;height:36pt;background:#eee'>FIG</div>{l4-33}</div>", "", ["l1-8 FIG l9-18", "l19-33"], ""),
    ("page in columns", "<div style='columns:2'>{l1-3}<div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div>{l4-33}</div>", "", ["l1-16 FIG", "l17-33"], ""),
    ("too tall", "{l1-3}<div style='float:top;float-reference:page'>{f1-14}</div>{l4-15}", "", ["l1-10", "f1-10", "l11-15 f11-14"], ""),
    ("in line", "{l1-3}<p>a b <span style='float:top;float-reference:page'>FIG</span> c</p>{l4-15}", "", ["l1-3 a b c l4-8 FIG", "l9-15"], ""),
    ("last", "{l1-10}<div style='float:top;float-reference:page;height:36pt;background:#eee'>FIG</div>", "", ["l1-10", "FIG"], ""),

    ("two floats", "<div style='float:left;width:45%'>{a1-14}</div><div style='float:right;width:45%'>{b1-25}</div><p>t</p>{t1-30}", "", ["a1-10 b1-10 t t1-9", "a11-14 b11-20 t10-19", "b21-25 t20-29", "t30"], ""),
    ("two floats in columns", "<div style='columns:2'><div style='float:left;width:40%'>{a1-14}</div><div style='float:right;width:40%'>{b1-25}</div>{t1-30}</div>", "", ["a1-10 b1-10 a11-14 b11-20 t1-20", "b21-25 t21-30"], ""),
    ("floats mid page", "{l1-7}<div style='float:left;width:45%'>{a1-14}</div><div style='float:right;width:45%'>{b1-5}</div>{t1-20}", "", ["a1-3 l1-7", "a4-13 b1-5 t1-10", "a14 t11-20"], ""),
    ("inline-block tall mid line", "{l1-7}<div style='font:12pt/18pt sans-serif'>x <span style='display:inline-block;width:40%'>{a1-14}</span> y <span style='display:inline-block;width:40%'>{b1-3}</span> z</div>{t1-3}", "", ["l1-7", "x a1-10 y b1-3 z", "a11-14 t1-3"], ""),
    ("inline-table tall", "{l1-7}<p>x <span style='display:inline-table'><span style=display:table-row><span style=display:table-cell>c0</span></span><span style=display:table-row><span style=display:table-cell>c1</span></span><span style=display:table-row><span style=display:table-cell>c2</span></span><span style=display:table-row><span style=display:table-cell>c3</span></span><span style=display:table-row><span style=display:table-cell>c4</span></span><span style=display:table-row><span style=display:table-cell>c5</span></span><span style=display:table-row><span style=display:table-cell>c6</span></span><span style=display:table-row><span style=display:table-cell>c7</span></span><span style=display:table-row><span style=display:table-cell>c8</span></span><span style=display:table-row><span style=display:table-cell>c9</span></span><span style=display:table-row><span style=display:table-cell>c10</span></span><span style=display:table-row><span style=display:table-cell>c11</span></span><span style=display:table-row><span style=display:table-cell>c12</span></span><span style=display:table-row><span style=display:table-cell>c13</span></span></span> y</p>", "", ["l1-7", "x c0-9 y", "c10-13"], ""),
    ("abs in flex", "<div style='display:flex;position:relative'><div>{l1-3}</div><div style='position:absolute;top:20pt;left:100pt'>{a1-14}</div></div>", "", ["l1-3 a1-8", "a9-14"], ""),
    ("list across", "<ol><li>i0</li><li>i1</li><li>i2</li><li>i3</li><li>i4</li><li>i5</li><li>i6</li><li>i7</li><li>i8</li><li>i9</li><li>i10</li><li>i11</li><li>i12</li><li>i13</li></ol>", "", ["1. i0 2. i1 3. i2 4. i3 5. i4 6. i5 7. i6 8. i7 9. i8 10. i9", "11. i10 12. i11 13. i12 14. i13"], ""),
    ("caption tall", "<table><caption>{c1-14}</caption><tr><td>r</table>", "", ["c1-10", "c11-14", "r"], ""),
    ("dl/figure", "<figure style='break-inside:avoid'>{f1-12}</figure><p>after</p>", "", ["f1-10", "f11 f12 after"], "break"),
    ("flex column reverse", "<div style='display:flex;flex-direction:column-reverse'><div>i0</div><div>i1</div><div>i2</div><div>i3</div><div>i4</div><div>i5</div><div>i6</div><div>i7</div><div>i8</div><div>i9</div><div>i10</div><div>i11</div><div>i12</div><div>i13</div></div>", "", ["i13 i12 i11 i10 i9 i8 i7 i6 i5 i4", "i3 i2 i1 i0"], ""),
    ("flex wrap many", "<div style='display:flex;flex-wrap:wrap'><div style=width:50%>i0</div><div style=width:50%>i1</div><div style=width:50%>i2</div><div style=width:50%>i3</div><div style=width:50%>i4</div><div style=width:50%>i5</div><div style=width:50%>i6</div><div style=width:50%>i7</div><div style=width:50%>i8</div><div style=width:50%>i9</div><div style=width:50%>i10</div><div style=width:50%>i11</div><div style=width:50%>i12</div><div style=width:50%>i13</div><div style=width:50%>i14</div><div style=width:50%>i15</div><div style=width:50%>i16</div><div style=width:50%>i17</div><div style=width:50%>i18</div><div style=width:50%>i19</div><div style=width:50%>i20</div><div style=width:50%>i21</div><div style=width:50%>i22</div><div style=width:50%>i23</div><div style=width:50%>i24</div><div style=width:50%>i25</div><div style=width:50%>i26</div><div style=width:50%>i27</div><div style=width:50%>i28</div><div style=width:50%>i29</div></div><p>after</p>", "", ["i0-19", "i20-29 after"], ""),
    ("grid many rows gap", "<div style='display:grid;grid-template-columns:1fr 1fr;gap:6pt'><div>i0</div><div>i1</div><div>i2</div><div>i3</div><div>i4</div><div>i5</div><div>i6</div><div>i7</div><div>i8</div><div>i9</div><div>i10</div><div>i11</div><div>i12</div><div>i13</div><div>i14</div><div>i15</div><div>i16</div><div>i17</div><div>i18</div><div>i19</div><div>i20</div><div>i21</div><div>i22</div><div>i23</div><div>i24</div><div>i25</div><div>i26</div><div>i27</div><div>i28</div><div>i29</div></div><p>after</p>", "", ["i0-13", "i14-27", "i28 i29 after"], ""),
    ("grid spanning item", "<div style='display:grid;grid-template-columns:1fr 1fr'><div style='grid-row:span 12' id=s>side</div><div>i0</div><div>i1</div><div>i2</div><div>i3</div><div>i4</div><div>i5</div><div>i6</div><div>i7</div><div>i8</div><div>i9</div><div>i10</div><div>i11</div></div><p>after</p>", "", ["side i0-9", "i10 i11 after"], ""),
    ("forced first in flex item", "<p>x</p><div style='display:flex'><div><p style='break-before:page'>a</p><p>b</p></div></div>", "", ["x", "ab"], ""),
    ("forced before table row 1", "<p>x</p><table><tr style='break-before:page'><td>a<tr><td>b</table>", "", ["x", "ab"], ""),
    ("avoid group", "{l1-8}<div style='break-inside:avoid'>{k1-4}</div>", "", ["l1-8", "k1-4"], ""),
    ("h keep", "{l1-9}<h2 style='font:12pt/18pt serif;break-after:avoid'>H</h2>{k1-3}", "", ["l1-9", "H k1-3"], ""),
    ("h keep, a name between", "{l1-9}<h2 style='font:12pt/18pt serif;break-after:avoid'>H</h2><span id=a></span><div style='break-inside:avoid'>{k1-3}</div>", "", ["l1-9", "H k1-3"], ""),
    ("h keep, two names between", "{l1-9}<h2 style='font:12pt/18pt serif;break-after:avoid'>H</h2><a id=a></a><span><b></b></span><div style='break-inside:avoid'>{k1-3}</div>", "", ["l1-9", "H k1-3"], ""),
    ("h keep, a line between", "{l1-9}<h2 style='font:12pt/18pt serif;break-after:avoid'>H</h2><span>s</span><div style='break-inside:avoid'>{k1-3}</div>", "", ["l1-9", "Hs k1-3"], ""),
    ("footnote in cell", "<table><tr><td>r0<span style=float:footnote>n0</span><tr><td>r1<span style=float:footnote>n1</span><tr><td>r2<span style=float:footnote>n2</span><tr><td>r3<span style=float:footnote>n3</span><tr><td>r4<span style=float:footnote>n4</span><tr><td>r5<span style=float:footnote>n5</span><tr><td>r6<span style=float:footnote>n6</span><tr><td>r7<span style=float:footnote>n7</span></table>", "", ["r01 r12 r23 r34 1 n0 2 n1 3 n2 4 n3", "r45 r56 r67 r78 5 n4 6 n5 7 n6 8 n7"], ""),
    ("height 100% cover", "<div style='height:100%;background:#eee'>cover</div><p>after</p>", "html,body{height:100%}", ["cover", "after"], ""),
    ("vh cover", "<div style='height:100vh;background:#eee'>cover</div><p>after</p>", "", ["cover", "after"], ""),
    ("vh cover break", "<div style='height:100vh;break-after:page'>cover</div><p>after</p>", "", ["cover", "after"], ""),
    ("auto margin", "<div style='margin-top:100pt'>a</div><div style='margin-top:100pt'>b</div>", "", ["a", "b"], ""),
]  # fmt: skip
PAGES = [
    ("@page padding border", "<p id=a>x</p>", "@page{padding:10pt;border:2pt solid;margin:20pt;@top-left{content:'H'}}", ["x H"], ""),
    ("margin box margins", "<p id=a>x</p>", "@page{margin:40pt;@top-left{content:'H';margin:10pt;vertical-align:top} @top-right{content:'some long text here';max-width:40pt} @bottom-left{content:'Q';min-width:80pt;text-align:right}}", ["x H some long text hereQ"], "overflow"),
    ("custom counter", "<p>x</p><p style='break-before:page'>y</p>", "@page{margin:20pt;counter-increment:sheet;@top-left{content:counter(sheet) ' of ' counter(page)}}", ["x 1 of 1", "y 2 of 2"], ""),
    ("custom counter 2 by", "<p>x</p><p style='break-before:page'>y</p>", "@page{margin:20pt;counter-increment:sheet 2;@top-left{content:counter(sheet,upper-roman)}}", ["x II", "y IV"], ""),
    ("counter-reset footnote by page", "<p>x<span style='float:footnote'>n1</span></p><p style='break-before:page'>y<span style='float:footnote'>n2</span></p>", "@page{counter-reset:footnote}", ["x 1 1 n1", "y 1 1 n2"], ""),
    ("footnotes not reset", "<p>x<span style='float:footnote'>n1</span></p><p style='break-before:page'>y<span style='float:footnote'>n2</span></p>", "", ["x 1 1 n1", "y 2 2 n2"], ""),
    ("string-set", "<h2>Head</h2><p>x</p>", "h2::before{content:'B '} h2::after{content:' A'} h2{string-set:a content(before),b content(after),c content(first-letter),d content(text), e content()} @page{margin:20pt;@top-left{content:string(a) '|' string(b) '|' string(c) '|' string(d) '|' string(e)}}", ["B Head A x B | A|H|Head|Head"], ""),
    ("target-text", "<h2 id=h>Head</h2><p class=r>", "h2::before{content:'B '} h2::after{content:' A'} .r::before{content:target-text('#h',before) '|' target-text('#h',after) '|' target-text('#h',first-letter) '|' target-text('#h',content) }", ["B Head A B | A|H|Head"], ""),
    ("empty anchor", "<p class=r><p style='break-before:page'>a</p><p>b<p style='break-before:page'>c<a id=x></a></p><p><a name=y></a></p><a id=z></a><p>d", ".r::before{content:target-counter('#x',page) ' ' target-counter('#y',page) ' ' target-counter('#z',page)}", ["3 3 3", "ab", "cd"], ""),
    ("empty anchor at start", "<p class=r></p><a id=x></a><p style='break-before:page'>c</p>", ".r::before{content:target-counter('#x',page)}", ["2", "c"], ""),
    ("span all nested", "<div style='columns:2'>{l1-4}<div><section><h2 style='column-span:all' id=h>SPAN</h2>{l5-8}</section></div>{l9-10}</div>", "", ["l1-4 SPAN l5-10"], ""),
    ("@footnote max-height", "{l1-4}<p>x<span style='float:footnote'>{br n0-7}</span></p>{l5-8}", "@page{@footnote{max-height:40pt}}", ["l1-4 x 1 l5 l6 1 n0 n1", "l7 l8 n2 n3", "n4-7"], ""),
    ("six notes", "<p>x<span style=float:footnote>n0</span> x<span style=float:footnote>n1</span> x<span style=float:footnote>n2</span> x<span style=float:footnote>n3</span> x<span style=float:footnote>n4</span> x<span style=float:footnote>n5</span></p>", "", ["x 1 x2-6 1 n0 2 n1 3 n2 4 n3 5 n4 6 n5"], ""),
    ("long note", "{l1-2}<p>x<span style='float:footnote'>{br n0-13}</span></p>{l5-18}", "", ["l1 l2 x 1 1 n0-5", "l5-7 n6-11", "l8-14 n12 n13", "l15-18"], ""),
    ("rtl first left", "<p>x</p><p style='break-before:page'>x</p>", "html{direction:rtl} @page{margin:20pt} @page :left{@top-left{content:'LEFT'}} @page :right{@top-left{content:'RIGHT'}}", ["x LEFT", "x RIGHT"], ""),
    ("break-before left first", "<p style='break-before:left'>x</p>", "@page{margin:20pt} @page :left{@top-left{content:'LEFT'}} @page :right{@top-left{content:'RIGHT'}}", ["x LEFT"], ""),
    ("nth of", "<p style='page:a'>x1</p><p style='page:b'>x2</p><p style='page:a;break-before:page'>x3</p>", "@page{margin:20pt} @page :nth(1 of b){@top-left{content:'first b'}} @page :nth(2 of a){@top-left{content:'second a'}}", ["x1", "x2 first b", "x3"], ""),
    ("float top again", "{l1-3}<div style='float:top;float-reference:page'>FIG</div>{l4-12}", "", ["l1-9 FIG", "l10-12"], ""),
    ("float bottom again", "{l1-3}<div style='float:bottom;float-reference:page'>FIG</div>{l4-12}", "", ["l1-9 FIG", "l10-12"], ""),
    ("float column", "<div style='columns:2'>{l1-3}<div style='float:top;float-reference:column'>FIG</div>{l4-12}</div>", "", ["l1-6 FIG l7-12"], ""),
    ("margin-break", "{l1-10}<p style='margin-top:20pt;margin-break:keep'>k</p>", "", ["l1-10", "k"], ""),
    ("break-before always column", "{l1-2}<p style='break-before:recto'>k</p>", "", ["l1 l2", "", "k"], ""),
    ("cont caption", "<table><caption>Cap</caption><caption style='-fq-show-on:continued'>Cap (continued)</caption>{tr r0-11}</table>", "", ["Cap r0-6", "Cap (continued) r7-11"], ""),
    ("max width alone", "<p id=a>x</p>", "@page{margin:40pt;@top-left{content:'H H';max-width:50pt;background:red} @top-center{content:'cc'} @left-middle{content:'L';height:20pt;margin-top:5pt} @left-top{content:'T'} @bottom-right{content:'mm';width:50pt;margin-right:10pt} @bottom-left-corner{content:'c';width:20pt;margin:auto} @bottom-center{content:'k';height:10pt;margin-top:auto}}", ["x H H cc mm k c LT"], "overflow"),
    ("span all nested again", "<div style='columns:2'>{l1-4}<div><section style='border:1pt solid;padding:5pt' id=s><h2 style='column-span:all' id=h>SPAN</h2>{l5-8}</section></div>{l9-10}</div>", "", ["l1-4 SPAN l5-10"], ""),
    ("span all nested 2", "<div style='columns:2'><div style='border:1pt solid;padding:5pt' id=s>{l1-4}<h2 style='column-span:all' id=h>SPAN</h2>{l5-8}</div>{l9-10}</div>", "", ["l1-4 SPAN l5-10"], ""),
    ("grid", "<div style='columns:2;column-fill:auto;line-grid:create;line-snap:baseline;font:12pt/18pt serif' id=c><h2 style='font:20pt/26pt serif'>Head</h2>{l1-6}<p style='font-size:8pt;line-height:10pt'>small</p>{l7-26}</div>", "", ["Head l1-6 small l7-16", "l17-26"], ""),
    ("grid body", "<h2 style='font:20pt/26pt serif'>Head</h2>{l1-6}<p style='font-size:8pt;line-height:10pt'>small</p>{l7-16}", "body{line-grid:create;line-snap:contain;font:12pt/18pt serif}", ["Head l1-6 small l7", "l8-16"], ""),

]  # fmt: skip


def series(text: str, pattern: str = "{} ") -> str:
    """'a1-3' written out."""
    letters, first, last = re.fullmatch(r"([a-z]+)(\d+)-(\d+)", text).groups()
    return "".join(pattern.format(f"{letters}{number}") for number in range(int(first), int(last) + 1))


def written_out(html: str) -> str:
    return re.sub(r"\{(br |tr |)([a-z]+\d+-\d+)\}", lambda m: series(m[2], PATTERNS[m[1]]).removesuffix("<br>"), html)


def words_of(pages: list[str]) -> list[list[str]]:
    return [re.sub(r"\b[a-z]+\d+-\d+\b", lambda m: series(m[0]), page).split() for page in pages]


def on_paper(content: bytes, word: str = r"\S+") -> list[list[str]]:
    """The words of each page that a reader finds within the paper."""
    found = []
    for page in pdfium.PdfDocument(content):
        text, (width, height) = page.get_textpage(), page.get_size()
        words = []
        for match in re.finditer(word, text.get_text_range()):
            boxes = [text.get_charbox(index) for index in range(match.start(), match.end())]
            if all(x0 >= -1 and x1 <= width + 1 and y0 >= -1 and y1 <= height + 1 for x0, y0, x1, y1 in boxes):
                words.append(match[0])
        found.append(words)
    return found


@pytest.fixture(scope="module")
def laid(press):
    return lambda html, css="": press.compose(fq.Manuscript.from_html(TEN_LINES % css + written_out(html)))


@pytest.mark.parametrize(
    ("html", "css", "pages", "kinds"),
    [row[1:] for row in (*CONTENT, *PAGES)],
    ids=[row[0] for row in (*CONTENT, *PAGES)],
)
def test_every_word_stands_on_its_page(laid, html, css, pages, kinds):
    edition = laid(html, css)
    assert on_paper(edition.to_bytes()) == words_of(pages)
    assert {remark.kind for remark in edition.remarks} == set(kinds.split())


SIDE = "<div style='display:%s'><div id=s style='width:60pt'><p>s1</p></div><div id=m>{m1-25}</div></div><p>after</p>"


@pytest.mark.parametrize(
    ("html", "css", "rects"),
    [
        ("<div style='border:2pt solid;padding:6pt' id=a>{l1-22}</div>", "", {"#a": [(1, 0, 180), (2, 0, 180), (3, 0, 62)]}),
        ("<div style='border:2pt solid;padding:6pt;box-decoration-break:clone' id=a>{l1-12}</div>", "", {"#a": [(1, 0, 180), (2, 0, 70)]}),
        ("<div style='padding:9pt' id=a>{l1-9}</div>", "", {"#a": [(1, 0, 180)]}),
        ("<div style='padding:9pt' id=a>{l1-10}</div>", "", {"#a": [(1, 0, 180), (2, 0, 27)]}),
        (SIDE % "flex", "", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 90)], "#m": [(1, 0, 180), (2, 0, 180), (3, 0, 90)]}),
        (SIDE % "grid", "#m{grid-row:1;grid-column:2}", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 90)]}),
        ("<div style='display:grid;grid-template-rows:200pt 100pt'><div id=s>s</div><div id=m>{m1-2}</div></div>", "",
         {"#s": [(1, 0, 180), (2, 0, 20)], "#m": [(2, 20, 100)]}),
        ("<table cellspacing=0 cellpadding=1><tr><td rowspan=25 id=s>s<td>r0{tr r1-24}</table>", "td{padding:0}", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 90)]}),
        ("<div style='height:400pt' id=s></div>", "", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 40)]}),
        ("<p>a</p><div style='min-height:400pt' id=s>{l1-3}</div>", "", {"#s": [(1, 18, 162), (2, 0, 180), (3, 0, 58)]}),
        ("<p>a</p><div style='height:250pt' id=s>{l1-12}</div>", "", {"#s": [(1, 18, 162), (2, 0, 88)]}),
        ("<div style='display:flex;height:400pt' id=s><p>a</p></div>", "", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 40)]}),
        ("<div style='columns:2;height:400pt' id=s>{l1-3}</div>", "", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 40)]}),
        ("<table cellspacing=0><tr style='height:400pt'><td id=s style='padding:0'>a</table>", "", {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 40)]}),
        ("<table cellspacing=0 style='height:400pt' id=s><thead><tr><th>h<tbody><tr><td id=t>a<tr><td id=u>b</table>", "td,th{padding:0}",
         {"#s": [(1, 0, 180), (2, 0, 180), (3, 0, 76)], "#t": [(1, 18, 162), (2, 18, 29)]}),
        ("<table cellspacing=0 style='min-height:100pt' id=s><tr><td id=t style='height:60pt'>a</table>", "td{padding:0}", {"#s": [(1, 0, 100)], "#t": [(1, 0, 100)]}),
        ("<div style='height:180.3pt' id=s></div><p id=b>b</p>", "", {"#s": [(1, 0, 180)], "#b": [(2, 0, 18)]}),
        ("<p id=a>x</p>", "@page{padding:10pt;border:2pt solid;margin:20pt}", {"#a": [(1, 32, 18)]}),
        ("<p id=a>x</p>", ":root{--m:30pt} @page{margin:var(--m)}", {"#a": [(1, 30, 18)]}),
        ("{l1-10}<p style='margin-top:20pt' id=k>k</p>", "", {"#k": [(2, 0, 18)]}),
        ("{l1-10}<p style='margin-top:20pt;margin-break:keep' id=k>k</p>", "", {"#k": [(2, 20, 18)]}),
        ("<p>a</p><p style='margin-top:20pt;break-before:page' id=k>k</p>", "", {"#k": [(2, 20, 18)]}),
        ("<p>a</p><p style='margin-top:20pt;break-before:page;margin-break:discard' id=k>k</p>", "", {"#k": [(2, 0, 18)]}),
        ("<div style='line-grid:create;line-snap:baseline'><h2 style='font:20pt/26pt serif'>H</h2>{l1-2}<p style='font-size:8pt;line-height:10pt' id=s>s</p><p id=k>k</p></div>",
         "", {"#k": [(1, 105, 21)]}),
    ],
)  # fmt: skip
def test_boxes_go_on_at_their_full_height(laid, html, css, rects):
    edition = laid(html, css)
    found = {selector: [(p.page, round(p.y), round(p.height)) for p in edition.locate(selector)] for selector in rects}
    assert found == rects


@pytest.mark.parametrize(
    ("css", "size", "place"),
    [
        ("size:100pt auto;margin:5pt;min-height:200pt", (100, 210), (5, 90)),
        ("size:100pt auto;margin:5pt;max-height:30pt", (100, 28.5), (5, 90)),
        ("margin:10pt;width:100pt;height:50pt", (300, 180), (10, 100)),
        ("margin:auto;width:100pt", (300, 180), (100, 100)),
        ("margin:10pt;max-width:200pt", (300, 180), (10, 200)),
        ("margin:10pt;min-width:290pt", (300, 180), (10, 290)),
        ("margin:10pt;width:400pt", (300, 180), (10, 290)),
    ],
)
def test_the_page_area_has_the_size_that_the_page_asks_for(laid, css, size, place):
    edition = laid("<p id=a>x", f"@page {{ {css} }}")
    assert (edition.pages[0].width, edition.pages[0].height) == pytest.approx(size, abs=0.8)
    at = edition.locate("#a")[0]
    assert (round(at.x), round(at.width)) == place


def test_a_page_is_turned_for_the_reader(laid):
    for word, turn in (("rotate-left", 270), ("rotate-right", 90), ("upright", 0)):
        page = pdfium.PdfDocument(laid("<p>x", f"@page {{ page-orientation: {word} }}").to_bytes())[0]
        assert page.get_rotation() == turn


def test_what_a_note_says_is_no_part_of_the_heading_that_calls_it(laid):
    head = "<h2>Locks<span style='float:footnote'>note</span> on the Alder</h2>"
    edition = laid(head, "h2 { string-set: a content() } @page { margin-top: 20pt; @top-left { content: string(a) } }")
    assert [bookmark.label for bookmark in edition.outline] == ["Locks on the Alder"]
    assert " ".join(on_paper(edition.to_bytes())[0]).endswith("Locks on the Alder")


# ---- nested documents ----

FORCED = ("page", "left", "right", "column", "always", "all")
NESTS = (
    "<div style='@'>%s</div>", "<div style='margin:-3px 0 9px;@'>%s</div>", "<div style='margin-top:-4px;@'>%s</div>",
    "<ul><li style='@'>%s</li><li>x</li></ul>", "<blockquote style='@'>%s</blockquote>",
    "<div style='display:flex;@'><div style='margin-top:-3px'>%s</div><div style='flex:1'>side</div></div>",
    "<div style='display:flex;flex-wrap:wrap;@'><div style='width:100%%'>%s</div><div style='width:100%%;margin-top:-5px;@'>%s</div></div>",
    "<div style='display:flex;flex-direction:column;@'><div>%s</div><div style='margin-top:-2px;@'>%s</div></div>",
    "<div style='display:grid;grid-template-columns:2fr 1fr;@'><div style='margin-top:-2px'>%s</div><div>y</div><div style='@'>%s</div></div>",
    "<div style='display:grid;grid-template-rows:150px auto'><div>%s</div><div style='@'>%s</div></div>",
    "<table style='@'><thead><tr><th>h<th>i</thead><tr><td>%s<td>z<tr style='@'><td>%s<td>z</table>",
    "<table><tr><td>%s<td>z<tr style='@'><td>%s</table>", "<table><tr><td rowspan=2>%s<td>z<tr style='@'><td>%s</table>",
    "<div class=columns style='@'>%s</div>", "<div style='padding:5px;border:1px solid;@'>%s</div>",
    "<div style='height:90px;@'>%s</div>", "<div style='min-height:250px;@'>%s</div>", "<div style='break-inside:avoid;@'>%s</div>",
    "<div style='float:left;width:60%%'>%s</div>", "<div style='float:right;width:45%%'>%s</div>",
    "<div><span style='display:inline-block;width:90%%'>%s</span></div>",
)  # fmt: skip
NESTED_STYLE = """<style>@page { size: 420px 200px; margin: 30px } * { margin: 0; padding: 0 } body { font: 12px/16px sans-serif }
table { border-spacing: 0 } td { vertical-align: top } .columns { columns: 2; column-gap: 4px } ul { padding-left: 20px }</style>"""


def nested(seed: int) -> tuple[str, list[list[str]]]:
    """A document of nested boxes with forced breaks and negative margins, and its paragraphs' words."""
    chance = random.Random(seed)
    paragraphs: list[list[str]] = []

    def break_before(odds: float) -> str:
        return f"break-{chance.choice(('before', 'after'))}:{chance.choice(FORCED)}" if chance.random() < odds else ""

    def nest(depth: int) -> str:
        pieces = re.split("(@|%s)", chance.choice(NESTS))
        made = {"@": lambda: break_before(0.25), "%s": lambda: build(depth - 1)}
        return "".join(made[piece]() if piece in made else piece.replace("%%", "%") for piece in pieces)

    def build(depth: int) -> str:
        parts = []
        for _ in range(chance.randint(1, 3)):
            if depth > 0 and chance.random() < 0.7:
                parts.append(nest(depth))
            else:
                start = sum(map(len, paragraphs))
                paragraphs.append([f"w{start + number:04d}" for number in range(chance.randint(1, 14))])
                parts.append(f"<p style='{break_before(0.1)}'>{' '.join(paragraphs[-1])}</p>")
        return "".join(parts)

    return build(3), paragraphs


@pytest.mark.parametrize("tens", range(50))
def test_every_word_of_nested_boxes_is_on_the_paper_once_and_in_order(press, tens):
    for seed in range(tens * 10, tens * 10 + 10):
        body, paragraphs = nested(seed)
        edition = press.compose(fq.Manuscript.from_html(NESTED_STYLE + body))
        found = [word for page in on_paper(edition.to_bytes(), r"w\d{4}") for word in page]
        assert sorted(found) == sorted(word for words in paragraphs for word in words), seed
        place = {word: number for number, word in enumerate(found)}
        assert all(place[first] < place[second] for words in paragraphs for first, second in pairwise(words)), seed


FOUND_BY_CHANCE = {
    "the next item is drawn over one with a break": "<div style='width:45%'><div style='display:flex;flex-wrap:wrap'><div>{0}{6-16 break-after:page}{20}</div><div style='margin-top:-5px'>{21-26}{28-38}</div></div></div>",
    "a grid goes on beside a float": "<div style='float:left;width:60%'>{0}<li>x</li>{12}z{16-22}{25-37}{38}</div>{41-46}<div style='display:grid'>{72}{76 break-before:right}{85-91}</div>",
    "a flex row goes on beside a float": "<div style='float:left;width:60%'>{23}{25-32}{35-42 break-after:always}{49}<li>x</li>{62-69}</div>{75-85}{87-97}<div style='display:flex'><div>{99-110}{112-118}</div><div>side</div></div>",
    "an item with a break beside a float": "<div style='float:left;width:60%'>{47}{57 break-before:left}z{67}{71-78}{80}{84}{85}<li>x</li></div><div style='margin:-3px 0 9px;break-before:right'><div style='display:flex'><div style='margin-top:-2px'></div><div style='break-after:page'>{119-125}</div><div>side</div></div></div>",
    "an item is drawn above its container": "<div style='display:flex'><div style='margin-top:-3px'>{0}{7}{11}{17}{24-35}<div style='margin:-3px 0 9px'>{38}{48-59}</div></div><div>side</div></div>",
    "the same in a column": "<div style='display:flex;flex-direction:column'><div><div style='height:90px'>{20 break-after:always}</div>{30}</div><div style='margin-top:-2px'>{31}{38-50}</div></div>",
    "a grid in a line in a cell has a break": "<table><tr><td><span style='display:inline-block'><div style='display:grid;grid-template-rows:150px auto'>{90}<div>{92}{93 break-before:page}</div></div></span></table>",
    "two breaks in a grid in a line in a cell": "<table><tr><td><span style='display:inline-block'><div style='display:grid'><div>y</div><div>{200 break-before:right}{210 break-before:left}</div></div><div style='display:grid;grid-template-rows:150px auto'></div></span></table>",
    "the same beside a float": "<div style='width:45%'><div style='float:right'>{10-11}</div><div style='display:flex;flex-direction:column'><div>{22-31}{33 break-before:right}</div><div style='margin-top:-2px'>{34-43}</div></div></div>",
    "a grid in a box of its own goes on beside a float": "{0}{10}<div style='float:left;width:60%'>{22-29}i{35-42}{43-50}{56}{63}</div>{67-72}<div style='padding:5px'>{75-83}<div style='display:grid'>{90}{99-105}</div></div>",
    "what follows an item that has grown": "<div style='display:grid;grid-template-columns:2fr 1fr'><div style='display:grid;grid-template-columns:2fr 1fr'><div style='margin-top:-2px'>{83}{85}{90-95 break-after:page}</div><div>y</div>{99}{102-106}{111}</div><div>y</div>{131}</div>",
    "a float below floats": "<div class='columns'><div><div style='float:right;width:45%'>{160-164}</div><div style='float:right'>{173-179}{197-209}</div></div><div style='float:right'>{239-241}</div>{310-313}{322-331}{334}{339-345}</div>",
    "a column below a float that goes on": "<div style='float:right;width:45%'>{52 break-after:page}{107-111}{125-127}</div><div style='margin:-3px 0 9px'><div style='display:flex;flex-direction:column'>{141}<div style='break-before:left'>{146-150}</div></div></div><div class='columns'>{272-280}</div>",
    "a column that asks for more than there is": "{29}{35}<li>x</li><div class='columns'><div style='display:flex;flex-direction:column'><div>side</div><div><div style='break-inside:avoid'>{46-52}{55}{61-73}</div>{95-101}</div></div>{161}</div>",
    "a cut row goes on beside a float": "<div style='float:left;width:60%'>{0}{1}{2}<div style='break-inside:avoid'>{10}{11}{12}{13}{14}{15}</div></div>{20}{21}{22}<table><tr><td><div style='display:flex'>{100-130}<div>{200-260}</div></div></table>",
}  # fmt: skip


def numbered(match: re.Match[str]) -> str:
    """'{3-5 style}': a paragraph of the words w0003 to w0005."""
    first, last, style = match.groups()
    words = " ".join(f"w{number:04d}" for number in range(int(first), int(last or first) + 1))
    return f"<p style='{style or ''}'>{words}</p>"


@pytest.mark.parametrize("html", FOUND_BY_CHANCE.values(), ids=FOUND_BY_CHANCE)
def test_every_word_stands_once_where_boxes_meet(press, html):
    body = re.sub(r"\{(\d+)(?:-(\d+))?( [^}]+)?\}", numbered, html)
    edition = press.compose(fq.Manuscript.from_html(NESTED_STYLE + body))
    found = [word for page in on_paper(edition.to_bytes(), r"w\d{4}") for word in page]
    assert sorted(found) == sorted(re.findall(r"w\d{4}", body))
    assert not edition.remarks


def test_a_box_that_cuts_off_its_content_ends_at_its_own_height(laid):
    edition = laid("{l1-8}<div style='overflow:hidden;height:60pt' id=s>{h1-14}</div><p id=k>k</p>")
    assert [(p.page, round(p.y), round(p.height)) for p in edition.locate("#s")] == [(1, 144, 36), (2, 0, 24)]
    assert [(p.page, round(p.y)) for p in edition.locate("#k")] == [(2, 24)]


def test_a_box_that_is_moved_off_the_paper_says_so(laid):
    assert "reaches 20.0 pt over" in laid("{l1-9}<p style='position:relative;top:20pt'>r</p>").remarks[0].message
    assert not laid("{l1-8}<p style='position:relative;top:10pt'>r</p>").remarks
