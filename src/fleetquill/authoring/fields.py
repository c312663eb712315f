"""Fields of forms as Python asks for them: the controls of HTML (§4.10)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Final, NamedTuple

from lxml import etree

from fleetquill.errors import OptionError, meant, shown
from fleetquill.tree.texts import clean

INPUTS: Final = ("text", "number", "date", "email", "password", "checkbox", "radio", "signature")
KINDS: Final = (*INPUTS, "area", "select", "list")
CHOOSING: Final = ("radio", "select", "list")


class FieldWish(NamedTuple):
    """A field: its kind, its name, what stands before it, what it holds and what can be chosen."""

    kind: str
    name: str
    label: str
    value: Any
    choices: tuple[str, ...]
    required: bool


def field_controls(place: etree._Element, wish: FieldWish, facts: Mapping[str, str]) -> None:
    """Adds a label and its control. Raises OptionError for a kind that is not known, or one without choices."""
    if wish.kind not in KINDS:
        raise OptionError(f"'{wish.kind}' is no kind of field.", remedy=meant(str(wish.kind), KINDS))
    if wish.kind in CHOOSING and not wish.choices:
        raise OptionError(f"A field of the kind '{wish.kind}' needs choices.", remedy="Give 'choices'.")
    if not wish.name:
        raise OptionError("A field needs a name, by which its value is read.")
    label = clean(wish.label)
    if wish.kind == "radio":
        _radio(place, wish, facts)
        return
    around = etree.SubElement(place, "label")
    if label and wish.kind != "checkbox":
        around.text = f"{label} "
    tag = {"area": "textarea", "select": "select", "list": "select"}.get(wish.kind, "input")
    said: dict[str, str] = {"name": clean(wish.name), "title": label or clean(wish.name), **facts, "fq-fillable": ""}
    if wish.required:
        said["required"] = ""
    control = etree.SubElement(around, tag, said)
    if wish.kind == "checkbox" and label:
        control.tail = f" {label}"
    if tag == "select":
        _choices(control, wish)
    elif tag == "textarea":
        control.text = clean(str(wish.value))
    else:
        control.set("type", "fq-signature" if wish.kind == "signature" else wish.kind)
        if wish.kind == "checkbox":
            if wish.value:
                control.set("checked", "")
        elif wish.value not in ("", None):
            control.set("value", clean(str(wish.value)))


def _radio(place: etree._Element, wish: FieldWish, facts: Mapping[str, str]) -> None:
    """A control for each choice, under the label of all."""
    group = etree.SubElement(place, "span", {"role": "radiogroup"})
    if wish.label:
        group.text = f"{clean(wish.label)} "
    _check(wish.value, wish)
    for choice in wish.choices:
        around = etree.SubElement(group, "label")
        said = {"type": "radio", "name": clean(wish.name), "value": clean(choice), "title": clean(choice)}
        said |= {"fq-fillable": clean(wish.label) or clean(wish.name), **facts}
        if wish.required:
            said["required"] = ""
        if choice == wish.value:
            said["checked"] = ""
        etree.SubElement(around, "input", said).tail = f" {clean(choice)} "


def _choices(control: etree._Element, wish: FieldWish) -> None:
    chosen = [wish.value] if isinstance(wish.value, str) else list(wish.value or ())
    if wish.kind == "list":
        control.set("multiple", "")
    for value in chosen:
        _check(value, wish)
    for choice in wish.choices:
        option = etree.SubElement(control, "option", {"selected": ""} if choice in chosen else {})
        option.text = clean(choice)


def _check(value: Any, wish: FieldWish) -> None:
    if value not in ("", None) and value not in wish.choices:
        raise OptionError(
            f"{shown(value)} is none of the choices of '{wish.name}'.", remedy=meant(str(value), wish.choices)
        )
