"""Makes docs/screenshots/ anew from the demo documents and examples.

Usage: python tools/make_screenshots.py
"""

from __future__ import annotations

import runpy
import sys
import tempfile
from pathlib import Path
from typing import Any

import pypdfium2 as pdfium

from fleetquill.demo.documents import make_documents

EXAMPLES = Path(__file__).parent.parent / "examples"
TARGET = Path(__file__).parent.parent / "docs/screenshots"
PAGES: dict[str, tuple[str | tuple[str, ...], list[int]]] = {  # picture → documents and their pages, from 1
    "invoice": ("invoice.pdf", [1]),
    "invoice-long": ("invoice-long.pdf", [2, 4]),
    "voyage-log": ("voyage-log.pdf", [1, 40]),
    "tables": ("tables.pdf", [1]),
    "report": ("report.pdf", [1, 2, 3, 6]),
    "certificate": ("certificate.pdf", [1]),
    "statement": ("statement.pdf", [1]),
    "labels": (("labels.pdf", "toll.pdf"), [1, 1]),
    "gallery": ("gallery.pdf", [1]),
    "specimen": ("specimen.pdf", [1, 2]),
    "looks": (("tolls-river.pdf", "tolls-quay.pdf", "tolls-lock.pdf"), [1, 1, 1]),
}
SCALE = 80 / 72
GAP = 16
WIDEST = 1900  # px


def shot_of(path: Path, number: int) -> Any:
    pdf: Any = pdfium.PdfDocument(path)
    shot = pdf[number - 1].render(scale=SCALE).to_pil().convert("RGB")
    pdf.close()
    return shot


def main() -> None:
    from PIL import Image

    TARGET.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        list(make_documents(Path(folder)))
        sys.argv[1:] = [folder]
        runpy.run_path(str(EXAMPLES / "looks.py"), run_name="__main__")
        made = {path.name: path for path in Path(folder).glob("*.pdf")}
        for name, (documents, numbers) in PAGES.items():
            named = (documents,) * len(numbers) if isinstance(documents, str) else documents
            shots = [shot_of(made[document], number) for document, number in zip(named, numbers, strict=True)]
            scale = min(1.0, WIDEST / sum(shot.width for shot in shots))
            shots = [shot.resize((round(shot.width * scale), round(shot.height * scale))) for shot in shots]
            width = sum(shot.width for shot in shots) + GAP * (len(shots) + 1)
            height = max(shot.height for shot in shots) + 2 * GAP
            sheet = Image.new("RGB", (width, height), "#c9d2cf")
            x = GAP
            for shot in shots:
                sheet.paste(shot, (x, GAP))
                x += shot.width + GAP
            sheet.quantize(128).save(TARGET / f"{name}.png", optimize=True)


if __name__ == "__main__":
    main()
