"""What all of layout shares for one document: fonts, remarks, pictures, and the page it is on."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from lxml import etree

from fleetquill.errors import Where
from fleetquill.formats import Formats
from fleetquill.remarks import Remarks
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.settings import FontSettings
from fleetquill.text.shaping import FontSetting

if TYPE_CHECKING:
    from collections.abc import Callable

    from fleetquill.graphics.pictures import PictureStore
    from fleetquill.layout.boxes import TallyBox
    from fleetquill.layout.paragraph import Paragraph
    from fleetquill.layout.tallies import TallyView
    from fleetquill.manuscript.ledger import OpenLedger

Element = etree._Element


class Context:
    """One document's layout context."""

    def __init__(
        self,
        fonts: FontSettings,
        pictures: PictureStore,
        remarks: Remarks,
        source: str,
        place_of: Callable[[Element | None], Where],
        open_ledger: Callable[[Element], OpenLedger],
        formats: Callable[[], Formats],
    ) -> None:
        self.fonts = fonts
        self.pictures = pictures
        self.remarks = remarks
        self.source = source
        self.place_of = place_of
        self.paragraphs: dict[Any, Paragraph] = {}  # short ones, by style and text
        self.tallies: TallyView | None = None  # of the place in a table that is being laid out
        self.open_ledger = open_ledger
        self._formats = formats
        self.page = 0  # number of the page being laid out, from 1

    def font(self, style: ComputedStyle, direction: str = "ltr") -> FontSetting:
        return self.fonts.of(style, direction)

    def tally_text(self, box: TallyBox) -> str:
        """What a tally says here, in its form and the press's locale."""
        if self.tallies is None:
            self.remark("tally", f"The tally '{box.tally.name}' is shown outside of any table.", box.element)
            return ""
        return self._formats().form(self.tallies.value(box.tally.name, box.tally.scope), box.tally.form)

    def remark(self, kind: str, message: str, element: Element | None) -> None:
        place = self.place_of(element)
        self.remarks.add(kind, message, source=place.source, line=place.line, page=self.page)
