"""Looks: style sheets for documents that are written in Python, each in a file of its own."""

from __future__ import annotations

from functools import lru_cache
from importlib.resources import files
from typing import Final

from fleetquill.errors import OptionError, nearest

LOOKS: Final = ("river", "quay", "lock")
PLAIN: Final = "plain"  # the base sheet and nothing more
USUAL: Final = "river"


@lru_cache(maxsize=len(LOOKS))
def look(name: str) -> str:
    """The style sheet of a look, as CSS to read, or to change and to give as `style`.

    'river' is the usual one, 'quay' is set like a book, 'lock' puts much on a page.
    Raises OptionError for a name that is no look.
    """
    if name not in LOOKS:
        meant = nearest(str(name), LOOKS)
        hint = f"Did you mean '{meant}'?" if meant else f"It may be {', '.join(LOOKS)}, or {PLAIN} for none."
        raise OptionError(f"{name!r} is no look.", remedy=hint)
    return files(__name__).joinpath(f"{name}.css").read_text(encoding="utf-8")
