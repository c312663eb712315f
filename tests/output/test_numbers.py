"""Every number of a file is one that ISO 32000-2 §7.3.3 allows: no exponent, no word."""

import re
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.output.pdf.objects import LARGEST, number
from fleetquill.output.pdf.operators import factors, num

REAL = re.compile(r"[+-]?(\d+(\.\d+)?|\.\d+)")


@given(st.floats(allow_nan=True, allow_infinity=True), st.integers(0, 6))
def test_a_number_is_read_back_as_what_it_was(value, places):
    text = number(value, places)
    assert REAL.fullmatch(text)
    if -LARGEST < value < LARGEST:
        assert float(text) == pytest.approx(value, abs=0.51 * 10**-places)
    assert REAL.fullmatch(num(value)) and len(factors([value] * 6).split()) == 6


CASES = [
    "<svg width=100 height=100><g transform='translate(0.00008 0.00003)'><rect width=10 height=10 /></g></svg>",
    "<svg width=100 height=100 viewBox='0 0 1e7 1e7'><path d='M0 0L1e9 1e-9L5e6 5e6' stroke=red /></svg>",
    "<div style='transform:rotate(.003deg) scale(1e-5,1e7);width:50px;height:5px;background:red'>x</div>",
    "<div style='background:linear-gradient(.001deg,red,rgb(0 0 0 / 1e-7));height:9px;opacity:1e-6'>x</div>",
    "<p style='font-size:.0001px;letter-spacing:.00001px;word-spacing:1e6px'>a b</p>",
]  # fmt: skip


@pytest.mark.parametrize("html", CASES)
def test_no_number_in_a_content_stream_has_an_exponent(html):
    content = fq.compose(fq.Manuscript.from_html(html)).to_bytes()
    for match in re.finditer(rb"<<(?P<dict>[^>]*)>>\s*stream\r?\n(?P<data>.*?)\r?\nendstream", content, re.DOTALL):
        data = match["data"]
        if b"FlateDecode" in match["dict"]:
            data = zlib.decompress(data)
        if b"Length1" not in match["dict"] and b"\0" not in data:
            assert not re.search(rb"(?<![\w(])[-+.\d]+e[-+]?\d+\b|\b(nan|inf)\b", data), data[:300]
