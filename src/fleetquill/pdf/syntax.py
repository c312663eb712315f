"""The syntax of PDF: objects and operators from bytes (ISO 32000-2 §7.2 and §7.3).

A dictionary is a dict with names (without slash) as keys, an array a list, a string bytes, a name a `Name`, a
reference a `Ref`. What is damaged is read as far as it can be; where nothing can be made of it, a PdfSyntaxError says
where.
"""

from __future__ import annotations

import re
from binascii import unhexlify
from collections.abc import Iterator
from typing import Any, Final, NamedTuple

from fleetquill.pdf.objects import Name, Real, Ref

BLANK: Final = rb"\x00\t\n\x0c\r "
BLANKS: Final = b"\x00\t\n\x0c\r "
APART: Final = BLANK + rb"()<>\[\]{}/%"
SKIP: Final = rb"(?:[%b]+|%%[^\r\n]*)*+" % BLANK
SKIPPED: Final = re.compile(SKIP)
ENDS: Final = rb"(?=[%b]|$)" % APART
# One of these always matches; which one is said by the number of the group. None goes back over what it has matched.
TOKEN: Final = re.compile(
    SKIP + rb"(?:(\d++)" + ENDS + rb"(?:[%b]++\d++[%b]++(R)" % (BLANK, BLANK) + ENDS + rb")?"
    + rb"|([+-]?\d++\.\d{0,3})" + ENDS + rb"|/([^%b]*)|(\()|<(?!<)([0-9A-Fa-f%b]*)>?" % (APART, BLANK)
    + rb"|([+-]*+(?:\d++\.?\d*+|\.\d++)(?:-\d++)?)" + ENDS + rb"|([^%b]+)|(<<|>>|[^%b])|(\Z))" % (APART, BLANK),
    re.DOTALL,
)  # fmt: skip
WHOLE, REFERENCE, SHORT, NAME, STRING, HEX, NUMBER, WORD, MARK, END = range(1, 11)
EXACT: Final = re.compile(rb"[+-]?\d{0,9}\.\d{4,60}")  # numbers that lose something where they are rounded
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
        match, content = TOKEN.match, self.content
        operands: list[Any] = []
        start = -1
        while found := match(content, self.place):
            kind = found.lastindex or END
            if start < 0:
                start = found.start(WHOLE if kind == REFERENCE else kind) - (kind in (NAME, HEX))
            self.place = found.end()
            if kind == WORD and (word := found[WORD]) not in WORDS:
                name = word.decode("latin-1")
                if name == "BI":
                    operands = [self._inline_picture()]
                yield start, self.place, Operator(name, operands)
                operands, start = [], -1
            elif kind == WHOLE:
                operands.append(int(found[WHOLE]))
            elif kind == SHORT:
                operands.append(float(found[SHORT]))
            else:
                try:
                    made = self._made(found)
                except PdfSyntaxError:
                    return
                if type(made) is not _Closing:
                    operands.append(made)

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
        found = TOKEN.match(self.content, self.place)
        assert found is not None  # whatever stands there, or the end
        self.place = found.end()
        return self._made(found)

    def _made(self, found: re.Match[bytes]) -> Any:
        kind = found.lastindex
        if kind == WHOLE:
            return int(found[WHOLE])
        if kind == SHORT:
            return float(found[SHORT])
        if kind == WORD:
            word = found[WORD]
            return WORDS[word] if word in WORDS else _Word(word)
        if kind == NAME:
            name = found[NAME]
            if b"#" in name:
                name = HEX_ESCAPE.sub(lambda part: bytes.fromhex(part[1].decode()), name)
            return Name(name.decode("utf-8", "replace"))
        if kind == REFERENCE:
            return Ref(int(found[WHOLE]))
        if kind == HEX:
            return _hexadecimal(found[HEX])
        if kind == STRING:
            return self._string()
        if kind == NUMBER:
            return _number(found[NUMBER])
        if kind == END:
            raise PdfSyntaxError("The file ends within an object.")
        mark = found[MARK]
        if mark not in (b"<<", b"["):
            return _Closing(mark)
        self._depth += 1
        if self._depth > MOST_NESTED:
            at = self.place - len(mark)
            raise PdfSyntaxError(f"Objects are nested more than {MOST_NESTED} deep at byte {at}.")
        made = self._dictionary() if mark == b"<<" else self._array()
        self._depth -= 1
        return made

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
        match, content = TOKEN.match, self.content
        made: list[Any] = []
        while found := match(content, self.place):
            kind = found.lastindex
            self.place = found.end()
            if kind == WHOLE:
                made.append(int(found[WHOLE]))
            elif kind == HEX:
                made.append(_hexadecimal(found[HEX]))
            else:
                item = self._made(found)
                if type(item) is _Closing:
                    if item.mark == b"]":
                        break
                elif type(item) is not _Word:
                    made.append(item)
                elif item.word in (b"endobj", b"endstream"):
                    raise PdfSyntaxError(f"An array that should end before byte {self.place} does not.")
        return made

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


def _hexadecimal(digits: bytes) -> bytes:
    """A string in hexadecimal digits; where the last is missing it is nought (§7.3.4.3)."""
    try:
        return unhexlify(digits)
    except ValueError:
        plain = digits.translate(None, BLANKS)
        return unhexlify(plain + b"0" * (len(plain) % 2))


def _number(text: bytes) -> int | float:
    """A number as it may be written, or as some write it: with several signs, with a sign within."""
    if EXACT.fullmatch(text):
        return Real(text)
    sign = -1 if text.startswith(b"-") else 1
    plain = text.lstrip(b"+-").split(b"-")[0]
    return sign * (float(plain) if b"." in plain else int(plain))


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
