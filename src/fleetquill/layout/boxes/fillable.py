"""Which controls are filled in, and what they are as fields (HTML §4.10)."""

from __future__ import annotations

from typing import Final

from fleetquill.drawing.fields import Field
from fleetquill.layout.boxes.boxes import Element, element_text, integer
from fleetquill.layout.contract.context import Context
from fleetquill.style.properties import ComputedStyle

ATTRIBUTE: Final = "fq-fillable"  # of a form whose controls are filled in, or of one of them
TEXTS: Final = frozenset(
    ("text", "search", "tel", "url", "email", "number", "password", "date", "datetime-local", "time", "month", "week")
)
SIGNATURE: Final = "fq-signature"
DRAWN_ONLY: Final = {"file": "files", "color": "colours", "range": "a range", "image": "pictures"}
ALIGNED: Final = {"center": 1, "right": 2}


def is_fillable(element: Element, context: Context) -> bool:
    """Whether a control is to be filled in: all are, or those of its form."""
    if context.fillable or ATTRIBUTE in element.attrib:
        return True
    return any(ATTRIBUTE in form.attrib for form in element.iterancestors("form"))


def field_of(element: Element, style: ComputedStyle, context: Context) -> Field | None:
    """A control as a field; None where it is none, or cannot be one, with a remark."""
    if not is_fillable(element, context):
        return None
    kind = kind_of(element)
    if kind in DRAWN_ONLY or kind in ("hidden", "progress", "meter"):
        if kind in DRAWN_ONLY:
            place = context.services.place_of(element)
            message = f"A control for {DRAWN_ONLY[kind]} cannot be filled in: it is drawn as it is."
            context.remarks.add("field", message, source=place.source, line=place.line)
        return None
    name = element.get("name", "").strip() or element.get("id", "").strip()
    if not name:
        context.unnamed_fields += 1
        name = f"field {context.unnamed_fields}"
    attributes = element.attrib
    field = Field(
        kind, name, label_of(element) or name, context.font(style), style.font_size, style.color,
        required="required" in attributes,
        read_only="readonly" in attributes or "disabled" in attributes,
        unchecked=element.get("autocomplete") == "off" or element.get("spellcheck") == "false",
        align=_align(style), order=max(0, integer(element.get("tabindex"), 0)),
    )  # fmt: skip
    if kind in ("checkbox", "radio"):
        group = _group_of(element) or name if kind == "radio" else ""
        state = element.get("value", "").strip() or "on"
        return field._replace(state=state, ticked="checked" in attributes, group=group)
    if kind in ("select", "list"):
        return _chosen(element, field)
    if kind == "button":
        caption = label_of(element) or _caption(element) or name
        return field._replace(target=_target(element), label=caption) if _is_button(element) else None
    if kind == "signature":
        return field
    return _text(element, style, field)


def kind_of(element: Element) -> str:
    """What a control is as a field; the type of an input that cannot be one."""
    if element.tag == "select":
        return "list" if "multiple" in element.attrib or integer(element.get("size"), 0) > 1 else "select"
    if element.tag in ("textarea", "progress", "meter"):
        return "text" if element.tag == "textarea" else str(element.tag)
    if element.tag == "button":
        return "button"
    given = element.get("type", "text").strip().lower()
    if given == SIGNATURE:
        return "signature"
    if given in ("submit", "reset", "button"):
        return "button"
    return given if given in ("checkbox", "radio", "hidden", *DRAWN_ONLY) else "text"


def label_of(element: Element) -> str:
    """How a control is called aloud: as it says, or as its label does."""
    said = element.get("title") or element.get("aria-label") or ""
    if said.strip():
        return " ".join(said.split())
    own = element.get("id")
    if own:
        for label in element.getroottree().getroot().iter("label"):
            if label.get("for") == own:
                return element_text(label)
    around = next(element.iterancestors("label"), None)
    if around is not None:
        return element_text(around, without=[element])
    return element.get("placeholder", "").strip()


def _group_of(element: Element) -> str:
    """What the fieldset around a control is called, or what its own attribute says that all are."""
    if element.get(ATTRIBUTE):
        return str(element.get(ATTRIBUTE))
    around = next(element.iterancestors("fieldset"), None)
    legend = None if around is None else around.find("legend")
    return "" if legend is None else element_text(legend)


def _align(style: ComputedStyle) -> int:
    start = "right" if style.direction == "rtl" else "left"
    end = "left" if style.direction == "rtl" else "right"
    return ALIGNED.get({"start": start, "end": end}.get(style.text_align, style.text_align), 0)


def _text(element: Element, style: ComputedStyle, field: Field) -> Field:
    """A field for text; one with datalist is a list that takes other values, too."""
    kind = element.get("type", "text").strip().lower()
    value = (element.text or "") if element.tag == "textarea" else element.get("value", "")
    longest = max(0, integer(element.get("maxlength"), 0))
    listed = element.get("list")
    if listed:
        lists = element.getroottree().getroot().iter("datalist")
        found = next((one for one in lists if one.get("id") == listed), None)
        choices = () if found is None else tuple(_pair(option) for option in found.iter("option"))
        if choices:
            return field._replace(kind="select", editable=True, choices=choices, value=value)
    cells = style.fq_comb if isinstance(style.fq_comb, int) and element.tag == "input" else 0
    return field._replace(
        value=value, multiline=element.tag == "textarea", secret=kind == "password", cells=cells,
        longest=cells or longest,
    )  # fmt: skip


def _pair(option: Element) -> tuple[str, str]:
    """What a choice stands for, and what it shows."""
    shown = option.get("label") or element_text(option)
    value = option.get("value")
    return (shown if value is None else value), shown or (value or "")


def _chosen(element: Element, field: Field) -> Field:
    options = list(element.iter("option"))
    choices = tuple(_pair(option) for option in options)
    selected = [value for (value, _), option in zip(choices, options, strict=True) if "selected" in option.attrib]
    if field.kind == "list":
        several = "multiple" in element.attrib
        return field._replace(choices=choices, value=tuple(selected if several else selected[-1:]), several=several)
    enabled = [value for (value, _), option in zip(choices, options, strict=True) if "disabled" not in option.attrib]
    value = (selected[-1:] or enabled[:1] or [""])[0]
    return field._replace(choices=choices, value=value)


def _is_button(element: Element) -> bool:
    """Whether a button does what a page can do: it empties the form, or opens a link."""
    return element.get("type", "submit").strip().lower() == "reset" or bool(_target(element))


def _target(element: Element) -> str:
    if element.get("type", "submit").strip().lower() == "reset":
        return ""
    return element.get("formaction", "").strip()


def _caption(element: Element) -> str:
    return element.get("value", "") if element.tag == "input" else element_text(element)
