"""The parameters of a brief: what the application or the command line says when it is made."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from datetime import date, datetime, time
from decimal import Decimal, InvalidOperation
from typing import Any, Final, NamedTuple

from fleetquill.briefs.nodes import Node
from fleetquill.errors import DataError, OptionError, nearest, shown
from fleetquill.formats import as_decimal

FACTS: Final = ("type", "default", "choices", "prompt", "needed", "several")
TODAY: Final = "today"
YES: Final = ("true", "yes", "on", "1")
NO: Final = ("false", "no", "off", "0")


class Parameter(NamedTuple):
    """One parameter. `prompt` is what a person is asked; without a default it must be given, if it is `needed`."""

    name: str
    type: str
    default: Any
    choices: tuple[Any, ...]
    prompt: str
    needed: bool
    several: bool
    node: Node

    def value(self, given: Any) -> Any:
        """A value that was given, as the parameter's type has it. Raises ValueError where it cannot be."""
        if self.several:
            items = given if isinstance(given, (list, tuple)) else str(given).split(",")
            return [self._one(item) for item in items]
        return self._one(given)

    def _one(self, given: Any) -> Any:
        value = as_type(given, self.type)
        if self.choices and value not in self.choices:
            known = [str(choice) for choice in self.choices]
            found = nearest(str(given), known)
            hint = f"did you mean '{found}'?" if found else f"it may be {', '.join(known)}"
            raise ValueError(f"{shown(given)} is none of the choices; {hint}")
        return value


def read_parameters(node: Node | None) -> list[Parameter]:
    """The parameters that a brief names. Raises DataError where one says what makes no sense."""
    return [] if node is None else [_parameter(name, inner) for name, inner in node.items()]


def _parameter(name: str, node: Node) -> Parameter:
    if not name.isidentifier():
        raise node.fault(f"'{name}' cannot be the name of a parameter.", "Use letters, figures and '_'.")
    if isinstance(node.value, str):  # the type alone
        return Parameter(name, node.one_of(TYPES), None, (), "", True, False, node)
    node.names(FACTS, "A parameter")
    kind = node["type"].one_of(TYPES) if node.get("type") else "text"
    several = bool(node.get("several") and node["several"].flag())
    choices = tuple(_as(choice, kind) for choice in node["choices"].each()) if node.get("choices") else ()
    default = None
    if node.get("default"):
        given = node["default"]
        default = [_as(one, kind) for one in given.some()] if several else _as(given, kind)
        for one in default if several else [default]:
            if choices and one not in choices:
                raise given.fault(f"{shown(given.value)} is none of the choices.")
    needed = node["needed"].flag() if node.get("needed") else default is None
    prompt = node["prompt"].text() if node.get("prompt") else ""
    return Parameter(name, kind, default, choices, prompt, needed, several, node)


def _as(node: Node, kind: str) -> Any:
    if node.value == TODAY and kind in ("date", "month"):
        return TODAY
    try:
        return as_type(node.value, kind)
    except ValueError as error:
        raise node.fault(f"{error}.") from error


def values_of(parameters: list[Parameter], given: Mapping[str, Any]) -> dict[str, Any]:
    """The value of every parameter. Raises DataError that lists all that are missing, or names one that is not known
    or does not fit."""
    known = {parameter.name: parameter for parameter in parameters}
    for name in given:
        if name not in known:
            found = nearest(str(name), known)
            hint = f"Did you mean '{found}'?" if found else f"It has {', '.join(known)}." if known else "It has none."
            raise OptionError(f"The brief has no parameter '{name}'.", remedy=hint)
    missing = [one for one in parameters if one.needed and given.get(one.name) is None and one.default is None]
    if missing:
        each = "; ".join(f"{one.name} ({one.prompt or one.type})" for one in missing)
        names = "parameters" if len(missing) > 1 else "a parameter"
        first = missing[0].name
        raise DataError(
            f"The brief needs {names} that are not given: {each}." if len(missing) > 1
            else f"The brief needs {names} that is not given: {each}.",
            where=missing[0].node.reading.where(missing[0].node.path),
            remedy=f"Give it with parameters={{'{first}': …}}, or --set {first}=….",
        )  # fmt: skip
    values: dict[str, Any] = {}
    for parameter in parameters:
        value = given.get(parameter.name)
        try:
            values[parameter.name] = _default(parameter) if value is None else parameter.value(value)
        except ValueError as error:
            raise OptionError(f"The parameter '{parameter.name}': {error}.") from error
    return values


def _default(parameter: Parameter) -> Any:
    """What a parameter is where nobody gives it; 'today' is the day on which the brief is made."""
    if parameter.default != TODAY or parameter.type not in ("date", "month"):
        return parameter.default
    today = date.today()
    return today if parameter.type == "date" else today.replace(day=1)


# ---- types ----


def _text(given: Any) -> str:
    if isinstance(given, (str, int, Decimal, float)):
        return str(given)
    raise ValueError


def _whole(given: Any) -> int:
    number = _number(given)
    if number != number.to_integral_value():
        raise ValueError
    return int(number)


def _number(given: Any) -> Decimal:
    if isinstance(given, bool):
        raise ValueError
    try:
        return as_decimal(given.strip() if isinstance(given, str) else given)
    except (ValueError, InvalidOperation, TypeError) as error:
        raise ValueError from error


def _date(given: Any) -> date:
    if isinstance(given, datetime):
        return given.date()
    return given if isinstance(given, date) else date.fromisoformat(str(given).strip())


def _month(given: Any) -> date:
    """The first day of a month such as 2026-05."""
    if isinstance(given, date):
        return date(given.year, given.month, 1)
    text = str(given).strip()
    return date.fromisoformat(f"{text}-01" if len(text) == 7 else text).replace(day=1)


def _datetime(given: Any) -> datetime:
    return given if isinstance(given, datetime) else datetime.fromisoformat(str(given).strip())


def _time(given: Any) -> time:
    return given if isinstance(given, time) else time.fromisoformat(str(given).strip())


def _flag(given: Any) -> bool:
    text = str(given).strip().lower()
    if text not in (*YES, *NO):
        raise ValueError
    return text in YES


TYPES: Final[dict[str, Callable[[Any], Any]]] = {
    "text": _text, "whole": _whole, "number": _number, "date": _date, "month": _month, "datetime": _datetime,
    "time": _time, "yes-no": _flag,
}  # fmt: skip
EXAMPLES: Final = {
    "whole": "12", "number": "12.50", "date": "2026-05-31", "month": "2026-05", "datetime": "2026-05-31T14:30",
    "time": "14:30", "yes-no": "yes",
}  # fmt: skip


def as_type(given: Any, kind: str) -> Any:
    """A value of a type; None stays None. Raises ValueError that says what would be right."""
    if given is None:
        return None
    try:
        return TYPES[kind](given)
    except (ValueError, OverflowError) as error:
        example = f", such as {EXAMPLES[kind]}" if kind in EXAMPLES else ""
        raise ValueError(f"{shown(given)} is no value of the type '{kind}'{example}") from error
