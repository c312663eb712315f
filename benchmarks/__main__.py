"""python -m benchmarks: runs all works beside their floors and prints one table."""

from __future__ import annotations

import argparse
import gc
import json
import resource
import statistics
from collections.abc import Callable
from pathlib import Path
from time import perf_counter
from typing import Any

from benchmarks.works import Work, works


def measure(work: Work) -> dict[str, Any]:
    """Medians of interleaved runs, in seconds; the first of each is not counted."""
    ours: list[float] = []
    floor: list[float] = []
    ratios: list[float] = []
    work.ours()
    work.floor()
    for _ in range(work.runs):
        ours.append(_timed(work.ours))
        floor.append(_timed(work.floor))
        ratios.append(ours[-1] / floor[-1])
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return {
        "work": work.name,
        "ours": statistics.median(ours),
        "floor": statistics.median(floor),
        "ratio": statistics.median(ratios),
        "difference": statistics.median(a - b for a, b in zip(ours, floor, strict=True)),
        "reach": work.reach,
        "peak_mb": round(peak),
    }


def _timed(run: Callable[[], object]) -> float:
    """Seconds for one run, with no garbage of the one before left over."""
    gc.collect()
    start = perf_counter()
    run()
    return perf_counter() - start


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m benchmarks", description=__doc__)
    parser.add_argument("--json", type=Path, metavar="FILE", help="write the figures to FILE")
    parser.add_argument("--only", default="", metavar="WORDS", help="only works whose name holds WORDS")
    arguments = parser.parse_args()
    rows = []
    print(f"{'work':42} {'ours ms':>9} {'floor ms':>9} {'ratio':>7} {'reach':>7} {'peak MB':>8}")
    for work in works():
        if arguments.only not in work.name:
            continue
        row = measure(work)
        rows.append(row)
        if work.reach < 1:  # a difference in seconds, not a ratio
            shown, reach = f"+{row['difference'] * 1000:.0f} ms", f"+{work.reach * 1000:.0f} ms"
        else:
            shown, reach = f"{row['ratio']:.2f}", f"{work.reach:g}"
        print(
            f"{work.name:42} {row['ours'] * 1000:9.1f} {row['floor'] * 1000:9.1f} {shown:>7} {reach:>7} "
            f"{row['peak_mb']:8}"
        )
    if arguments.json:
        arguments.json.write_text(json.dumps(rows, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
