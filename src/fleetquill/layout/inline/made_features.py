"""Texts that need more than their style says: small capitals and raised figures where a face has none of its own
(CSS Fonts 4 §6.6, §6.5), and letter-spacing around marks and joined scripts (CSS Text 3 §8.2)."""

from __future__ import annotations

from itertools import groupby
from operator import itemgetter
from typing import Final

from fleetquill.layout.boxes.boxes import Box, InlineBox, TextBox
from fleetquill.layout.contract.context import Context
from fleetquill.style.properties import ComputedStyle
from fleetquill.text.shaping import clusters

JOINED: Final = (  # Arabic and its kin, Syriac, Mandaic, N'Ko, Mongolian, Phags-pa; presentation forms
    ("\u0600", "\u086f"), ("\u08a0", "\u08ff"), ("\u1800", "\u18af"), ("\ua840", "\ua87f"), ("\ufb50", "\ufefc"),
)  # fmt: skip
SMALL: Final = 0.8  # the size of a capital that stands for a small one
RAISED: Final = 0.66  # the size of a figure that stands above or below
FEATURES: Final = {"sub": "subs", "super": "sups"}
CAPS: Final = ("small-caps", "all-small-caps")


def stand_ins(box: TextBox, context: Context) -> list[Box] | None:
    """What stands for a text whose style asks for a feature that its face lacks; None where nothing is to be done."""
    style = box.style
    if style.font_variant_caps == style.font_variant_position == "normal" and not style.letter_spacing:
        return None
    if type(box) is not TextBox:
        return None
    if style.letter_spacing and not box.text.isascii():
        return _spaced(box)
    face = context.font(style).face
    if style.font_variant_position != "normal" and FEATURES[style.font_variant_position] not in face.features:
        message = "The font has no small raised or lowered figures; they are made of its others."
        context.remark_first("font", message, box.element)
        place = style.font_variant_position
        return [InlineBox(_made(style, RAISED, vertical_align=place), None, [_text(box, box.text, RAISED)])]
    if style.font_variant_caps in CAPS and "smcp" not in face.features:
        context.remark_first("font", "The font has no small capitals; they are made of its others.", box.element)
        if style.font_variant_caps == "all-small-caps":
            return [_text(box, box.text.upper(), SMALL)]
        return [_cased(box, piece) for piece in _runs(box.text)]
    return None


def _spaced(box: TextBox) -> list[Box] | None:
    """Letters that join one another stay together, and marks stay on their letters; None where there are none."""
    style = box.style
    pieces = [(_is_joined(cluster), len(cluster) > 1, cluster) for cluster in clusters(box.text)]
    if not any(joined or marked for joined, marked, _ in pieces):
        return None
    found: list[Box] = []
    for (joined, marked), group in groupby(pieces, key=itemgetter(0, 1)):
        texts = [text for _, _, text in group]
        if joined:
            found.append(TextBox(_made(style, 1.0, letter_spacing=0.0), box.element, "".join(texts)))
        elif not marked:
            found.append(TextBox(_made(style, 1.0), box.element, "".join(texts)))
        else:
            around = _made(style, 1.0, letter_spacing=0.0, padding_right=style.letter_spacing, display="inline")
            found += [InlineBox(around, None, [TextBox(around, box.element, text)]) for text in texts]
    return found


def _is_joined(cluster: str) -> bool:
    """Whether letters of this script join those beside them."""
    return any(first <= cluster[0] <= last for first, last in JOINED)


def _runs(text: str) -> list[str]:
    """Runs of small letters, and runs of all else."""
    runs: list[str] = []
    for character in text:
        if runs and character.islower() == runs[-1][-1].islower():
            runs[-1] += character
        else:
            runs.append(character)
    return runs


def _cased(box: TextBox, piece: str) -> TextBox:
    return _text(box, piece.upper(), SMALL) if piece[0].islower() else _text(box, piece, 1.0)


def _text(box: TextBox, text: str, scale: float) -> TextBox:
    return TextBox(_made(box.style, scale), box.element, text)


def _made(style: ComputedStyle, scale: float, **values: object) -> ComputedStyle:
    """The style without the feature, in a size of its own; made once."""
    key = ("made", scale, tuple(values.items()))
    kept: ComputedStyle | None = style.kept.get(key)
    if kept is None:
        plain = {"font_variant_caps": "normal", "font_variant_position": "normal"}
        kept = ComputedStyle(style.parent, {**style.__dict__, **plain, "font_size": style.font_size * scale, **values})
        style.kept[key] = kept
    return kept
