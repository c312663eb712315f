"""Cross-references: where objects are is read again, however they were reserved and placed."""

import io
import random
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.output.pdf.crossref import PACKED, PLACED, ROWS_IN_A_BLOCK, CrossReferences
from fleetquill.output.pdf.file import PdfFile
from fleetquill.pdf.filters import unpacked
from fleetquill.pdf.objects import Name
from fleetquill.pdf.reading import PdfReader


def rows_of(references, largest):
    packed, width = references.packed(largest)
    content = unpacked(packed, ["FlateDecode"], [{"Predictor": 12, "Columns": width + 3}])
    size = width + 3
    return [
        (row[0], int.from_bytes(row[1 : 1 + width], "big"), int.from_bytes(row[1 + width :], "big"))
        for row in (content[at : at + size] for at in range(0, len(content), size))
    ]


@given(st.lists(st.tuples(st.integers(1, 30), st.booleans(), st.integers(0, 1 << 34), st.integers(0, 60_000))))
def test_rows_are_read_as_they_were_placed(steps):
    references, expected = CrossReferences(), [(0, 0, 65_535)]
    for count, row, first, second in steps:
        start = references.reserve(count)
        assert start == len(expected)
        if row:
            references.place_row(start, count, first, second)
            expected += [(PACKED, first, second + index) for index in range(count)]
        else:
            expected += [(0, 0, 0)] * count
            references.place(start, PLACED, first, second)
            expected[start] = (PLACED, first, second)
    assert rows_of(references, 1 << 34) == expected


def test_many_blocks_are_packed_and_written_in_again():
    references, expected, chance = CrossReferences(), {}, random.Random(5)
    count = 6 * ROWS_IN_A_BLOCK + 100
    references.reserve(count - 50)
    for _ in range(50):
        references.reserve(1)
    for number in chance.sample(range(1, count), 400):
        expected[number] = (PLACED, number * 17, 0)
        references.place(*((number, *expected[number])))
    start = 2 * ROWS_IN_A_BLOCK - 10
    references.place_row(start, 30, 9, 1)
    expected |= {start + index: (PACKED, 9, 1 + index) for index in range(30)}
    rows = rows_of(references, count * 17)
    assert len(rows) == count + 1
    assert {number: rows[number] for number in expected} == expected


@pytest.mark.parametrize("order", ["in order", "turned around", "mixed"])
def test_objects_are_found_again(order):
    stream = io.BytesIO()
    file = PdfFile(stream)
    refs = [file.reserve() for _ in range(500)]
    places = list(range(500))
    if order == "turned around":
        places.reverse()
    elif order == "mixed":
        random.Random(3).shuffle(places)
    for place in places:
        if place % 7:
            file.add({"Place": place}, refs[place])
        else:
            file.add_stream(b"%d" % place, {"Place": place}, refs[place])
    first = file.reserve_row(40)
    file.add_row(first, [b"<</Row %d>>" % index for index in range(40)])
    pages = file.add({"Type": Name("Pages"), "Kids": [], "Count": 0})
    catalog = file.add({"Type": Name("Catalog"), "Pages": pages})
    file.finish(catalog, None)
    reader = PdfReader(stream.getvalue())
    assert not reader.repaired
    assert [reader.dictionary(ref)["Place"] for ref in refs] == list(range(500))
    assert [reader.get(first + index) for index in range(40)] == [{"Row": index} for index in range(40)]


def test_a_million_objects_take_little_room_in_the_table():
    references = CrossReferences()
    for stream in range(5_000):
        start = references.reserve(200)
        references.place_row(start, 200, stream + 1, 0)
    packed, _ = references.packed(10_000_000)
    assert len(packed) < 100_000
    assert zlib.decompress(packed)
