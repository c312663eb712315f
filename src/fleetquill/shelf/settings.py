"""What shelf.toml says of all documents of a shelf, and of each."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.errors import DataError, OptionError, Where, meant, shown
from fleetquill.formats import check_locale
from fleetquill.standards import standards_of
from fleetquill.tree.files import read_text
from fleetquill.tree.forms import check_currency
from fleetquill.tree.lengths import css_lengths, css_page

FILE: Final = "shelf.toml"
DOCUMENTS: Final = "documents"  # the table of what is said of single ones


class Settings(NamedTuple):
    """What is said of a document: the locale and the currency of its values, the paper and the margin of its pages, the
    standards that its PDF conforms to, style sheets of the house, and whether its controls are filled in."""

    locale: str = ""
    currency: str = ""
    page: str = ""
    margin: str = ""
    conform: tuple[str, ...] = ()
    styles: tuple[str, ...] = ()
    fillable: bool = False
    title: str = ""


KINDS: Final[dict[str, type[Any]]] = {
    "conform": list,
    "styles": list,
    "fillable": bool,
}  # of values; all others are text


class ShelfSettings(NamedTuple):
    """The settings of a shelf: those of all, and what differs for some, by their names."""

    usual: Settings
    of: Mapping[str, Settings]

    def for_document(self, name: str) -> Settings:
        return self.of.get(name, self.usual)


def read_settings(folder: Path) -> ShelfSettings:
    """Reads shelf.toml, where there is one. Raises DataError with the place of what is wrong."""
    path = folder / FILE
    if not path.is_file():
        return ShelfSettings(Settings(), {})
    where = Where(str(path))
    try:
        said = tomllib.loads(read_text(path, "file"))
    except tomllib.TOMLDecodeError as error:
        raise DataError(f"The file is no TOML: {error}.", where=where) from error
    single = said.pop(DOCUMENTS, {})
    usual = _settings(said, Settings(), "", path)
    if not isinstance(single, Mapping):
        raise DataError(f"'{DOCUMENTS}' is {shown(single)}, not a table.", where=where)
    of = {name: _settings(own, usual, f"{DOCUMENTS}.{name}.", path) for name, own in single.items()}
    return ShelfSettings(usual, of)


def _settings(said: Any, usual: Settings, path: str, file: Path) -> Settings:
    where = Where(str(file))
    if not isinstance(said, Mapping):
        raise DataError(f"'{path.rstrip('.')}' is {shown(said)}, not a table.", where=where)
    made = usual
    for name, value in said.items():
        if name not in Settings._fields:
            raise DataError(
                f"'{path}{name}' is nothing that is said of documents.", where=where,
                remedy=meant(name, [*Settings._fields, *([] if path else [DOCUMENTS])]),
            )  # fmt: skip
        wanted: type[Any] = KINDS.get(name, str)
        if not isinstance(value, wanted) or (wanted is list and not all(isinstance(one, str) for one in value)):
            what = {list: "a list of texts", bool: "true or false"}.get(wanted, "a text")
            raise DataError(f"'{path}{name}' is {shown(value)}, not {what}.", where=where)
        changed: dict[str, Any] = {name: tuple(value) if wanted is list else value}
        made = made._replace(**changed)
    try:
        _check(made, file.parent)
    except OptionError as error:
        raise DataError(
            f"{path.rstrip('.')}{': ' if path else ''}{error.what}", where=where, remedy=error.remedy
        ) from error
    return made


def _check(settings: Settings, folder: Path) -> None:
    """Raises OptionError for a value that is none."""
    if settings.locale:
        check_locale(settings.locale)
    if settings.currency:
        check_currency(settings.currency)
    if settings.page:
        css_page(settings.page)
    if settings.margin:
        css_lengths(settings.margin, "margin")
    standards_of(settings.conform)
    for style in settings.styles:
        if not (folder / style).is_file():
            raise OptionError(f"The style sheet '{style}' is not on the shelf.")
