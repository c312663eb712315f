"""The pages of the docs in the order of the site, each with what it says once its code has run."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path
from typing import Any, Final, NamedTuple

import yaml

from tools.manual import reference
from tools.manual.running import PAGE, Shot

ROOT: Final = Path(__file__).parent.parent.parent
DOCS: Final = ROOT / "docs"
RUN: Final = ("index.md", "tutorials/", "recipes/")  # pages whose code is run
COPIED: Final = {"house/contributing.md": "CONTRIBUTING.md", "house/changes.md": "CHANGELOG.md"}
FIGURE: Final = '<figure class="made"><img src="{src}" alt="{alt}"><figcaption>{alt}</figcaption></figure>'
INDEX: Final = re.compile(r"^<!-- index: (?P<terms>.+?) -->\n?", re.MULTILINE)


class DocsPage(NamedTuple):
    """A page: the section of the site that it is in, its title there, its path below docs/, and its Markdown."""

    section: str
    title: str
    path: str
    text: str

    @property
    def is_run(self) -> bool:
        return self.path.startswith(RUN)

    @property
    def made(self) -> str:
        """The folder of its pictures, below docs/."""
        return f"made/{self.path.removesuffix('.md')}"

    def shown(self) -> str:
        """Its text with a figure in the place of each page that its code makes."""

        def put(found: re.Match[str]) -> str:
            shot = Shot(found["file"], int(found["number"]), found["said"])
            up = "../" * self.path.count("/")
            return FIGURE.format(src=f"{up}{self.made}/{shot.name}", alt=shot.said.replace('"', "&quot;"))

        return PAGE.sub(put, self.text)


def docs_pages() -> list[DocsPage]:
    """All pages, in the order of the site's navigation."""
    settings = yaml.safe_load((ROOT / "mkdocs.yml").read_text(encoding="utf-8"))
    return list(_pages(settings["nav"], ""))


def _pages(entries: list[dict[str, Any]], section: str) -> Iterator[DocsPage]:
    for entry in entries:
        for title, path in entry.items():
            if isinstance(path, list):
                yield from _pages(path, title)
            else:
                yield DocsPage(section, title, path, _text(path))


def _text(path: str) -> str:
    name = path.rpartition("/")[2]
    if path.startswith("reference/") and name in reference.PAGES:
        return reference.PAGES[name]()
    return (ROOT / COPIED[path] if path in COPIED else DOCS / path).read_text(encoding="utf-8")
