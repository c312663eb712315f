"""The sandbox that templates of strangers run in: plain values, no methods of the data, and a budget of work.

A step of work is a turn of a loop, a call, or a character or element that the template makes. What would make very
much is reckoned before it is done, what was made is counted afterwards, so that nothing grows beyond the budget.
"""

from __future__ import annotations

import dataclasses
import inspect
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextvars import ContextVar
from datetime import date, datetime, time, timedelta
from decimal import Decimal
from enum import Enum
from functools import cached_property, wraps
from types import BuiltinMethodType, FunctionType
from typing import Any, Final
from uuid import UUID

import jinja2
from jinja2 import nodes, runtime
from jinja2.exceptions import SecurityError
from jinja2.sandbox import ImmutableSandboxedEnvironment
from jinja2.utils import Cycler, Joiner, Namespace
from markupsafe import Markup

from fleetquill.deadline import heed
from fleetquill.errors import LimitError

LARGEST_NUMBER: Final = 1_000  # that says how often or how wide: of padding, indents, slices
CALL: Final = 5  # steps of a call
MOST_BITS: Final = 20_000  # of a whole number
LONGEST_SLOW: Final = 100_000  # characters for filters that look at each word several times
WIDE: Final = re.compile(r"\d{4,}|\*")  # in a format: wider than any text
NESTED: Final = re.compile(r"\{[^{}]*\{")  # a width that is given among the values

COUNTED: Final = "fq_counted"
WRITTEN: Final = "fq_written"
JOINED: Final = "fq_joined"
MADE: Final = "fq_made"


class Work:
    """What one rendering may still do."""

    def __init__(self, most: int) -> None:
        self.most = most
        self.left = most

    def charge(self, steps: int) -> None:
        self.left -= steps
        if self.left < 0:
            self.refuse()

    def refuse(self) -> None:
        raise LimitError(
            f"The template takes more than {self.most} steps of work.",
            remedy="Look for a loop in a loop, or for text that grows; Policy(template_steps=…) allows more.",
        )

    def expect(self, size: int) -> None:
        """Refuses what would make more than is left, before it is made."""
        if size > self.left:
            self.refuse()

    def measure(self, value: Any) -> Any:
        """Charges the size of a value, as it would be written out: what stands in it twice counts twice."""
        open_values: list[Iterator[Any]] = [iter((value,))]
        while open_values:
            for one in open_values[-1]:
                if isinstance(one, (str, bytes)):
                    self.charge(len(one) + 1)
                elif isinstance(one, Mapping):
                    self.charge(1)
                    open_values.append(iter((*one.keys(), *one.values())))
                    break
                elif isinstance(one, (list, tuple, set, frozenset)):
                    self.charge(1)
                    open_values.append(iter(one))
                    break
                else:
                    self.charge(1)
            else:
                open_values.pop()
            if len(open_values) > LARGEST_NUMBER:
                raise LimitError("A value of the template is nested too deep.")
        return value

    def counted(self, values: Any) -> Iterator[Any]:
        """The values of a loop."""
        for value in values:
            self.charge(1)
            heed()
            yield value


WORK: Final[ContextVar[Work | None]] = ContextVar("WORK", default=None)


def _work() -> Work:
    """What is left of the rendering; parts of templates that never change are worked out as they are compiled."""
    return WORK.get() or Work(1_000_000)


# ---- what would be made ----


def _text(value: Any) -> int:
    return len(value) if isinstance(value, str) else 0


def _repeated(left: Any, right: Any) -> int:
    if isinstance(left, int) and isinstance(right, int):
        return _bits(left.bit_length() + right.bit_length())
    if isinstance(left, int):
        left, right = right, left
    return len(left) * max(0, right) if isinstance(right, int) and hasattr(left, "__len__") else 0


def _bits(count: int) -> int:
    """Whole numbers are free up to a length, then they are too long."""
    if count > MOST_BITS:
        raise LimitError("The template reckons with a number of thousands of digits.")
    return 0


def _power(left: Any, right: Any) -> int:
    if isinstance(left, (int, Decimal)) and isinstance(right, int):
        return _bits(abs((left.bit_length() if isinstance(left, int) else left.adjusted() * 4) * right))
    return 0


def _added(left: Any, right: Any) -> int:
    return len(left) + len(right) if isinstance(left, (str, list, tuple)) and hasattr(right, "__len__") else 0


def _percent(left: Any, right: Any) -> int:
    return _formatted(left, *(right if isinstance(right, tuple) else (right,))) if isinstance(left, str) else 0


def _formatted(pattern: Any, *args: Any, **more: Any) -> int:
    """Too much where a pattern, or what it may take its widths from, says a very large one."""
    if isinstance(pattern, str) and WIDE.search(pattern):
        raise LimitError("The template pads text to more than 999 characters.")
    given = [*args, *more.values()]
    if isinstance(pattern, str) and NESTED.search(pattern):
        _numbers(*given)
    return _text(pattern) + sum(map(_text, given)) * max(1, _text(pattern) // 2)


def _numbers(*args: Any, **more: Any) -> int:
    for one in (*args, *more.values()):
        if isinstance(one, int) and abs(one) > LARGEST_NUMBER:
            raise LimitError(f"The template asks for {one}, which is more than {LARGEST_NUMBER}.")
    return 0


def _plain_filter(_: Any, *more: Any, **named: Any) -> int:
    """What makes no more than it was given, but for numbers that say how much."""
    return _numbers(*more, **named)


def _replaced(text: Any, old: Any = "", new: Any = "", *_: Any, **__: Any) -> int:
    found = _text(text) if old == "" else _text(text) // max(1, _text(old)) if isinstance(old, str) else _text(text)
    return (found + 1) * (_text(new) if isinstance(new, str) else 1000) + _text(text)


def _joined(values: Any, between: Any = "", *_: Any, **__: Any) -> int:
    if isinstance(values, (list, tuple)):
        _work().measure(list(values))
        return len(values) * (_text(between) + 1)
    return 0


def _method_joined(between: Any, values: Any) -> int:
    return _joined(values, between)


def _padded(text: Any, width: Any = 80, *more: Any, **named: Any) -> int:
    _numbers(width, *more, **named)
    return _text(text) + (width if isinstance(width, int) else 0)


def _indented(text: Any, width: Any = 4, *_: Any, **__: Any) -> int:
    _numbers(width)
    wide = width if isinstance(width, int) else _text(width)
    return _text(text) + (wide * (text.count("\n") + 1) if isinstance(text, str) else 0)


def _written_out(value: Any, indent: Any = None, *_: Any, **__: Any) -> int:
    """What writes a value with all that is in it."""
    work = _work()
    before = work.left
    work.measure(value)
    _numbers(indent if isinstance(indent, int) else 0)
    return (before - work.left) * (2 + (indent if isinstance(indent, int) else 0))


def _slow(text: Any, *more: Any, **named: Any) -> int:
    """What looks at each word again and again."""
    _numbers(*more, **named)
    _work().measure(text)
    if _text(text) > LONGEST_SLOW:
        raise LimitError(f"The template works on a text of more than {LONGEST_SLOW} characters.")
    return _text(text) * 20


Reckoning = Callable[..., int]

OPERATORS: Final[Mapping[str, Reckoning]] = {"*": _repeated, "**": _power, "%": _percent, "+": _added}
FILTERS: Final[Mapping[str, Reckoning]] = {
    "replace": _replaced, "join": _joined, "center": _padded, "indent": _indented, "format": _formatted,
    "tojson": _written_out, "pprint": _written_out, "string": _written_out, "xmlattr": _written_out,
    "urlencode": _written_out, "escape": _written_out, "e": _written_out, "forceescape": _written_out,
    "urlize": _slow, "wordwrap": _slow, "striptags": _slow, "title": _slow, "truncate": _slow,
}  # fmt: skip
TEXT_METHODS: Final[Mapping[str, Reckoning | None]] = {
    "center": _padded, "ljust": _padded, "rjust": _padded, "zfill": _padded, "expandtabs": _indented,
    "replace": _replaced, "join": _method_joined, "format": _formatted,
    **dict.fromkeys((
        "capitalize", "casefold", "count", "endswith", "find", "index", "isalnum", "isalpha", "isascii", "isdecimal",
        "isdigit", "islower", "isnumeric", "isspace", "istitle", "isupper", "lower", "lstrip", "partition",
        "removeprefix", "removesuffix", "rfind", "rindex", "rpartition", "rsplit", "rstrip", "split", "splitlines",
        "startswith", "strip", "swapcase", "title", "upper", "striptags", "unescape",
    )),
}  # fmt: skip
VALUE_METHODS: Final = {
    "get", "items", "keys", "values", "copy", "index", "count", "isoformat", "strftime", "date", "time", "weekday",
    "isoweekday", "total_seconds", "quantize", "is_integer",
}  # fmt: skip
NOTHING: Final = type(None)
PLAIN: Final = (str, bytes, int, float, bool, NOTHING, Decimal, date, datetime, time, timedelta, UUID, range)
HOLDERS: Final = (list, tuple, dict, set, frozenset)
OF_TEMPLATES: Final = (
    runtime.LoopContext, runtime.Macro, runtime.BlockReference, runtime.TemplateReference, runtime.Undefined,
    jinja2.environment.TemplateModule, Namespace, Cycler, Joiner,
)  # fmt: skip
WRITTEN_IN_PYTHON: Final = (FunctionType, property, cached_property, classmethod, staticmethod)
CALLED: Final = (runtime.LoopContext, runtime.Macro, runtime.BlockReference, runtime.Undefined, Joiner)
MAKERS: Final = (range, dict, Cycler, Joiner, Namespace)


class Sandbox(ImmutableSandboxedEnvironment):
    """For templates from strangers. `given` are functions that the application gave."""

    intercepted_binops = frozenset(OPERATORS)

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, finalize=lambda value: _work().measure(value), **more)
        self.given: list[Any] = []
        del self.globals["lipsum"]
        self.globals["range"] = _short_range
        work = jinja2.pass_context
        self.filters[COUNTED] = work(lambda _, values: _work().counted(values))
        self.filters[WRITTEN] = work(lambda _, length: _work().charge(length))
        self.filters[JOINED] = work(lambda _, values: runtime.markup_join(_work().measure(values)))
        self.filters[MADE] = work(lambda _, value: _work().measure(value))

    def guard_filters(self) -> None:
        """Counts the work of each filter that there is."""
        for name, function in self.filters.items():
            if name not in (COUNTED, WRITTEN, JOINED, MADE):
                self.filters[name] = _guarded(function, FILTERS.get(name, _plain_filter))

    def unsafe_undefined(self, obj: Any, attribute: str) -> Any:
        raise SecurityError(f"'{attribute}' of a {type(obj).__name__}")

    def getattr(self, obj: Any, attribute: str) -> Any:
        return super().getattr(obj, attribute) if _is_plain(obj, attribute) else self._plain(obj, attribute)

    def getitem(self, obj: Any, argument: Any) -> Any:
        return super().getitem(obj, argument) if _is_plain(obj, argument) else self._plain(obj, argument)

    def _plain(self, obj: Any, name: Any) -> Any:
        """What a mapping, a sequence or a record holds: nothing of the object is called for it."""
        if isinstance(obj, (Mapping, Sequence)):
            try:
                return obj[name]
            except (TypeError, LookupError):
                return self.undefined(obj=obj, name=name)
        held = getattr(obj, "__dict__", {})
        fields = {field.name for field in dataclasses.fields(obj)} if dataclasses.is_dataclass(obj) else set()
        if isinstance(name, str) and not name.startswith("_") and (name in held or name in fields):
            return held[name] if name in held else getattr(obj, name)
        return self.unsafe_undefined(obj, name)

    def is_safe_callable(self, obj: Any) -> bool:
        if isinstance(obj, CALLED) or any(obj is one for one in (*MAKERS, _short_range, *self.given)):
            return True
        owner = getattr(obj, "__self__", None)
        name = getattr(obj, "__name__", "")
        if isinstance(owner, str) and type(owner) in (str, Markup):
            return name in TEXT_METHODS
        if isinstance(owner, (*PLAIN, *HOLDERS)) and isinstance(obj, BuiltinMethodType):
            return name in VALUE_METHODS
        if isinstance(owner, (runtime.LoopContext, Cycler)):
            return not name.startswith("_")
        return _formats(obj)

    def call(__self, __context: Any, __obj: Any, *args: Any, **kwargs: Any) -> Any:
        work = _work()
        work.charge(CALL)
        heed()
        owner = getattr(__obj, "__self__", None)
        if isinstance(owner, str):
            reckoning = TEXT_METHODS.get(__obj.__name__)
            if reckoning is not None:
                work.expect(reckoning(owner, *args, **kwargs))
        elif _formats(__obj):
            work.expect(_formatted(__obj.__wrapped__.__self__, *args, **kwargs))
        result = super().call(__context, __obj, *args, **kwargs)
        return work.measure(result) if isinstance(result, (str, *HOLDERS)) else result

    def call_binop(self, context: Any, operator: str, left: Any, right: Any) -> Any:
        work = _work()
        work.charge(1)
        work.expect(OPERATORS[operator](left, right))
        result = super().call_binop(context, operator, left, right)
        return work.measure(result) if isinstance(result, (str, *HOLDERS)) else result

    def counting(self, tree: nodes.Template) -> nodes.Template:
        """The tree of a template with all that it makes counted."""
        for loop in tree.find_all(nodes.For):
            loop.iter = _filtered(loop.iter, COUNTED)
        for node in [tree, *tree.find_all(nodes.Node)]:
            for field, value in list(node.iter_fields()):
                if isinstance(value, list):
                    setattr(node, field, [_counted(part) for part in value])
                elif isinstance(value, nodes.Node):
                    setattr(node, field, _counted(value))
        return tree


def _is_plain(obj: Any, name: Any) -> bool:
    """Whether an attribute may be asked for: of a plain value, or one that a class of the data has not written."""
    if isinstance(obj, OF_TEMPLATES) or type(obj) in (*PLAIN, *HOLDERS, Markup):
        return True
    if isinstance(obj, Enum):
        return name in ("name", "value")
    if not isinstance(obj, (*PLAIN, *HOLDERS)) or not isinstance(name, str):
        return False
    return not isinstance(inspect.getattr_static(type(obj), name, None), WRITTEN_IN_PYTHON)


def _formats(obj: Any) -> bool:
    """Whether a function is Jinja's own around the method of a text that formats values."""
    inner = getattr(obj, "__wrapped__", None)
    return isinstance(obj, FunctionType) and isinstance(inner, BuiltinMethodType) and isinstance(inner.__self__, str)


def _counted(part: Any) -> Any:
    """A node, or one that counts what it makes."""
    if isinstance(part, nodes.Concat):
        return _filtered(nodes.List(part.nodes, lineno=part.lineno), JOINED)
    makes = isinstance(part, (nodes.List, nodes.Dict)) or (isinstance(part, nodes.Tuple) and part.ctx == "load")
    return _filtered(part, MADE) if makes and not _is_constant(part) else part


def _is_constant(part: nodes.Node) -> bool:
    return next(part.find_all((nodes.Name, nodes.Call, nodes.Filter)), None) is None


def _filtered(node: Any, name: str) -> nodes.Expr:
    return nodes.Filter(node, name, [], [], None, None, lineno=node.lineno)


def length_written(output: nodes.Output) -> nodes.ExprStmt:
    """A statement that counts the text which stands in a template as it is."""
    length = sum(len(part.data) for part in output.nodes if isinstance(part, nodes.TemplateData))
    return nodes.ExprStmt(_filtered(nodes.Const(length, lineno=output.lineno), WRITTEN), lineno=output.lineno)


def _guarded(function: Callable[..., Any], reckoning: Reckoning) -> Callable[..., Any]:
    """A filter whose work is reckoned before and counted after."""
    passes = getattr(function, "jinja_pass_arg", None)

    @wraps(function)
    def guarded(*args: Any, **kwargs: Any) -> Any:
        work = _work()
        work.charge(1)
        work.expect(reckoning(*(args[1:] if passes is not None else args), **kwargs))
        result = function(*args, **kwargs)
        return work.measure(result) if isinstance(result, (str, *HOLDERS)) else result

    return guarded


def _short_range(*args: int) -> range:
    """Whole numbers, as many as a template may ask for."""
    numbers = range(*args)
    try:
        _work().expect(len(numbers))
    except OverflowError:
        _work().refuse()
    return numbers
