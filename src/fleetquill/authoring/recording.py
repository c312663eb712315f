"""What a manuscript was built of: the calls that added its parts, so that it can be written as data."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterator
from contextlib import AbstractContextManager, contextmanager
from functools import wraps
from typing import Any, NamedTuple, TypeVar

Class = TypeVar("Class", bound=type[Any])


class Call(NamedTuple):
    """The name of a method, its arguments by name, and the calls that were made inside of it."""

    name: str
    arguments: dict[str, Any]
    inner: list[Call]


class Recorded:
    """An object whose calls are noted, but for those that it makes itself."""

    _calls: list[Call]
    _notes: bool = False  # whether calls are noted at the moment


def recorded(*names: str) -> Callable[[Class], Class]:
    """Notes the calls of methods of a class."""

    def wrap(cls: Class) -> Class:
        for name in names:
            setattr(cls, name, _recorded(getattr(cls, name)))
        return cls

    return wrap


def _recorded(function: Callable[..., Any]) -> Callable[..., Any]:
    signature = inspect.signature(function)

    @wraps(function)
    def call(owner: Recorded, *args: Any, **kwargs: Any) -> Any:
        if not owner._notes:
            return function(owner, *args, **kwargs)
        owner._notes = False
        try:
            done = function(owner, *args, **kwargs)
        finally:
            owner._notes = True
        arguments = dict(signature.bind(owner, *args, **kwargs).arguments)
        arguments.pop("self")
        noted = Call(function.__name__, arguments, [])
        owner._calls.append(noted)
        return _inside(owner, noted, done) if isinstance(done, AbstractContextManager) else done

    return call


@contextmanager
def _inside(owner: Recorded, noted: Call, manager: AbstractContextManager[Any]) -> Iterator[Any]:
    """What is called meanwhile is noted inside of a call; a plate notes what is drawn on it."""
    owners = [owner, *filter(None, [getattr(owner, "_parts", None)])]  # what stands on a plate is the manuscript's
    around = [one._calls for one in owners]
    owner._notes = False
    try:
        with manager as entered:
            owner._notes = True
            if isinstance(entered, Recorded):
                entered._calls, entered._notes = noted.inner, True
            for one in owners:
                one._calls = noted.inner
            yield entered
            owner._notes = False
    finally:
        for one, calls in zip(owners, around, strict=True):
            one._calls, one._notes = calls, True
