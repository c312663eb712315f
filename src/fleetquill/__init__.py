"""Fleet Quill lays out text, tables and pictures from HTML and templates into paginated PDF files.

    import fleetquill as fq

    fq.compose("invoice.html", data={"number": "F-2041"}).save("invoice.pdf")

The names below are the public ones; each is loaded when it is first used.
"""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

from fleetquill.version import VERSION

if TYPE_CHECKING:
    from fleetquill.api import compose as compose
    from fleetquill.api import write as write
    from fleetquill.authoring.inline import Inline as Inline
    from fleetquill.authoring.inline import emphasis as emphasis
    from fleetquill.authoring.inline import footnote as footnote
    from fleetquill.authoring.inline import line_break as line_break
    from fleetquill.authoring.inline import link as link
    from fleetquill.authoring.inline import mono as mono
    from fleetquill.authoring.inline import page_number as page_number
    from fleetquill.authoring.inline import page_of as page_of
    from fleetquill.authoring.inline import small as small
    from fleetquill.authoring.inline import span as span
    from fleetquill.authoring.inline import spark as spark
    from fleetquill.authoring.inline import strong as strong
    from fleetquill.authoring.inline import subscript as subscript
    from fleetquill.authoring.inline import superscript as superscript
    from fleetquill.authoring.inline import text_of as text_of
    from fleetquill.authoring.inline import value as value
    from fleetquill.authoring.looks import look as look
    from fleetquill.authoring.manuscript import Manuscript as Manuscript
    from fleetquill.authoring.plate import Plate as Plate
    from fleetquill.bindery.binding import bind as bind
    from fleetquill.bindery.check import CheckReport as CheckReport
    from fleetquill.bindery.check import Finding as Finding
    from fleetquill.bindery.check import check as check
    from fleetquill.bindery.comparing import Change as Change
    from fleetquill.bindery.comparing import Comparison as Comparison
    from fleetquill.bindery.comparing import compare as compare
    from fleetquill.bindery.fields import Field as Field
    from fleetquill.bindery.filling import fill_fields as fill_fields
    from fleetquill.bindery.invoice_data import read_invoice as read_invoice
    from fleetquill.bindery.parts import Part as Part
    from fleetquill.bindery.seal import Seal as Seal
    from fleetquill.bindery.seal import seal as seal
    from fleetquill.bindery.seals import SealFound as SealFound
    from fleetquill.bindery.stamps import Stamp as Stamp
    from fleetquill.bindery.unbinding import Piece as Piece
    from fleetquill.bindery.unbinding import unbind as unbind
    from fleetquill.bindery.volume import AttachedFile as AttachedFile
    from fleetquill.bindery.volume import Volume as Volume
    from fleetquill.bindery.volume import VolumePage as VolumePage
    from fleetquill.briefs.brief import Brief as Brief
    from fleetquill.drawing.paged import Bookmark as Bookmark
    from fleetquill.edition import Edition as Edition
    from fleetquill.edition import Page as Page
    from fleetquill.errors import ConformanceError as ConformanceError
    from fleetquill.errors import DataError as DataError
    from fleetquill.errors import FaultError as FaultError
    from fleetquill.errors import FleetQuillError as FleetQuillError
    from fleetquill.errors import LimitError as LimitError
    from fleetquill.errors import OptionError as OptionError
    from fleetquill.errors import OutputError as OutputError
    from fleetquill.errors import PolicyError as PolicyError
    from fleetquill.errors import SourceError as SourceError
    from fleetquill.errors import StrictError as StrictError
    from fleetquill.errors import TemplateError as TemplateError
    from fleetquill.errors import Where as Where
    from fleetquill.fleet.combining import Combined as Combined
    from fleetquill.fleet.fleet import Fleet as Fleet
    from fleetquill.fleet.fleet import FleetProgress as FleetProgress
    from fleetquill.fleet.fleet import FleetReport as FleetReport
    from fleetquill.fleet.records import Query as Query
    from fleetquill.inspecting import ElementFound as ElementFound
    from fleetquill.inspecting import Placement as Placement
    from fleetquill.invoices.invoice import Invoice as Invoice
    from fleetquill.invoices.invoice import InvoiceError as InvoiceError
    from fleetquill.output.delivery import safe_name as safe_name
    from fleetquill.policy import Policy as Policy
    from fleetquill.press import Press as Press
    from fleetquill.press import Summary as Summary
    from fleetquill.progress import Progress as Progress
    from fleetquill.remarks import Remark as Remark
    from fleetquill.serve.remote import RemotePress as RemotePress
    from fleetquill.shelf.document import ShelfDocument as ShelfDocument
    from fleetquill.shelf.shelf import Shelf as Shelf
    from fleetquill.style.explaining import Declared as Declared
    from fleetquill.tree.column import Column as Column
    from fleetquill.tree.groups import Group as Group

__version__ = VERSION

_HOMES = {
    "compose": "api",
    "write": "api",
    "Volume": "bindery.volume",
    "VolumePage": "bindery.volume",
    "AttachedFile": "bindery.volume",
    "Field": "bindery.fields",
    "fill_fields": "bindery.filling",
    "bind": "bindery.binding",
    "Part": "bindery.parts",
    "Stamp": "bindery.stamps",
    "Seal": "bindery.seal",
    "seal": "bindery.seal",
    "SealFound": "bindery.seals",
    "compare": "bindery.comparing",
    "Comparison": "bindery.comparing",
    "Change": "bindery.comparing",
    "unbind": "bindery.unbinding",
    "Piece": "bindery.unbinding",
    "check": "bindery.check",
    "CheckReport": "bindery.check",
    "Finding": "bindery.check",
    "read_invoice": "bindery.invoice_data",
    "Invoice": "invoices.invoice",
    "InvoiceError": "invoices.invoice",
    "safe_name": "output.delivery",
    "Edition": "edition",
    "Page": "edition",
    "Placement": "inspecting",
    "ElementFound": "inspecting",
    "Declared": "style.explaining",
    "ConformanceError": "errors",
    "DataError": "errors",
    "FaultError": "errors",
    "FleetQuillError": "errors",
    "LimitError": "errors",
    "OptionError": "errors",
    "OutputError": "errors",
    "PolicyError": "errors",
    "SourceError": "errors",
    "StrictError": "errors",
    "TemplateError": "errors",
    "Where": "errors",
    "Fleet": "fleet.fleet",
    "FleetReport": "fleet.fleet",
    "FleetProgress": "fleet.fleet",
    "Query": "fleet.records",
    "Combined": "fleet.combining",
    "RemotePress": "serve.remote",
    "Shelf": "shelf.shelf",
    "ShelfDocument": "shelf.document",
    "Column": "tree.column",
    "Group": "tree.groups",
    "Progress": "progress",
    "look": "authoring.looks",
    "Inline": "authoring.inline",
    "emphasis": "authoring.inline",
    "footnote": "authoring.inline",
    "line_break": "authoring.inline",
    "link": "authoring.inline",
    "mono": "authoring.inline",
    "page_number": "authoring.inline",
    "page_of": "authoring.inline",
    "small": "authoring.inline",
    "span": "authoring.inline",
    "spark": "authoring.inline",
    "strong": "authoring.inline",
    "subscript": "authoring.inline",
    "superscript": "authoring.inline",
    "text_of": "authoring.inline",
    "value": "authoring.inline",
    "Manuscript": "authoring.manuscript",
    "Plate": "authoring.plate",
    "Brief": "briefs.brief",
    "Bookmark": "drawing.paged",
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
