"""Pictures to a document: a page for each, fitted to a paper.

Usage: python examples/pictures.py [FOLDER]
"""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

import fleetquill as fq


def main(folder: Path) -> fq.Edition:
    for name, color in (("morning.jpg", "#7eacce"), ("evening.jpg", "#ecb078")):
        Image.new("RGB", (1500, 900), color).save(folder / name)
    pictures = [folder / "morning.jpg", folder / "evening.jpg"]
    edition = fq.compose(fq.Manuscript.from_pictures(pictures, page="A6 landscape", margin="5mm"))
    print(edition.save(folder / "pictures.pdf"))
    return edition


if __name__ == "__main__":
    main(Path(sys.argv[1] if len(sys.argv) > 1 else "."))
