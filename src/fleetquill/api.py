"""compose() and write() with a press that is set up at the first call and then reused."""

from __future__ import annotations

import os
from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import TYPE_CHECKING, Any, BinaryIO, Final

from fleetquill.caches import Cache
from fleetquill.edition import Edition
from fleetquill.keywords import told_keywords
from fleetquill.press import Data, Press, Source, Summary
from fleetquill.progress import Listener
from fleetquill.tree.lengths import Length, PageSize

if TYPE_CHECKING:
    from fleetquill.invoices.invoice import Invoice

MOST_PRESSES: Final = 32  # by locale

_presses: Cache[str, Press] = Cache(MOST_PRESSES)


def _press(locale: str) -> Press:
    return _presses.get(locale) or _presses.put(locale, Press(locale=locale))


@told_keywords
def compose(
    source: Source,
    *,
    data: Data | None = None,
    parameters: Mapping[str, Any] | None = None,
    connections: Mapping[str, Any] | None = None,
    styles: Sequence[str | os.PathLike[str]] = (),
    locale: str = "en",
    only: str = "",
    page: PageSize = "",
    margin: Length = "",
    landscape: bool = False,
    scale: float = 1.0,
    date: datetime | None = None,
    attach: Sequence[str | os.PathLike[str]] = (),
    invoice: Invoice | None = None,
    tagged: bool = True,
    fillable: bool = False,
    conform: Sequence[str] = (),
    password: str | None = None,
    owner_password: str | None = None,
    allow: Sequence[str] | None = None,
    strict: bool = False,
    progress: Listener | None = None,
) -> Edition:
    """Lays out a document in memory: see Press.compose.

    `source` is the path of an HTML or Markdown file, or a Manuscript. When `data` is given (a mapping,
    or the path of a data file) the file is a template.
    """
    return _press(locale).compose(
        source, data=data, parameters=parameters, connections=connections,
        styles=styles, only=only, page=page, margin=margin, landscape=landscape, scale=scale,
        date=date, attach=attach, invoice=invoice, tagged=tagged, fillable=fillable, conform=conform, password=password,
        owner_password=owner_password, allow=allow, strict=strict, progress=progress,
    )  # fmt: skip


@told_keywords
def write(
    source: Source,
    target: str | os.PathLike[str] | BinaryIO,
    *,
    kind: str | None = None,
    data: Data | None = None,
    parameters: Mapping[str, Any] | None = None,
    connections: Mapping[str, Any] | None = None,
    styles: Sequence[str | os.PathLike[str]] = (),
    locale: str = "en",
    only: str = "",
    page: PageSize = "",
    margin: Length = "",
    landscape: bool = False,
    scale: float = 1.0,
    title: str = "",
    date: datetime | None = None,
    attach: Sequence[str | os.PathLike[str]] = (),
    invoice: Invoice | None = None,
    tagged: bool = True,
    fillable: bool = False,
    conform: Sequence[str] = (),
    password: str | None = None,
    owner_password: str | None = None,
    allow: Sequence[str] | None = None,
    destinations: bool = False,
    strict: bool = False,
    progress: Listener | None = None,
    values: str = "raw",
    delimiter: str = ",",
    wide: int = 80,
    form_feeds: bool = False,
    dpi: float = 96.0,
    letters: str = "outlines",
    linked: bool = False,
    shown: str = "flow",
) -> Summary:
    """Lays out a document and writes it in one streaming run: see Press.write."""
    return _press(locale).write(
        source, target, kind=kind, data=data, parameters=parameters, connections=connections,
        styles=styles, only=only, page=page, margin=margin,
        landscape=landscape, scale=scale, title=title, date=date, attach=attach, invoice=invoice, tagged=tagged,
        fillable=fillable, conform=conform, password=password, owner_password=owner_password, allow=allow,
        destinations=destinations, strict=strict, progress=progress, values=values, delimiter=delimiter,
        wide=wide, form_feeds=form_feeds, dpi=dpi, letters=letters,
        linked=linked, shown=shown,
    )  # fmt: skip
