"""From a computed style to its font setting: faces, OpenType features and language."""

from __future__ import annotations

from typing import Any

from fleetquill.style.font_values import CAPS_FEATURES, LIGATURE_FEATURES, NUMERIC_FEATURES
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.fonts import FontLibrary
from fleetquill.text.shaping import Features, FontSetting

MOST_SETTINGS = 2_000


class FontSettings:
    """The font settings of a press, each made once: they hold the shaped words."""

    def __init__(self, library: FontLibrary) -> None:
        self.library = library
        self._settings: dict[Any, FontSetting] = {}

    def of(self, style: ComputedStyle, direction: str = "ltr") -> FontSetting:
        key = (self, direction)
        setting = style.kept.get(key)
        if setting is None:
            setting = style.kept[key] = self._setting(style, direction)
        return setting

    def _setting(self, style: ComputedStyle, direction: str) -> FontSetting:
        faces = self.library.match(style.font_family, style.font_weight, style.font_style, style.font_stretch)
        features = features_of(style)
        key = (faces, features, style.language, direction)
        setting = self._settings.get(key)
        if setting is None:
            if len(self._settings) >= MOST_SETTINGS:
                self._settings.clear()
            setting = self._settings[key] = FontSetting(faces, features, style.language, direction)
        return setting


def features_of(style: ComputedStyle) -> Features:
    """The OpenType features that the font properties ask for, lowest rank first (CSS Fonts 4 §7.2)."""
    features: dict[str, int] = {}
    if style.font_kerning == "none":
        features["kern"] = 0
    if style.letter_spacing:
        features.update({"liga": 0, "clig": 0})  # CSS Text 3 §8.2
    for word in style.font_variant_ligatures:
        features.update(LIGATURE_FEATURES[word])
    for tag in CAPS_FEATURES.get(style.font_variant_caps, ()):
        features[tag] = 1
    for word in style.font_variant_numeric:
        features[NUMERIC_FEATURES[word]] = 1
    if style.font_variant_position != "normal":
        features["subs" if style.font_variant_position == "sub" else "sups"] = 1
    features.update(style.font_feature_settings)
    return tuple(features.items())
