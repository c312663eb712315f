"""Writes docs/support.md: what of CSS and HTML is carried out, from the tables that the engine itself reads.

python tools/make_support_table.py
"""

from __future__ import annotations

from pathlib import Path
from typing import Final

from fleetquill.layout.boxes.controls import CONTROLS
from fleetquill.layout.boxes.replaced_elements import REPLACED
from fleetquill.style.drawn_properties import DRAWN
from fleetquill.style.font_values import SIZES
from fleetquill.style.generated import DISPLAYS
from fleetquill.style.hints import HINTS
from fleetquill.style.lengths import FONT_UNITS, MATH, VIEWPORT_UNITS, Relative
from fleetquill.style.other_properties import SCREEN_ONLY
from fleetquill.style.properties import PROPERTIES
from fleetquill.style.selectors import FUNCTIONAL_CLASSES, NEVER, PSEUDO_ELEMENTS, SIMPLE_CLASSES
from fleetquill.style.sheet import AT_RULES
from fleetquill.style.shorthands import SHORTHANDS
from fleetquill.style.values import Rgba
from fleetquill.units import PX_PER_UNIT

FILE: Final = Path(__file__).parent.parent / "docs" / "support.md"
LEFT_OUT: Final = {  # of CSS, what a page might use and does not get; each is a remark
    "position: sticky": "stands as relative", "perspective": "no third dimension", "shape-outside": "",
    "text-combine-upright": "", "backdrop-filter": "", "offset-path": "", "mask-border": "",
    "@container": "left out, with a remark",
    "hanging-punctuation": "",
}  # fmt: skip
SHOWN: Final = {  # elements that are more than boxes with a style
    "a": "a link, of the document or the web",
    "img, picture": "the sharpest useful picture of `srcset`; a frame of the right size where there is none",
    "svg": "drawn; the document's style reaches in",
    "math": "fractions, indices, roots and rows, plainly",
    "input, textarea, select, button, progress, meter": "their state: what was typed, chosen, ticked",
    "fieldset, legend": "the legend stands on the border",
    "details, dialog": "what a browser shows: open ones, and the summary of closed ones",
    "ruby, rt": "the annotation over its base",
    "table and its parts": "heads and feet are repeated; stray content is put in front, as the standard says",
    "iframe, embed, video, audio, canvas, object": "a picture where they name one, else an empty frame, and a remark",
    "script": "not run; said once",
    "noscript": "shown, as scripts are not run",
    "template, datalist": "nothing",
}
NAMED: Final = {"br", "wbr"}  # breaks, which need no line of their own


def support() -> str:
    """The page as Markdown."""
    kept = [name for name in LEFT_OUT if name in PROPERTIES or name in SHORTHANDS]
    assert not kept, f"{kept} are carried out: they belong in no list of what is left out."
    told = " ".join(SHOWN).replace(",", "").split()
    missing = {*REPLACED, *CONTROLS} - {*told, *NAMED} - {name for name in REPLACED if name.startswith("fq-")}
    assert not missing, f"{missing} stand in no line of the table of elements."
    return "\n".join([*_css(), *_html(), ""])


def _css() -> list[str]:
    rows = [
        f"| `{name}` | {_initial(row.initial)} | {'yes' if row.inherits else ''} | {_note(name)} |"
        for name, row in sorted(PROPERTIES.items())
        if name != "-fq-cell-hints"
    ]
    return [
        "# What of CSS and HTML is carried out",
        "",
        "Made by `tools/make_support_table.py` from the tables that the engine reads; a test holds it to them. What is",
        "not here is passed over with a remark.",
        "",
        f"## Properties ({len(rows)})",
        "",
        "| property | initial value | inherits | note |",
        "| --- | --- | --- | --- |",
        *rows,
        "",
        f"Shorthands and other names: {_names(SHORTHANDS)}.",
        "",
        f"Without meaning on paper, passed over without a word: {_names(SCREEN_ONLY)}.",
        "",
        "## Values, rules, selectors",
        "",
        f"- `display`: {_names(DISPLAYS)}.",
        f"- Units: {_names({*PX_PER_UNIT, *FONT_UNITS, *VIEWPORT_UNITS, 'em', 'rem'})}.",
        "- Units of angles: `deg`, `grad`, `rad`, `turn`.",
        f"- Math functions: {_names(MATH)}; with the constants e, pi, infinity and NaN.",
        f"- Font sizes by name: {_names(SIZES)}.",
        f"- Rules: {_names(f'@{name}' for name in AT_RULES if name != 'container')}; nested rules.",
        f"- Pseudo-classes: {_names(f':{name}' for name in (*SIMPLE_CLASSES, *FUNCTIONAL_CLASSES))}.",
        f"- Pseudo-classes of the screen, which match nothing: {_names(f':{name}' for name in NEVER)}.",
        f"- Pseudo-elements: {_names(f'::{name}' for name in PSEUDO_ELEMENTS)}.",
        "",
        "## Left out",
        "",
        "| | |",
        "| --- | --- |",
        *(f"| `{name}` | {why or 'passed over with a remark'} |" for name, why in sorted(LEFT_OUT.items())),
        "",
    ]


def _html() -> list[str]:
    hints = sorted((tag, sorted(names)) for tag, names in HINTS.items() if not set(names) & set(DRAWN))
    return [
        "## HTML",
        "",
        "Read as the standard says (tree construction of HTML §13.2), shown by its own style sheet (§15). Besides:",
        "",
        "| element | what is shown |",
        "| --- | --- |",
        *(f"| {', '.join(f'`{n}`' for n in names.split(', '))} | {what} |" for names, what in SHOWN.items()),
        "",
        "Attributes that say something about style:",
        "",
        *(f"- `{tag}`: {_names(names)}" for tag, names in hints),
        "- every element: `dir`, `hidden`, `lang`, `style`; `ol` also `start` and `reversed`, `li` also `value`,",
        "  `table` also `border`, `cellpadding`, `rules`, `frame`, `hr` also `size` and `noshade`",
    ]


def _names(names: object) -> str:
    return ", ".join(f"`{name}`" for name in sorted(set(names)))  # type: ignore[call-overload]


def _note(name: str) -> str:
    field = PROPERTIES[name].field
    if field in DRAWN:
        return "of drawings"
    return "of this engine alone" if name.startswith("-fq-") else ""


def _initial(value: object) -> str:
    """An initial value as CSS would write it, as far as it is short."""
    if value is None:
        return "currentcolor"
    if isinstance(value, Rgba):
        return "transparent" if value.alpha == 0 else "black"
    if isinstance(value, Relative):
        return f"{value.ratio:.0%}" if not value.px else "–"
    if isinstance(value, float):
        return f"{value:g}"
    if isinstance(value, tuple) and value and value[0] is True:
        return "auto"  # an aspect ratio of its own
    if isinstance(value, tuple):
        return "none" if not value else " ".join(map(_initial, value)) if len(value) < 3 else "–"
    return str(value)


def main() -> None:
    FILE.write_text(support(), encoding="utf-8")
    print(f"{FILE.name}: {len(support().splitlines())} lines")


if __name__ == "__main__":
    main()
