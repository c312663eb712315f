"""Misspelt keywords and impossible values of public calls: errors of the family, with what is taken."""

from __future__ import annotations

import inspect
from collections.abc import Callable, Iterable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from fleetquill.errors import FleetQuillError, OptionError, nearest
from fleetquill.guard import is_ours

Asked = ParamSpec("Asked")
Given = TypeVar("Given")
Class = TypeVar("Class", bound=type[Any])


def told_keywords(function: Callable[Asked, Given]) -> Callable[Asked, Given]:
    """A function that says which keyword was meant where it has none of that name."""
    parameters = inspect.signature(function).parameters.values()
    if any(parameter.kind is inspect.Parameter.VAR_KEYWORD for parameter in parameters):
        return function
    known = dict.fromkeys(parameter.name for parameter in parameters)

    @wraps(function)
    def asked(*args: Asked.args, **kwargs: Asked.kwargs) -> Given:
        if not known.keys() >= kwargs.keys():
            raise _unknown(function, next(name for name in kwargs if name not in known), known)
        try:
            return function(*args, **kwargs)
        except (TypeError, ValueError, AttributeError, LookupError, ArithmeticError) as error:
            if isinstance(error, FleetQuillError) or not is_ours(error):
                raise
            what = f"{_called(function)} cannot use what it was given: {error}."
            remedy = f"It takes {', '.join(name for name in known if name not in ('self', 'cls'))}."
            raise OptionError(what, remedy=remedy) from error

    return asked


def told_constructor(owner: Class) -> Class:
    """A class whose constructor says so, too."""
    setattr(owner, "__init__", told_keywords(vars(owner)["__init__"]))  # noqa: B010
    return owner


def told_methods(owner: Class) -> Class:
    """A class whose constructor and public methods say so, too."""
    for name, member in list(vars(owner).items()):
        if name.startswith("_") and name != "__init__":
            continue
        if isinstance(member, classmethod):
            setattr(owner, name, classmethod(told_keywords(member.__func__)))
        elif inspect.isfunction(member):
            setattr(owner, name, told_keywords(member))
    return owner


def _called(function: Callable[..., Any]) -> str:
    """What a function is called by those who call it."""
    owner, _, own = function.__qualname__.rpartition(".")
    return owner if own == "__init__" else f"{own}()"


def _unknown(function: Callable[..., Any], name: str, known: Iterable[str]) -> OptionError:
    options = sorted(set(known) - {"self", "cls"})
    meant = nearest(name, options)
    remedy = f"Did you mean '{meant}'?" if meant else f"It has {', '.join(options)}."
    return OptionError(f"{_called(function)} has no option '{name}'.", remedy=remedy)
