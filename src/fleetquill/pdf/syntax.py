"""The syntax of PDF: objects and operators from bytes (ISO 32000-2 §7.2 and §7.3).

A dictionary is a dict with names (without slash) as keys, an array a list, a string bytes, a name a `Name`, a
reference a `Ref`. What is damaged is read as far as it can be; where nothing can be made of it, a PdfSyntaxError says
where.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from fleetquill.pdf.objects import Name, Real, Ref

BLANK: Final = rb"\x00\t\n\x0c\r "
APART: Final = BLANK + rb"()<>\[\]{}/%"
SKIPPED: Final = re.compile(rb"(?:[%b]+|%%[^\r\n]*)*" % BLANK)
TOKEN: Final = re.compile(
    rb"(?P<number>[+-]*(?:\d+\.?\d*|\.\d+)(?:-\d+)?(?=[%b]|$))|/(?P<name>[^%b]*)|(?P<mark><<|>>|[\[\]{}])"
    rb"|(?P<string>\()|<(?P<hex>[0-9A-Fa-f%b]*)>?|(?P<word>[^%b]+)" % (APART, APART, BLANK, APART)
)
EXACT: Final = re.compile(rb"[+-]?\d{0,9}\.\d{4,60}")  # numbers that lose something where they are rounded
REFERENCE: Final = re.compile(rb"[%b]+(\d+)[%b]+R(?=[%b]|$)" % (BLANK, BLANK, APART))
STREAM: Final = re.compile(rb"[%b]*stream(?:\r\n|\n|\r)" % BLANK)
HEX_ESCAPE: Final = re.compile(rb"#([0-9A-Fa-f]{2})")
STRING_PART: Final = re.compile(rb"[()\\\r]")
ESCAPES: Final = {b"n": b"\n", b"r": b"\r", b"t": b"\t", b"b": b"\b", b"f": b"\f"}
WORDS: Final = {b"true": True, b"false": False, b"null": None}
MOST_NESTED: Final = 200
INLINE_END: Final = re.compile(rb"[%b]EI(?=[%b]|$)" % (BLANK, APART))


class PdfSyntaxError(Exception):
    """Bytes that are no PDF object, and where."""


# What reading a damaged file may raise: bytes that cannot be read, and values of other kinds than they should be.
DAMAGE: Final = (
    PdfSyntaxError, TypeError, ValueError, KeyError, IndexError, AttributeError, OverflowError, RecursionError,
)  # fmt: skip


class Operator(NamedTuple):
    """An operator of a content stream, and what stands before it (§7.8.2)."""

    name: str
    operands: list[Any]


class _Closing(NamedTuple):
    mark: bytes


class _Word(NamedTuple):
    word: bytes


class Parser:
    """Reads objects one after another from bytes."""

    def __init__(self, content: bytes, place: int = 0) -> None:
        self.content = content
        self.place = place
        self._depth = 0

    def skip(self) -> None:
        """Goes on to what is neither white space nor a comment."""
        found = SKIPPED.match(self.content, self.place)
        if found is not None:
            self.place = found.end()

    def at_end(self) -> bool:
        self.skip()
        return self.place >= len(self.content)

    def value(self) -> Any:
        """The object that stands here. Raises PdfSyntaxError where there is none."""
        found = self._token()
        if isinstance(found, (_Closing, _Word)):
            said = found[0].decode("latin-1")
            raise PdfSyntaxError(f"'{said}' stands at byte {self.place} where an object should.")
        return found

    def word(self) -> bytes:
        """The keyword that stands here; b'' where there is none."""
        found = self._token()
        return found.word if isinstance(found, _Word) else b""

    def operators(self) -> Iterator[Operator]:
        """The operators of a content stream, as far as they can be read."""
        return (operator for _, _, operator in self.placed_operators())

    def placed_operators(self) -> Iterator[tuple[int, int, Operator]]:
        """The operators, each with the bytes from which and up to which it stands with its operands."""
        operands: list[Any] = []
        start = -1
        while not self.at_end():
            start = self.place if start < 0 else start
            try:
                found = self._token()
            except PdfSyntaxError:
                return
            if isinstance(found, _Word):
                name = found.word.decode("latin-1")
                if name == "BI":
                    operands = [self._inline_picture()]
                yield start, self.place, Operator(name, operands)
                operands, start = [], -1
            elif not isinstance(found, _Closing):
                operands.append(found)

    def _inline_picture(self) -> dict[str, Any]:
        """What is said of an inline image; its pixels are passed over (§8.9.7)."""
        said: dict[str, Any] = {}
        while not self.at_end():
            key = self._token()
            if isinstance(key, _Word):
                break
            if isinstance(key, Name):
                said[str(key)] = self._token()
        end = INLINE_END.search(self.content, self.place)
        self.place = len(self.content) if end is None else end.end()
        return said

    def _token(self) -> Any:
        self.skip()
        found = TOKEN.match(self.content, self.place)
        if found is None:
            if self.place >= len(self.content):
                raise PdfSyntaxError("The file ends within an object.")
            self.place += 1
            return _Closing(self.content[self.place - 1 : self.place])
        start, self.place = self.place, found.end()
        kind = found.lastgroup
        if kind == "number":
            return self._number(found["number"])
        if kind == "name":
            plain = HEX_ESCAPE.sub(lambda part: bytes.fromhex(part[1].decode()), found["name"])
            return Name(plain.decode("utf-8", "replace"))
        if kind == "string":
            return self._string()
        if kind == "hex":
            digits = re.sub(rb"[^0-9A-Fa-f]", b"", found["hex"])
            return bytes.fromhex((digits + b"0" * (len(digits) % 2)).decode())
        if kind == "word":
            word = found["word"]
            return WORDS[word] if word in WORDS else _Word(word)
        mark = found["mark"]
        if mark not in (b"<<", b"["):
            return _Closing(mark)
        self._depth += 1
        if self._depth > MOST_NESTED:
            raise PdfSyntaxError(f"Objects are nested more than {MOST_NESTED} deep at byte {start}.")
        made = self._dictionary() if mark == b"<<" else self._array()
        self._depth -= 1
        return made

    def _number(self, text: bytes) -> int | float | Ref:
        if text.isdigit():
            found = REFERENCE.match(self.content, self.place)
            if found is not None:
                self.place = found.end()
                return Ref(int(text))
            return int(text)
        if EXACT.fullmatch(text):
            return Real(text)
        sign = -1 if text.startswith(b"-") else 1
        plain = text.lstrip(b"+-").split(b"-")[0]
        return sign * (float(plain) if b"." in plain else int(plain))

    def _string(self) -> bytes:
        """A string in parentheses (§7.3.4.2)."""
        content, parts, depth = self.content, [], 1
        while True:
            found = STRING_PART.search(content, self.place)
            if found is None:
                raise PdfSyntaxError(f"A string that begins before byte {self.place} has no end.")
            parts.append(content[self.place : found.start()])
            self.place = found.end()
            mark = found[0]
            if mark == b"\r":
                parts.append(b"\n")
                self.place += content[self.place : self.place + 1] == b"\n"
            elif mark == b"\\":
                parts.append(self._escape())
            else:
                depth += 1 if mark == b"(" else -1
                if not depth:
                    return b"".join(parts)
                parts.append(mark)

    def _escape(self) -> bytes:
        octal = re.compile(rb"[0-7]{1,3}").match(self.content, self.place)
        if octal is not None:
            self.place = octal.end()
            return bytes((int(octal[0], 8) & 255,))
        character = self.content[self.place : self.place + 1]
        self.place += 1
        if character in (b"\r", b"\n"):  # the line goes on
            self.place += character == b"\r" and self.content[self.place : self.place + 1] == b"\n"
            return b""
        return ESCAPES.get(character, character)

    def _array(self) -> list[Any]:
        found: list[Any] = []
        while True:
            item = self._token()
            if isinstance(item, _Closing):
                if item.mark == b"]":
                    return found
            elif isinstance(item, _Word):
                if item.word in (b"endobj", b"endstream"):
                    raise PdfSyntaxError(f"An array that should end before byte {self.place} does not.")
            else:
                found.append(item)

    def _dictionary(self) -> dict[str, Any]:
        found: dict[str, Any] = {}
        while True:
            key = self._token()
            if isinstance(key, _Closing):
                if key.mark == b">>":
                    return found
                continue
            if not isinstance(key, Name):
                if isinstance(key, _Word) and key.word in (b"endobj", b"stream"):
                    raise PdfSyntaxError(f"A dictionary that should end before byte {self.place} does not.")
                continue
            value = self._token()
            if isinstance(value, _Closing):
                if value.mark == b">>":
                    return found
                continue
            if not isinstance(value, _Word):
                found[str(key)] = value


def without_marks(content: bytes) -> bytes:
    """Operators in which marked sequences have no numbers, so that no structure asks for them (§14.7.5)."""
    if b"MCID" not in content:
        return content
    parser = Parser(content)
    parts: list[bytes] = []
    done = 0
    for start, end, operator in parser.placed_operators():
        if operator.name == "BDC" and any(isinstance(one, dict) and "MCID" in one for one in operator.operands):
            parts += [content[done:start], b"/Span BMC"]
            done = end
    return b"".join([*parts, content[done:]])
