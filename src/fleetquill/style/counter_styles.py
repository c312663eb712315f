"""Counter styles at work: how a counter's value is written (CSS Counter Styles 3 §2, §3)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Final

from fleetquill.style.counter_style import DECIMAL, CounterStyle, Named
from fleetquill.style.predefined_counters import predefined

MOST_SYMBOLS: Final = 120  # that one number may take; a longer one is left to the fallback (§3)
MOST_FALLBACKS: Final = 20


class CounterStyles:
    """The counter styles of one document: its own, and those that every document knows."""

    def __init__(self, own: Mapping[str, CounterStyle]) -> None:
        self._own = own

    def known(self, style: Named) -> bool:
        return not isinstance(style, str) or style.startswith('"') or style == "none" or self._named(style) is not None

    def represent(self, value: int, style: Named) -> str:
        """A value in a style, or in its fallback where the style cannot write it (§2)."""
        if isinstance(style, str) and (style == "none" or style.startswith('"')):
            return style[1:] if style != "none" else ""
        found = self.find(style)
        for _ in range(MOST_FALLBACKS):
            text = _in_style(value, found)
            if text is not None:
                return text
            found = self.find(found.fallback)
        return str(value)

    def marker(self, value: int, style: Named) -> str:
        """What a list marker says: the representation between prefix and suffix."""
        text = self.represent(value, style)
        if not text or (isinstance(style, str) and style.startswith('"')):
            return text
        found = self.find(style)
        return f"{found.prefix}{text}{found.suffix}".rstrip(" ")

    def find(self, style: Named) -> CounterStyle:
        """The style of a name, with what it takes from another filled in; decimal where there is none."""
        found = (self._named(style) if isinstance(style, str) else style) or DECIMAL
        seen: set[str] = set()
        while found.system == "extends":
            other = self._named(found.base)
            if other is None or found.base in seen:  # one that leads back to itself extends decimal (§3.1.7)
                other = DECIMAL
            seen.add(found.base)
            found = other._replace(
                given=found.given | other.given, **{field: getattr(found, field) for field in found.given}
            )
        return found

    def _named(self, name: str) -> CounterStyle | None:
        own = self._own.get(name)
        if own is not None:
            return own
        return predefined().get(name.lower())


def _in_style(value: int, style: CounterStyle) -> str | None:
    """§3: the representation with its sign and padding; None where the style cannot write the value."""
    if not any(low <= value <= high for low, high in style.allowed):
        return None
    signed = style.system in ("symbolic", "alphabetic", "numeric", "additive", "extends", "chinese")
    is_negative = value < 0 and signed
    text = WRITERS[style.system](abs(value) if is_negative else value, style)
    if text is None:
        return None
    before, after = style.negative if is_negative else ("", "")
    width, filler = style.pad
    missing = width - len(text) - len(before) - len(after)
    return f"{before}{filler * max(0, min(missing, MOST_SYMBOLS))}{text}{after}"


def _cyclic(value: int, style: CounterStyle) -> str | None:
    return style.symbols[(value - 1) % len(style.symbols)]


def _fixed(value: int, style: CounterStyle) -> str | None:
    place = value - style.start
    return style.symbols[place] if 0 <= place < len(style.symbols) else None


def _symbolic(value: int, style: CounterStyle) -> str | None:
    if value < 1:
        return None
    times, place = divmod(value - 1, len(style.symbols))
    return style.symbols[place] * (times + 1) if times < MOST_SYMBOLS else None


def _alphabetic(value: int, style: CounterStyle) -> str | None:
    if value < 1:
        return None
    text = ""
    while value > 0:
        value, place = divmod(value - 1, len(style.symbols))
        text = style.symbols[place] + text
    return text


def _numeric(value: int, style: CounterStyle) -> str | None:
    text = style.symbols[0] if value == 0 else ""
    while value > 0:
        value, place = divmod(value, len(style.symbols))
        text = style.symbols[place] + text
    return text


def _additive(value: int, style: CounterStyle) -> str | None:
    if value == 0:
        return next((symbol for weight, symbol in style.additive if weight == 0), None)
    text = ""
    for weight, symbol in style.additive:
        times = value // weight if weight else 0
        if times > MOST_SYMBOLS:
            return None
        text += symbol * times
        value -= weight * times
    return text if value == 0 else None


def _chinese(value: int, style: CounterStyle) -> str | None:
    """§7.1.2: digits with their units, one zero for a run of zeros, none at the end."""
    digits, units = style.symbols[:10], style.symbols[10:]
    if value == 0:
        return digits[0]
    text = ""
    for power, digit in zip(range(len(str(value)) - 1, -1, -1), map(int, str(value)), strict=True):
        if digit:
            text += digits[digit] + (units[power - 1] if power else "")
        elif not text.endswith(digits[0]):
            text += digits[0]
    text = text.rstrip(digits[0])
    return text[1:] if style.short and 10 <= value < 20 else text


def _ethiopic(value: int, style: CounterStyle) -> str | None:
    """§7.2: pairs of digits, each followed by the sign of its hundred or ten thousand."""
    ones, tens = style.symbols
    if value == 1:
        return ones[0]
    number = str(value)
    number = "0" * (len(number) % 2) + number
    groups = [int(number[place : place + 2]) for place in range(0, len(number), 2)]
    text = ""
    for place, group in zip(range(len(groups) - 1, -1, -1), groups, strict=True):
        said = (tens[group // 10 - 1] if group >= 10 else "") + (ones[group % 10 - 1] if group % 10 else "")
        if group == 1 and (place == len(groups) - 1 or place % 2):
            said = ""
        odd = place % 2 == 1
        text += said + ("፻" if odd and group else "፼" if not odd and place else "")
    return text


WRITERS: Final[dict[str, Callable[[int, CounterStyle], str | None]]] = {
    "cyclic": _cyclic,
    "fixed": _fixed,
    "symbolic": _symbolic,
    "alphabetic": _alphabetic,
    "numeric": _numeric,
    "additive": _additive,
    "chinese": _chinese,
    "ethiopic": _ethiopic,
}
