"""Named tuples as `typing` has them, made in a tenth of the time.

A press has over a hundred kinds of them, and what `typing` spends on checking the annotations of
each and on compiling its constructor is a tenth of a cold start. Here the constructors of one
number of fields share one piece of code, and annotations are for type checkers, who see `typing`'s own.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from typing import NamedTuple
else:
    from functools import cache
    from operator import itemgetter
    from types import CodeType, FunctionType
    from typing import Any

    try:
        from _collections import _tuplegetter as getter  # what the standard's own named tuples are read with
    except ImportError:

        def getter(index: int, _doc: str) -> property:
            return property(itemgetter(index))

    class _Maker(type):
        """Makes of a class with annotations a subclass of tuple (PEP 526's class syntax)."""

        def __new__(mcs, name: str, bases: tuple[type, ...], namespace: dict[str, Any]) -> type:
            if not bases:
                return super().__new__(mcs, name, bases, namespace)
            fields = tuple(namespace.get("__annotations__", ()))
            defaults = {field: namespace[field] for field in fields if field in namespace}
            if tuple(defaults) != fields[len(fields) - len(defaults) :]:
                raise TypeError(f"In {name}, a field without a default follows one that has one.")
            namespace.setdefault("__doc__", f"{name}({', '.join(fields)})")
            namespace |= {field: getter(index, field) for index, field in enumerate(fields)}
            namespace |= {"__slots__": (), "_fields": fields, "_field_defaults": defaults, "__match_args__": fields}
            for method in (_make, _replace, _asdict, __repr__, __getnewargs__):
                namespace.setdefault(method.__name__, classmethod(method) if method is _make else method)
            code = _constructor(len(fields)).replace(co_varnames=("_class", *fields))
            namespace["__new__"] = FunctionType(
                code, {"_new": tuple.__new__}, "__new__", tuple(defaults.values()) or None
            )
            return type(name, (tuple, *bases[1:]), namespace)

    @cache
    def _constructor(count: int) -> CodeType:
        """The code of a constructor of so many fields."""
        fields = "".join(f"_{index}, " for index in range(count))
        made: FunctionType = eval(f"lambda _class, {fields}: _new(_class, ({fields}))")
        return made.__code__.replace(co_name="__new__", co_qualname="__new__")

    def _make(cls: Any, values: Any) -> Any:
        """A tuple of the values that an iterable gives."""
        made = tuple.__new__(cls, values)
        if len(made) != len(cls._fields):
            raise TypeError(f"{cls.__name__} has {len(cls._fields)} fields, not {len(made)}.")
        return made

    def _replace(self: Any, **changed: Any) -> Any:
        """The same tuple with some of its fields changed."""
        made = tuple.__new__(type(self), map(changed.pop, self._fields, self))
        if changed:
            raise TypeError(f"{type(self).__name__} has no field {', '.join(changed)}.")
        return made

    def _asdict(self: Any) -> dict[str, Any]:
        """The fields by name."""
        return dict(zip(self._fields, self, strict=True))

    def __repr__(self: Any) -> str:
        shown = ", ".join(f"{field}={value!r}" for field, value in zip(self._fields, self, strict=True))
        return f"{type(self).__name__}({shown})"

    def __getnewargs__(self: Any) -> tuple[Any, ...]:
        return tuple(self)

    class NamedTuple(metaclass=_Maker):
        """The base of a class whose annotations are its fields."""


__all__ = ["NamedTuple"]
