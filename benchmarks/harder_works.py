"""Works as users have them: text with emphasis, links and notes and words that are met first, columns that grow, codes.
Tags as they are by default; the floors have none."""

from __future__ import annotations

import io
import random
from collections.abc import Iterator

import fleetquill as fq
from benchmarks.floors import Floor, blocks_of
from benchmarks.works import LEDGER_STYLE, Work, prose_words, short_invoice, table_rows

NEW_WORDS = 4_000
LETTERS = "aeioubcdfghklmnprstvw"
LONG = "waits at the lock for the crew of the other barge and carries slate to the quay below the mill"


def harder_works(press: fq.Press, floor: Floor) -> list[Work]:
    return [
        short_invoice(press, floor, tagged=True),
        _real_prose(press, floor),
        _grown_ledger(press, floor),
        _labels(press, floor),
    ]


def new_words(count: int, seed: int) -> Iterator[str]:
    """Made-up words of four to ten letters, hardly one twice."""
    chance = random.Random(seed)
    for _ in range(count):
        yield "".join(chance.choices(LETTERS, k=chance.randrange(4, 11)))


def real_prose(pages: int, seed: int) -> str:
    """Pages with words of their own, emphasis in five of a hundred words, links, and a footnote each."""
    chance = random.Random(seed)
    own = list(new_words(NEW_WORDS, seed))
    parts = [
        "<html lang=en><title>Prose</title><style>p { text-align: justify; margin: 0 0 8px } html { font-size: 14px }"
        " .note { float: footnote }</style>"
    ]
    for number in range(pages):
        parts.append(f"<h2>Reach {number + 1}</h2>")
        for paragraph in range(6):
            words = prose_words(chance, 85)
            for place in range(85):
                lot = chance.random()
                if lot < 0.04 and own:
                    words[place] = own.pop()
                elif lot < 0.09:
                    words[place] = f"<em>{words[place]}</em>"
                elif lot < 0.1:
                    words[place] = f'<a href="https://reedwater.example/{place}">{words[place]}</a>'
            note = "<span class=note>Weighed where it was loaded.</span>" if paragraph == 2 else ""
            parts.append(f"<p>{' '.join(words)}{note}.</p>")
    return "".join(parts)


def _real_prose(press: fq.Press, floor: Floor) -> Work:
    """Each run has words of its own, so that they are met for the first time in it."""
    sources = (real_prose(200, seed) for seed in range(1, 1_000))
    given = [next(sources) for _ in range(8)]
    ours_next, floor_next = iter(given), iter(given)

    def ours() -> bytes:
        return press.compose(fq.Manuscript.from_html(next(ours_next))).to_bytes()

    def least() -> list[bytes]:
        return floor.pages(blocks_of(next(floor_next)), 10.5, 482, 53)

    return Work("200 pages of prose as it is, tagged", ours, least, reach=3.5, runs=5)


def grown_rows(count: int) -> Iterator[list[str]]:
    """Rows whose numbers grow beyond those that a table is measured by; in each tenth a text wraps."""
    for number, row in enumerate(table_rows(count)):
        grown = str(1_000 + number * number // 40)
        yield [grown, *row[1:5], LONG if number % 10 == 0 else row[5], *row[6:]]


def _grown_ledger(press: fq.Press, floor: Floor) -> Work:
    rows = list(grown_rows(50_000))
    names = ("No", "Date", "Barge", "From", "To", "Cargo", "Tonnes", "Fee")

    def ours() -> object:
        manuscript = fq.Manuscript.from_html(LEDGER_STYLE)
        manuscript.ledger(iter(rows), [fq.Column(name) for name in names])
        return press.write(manuscript, io.BytesIO(), tagged=False)

    return Work(
        "ledger of 50,000 × 8 that grows and wraps", ours, lambda: floor.rows(rows, 8.25, 40), reach=1.5, runs=3
    )


def _labels(press: fq.Press, floor: Floor) -> Work:
    """A thousand labels, each with a code of its own; the floor makes the codes with a quick encoder."""
    import zxingcpp

    style = (
        "<style>main { display: grid; grid-template-columns: 1fr 1fr; gap: 4mm } article { height: 40mm;"
        " break-inside: avoid; border: 1px solid } fq-code { width: 24mm }</style>"
    )
    labels = [(f"Crate {number:04}", f"https://reedwater.example/crate/{number}") for number in range(1000)]
    body = "".join(
        f'<article><p>{name}</p><fq-code kind="qr" value="{code}"></fq-code></article>' for name, code in labels
    )
    source = f"<html lang=en><title>Labels</title>{style}<main>{body}</main>"

    def ours() -> bytes:
        return press.compose(fq.Manuscript.from_html(source)).to_bytes()

    def least() -> object:
        codes = [zxingcpp.create_barcode(code, zxingcpp.BarcodeFormat.QRCode) for _, code in labels]
        return codes, floor.pages(blocks_of(source), 10.5, 482, 53)

    return Work("1,000 labels with a code each", ours, least, reach=3.0, runs=3)
