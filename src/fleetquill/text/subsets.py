"""Faces with no more than some characters: what goes along with a file that sets them as text."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import uharfbuzz as hb

from fleetquill.text.face import Face


def subset_of(face: Face, characters: Iterable[str], features: Iterable[str] | None = None) -> bytes:
    """The font with what is needed for some characters, and whatever shapes them: by all its features, or by the
    usual ones and those that are named."""
    wish: Any = hb.SubsetInput()
    for character in sorted(set(characters)):
        wish.unicode_set.add(ord(character))
    if features is None:
        wish.layout_feature_tag_set.clear()
        wish.layout_feature_tag_set.invert()
    for tag in features or ():
        wish.layout_feature_tag_set.add(int.from_bytes(tag.encode(), "big"))
    return bytes(hb.subset(face.hb_face, wish).blob.data)


def media_type(face: Face) -> str:
    """What the bytes of a face are called on the web."""
    return "font/otf" if face.is_cff else "font/ttf"
