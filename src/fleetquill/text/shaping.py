"""Shaping by word: HarfBuzz once for each distinct word of a font setting, then kept.

A shaped word is independent of size. It carries the numbers of its glyphs, and sparse adjustments
where they stand elsewhere than their own advances put them: no Python object is made for a glyph.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping, Sequence
from itertools import groupby
from types import MappingProxyType
from typing import Any, Final, NamedTuple

import uharfbuzz as hb

from fleetquill.caches import Budget, Cache
from fleetquill.deadline import heed
from fleetquill.text.emoji import is_colored, may_be_colored
from fleetquill.text.face import BITMAPS_ALONE, NO_EMBEDDING, Face
from fleetquill.text.glyph_runs import Adjustment, Cluster, GlyphRun
from fleetquill.text.posture import stacked
from fleetquill.text.scripts import script_runs
from fleetquill.tree.texts import clean

MOST_WORDS: Final = 200_000  # kept for one font setting
PLAIN: Final = re.compile(r"[\x20-\x7e\xa0-\u024f\u2010-\u2027\u2030-\u205e\u20a0-\u20bf]*")  # Latin script alone
IGNORABLE: Final = frozenset(  # default ignorable: no glyph is missed
    "\u00ad\u034f\u061c\u200b\u200c\u200d\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2060\u2061\u2062\u2063"
    "\u2064\u2066\u2067\u2068\u2069\ufe0e\ufe0f\ufeff"
) | frozenset(map(chr, range(0xE0020, 0xE0080)))  # the tags of flags

UNSAID: Final = str.maketrans("", "", "\u00ad\u200b\u2060\ufeff")  # where lines may break or not: none of it is text

Features = tuple[tuple[str, int], ...]


class Word:
    """A shaped word: `advance` in ems, `count` glyphs, `missing` the characters that no face has."""

    __slots__ = ("advance", "count", "face", "inner_space", "missing", "runs", "spaced", "text")

    def __init__(self, text: str, runs: tuple[GlyphRun, ...], count: int, missing: str, spaced: bool) -> None:
        self.text = text
        self.inner_space = " " in text  # a space at which no line may break
        self.spaced = spaced  # whether a space that may stretch follows
        self.runs = runs
        self.advance = sum([run.advance for run in runs])
        self.count = count
        self.missing = missing
        plain = len(runs) == 1 and not runs[0].unclear and (not runs[0].adjustments or runs[0].level)
        self.face = runs[0].face if plain else None  # the one face, where a line may join it with other words


class Synthesis(NamedTuple):
    """What a face has to be given that it does not have: heavier strokes, a slope."""

    bold: bool
    slope: bool


FindFace = Callable[[frozenset[str], bool], Face | None]  # one that has all of these characters, in colours or not


def no_face(needed: frozenset[str], in_color: bool) -> Face | None:
    """No face but those that are given."""
    return None


class FontSetting:
    """Everything but the size that decides how a word is shaped, and the words shaped so far.

    `synthetic` is a remark where the first face had to be made bolder or sloped; '' where not. `posture` is how signs
    stand in lines that run downwards: 'mixed' or 'upright'; '' in all others. `variant` is font-variant-emoji.
    """

    __slots__ = (
        "_budget",
        "_from_right",
        "alike",
        "colored",
        "direction",
        "face",
        "faces",
        "features",
        "figures",
        "has_inner_spaces",
        "lacks",
        "language",
        "more",
        "posture",
        "restricted",
        "segments",
        "space",
        "synthesis",
        "synthetic",
        "variant",
    )

    def __init__(
        self,
        faces: tuple[Face, ...],
        features: Features,
        language: str,
        direction: str,
        synthesis: Mapping[Face, Synthesis] = MappingProxyType({}),
        synthetic: str = "",
        budget: Budget | None = None,
        posture: str = "",
        more: FindFace = no_face,
        variant: str = "normal",
    ) -> None:
        self.faces = faces
        self.face = faces[0]
        self.language = language
        self.direction = direction
        self.posture = posture
        self.more = more  # finds a face for what `faces` do not have
        self.variant = variant
        self.synthesis = synthesis
        self.synthetic = synthetic
        self.features = dict(features)
        self.colored = self.face.is_colored  # whether any word so far may be drawn, not set as text
        self.restricted = ""  # a remark where its maker does not let the first face go along
        if self.face.embedding & (NO_EMBEDDING | BITMAPS_ALONE):
            self.restricted = f"The maker of '{self.face.name('FONT_FAMILY')}' does not let it go along with documents."
        self.figures: object = None  # its characters that may be set without shaping, once that is asked
        self._from_right: FontSetting | None = None
        self._budget = budget or Budget()
        self.segments: Cache[str, Word] = self._budget.cache(MOST_WORDS, _weight)
        self.alike = True  # whether every word so far is of the first face, and may be joined with others
        self.lacks = False  # whether any word so far has a character that no face has
        self.has_inner_spaces = False
        self.space = self._shape(" ", False)

    def __reduce__(self) -> tuple[Any, tuple[Any, ...]]:
        """What another process can be sent: what it is made of, without the words that it keeps."""
        features, synthesis = tuple(self.features.items()), dict(self.synthesis)
        made_of = (self.faces, features, self.language, self.direction, synthesis, self.synthetic)
        return FontSetting, (*made_of, None, self.posture)

    @property
    def from_right(self) -> FontSetting:
        """The same for text that runs from right to left."""
        if self.direction == "rtl":
            return self
        if self._from_right is None:
            features = tuple(self.features.items())
            self._from_right = FontSetting(
                self.faces,
                features,
                self.language,
                "rtl",
                self.synthesis,
                self.synthetic,
                self._budget,
                self.posture,
                self.more,
                self.variant,
            )
        return self._from_right

    def exact(self, text: str) -> Word:
        """The shaped form of a text as it stands, spaces and all; not kept."""
        return self._shape(text, False)

    def hyphen(self, character: str) -> Word:
        """What is shown where a word is broken: its text is a soft hyphen."""
        shown = character
        if shown == "auto":
            shown = "\u2010" if self.face.covers("\u2010") else "-"
        return self.mark(shown, "\u00ad")

    def mark(self, shown: str, text: str = "") -> Word:
        """What is shown beside the text and is not of it: copied, it is another text, or none."""
        word = self._shape(shown, False)
        runs = []
        for index, run in enumerate(word.runs):
            own = "" if index else text
            meant = tuple((glyph, "" if place else own) for place, glyph in enumerate(run.glyphs))
            unclear = () if own and len(meant) == 1 else (Cluster(0, len(meant), own),)
            runs.append(GlyphRun(run.face, run.glyphs, run.adjustments, run.advance, meant, own, unclear))
        return Word(text, tuple(runs), word.count, "", False)

    def segment(self, text: str) -> Word:
        """The shaped form of a piece of text that no line breaks; one space at its end is set apart."""
        word = self.segments.get(text)
        if word is None:
            word = self.once(text)
            self.alike = self.alike and word.face is self.face
            self.lacks = self.lacks or bool(word.missing)
            self.has_inner_spaces = self.has_inner_spaces or word.inner_space
            self.segments.put(text, word)
        return word

    def once(self, text: str) -> Word:
        """As `segment`, but not kept: of words that are as a rule not met again."""
        spaced = text.endswith(" ")
        word = self._shape(text[:-1] if spaced else text, spaced)
        if not word.text:
            word.face = self.face
        return word

    def _shape(self, text: str, spaced: bool) -> Word:
        if not text.isprintable():
            text = clean(text)
        runs = []
        count = 0
        missing = ""
        pieces = self._by_face(text) if text else []
        if self.direction == "rtl":
            pieces.reverse()
        for piece, face in pieces:
            run, glyph_count = self._shape_run(piece, face)
            runs.append(run)
            count += glyph_count
            if 0 in run.glyphs:
                missing += "".join(c for c in piece if c not in IGNORABLE and not face.covers(c))
        return Word(text, tuple(runs), count, missing, spaced)

    def _by_face(self, text: str) -> list[tuple[str, Face]]:
        """The text in pieces, each with the first face that has all of its characters."""
        if self.face.covers(text) and not may_be_colored(text, self.variant):
            pieces = [(text, self.face)]
        else:
            pieces = []
            for cluster in clusters(text):
                face = self._face_for(cluster, pieces[-1][1] if pieces else self.face)
                if pieces and pieces[-1][1] is face:
                    pieces[-1] = (pieces[-1][0] + cluster, face)
                else:
                    pieces.append((cluster, face))
        if PLAIN.fullmatch(text):
            return pieces
        return [(run, face) for piece, face in pieces for run in script_runs(piece)]

    def _face_for(self, cluster: str, previous: Face) -> Face:
        needed = set(cluster) - IGNORABLE
        if not needed:
            return previous
        if is_colored(cluster, self.variant) and (found := self._colored_face(needed)) is not None:
            self.colored = True
            return found
        face = self._plain_face(cluster, needed)
        self.colored = self.colored or face.is_colored
        return face

    def _colored_face(self, needed: set[str]) -> Face | None:
        own = next((face for face in self.faces if face.is_colored and face.covers(needed)), None)
        return own or self.more(frozenset(needed), True)

    def _plain_face(self, cluster: str, needed: set[str]) -> Face:
        for face in self.faces:
            if face.covers(needed):
                return face
        composed = unicodedata.normalize("NFC", cluster)
        for face in self.faces:
            if face.covers(set(composed) - IGNORABLE):
                return face
        other = self.more(frozenset(needed), False)
        return other or next((face for face in self.faces if face.covers(cluster[0])), self.face)

    def _shape_run(self, text: str, face: Face) -> tuple[GlyphRun, int]:
        heed()
        buffer = hb.Buffer()
        buffer.cluster_level = hb.BufferClusterLevel.MONOTONE_GRAPHEMES
        buffer.flags = hb.BufferFlags.REMOVE_DEFAULT_IGNORABLES  # else they are spaces, as wide as nothing
        buffer.add_str(text)
        buffer.direction = self.direction
        if PLAIN.fullmatch(text):
            buffer.script = "Latn"
        else:
            buffer.guess_segment_properties()
            buffer.direction = self.direction
        buffer.language = self.language or "en"
        composes = self.posture and face.is_colored  # a flag is made of two signs
        hb.shape(face.hb_font, buffer, self.features | {"ccmp": 1} if composes else self.features)
        infos, positions = buffer.glyph_infos, buffer.glyph_positions
        run = _glyph_run(text, face, infos, positions, from_right=self.direction == "rtl")
        if self.posture == "upright":
            run = stacked(run)
        return run, len(infos)


def _weight(text: str, word: Word) -> int:
    """What a word that is kept takes up: some objects, and a glyph with what it stands for each character."""
    return 500 + 100 * len(text)


FindFont = Callable[[str, str, str], FontSetting]  # by family list, weight and slope, as CSS writes them


def clusters(text: str) -> list[str]:
    """The text in pieces that one face must draw whole: a base with its marks and joiners."""
    found: list[str] = []
    joined = False
    for character in text:
        mark = unicodedata.category(character)[0] == "M" or character in IGNORABLE
        if found and (mark or joined or "\U0001f3fb" <= character <= "\U0001f3ff"):
            found[-1] += character
        else:
            found.append(character)
        joined = character == "\u200d"
    return found


def _glyph_run(text: str, face: Face, infos: Sequence[Any], positions: Sequence[Any], *, from_right: bool) -> GlyphRun:
    """What shaping gave, with adjustments where it differs from the glyphs' own advances on the baseline."""
    adjustments: list[Adjustment] = []
    pending = rise = total = 0
    for index, (info, position) in enumerate(zip(infos, positions, strict=True)):
        x_offset, y_offset, advance = position.x_offset, position.y_offset, position.x_advance
        pending += x_offset
        if pending or y_offset != rise:
            rise = y_offset
            adjustments.append(Adjustment(index, pending, rise))
        pending = advance - x_offset - face.advance(info.codepoint)
        total += advance
    if pending:
        adjustments.append(Adjustment(len(infos), pending, rise))
    glyphs = tuple([info.codepoint for info in infos])
    meanings, unclear = _meanings(text, face, glyphs, [info.cluster for info in infos], from_right=from_right)
    return GlyphRun(face, glyphs, tuple(adjustments), total / face.upem, meanings, text, unclear)


def _meanings(
    text: str, face: Face, glyphs: Sequence[int], clusters: Sequence[int], *, from_right: bool
) -> tuple[tuple[tuple[int, str], ...], tuple[Cluster, ...]]:
    """What text each glyph stands for, and the clusters whose glyphs do not give their text back one after another.

    Readers turn around what runs from right to left: text that is said beside such glyphs is turned, too.
    """
    if not glyphs:  # ignorable characters
        return (), ()
    starts = sorted(set(clusters))
    step = -1 if from_right else 1  # readers turn the whole around, ligatures too
    ends = dict(zip(starts, [*starts[1:], len(text)], strict=True))
    if len(starts) == len(glyphs):  # as it is nearly always
        texts = [text[start : ends[start]][::step].translate(UNSAID) for start in clusters]
        return tuple(zip(glyphs, texts, strict=True)), ()
    meanings: list[tuple[int, str]] = []
    unclear: list[Cluster] = []
    for cluster, group in groupby(range(len(glyphs)), key=clusters.__getitem__):
        places = list(group)
        own = [glyphs[place] for place in places]
        said = text[cluster : ends[cluster]][::step].translate(UNSAID)
        told = _told(face, own, said)
        meanings += zip(own, told or (said, *[""] * (len(own) - 1)), strict=True)
        if len(own) > 1 and not from_right and "".join(told) != said:
            unclear.append(Cluster(places[0], places[-1] + 1, said))
    return tuple(meanings), tuple(unclear)


def _told(face: Face, glyphs: Sequence[int], text: str) -> list[str]:
    """The characters that the glyphs of a cluster stand for, one each; nothing where that cannot be told."""
    if len(glyphs) != len(text):
        return []
    own = [face.hb_font.get_nominal_glyph(ord(character)) for character in text]
    if sorted(map(str, own)) == sorted(map(str, glyphs)):  # each is there, perhaps in another order
        left = list(zip(own, text, strict=True))
        found = []
        for glyph in glyphs:
            place = next(index for index, pair in enumerate(left) if pair[0] == glyph)
            found.append(left.pop(place)[1])
        return found
    return list(text)
