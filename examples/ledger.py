"""A voyage log from a generator: rows are laid out as they come and never held whole.

Usage: python examples/ledger.py [FOLDER]
"""

from __future__ import annotations

import sys
from collections.abc import Iterator
from decimal import Decimal
from pathlib import Path

import fleetquill as fq

STYLE = """
<html lang="en">
<title>Tolls at Stonecross</title>
<style>
  @page { size: A5; margin: 14mm; @bottom-right { content: "Page " counter(page) " of " counter(pages) } }
  html { font: 9pt/1.35 "Source Sans Pro" }
  h1 { font: 600 16pt "Source Serif Pro"; color: #0f4c4a; margin: 0 0 4mm }
  table { width: 100%; border-collapse: collapse }
  th { background: #0f4c4a; color: #fff }
  th, td { padding: 0.8mm 2mm }
  tbody tr:nth-child(even) td { background: #eef3f1 }
  .carried td, .brought td, .total td { background: none; font-weight: 600; color: #0f4c4a }
</style>
<h1>Tolls at Stonecross</h1>
"""


def crossings(count: int) -> Iterator[dict[str, object]]:
    """As a database cursor would give them."""
    for number in range(count):
        yield {
            "waybill": f"W-{31_000 + number}",
            "barge": ["Heron", "Teal", "Dunlin", "Grebe"][number % 4],
            "toll": Decimal(1250 + number * 7 % 900) / 100,
        }


def main(folder: Path) -> fq.Summary:
    manuscript = fq.Manuscript.from_html(STYLE)
    manuscript.ledger(
        crossings(400),
        [
            fq.Column("waybill", head="Waybill"),
            fq.Column("barge", head="Barge"),
            fq.Column("toll", head="Toll", form="money:EUR", align="right", total="sum", carry=True),
        ],
    )
    summary = fq.write(manuscript, folder / "tolls.pdf", locale="en-IE")
    print(f"{summary.page_count} pages, {summary.bytes_written} bytes")
    return summary


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
