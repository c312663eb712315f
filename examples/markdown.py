"""A Markdown file with front matter to a PDF.

Usage: python examples/markdown.py [FOLDER]
"""

from __future__ import annotations

import sys
from pathlib import Path

import fleetquill as fq


def main(folder: Path) -> fq.Edition:
    edition = fq.compose(Path(__file__).with_name("notes.md"))
    print(edition.save(folder / "notes.pdf"))
    return edition


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
