"""Every formatting model in every container, in bounded and endless room, laid out once or twice.

No exception, no word lost or doubled, and nothing off the paper without a remark. Words are there
where an independent reader finds them within the paper.
"""

from __future__ import annotations

import random
import re
from collections.abc import Callable

import pypdfium2 as pdfium
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import fleetquill as fq

STYLE = """@page { size: 300px 200px; margin: 10px } * { margin: 0; padding: 0 } body { font: 12px/16px sans-serif }
table { border-spacing: 0 } td { vertical-align: top } .columns { columns: 2; column-gap: 10px } ul { padding-left: 20px }
.ref::after { content: "page " target-counter("#end", page) }"""
WORD = re.compile(r"w\d{3}")


def each(tag: str) -> Callable[[list[str]], str]:
    return lambda words: "".join(f"<{tag}>{word}</{tag}>" for word in words)


def halves(words: list[str]) -> str:
    middle = len(words) // 2
    return "".join(f"<div>{'<br>'.join(half)}</div>" for half in (words[:middle], words[middle:]))


def ledger(words: list[str]) -> str:
    return "<fq-ledger src='rows.csv'><fq-column name='a' head='h'></fq-column></fq-ledger>"


CONTENTS: dict[str, Callable[[list[str]], str]] = {
    "text": lambda words: f"<p>{' '.join(words)}</p>",
    "blocks": each("p"),
    "list": lambda words: f"<ul>{each('li')(words)}</ul>",
    "table": lambda words: f"<table><thead><tr><th>h</thead>{''.join(f'<tr><td>{word}' for word in words)}</table>",
    "ledger": ledger,
    "flex row": lambda words: f"<div style='display:flex'>{halves(words)}</div>",
    "flex column": lambda words: f"<div style='display:flex;flex-direction:column'>{each('div')(words)}</div>",
    "grid": lambda words: f"<div style='display:grid;grid-template-columns:1fr 1fr'>{each('div')(words)}</div>",
    "columns": lambda words: f"<div class=columns>{each('p')(words)}</div>",
    "float": lambda words: f"<div style='float:left;width:80px'>{'<br>'.join(words)}</div>",
    "inline-block": lambda words: (
        f"<div><span style='display:inline-block;width:80px'>{'<br>'.join(words)}</span></div>"
    ),
}
CONTAINERS = {
    "flow": "<div>%s</div>",
    "float left": "<div style='float:left;width:200px'>%s</div>",
    "float right": "<div style='float:right;width:200px'>%s</div>",
    "inline-block": "<p><span style='display:inline-block;width:200px'>%s</span></p>",
    "flex row": "<div style='display:flex'><div style='width:200px'>%s</div><div>side</div></div>",
    "flex column": "<div style='display:flex;flex-direction:column'><div>%s</div><div>side</div></div>",
    "grid": "<div style='display:grid;grid-template-columns:200px 1fr'><div>%s</div><div>side</div></div>",
    "cell": "<table><tr><td>%s</td><td>side</td></tr></table>",
    "columns": "<div class=columns>%s</div>",
    "absolute": "<div style='position:absolute;top:0;left:0;width:200px'>%s</div>",
    "fixed": "<div style='position:fixed;top:0;left:0;width:200px'>%s</div>",
    "relative": "<div style='position:relative;left:3px'>%s</div>",
    "running": "<div style='position:running(nowhere)'>%s</div>",
    "footnote": "<p>call<span style='float:footnote'>%s</span></p>",
    "margin box": "<div style='position:running(head)'>%s</div>",
}
ON_EVERY_PAGE = ("fixed", "margin box")
WHOLE = ("absolute", "fixed", "running", "margin box")  # what these hold stands where it stands: it is not broken
SAYING = ("overflow", "running")  # kinds of remarks on what is not on the paper


def words_on_paper(content: bytes) -> list[str]:
    """The words that a reader finds within the paper, in its order."""
    found: list[str] = []
    for page in pdfium.PdfDocument(content):
        text = page.get_textpage()
        width, height = page.get_size()
        for match in WORD.finditer(text.get_text_range()):
            boxes = [text.get_charbox(index) for index in range(match.start(), match.end())]
            if all(x0 >= -1 and x1 <= width + 1 and y0 >= -1 and y1 <= height + 1 for x0, y0, x1, y1 in boxes):
                found.append(match[0])
    return found


def composed(press: fq.Press, body: str, style: str, base: object) -> tuple[list[str], list[str]]:
    """The words on the paper, and the kinds of the remarks."""
    manuscript = fq.Manuscript.from_html(f"<style>{STYLE}{style}</style>{body}", base=base)
    edition = press.compose(manuscript)
    return words_on_paper(edition.to_bytes()), [remark.kind for remark in edition.remarks]


@pytest.mark.parametrize("container", CONTAINERS)
@pytest.mark.parametrize("content", CONTENTS)
def test_nothing_is_lost_whatever_stands_wherever(press, tmp_path, content, container):
    for count in (5, 200 if content == "text" else 60):
        words = [f"w{number:03d}" for number in range(count)]
        (tmp_path / "rows.csv").write_text("a\n" + "\n".join(words), encoding="utf-8")
        style = "@page { margin-top: 40px; @top-left { content: element(head) } }" if container == "margin box" else ""
        inside = f"<p>before</p>{CONTAINERS[container] % CONTENTS[content](words)}<p id=end>after"
        results = []
        for body in (inside, f"{inside}<p class=ref>"):
            found, kinds = composed(press, body, style, tmp_path)
            once = found if container not in ON_EVERY_PAGE else list(dict.fromkeys(found))
            said = any(kind in SAYING for kind in kinds)
            assert len(once) == len(set(once)), "doubled"
            assert set(once) == set(words) or (said and container in WHOLE), set(words) - set(once)
            results.append(set(once))
        assert results[0] == results[1]


# ---- random nestings ----

BOXES = (
    *("<div>%s</div>", "<div style='margin:-3px 0 9px'>%s</div>", "<ul><li>%s</li><li>x</li></ul>"),
    *("<div style='display:flex'><div>%s</div><div style='flex:1'>side</div></div>", "<div class=columns>%s</div>"),
    *("<div style='display:flex;flex-direction:column'><div>%s</div><div>x</div></div>", "<blockquote>%s</blockquote>"),
    *("<div style='display:grid;grid-template-columns:2fr 1fr'><div>%s</div><div>y</div></div>",),
    *("<table><thead><tr><th>h<th>i</thead><tr><td>%s<td>z</table>", "<div style='position:relative;top:2px'>%s</div>"),
    *("<div style='float:left;width:60%%'>%s</div>", "<div style='float:right;width:45%%'>%s</div>"),
    *("<div><span style='display:inline-block;width:90%%'>%s</span></div>", "<div style='break-inside:avoid'>%s</div>"),
)
PAGE = "@page { size: 420px 200px } .columns { column-gap: 4px }"


def nested(seed: int) -> tuple[str, list[str]]:
    """A document of nested boxes, and its words in the order of the source."""
    chance = random.Random(seed)
    words: list[str] = []

    def build(depth: int) -> str:
        parts = []
        for _ in range(chance.randint(1, 3)):
            if depth and chance.random() < 0.7:
                parts.append(chance.choice(BOXES) % build(depth - 1))
            else:
                new = [f"w{len(words) + number:03d}" for number in range(chance.randint(1, 14))]
                words.extend(new)
                parts.append(f"<p>{' '.join(new)}</p>")
        return "".join(parts)

    return build(3), words


@settings(max_examples=150, deadline=None)
@given(st.integers(0, 1_000_000))
def test_no_word_is_lost_or_doubled_in_random_nestings(seed):
    body, words = nested(seed)
    if len(words) > 999:
        return
    found, _ = composed(PRESS, body, PAGE, ".")
    assert len(found) == len(set(found))
    assert set(found) == set(words)


PRESS = fq.Press()
