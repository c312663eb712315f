"""A manuscript as plain data: each part a mapping of the name of a method to its arguments, and back."""

from __future__ import annotations

import inspect
import os
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from datetime import date, time
from decimal import Decimal
from functools import lru_cache
from typing import Any, Final, NamedTuple

from fleetquill.authoring import inline
from fleetquill.authoring.inline import Inline
from fleetquill.authoring.parts import Parts
from fleetquill.authoring.plate import Plate
from fleetquill.authoring.recording import Call
from fleetquill.errors import DataError, FleetQuillError, OptionError, Where, meant, shown
from fleetquill.tree.column import Column

PIECES: Final = (
    "strong", "emphasis", "small", "span", "mono", "superscript", "subscript", "link", "footnote", "page_of", "text_of",
    "line_break", "page_number", "value", "spark",
)  # fmt: skip
NO_PARTS: Final = frozenset(("figure", "header", "footer"))  # of Python alone, and what stands at the top
PARTS: Final = "parts"  # what stands in a part that holds others
FACTS: Final = ("title", "author", "language", "look", "style", "page", "margin")
TOP: Final = (*FACTS, "fonts", "header", "footer", PARTS)
FONT_FACTS: Final = ("family", "source", "weight", "style", "stretch")


class Described(NamedTuple):
    """A method as data can call it: its parameters but `self`, and the one that takes all content, '' for none."""

    name: str
    parameters: Mapping[str, inspect.Parameter]
    content: str
    holds: bool  # whether other parts stand in it

    @property
    def first(self) -> str:
        """The parameter that a value without a name is for; '' where there is none."""
        name = next(iter(self.parameters), "")
        return name if name and self.parameters[name].kind is inspect.Parameter.POSITIONAL_OR_KEYWORD else ""


A_PLATE: Final = "AbstractContextManager[Plate]"  # what gives one


def described(function: Callable[..., Any]) -> Described:
    """What can be said to a method, from its signature."""
    signature = inspect.signature(function)
    parameters = dict(signature.parameters)
    for name in ("self", "cls"):
        parameters.pop(name, None)
    content = next((n for n, p in parameters.items() if p.kind is inspect.Parameter.VAR_POSITIONAL), "")
    plain = inspect.unwrap(function)
    holds = inspect.isgeneratorfunction(plain) or signature.return_annotation == A_PLATE
    return Described(function.__name__, parameters, content, holds)


@lru_cache(maxsize=4)
def methods_of(cls: type) -> dict[str, Described]:
    """The parts that a class knows, by name."""
    names = [name for name, _ in inspect.getmembers(cls, inspect.isfunction) if not name.startswith("_")]
    return {name: described(getattr(cls, name)) for name in names if name not in NOT_PARTS}


NOT_PARTS: Final = frozenset(
    (*NO_PARTS, "add_style", "attach", "to_html", "to_data", "from_html", "from_markdown", "from_template",
     "from_pictures", "from_data", "of")
)  # fmt: skip


@lru_cache(maxsize=1)
def pieces() -> dict[str, Described]:
    """The pieces of a line, by name."""
    return {name: described(getattr(inline, name)) for name in PIECES}


class Builder:
    """Builds a manuscript from data; what is wrong is told with its place, such as `parts[3].table.columns[0].form`."""

    top = ""  # where in the data a manuscript is described

    def __init__(self, source: str) -> None:
        self._source = source
        self.manuscript: Any = None

    def add(self, manuscript: Parts, data: Mapping[str, Any]) -> None:
        """Adds heads, feet and parts."""
        self.manuscript = manuscript
        self.margins(manuscript, data)
        if PARTS in data:
            self.parts(manuscript, data[PARTS], PARTS)

    def fault(self, path: str, what: str, remedy: str = "") -> DataError:
        return DataError(f"{path}: {what}", where=Where(self._source) if self._source else None, remedy=remedy)

    def check_top(self, data: Any) -> None:
        """Raises DataError where the data is no manuscript, or says something that none has."""
        if not isinstance(data, Mapping):
            raise self.fault("manuscript", f"{shown(data)} is not names with values.", "Give title, parts and so on.")
        for name in data:
            if name not in TOP:
                raise self.fault(str(name), "This says nothing of a manuscript.", meant(str(name), TOP))
        for name in FACTS:
            if name in data and name != "margin" and not isinstance(data[name], (str, list)):
                raise self.fault(name, f"{shown(data[name])} is not text.")

    def fonts(self, fonts: Any) -> Iterator[str]:
        """The rules of the document's own faces (CSS Fonts 4 §4)."""
        if not isinstance(fonts, Sequence) or isinstance(fonts, str):
            raise self.fault("fonts", f"{shown(fonts)} is not a list.", "Give [{family: …, source: …}].")
        for number, font in enumerate(fonts):
            path = f"fonts[{number}]"
            if not isinstance(font, Mapping) or not {"family", "source"} <= font.keys():
                raise self.fault(path, "A font has a family and a source.")
            for name in font:
                if name not in FONT_FACTS:
                    raise self.fault(f"{path}.{name}", "This says nothing of a font.", meant(str(name), FONT_FACTS))
            facts = "".join(f"font-{n}:{font[n]};" for n in ("weight", "style", "stretch") if n in font)
            family, source = str(font["family"]).replace('"', ""), str(font["source"]).replace('"', "%22")
            yield f'@font-face {{ font-family: "{family}"; src: url("{source}"); {facts} }}'

    def margins(self, manuscript: Parts, data: Mapping[str, Any]) -> None:
        """Heads and feet: texts, or parts."""
        for name in ("header", "footer"):
            if name not in data:
                continue
            given = data[name]
            if not isinstance(given, Mapping):
                raise self.fault(name, f"{shown(given)} is not names with values.", "Give left, center or right.")
            self._call(manuscript, described(getattr(Parts, name)), given, f"{self.top}{name}", holds=PARTS in given)

    def parts(self, owner: Any, given: Any, path: str) -> None:
        """Adds parts to a manuscript, or to a plate."""
        if not isinstance(given, Sequence) or isinstance(given, (str, bytes)):
            raise self.fault(path, f"{shown(given)} is not a list of parts.")
        for number, part in enumerate(given):
            here = f"{path}[{number}]"
            name, arguments = (part, None) if isinstance(part, str) else self.only(part, here)
            self.part(owner, name, arguments, here)

    def part(self, owner: Any, name: str, arguments: Any, path: str) -> None:
        """Adds one part, which stands at a place in the data."""
        cls: Any = type(owner)
        known = methods_of(cls)
        method = known.get(name)
        if method is None:
            raise self.fault(path, f"There is no part '{name}'.", meant(name, known))
        self._call(owner, method, arguments, f"{path}.{name}", holds=method.holds)

    def only(self, part: Any, path: str) -> tuple[str, Any]:
        if not isinstance(part, Mapping) or len(part) != 1:
            what = "has more names than one" if isinstance(part, Mapping) else "is not a mapping"
            raise self.fault(path, f"This part {what}.", "Write each as the name of a part with its arguments.")
        ((name, arguments),) = part.items()
        return str(name), arguments

    def _call(self, owner: Any, method: Described, given: Any, path: str, *, holds: bool) -> None:
        content, named, inner = self._arguments(method, given, path, holds=holds)
        with ExitStack() as stack:
            with self.told(path):
                done = getattr(owner, method.name)(*content, **named)
                entered = stack.enter_context(done) if holds else None
            if inner is not None:
                self.parts(entered if isinstance(entered, Plate) else self.manuscript, inner, f"{path}.{PARTS}")

    @contextmanager
    def told(self, path: str) -> Iterator[None]:
        """What is wrong meanwhile is told with its place in the data."""
        try:
            yield
        except FleetQuillError as error:
            raise self.fault(path, error.what, error.remedy) from error

    def _arguments(
        self, method: Described, given: Any, path: str, *, holds: bool
    ) -> tuple[list[Any], dict[str, Any], Any]:
        """What goes before, what goes by name, and what stands in it."""
        if given is None:
            return [], {}, None
        if not isinstance(given, Mapping):
            if method.content:
                pieces = given if isinstance(given, list) else [given]
                return [self.piece(one, f"{path}[{n}]") for n, one in enumerate(pieces)], {}, None
            if holds:
                return [], {}, given
            if not method.first:
                known = ", ".join(map(_written, method.parameters))
                raise self.fault(
                    path, f"'{method.name}' takes names with values, not {shown(given)}.", f"It has {known}."
                )
            return [self._value(method.first, given, path)], {}, None
        named: dict[str, Any] = {}
        content: list[Any] = []
        inner: Any = None
        for key, value in given.items():
            name, here = _parameter(str(key)), f"{path}.{key}"
            if name == PARTS and holds:
                inner = value
            elif name == method.content and name:
                pieces = value if isinstance(value, list) else [value]
                content = [self.piece(one, f"{here}[{n}]") for n, one in enumerate(pieces)]
            elif name in method.parameters:
                named[name] = self._value(name, value, here)
            else:
                taken = [*map(_written, method.parameters), *([PARTS] if holds else [])]
                raise self.fault(here, f"'{method.name}' takes no '{key}'.", meant(str(key), taken))
        return content, named, inner

    def _value(self, name: str, value: Any, path: str) -> Any:
        """An argument: columns become columns, pieces in rows and items become pieces."""
        if name == "columns" and isinstance(value, list):
            return [self._column(one, f"{path}[{n}]") for n, one in enumerate(value)]
        if name in ("rows", "items"):
            return self._inner(value, path)
        if name == "pairs" and isinstance(value, Mapping):
            return {key: self.piece(one, f"{path}.{key}") for key, one in value.items()}
        return value

    def _column(self, given: Any, path: str) -> Column | str:
        if isinstance(given, (str, Column)):
            return given
        if not isinstance(given, Mapping):
            raise self.fault(path, f"{shown(given)} is no column.", "Give its name, or its facts.")
        for key in given:
            if key not in COLUMN_FACTS:
                raise self.fault(f"{path}.{key}", f"A column has no '{key}'.", meant(str(key), COLUMN_FACTS))
        for key in given:
            if key != "name":
                self._try_column({"name": str(given.get("name", "")), key: given[key]}, f"{path}.{key}")
        return self._try_column(dict(given), path)

    def _try_column(self, facts: dict[str, Any], path: str) -> Column:
        with self.told(path):
            if facts.get("carry") and "total" not in facts:
                facts["total"] = "sum"
            return Column(**facts)

    def _inner(self, value: Any, path: str) -> Any:
        if isinstance(value, list):
            return [self._inner(one, f"{path}[{n}]") for n, one in enumerate(value)]
        if isinstance(value, Mapping):
            if _is_piece(value):
                return self.piece(value, path)
            return {key: self._inner(one, f"{path}.{key}") for key, one in value.items()}
        return value

    def piece(self, given: Any, path: str) -> Any:
        """A piece of a line: a value, or a mapping of a piece's name to its arguments."""
        if not isinstance(given, Mapping):
            return (
                [self.piece(one, f"{path}[{n}]") for n, one in enumerate(given)] if isinstance(given, list) else given
            )
        name, arguments = self.only(given, path)
        described_piece = pieces().get(name)
        if described_piece is None:
            raise self.fault(path, f"There is no piece '{name}'.", meant(name, pieces()))
        here = f"{path}.{name}"
        content, named, _ = self._arguments(described_piece, arguments, here, holds=False)
        with self.told(here):
            return getattr(inline, name)(*content, **named)


COLUMN_FACTS: Final = tuple(name for name in Column.__dataclass_fields__ if name != "rule")


def _is_piece(value: Mapping[Any, Any]) -> bool:
    return len(value) == 1 and next(iter(value)) in PIECES


def _parameter(key: str) -> str:
    """The name of a parameter for a name in data: 'class' is a word of Python's own."""
    return "class_" if key == "class" else key.replace("-", "_")


def _written(name: str) -> str:
    return name.rstrip("_")


# ---- back ----

TAGS: Final = {
    "strong": "strong", "em": "emphasis", "small": "small", "code": "mono", "sup": "superscript", "sub": "subscript",
    "fq-note": "footnote", "br": "line_break",
}  # fmt: skip


def data_of_piece(piece: Any) -> Any:
    """A piece of a line as data. Raises DataError where it is none."""
    if isinstance(piece, (list, tuple)):
        return [data_of_piece(one) for one in piece]
    if not isinstance(piece, Inline):
        return piece
    attributes = dict(piece.attributes)
    name, more = _name_of(piece, attributes)
    facts = {("class" if key == "class" else key): value for key, value in attributes.items()} | more
    content = [data_of_piece(one) for one in piece.content]
    if name == "link":
        content.append(attributes.pop("href", ""))
        facts.pop("href", None)
    if not facts:
        return {name: content[0] if len(content) == 1 and not isinstance(content[0], list) else content or None}
    return {name: {**({"content": content} if content else {}), **facts}}


def _name_of(piece: Inline, attributes: dict[str, str]) -> tuple[str, dict[str, Any]]:
    """The name of the function that makes a piece, and what it is given besides its attributes."""
    if piece.tag == "fq-value":
        return "value", {"amount": attributes.pop("value", ""), "form": attributes.pop("form", "")}
    if piece.tag == "fq-spark":
        values = [float(one) for one in attributes.pop("values", "").split()]
        return "spark", {"values": values, "kind": attributes.pop("kind", "line")}
    if piece.tag in ("a", "span"):
        kind = attributes.get("class", "")
        if kind in ("fq-page-of", "fq-text-of"):
            del attributes["class"]
            return ("page_of" if kind == "fq-page-of" else "text_of"), {"name": attributes.pop("href", "")}
        if kind == "fq-page-number":
            del attributes["class"]
            return "page_number", {}
        return ("link" if piece.tag == "a" else "span"), {}
    return TAGS[piece.tag], {}


def data_of_calls(calls: Sequence[Call]) -> dict[str, Any]:
    """Heads, feet and parts as data."""
    found: dict[str, Any] = {}
    parts: list[Any] = []
    for call in calls:
        ((name, arguments),) = _data_of_call(call).items()
        if name in ("header", "footer") and name not in found:
            found[name] = arguments
        elif name in ("header", "footer"):
            raise OptionError(f"A second {name} has no place in data.", remedy="Use to_html().")
        else:
            parts.append({name: arguments})
    return {**found, PARTS: parts}


def as_plain(said: Mapping[str, Any]) -> dict[str, Any]:
    """What a manuscript was made with, as data."""
    return {name: _plain(fact, "manuscript", name) for name, fact in said.items()}


def _data_of_call(call: Call) -> dict[str, Any]:
    facts: dict[str, Any] = {}
    for name, value in call.arguments.items():
        facts[_written(name)] = _plain(value, call.name, name)
    if call.inner:
        facts[PARTS] = [_data_of_call(inner) for inner in call.inner]
    content = facts.get("content")
    if list(facts) == ["content"] and isinstance(content, list):
        return {call.name: content[0] if len(content) == 1 and not isinstance(content[0], list) else content}
    return {call.name: facts or None}


def _plain(value: Any, part: str, name: str) -> Any:
    """An argument as data; raises OptionError where no data holds it."""
    if isinstance(value, Inline):
        return data_of_piece(value)
    if isinstance(value, Column):
        facts = {field: getattr(value, field) for field in Column.__dataclass_fields__}
        usual = Column(value.name)
        said = {field: fact for field, fact in facts.items() if fact != getattr(usual, field)}
        return {"name": value.name, **{field: _plain(fact, part, f"columns.{field}") for field, fact in said.items()}}
    if isinstance(value, Mapping):
        return {key: _plain(one, part, name) for key, one in value.items()}
    if isinstance(value, (list, tuple)):
        return [_plain(one, part, name) for one in value]
    if isinstance(value, os.PathLike):
        return os.fspath(value)
    if value is None or isinstance(value, (str, int, float, Decimal, date, time)):
        return value
    raise OptionError(
        f"The '{name}' of a part '{part}' is of the type '{type(value).__name__}', which no data holds.",
        remedy="Use to_html().",
    )
