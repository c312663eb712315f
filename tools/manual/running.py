"""Runs the code of a page of the docs, and takes pictures of the pages that it makes."""

from __future__ import annotations

import re
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path
from typing import Any, Final, NamedTuple

import pypdfium2 as pdfium

from fleetquill.demo import documents

DEMO: Final = Path(documents.__file__).parent
BLOCK: Final = re.compile(r"^```python\n(.*?)^```$", re.DOTALL | re.MULTILINE)
PAGE: Final = re.compile(r"^<!-- page: (?P<file>\S+) (?P<number>\d+) \| (?P<said>.+?) -->$", re.MULTILINE)
SECONDS: Final = 120
WIDEST: Final = 900  # px of a picture


class Shot(NamedTuple):
    """A page that code makes: the file, which page of it, and what is to be seen."""

    file: str
    number: int
    said: str

    @property
    def name(self) -> str:
        return f"{Path(self.file).stem}-{self.number}.png"


class CodeError(Exception):
    """A page of the docs whose code does not run."""


def shots_of(text: str) -> list[Shot]:
    return [Shot(found["file"], int(found["number"]), found["said"]) for found in PAGE.finditer(text)]


def run(page: Path, into: Path) -> None:
    """Runs the blocks of a page, one after another in one process, in a folder with the demo's files; its pictures go
    into a folder. Raises CodeError where the code fails, or does not make what is to be shown."""
    text = page.read_text(encoding="utf-8")
    blocks = BLOCK.findall(text)
    if not blocks:
        return
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name) / "demo"
        shutil.copytree(DEMO, folder, ignore=shutil.ignore_patterns("*.py", "__pycache__"))
        (folder / "recipe.py").write_text("\n".join(blocks), encoding="utf-8")
        command = [sys.executable, "-W", "error::DeprecationWarning:__main__", "recipe.py"]
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True, timeout=SECONDS)
        if done.returncode:
            raise CodeError(f"{page}: {done.stderr}")
        into.mkdir(parents=True, exist_ok=True)
        for shot in shots_of(text):
            if not (folder / shot.file).is_file():
                raise CodeError(f"{page}: its code makes no '{shot.file}'.")
            _take(folder / shot.file, shot.number, into / shot.name)


def _take(path: Path, number: int, target: Path) -> None:
    document: Any = pdfium.PdfDocument(path)
    document.init_forms()
    page = document[number - 1]
    picture = page.render(scale=min(WIDEST / page.get_width(), 2.2)).to_pil().convert("RGB")
    picture.save(target, optimize=True)
    document.close()
