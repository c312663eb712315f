"""Expressions and texts of briefs: Jinja2's, in its sandbox, with decimal arithmetic."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import date, datetime, time
from decimal import Decimal
from functools import wraps
from typing import Any, Final, Literal

import jinja2
from jinja2 import meta, nodes
from jinja2.sandbox import ImmutableSandboxedEnvironment

from fleetquill.briefs.nodes import Node
from fleetquill.errors import DataError, FleetQuillError, meant, nearest
from fleetquill.formats import Formats, as_amount, as_decimal
from fleetquill.intake.template import FilterFault, StrangersEnvironment, Undefined, UnknownName, named_filter
from fleetquill.tree.column import FIGURES
from fleetquill.tree.groups import Account
from fleetquill.tree.words import TemplateWords

WHOLE: Final = re.compile(r"^\s*\{\{(?P<expression>(?:(?!\}\}|\{\{).)*)\}\}\s*$", re.DOTALL)
MARKS: Final = re.compile(r"\{\{|\{%|\{#")
DECIMAL: Final = "fq_decimal"
LOOP_WORDS: Final = ("range", "dict", "lipsum", "cycler", "joiner", "namespace")

Values = Mapping[str, Any]
Filling = Literal["text", "html", "margin"]  # what texts with values in them become


class Expression:
    """An expression that has been compiled: what it comes to for some values."""

    def __init__(self, node: Node, text: str, names: frozenset[str], run: Callable[..., Any]) -> None:
        self._node = node
        self._text = text
        self._run = run
        self.names = names  # that it asks for

    def value(self, values: Values, what: str = "") -> Any:
        """What it comes to. `what` says which row it is for, where anything goes wrong."""
        try:
            found = self._run(values)
            if found.__class__ is Undefined:
                str(found)
            return found
        except Exception as error:
            raise _fault(self._node, self._text, error, values, what) from error

    def holds(self, values: Values, what: str = "") -> bool:
        try:
            return bool(self._run(values))
        except Exception as error:
            raise _fault(self._node, self._text, error, values, what) from error


def _fault(node: Node, text: str, error: Exception, values: Values, what: str) -> FleetQuillError:
    """What went wrong while a text or an expression was worked out; `what` says for which row."""
    if isinstance(error, FleetQuillError):
        return error
    where = f"{what}, " if what else ""
    if isinstance(error, UnknownName):
        owner = error.owner
        known = list(values) if owner is None else list(owner) if isinstance(owner, Mapping) else []
        return node.fault(f"{where}'{text}' asks for '{error.name}', which there is not.", meant(error.name, known))
    return node.fault(f"{where}'{text}' {_trouble(error)}.")


def _trouble(error: Exception) -> str:
    """What went wrong in an expression, in words for its author."""
    if isinstance(error, (ZeroDivisionError, ArithmeticError)):
        return (
            "divides by nothing" if "ivision" in f"{type(error).__name__}{error}" else f"cannot be reckoned ({error})"
        )
    if isinstance(error, FilterFault):
        return f"fails: {error}".rstrip(".")
    return f"fails ({type(error).__name__}: {error})"


class Expressions:
    """The room in which a brief's expressions are worked out: filters, and the locale's way to write values."""

    def __init__(self, formats: Formats, words: TemplateWords, *, strangers: bool) -> None:
        kind: Any = StrangersEnvironment if strangers else ImmutableSandboxedEnvironment
        self._plain = kind(undefined=Undefined, autoescape=False)
        self._formats = formats
        writers = formats.filters()
        filters = {**writers, **FIGURE_FILTERS, **words.filters}
        for name, function in filters.items():
            self._plain.filters[name] = named_filter(name, _tolerant(function) if name in writers else function)
        self._plain.filters[DECIMAL] = Decimal
        self._plain.globals.update(words.values)
        if strangers:
            self._plain.given = [value for value in words.values.values() if callable(value)]
            self._plain.guard_filters()
        self._plain.finalize = self._written
        self._texts: dict[Filling, Any] = {"text": self._plain}
        for filling in ("html", "margin"):
            self._texts[filling] = self._plain.overlay(autoescape=filling == "html")
            self._texts[filling].finalize = self._written if filling == "html" else self._in_margin
        self._kept: dict[tuple[str, str], Any] = {}

    def _written(self, value: Any) -> Any:
        """How a value that no filter has written stands in a text."""
        if isinstance(value, (Decimal, float, date, datetime, time)):
            return self._formats.text(value)
        return "" if value is None else value

    def _in_margin(self, value: Any) -> Any:
        """A value in a head or foot, where braces name what only pages know: its own stand twice."""
        return str(self._written(value)).replace("{", "{{")

    def expression(self, node: Node) -> Expression:
        """The expression that a value of the brief is. Raises DataError where it is none."""
        return self._expression(node, node.text())

    def _expression(self, node: Node, text: str) -> Expression:
        kept = self._kept.get(("expression", text))
        if kept is None:
            kept = self._kept["expression", text] = self._compiled(node, text)
        names, run = kept
        return Expression(node, text, names, run)

    def _compiled(self, node: Node, text: str) -> tuple[frozenset[str], Callable[..., Any]]:
        environment = self._plain
        try:
            parser = jinja2.parser.Parser(environment, text, state="variable")
            found = parser.parse_expression()
            if not parser.stream.eos:
                raise jinja2.TemplateSyntaxError("there is more after its end", 1)
            body = nodes.Template([nodes.Assign(nodes.Name("result", "store"), found, lineno=1)], lineno=1)
            body.set_environment(environment)
            names = frozenset(meta.find_undeclared_variables(body))
            template = environment.from_string(_with_decimals(body))
        except jinja2.TemplateSyntaxError as error:
            raise _syntax(node, text, error, environment.filters) from error
        except RecursionError as error:
            raise node.fault("The expression is nested too deep.") from error

        def run(values: Values) -> Any:
            context = template.new_context(dict(values))
            for _ in template.root_render_func(context):
                pass
            return context.vars["result"]

        return names, run

    def filled(self, node: Node, values: Values, filling: Filling = "text") -> Any:
        """A value with its texts filled in: a text that is nothing but '{{ … }}' is that value itself."""
        value = node.value
        if isinstance(value, str):
            return self._text(node, value, values, filling) if MARKS.search(value) else value
        if isinstance(value, Mapping):
            return {name: self.filled(node[name], values, filling) for name in value}
        if isinstance(value, list):
            return [self.filled(node[number], values, filling) for number in range(len(value))]
        return value

    def _text(self, node: Node, text: str, values: Values, filling: Filling) -> Any:
        alone = WHOLE.match(text)
        if alone is not None and filling == "text":
            return self._expression(node, alone["expression"].strip()).value(values)
        return self.template(node, text, filling)(values)

    def template(self, node: Node, text: str, filling: Filling = "text") -> Callable[[Values], str]:
        """A text with values in it, as a function of them. Raises DataError where it does not parse."""
        environment = self._texts[filling]
        template = self._kept.get((filling, text))
        if template is None:
            try:
                template = environment.from_string(_with_decimals(environment.parse(text)))
            except jinja2.TemplateSyntaxError as error:
                raise _syntax(node, text, error, environment.filters) from error
            except RecursionError as error:
                raise node.fault("The text is nested too deep.") from error
            self._kept[filling, text] = template

        def write(values: Values) -> str:
            try:
                return "".join(template.root_render_func(template.new_context(dict(values))))
            except Exception as error:
                raise _fault(node, text, error, values, "") from error

        return write


def _tolerant(write: Callable[..., str]) -> Callable[..., str]:
    """What writes a value, and a dash where there is none: rows may lack it, and there may be no rows."""

    @wraps(write)
    def written(value: Any, *args: Any, **more: Any) -> str:
        return "–" if value is None else write(value, *args, **more)

    return written


def _with_decimals(tree: nodes.Template) -> nodes.Template:
    """The tree with decimals in the place of binary fractions."""
    for node in [tree, *tree.find_all(nodes.Node)]:
        for field, value in node.iter_fields():
            if isinstance(value, list):
                setattr(node, field, [_decimal(part) for part in value])
            elif isinstance(value, nodes.Node):
                setattr(node, field, _decimal(value))
    return tree


def _decimal(part: Any) -> Any:
    if not isinstance(part, nodes.Const) or not isinstance(part.value, float):
        return part
    text = nodes.Const(repr(part.value), lineno=part.lineno)
    return nodes.Filter(text, DECIMAL, [], [], None, None, lineno=part.lineno)


def _syntax(node: Node, text: str, error: jinja2.TemplateSyntaxError, filters: Iterable[str]) -> DataError:
    message = (error.message or "").rstrip(".")
    unknown = re.match(r"No filter named '([^']*)'", message)
    if unknown is not None:
        found = nearest(unknown[1], filters)
        return node.fault(f"There is no filter '{unknown[1]}'.", f"Did you mean '{found}'?" if found else "")
    return node.fault(f"'{text}' does not parse: {message}.")


def names_in(text: str) -> set[str]:
    """The names that a text asks for; none where it does not parse, which is told elsewhere."""
    environment = jinja2.Environment()
    try:
        return meta.find_undeclared_variables(environment.parse(text))
    except jinja2.TemplateSyntaxError:
        return set()


# ---- figures of rows ----


def _figure(kind: str) -> Callable[[Any, str], Decimal | None]:
    def figure(rows: Any, name: str = "") -> Decimal | None:
        account = Account(1)
        for row in rows:
            value = row if not name else row[name] if isinstance(row, Mapping) else getattr(row, name)
            account.add([as_amount(value, kind)])
        return account.figure(kind, 0)

    return figure


def _share(part: Any, whole: Any) -> Decimal | None:
    """What a number is of another; None where that is nothing."""
    return None if part is None or not whole else as_decimal(part) / as_decimal(whole)


FIGURE_NAMES: Final = {"sum": "total", "count": "count_of"}  # of those whose own names the templates' language has
FIGURE_FILTERS: Final[Mapping[str, Callable[..., Any]]] = {
    **{FIGURE_NAMES.get(name, name): _figure(name) for name in FIGURES}, "share_of": _share,
}  # fmt: skip


def plain(value: Any) -> Any:
    """A value as expressions reckon with it: a binary fraction as a decimal."""
    return as_decimal(value) if value.__class__ is float else value


def check_names(node: Node, names: Iterable[str], known: Sequence[str]) -> None:
    """Raises DataError where an expression asks for a name that rows or the brief do not have."""
    for name in sorted(names):
        if name not in known and name not in LOOP_WORDS:
            raise node.fault(f"'{node.text()}' asks for '{name}', which there is not.", meant(name, known))
