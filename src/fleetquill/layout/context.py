"""What all of layout shares for one document: fonts, remarks, pictures, and the page it is on."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from lxml import etree

from fleetquill.errors import Where
from fleetquill.remarks import Remarks
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.settings import FontSettings
from fleetquill.text.shaping import FontSetting

if TYPE_CHECKING:
    from collections.abc import Callable

    from fleetquill.graphics.pictures import PictureStore
    from fleetquill.layout.paragraph import Paragraph

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
    ) -> None:
        self.fonts = fonts
        self.pictures = pictures
        self.remarks = remarks
        self.source = source
        self.place_of = place_of
        self.paragraphs: dict[Any, Paragraph] = {}  # short ones, by style and text
        self.page = 0  # number of the page being laid out, from 1

    def font(self, style: ComputedStyle, direction: str = "ltr") -> FontSetting:
        return self.fonts.of(style, direction)

    def remark(self, kind: str, message: str, element: Element | None) -> None:
        place = self.place_of(element)
        self.remarks.add(kind, message, source=place.source, line=place.line, page=self.page)
