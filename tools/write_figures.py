"""Writes what was measured into docs/guide/performance.md.

Usage: python -m benchmarks --json figures.json && python -m tools.write_figures figures.json
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any, Final

PAGE: Final = Path(__file__).parent.parent / "docs/guide/performance.md"
BEGIN: Final = "<!-- figures -->\n"
END: Final = "<!-- end of figures -->\n"


def table(rows: list[dict[str, Any]]) -> str:
    """A row for each work: ours beside its floor, and what is wanted."""
    lines = ["| work | ours ÷ floor | wanted |", "| --- | --- | --- |"]
    for row in rows:
        if row["reach"] < 1:  # a difference in seconds, not a ratio
            shown, wanted = f"+{row['difference'] * 1000:.0f} ms", f"+{row['reach'] * 1000:.0f} ms"
        else:
            shown, wanted = f"{row['ratio']:.2f}", f"{row['reach']:g}"
        lines.append(f"| {row['work']} | {shown} | {wanted} |")
    return "\n".join(lines) + "\n"


def write(rows: list[dict[str, Any]], page: Path = PAGE) -> None:
    """Puts the table in the place of the one that is there. Raises ValueError where the page has no place for it."""
    text = page.read_text(encoding="utf-8")
    before, begin, rest = text.partition(BEGIN)
    _, end, after = rest.partition(END)
    if not begin or not end:
        raise ValueError(f"{page} has no '{BEGIN.strip()}' and '{END.strip()}' around a table.")
    page.write_text(f"{before}{BEGIN}\n{table(rows)}\n{END}{after}", encoding="utf-8")


if __name__ == "__main__":
    write(json.loads(Path(sys.argv[1]).read_text(encoding="utf-8")))
