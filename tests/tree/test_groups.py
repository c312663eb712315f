"""Groups of rows: what their figures come to."""

from decimal import Decimal
from itertools import groupby

import pytest
from hypothesis import given
from hypothesis import strategies as st

import fleetquill as fq
from fleetquill.tree.groups import Account, Accounts, as_groups, level_of, summary_rows

amounts = st.one_of(st.none(), st.decimals(-1000, 1000, places=2, allow_nan=False))
rows = st.lists(st.tuples(st.sampled_from("AB"), st.sampled_from("xy"), amounts), max_size=40)


def expected(values):
    known = [value for value in values if value is not None]
    return (
        len(values), sum(known, Decimal(0)), Decimal(len(known)), sum(known, Decimal(0)) / len(known) if known else None,
        min(known, default=None), max(known, default=None),
    )  # fmt: skip


def found(account):
    return (account.rows, *(account.figure(kind, 0) for kind in ("sum", "count", "average", "least", "most")))


@given(rows)
def test_every_group_comes_to_what_its_rows_come_to(given_rows):
    accounts = Accounts(2, 1)
    ended = []
    for outer, inner, value in given_rows:
        ended += accounts.begin((outer, inner))
        accounts.add([value])
    ended += accounts.finish()
    inner_groups = [(1, keys[1], [v for *_, v in part]) for keys, part in groupby(given_rows, key=lambda r: r[:2])]
    outer_groups = [(0, key, [v for *_, v in part]) for key, part in groupby(given_rows, key=lambda r: r[0])]
    for level, groups in ((1, inner_groups), (0, outer_groups)):
        of_level = [(one.level, one.key, found(one.account)) for one in ended if one.level == level]
        assert of_level == [(level, key, expected(values)) for level, key, values in groups]
    assert found(accounts.whole) == expected([value for *_, value in given_rows])


def test_a_copy_goes_its_own_way():
    accounts = Accounts(1, 1)
    accounts.begin(("A",))
    accounts.add([Decimal(1)])
    other = accounts.copy()
    accounts.add([Decimal(5)])
    assert found(other.finish()[0].account)[:2] == (1, 1)
    assert found(accounts.finish()[0].account)[:2] == (2, 6)


@pytest.mark.parametrize(
    ("before", "after", "level"),
    [(("A", 1), ("A", 1), 2), (("A", 1), ("A", 2), 1), (("A", 1), ("B", 1), 0), ((None,), (None,), 1), ((), (), 0)],
)
def test_the_level_on_which_keys_differ(before, after, level):
    assert level_of(before, after) == level


def test_summaries_say_what_they_are():
    accounts = Accounts(1, 2)
    accounts.begin(("Teal",))
    for value in (1, 2, 6):
        accounts.add([Decimal(value), None])
    (ended,) = accounts.finish()
    whole = Account(2)
    whole.add([Decimal(18), None])
    group = fq.Group("barge", summaries=["total", ("average", "Mean"), "count", "share"], label="{} ({})".format)
    made = list(summary_rows(ended, group, "Teal", ["sum", "count"], whole, {"count": "Number", "share": "Part"}))
    assert [row.label for row in made] == ["Teal (3)", "Mean", "Number", "Part"]
    assert made[0].values == ((9, ""), (0, "#,##0"))
    assert made[1].values == ((3, ""), (None, ""))
    assert made[2].values == ((3, "#,##0"), (0, "#,##0"))
    assert made[3].values == ((Decimal("0.5"), "percent"), (None, "percent"))


@pytest.mark.parametrize(
    ("options", "what"),
    [
        ({"name": ""}, "not the name of a group"), ({"name": 3}, "not the name of a group"),
        ({"name": "a", "summaries": ["averag"]}, "Did you mean 'average'"),
        ({"name": "a", "summaries": "total"}, r"Give \['total'\]"), ({"name": "a", "form": "EURO"}, "not a form"),
        ({"name": "a", "summary": ["total"]}, "summaries"),
    ],
)  # fmt: skip
def test_a_group_that_is_none_is_an_error(options, what):
    with pytest.raises(fq.OptionError, match=what):
        fq.Group(**options)


def test_names_are_groups():
    assert [group.name for group in as_groups(["a", fq.Group("b")])] == ["a", "b"]
    assert as_groups("a") == (fq.Group("a"),)
    assert as_groups("") == ()
