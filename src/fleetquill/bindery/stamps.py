"""Stamps: words on finished pages, such as 'Page {page} of {pages}'."""

from __future__ import annotations

import html
import io
import string
from collections.abc import Mapping, Sequence
from typing import Final, NamedTuple

from fleetquill.authoring.manuscript import Manuscript
from fleetquill.errors import OptionError, meant
from fleetquill.pdf.reading import PdfReader
from fleetquill.press import Press
from fleetquill.remarks import Remark
from fleetquill.tree.lengths import Length, css_lengths

NAMES: Final = ("page", "pages", "part", "parts", "part_page", "part_pages", "title")
DOWN: Final = {"top": "flex-start", "middle": "center", "bottom": "flex-end"}
ACROSS: Final = {"left": "flex-start", "center": "center", "right": "flex-end"}
NEW_LINE: Final = "\n"
LETTERS: Final = "".join(chr(code) for code in range(33, 127))  # that each part's stamps have, so that fonts are alike


class Stamp(NamedTuple):
    """Words that are set on finished pages.

    `text` may name {page} and {pages} of the whole file, {part} and {parts}, {part_page} and {part_pages} of the part
    that a page belongs to, and its {title}. `at` is where they stand: 'top', 'middle' or 'bottom', with 'left',
    'center' or 'right', as 'bottom-center'; `margin` how far from the edge; `style` what CSS says of them, such as
    'font-size: 60pt; rotate: -45deg'. `pages` are those of the whole file that have them ('2-', 'odd'), all without.
    `under` sets them below what is on the page.
    """

    text: str
    at: str = "bottom-center"
    margin: Length = "10mm"
    style: str = ""
    pages: str = ""
    under: bool = False

    def check(self) -> None:
        """Raises OptionError for a place or a name that is not known."""
        down, _, across = self.at.partition("-")
        if down not in DOWN or across not in ACROSS:
            known = [f"{one}-{other}" for one in DOWN for other in ACROSS]
            raise OptionError(f"A stamp cannot stand '{self.at}'.", remedy=meant(self.at, known))
        css_lengths(self.margin, "margin")
        try:
            names = [name for _, name, _, _ in string.Formatter().parse(self.text) if name is not None]
        except ValueError as error:
            raise OptionError(f"The stamp {self.text!r} is not understood ({error}).") from error
        for name in names:
            if name not in NAMES:
                raise OptionError(f"A stamp knows no '{name}'.", remedy=meant(name, NAMES))

    @property
    def wants_totals(self) -> bool:
        """Whether it is to be known how many pages and parts there are."""
        return bool(self.pages) or "{pages" in self.text or "{parts" in self.text


def stamped_pages(
    stamp: Stamp, wanted: Sequence[tuple[str, tuple[float, float]]], press: Press
) -> tuple[PdfReader, tuple[Remark, ...]]:
    """A file with a page for each text on a page of a size in points, and one more with all letters."""
    rules: dict[tuple[float, float], str] = {}
    blocks: list[str] = []
    for text, size in wanted:
        name = rules.setdefault(size, f"s{len(rules)}")
        blocks.append(f'<section class="{name}"><div>{html.escape(text).replace(NEW_LINE, "<br>")}</div></section>')
    letters = f'<div style="font-size: 9pt">{html.escape(LETTERS)}</div>'
    blocks.append(f'<section class="{next(iter(rules.values()))}">{letters}</section>')
    source = f"<style>{_sheet(stamp, rules)}</style>{''.join(blocks)}"
    stream = io.BytesIO()
    edition = press.compose(Manuscript.from_html(source, source="a stamp"), tagged=False)
    edition.write_to(stream)
    remarks = [remark._replace(line=0) for remark in edition.remarks]
    return PdfReader(stream.getvalue(), "a stamp"), tuple(dict.fromkeys(remarks))


def _sheet(stamp: Stamp, rules: Mapping[tuple[float, float], str]) -> str:
    down, _, across = stamp.at.partition("-")
    sheet = [
        "body { margin: 0 } section { display: flex; box-sizing: border-box; break-after: page;"
        f" padding: {css_lengths(stamp.margin, 'margin')}; align-items: {DOWN[down]};"
        f" justify-content: {ACROSS[across]}; text-align: {across} }}"
        f" section > div {{ font-size: 9pt; {stamp.style} }} section:last-child {{ break-after: auto }}"
    ]
    for (wide, high), name in rules.items():
        sheet.append(f"@page {name} {{ size: {wide:.3f}pt {high:.3f}pt; margin: 0 }}")
        sheet.append(f".{name} {{ page: {name}; height: {high:.3f}pt }}")
    return "\n".join(sheet)
