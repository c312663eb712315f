"""python -m benchmarks.memory: what length costs in memory, of a ledger and of a press's life, each in a process of its
own. A press's figures are megabytes after each tenth of its documents."""

from __future__ import annotations

import base64
import random
import resource
import subprocess
import sys
from collections.abc import Callable, Iterator

import psutil

import fleetquill as fq
from benchmarks.works import DEMO, LEDGER_STYLE, NOUNS, OTHERS, invoice_of
from fleetquill.text.fonts import default_faces

NAMES = ("No", "Date", "Barge", "From", "To", "Cargo", "Tonnes", "Fee")
LENGTHS = (20_000, 500_000)


def rows(count: int) -> Iterator[list[str]]:
    """Rows that are made as they are asked for; numbers and fees hardly ever repeat."""
    for number in range(count):
        day = f"2026-{number % 12 + 1:02d}-{number % 28 + 1:02d}"
        fee = f"{number * 37 % 90_000 / 100:.2f}"
        yield [
            f"W-{number}",
            day,
            f"Barge {number % 14}",
            "Saltgate",
            "Stonecross",
            "slate",
            f"{number % 1500 / 10}",
            fee,
        ]


def write(count: int) -> None:
    manuscript = fq.Manuscript.from_html(LEDGER_STYLE)
    manuscript.ledger(rows(count), [fq.Column(name) for name in NAMES])
    with open("/dev/null", "wb") as stream:
        summary = fq.write(manuscript, stream, tagged="untagged" not in sys.argv)
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"{count} rows, {summary.page_count} pages, {summary.seconds:.1f} s, peak {peak:.0f} MB")


def invoice(press: fq.Press, number: int) -> None:
    """One from the demo's template, with a number and a customer of its own."""
    data = invoice_of(number)
    data["number"] = f"F-{number:05}"
    data["customer"]["name"] = "".join(random.Random(number).choices("abcdefghijklmnop", k=9)).title() + " & Sons"
    press.compose(DEMO / "invoice.html", data=data).to_bytes()


def web_page(press: fq.Press, number: int) -> None:
    """One with a sheet, classes, style attributes and words of its own."""
    chance = random.Random(number)
    names = [f"c{chance.randrange(10**6)}" for _ in range(60)]
    sheet = "".join(
        f".{name} {{ color: #{chance.randrange(16**6):06x}; margin: {chance.randrange(20)}px 0; padding: 1px }}\n"
        for name in names
    )
    words = NOUNS + OTHERS + ["".join(chance.choices("abcdefghijklmnop", k=7)) for _ in range(80)]
    parts = (
        f'<p class="{name}" style="text-indent: {chance.random():.4f}em">{" ".join(chance.choices(words, k=60))}</p>'
        for name in names
    )
    press.compose(fq.Manuscript.from_html(f"<style>{sheet}</style>{''.join(parts)}")).to_bytes()


def own_font(press: fq.Press, number: int) -> None:
    """One with a font that no other has: the sans-serif, and a few bytes at its end."""
    face = next(face for face in default_faces() if not face.italic)
    content = face.path.read_bytes() + number.to_bytes(4, "big")
    address = f"data:font/otf;base64,{base64.b64encode(content).decode()}"
    style = f"<style>@font-face {{ font-family: own; src: url('{address}') }} p {{ font-family: own }}</style>"
    press.compose(fq.Manuscript.from_html(f"{style}<p>Toll of the barge {number}, {NOUNS[number % 20]}")).to_bytes()


LIVES: dict[str, tuple[Callable[[fq.Press, int], None], int]] = {
    "invoices": (invoice, 10_000),
    "web pages": (web_page, 2_000),
    "fonts": (own_font, 1_000),
}


def live(name: str) -> None:
    make, count = LIVES[name]
    press = fq.Press(locale="en-IE")
    figures = []
    for number in range(count):
        make(press, number)
        if (number + 1) % (count // 10) == 0:
            figures.append(round(psutil.Process().memory_info().rss / 2**20))
    print(f"{count} {name}: {' '.join(map(str, figures))} MB")


if __name__ == "__main__":
    if len(sys.argv) > 1 and sys.argv[1] in LIVES:
        live(sys.argv[1])
    elif len(sys.argv) > 1:
        write(int(sys.argv[1]))
    else:
        for work in (*map(str, LENGTHS), *LIVES):
            subprocess.run([sys.executable, "-m", "benchmarks.memory", work], check=True)
