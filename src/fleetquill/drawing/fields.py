"""Fields of a form that readers fill in: what each is and holds (HTML §4.10, ISO 32000-2 §12.7)."""

from __future__ import annotations

from typing import Final, NamedTuple

from fleetquill.style.values import Rgba
from fleetquill.text.shaping import FontSetting

OFF: Final = "Off"  # the state of what is not ticked


class Field(NamedTuple):
    """A control that is filled in: `kind` is text, checkbox, radio, select, list, button or signature.

    `value` is what it holds, of a list the values that are chosen; `choices` are pairs of a value and what it shows.
    `state` is what a tick stands for. `label` is how it is called aloud. `cells` are those that letters stand in, one
    in each; `longest` is how many letters it takes. `align` is 0, 1 or 2: left, in the middle, right. `order` is its
    place among those that have one (tabindex). `group` is how all are called that exclude one another.
    """

    kind: str
    name: str
    label: str
    setting: FontSetting
    size: float  # px
    color: Rgba
    value: str | tuple[str, ...] = ""
    choices: tuple[tuple[str, str], ...] = ()
    state: str = ""
    ticked: bool = False
    required: bool = False
    read_only: bool = False
    multiline: bool = False
    secret: bool = False
    several: bool = False
    editable: bool = False
    unchecked: bool = False  # whether its spelling is left alone
    cells: int = 0
    longest: int = 0
    align: int = 0
    order: int = 0
    group: str = ""
    target: str = ""  # where a button leads; '' for one that empties the form
