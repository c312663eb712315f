"""Has a browser paint the cases of tests/paintings/*.html, and keeps what it painted beside each file.

    python -m tools.record_paintings.py [FILE…]

The browser is Chromium, found on the path; it is only needed here, not by the tests.
"""

from __future__ import annotations

import html
import sys
import tempfile
from pathlib import Path

from PIL import Image

from tools.browser import ask

FOLDER = Path(__file__).parent.parent / "tests" / "paintings"
sys.path.insert(0, str(FOLDER))
from cases import COLUMNS, HIGH, SCALE, WIDE, cases_of, page  # type: ignore[import-not-found]  # noqa: E402

ROUNDED = [min(255, round(value / 8) * 8) for value in range(256)]  # shades that no one tells apart: files stay small


def sheet(sources: list[str]) -> Image.Image:
    """What a browser paints for some pages, in rows."""
    frames = "".join(
        f'<iframe style="position:absolute;border:0;left:{number % COLUMNS * WIDE}px;top:{number // COLUMNS * HIGH}px;'
        f'width:{WIDE}px;height:{HIGH}px" scrolling="no" srcdoc="{html.escape(page(source))}"></iframe>'
        for number, source in enumerate(sources)
    )
    wide, high = COLUMNS * WIDE, -(-len(sources) // COLUMNS) * HIGH
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "sheet.html").write_text(f"<!DOCTYPE html><body style='margin:0'>{frames}")
        shot = folder / "sheet.png"
        ask(
            folder / "sheet.html", folder, f"--force-device-scale-factor={SCALE}", f"--window-size={wide},{high + 200}",
            "--hide-scrollbars", f"--screenshot={shot}",
        )  # fmt: skip
        return Image.open(shot).convert("RGB").crop((0, 0, wide * SCALE, high * SCALE))


def main() -> None:
    for path in [Path(name) for name in sys.argv[1:]] or sorted(FOLDER.glob("*.html")):
        cases = cases_of(path)
        kept = path.with_suffix(".webp")
        painted = sheet([source for _, source in cases])
        painted.point(ROUNDED * 3).save(kept, lossless=True, quality=100, method=6)
        print(f"{path.name}: {len(cases)} cases, {kept.stat().st_size} bytes")


if __name__ == "__main__":
    main()
