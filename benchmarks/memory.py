"""python -m benchmarks.memory: what a ledger's length costs in memory, each length in a process of its own."""

from __future__ import annotations

import resource
import subprocess
import sys
from collections.abc import Iterator

import fleetquill as fq
from benchmarks.works import LEDGER_STYLE

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


if __name__ == "__main__":
    if len(sys.argv) > 1:
        write(int(sys.argv[1]))
    else:
        for length in LENGTHS:
            subprocess.run([sys.executable, "-m", "benchmarks.memory", str(length)], check=True)
