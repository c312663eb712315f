"""Our named tuples behave as the standard library's do."""

from __future__ import annotations

import copy
import inspect
import pickle
import typing
from collections.abc import Callable
from typing import Any, Generic, TypeVar

import pytest
from hypothesis import given
from hypothesis import strategies as st

from fleetquill.named import NamedTuple

T = TypeVar("T")


class Ours(NamedTuple):
    """A cargo."""

    name: str
    tonnes: float = 1.5
    barge: str | None = None

    @property
    def heavy(self) -> bool:
        return self.tonnes > 100


class Theirs(typing.NamedTuple):
    """A cargo."""

    name: str
    tonnes: float = 1.5
    barge: str | None = None


class Held(NamedTuple, Generic[T]):
    value: T


class Derived(Ours):
    __slots__ = ()

    def __new__(cls, name: str) -> Derived:
        return super().__new__(cls, name, 200.0)


values = st.one_of(st.integers(), st.text(max_size=3))
arguments = st.tuples(
    st.lists(values, max_size=4),
    st.dictionaries(st.sampled_from(["name", "tonnes", "barge", "lock"]), values, max_size=4),
)


def outcome(call: Callable[..., Any], given: tuple[list[Any], dict[str, Any]]) -> Any:
    try:
        made = call(*given[0], **given[1])
    except TypeError:
        return TypeError
    return tuple(made), made._asdict(), repr(made).replace("Ours", "Theirs"), hash(made)


@given(arguments)
def test_a_named_tuple_takes_the_arguments_that_the_standard_one_takes(given: tuple[list[Any], dict[str, Any]]) -> None:
    assert outcome(Ours, given) == outcome(Theirs, given)


@given(st.lists(values, max_size=5))
def test_a_named_tuple_is_made_of_as_many_values_as_it_has_fields(given: list[Any]) -> None:
    assert outcome(Ours._make, ([given], {})) == outcome(Theirs._make, ([given], {}))


def test_a_named_tuple_is_a_tuple_with_names() -> None:
    cargo = Ours("clay", 120.0)
    name, tonnes, barge = cargo
    assert (name, tonnes, barge) == cargo == ("clay", 120.0, None)
    assert (cargo.name, cargo.tonnes, cargo.barge, cargo.heavy) == ("clay", 120.0, None, True)
    assert cargo._replace(barge="Heron") == ("clay", 120.0, "Heron")
    assert Ours._fields == Theirs._fields
    assert Ours._field_defaults == Theirs._field_defaults
    assert Ours.__doc__ == "A cargo."
    assert Held.__doc__ == "Held(value)"
    assert Ours.__match_args__ == Theirs.__match_args__
    assert list(inspect.signature(Ours).parameters) == ["name", "tonnes", "barge"]
    assert not hasattr(cargo, "__dict__")
    with pytest.raises(AttributeError):
        cargo.tonnes = 3.0  # type: ignore[misc]
    with pytest.raises(TypeError, match="lock"):
        cargo._replace(lock="Saltgate")  # type: ignore[call-arg]


def test_a_named_tuple_is_copied_pickled_and_derived_from() -> None:
    cargo = Ours("brick", 12.0)
    assert copy.copy(cargo) == pickle.loads(pickle.dumps(cargo)) == cargo
    assert type(pickle.loads(pickle.dumps(cargo))) is Ours
    assert Held(4).value == 4
    assert Derived("slate").heavy
    assert type(Derived("slate")._replace(tonnes=1.0)) is Derived


def test_a_field_without_a_default_may_not_follow_one_that_has_one() -> None:
    with pytest.raises(TypeError, match="follows"):
        exec("class Wrong(NamedTuple):\n    first: int = 1\n    second: int\n", {"NamedTuple": NamedTuple})
