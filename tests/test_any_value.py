"""No value of any property raises anything but an error of ours: every property with every other's values."""

from __future__ import annotations

import random
from contextlib import suppress

import pytest

import fleetquill as fq
from fleetquill.style.properties import PROPERTIES
from fleetquill.style.shorthands import SHORTHANDS

NAMES = sorted({*PROPERTIES, *SHORTHANDS})
VALUES = (
    """
auto|none|normal|inherit|initial|unset|revert|revert-layer|0|1|-1|0.5|1e400|-1e400|1e-400|99999999999999999999|10px|-10px
1e400px|-1e10px|0.0001px|50%|-50%|1e9%|1em|3ch|1lh|10vw|1in|90deg|1e99deg|1s|2x|red|#12345678|rgb(1e400,0,0)|lab(50% 1e400 0)
oklch(0.5 0.1 none)|currentcolor|transparent|url(x.png)|"a"|""|attr(data-x)|counter(a)|counters(a,".")|var(--x)|var(--y,10px)
calc(1px + 2%)|calc(100% - 1e400px)|calc(1/0)|calc(1px*infinity)|min(1px,50%)|clamp(0px,50%,1e9px)|round(up,10.5px,3px)|mod(10px,0px)
pow(9,999)|block|inline|inline-block|flex|grid|table|table-cell|table-row|table-column|table-caption|list-item|contents|inline-flex
inline-grid|inline-table|absolute|fixed|relative|left|right|both|hidden|visible|clip|collapse|center|end|stretch|last baseline
wrap-reverse|column|row-reverse|dense|span 2|1/3|1 / -1|[a] 1fr|repeat(3,1fr)|repeat(auto-fill,10px)|repeat(99999,1px)|minmax(1px,1fr)
fit-content(10px)|min-content|fit-content|subgrid|page|avoid|column|vertical-rl|rtl|plaintext|bidi-override|pre|break-all|anywhere
balance|pretty|uppercase|underline|wavy|double|groove|bold|italic|monospace|"No Such Font"|larger|super|middle|lower-roman
running(x)|footnote|content(text)|open-quote|leader('.')|target-counter(url(#a),page)|string(x)|element(x)|matrix(1e400,0,0,1,0,0)
rotate(45deg)|scale(0)|scale(1e9)|translate(50%,1e9px)|skewX(90deg)|linear-gradient(red,blue)|linear-gradient(1e400deg,red -1e9px,blue 1e9%)
conic-gradient(red,blue)|cover|repeat|4/3|1/0|1px 2px|1px 2px 3px 4px|10px/20px|1px solid red|inset 1px 1px red|multiply|3 2
""".replace("\n", "|")
    .strip("|")
    .split("|")
)
TAGS = (
    "div p span b table tr td th thead caption col ul ol li h1 img br hr input textarea select button fieldset legend "
    "svg pre a details summary ruby rt dl dt dd math mfrac iframe canvas progress label section"
).split()
ATTRIBUTES = (
    "width",
    "height",
    "border",
    "colspan",
    "rowspan",
    "size",
    "cols",
    "rows",
    "align",
    "cellpadding",
    "start",
)
EMPTY = ("img", "br", "hr", "input", "col")


def element(dice: random.Random, depth: int = 0) -> str:
    """A made-up element with made-up styles and others in it."""
    tag = dice.choice(TAGS)
    said = [f"{dice.choice(NAMES)}:{dice.choice(VALUES)}" for _ in range(dice.randint(0, 4))]
    style = ";".join(said).replace('"', "'")
    more = f' {dice.choice(ATTRIBUTES)}="{dice.choice(["0", "-1", "1e9", "9999999999", "50%", "x"])}"' * (
        dice.random() < 0.1
    )
    start = f'<{tag} style="{style}"{more}>'
    if tag in EMPTY:
        return start
    inner = [
        element(dice, depth + 1)
        if dice.random() < 0.6 and depth < 4
        else dice.choice(["text ", "אב ", "some more words "])
        for _ in range(dice.randint(0, 3))
    ]
    return f"{start}{''.join(inner)}</{tag}>"


@pytest.mark.parametrize("seed", range(160))
def test_any_value_of_any_property_gives_pages_or_an_error_of_ours(press, seed):
    dice = random.Random(seed)
    rule = ";".join(f"{dice.choice(NAMES)}:{dice.choice(VALUES)}" for _ in range(3))
    page = dice.choice(["200pt 200pt", "a5", "100mm auto"])
    html = f"<style>@page{{size:{page};margin:10pt}} {dice.choice(['div', '*', 'td', 'p::before'])}{{{rule}}}</style>"
    html += "".join(element(dice) for _ in range(dice.randint(1, 3)))
    with suppress(fq.FleetQuillError):
        press.compose(fq.Manuscript.from_html(html)).to_bytes()


@pytest.mark.parametrize("name", NAMES)
def test_a_property_takes_what_belongs_to_others_without_a_word_of_python(press, name):
    rules = "".join(f'<p style="{name}:{value.replace(chr(34), chr(39))}">x</p>' for value in VALUES[::3])
    with suppress(fq.FleetQuillError):
        assert press.compose(fq.Manuscript.from_html(f"<style>@page{{size:200pt 5000pt}}</style>{rules}")).page_count
