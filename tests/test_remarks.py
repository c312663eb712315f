"""What remarks gather: one for all things of a kind, where the first of them stands."""

import pytest

from fleetquill.remarks import Remarks

MESSAGE = "No room for {}."


@pytest.mark.parametrize(
    ("items", "said"),
    [
        (["a"], "No room for a."),
        (["a", "a"], "No room for a. (2 times)"),
        (["a", "b", "a"], "No room for a, b. (3 times)"),
        (list("abcdefghijklm"), "No room for a, b, c, d, e, f, g, h, i, j, k, l and 1 more. (13 times)"),
    ],
)
def test_things_of_one_kind_are_told_together(items, said):
    remarks = Remarks()
    for line, item in enumerate(items, start=3):
        remarks.gather("room", MESSAGE, item, source="a.html", line=line)
    (told,) = remarks.all()
    assert (told.message, told.kind, told.source, told.line) == (said, "room", "a.html", 3)


def test_other_remarks_stand_beside_them():
    remarks = Remarks()
    remarks.add("other", "{} is not filled in.")
    remarks.gather("room", MESSAGE, "a")
    assert [remark.message for remark in remarks.all()] == ["{} is not filled in.", "No room for a."]
