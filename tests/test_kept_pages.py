"""What lands in a file is what landed there before, to the last number, wherever no change is meant.

`python -m tools.keep_pages` says what is otherwise, and keeps that.
"""

import json

import pytest

from kept.records import KEPT, all_records, digest

RECORDS = all_records()
DIGESTS = json.loads(KEPT.read_text(encoding="utf-8"))


def test_everything_that_is_recorded_is_kept():
    assert set(RECORDS) == set(DIGESTS)


@pytest.mark.parametrize("name", RECORDS)
def test_it_is_as_it_was(name):
    assert digest(RECORDS[name]()) == DIGESTS[name], f"python -m tools.keep_pages '{name}' prints it"
