"""The works: what is measured, each as a pair of functions that do the whole of it once."""

from __future__ import annotations

import compileall
import io
import json
import random
import re
import sqlite3
import subprocess
import sys
import tempfile
from collections.abc import Callable
from contextlib import closing
from functools import partial
from itertools import cycle
from pathlib import Path
from typing import Any, NamedTuple

import fleetquill as fq
from benchmarks.floors import Floor, blocks_of, fonts
from fleetquill.demo import documents
from fleetquill.tree.data import read_data

DEMO = Path(documents.__file__).parent
NOUNS = (
    "barge lock river tariff barley slate brick gravel oak reed crew skipper cargo quay winch towpath "
    "harbour ledger voyage member owner weir sluice current landing timber harvest market season"
).split()
OTHERS = (
    "the a of to and in on by with from at for over under through along after before every slow heavy "
    "early late steady empty laden careful northern carries leaves waits passes enters weighs returns "
    "reaches charges keeps follows between without whose which when until while"
).split()


INVOICES = 100  # that differ: more than a measurement runs


class Work(NamedTuple):
    """A work: what it is called, ours, its floor, and the ratio to reach (ours ÷ floor)."""

    name: str
    ours: Callable[[], object]
    floor: Callable[[], object]
    reach: float
    runs: int = 9


def prose(pages: int, seed: int = 7) -> str:
    """About that many A4 pages of made-up English in paragraphs with headings."""
    chance = random.Random(seed)
    parts = ["<style>p { text-align: justify; margin: 0 0 8px } html { font-size: 14px }</style>"]
    for number in range(pages):
        parts.append(f"<h2>Reach {number + 1}</h2>")
        for _ in range(6):
            words = prose_words(chance, 85)
            parts.append(f"<p>{' '.join(words)}.</p>")
    return "".join(parts)


def prose_words(chance: random.Random, count: int) -> list[str]:
    """Words of a sentence, with commas."""
    words = [chance.choice(NOUNS if chance.random() < 0.4 else OTHERS) for _ in range(count)]
    words[0] = words[0].capitalize()
    for place in range(9, count - 5, 11):
        words[place] += ","
    return words


def table_rows(count: int, seed: int = 11) -> list[list[str]]:
    """Rows of eight cells: numbers, names, dates and amounts."""
    chance = random.Random(seed)
    locks = ["Upper Willow", "Nether Mill", "Stonecross", "Fenny Bridge", "Saltgate"]
    return [
        [
            str(10_000 + number),
            f"2026-{chance.randrange(1, 13):02d}-{chance.randrange(1, 29):02d}",
            chance.choice(NOUNS).capitalize(),
            chance.choice(locks),
            chance.choice(locks),
            chance.choice(NOUNS),
            f"{chance.randrange(10, 160)}.{chance.randrange(10)}",
            f"{chance.randrange(20, 900)}.{chance.randrange(100):02d}",
        ]
        for number in range(count)
    ]


def table_html(rows: list[list[str]]) -> str:
    head = "".join(f"<th>{name}</th>" for name in ("No", "Date", "Barge", "From", "To", "Cargo", "Tonnes", "Fee"))
    body = "".join(f"<tr>{''.join(f'<td>{cell}</td>' for cell in row)}</tr>" for row in rows)
    style = "<style>table { width: 100%; border-collapse: collapse; font-size: 11px } td { padding: 2px 4px }</style>"
    return f"{style}<table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table>"


LEDGER_STYLE = """<style>
table { width: 100%; border-collapse: collapse; font-size: 11px } td, th { padding: 2px 4px }
@page { size: A4; margin: 15mm; @bottom-right { content: "Page " counter(page) " of " counter(pages) } }
</style>"""


def works() -> list[Work]:
    from benchmarks.harder_works import harder_works

    floor = Floor(fonts())
    press = fq.Press(locale="en-IE")
    return [
        short_invoice(press, floor),
        _prose(press, floor),
        _table(press, floor),
        _ledger(press, floor),
        _brief(press, floor),
        _report(press, floor),
        _photograph(press),
        _trends(press),
        _vectors(press),
        *_tags(press),
        *harder_works(press, floor),
        Work("import fleetquill (over a bare Python)", *_import(), reach=0.030, runs=15),
        Work("cold: press of the short invoice", *_cold(), reach=2.5, runs=7),
    ]


def short_invoice(press: fq.Press, floor: Floor, *, tagged: bool = False) -> Work:
    """Invoices from one template, each with figures and names of its own."""
    template = DEMO / "invoice.html"
    invoices = [invoice_of(number) for number in range(INVOICES)]
    from lxml import etree

    rendered = [
        etree.tostring(
            fq.Manuscript.from_template(template, data, locale="en-IE").root, method="html", encoding="unicode"
        )
        for data in invoices
    ]
    ours_next, floor_next = cycle(invoices), cycle(rendered)

    def ours() -> bytes:
        return press.compose(template, data=next(ours_next), tagged=tagged).to_bytes()

    def least() -> list[bytes]:
        return floor.pages(blocks_of(next(floor_next)), 9.5, 490, 60)

    name, reach = ("short invoice, tagged", 3.0) if tagged else ("short invoice, HTML + data, warm", 4.0)
    return Work(name, ours, least, reach, runs=21)


def invoice_of(number: int) -> dict[str, Any]:
    """The short invoice of the demo with figures and names of its own; its payment code is the same, for the
    floor has none."""
    chance = random.Random(number)
    data = read_data(DEMO / "invoice-short.json")
    data["customer"]["name"] = f"{chance.choice(NOUNS).title()} & {chance.choice(NOUNS).title()}"
    for line in data["lines"]:
        line["waybill"] = f"W-{chance.randrange(10_000, 99_999)}"
        line["barge"], line["cargo"] = chance.choice(NOUNS).title(), chance.choice(NOUNS)
        line["tonnes"] = chance.randrange(10, 1500) / 10
        line["amount"] = round(line["tonnes"] * float(line["rate"]), 2)
    return data


def _prose(press: fq.Press, floor: Floor) -> Work:
    source = prose(200)

    def ours() -> bytes:
        return press.compose(fq.Manuscript.from_html(source), tagged=False).to_bytes()

    def least() -> list[bytes]:
        return floor.pages(blocks_of(source), 10.5, 482, 53)

    return Work("200 pages of justified prose", ours, least, reach=4.0, runs=5)


def _table(press: fq.Press, floor: Floor) -> Work:
    rows = table_rows(5000)
    source = table_html(rows)

    def ours() -> bytes:
        return press.compose(fq.Manuscript.from_html(source), tagged=False).to_bytes()

    def least() -> list[bytes]:
        blocks_of(source)
        return floor.rows(rows, 8.25, 55)

    return Work("HTML table of 5,000 × 8", ours, least, reach=4.0, runs=3)


def _ledger(press: fq.Press, floor: Floor) -> Work:
    rows = table_rows(200_000)
    names = ("No", "Date", "Barge", "From", "To", "Cargo", "Tonnes", "Fee")

    def ours() -> object:
        manuscript = fq.Manuscript.from_html(LEDGER_STYLE)
        manuscript.ledger(iter(rows), [fq.Column(name) for name in names])
        return press.write(manuscript, io.BytesIO(), tagged=False)

    def least() -> list[bytes]:
        return floor.rows(rows, 8.25, 55)

    return Work("ledger of 200,000 × 8, written", ours, least, reach=1.5, runs=3)


def _brief(press: fq.Press, floor: Floor) -> Work:
    """A brief of the rows of a database, grouped by barge and lock with sums; its floor has the bare query in it."""
    rows = table_rows(200_000)
    columns = ("no", "day", "barge", "lock", "goal", "cargo", "tonnes", "fee")
    folder = Path(tempfile.mkdtemp(prefix="benchmark"))
    with closing(sqlite3.connect(folder / "voyages.sqlite")) as database, database:
        kinds = ("integer", "date", *["text"] * 4, "numeric", "numeric")
        named = ", ".join(map(" ".join, zip(columns, kinds, strict=True)))
        database.execute(f"create table voyages ({named})")
        plain = ([cell.replace(",", "").removeprefix("€") for cell in row] for row in rows)
        database.executemany("insert into voyages values (?, ?, ?, ?, ?, ?, ?, ?)", plain)
        database.execute("create index sorted on voyages (barge, lock, no)")
    query = f"select {', '.join(columns)} from voyages order by barge, lock, no"
    (folder / "voyages.brief.json").write_text(json.dumps({"brief": {
        "locale": "en-IE", "look": "plain", "page": "A4", "margin": "15mm", "connections": {"log": "voyages.sqlite"},
        "style": "table { font-size: 11px } .fq-table :is(td, th) { padding: 2px 4px; border: 0 }",
        "data": {"voyages": {"sql": query, "connection": "log"}},
        "parts": [{"ledger": {"rows": "voyages", "groups": ["barge", "lock"], "columns": [
            "no", "day", "goal", "cargo", {"name": "tonnes", "form": "#,##0.0", "total": "sum"},
            {"name": "fee", "form": "#,##0.00", "total": "sum"}]}}],
    }}))  # fmt: skip

    def ours() -> object:
        return press.write(folder / "voyages.brief.json", io.BytesIO(), tagged=False)

    def least() -> list[bytes]:
        with closing(sqlite3.connect(folder / "voyages.sqlite")) as database:
            for _ in database.execute(query):
                pass
        return floor.rows(rows, 8.25, 55)

    return Work("brief of 200,000 rows in two levels of groups", ours, least, reach=1.6, runs=3)


def _report(press: fq.Press, floor: Floor) -> Work:
    """The quarterly report without its charts, which Matplotlib draws."""
    data = read_data(DEMO / "report.json")
    text = (DEMO / "report.html").read_text(encoding="utf-8")
    text = re.sub(r"<fq-chart.*?</fq-chart>", "", text, flags=re.DOTALL)
    from lxml import etree

    source = fq.Manuscript.from_template(text, data, base=DEMO, locale="en-IE")
    rendered = etree.tostring(source.root, method="html", encoding="unicode")

    def ours() -> bytes:
        manuscript = fq.Manuscript.from_html(rendered, base=DEMO)
        return press.compose(manuscript, tagged=False).to_bytes()

    def least() -> list[bytes]:
        return floor.pages(blocks_of(rendered), 10.0, 470, 46)

    return Work("quarterly report, charts apart", ours, least, reach=6.0, runs=9)


def _tags(press: fq.Press) -> list[Work]:
    """What tags cost: each work with them beside the same without, which is what floors do and the other works here."""
    rows = table_rows(2000)
    html = {"40 pages of prose": prose(40), "an HTML table of 2,000 × 8": table_html(rows)}
    invoice, data = DEMO / "invoice.html", read_data(DEMO / "invoice-short.json")

    def ledger(*, tagged: bool) -> object:
        manuscript = fq.Manuscript.from_html(LEDGER_STYLE)
        manuscript.ledger(iter(rows * 20), [fq.Column(name) for name in "abcdefgh"])
        return press.write(manuscript, io.BytesIO(), tagged=tagged)

    def page(source: str, *, tagged: bool) -> object:
        return press.write(fq.Manuscript.from_html(source), io.BytesIO(), tagged=tagged)

    def document(template: Path, values: Any, *, tagged: bool) -> object:
        return press.write(template, io.BytesIO(), data=values, tagged=tagged)

    report = DEMO / "report.html", read_data(DEMO / "report.json")
    costs: dict[str, Callable[..., object]] = {name: partial(page, source) for name, source in html.items()}
    costs |= {"the short invoice": partial(document, invoice, data), "the report": partial(document, *report)}
    costs["a ledger of 40,000 × 8"] = ledger
    return [
        Work(f"tags of {name}", partial(work, tagged=True), partial(work, tagged=False), reach=1.15, runs=5)
        for name, work in costs.items()
    ]


def _photograph(press: fq.Press) -> Work:
    from PIL import Image

    folder = Path(tempfile.mkdtemp(prefix="benchmark"))
    noise = Image.effect_noise((1000, 750), 80).resize((4000, 3000))
    noise.convert("RGB").save(folder / "photo.jpg", quality=90)
    html = '<img src="photo.jpg" style="width: 170mm">'

    def ours() -> object:
        return press.write(fq.Manuscript.from_html(html, base=folder), folder / "photo.pdf")

    def least() -> object:
        return (folder / "copy.jpg").write_bytes((folder / "photo.jpg").read_bytes())

    return Work("JPEG of 12 megapixels", ours, least, reach=2.0, runs=15)


def _trends(press: fq.Press) -> Work:
    """A table of 1,000 trend lines beside the same table with their numbers."""
    chance = random.Random(5)
    series = [" ".join(str(chance.randrange(10, 99)) for _ in range(12)) for _ in range(1000)]
    style = "<style>table { width: 100%; border-collapse: collapse; font-size: 11px } td { padding: 2px 4px }</style>"

    def page(cell: Callable[[str], str]) -> str:
        rows = "".join(f"<tr><td>Barge {n}<td>{cell(values)}</tr>" for n, values in enumerate(series))
        return f"{style}<table>{rows}</table>"

    drawn, written = page(lambda values: f'<fq-spark values="{values}"></fq-spark>'), page(str)
    return Work(
        "table with 1,000 trend lines",
        lambda: press.compose(fq.Manuscript.from_html(drawn)).to_bytes(),
        lambda: press.compose(fq.Manuscript.from_html(written)).to_bytes(),
        reach=1.5, runs=7,
    )  # fmt: skip


def _vectors(press: fq.Press) -> Work:
    """An SVG of 20,000 path segments beside parsing it."""
    from lxml import etree

    chance = random.Random(6)
    paths = []
    for _ in range(200):
        steps = "".join(f"L{chance.uniform(0, 500):.2f} {chance.uniform(0, 500):.2f}" for _ in range(99))
        paths.append(f'<path d="M0 0{steps}" fill="none" stroke="#0f4c4a"/>')
    content = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 500 500">{"".join(paths)}</svg>'
    folder = Path(tempfile.mkdtemp(prefix="benchmark"))
    (folder / "a.svg").write_text(content)
    html = '<img src="a.svg" style="width: 170mm">'

    def ours() -> bytes:
        return press.compose(fq.Manuscript.from_html(html, base=folder)).to_bytes()

    return Work("SVG of 20,000 segments", ours, lambda: etree.fromstring(content), reach=10.0, runs=15)


def _run(code: str) -> Callable[[], object]:
    return lambda: subprocess.run([sys.executable, "-c", code], check=True)


def _import() -> tuple[Callable[[], object], Callable[[], object]]:
    return _run("import fleetquill"), _run("pass")


def _cold() -> tuple[Callable[[], object], Callable[[], object]]:
    """A whole process; the modules are compiled first, as an installation does."""
    compileall.compile_dir(DEMO.parent, quiet=1)
    arguments = ["press", str(DEMO / "invoice.html"), "--data", str(DEMO / "invoice-short.json"), "-o", "-"]

    def ours() -> object:
        command = [sys.executable, "-m", "fleetquill", *arguments]
        return subprocess.run(command, check=True, stdout=subprocess.DEVNULL)

    return ours, _run("import uharfbuzz, lxml.etree, jinja2, tinycss2")
