"""python -m tools.manual [--quick]: runs the code of the docs, builds the site (build/site) and the manual in it."""

from __future__ import annotations

import argparse
import shutil
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Final

from fleetquill.demo import documents
from fleetquill.version import VERSION
from tools.manual.pages import DOCS, INDEX, ROOT, DocsPage, docs_pages
from tools.manual.running import run
from tools.manual.setting import code_styles, write_manual

BUILT: Final = ROOT / "build" / "docs"
LOOK: Final = """
.made { display: inline-block; margin: 0 12px 12px 0; vertical-align: top }
.made img { max-height: 420px; max-width: 100%; border: 1px solid #b9c4c2 }
.made figcaption { font-size: 85%; color: #5b6b6a }
"""


def build(*, quick: bool) -> int:
    """Builds everything; with `quick` code that was run before is not run again. Gives how many remarks there are."""
    pages = docs_pages()
    if not quick:
        shutil.rmtree(BUILT, ignore_errors=True)
    BUILT.mkdir(parents=True, exist_ok=True)
    with ThreadPoolExecutor() as pool:
        list(pool.map(lambda page: _run(page, quick=quick), [page for page in pages if page.is_run]))
    shutil.copytree(DOCS / "screenshots", BUILT / "screenshots", dirs_exist_ok=True)
    shutil.copy(Path(documents.__file__).parent / "mark.svg", BUILT)
    for page in pages:
        target = BUILT / page.path
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(INDEX.sub("", page.shown()), encoding="utf-8")
    (BUILT / "site.css").write_text(LOOK + code_styles(".codehilite"), encoding="utf-8")
    summary = write_manual(pages, BUILT, BUILT / "manual.pdf", VERSION)
    print(f"manual.pdf: {summary.page_count} pages, {summary.bytes_written:,} bytes, {summary.seconds:.1f} s")
    for remark in summary.remarks:
        print(remark)
    subprocess.run([sys.executable, "-m", "mkdocs", "build", "--strict", "--quiet"], cwd=ROOT, check=True)
    return len(summary.remarks)


def _run(page: DocsPage, *, quick: bool) -> None:
    into = BUILT / page.made
    if not (quick and into.is_dir()):
        run(DOCS / page.path, into)


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m tools.manual", description=__doc__)
    parser.add_argument("--quick", action="store_true", help="do not run code that was run before")
    sys.exit(1 if build(quick=parser.parse_args().quick) else 0)


if __name__ == "__main__":
    main()
