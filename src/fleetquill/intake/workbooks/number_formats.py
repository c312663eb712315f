"""Number formats of workbooks: a value as the text that its cell shows (ISO/IEC 29500-1 §18.8.31)."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, datetime, time, timedelta
from decimal import ROUND_HALF_UP, Decimal
from functools import lru_cache
from math import floor
from typing import Any, Final, NamedTuple

from fleetquill.formats import Formats

MOST_FORMATS: Final = 1_000
EPOCH: Final = datetime(1899, 12, 30)
DAYS: Final = 2_958_465.0  # of the calendar, from then to the year 9999
COLORS: Final = {
    "black": "#000000", "blue": "#0000ff", "cyan": "#00ffff", "green": "#00ff00", "magenta": "#ff00ff",
    "red": "#ff0000", "white": "#ffffff", "yellow": "#ffff00",
}  # fmt: skip
TOKENS: Final = re.compile(
    r'"(?P<quoted>[^"]*)"|\\(?P<escaped>.)|_(?P<room>.)|\*(?P<fill>.)|\[(?P<bracket>[^\]]*)\]'
    r"|(?P<clock>AM/PM|A/P|am/pm|a/p)|(?P<general>[Gg][Ee][Nn][Ee][Rr][Aa][Ll])"
    r"|(?P<date>[yY]+|[mM]+|[dD]+|[hH]+|[sS]+|[eE](?![+-])|[bB]{1,4})|(?P<exponent>[eE][+-])"
    r"|(?P<digits>[0#?]+)|(?P<other>.)",
    re.DOTALL,
)
CONDITION: Final = re.compile(r"(<=|>=|<>|<|>|=)\s*(-?[\d.]+)")
COMPARED: Final = {
    "<": lambda a, b: a < b, ">": lambda a, b: a > b, "=": lambda a, b: a == b,
    "<=": lambda a, b: a <= b, ">=": lambda a, b: a >= b, "<>": lambda a, b: a != b,
}  # fmt: skip
CURRENCY: Final = re.compile(r"\$([^-\]]*)(?:-([0-9A-Fa-f]+))?")
ELAPSED: Final = re.compile(r"[hH]+|[mM]+|[sS]+")
LANGUAGES: Final = {  # of Windows' numbers for locales, those that name months and days
    0x07: "de", 0x09: "en", 0x0A: "es", 0x0C: "fr", 0x10: "it", 0x13: "nl", 0x15: "pl", 0x16: "pt", 0x19: "ru",
    0x1D: "sv", 0x14: "nb", 0x06: "da", 0x0B: "fi", 0x05: "cs", 0x0E: "hu", 0x1F: "tr", 0x01: "ar", 0x04: "zh",
    0x11: "ja", 0x12: "ko", 0x08: "el", 0x22: "uk", 0x18: "ro", 0x1B: "sk", 0x24: "sl", 0x1A: "hr", 0x02: "bg",
}  # fmt: skip


class Shown(NamedTuple):
    """What a cell shows: its text, the colour that its format gives it, and whether it is to be filled up to the
    cell's width where `fill` stands in it."""

    text: str
    color: str = ""
    fill: tuple[int, str] | None = None  # at which place, with which character


class Token(NamedTuple):
    kind: str
    text: str


class Section(NamedTuple):
    """One part of a format, for some of the values."""

    tokens: Sequence[Token]
    color: str
    condition: tuple[str, float] | None
    language: str
    is_date: bool
    is_text: bool
    is_general: bool


@lru_cache(maxsize=MOST_FORMATS)
def sections_of(code: str) -> tuple[Section, ...]:
    """A format, read once."""
    parts: list[list[Token]] = [[]]
    for found in TOKENS.finditer(code):
        kind, text = found.lastgroup or "other", found[found.lastgroup or 0]
        if kind == "other" and text == ";":
            parts.append([])
        else:
            parts[-1].append(Token(kind, text))
    return tuple(_section(tokens) for tokens in parts[:4])


def _section(tokens: Sequence[Token]) -> Section:
    color, language = "", ""
    condition: tuple[str, float] | None = None
    kept: list[Token] = []
    for token in tokens:
        if token.kind == "bracket":
            name = token.text.strip()
            found = CONDITION.fullmatch(name)
            money = CURRENCY.fullmatch(name)
            if name.lower() in COLORS:
                color = COLORS[name.lower()]
            elif found is not None:
                condition = (found[1], float(found[2]))
            elif money is not None:
                kept.append(Token("quoted", money[1]))
                if money[2]:
                    language = LANGUAGES.get(int(money[2], 16) & 0xFF, "")
            elif ELAPSED.fullmatch(name):
                kept.append(Token("elapsed", name.lower()))
        elif token.kind == "date" and token.text[0] in "bB":
            kept.append(Token("quoted", token.text))
        else:
            kept.append(token)
    kinds = {token.kind for token in kept}
    is_date = bool(kinds & {"date", "elapsed", "clock"})
    return Section(
        kept, color, condition, language, is_date, any(t.text == "@" and t.kind == "other" for t in kept),
        "general" in kinds,
    )  # fmt: skip


def show(value: Any, code: str, formats: Formats) -> Shown:
    """What a cell with a value and a format shows."""
    if value is None or value == "":
        return Shown("")
    if isinstance(value, bool):
        return Shown("TRUE" if value else "FALSE")
    sections = sections_of(code or "General")
    if isinstance(value, str):
        return _text(value, sections)
    number = serial(value)
    section, signed = _chosen(number, sections)
    if section is None:
        return Shown("#" * 5)
    if section.is_general or not section.tokens:
        shown = general(number if signed else abs(number), formats) if section.is_general else ""
        before = "".join(t.text for t in section.tokens if t.kind in ("quoted", "escaped"))
        return Shown(before + shown, section.color)
    if section.is_text:
        said = general(number, formats)
        parts = [said if t.text == "@" and t.kind == "other" else _plain(t) for t in section.tokens]
        return Shown("".join(parts), section.color)
    if section.is_date:
        return Shown(_date_text(number, section, formats), section.color)
    return _number(number, section, formats, signed=signed)


def _text(value: str, sections: Sequence[Section]) -> Shown:
    """The fourth section is for text; without one text stands as it is."""
    section = sections[3] if len(sections) > 3 else next((s for s in sections if s.is_text), None)
    if section is None:
        return Shown(value)
    parts = [value if t.text == "@" and t.kind == "other" else _plain(t) for t in section.tokens]
    return Shown("".join(parts), section.color)


def _plain(token: Token) -> str:
    """What a token shows that says nothing of digits."""
    if token.kind == "room":
        return "\u2007" if token.text.isdigit() else "\u2005"
    return "" if token.kind in ("fill", "bracket") else token.text


def serial(value: Any) -> float:
    """The number that stands for a value: days since the end of 1899 for dates."""
    if isinstance(value, datetime):
        return (value.replace(tzinfo=None) - EPOCH) / timedelta(days=1)
    if isinstance(value, date):
        return float((datetime(value.year, value.month, value.day) - EPOCH).days)
    if isinstance(value, time):
        return (value.hour * 3600 + value.minute * 60 + value.second + value.microsecond / 1e6) / 86400
    if isinstance(value, timedelta):
        return value / timedelta(days=1)
    return float(value)


def _chosen(number: float, sections: Sequence[Section]) -> tuple[Section | None, bool]:
    """The section for a number, and whether it shows the number's sign itself."""
    numeric = [section for section in sections[:3] if not (section.is_text and len(sections) > 1)] or list(sections[:1])
    if any(section.condition for section in numeric):
        for section in numeric:
            if section.condition is None or COMPARED[section.condition[0]](number, section.condition[1]):
                return section, section.condition is None or section.condition[0] not in ("<", "<=") or number >= 0
        return None, True
    if len(numeric) == 1 or number > 0:
        return numeric[0], True
    if number < 0:
        return numeric[1], False
    return (numeric[2] if len(numeric) > 2 else numeric[0]), True


# ---- numbers ----


def general(number: float, formats: Formats) -> str:
    """A number as the format 'General' shows it: up to eleven places, else with an exponent (§18.8.30)."""
    if number == floor(number) and abs(number) < 1e11:
        return _localized(str(int(number)), formats)
    if number and not 1e-9 <= abs(number) < 1e11:
        mantissa, exponent = f"{number:.5E}".split("E")
        mantissa = mantissa.rstrip("0").rstrip(".")
        return _localized(mantissa, formats) + f"E{exponent[0]}{abs(int(exponent)):02d}"
    whole = len(str(int(abs(number))))
    text = f"{number:.{max(0, 10 - whole)}f}"
    return _localized(text.rstrip("0").rstrip("."), formats)


def _localized(text: str, formats: Formats) -> str:
    point = _symbol(formats, "decimal", ".")
    return text.replace(".", point)


def _symbol(formats: Formats, name: str, usual: str) -> str:
    symbols = formats.locale.number_symbols.get("latn", {})
    return str(symbols.get(name, usual))


def _number(number: float, section: Section, formats: Formats, *, signed: bool) -> Shown:
    tokens = list(section.tokens)
    if any(token.kind == "other" and token.text == "/" for token in tokens) and _is_fraction(tokens):
        return Shown(_fraction(number, tokens, signed=signed), section.color)
    if any(token.kind == "exponent" for token in tokens):
        return Shown(_scientific(number, tokens, formats, signed=signed), section.color)
    percents = sum(token.kind == "other" and token.text == "%" for token in tokens)
    before, after, scale, grouped = _layout(tokens)
    shifted = Decimal(repr(abs(number))) * (Decimal(100) ** percents) / (Decimal(1000) ** scale)
    rounded = shifted.quantize(Decimal(1).scaleb(-len(after)), ROUND_HALF_UP)
    whole, _, fraction = f"{rounded:f}".partition(".")
    text, fill = _fill_in(tokens, before, after, whole, fraction, grouped, formats)
    negative = signed and number < 0 and rounded != 0
    return Shown(f"-{text}" if negative else text, section.color, (fill[0] + negative, fill[1]) if fill else None)


def _layout(tokens: Sequence[Token]) -> tuple[str, str, int, bool]:
    """The places before and after the point, how often it is divided by a thousand, whether groups are parted."""
    before, after = "", ""
    seen_point = False
    scale, grouped = 0, False
    last = max((at for at, token in enumerate(tokens) if token.kind == "digits"), default=-1)
    for at, token in enumerate(tokens):
        if token.kind == "digits":
            if seen_point:
                after += token.text
            else:
                before += token.text
        elif token.kind == "other" and token.text == "." and not seen_point:
            seen_point = True
        elif token.kind == "other" and token.text == ",":
            if at > last and last >= 0:
                scale += 1
            elif before and not seen_point:
                grouped = True
    return before, after, scale, grouped


def _fill_in(
    tokens: Sequence[Token], before: str, after: str, whole: str, fraction: str, grouped: bool, formats: Formats
) -> tuple[str, tuple[int, str] | None]:
    """The format with the figures in its places."""
    whole = whole.lstrip("0")
    least = before.count("0")
    figures = whole.rjust(least, "0")
    if before.count("?") and len(figures) < len(before):
        figures = figures.rjust(len(before.lstrip("#")), "\u2007")
    if grouped:
        figures = _grouped(figures, _symbol(formats, "group", ","))
    fraction_shown = _fraction_places(fraction, after)
    point = _symbol(formats, "decimal", ".")
    out: list[str] = []
    fill: tuple[int, str] | None = None
    places_left = len(before)
    written, seen_point, after_at = False, False, 0
    for token in tokens:
        if token.kind == "digits" and not seen_point:
            places_left -= len(token.text)
            if not written:
                # figures beyond the places stand before the first of them; text between places splits them
                cut = len(figures) - _width_of(figures, places_left) if places_left else len(figures)
                out.append(figures[:cut])
                rest = figures[cut:]
                written = True
            else:
                cut = len(rest) - _width_of(rest, places_left) if places_left else len(rest)
                out.append(rest[:cut])
                rest = rest[cut:]
        elif token.kind == "digits":
            out.append(fraction_shown[after_at : after_at + len(token.text)])
            after_at += len(token.text)
        elif token.kind == "other" and token.text == "." and not seen_point:
            seen_point = True
            if not written:
                out.append(figures)
            out.append(point)
        elif token.kind == "other" and token.text == ",":
            continue
        elif token.kind == "fill":
            fill = (sum(map(len, out)), token.text)
        else:
            out.append(_plain(token))
    return "".join(out), fill


def _width_of(figures: str, places: int) -> int:
    """How many characters the last so many figures take, with what parts their groups."""
    count, at = 0, len(figures)
    while at > 0 and count < places:
        at -= 1
        count += figures[at].isdigit() or figures[at] == "\u2007"
    return len(figures) - at


def _grouped(figures: str, group: str) -> str:
    parts: list[str] = []
    while len(figures) > 3:
        parts.insert(0, figures[-3:])
        figures = figures[:-3]
    return group.join([figures, *parts]) if figures else group.join(parts)


def _fraction_places(fraction: str, places: str) -> str:
    """The figures after the point: noughts that need not stand go, or leave their room."""
    shown = list(fraction.ljust(len(places), "0")[: len(places)])
    for at in range(len(places) - 1, -1, -1):
        if shown[at] != "0" or places[at] == "0":
            break
        shown[at] = "\u2007" if places[at] == "?" else ""
    return "".join(shown)


def _scientific(number: float, tokens: Sequence[Token], formats: Formats, *, signed: bool) -> str:
    """§18.8.31: as many places before the point as there are, the exponent a multiple of them."""
    at = next(index for index, token in enumerate(tokens) if token.kind == "exponent")
    before, after, _, _ = _layout(tokens[:at])
    step = max(1, len(before))
    exponent = 0
    size = abs(number)
    if size:
        exponent = floor(Decimal(repr(size)).adjusted() / step) * step
    mantissa = (Decimal(repr(size)).scaleb(-exponent)).quantize(Decimal(1).scaleb(-len(after)), ROUND_HALF_UP)
    if mantissa >= Decimal(10) ** step:
        exponent += step
        mantissa = mantissa.scaleb(-step).quantize(Decimal(1).scaleb(-len(after)), ROUND_HALF_UP)
    whole, _, fraction = f"{mantissa:f}".partition(".")
    text, _ = _fill_in(tokens[:at], before, after, whole, fraction, False, formats)
    least = sum(len(token.text) for token in tokens[at + 1 :] if token.kind == "digits")
    sign = "-" if exponent < 0 else "+" if tokens[at].text[1] == "+" else ""
    tail = "".join(_plain(token) for token in tokens[at + 1 :] if token.kind != "digits")
    minus = "-" if signed and number < 0 else ""
    return f"{minus}{text}{tokens[at].text[0].upper()}{sign}{abs(exponent):0{least}d}{tail}"


def _is_fraction(tokens: Sequence[Token]) -> bool:
    at = next(index for index, token in enumerate(tokens) if token.kind == "other" and token.text == "/")
    return any(token.kind == "digits" for token in tokens[:at]) and any(
        token.kind == "digits" or token.text.isdigit() for token in tokens[at + 1 :]
    )


def _fraction(number: float, tokens: Sequence[Token], *, signed: bool) -> str:
    """A whole number and a fraction, whose denominator is given or has so many places at the most."""
    at = next(index for index, token in enumerate(tokens) if token.kind == "other" and token.text == "/")
    places = [index for index, token in enumerate(tokens[:at]) if token.kind == "digits"]
    given = re.match(r"\d+", "".join(token.text for token in tokens[at + 1 :]).strip())
    width = max(len(tokens[places[-1]].text), len(given[0]) if given is not None else 1)
    size = abs(number)
    has_whole = len(places) > 1
    whole = floor(size) if has_whole else 0
    part = size - whole
    if given is not None and int(given[0]):
        below = int(given[0])
        above = round(part * below)
    else:
        above, below = _nearest(part, 10**width - 1)
    if has_whole and above == below:
        whole, above = whole + 1, 0
    minus = "-" if signed and number < 0 else ""
    if has_whole and above == 0:
        return f"{minus}{whole}" + "\u2007" * (2 * width + 2)
    shown = f"{above:>{width}}/{below:<{width}}".replace(" ", "\u2007")
    return f"{minus}{whole or ''} {shown}" if has_whole and whole else f"{minus}{shown}"


def _nearest(value: float, most: int) -> tuple[int, int]:
    """The fraction nearest to a value whose denominator is at most so large."""
    from fractions import Fraction

    found = Fraction(value).limit_denominator(max(1, most))
    return found.numerator, found.denominator


# ---- dates ----


def _date_text(number: float, section: Section, formats: Formats) -> str:
    from babel import Locale

    locale = Locale.parse(section.language) if section.language else formats.locale
    tokens = section.tokens
    is_elapsed = any(token.kind == "elapsed" for token in tokens)
    if (number < 0 and not is_elapsed) or abs(number) >= DAYS:
        return "#" * 5
    decimals = _second_places(tokens)
    seconds = Decimal(repr(number)) * 86400
    seconds = seconds.quantize(Decimal(1).scaleb(-decimals), ROUND_HALF_UP)
    moment = EPOCH + timedelta(seconds=float(abs(seconds)))
    if number < 60:  # the day in February 1900 that was none
        moment += timedelta(days=1) if number >= 1 else timedelta(0)
    twelve = any(token.kind == "clock" for token in tokens)
    out: list[str] = []
    for at, token in enumerate(tokens):
        if token.kind == "date":
            out.append(_date_part(token.text, moment, _is_minute(tokens, at), twelve=twelve, locale=locale))
        elif token.kind == "elapsed":
            out.append(_elapsed(token.text, abs(seconds)))
        elif token.kind == "clock":
            morning = moment.hour < 12
            words = token.text.split("/")
            out.append(words[0] if morning else words[1])
        elif token.kind == "digits" and at and tokens[at - 1].text == ".":
            fraction = f"{seconds % 1:.{max(1, len(token.text))}f}"[2:]
            out.append(fraction)
        else:
            out.append(_plain(token))
    return ("-" if number < 0 else "") + "".join(out)


def _second_places(tokens: Sequence[Token]) -> int:
    """How many decimal places seconds are shown with."""
    for at, token in enumerate(tokens[:-2]):
        if token.kind in ("date", "elapsed") and token.text[0] in "sS" and tokens[at + 1].text == ".":
            return len(tokens[at + 2].text) if tokens[at + 2].kind == "digits" else 0
    return 0


def _is_minute(tokens: Sequence[Token], at: int) -> bool:
    """Whether an 'm' is minutes: it follows hours or goes before seconds."""
    if tokens[at].text[0] not in "mM" or len(tokens[at].text) > 2:
        return False
    parts = [index for index, token in enumerate(tokens) if token.kind in ("date", "elapsed")]
    place = parts.index(at)
    before = tokens[parts[place - 1]].text[0] if place else ""
    after = tokens[parts[place + 1]].text[0] if place + 1 < len(parts) else ""
    return before in ("h", "H") or after in ("s", "S")


def _date_part(text: str, moment: datetime, minute: bool, *, twelve: bool, locale: Any) -> str:
    letter, count = text[0].lower(), len(text)
    if letter == "y" or letter == "e":
        return f"{moment.year % 100:02d}" if letter == "y" and count <= 2 else f"{moment.year:04d}"
    if letter == "m" and not minute:
        if count <= 2:
            return f"{moment.month:0{count}d}"
        name = str(locale.months["format"]["wide" if count >= 4 else "abbreviated"][moment.month])
        return name[:1] if count == 5 else name.rstrip(".") if count == 3 else name
    if letter == "m":
        return f"{moment.minute:0{count}d}"
    if letter == "d":
        if count <= 2:
            return f"{moment.day:0{count}d}"
        return str(locale.days["format"]["wide" if count >= 4 else "abbreviated"][moment.weekday()]).rstrip(".")
    if letter == "h":
        hour = (moment.hour % 12 or 12) if twelve else moment.hour
        return f"{hour:0{min(count, 2)}d}"
    return f"{moment.second:0{min(count, 2)}d}"


def _elapsed(text: str, seconds: Decimal) -> str:
    """Hours, minutes or seconds in all, beyond what a clock shows."""
    divisor = {"h": 3600, "m": 60, "s": 1}[text[0]]
    return f"{int(seconds // divisor):0{len(text)}d}"
