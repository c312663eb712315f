"""From a computed style to its font setting: faces, OpenType features and language."""

from __future__ import annotations

from collections.abc import Collection
from functools import partial
from typing import Any, Final

import tinycss2

from fleetquill.caches import Budget, Cache
from fleetquill.style.font_values import CAPS_FEATURES, LIGATURE_FEATURES, NUMERIC_FEATURES, Units
from fleetquill.style.lengths import FixedBasis
from fleetquill.style.properties import INITIAL_STYLE, PROPERTIES, ComputedStyle
from fleetquill.style.tokens import without_space
from fleetquill.text.face import Face
from fleetquill.text.fonts import FaceEntry, FontLibrary
from fleetquill.text.shaping import Features, FindFace, FontSetting, Synthesis

MOST_SETTINGS = 2_000
FELL_BACK: Final = "fell back"  # in what a style keeps: that none of the families that it names is there


class FontSettings:
    """The font settings of a press, each made once: they hold the shaped words."""

    def __init__(self, library: FontLibrary, budget: Budget | None = None) -> None:
        self.library = library
        self._budget = budget or Budget()
        self._settings: Cache[Any, FontSetting] = Cache(MOST_SETTINGS)

    def of(self, style: ComputedStyle, direction: str = "ltr") -> FontSetting:
        key = (self, direction)
        setting = style.kept.get(key)
        if setting is None:
            setting = style.kept[key] = self._setting(style, direction)
            if not any(map(self.library.entries, style.font_family)):
                names = ", ".join(style.font_family)
                message = f"No font of the family '{names}' is there; '{self._family(style)}' stands in for it."
                style.kept[FELL_BACK] = message
        return setting

    def units(self, style: ComputedStyle) -> Units:
        """The units that hang on the font of a style."""
        face = self.of(style).face
        return Units(
            face.x_height,
            face.cap_height,
            _advance(face, "0", 0.5),
            _advance(face, "\u6c34", 1.0),
            face.ascent + face.descent + face.line_gap,
        )

    def _family(self, style: ComputedStyle) -> str:
        """The family of the face that a style gets."""
        matched = self.library.match(style.font_family, style.font_weight, style.font_style, style.font_stretch)
        return next(iter(matched.values())).family

    def named(self, family: str, weight: str, slope: str) -> FontSetting:
        """The setting of a family list, a weight and a slope as CSS writes them: for drawings."""
        key = ("named", family, weight, slope)
        setting = self._settings.get(key)
        if setting is None:
            values: dict[str, Any] = {}
            for name, text in (("font-family", family), ("font-weight", weight), ("font-style", slope)):
                row = PROPERTIES[name]
                value = row.parse(without_space(tinycss2.parse_component_value_list(text)))
                if value is not None:
                    values[row.field] = row.compute(value, _Parent()) if row.compute else value
            setting = self._settings.put(key, self._setting(ComputedStyle(None, values), "ltr"))
        return setting

    def _setting(self, style: ComputedStyle, direction: str) -> FontSetting:
        matched = self.library.match(style.font_family, style.font_weight, style.font_style, style.font_stretch)
        faces = tuple(matched)
        features = features_of(style)
        asked = (style.font_weight, style.font_style, style.font_synthesis)
        synthesis = {face: needed for face, entry in matched.items() if (needed := _synthesis(*asked, entry)) != NONE}
        posture = style.text_orientation if runs_down(style) else ""
        look = (*asked, style.font_stretch)  # what stands in for a missing sign hangs on it, too
        variant = style.font_variant_emoji
        key = (faces, features, style.language, direction, look, tuple(synthesis.items()), posture, variant)
        setting = self._settings.get(key)
        if setting is None:
            more = self._more(style, synthesis)
            remark = _remark(faces[0], matched, synthesis)
            made = FontSetting(
                faces, features, style.language, direction, synthesis, remark, self._budget, posture, more, variant
            )
            setting = self._settings.put(key, made)
        return setting

    def _more(self, style: ComputedStyle, synthesis: dict[Face, Synthesis]) -> FindFace:
        """Finds faces for what the wanted ones have not, and notes what those have to be given."""
        wish = (style.font_family, style.font_weight, style.font_style, style.font_stretch, style.language)
        lacks = partial(_synthesis, style.font_weight, style.font_style, style.font_synthesis)

        def more(needed: frozenset[str], in_color: bool) -> Face | None:
            if in_color:
                return self.library.in_color(needed)
            found = self.library.covering(*wish, needed)
            if found is None:
                return None
            face, entry = found
            if face not in synthesis and lacks(entry) != NONE:
                synthesis[face] = lacks(entry)
            return face

        return more


def _advance(face: Face, character: str, fallback: float) -> float:
    """The advance of a character as a share of the font size (CSS Values 4 §6.1.1)."""
    glyph = face.hb_font.get_nominal_glyph(ord(character)) if face.covers(character) else None
    return face.hb_font.get_glyph_h_advance(glyph) / face.upem if glyph else fallback


class _Parent(FixedBasis):
    """What weights such as 'bolder' refer to in a drawing."""

    parent = INITIAL_STYLE


NONE = Synthesis(False, False)


def _synthesis(weight: int, style: str, allowed: Collection[str], entry: FaceEntry) -> Synthesis:
    """What the asked style has and the face has not (CSS Fonts 4 §2.8)."""
    bold = weight >= 600 and entry.weights[1] < 500 and "weight" in allowed
    slope = style != "normal" and not (entry.italic or entry.slope[0]) and "style" in allowed
    return Synthesis(bold, slope)


def _remark(face: Face, matched: dict[Face, FaceEntry], synthesis: dict[Face, Synthesis]) -> str:
    needed = synthesis.get(face)
    if needed is None:
        return ""
    what = " and ".join(name for name, wanted in (("bold", needed.bold), ("italic", needed.slope)) if wanted)
    return f"The family '{matched[face].family}' has no {what} face; its strokes were {_how(needed)} instead."


def _how(needed: Synthesis) -> str:
    return " and ".join(how for how, wanted in (("thickened", needed.bold), ("sloped", needed.slope)) if wanted)


def runs_down(style: ComputedStyle) -> bool:
    """Whether lines run downwards, with signs that stand upright in them (CSS Writing Modes 4 §5.1)."""
    return style.writing_mode.startswith("vertical") and style.text_orientation != "sideways"


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
    if runs_down(style):
        features.update({"vert": 1, "ccmp": 0})  # of two dashes in a row each is turned on its own
    features.update(style.font_feature_settings)
    return tuple(features.items())
