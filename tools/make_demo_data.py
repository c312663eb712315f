"""Writes the demo data into src/fleetquill/demo/. The same on every machine: all chance is seeded.

Usage: python tools/make_demo_data.py
"""

from __future__ import annotations

import json
import math
import random
import sqlite3
from contextlib import closing
from datetime import date, timedelta
from decimal import ROUND_HALF_UP, Decimal
from operator import itemgetter
from pathlib import Path
from typing import Any, Final

from PIL import Image, ImageDraw

TARGET = Path(__file__).parent.parent / "src/fleetquill/demo"
CENT = Decimal("0.01")

BARGES = ["Heron", "Kittiwake", "Sandpiper", "Bittern", "Curlew", "Dunlin", "Teal", "Wigeon", "Plover",
          "Lapwing", "Grebe", "Avocet", "Godwit", "Whimbrel"]  # fmt: skip
LOCKS = ["Upper Willow", "Nether Mill", "Stonecross", "Fenny Bridge", "Saltgate"]
CARGO = {  # euro for a tonne and a stretch between two locks, VAT rate
    "barley": ("1.84", "0.09"),
    "brick": ("1.52", "0.21"),
    "clay": ("1.18", "0.21"),
    "gravel": ("0.96", "0.21"),
    "paper reels": ("2.65", "0.21"),
    "reed bundles": ("3.10", "0.09"),
    "roof slate": ("2.24", "0.21"),
    "sawn oak": ("2.48", "0.21"),
}


def cents(value: Decimal) -> Decimal:
    return value.quantize(CENT, ROUND_HALF_UP)


def freight_line(chance: random.Random, day: date, number: int) -> dict[str, Any]:
    start, end = sorted(chance.sample(range(len(LOCKS)), 2))
    if chance.random() < 0.35:
        start, end = end, start
    cargo = chance.choice(list(CARGO))
    price, vat = CARGO[cargo]
    tonnes = Decimal(chance.randrange(180, 1420)) / 10
    rate = cents(Decimal(price) * abs(end - start))
    return {
        "waybill": f"W-{number}",
        "date": day.isoformat(),
        "barge": chance.choice(BARGES),
        "from": LOCKS[start],
        "to": LOCKS[end],
        "cargo": cargo,
        "tonnes": tonnes,
        "rate": rate,
        "vat": Decimal(vat),
        "amount": cents(tonnes * rate),
    }


def invoice(seed: int, number: str, day: date, count: int, customer: dict[str, Any]) -> dict[str, Any]:
    chance = random.Random(seed)
    begin = day.replace(day=1) - timedelta(days=30)
    days = sorted(begin + timedelta(days=chance.randrange(30)) for _ in range(count))
    lines = [freight_line(chance, d, 31_400 + i * 3) for i, d in enumerate(days)]
    net = sum((line["amount"] for line in lines), Decimal(0))
    vat = []
    for rate in sorted({line["vat"] for line in lines}):
        base = sum((line["amount"] for line in lines if line["vat"] == rate), Decimal(0))
        vat.append({"rate": rate, "net": base, "tax": cents(base * rate)})
    total = net + sum((row["tax"] for row in vat), Decimal(0))
    return {
        "number": number,
        "date": day.isoformat(),
        "due": (day + timedelta(days=30)).isoformat(),
        "period": {"from": begin.isoformat(), "to": (day.replace(day=1) - timedelta(days=1)).isoformat()},
        "customer": customer,
        "lines": lines,
        "net": net,
        "vat": vat,
        "total": total,
        "iban": iban("IE", "REED00000012345678"),
    }


def voyages(seed: int, count: int) -> list[list[str]]:
    """The voyage log: one barge after the other, each in order of time."""
    chance = random.Random(seed)
    rows = []
    for number, barge in enumerate(BARGES):
        share = count // len(BARGES) + (number < count % len(BARGES))
        days = sorted(chance.randrange(365) for _ in range(share))
        for day in days:
            line = freight_line(chance, date(2025, 6, 1) + timedelta(days=day), 0)
            fee = cents(Decimal(str(line["amount"])) * Decimal("0.04"))
            rows.append(
                [
                    barge,
                    str(line["date"]),
                    str(line["from"]),
                    str(line["to"]),
                    str(line["cargo"]),
                    str(line["tonnes"]),
                    str(fee),
                ]
            )
    return rows


QUARTER = [("April", 4), ("May", 5), ("June", 6)]


def quarter(seed: int) -> dict[str, Any]:
    """The figures of the quarterly fleet report: by month and cargo, by barge and stretch, by lock."""
    chance = random.Random(seed)
    lines = [
        freight_line(chance, date(2026, month, chance.randrange(1, 29)), number)
        for _, month in QUARTER
        for number in range(150 + 12 * month)
    ]
    cargo: list[dict[str, Any]] = []
    for name in CARGO:
        months = [sum((ln["tonnes"] for ln in lines if ln["cargo"] == name and ln["date"][6] == str(m)), Decimal(0))
                  for _, m in QUARTER]  # fmt: skip
        fees = sum((ln["amount"] for ln in lines if ln["cargo"] == name), Decimal(0))
        cargo.append({"cargo": name, "months": months, "tonnes": sum(months), "revenue": fees})
    cargo.sort(key=itemgetter("revenue"), reverse=True)
    barges = []
    for name in BARGES:
        mine = [ln for ln in lines if ln["barge"] == name]
        routes: dict[tuple[str, str], list[dict[str, Any]]] = {}
        for ln in mine:
            routes.setdefault((ln["from"], ln["to"]), []).append(ln)
        rows = [
            {
                "from": start,
                "to": end,
                "voyages": len(found),
                "tonnes": sum(ln["tonnes"] for ln in found),
                "revenue": sum(ln["amount"] for ln in found),
            }
            for (start, end), found in sorted(routes.items(), key=lambda pair: -len(pair[1]))[:4]
        ]
        barges.append({"barge": name, "days": chance.randrange(48, 86), "routes": rows})
    locks: list[dict[str, Any]] = [
        {
            "lock": name,
            "months": [chance.randrange(160, 420) for _ in QUARTER],
            "wait": Decimal(chance.randrange(40, 190)) / 10,
        }
        for name in LOCKS
    ]
    months = [name for name, _ in QUARTER]
    by_cargo = [{"cargo": row["cargo"], **dict(zip(months, row["months"], strict=True))} for row in cargo]
    by_lock = [{"month": name, **{row["lock"]: row["months"][i] for row in locks}} for i, name in enumerate(months)]
    return {
        "chart_cargo": json.dumps(by_cargo, default=float),
        "chart_locks": json.dumps(by_lock),
        "quarter": "April to June 2026",
        "months": [name for name, _ in QUARTER],
        "cargo": cargo,
        "barges": barges,
        "locks": locks,
        "tonnes": sum(row["tonnes"] for row in cargo),
        "revenue": sum(row["revenue"] for row in cargo),
        "voyages": len(lines),
    }


def photograph(seed: int, width: int, height: int, dusk: bool) -> Image.Image:
    """A picture that passes for a photograph: sky, far banks, water, and a barge on it."""
    chance = random.Random(seed)
    image = Image.new("RGB", (width, height))
    draw = ImageDraw.Draw(image)
    top, low = ((74, 88, 122), (236, 176, 120)) if dusk else ((126, 172, 206), (226, 236, 232))
    horizon = height * 0.52
    for y in range(height):
        if y < horizon:
            share = y / horizon
            color = tuple(round(a + (b - a) * share) for a, b in zip(top, low, strict=True))
        else:
            share = (y - horizon) / (height - horizon)
            far, near = (low, (40, 62, 66)) if dusk else ((176, 200, 196), (58, 96, 92))
            color = tuple(round(a + (b - a) * share**0.6) for a, b in zip(far, near, strict=True))
        draw.line((0, y, width, y), fill=color)
    for layer in range(3):
        shade = (58 + 34 * (2 - layer), 82 + 28 * (2 - layer), 76 + 26 * (2 - layer))
        points = [(0.0, horizon)]
        for step in range(41):
            rise = abs(math.sin(step * 0.7 + layer * 2.1) + 0.5 * math.sin(step * 1.9 + layer)) * height * 0.035
            points.append((width * step / 40, horizon - rise * (1.6 - 0.4 * layer) - 4))
        draw.polygon([*points, (width, horizon)], fill=shade)
    hull_y = height * 0.70
    draw.polygon(
        [(width * 0.30, hull_y), (width * 0.74, hull_y), (width * 0.70, hull_y + height * 0.075),
         (width * 0.35, hull_y + height * 0.075)], fill=(36, 44, 46),
    )  # fmt: skip
    draw.rectangle((width * 0.40, hull_y - height * 0.035, width * 0.62, hull_y), fill=(120, 84, 52))
    draw.rectangle((width * 0.645, hull_y - height * 0.085, width * 0.70, hull_y), fill=(214, 208, 190))
    for _ in range(900):
        x, y = chance.randrange(width), round(horizon + (height - horizon) * chance.random() ** 0.7)
        length = round(4 + 50 * (y - horizon) / (height - horizon))
        old: Any = image.getpixel((x, min(y, height - 1)))
        lift = chance.randrange(-14, 20)
        draw.line((x, y, x + length, y), fill=tuple(max(0, min(255, part + lift)) for part in old))
    return image


STREETS = ["Reed Bank", "Mill Lane", "Wharf Street", "Osier Row", "Lockside", "Slate Yard"]
FIRST = ["Maren", "Rowan", "Edda", "Silas", "Ilse", "Corin", "Thea", "Jory", "Nell", "Bram", "Wanda", "Piers"]
LAST = ["Oldwater", "Marsh", "Fenwick", "Reeve", "Alder", "Tallow", "Sedge", "Weir"]


def members(seed: int) -> list[list[str]]:
    """The thirty-two owners, with their shares and what the quarter brings them."""
    chance = random.Random(seed)
    names = [f"{first} {last}" for last in LAST for first in FIRST]
    rows = []
    for number, name in enumerate(chance.sample(names, 32), 1):
        shares = chance.choice([1, 1, 1, 2, 2, 3, 5])
        dividend = cents(Decimal("138.40") * shares)
        street = f"{chance.randrange(1, 48)} {chance.choice(STREETS)}"
        rows.append([f"M-{number:03d}", name, street, chance.choice(LOCKS), str(shares), str(dividend)])
    return rows


def iban(country: str, rest: str) -> str:
    """A made-up account whose check digits are right (ISO 13616)."""
    digits = "".join(str(int(character, 36)) for character in f"{rest}{country}00")
    check = 98 - int(digits) % 97
    whole = f"{country}{check:02d}{rest}"
    return " ".join(whole[place : place + 4] for place in range(0, len(whole), 4))


def write_csv(name: str, head: list[str], rows: list[list[str]]) -> None:
    lines = [",".join(row) for row in [head, *rows]]
    (TARGET / name).write_text("\n".join(lines) + "\n", encoding="utf-8")


def write_json(name: str, value: Any) -> None:
    """Decimals go out as plain numbers with all their digits."""
    marks: dict[str, str] = {}

    def default(item: Any) -> str:
        mark = f"decimal-{len(marks)}-mark"
        marks[f'"{mark}"'] = str(item)
        return mark

    text = json.dumps(value, indent=1, ensure_ascii=False, default=default)
    for mark, digits in marks.items():
        text = text.replace(mark, digits)
    (TARGET / name).write_text(text + "\n", encoding="utf-8")


def mark() -> str:
    """The cooperative's mark as SVG: a quill whose feather is a barge's wake."""
    tip, top = (27.0, 80.0), (74.0, 17.0)
    waves = []
    for step in range(7):
        share = 0.16 + step * 0.115
        x = tip[0] + (top[0] - tip[0]) * (share + 0.08)
        y = tip[1] + (top[1] - tip[1]) * (share + 0.08)
        reach = 5 + math.sin(min(1.0, share * 1.15) * math.pi) * 17
        for sign in (-1, 1):
            end = x + sign * reach * 0.93 + reach * 0.55, y + sign * reach * 0.55 - reach * 0.5
            bend = (x + end[0]) / 2, (y + end[1]) / 2 + 4
            color = "#b8923a" if step % 2 else "#eef3f1"
            curve = f"M{x:.1f} {y:.1f}Q{bend[0]:.1f} {bend[1]:.1f} {end[0]:.1f} {end[1]:.1f}"
            waves.append(f'<path d="{curve}" stroke="{color}"/>')
    return "\n".join(
        [
            '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100" width="100" height="100">',
            "<title>The mark of the Reedwater Barge Cooperative</title>",
            '<circle cx="50" cy="50" r="50" fill="#0f4c4a"/>',
            '<g fill="none" stroke-width="2.6" stroke-linecap="round">',
            *waves,
            "</g>",
            '<path d="M27 80L74 17" stroke="#fff" stroke-width="2.2" stroke-linecap="round"/>',
            '<path d="M27 80L34.5 74.5L31.5 70Z" fill="#fff"/>',
            "</svg>\n",
        ]
    )


KEEPERS: Final = ["Imme Sallow", "Bram Withy", "Odile Marsh", "Tove Alderson", "Piet Quay"]


def tolls(seed: int) -> list[tuple[str, str, str, str, Decimal, Decimal, int]]:
    """Passages through the locks from January to June: day, lock, barge, cargo, tonnes, toll, days late in paying."""
    chance = random.Random(seed)
    rows = []
    for month in range(1, 7):
        for lock in LOCKS:
            for _ in range(chance.randrange(10, 24)):
                tonnes = Decimal(chance.randrange(180, 1420)) / 10
                day = date(2026, month, chance.randrange(1, 29))
                toll = cents(Decimal("8.50") + tonnes * Decimal("0.35"))
                late = max(0, chance.randrange(-60, 45))
                row = (day.isoformat(), lock, chance.choice(BARGES), chance.choice(list(CARGO)), tonnes, toll, late)
                rows.append(row)
    return sorted(rows, key=itemgetter(0, 1, 2))


def write_database(path: Path) -> None:
    """The tolls and the locks' keepers, in SQLite."""
    path.unlink(missing_ok=True)
    with closing(sqlite3.connect(path)) as database, database:
        database.execute("create table locks (name text primary key, place integer, keeper text)")
        database.execute(
            "create table tolls (id integer primary key, day date, lock text, barge text, cargo text, "
            "tonnes numeric, toll numeric, late integer)"
        )
        locks = [(name, place, keeper) for place, (name, keeper) in enumerate(zip(LOCKS, KEEPERS, strict=True), 1)]
        database.executemany("insert into locks values (?, ?, ?)", locks)
        rows = [(day, lock, barge, cargo, float(tonnes), float(toll), late)
                for day, lock, barge, cargo, tonnes, toll, late in tolls(2046)]  # fmt: skip
        columns = "day, lock, barge, cargo, tonnes, toll, late"
        database.executemany(f"insert into tolls ({columns}) values (?, ?, ?, ?, ?, ?, ?)", rows)


def main() -> None:
    TARGET.mkdir(exist_ok=True)
    osier = {
        "name": "Osier Paper Works",
        "lines": ["Wharf 7, Nether Mill", "NM4 2OP River Alder"],
        "account": "C-118",
        "vat_number": "XR 4402 118",
    }
    marrow = {
        "name": "Marrow & Finch Grain",
        "lines": ["The Granary, Upper Willow", "UW1 1MF River Alder"],
        "account": "C-104",
        "vat_number": "XR 4402 104",
    }
    write_json("invoice-short.json", invoice(2041, "F-2041", date(2026, 6, 2), 12, osier))
    write_json("invoice-long.json", invoice(2042, "F-2042", date(2026, 6, 2), 90, marrow))
    head = ["barge", "date", "from", "to", "cargo", "tonnes", "toll"]
    write_csv("voyages.csv", head, voyages(2043, 5000))
    write_csv("members.csv", ["number", "name", "street", "town", "shares", "dividend"], members(2045))
    write_json("report.json", quarter(2044))
    photograph(7, 1500, 900, False).save(TARGET / "river.jpg", quality=78)
    photograph(8, 1200, 720, True).save(TARGET / "evening.jpg", quality=78)
    (TARGET / "mark.svg").write_text(mark(), encoding="utf-8")
    write_database(TARGET / "tolls.sqlite")


if __name__ == "__main__":
    main()
