"""Codes to be scanned: QR (ISO/IEC 18004), one-dimensional codes, and codes for euro transfers, as vectors."""

from __future__ import annotations

import re
from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal
from functools import lru_cache
from typing import Any, Final

from fleetquill.drawing.canvas import Drawing, Path, Segment
from fleetquill.drawing.paths import rectangle
from fleetquill.errors import OptionError, nearest
from fleetquill.style.values import BLACK, Rgba
from fleetquill.units import PX_PER_UNIT

MM: Final = PX_PER_UNIT["mm"]
MODULE: Final = 0.33 * MM  # the width of one module where nobody says otherwise: any printer holds it
LEAST_MODULE: Final = 0.19 * MM  # below it, scanners and office printers lose modules
QUIET_QR: Final = 4  # modules of white around (ISO/IEC 18004 §9.1)
QUIET_LINES: Final = 10
MOST_BARS: Final = 10_000  # in codes of one size there are not many more; each takes some 600 bytes
DARK_RUN: Final = re.compile(rb"\x01+")
LINES: Final = {
    "code128": "code128",
    "code39": "code39",
    "ean13": "ean13",
    "ean8": "ean8",
    "upc": "upca",
    "itf": "itf",
}
KINDS: Final = ("qr", *LINES)


def check_kind(kind: str) -> str:
    """The kind of a code; an error where it is none."""
    if kind not in KINDS:
        meant = nearest(kind, KINDS)
        hint = f"Did you mean '{meant}'?" if meant else f"It may be {', '.join(KINDS)}."
        raise OptionError(f"'{kind}' is no kind of code.", remedy=hint)
    return kind


@lru_cache(maxsize=16)  # each takes up some 300 kB
def code_drawing(kind: str, text: str, correction: str = "M", color: Rgba = BLACK) -> Drawing:
    """The drawing of a code with its quiet zone, a module `MODULE` wide.

    Raises OptionError where the text cannot be written in such a code.
    """
    check_kind(kind)
    if not text:
        raise OptionError("A code needs a text.")
    return _qr(text, correction, color) if kind == "qr" else _lines(kind, text, color)


def modules_across(code: Drawing) -> int:
    """How many modules wide a code is, with its quiet zone."""
    return round(code.width / MODULE)


def _qr(text: str, correction: str, color: Rgba) -> Drawing:
    from fleetquill.graphics.qr import qr_rows

    try:
        rows = qr_rows(text, correction)
    except (ValueError, TypeError) as error:
        raise OptionError(f"The text does not fit a QR code: {error}.", remedy="Shorten it.") from error
    size = (len(rows) + 2 * QUIET_QR) * MODULE
    drawing = Drawing(size, size)
    drawing.fill_path(_bars([(row, (y + QUIET_QR) * MODULE, MODULE) for y, row in enumerate(rows)], QUIET_QR), color)
    return drawing


def _lines(kind: str, text: str, color: Rgba) -> Drawing:
    import barcode
    from barcode.errors import BarcodeError

    options: dict[str, Any] = {"add_checksum": False} if kind == "code39" else {}
    try:
        made = barcode.get_barcode_class(LINES[kind])(text, **options)
        pattern = made.build()[0]
    except (BarcodeError, ValueError, KeyError, IndexError, TypeError) as error:
        raise OptionError(f"'{text}' cannot be written as {kind}: {error}") from error
    modules = bytes([module in "1G" for module in pattern])
    width = (len(modules) + 2 * QUIET_LINES) * MODULE
    height = max(15 * MM, 0.15 * width)
    drawing = Drawing(width, height)
    drawing.fill_path(_bars([(modules, 0.0, height)], QUIET_LINES), color)
    return drawing


def _bars(rows: Sequence[tuple[bytes, float, float]], quiet: int) -> Path:
    """One path of rectangles: dark modules that touch in a row are one. Each row has 1 where a module is dark."""
    path: list[Segment] = []
    for modules, top, height in rows:
        for start, stop in map(re.Match.span, DARK_RUN.finditer(modules)):
            path += _bar(start + quiet, stop + quiet, top, height)
    return path


@lru_cache(maxsize=MOST_BARS)
def _bar(start: int, stop: int, top: float, height: float) -> tuple[Segment, ...]:
    return tuple(rectangle(start * MODULE, top, (stop - start) * MODULE, height))


# ---- payment ----


def payment_text(
    name: str, iban: str, amount: Any = None, *, text: str = "", reference: str = "", bic: str = "", purpose: str = ""
) -> str:
    """What a code for a euro transfer says (EPC069-12, version 002).

    `amount` is euro; `text` is for people, `reference` a structured creditor reference (ISO 11649):
    only one of them. Raises OptionError where a part is not as the guidelines want it.
    """
    if text and reference:
        raise OptionError("A transfer has a text or a structured reference, not both.")
    if not name.strip() or len(name) > 70:
        raise OptionError("The name of who is paid has 1 to 70 characters.")
    account = check_iban(iban)
    if bic and not re.fullmatch(r"[A-Z]{6}[A-Z0-9]{2}([A-Z0-9]{3})?", bic):
        raise OptionError(f"'{bic}' is not a BIC.")
    if len(text) > 140 or len(reference) > 35 or len(purpose) > 4:
        raise OptionError("A transfer's text has at most 140 characters, its reference 35, its purpose 4.")
    sum_text = "" if amount is None else f"EUR{_cents(amount)}"
    lines = ["BCD", "002", "1", "SCT", bic, name.strip(), account, sum_text, purpose, reference, text]
    said = "\n".join(lines).rstrip("\n")
    if len(said.encode("utf-8")) > 331:
        raise OptionError("The transfer says more than its code may hold (331 bytes).", remedy="Shorten the text.")
    return said


def _cents(amount: Any) -> str:
    try:
        value = Decimal(str(amount)).quantize(Decimal("0.01"), ROUND_HALF_UP)
    except ArithmeticError as error:
        raise OptionError(f"{amount!r} is not an amount of euro.") from error
    if not Decimal("0.01") <= value <= Decimal("999999999.99"):
        raise OptionError(f"A transfer is of 0.01 to 999,999,999.99 euro, not of {value}.")
    return str(value)


def check_iban(iban: str) -> str:
    """An IBAN without its spaces (ISO 13616); OptionError where its check digits do not agree."""
    account = re.sub(r"\s", "", iban).upper()
    if not re.fullmatch(r"[A-Z]{2}\d{2}[A-Z0-9]{10,30}", account):
        raise OptionError(f"'{iban}' is not an IBAN.")
    digits = "".join(str(int(character, 36)) for character in account[4:] + account[:4])
    if int(digits) % 97 != 1:
        raise OptionError(f"The check digits of the IBAN '{iban}' do not agree with the rest of it.")
    return account
