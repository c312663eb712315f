"""Faces that go along with an SVG file, each with the characters that are set in it."""

from __future__ import annotations

import base64
from collections.abc import Iterator

from fleetquill.text.face import Face
from fleetquill.text.shaping import FontSetting
from fleetquill.text.subsets import media_type, subset_of


class FontUses:
    """The faces of one file and the characters that each is used for."""

    def __init__(self, numbers: Iterator[int]) -> None:
        self._numbers = numbers
        self._names: dict[Face, str] = {}
        self._texts: dict[Face, set[str]] = {}

    def family(self, face: Face, text: str) -> str:
        """The name by which a face is known in the file; the text is noted."""
        if face not in self._names:
            self._names[face] = f"f{next(self._numbers)}"
            self._texts[face] = set()
        self._texts[face].update(text)
        return self._names[face]

    def features(self, setting: FontSetting) -> str:
        """OpenType features as an attribute."""
        features = dict(setting.features)
        if not features:
            return ""
        settings = ", ".join(f"&quot;{tag}&quot; {value}" for tag, value in features.items())
        return f' style="font-feature-settings: {settings}"'

    def rules(self) -> str:
        """A style sheet with the faces in it."""
        rules = []
        for face, characters in self._texts.items():
            content = base64.b64encode(subset_of(face, characters)).decode("ascii")
            source = f"url(data:{media_type(face)};base64,{content})"
            rules.append(f"@font-face {{ font-family: {self._names[face]}; src: {source} }}")
        return f"<style>{' '.join(rules)}</style>" if rules else ""
