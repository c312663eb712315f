"""Measures every demo PDF beside the least that it could be: its streams deflated as far as they can be, and no more.

Usage: python tools/measure_sizes.py [--most 1.1]

With --most a file that is so many times larger than its least is an error.
"""

from __future__ import annotations

import argparse
import tempfile
import zlib
from pathlib import Path
from typing import Any

from fleetquill.demo.documents import FINISHED, make_documents
from fleetquill.output.pdf.file import PdfFile


def least_sizes(folder: Path) -> dict[str, tuple[int, int]]:
    """For each demo PDF its length, and that of its streams alone: text deflated at level 9, fonts as the smallest
    subset that HarfBuzz makes, pictures as they are."""
    streams: list[int] = []
    add: Any = PdfFile.add_stream

    def counted(
        self: Any, content: bytes, entries: Any = None, ref: Any = None, *, deflated: bool = False, first: int = 0
    ) -> Any:
        is_plain = not deflated and "Filter" not in (entries or {})
        streams.append(len(zlib.compress(content, 9)) if is_plain else len(content))
        return add(self, content, entries, ref, deflated=deflated, first=first)

    sizes: dict[str, tuple[int, int]] = {}
    PdfFile.add_stream = counted  # type: ignore[method-assign]
    try:
        for path, summary in make_documents(folder):
            if path.suffix == ".pdf" and path.name not in FINISHED:  # those hold what other files wrote
                sizes[path.name] = summary.bytes_written, sum(streams)
            streams.clear()
    finally:
        PdfFile.add_stream = add  # type: ignore[method-assign]
    return sizes


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--most", type=float, default=0.0)
    most = parser.parse_args().most
    with tempfile.TemporaryDirectory() as folder:
        sizes = least_sizes(Path(folder))
    print(f"{'file':24}{'bytes':>9}{'least':>9}{'ratio':>7}")
    for name, (length, least) in sizes.items():
        print(f"{name:24}{length:9}{least:9}{length / least:7.2f}")
    return int(bool(most) and any(length > most * least for length, least in sizes.values()))


if __name__ == "__main__":
    raise SystemExit(main())
