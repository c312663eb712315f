"""text-transform (CSS Text 3 §2.1), by language where the language asks for it."""

from __future__ import annotations

import re
from typing import Final

WORD_START: Final = re.compile(r"(?<!\w)(?<!\w[’'])([^\W\d_])")  # a number at its start is no letter to be changed
TURKIC: Final = ("tr", "az")


def transform(text: str, kind: str, language: str) -> str:
    if kind == "none":
        return text
    root = language.split("-")[0].lower()
    if kind == "uppercase":
        return _upper(text, root)
    if kind == "lowercase":
        return text.replace("I", "ı").replace("İ", "i").lower() if root in TURKIC else text.lower()
    if kind == "capitalize":
        return WORD_START.sub(lambda match: _title(match[1], root), text)
    return "".join(_full_width(character) for character in text)


def _upper(text: str, language: str) -> str:
    if language in TURKIC:
        text = text.replace("i", "İ")
    if language == "el":
        text = text.translate(GREEK_WITHOUT_ACCENT)
    return text.upper()


def _title(character: str, language: str) -> str:
    return "İ" if character == "i" and language in TURKIC else character.title()


GREEK_WITHOUT_ACCENT: Final = str.maketrans("άέήίόύώϊϋΐΰΆΈΉΊΌΎΏ", "αεηιουωϊϋϊϋΑΕΗΙΟΥΩ")


def _full_width(character: str) -> str:
    if character == " ":
        return "\u3000"
    return chr(ord(character) + 0xFEE0) if "!" <= character <= "~" else character
