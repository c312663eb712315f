"""What a document says of itself."""

from __future__ import annotations

from datetime import datetime
from typing import NamedTuple


class Metadata(NamedTuple):
    """What a document says of itself. `created` is set only where the document gives a date."""

    title: str = ""
    author: str = ""
    subject: str = ""
    keywords: str = ""
    language: str = ""
    created: datetime | None = None
    direction: str = ""  # 'rtl' where it is read from right to left
    invoice: str = ""  # the profile of the invoice for machines whose data goes along
