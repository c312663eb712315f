"""Each parser of ours takes any bytes: it reads them or says with an error of ours what is wrong."""

import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hostile.making import damaged
from hostile.parsers import PARSERS, SEEDS, tried


@pytest.mark.parametrize("name", PARSERS)
@settings(max_examples=150, deadline=None)
@given(
    content=st.one_of(st.binary(max_size=60), st.text(max_size=60).map(lambda text: text.encode("utf-8", "replace")))
)
def test_any_bytes_are_read_or_refused(name, content):
    tried(name, content)


FOUND = [  # by tools/fuzz_parsers.py and its like, before they were mended
    ("selectors", b":nth-child(2n+"), ("forms of numbers", b"number:" + b"@" * 60), ("forms of numbers", b"e##@#########################"),
    ("data addresses", b",\x80"), ("data addresses", b";base64,\x80"), ("data", b"a: 2024-13-45"), ("HTML", b"<a b='&#1;'>&#2;<t\x01>"), ("HTML", b"<svg><b:></svg>"), ("SVG", b"<svg><a:b: c:d:='e'/></svg>"),
    ("style sheets", b"@font-face{font-family:a;src:url(a) format((x)), local((y))}"),
]  # fmt: skip


@pytest.mark.parametrize(("name", "content"), FOUND)
def test_what_was_found_stays_mended(name, content):
    tried(name, content)


@pytest.mark.parametrize("name", SEEDS)
def test_damaged_texts_are_read_or_refused(name):
    chance = random.Random(name)
    for seed in SEEDS[name]:
        tried(name, seed.encode())
        for _ in range(200):
            tried(name, damaged(chance, seed.encode() * chance.randint(1, 3)))
