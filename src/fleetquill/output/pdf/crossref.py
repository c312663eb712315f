"""Where the objects of a growing file are: rows of its cross-reference stream (ISO 32000-2 §7.5.8.3).

Rows are kept in blocks, of which a few are open: the others are packed, so that millions of objects take little memory.
"""

from __future__ import annotations

import sys
import zlib
from array import array
from typing import Final

ROWS_IN_A_BLOCK: Final = 8_192
FREE, PLACED, PACKED = 0, 1, 2  # kinds of rows
LAST_GENERATION: Final = 65_535  # of the first object, which heads the list of free ones
QUICK, COMPRESSION = 1, 6  # levels of it
MOST_OPEN: Final = 4  # blocks
LONG, SHORT = array("Q").itemsize, array("I").itemsize  # bytes of the numbers


class _Block:
    """Rows that follow one another: their kinds, and the two numbers of each."""

    __slots__ = ("first", "kinds", "packed", "second")

    def __init__(self) -> None:
        self.kinds = bytearray()
        self.first = array("Q")
        self.second = array("I")
        self.packed: bytes | None = None

    def pack(self) -> None:
        self.packed = zlib.compress(b"".join(self.columns()), QUICK)
        self.kinds, self.first, self.second = bytearray(), array("Q"), array("I")

    def unpack(self) -> None:
        kinds, first, second = self.columns()
        self.kinds = bytearray(kinds)
        self.first.frombytes(first)
        self.second.frombytes(second)
        self.packed = None

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
        self._open: dict[int, None] = {}  # places of blocks that are not packed, the one that was used last at the end
        self.count = 0
        self.reserve(1)
        self.place(0, FREE, 0, LAST_GENERATION)

    def reserve(self, count: int) -> int:
        """The first of so many numbers that are new."""
        start = self.count
        self.count += count
        if count == 1 and start % ROWS_IN_A_BLOCK:
            block = self._block(len(self._blocks) - 1)
            block.kinds.append(FREE)
            block.first.append(0)
            block.second.append(0)
            return start
        while count:
            if not self._blocks or (self.count - count) % ROWS_IN_A_BLOCK == 0:
                self._blocks.append(_Block())
            block = self._block(len(self._blocks) - 1)
            taken = min(count, ROWS_IN_A_BLOCK - (self.count - count) % ROWS_IN_A_BLOCK)
            nothing = bytes(taken)
            block.kinds += nothing
            block.first.extend(nothing)
            block.second.extend(nothing)
            count -= taken
        return start

    def place(self, number: int, kind: int, first: int, second: int) -> None:
        """Says where an object is."""
        block = self._block(number // ROWS_IN_A_BLOCK)
        at = number % ROWS_IN_A_BLOCK
        block.kinds[at], block.first[at], block.second[at] = kind, first, second

    def _block(self, place: int) -> _Block:
        """A block to be written in; the one that was not used for longest is packed."""
        block = self._blocks[place]
        if block.packed is not None:
            block.unpack()
        self._open.pop(place, None)
        self._open[place] = None
        if len(self._open) > MOST_OPEN:
            oldest = next(iter(self._open))
            del self._open[oldest]
            self._blocks[oldest].pack()
        return block

    def place_row(self, number: int, count: int, stream: int, place: int) -> None:
        """Says that objects whose numbers follow one another stand in a stream, from a place in it on."""
        while count:
            block = self._block(number // ROWS_IN_A_BLOCK)
            at = number % ROWS_IN_A_BLOCK
            taken = min(count, ROWS_IN_A_BLOCK - at)
            stop = at + taken
            block.kinds[at:stop] = bytes((PACKED,)) * taken
            block.first[at:stop] = array("Q", [stream]) * taken
            block.second[at:stop] = array("I", range(place, place + taken))
            number, place, count = number + taken, place + taken, count - taken

    def packed(self, largest: int) -> tuple[bytes, int]:
        """The deflated rows, each as its difference from the one above (PNG 3 §9.2, filter 2), and how many bytes the
        first number of each has; `largest` is the largest of those."""
        width = max(1, (max(largest, self.count).bit_length() + 7) // 8)
        machine = zlib.compressobj(COMPRESSION)
        parts: list[bytes] = []
        above = bytes(4 + width)
        for block in self._blocks:
            rows = _rows(block, width)
            parts.append(machine.compress(_differences(above, rows)))
            above = bytes(rows[-len(above) :])
        return b"".join(parts) + machine.flush(), width


def _rows(block: _Block, width: int) -> bytearray:
    """The rows of a block, each with a place for the byte that names the filter."""
    size = 4 + width
    kinds, first, second = block.columns()
    rows = bytearray(size * len(kinds))
    rows[1::size] = kinds
    for place in range(width):
        rows[2 + place :: size] = first[_byte(width - 1 - place, LONG) :: LONG]
    for place in range(2):
        rows[2 + width + place :: size] = second[_byte(1 - place, SHORT) :: SHORT]
    return rows


def _byte(power: int, size: int) -> int:
    """Where in a number of so many bytes the one of some power stands, as the machine has it."""
    return power if sys.byteorder == "little" else size - 1 - power


def _differences(above: bytes, rows: bytearray) -> bytes:
    """Each byte less the one a row above, modulo 256: all at once, as one long number whose bytes do not borrow from
    one another. The first byte of each row names the filter."""
    length, size = len(rows), len(above)
    high = int.from_bytes(b"\x80" * length, "little")
    whole = (1 << (8 * length)) - 1
    own = int.from_bytes(rows, "little")
    shifted = int.from_bytes(above + rows[:-size], "little")
    found = ((own | high) - (shifted & (whole ^ high))) ^ ((own ^ shifted ^ whole) & high)
    filters = int.from_bytes((b"\x02" + bytes(size - 1)) * (length // size), "little")
    return (found | filters).to_bytes(length, "little")
