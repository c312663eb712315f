"""Fonts that a document brings along: @font-face rules into faces (CSS Fonts 4 §4)."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from fleetquill.errors import FleetQuillError
from fleetquill.policy import Resource
from fleetquill.style.font_face import FontFaceRule
from fleetquill.text.face import Face
from fleetquill.text.font_files import describe
from fleetquill.text.fonts import FaceEntry, FontLibrary
from fleetquill.text.woff import PACKED


def load_face(
    rule: FontFaceRule, read: Callable[[str], Resource], library: FontLibrary, unpack: Callable[[bytes, Path], bytes]
) -> FaceEntry | str:
    """The face that an @font-face means: of its sources the first that there is; else what is wrong.

    `unpack` opens those that are packed for the web.
    """
    complaint = ""
    for source in rule.sources:
        if source.local:
            entry = library.by_full_name(source.local)
            if entry is not None:
                return _named(entry, rule)
            complaint = complaint or f"There is no local font '{source.local}'."
            continue
        try:
            resource = read(source.url)
            path = Path(resource.name)
            content = resource.content
            if content.startswith(PACKED):
                content = unpack(content, path)
            entry = describe(Face(path, content=content), path, 0, content)
        except (UnicodeDecodeError, ArithmeticError, ValueError, RuntimeError) as error:  # what damaged tables bring
            complaint = f"'{source.url}': The font is damaged ({error})."
            continue
        except FleetQuillError as error:
            complaint = f"'{source.url}': {error.what}"
            continue
        return _named(entry, rule)
    return f"The font '{rule.family}' is not used. {complaint}"


def _named(entry: FaceEntry, rule: FontFaceRule) -> FaceEntry:
    """The face under the rule's names."""
    return entry._replace(
        family=rule.family,
        weights=_within(rule.weights, entry.weights, 400.0),
        italic=rule.italic,
        stretches=_within(rule.stretches, entry.stretches, 100.0),
        ranges=rule.ranges,
    )


def _within(asked: tuple[float, float] | None, has: tuple[float, float], normal: float) -> tuple[float, float]:
    """The reach that a rule gives a face: asked for, else the axis of a variable font, else normal."""
    if asked is None:
        return has if has[0] < has[1] else (normal, normal)
    if asked[0] == asked[1] or has[0] == has[1]:
        return asked
    return max(asked[0], has[0]), min(asked[1], has[1])
