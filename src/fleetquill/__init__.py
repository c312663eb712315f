"""Fleet Quill lays out text, tables and pictures from HTML and templates into paginated PDF files.

    import fleetquill as fq

    fq.compose("invoice.html", data={"number": "F-2041"}).save("invoice.pdf")

The names below are the public ones; each is loaded when it is first used.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from fleetquill.api import compose as compose
    from fleetquill.api import write as write
    from fleetquill.delivery import safe_name as safe_name
    from fleetquill.edition import Edition as Edition
    from fleetquill.edition import Page as Page
    from fleetquill.edition import Placement as Placement
    from fleetquill.errors import DataError as DataError
    from fleetquill.errors import FleetQuillError as FleetQuillError
    from fleetquill.errors import LimitError as LimitError
    from fleetquill.errors import OptionError as OptionError
    from fleetquill.errors import OutputError as OutputError
    from fleetquill.errors import PolicyError as PolicyError
    from fleetquill.errors import SourceError as SourceError
    from fleetquill.errors import StrictError as StrictError
    from fleetquill.errors import TemplateError as TemplateError
    from fleetquill.errors import Where as Where
    from fleetquill.manuscript.column import Column as Column
    from fleetquill.manuscript.inline import Inline as Inline
    from fleetquill.manuscript.inline import emphasis as emphasis
    from fleetquill.manuscript.inline import footnote as footnote
    from fleetquill.manuscript.inline import line_break as line_break
    from fleetquill.manuscript.inline import link as link
    from fleetquill.manuscript.inline import mono as mono
    from fleetquill.manuscript.inline import page_number as page_number
    from fleetquill.manuscript.inline import page_of as page_of
    from fleetquill.manuscript.inline import small as small
    from fleetquill.manuscript.inline import span as span
    from fleetquill.manuscript.inline import spark as spark
    from fleetquill.manuscript.inline import strong as strong
    from fleetquill.manuscript.inline import subscript as subscript
    from fleetquill.manuscript.inline import superscript as superscript
    from fleetquill.manuscript.inline import text_of as text_of
    from fleetquill.manuscript.inline import value as value
    from fleetquill.manuscript.manuscript import Manuscript as Manuscript
    from fleetquill.manuscript.plate import Plate as Plate
    from fleetquill.marks import Bookmark as Bookmark
    from fleetquill.policy import Policy as Policy
    from fleetquill.press import Press as Press
    from fleetquill.press import Summary as Summary
    from fleetquill.remarks import Remark as Remark

__version__ = "0.1.0"

_HOMES = {
    "compose": "api",
    "write": "api",
    "safe_name": "delivery",
    "Edition": "edition",
    "Page": "edition",
    "Placement": "edition",
    "DataError": "errors",
    "FleetQuillError": "errors",
    "LimitError": "errors",
    "OptionError": "errors",
    "OutputError": "errors",
    "PolicyError": "errors",
    "SourceError": "errors",
    "StrictError": "errors",
    "TemplateError": "errors",
    "Where": "errors",
    "Column": "manuscript.column",
    "Inline": "manuscript.inline",
    "emphasis": "manuscript.inline",
    "footnote": "manuscript.inline",
    "line_break": "manuscript.inline",
    "link": "manuscript.inline",
    "mono": "manuscript.inline",
    "page_number": "manuscript.inline",
    "page_of": "manuscript.inline",
    "small": "manuscript.inline",
    "span": "manuscript.inline",
    "spark": "manuscript.inline",
    "strong": "manuscript.inline",
    "subscript": "manuscript.inline",
    "superscript": "manuscript.inline",
    "text_of": "manuscript.inline",
    "value": "manuscript.inline",
    "Manuscript": "manuscript.manuscript",
    "Plate": "manuscript.plate",
    "Bookmark": "marks",
    "Policy": "policy",
    "Press": "press",
    "Summary": "press",
    "Remark": "remarks",
}

__all__ = [*_HOMES, "__version__"]


def __getattr__(name: str) -> Any:
    home = _HOMES.get(name)
    if home is None:
        raise AttributeError(f"module 'fleetquill' has no attribute '{name}'")
    value = getattr(import_module(f"fleetquill.{home}"), name)
    globals()[name] = value
    return value


def __dir__() -> list[str]:
    return sorted(__all__)
