"""Misspelt keywords of public calls: an error of the family, with the nearest name."""

from __future__ import annotations

import inspect
from collections.abc import Callable
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from fleetquill.errors import OptionError, nearest

Asked = ParamSpec("Asked")
Given = TypeVar("Given")
Class = TypeVar("Class", bound=type[Any])


def told_keywords(function: Callable[Asked, Given]) -> Callable[Asked, Given]:
    """A function that says which keyword was meant where it has none of that name."""
    parameters = inspect.signature(function).parameters.values()
    if any(parameter.kind is inspect.Parameter.VAR_KEYWORD for parameter in parameters):
        return function
    known = {parameter.name for parameter in parameters}

    @wraps(function)
    def asked(*args: Asked.args, **kwargs: Asked.kwargs) -> Given:
        if not known.issuperset(kwargs):
            raise _unknown(function, next(name for name in kwargs if name not in known), known)
        return function(*args, **kwargs)

    return asked


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


def _unknown(function: Callable[..., Any], name: str, known: set[str]) -> OptionError:
    owner, _, own = function.__qualname__.rpartition(".")
    called = owner if own == "__init__" else f"{own}()"
    options = sorted(known - {"self", "cls"})
    meant = nearest(name, options)
    remedy = f"Did you mean '{meant}'?" if meant else f"It has {', '.join(options)}."
    return OptionError(f"{called} has no option '{name}'.", remedy=remedy)
