"""The template door: Jinja2 with the data's names, and errors that say file, line and nearest name."""

from __future__ import annotations

import os
import re
from bisect import bisect_right
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextvars import ContextVar
from functools import lru_cache, wraps
from pathlib import Path
from types import TracebackType
from typing import Any, Final, NoReturn

import jinja2
from jinja2 import nodes
from jinja2.exceptions import SecurityError
from jinja2.loaders import split_template_path

from fleetquill.caches import Cache
from fleetquill.deadline import heed
from fleetquill.errors import (
    FleetQuillError,
    LimitError,
    PolicyError,
    TemplateError,
    Where,
    nearest,
    without_places_in_memory,
)
from fleetquill.formats import Formats
from fleetquill.intake.order import Order
from fleetquill.intake.template_work import WORK, Sandbox, Work, length_written
from fleetquill.policy import Policy
from fleetquill.tree.document import Document
from fleetquill.tree.files import read_text
from fleetquill.tree.words import NO_WORDS, TemplateWords

TEXT_TEMPLATE = "template text"
MOST_LINE_TABLES: Final = 256
MOST_FOLDERS: Final = 32  # whose templates are kept
MOST_TEXTS: Final = 128  # templates given as text that are kept


class UnknownName(jinja2.UndefinedError):
    """A template named what the data does not have."""

    def __init__(self, name: str, owner: Any) -> None:
        super().__init__(name)
        self.name = name
        self.owner = owner


class Undefined(jinja2.StrictUndefined):
    """Any use of an unknown value is an error that knows its name."""

    def _fail_with_undefined_error(self, *_args: Any, **_kwargs: Any) -> NoReturn:
        owner = self._undefined_obj
        raise UnknownName(str(self._undefined_name), None if owner is jinja2.utils.missing else owner)

    __str__ = __iter__ = __len__ = __bool__ = _fail_with_undefined_error
    __eq__ = __ne__ = __hash__ = __contains__ = _fail_with_undefined_error
    __add__ = __radd__ = __sub__ = __rsub__ = __mul__ = __rmul__ = _fail_with_undefined_error
    __truediv__ = __rtruediv__ = __floordiv__ = __mod__ = __neg__ = _fail_with_undefined_error
    __lt__ = __le__ = __gt__ = __ge__ = __getitem__ = __call__ = _fail_with_undefined_error
    __int__ = __float__ = _fail_with_undefined_error

    def __getattr__(self, name: str) -> Any:
        if name.startswith("__"):
            raise AttributeError(name)
        self._fail_with_undefined_error()


class FilterFault(ValueError):
    """A filter could not use its value."""


LOADED: Final[ContextVar[list[Path]]] = ContextVar("LOADED")  # files of templates that another one includes


class _Environment(jinja2.Environment):
    """Compiles templates so that each piece of their text knows its line, and notes which are used."""

    def _load_template(self, name: str, globals: Any) -> jinja2.Template:
        template = super()._load_template(name, globals)
        if template.filename is not None:
            LOADED.get([]).append(Path(template.filename))
        return template

    def _parse(self, source: str, name: str | None, filename: str | None) -> nodes.Template:
        tree = super()._parse(source, name, filename)
        if isinstance(self, Sandbox):
            self.counting(tree)
        for node in [tree, *tree.find_all(nodes.Node)]:
            for field, value in node.iter_fields():
                if isinstance(value, list) and any(isinstance(part, nodes.Output) for part in value):
                    setattr(node, field, [marked for part in value for marked in self._with_line(part)])
        return tree

    def _with_line(self, node: nodes.Node) -> list[nodes.Node]:
        """Constant text leaves no line number in the compiled template: an empty statement before it does."""
        if not isinstance(node, nodes.Output):
            return [node]
        if isinstance(self, Sandbox):
            return [length_written(node), node]
        return [nodes.ExprStmt(nodes.Const(None, lineno=node.lineno), lineno=node.lineno), node]


class StrangersEnvironment(_Environment, Sandbox):
    """The same for templates from strangers."""


class _Files(jinja2.FileSystemLoader):
    """Templates of folders; none of another folder, by a link, and none too large."""

    def __init__(self, folders: Sequence[Path], policy: Policy) -> None:
        super().__init__(folders)
        self._folders = folders
        self._policy = policy

    def get_source(self, environment: jinja2.Environment, template: str) -> tuple[str, str, Callable[[], bool]]:
        pieces = split_template_path(template)
        path = next((path for folder in self._folders if (path := Path(folder, *pieces)).is_file()), None)
        if path is not None:
            self._policy.check(path)
            if not self._policy.allows(path, self._folders):
                raise PolicyError("The template lies outside the folders that may be read.", where=Where(str(path)))
        return super().get_source(environment, template)


class Templates:
    """Jinja2 environments by folder, kept so that a template is compiled once."""

    def __init__(
        self,
        formats: Formats,
        folders: Sequence[Path] = (),
        policy: Policy | None = None,
        words: TemplateWords = NO_WORDS,
    ) -> None:
        self._formats = formats
        self._words = words
        self._folders = list(folders)
        self._policy = policy or Policy()
        self._environments: Cache[Path, jinja2.Environment] = Cache(MOST_FOLDERS)
        self._texts: Cache[tuple[Path, str], jinja2.Template] = Cache(MOST_TEXTS)

    def environment(self, folder: Path) -> jinja2.Environment:
        environment = self._environments.get(folder)
        if environment is None:
            kind = StrangersEnvironment if self._policy.strangers else _Environment
            environment = kind(
                loader=_Files([folder, *self._folders], self._policy),
                undefined=Undefined,
                autoescape=True,
                auto_reload=True,
            )
            for name, function in {**self._formats.filters(), **self._words.filters}.items():
                environment.filters[name] = named_filter(name, function)
            environment.globals.update(self._words.values)
            if isinstance(environment, Sandbox):
                environment.given = [value for value in self._words.values.values() if callable(value)]
                environment.guard_filters()
            self._environments.put(folder, environment)
        return environment

    def from_file(self, path: Path, data: Mapping[str, Any]) -> Document:
        """Fills in a template file; links in it are relative to its folder."""
        folder = path.parent
        try:
            template = self.environment(folder).get_template(path.name)
        except jinja2.TemplateNotFound:
            read_text(path, "document")  # says why it cannot be read
            raise
        except jinja2.TemplateSyntaxError as error:
            raise _syntax_error(error, str(path)) from error
        except RecursionError as error:
            raise _too_deep(str(path)) from error
        except UnicodeDecodeError:
            read_text(path, "document")
            raise
        return self._document(template, data, folder, str(path))

    def from_text(self, text: str, data: Mapping[str, Any], base: Path) -> Document:
        """Fills in a template that is given as text."""
        template = self._texts.get((base, text))
        if template is None:
            try:
                template = self.environment(base).from_string(text)
            except jinja2.TemplateSyntaxError as error:
                raise _syntax_error(error, TEXT_TEMPLATE) from error
            except RecursionError as error:
                raise _too_deep(TEXT_TEMPLATE) from error
            self._texts.put((base, text), template)
        return self._document(template, data, base, TEXT_TEMPLATE)

    def _document(self, template: jinja2.Template, data: Mapping[str, Any], base: Path, source: str) -> Document:
        if not self._policy.strangers:
            return _document(template, data, base, source)
        work = WORK.set(Work(self._policy.template_steps))
        try:
            return _document(template, data, base, source)
        finally:
            WORK.reset(work)


def _too_deep(source: str) -> LimitError:
    return LimitError("The template is nested too deep.", where=Where(source))


def read(order: Order) -> Document:
    """The template door: a file filled in with data."""
    return order.fill_in(Path(order.source), order.data or {})


def read_template(
    template: str | os.PathLike[str],
    data: Mapping[str, Any],
    *,
    base: str | os.PathLike[str] | None = None,
    locale: str = "en",
    policy: Policy | None = None,
) -> Document:
    """See Manuscript.from_template. Text that holds a line break or a tag is a template, not a path."""
    templates = Templates(Formats(locale), policy=policy)
    if isinstance(template, str) and ("\n" in template or "<" in template or "{" in template):
        document = templates.from_text(template, data, Path(base or "."))
        if base is None:
            document.home = None
        return document
    return templates.from_file(Path(template), data)


def named_filter(name: str, function: Callable[..., Any]) -> Callable[..., Any]:
    """The filter, with its name in what it complains of."""

    @wraps(function)
    def filtered(value: Any, *args: Any, **kwargs: Any) -> Any:
        if isinstance(value, jinja2.Undefined):
            str(value)
        try:
            return function(value, *args, **kwargs)
        except Exception as error:
            raise FilterFault(f"The filter '{name}' cannot use {value!r}: {error}.") from error

    return filtered


def _document(template: jinja2.Template, data: Mapping[str, Any], base: Path, source: str) -> Document:
    parts: list[str] = []
    lines: list[tuple[int, Where]] = []
    line = 1
    files: list[Path] = []
    around = LOADED.set(files)
    try:
        for text, where in _render(template, data, source):
            parts.append(text)
            if not lines:
                lines.append((1, where))
            breaks = text.count("\n")
            if breaks:
                lines.append((line + 1, Where(where.source, where.line + 1)))
                line += breaks
    finally:
        LOADED.reset(around)
    document = Document.of_html("".join(parts), base, source, lines)
    document.files += dict.fromkeys(files)
    return document


def _render(template: jinja2.Template, data: Mapping[str, Any], source: str) -> Iterator[tuple[str, Where]]:
    """The rendered text in pieces, each with the place of the template that it came from."""
    places: dict[tuple[int, int], Where] = {}  # by where a generator stands
    try:
        pieces: Any = template.root_render_func(template.new_context(dict(data)))
        for text in pieces:
            heed()
            inner = pieces
            while hasattr(inner.gi_yieldfrom, "gi_frame"):
                inner = inner.gi_yieldfrom
            frame = inner.gi_frame
            key = (id(inner.gi_code), frame.f_lasti)
            where = places.get(key)
            if where is None:
                owner: jinja2.Template = frame.f_globals.get("__jinja_template__", template)
                starts, numbers = _line_table(owner)
                line = numbers[bisect_right(starts, frame.f_lineno)]
                where = places[key] = Where(owner.filename or source, line)
            yield without_places_in_memory(text), where
    except FleetQuillError:
        raise
    except RecursionError as error:
        where = _place_in_template(template, error.__traceback__, source)
        raise LimitError("The template calls itself without end.", where=where) from error
    except Exception as error:
        raise _render_error(template, error, data, source) from error


@lru_cache(maxsize=MOST_LINE_TABLES)
def _line_table(template: jinja2.Template) -> tuple[list[int], list[int]]:
    """Lines of the compiled template where another of its own begins, and the numbers of those, after a first 1."""
    pairs = sorted((compiled, own) for own, compiled in template.debug_info)
    return [compiled for compiled, _ in pairs], [1, *(own for _, own in pairs)]


def _render_error(template: jinja2.Template, error: Exception, data: Mapping[str, Any], source: str) -> TemplateError:
    """What went wrong while filling in, in the words of the template's writer."""
    where = _place_in_template(template, error.__traceback__, source)
    if isinstance(error, UnknownName):
        return _unknown_name(error, data, where)
    if isinstance(error, jinja2.UndefinedError):
        return TemplateError(f"An unknown value is used: {error}.", where=where)
    if isinstance(error, jinja2.TemplateSyntaxError):
        return _syntax_error(error, source)
    if isinstance(error, SecurityError):
        return TemplateError(f"The template asks for what strangers may not: {error}.", where=where)
    if isinstance(error, jinja2.TemplateNotFound):
        return TemplateError(
            f"The template '{error.name}' that is included does not exist.",
            where=where,
            remedy="Check its name.",
        )
    if isinstance(error, FilterFault):
        return TemplateError(str(error), where=where)
    unknown = _unknown_word(error, where)
    if unknown is not None:
        return unknown
    return TemplateError(f"The template fails: {type(error).__name__}: {error}.", where=where)


def _unknown_name(error: UnknownName, data: Mapping[str, Any], where: Where) -> TemplateError:
    owner = error.owner
    known = (
        [str(key) for key in (data if owner is None else owner)]
        if owner is None or isinstance(owner, Mapping)
        else [name for name in dir(owner) if not name.startswith("_")]
    )
    meant = nearest(error.name, known)
    if owner is None:
        what = f"The template names '{error.name}', which the data does not have."
    else:
        what = f"The template asks for '{error.name}', which this value of the data does not have."
    if meant:
        return TemplateError(what, where=where, remedy=f"Did you mean '{meant}'?")
    shown = ", ".join(known[:8])
    return TemplateError(what, where=where, remedy=f"It has: {shown}." if shown else "The data is empty.")


def _place_in_template(template: jinja2.Template, traceback: TracebackType | None, source: str) -> Where:
    """The innermost line of any template on the way to an error."""
    where = Where(source)
    while traceback is not None:
        owner = traceback.tb_frame.f_globals.get("__jinja_template__")
        if owner is not None:
            where = Where(owner.filename or source, owner.get_corresponding_lineno(traceback.tb_lineno))
        traceback = traceback.tb_next
    return where


NO_WORD: Final = re.compile(r"No (filter|test) named '([^']*)'")


def _syntax_error(error: jinja2.TemplateSyntaxError, source: str) -> TemplateError:
    where = Where(error.filename or source, error.lineno)
    unknown = _unknown_word(error, where)
    if unknown is not None:
        return unknown
    return TemplateError(f"The template does not parse: {error.message}.", where=where, remedy="Mend it there.")


def _unknown_word(error: Exception, where: Where) -> TemplateError | None:
    """What is wrong where a template asks for a filter or a test that there is not; None for another error."""
    unknown = NO_WORD.match(str(error))
    if unknown is None:
        return None
    known = [*Formats("en").filters(), *jinja2.filters.FILTERS, *jinja2.tests.TESTS]
    meant = nearest(unknown[2], known)
    remedy = f"Did you mean '{meant}'?" if meant else "Press(filters=…) can add filters."
    return TemplateError(f"There is no {unknown[1]} '{unknown[2]}'.", where=where, remedy=remedy)
