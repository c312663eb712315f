"""The parsers of this engine, each as a function of bytes: what they raise besides our own errors is a fault."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from decimal import Decimal
from pathlib import Path

import tinycss2

import fleetquill as fq
from fleetquill.formats import Formats
from fleetquill.graphics.svg.paths import path_data, points_of
from fleetquill.graphics.svg.reading import natural_size, parse_svg
from fleetquill.graphics.svg.transforms import transform_of
from fleetquill.intake.markdown import markdown
from fleetquill.policy import Policy
from fleetquill.style.media import parse_media
from fleetquill.style.selectors import SelectorError, parse_selectors
from fleetquill.style.sheet import parse_sheet
from fleetquill.style.tokens import tamed
from fleetquill.text.bidi import levels
from fleetquill.text.breaking import opportunities
from fleetquill.text.face import Face
from fleetquill.text.font_files import describe
from fleetquill.text.woff import unpacked
from fleetquill.tree.data import parse_json, read_stream
from fleetquill.tree.forms import check_form
from fleetquill.tree.html import parse_html
from fleetquill.tree.lengths import as_page, css_lengths

FORMATS = Formats("en-IE")


def _text(content: bytes) -> str:
    return content.decode("utf-8", "surrogateescape")


def _selectors(content: bytes) -> None:
    with suppress(SelectorError):
        parse_selectors(tinycss2.parse_component_value_list(tamed(_text(content))))


def _svg(content: bytes) -> None:
    root = parse_svg(content)
    if not isinstance(root, str):
        natural_size(root)


def _form(content: bytes) -> None:
    form = _text(content)
    check_form(form)
    with suppress(ValueError):  # as cells take it: this number is no date
        FORMATS.form(Decimal("-1234.5"), form)


def _bidi(content: bytes) -> None:
    assert len(levels(_text(content), None)[1]) == len(_text(content))


def _face(content: bytes) -> None:
    path = Path("made.ttf")
    with suppress(UnicodeDecodeError, ArithmeticError, ValueError, RuntimeError):  # as load_face takes them
        describe(Face(path, content=content), path, 0, content)


PARSERS: dict[str, Callable[[bytes], object]] = {
    "selectors": _selectors,
    "style sheets": lambda content: parse_sheet(_text(content), "made", ""),
    "media queries": lambda content: parse_media(tinycss2.parse_component_value_list(tamed(_text(content)))),
    "HTML": lambda content: parse_html(_text(content)),
    "Markdown": lambda content: markdown(_text(content), Path(), "made"),
    "SVG": _svg,
    "paths": lambda content: path_data(_text(content)),
    "points": lambda content: points_of(_text(content)),
    "transforms": lambda content: transform_of(_text(content)),
    "forms of numbers": _form,
    "papers": lambda content: as_page(_text(content)),
    "lengths": lambda content: css_lengths(_text(content), "margin"),
    "JSON": lambda content: parse_json(_text(content), "made"),
    "data": lambda content: read_stream(_text(content)),
    "data addresses": lambda content: Policy().data("data:" + _text(content)),
    "bidi": _bidi,
    "line breaks": lambda content: opportunities(_text(content)),
    "fonts": _face,
    "packed fonts": lambda content: unpacked(content, 1_000_000),
}

SEEDS: dict[str, tuple[str, ...]] = {
    "selectors": ("a > b ~ c + d", ":nth-child(2n+1 of .x):not(p, q)", "::before", '[a="b" i]', ":has(> a)", "a|b"),
    "style sheets": ("@page :first { margin: 1cm }", "@media (width > 3px) { a { b: c } }", "a { b: var(--c, 1px) !important }", "@font-face { src: url(x) }"),
    "media queries": ("print and (width >= 3px)", "not all, (color)"),
    "HTML": ("<table><p>a<tr><td>b", "<svg><title>", "<!--", "</p>", "<a b=c &amp; &#0;>"),
    "Markdown": ("# a\n\n| a |\n|--|\n", "[^1]\n\n[^1]: x [^1]", "---\ntitle: x\n---\n"),
    "SVG": ("<svg width='1e9' viewBox='0 0 0 0'/>", "<!DOCTYPE svg [<!ENTITY a 'b'>]><svg>&a;</svg>"),
    "paths": ("M0 0A1 1 0 01 2 3z", "m1e400-1e-400.5.5", "T1 1S2 2"),
    "transforms": ("rotate(1 2 3)skewX(90)matrix(1 2 3 4 5 6)",),
    "forms of numbers": ("money:EUR", "#,##0.00;(#)", "percent:2", "date:yyyy-MM-dd", "'x'#"),
    "papers": ("A4 landscape", "80mm auto", "1e9in"),
    "data": ("a: [1, *b]", "{a: &b {}}", "2024-13-45", "a: !!python/object:os.system x"),
}  # fmt: skip


def tried(name: str, content: bytes) -> None:
    """Lets a parser read; our own errors are an answer."""
    with suppress(fq.FleetQuillError):
        PARSERS[name](content)
