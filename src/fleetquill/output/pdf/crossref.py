"""Where the objects of a growing file are: rows of its cross-reference stream (ISO 32000-2 §7.5.8.3).

Rows are kept in blocks; one whose rows are all known is packed, so that millions of objects take little memory.
"""

from __future__ import annotations

import sys
import zlib
from array import array
from typing import Final

ROWS_IN_A_BLOCK: Final = 8_192
FREE, PLACED, PACKED = 0, 1, 2  # kinds of rows
LAST_GENERATION: Final = 65_535  # of the first object, which heads the list of free ones
QUICK: Final = 1  # level of compression
LONG, SHORT = array("Q").itemsize, array("I").itemsize  # bytes of the numbers


class _Block:
    """Rows that follow one another: their kinds, and the two numbers of each."""

    __slots__ = ("first", "kinds", "known", "packed", "second")

    def __init__(self) -> None:
        self.kinds = bytearray()
        self.first = array("Q")
        self.second = array("I")
        self.known = 0
        self.packed: bytes | None = None

    def pack(self) -> None:
        rows = b"".join((self.kinds, self.first.tobytes(), self.second.tobytes()))
        self.packed = zlib.compress(rows, QUICK)
        self.kinds, self.first, self.second = bytearray(), array("Q"), array("I")

    def columns(self) -> tuple[bytes, bytes, bytes]:
        """The kinds, and the numbers as bytes."""
        if self.packed is None:
            return bytes(self.kinds), self.first.tobytes(), self.second.tobytes()
        content = zlib.decompress(self.packed)
        count = len(content) // (1 + LONG + SHORT)
        return content[:count], content[count : count * (1 + LONG)], content[count * (1 + LONG) :]


class CrossReferences:
    """The rows of all objects, by their number."""

    def __init__(self) -> None:
        self._blocks: list[_Block] = []
        self.count = 0
        self.reserve(1)
        self.place(0, FREE, 0, LAST_GENERATION)

    def reserve(self, count: int) -> int:
        """The first of so many numbers that are new."""
        start = self.count
        self.count += count
        if count == 1 and start % ROWS_IN_A_BLOCK:
            block = self._blocks[-1]
            block.kinds.append(FREE)
            block.first.append(0)
            block.second.append(0)
            return start
        while count:
            if not self._blocks or (self.count - count) % ROWS_IN_A_BLOCK == 0:
                self._blocks.append(_Block())
            block = self._blocks[-1]
            taken = min(count, ROWS_IN_A_BLOCK - (self.count - count) % ROWS_IN_A_BLOCK)
            nothing = bytes(taken)
            block.kinds += nothing
            block.first.extend(nothing)
            block.second.extend(nothing)
            count -= taken
        return start

    def place(self, number: int, kind: int, first: int, second: int) -> None:
        """Says where an object is."""
        block = self._blocks[number // ROWS_IN_A_BLOCK]
        at = number % ROWS_IN_A_BLOCK
        block.kinds[at], block.first[at], block.second[at] = kind, first, second
        block.known += 1
        if block.known == ROWS_IN_A_BLOCK:
            block.pack()

    def place_row(self, number: int, count: int, stream: int, place: int) -> None:
        """Says that objects whose numbers follow one another stand in a stream, from a place in it on."""
        while count:
            block = self._blocks[number // ROWS_IN_A_BLOCK]
            at = number % ROWS_IN_A_BLOCK
            taken = min(count, ROWS_IN_A_BLOCK - at)
            stop = at + taken
            block.kinds[at:stop] = bytes((PACKED,)) * taken
            block.first[at:stop] = array("Q", [stream]) * taken
            block.second[at:stop] = array("I", range(place, place + taken))
            block.known += taken
            if block.known == ROWS_IN_A_BLOCK:
                block.pack()
            number, place, count = number + taken, place + taken, count - taken

    def content(self, largest: int) -> tuple[bytes, int]:
        """The rows as they are written, each as its difference from the one above (PNG 3 §9.2, filter 2), and how many
        bytes the first number of each has; `largest` is the largest of those."""
        width = max(1, (max(largest, self.count).bit_length() + 7) // 8)
        size = 4 + width  # with the byte that names the filter
        rows = bytearray(size * self.count)
        start = 0
        for block in self._blocks:
            kinds, first, second = block.columns()
            stop = start + size * len(kinds)
            rows[start + 1 : stop : size] = kinds
            for place in range(width):
                rows[start + 2 + place : stop : size] = first[_byte(width - 1 - place, LONG) :: LONG]
            for place in range(2):
                rows[start + 2 + width + place : stop : size] = second[_byte(1 - place, SHORT) :: SHORT]
            start = stop
        return _differences(rows, size), width


def _byte(power: int, size: int) -> int:
    """Where in a number of so many bytes the one of some power stands, as the machine has it."""
    return power if sys.byteorder == "little" else size - 1 - power


def _differences(rows: bytearray, size: int) -> bytes:
    """Each byte less the one a row above, modulo 256: all at once, as one long number whose bytes do not borrow from
    one another. The first byte of each row names the filter."""
    length = len(rows)
    high = int.from_bytes(b"\x80" * length, "little")
    whole = (1 << (8 * length)) - 1
    own = int.from_bytes(rows, "little")
    above = (own << (8 * size)) & whole
    found = ((own | high) - (above & (whole ^ high))) ^ ((own ^ above ^ whole) & high)
    filters = int.from_bytes((b"\x02" + bytes(size - 1)) * (length // size), "little")
    return (found | filters).to_bytes(length, "little")
