"""Inputs made up from a seed: documents that are put together at random, and good files that were damaged.

Each maker gets a source of chance and a folder, and gives what the press is to be given: a source, and options.
"""

from __future__ import annotations

import base64
import io
import json
import random
from collections.abc import Callable
from pathlib import Path
from typing import Any

from fontTools.ttLib import TTFont
from PIL import Image

import fleetquill as fq
from fleetquill.demo import documents as demo
from fleetquill.text.fonts import default_faces

Made = tuple[Any, dict[str, Any]]  # a source, and what goes with it
TAGS = (
    "div p span b table tr td th tbody thead caption col ul ol li dl dt dd svg g rect path text use br wbr hr img h1 h6 a fieldset "
    "legend details summary select option input textarea button ruby rt math mi mfrac msup pre q blockquote sup figure figcaption "
    "label meter progress iframe object video style script template slot center font marquee fq-ledger fq-column fq-chart fq-code fq-spark fq-tally x-y"
).split()
SVG_TAGS = "g rect circle ellipse line polyline polygon path text tspan textPath use image defs symbol marker pattern mask clipPath linearGradient radialGradient stop filter feGaussianBlur feFlood feBlend switch svg style a".split()
PROPERTIES = (
    "display position float clear width height min-width max-width min-height max-height margin padding border border-radius border-spacing "
    "border-collapse columns column-gap column-rule column-span column-fill overflow writing-mode direction unicode-bidi opacity filter mask-image "
    "clip-path transform transform-origin break-before break-after break-inside orphans widows box-sizing line-height font-size font-family "
    "font-weight font-style letter-spacing word-spacing text-align text-align-last text-indent text-transform text-decoration text-shadow "
    "text-emphasis text-wrap white-space word-break overflow-wrap hyphens tab-size vertical-align background background-image background-size "
    "background-clip box-shadow outline color list-style content counter-reset counter-increment quotes flex flex-flow order align-items "
    "justify-content align-self gap grid-template-columns grid-template-rows grid-template-areas grid-area grid-auto-flow grid-column "
    "table-layout caption-side empty-cells visibility z-index inset top left aspect-ratio object-fit initial-letter line-clamp mix-blend-mode "
    "isolation border-image box-decoration-break page string-set bookmark-level footnote-display -fq-fit -fq-wrap -fq-overrun -fq-repeat-share "
    "fill stroke stroke-width stroke-dasharray stroke-linejoin marker-mid font rotate scale translate text-orientation image-rendering --a zoom"
).split()
VALUES = (
    "auto none normal inherit initial unset revert 0 1 -1 2 10px -10px 1e400px 1e-400px 50% -50% 1000px 1em 3rem 10vw 1fr infinity nan "
    "block inline inline-block flex inline-flex grid table table-row table-cell table-caption list-item contents ruby flow-root absolute relative "
    "fixed sticky left right top bottom both center start end baseline stretch space-between wrap nowrap pre pre-wrap balance hidden visible scroll "
    "clip ellipsis rtl ltr bidi-override plaintext vertical-rl vertical-lr page column avoid always recto footnote running(a) element(a) red "
    "rgb(1 2 3/.5) oklch(50% .2 30) color-mix(in_oklab,red,blue) currentcolor transparent #0f4c4a url(p.png) url(#i1) url(data:,) url() "
    "linear-gradient(red,blue) radial-gradient(red,blue_50%) conic-gradient(red,blue) blur(2px) circle() polygon(0_0,9px_0,0_9px) inset(1px) "
    "rotate(9deg) scale(0) scale(1e9) matrix(0,0,0,0,0,0) skew(90deg) calc(1px_+_50%) calc(1px/0) min(1px,2%) clamp(1px,2px,3%) var(--a) "
    "var(--b,1px) attr(id) counter(a) counters(a,'.') counter(page) counter(pages) target-counter(attr(href),page) leader('.') string(a) open-quote "
    "'text' \"\\a\" 'א' decimal upper-roman hebrew disc inside span_2 1/-1 repeat(3,1fr) repeat(auto-fill,20px) minmax(0,1fr) 'a_b'_'c_d' dashed_3px "
    "solid double_9px_red underline_wavy dot small-caps bold italic 900 serif monospace shrink run"
).split()
TEXTS = ("", "Heron ", "אב גד ", "word " * 30, "\u00ad\u200b", "a\u0301" * 20, "٣٤٥ ", "👩\u200d🔬", "x" * 300, "&#0;&#x202e;", "  \n\t ", "กรุงเทพ", "\ufffe")  # fmt: skip
ATTRIBUTES = ("colspan rowspan width height viewBox d points x y cx r dx rotate transform href src alt title type value rows cols size start span border cellpadding align valign lang dir hidden open checked multiple for data-fq offset stdDeviation in mask clip-path fill kind columns name form total").split()  # fmt: skip
NUMBERS = ("0", "1", "-1", "3", "1000", "65535", "1e9", "1e400", "-1e-400", "nan", "9" * 50, "50%", "2em", "0 0 9 9", "M0 0L9 9Z", "M0 0A1 1 0 0 1 9 9", "1,2 3", "#i1", "p.png", "²", "")  # fmt: skip


def _attributes(chance: random.Random) -> str:
    style = ";".join(
        f"{chance.choice(PROPERTIES)}:{' '.join(chance.choice(VALUES).replace('_', ' ') for _ in range(chance.choice((1, 1, 1, 2, 3))))}"
        for _ in range(chance.choice((0, 0, 1, 2, 4)))
    )
    more = " ".join(
        f'{chance.choice(ATTRIBUTES)}="{chance.choice(NUMBERS)}"' for _ in range(chance.choice((0, 0, 1, 2)))
    )
    return f""" id=i{chance.randint(0, 3)} class=c{chance.randint(0, 3)} style="{style.replace('"', "'")}" {more}"""


def _element(chance: random.Random, depth: int, tags: list[str]) -> str:
    tag = chance.choice(tags)
    if tag == "style":
        return f"<style>{_sheet(chance)}</style>"
    inner = (
        _element_list(chance, depth + 1, SVG_TAGS if tag == "svg" or tags is SVG_TAGS else TAGS) if depth < 5 else ""
    )
    closing = "" if chance.random() < 0.1 else f"</{tag}>"
    return f"<{tag}{_attributes(chance)}>{chance.choice(TEXTS)}{inner}{closing}"


def _element_list(chance: random.Random, depth: int, tags: list[str]) -> str:
    return "".join(_element(chance, depth, tags) for _ in range(chance.choice((0, 1, 1, 2, 3))))


def _sheet(chance: random.Random) -> str:
    selectors = ("p", ".c1", "#i1", "*", "td", "p > b", "a ~ b", ":nth-child(2n)", ":has(b)", ":not(p)", "::before", "p::first-line", "p::first-letter", "li::marker", "@page", "@page :first", "@media print", "@font-face", "@supports (color:red)", "@layer a", "@counter-style a", "::footnote-call")  # fmt: skip
    return "".join(
        f"{chance.choice(selectors)}{{{';'.join(f'{chance.choice(PROPERTIES)}:{chance.choice(VALUES)}' for _ in range(chance.randint(0, 3))).replace('_', ' ')}}}"
        for _ in range(chance.randint(0, 5))
    )


def document(chance: random.Random, folder: Path) -> Made:
    page = "<style>@page{size:300px 200px;margin:10px}</style>" if chance.random() < 0.7 else ""
    body = "".join(_element(chance, 0, TAGS) for _ in range(chance.randint(1, 3)))
    return fq.Manuscript.from_html(f"{page}<style>{_sheet(chance)}</style>{body}", base=folder), {}


def drawing(chance: random.Random, folder: Path) -> Made:
    body = "".join(_element(chance, 1, SVG_TAGS) for _ in range(3))
    (folder / "made.svg").write_text(
        f"<svg xmlns='http://www.w3.org/2000/svg'{_attributes(chance)}>{body}</svg>", errors="replace"
    )
    return fq.Manuscript.from_html("<img src=made.svg><p style='background:url(made.svg)'>x", base=folder), {}


def damaged(chance: random.Random, content: bytes) -> bytes:
    """A good file with bytes changed, left out, doubled, or its end missing."""
    made = bytearray(content)
    for _ in range(chance.choice((1, 1, 2, 4, 12))):
        at = chance.randrange(len(made) + 1)
        match chance.randrange(6):
            case 0:
                made[at : at + 1] = bytes([chance.randrange(256)])
            case 1:
                del made[at : at + chance.choice((1, 2, 16, 400))]
            case 2:
                made[at:at] = made[at : at + chance.choice((1, 4, 64))]
            case 3:
                made[at : at + 4] = chance.choice(
                    (b"\xff\xff\xff\xff", b"\0\0\0\0", b"\x7f\xff\xff\xff", b"\x80\0\0\0")
                )
            case 4:
                made[at : at + 2] = chance.choice((b"\xff\xff", b"\0\0", b"\0\x01"))
            case _:
                del made[chance.randrange(len(made) // 2, len(made) + 1) :]
        if not made:
            return b""
    return bytes(made)


def picture(chance: random.Random, folder: Path) -> Made:
    kind = chance.choice(("PNG", "JPEG", "GIF", "WEBP", "TIFF", "BMP", "PPM", "ICO", "JPEG2000"))
    image = Image.effect_noise((24, 18), 80).convert(chance.choice(("RGB", "L", "RGBA", "P", "1", "CMYK", "LA")))
    out = io.BytesIO()
    try:
        image.save(out, kind)
    except (OSError, ValueError):
        out = io.BytesIO()
        image.convert("RGB").save(out, kind)
    address = "data:image/x;base64," + base64.b64encode(damaged(chance, out.getvalue())).decode()
    return fq.Manuscript.from_html(f'<img src="{address}"><p style="background:url({address});opacity:.5">x'), {}


def font(chance: random.Random, folder: Path) -> Made:
    face = TTFont(chance.choice([face.path for face in default_faces()]))
    face.flavor = chance.choice((None, "woff"))  # brotli, too, takes seconds each
    out = io.BytesIO()
    face.save(out, reorderTables=None)
    (folder / "made.font").write_bytes(damaged(chance, out.getvalue()))
    css = "@font-face { font-family: Made; src: url(made.font) } p { font: 12px Made }"
    return fq.Manuscript.from_html(f"<style>{css}</style><p>office Ábc 123 <b>bold</b> אב", base=folder), {}


def data(chance: random.Random, folder: Path) -> Made:
    whole = (Path(demo.__file__).parent / "invoice-short.json").read_text(encoding="utf-8")
    kind = chance.choice(("json", "yaml", "csv", "toml", "jsonl"))
    texts = {"csv": "number,amount,name\n1,2.5,Heron\n2,3,\"Te,al\"\n", "toml": "number = 1\nrows = [{a = 1.5}, {a = 2024-05-01}]\n", "jsonl": '{"a": 1}\n{"a": [1, 2]}\n'}  # fmt: skip
    path = folder / f"made.{kind}"
    path.write_bytes(damaged(chance, texts.get(kind, whole).encode()))
    (folder / "made.html").write_text(
        "<p>{% for name, value in data.items() %}{{ name }} {{ value }}{% endfor %}{{ number }}"
    )
    return folder / "made.html", {"data": path}


def template(chance: random.Random, folder: Path) -> Made:
    parts = ("{{ a }}", "{{ rows | length }}", "{% for r in rows %}", "{% endfor %}", "{% if a %}", "{% endif %}", "{{ rows[0].n | money }}", "{{ 'x' * 9 }}", "{% set b = a ~ a %}", "{{ b }}", "{% macro m(x) %}", "{% endmacro %}", "{{ m(1) }}", "{{ a | join(',') }}", "{{ a.b.c }}", "{{ (((", "{% include 'made.html' %}", "{{ loop.index }}", "{{ a | date }}", "{{ -a }}", "{{ a ** a }}", "{{ range(a) | list }}", "{{ '%d' % a }}", "{#", "#}", "{% block x %}", "{% endblock %}", "{{ self.x() }}", "\n", "<p>")  # fmt: skip
    (folder / "made.html").write_text("".join(chance.choice(parts) for _ in range(chance.randint(1, 14))) + "\n")
    return folder / "made.html", {
        "data": {"a": chance.choice((1, "x", 1e300, -3, [1, 2], {})), "rows": [{"n": 1}, {"n": "x"}]}
    }


def markdown(chance: random.Random, folder: Path) -> Made:
    parts = ("# ", "> " * 9, "- ", "1. ", "```\n", "| a | b |\n|---|--:|\n| 1 | 2 |\n", "[^1]", "[^1]: note\n", "**", "_", "`", "[a](b)", "![a](p.png)", "---\n", "title: x\n", "<div>", "\n\n", "    ", "word ", "\\", "[" * 50, "*" * 40)  # fmt: skip
    (folder / "made.md").write_text("".join(chance.choice(parts) for _ in range(chance.randint(1, 40))))
    return folder / "made.md", {}


def parts(chance: random.Random, folder: Path) -> Made:
    """A manuscript of the manuscript's own words, with values of every kind."""
    values = (
        None,
        True,
        1,
        -2.5,
        float("nan"),
        float("inf"),
        10**400,
        "text",
        "",
        "\ud800",
        b"x",
        [1],
        {"a": 1},
        "<b>",
        "2026-13-45",
    )

    def pick() -> Any:
        return chance.choice(values)

    m = fq.Manuscript(title=str(pick()))
    words: dict[str, Callable[[Any], object]] = {
        "heading": lambda value: m.heading(value),
        "paragraph": lambda value: m.paragraph(value),
        "table": lambda value: m.table([{"a": value, "b": pick()}], ["a", "b"]),
        "ledger": lambda value: m.ledger([[value, pick()]], ["a", "b"]),
        "chart": lambda value: m.chart("bar", [{"x": pick(), "y": value}], x="x", y=["y"]),
        "code": lambda value: m.code("qr", value),
        "picture": lambda value: m.picture(value),
        "html": lambda value: m.html(value),
    }
    for _ in range(chance.randint(1, 4)):
        chance.choice(list(words.values()))(pick())
    return m, {}


MAKERS: dict[str, Callable[[random.Random, Path], Made]] = {
    "document": document, "drawing": drawing, "picture": picture, "font": font, "data": data, "template": template,
    "markdown": markdown, "parts": parts,
}  # fmt: skip


def run(press: fq.Press, kind: str, seed: int, folder: Path) -> str:
    """Makes an input and the pages of it: '' where that went well, else our own error's words. Whatever else is raised
    is what is looked for."""
    try:
        source, more = MAKERS[kind](random.Random(f"{kind} {seed}"), folder)
        edition = press.compose(source, **more)
        edition.to_bytes()
        return ""
    except fq.FaultError:
        raise
    except fq.FleetQuillError as error:
        return json.dumps(str(error))
