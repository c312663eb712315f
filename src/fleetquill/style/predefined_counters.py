"""The counter styles that every document knows (CSS Counter Styles 3 §6 and §7)."""

from __future__ import annotations

from collections.abc import Iterator
from functools import cache
from typing import Final

from fleetquill.style.counter_style import DECIMAL, ENDLESS, CounterStyle

DIGITS: Final = {  # numeric styles, by the first of their ten digits
    "arabic-indic": "٠", "bengali": "০", "cambodian": "០", "khmer": "០", "devanagari": "०", "gujarati": "૦",
    "gurmukhi": "੦", "kannada": "೦", "lao": "໐", "malayalam": "൦", "mongolian": "᠐", "myanmar": "၀",
    "oriya": "୦", "persian": "۰", "tamil": "௦", "telugu": "౦", "thai": "๐", "tibetan": "༠",
}  # fmt: skip
BULLETS: Final = {"disc": "•", "circle": "◦", "square": "▪", "disclosure-open": "▾", "disclosure-closed": "▸"}
LATIN: Final = "abcdefghijklmnopqrstuvwxyz"
HIRAGANA: Final = "あいうえおかきくけこさしすせそたちつてとなにぬねのはひふへほまみむめもやゆよらりるれろわゐゑをん"
IROHA: Final = "いろはにほへとちりぬるをわかよたれそつねならむうゐのおくやまけふこえてあさきゆめみしゑひもせす"
ALPHABETS: Final = {
    "lower-alpha": LATIN,
    "lower-latin": LATIN,
    "upper-alpha": LATIN.upper(),
    "upper-latin": LATIN.upper(),
    "lower-greek": "αβγδεζηθικλμνξοπρστυφχψω",
    "hiragana": HIRAGANA,
    "hiragana-iroha": IROHA,
    "katakana": "".join(chr(ord(letter) + 0x60) for letter in HIRAGANA),
    "katakana-iroha": "".join(chr(ord(letter) + 0x60) for letter in IROHA),
}
FIXED: Final = {"cjk-earthly-branch": "子丑寅卯辰巳午未申酉戌亥", "cjk-heavenly-stem": "甲乙丙丁戊己庚辛壬癸"}
ROMAN: Final = (
    (1000, "m"), (900, "cm"), (500, "d"), (400, "cd"), (100, "c"), (90, "xc"),
    (50, "l"), (40, "xl"), (10, "x"), (9, "ix"), (5, "v"), (4, "iv"), (1, "i"),
)  # fmt: skip
GEORGIAN: Final = "აბგდევზჱთიკლმნჲოპჟრსტჳფქღყშჩცძწჭხჴჯჰჵ"  # 1 to 9, 10 to 90, and on to 10,000
HEBREW: Final = (
    *((400, "ת"), (300, "ש"), (200, "ר"), (100, "ק"), (90, "צ"), (80, "פ"), (70, "ע"), (60, "ס"), (50, "נ")),
    *((40, "מ"), (30, "ל"), (20, "כ"), (19, "יט"), (18, "יח"), (17, "יז"), (16, "טז"), (15, "טו"), (10, "י")),
    *((9, "ט"), (8, "ח"), (7, "ז"), (6, "ו"), (5, "ה"), (4, "ד"), (3, "ג"), (2, "ב"), (1, "א")),
)
ARMENIAN: Final = "".join(map(chr, range(0x531, 0x555)))
# East Asian styles that add up: the digits from 0, the units from ten on, whether one is said before a unit,
# what stands before a negative number, and what follows the number in a list.
ADDED: Final = {
    "japanese-informal": ("〇一二三四五六七八九", "十百千", False, "マイナス", "、"),
    "japanese-formal": ("零壱弐参四伍六七八九", "拾百阡", True, "マイナス", "、"),
    "korean-hangul-formal": ("영일이삼사오육칠팔구", "십백천", True, "마이너스 ", ", "),
    "korean-hanja-informal": ("零一二三四五六七八九", "十百千", False, "마이너스 ", ", "),
    "korean-hanja-formal": ("零壹貳參四五六七八九", "拾百仟", True, "마이너스 ", ", "),
}
# Those with zeros between: the digits, the units, whether ten to nineteen begin with the unit, and the sign.
CHINESE: Final = {
    "simp-chinese-informal": ("零一二三四五六七八九", "十百千", True, "负"),
    "simp-chinese-formal": ("零壹贰叁肆伍陆柒捌玖", "拾佰仟", False, "负"),
    "trad-chinese-informal": ("零一二三四五六七八九", "十百千", True, "負"),
    "trad-chinese-formal": ("零壹貳參肆伍陸柒捌玖", "拾佰仟", False, "負"),
    "cjk-ideographic": ("零一二三四五六七八九", "十百千", True, "負"),
}
ETHIOPIC: Final = ("፩፪፫፬፭፮፯፰፱", "፲፳፴፵፶፷፸፹፺")


@cache
def predefined() -> dict[str, CounterStyle]:
    """All of them by name."""
    found = {"decimal": DECIMAL, "decimal-leading-zero": DECIMAL._replace(pad=(2, "0"))}
    for name, zero in DIGITS.items():
        found[name] = CounterStyle("numeric", tuple(chr(ord(zero) + digit) for digit in range(10)))
    found["cjk-decimal"] = CounterStyle("numeric", tuple("〇一二三四五六七八九"), ranges=((0, ENDLESS),), suffix="、")
    for name, bullet in BULLETS.items():
        found[name] = CounterStyle("cyclic", (bullet,), suffix=" ")
    for name, letters in ALPHABETS.items():
        found[name] = CounterStyle("alphabetic", tuple(letters), suffix="、" if name.startswith(("h", "k")) else ". ")
    for name, letters in FIXED.items():
        found[name] = CounterStyle("fixed", tuple(letters), suffix="、")
    upper_roman = tuple((value, letters.upper()) for value, letters in ROMAN)
    found["lower-roman"] = CounterStyle("additive", additive=ROMAN, ranges=((1, 3999),))
    found["upper-roman"] = CounterStyle("additive", additive=upper_roman, ranges=((1, 3999),))
    found["georgian"] = CounterStyle("additive", additive=_decades(GEORGIAN), ranges=((1, 19_999),))
    thousands = tuple((value * 1000, f"{letters}׳") for value, letters in HEBREW if value <= 10)
    found["hebrew"] = CounterStyle("additive", additive=(*thousands, *HEBREW), ranges=((1, 10_999),))
    for name, letters in (("lower-armenian", ARMENIAN.lower()), ("upper-armenian", ARMENIAN), ("armenian", ARMENIAN)):
        found[name] = CounterStyle("additive", additive=_decades(letters), ranges=((1, 9999),))
    for name, (digits, units, says_one, minus, suffix) in ADDED.items():
        pairs = tuple(_added(digits, units, says_one))
        found[name] = CounterStyle(
            "additive", additive=pairs, ranges=((-9999, 9999),), negative=(minus, ""), suffix=suffix,
            fallback="cjk-decimal",
        )  # fmt: skip
    for name, (digits, units, short, minus) in CHINESE.items():
        found[name] = CounterStyle(
            "chinese", tuple(digits + units), short=short, ranges=((-9999, 9999),), negative=(minus, ""), suffix="、",
            fallback="cjk-decimal",
        )  # fmt: skip
    found["ethiopic-numeric"] = CounterStyle("ethiopic", ETHIOPIC, ranges=((1, ENDLESS),), suffix="/ ")
    return found


def _decades(letters: str) -> tuple[tuple[int, str], ...]:
    """An additive alphabet: nine letters for each power of ten, the greatest first."""
    values = [digit * 10**power for power in range(5) for digit in range(1, 10)]
    return tuple(sorted(zip(values, letters, strict=False), reverse=True))


def _added(digits: str, units: str, says_one: bool) -> Iterator[tuple[int, str]]:
    for power in (3, 2, 1):
        for digit in range(9, 0, -1):
            said = digits[digit] if digit > 1 or says_one else ""
            yield digit * 10**power, said + units[power - 1]
    for digit in range(9, -1, -1):
        yield digit, digits[digit]
