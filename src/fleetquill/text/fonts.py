"""The font library: which faces there are, and which of them a style asks for (CSS Fonts 4 §5)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from importlib.util import find_spec
from pathlib import Path
from typing import Final, NamedTuple

from fleetquill.caches import Cache
from fleetquill.errors import FleetQuillError, SourceError, Where
from fleetquill.text.emoji import FAMILY as EMOJI
from fleetquill.text.face import NO_EMBEDDING, Face

HAN_ENDINGS: Final = (  # of families that have the same characters in the forms of one country, by language
    ("ja", " jp"), ("ko", " kr"), ("zh-hk", " hk"), ("zh-mo", " hk"), ("zh-tw", " tc"), ("zh-hant", " tc"),
    ("zh", " sc"),
)  # fmt: skip
GENERIC: Final = {  # what the generic families stand for
    "sans-serif": "source sans pro",
    "serif": "source serif pro",
    "monospace": "dejavu sans mono",
    "system-ui": "source sans pro",
    "ui-sans-serif": "source sans pro",
    "ui-serif": "source serif pro",
    "ui-monospace": "dejavu sans mono",
    "cursive": "source serif pro",
    "fantasy": "source sans pro",
    "math": "dejavu sans",
    "emoji": EMOJI.lower(),
}
WELL_KNOWN: Final = {  # families that pages name and few machines share, but for those without serifs
    "serif": frozenset((
        "baskerville", "bodoni", "book antiqua", "bookman old style", "cambria", "century", "century schoolbook",
        "charter", "cochin", "constantia", "crimson text", "didot", "eb garamond", "garamond", "georgia",
        "goudy old style", "hoefler text", "libre baskerville", "liberation serif", "lora", "merriweather",
        "new york", "noto serif", "nimbus roman", "palatino", "palatino linotype", "perpetua", "playfair display",
        "pt serif", "rockwell", "roboto slab", "source serif 4", "times", "times new roman", "tinos",
        "utopia",
    )),
    "monospace": frozenset((
        "andale mono", "cascadia code", "cascadia mono", "consolas", "courier", "courier new", "cousine", "fira code",
        "fira mono", "ibm plex mono", "inconsolata", "jetbrains mono", "liberation mono", "lucida console", "menlo",
        "monaco", "nimbus mono", "noto sans mono", "roboto mono", "sf mono", "source code pro", "ubuntu mono",
    )),
}  # fmt: skip
LAST_RESORT: Final = ("source sans pro", "dejavu sans")
MOST_MATCHES: Final = 2_000  # font wishes whose faces are kept
MOST_LOOKED_FOR: Final = 10_000  # clusters that no wanted family has, and the faces that have them
MOST_FACES: Final = 512  # that are open at a time

Range = tuple[float, float]
CodeRanges = tuple[tuple[int, int], ...]


class FaceEntry(NamedTuple):
    """A face that may be loaded: where it is, and what it is asked for by.

    `weights` and `stretches` are the least and most that it offers: one value, or the reach of a
    variable font. `content` holds the bytes of a font that is not a file; `path` then only names it.
    `ranges` limits the characters that it is used for; () is no limit.
    """

    family: str
    weights: Range
    italic: bool
    path: Path
    stretches: Range = (100.0, 100.0)
    number: int = 0
    content: bytes | None = None
    ranges: CodeRanges = ()
    full_name: str = ""
    slope: tuple[str, float] = ("", 0.0)  # the axis of a variable font that slopes it, and how far


_WEIGHTS: Final = {
    "ExtraLight": 200,
    "Light": 300,
    "": 400,
    "Regular": 400,
    "Semibold": 600,
    "Bold": 700,
    "Black": 900,
}


def _packaged(package: str, folder: str) -> Path | None:
    """A folder of an installed package, found without importing it."""
    spec = find_spec(package)
    if spec is None or not spec.submodule_search_locations:
        return None
    return Path(next(iter(spec.submodule_search_locations))) / folder


def default_faces() -> list[FaceEntry]:
    """The faces that come with the package's dependencies."""
    entries: list[FaceEntry] = []
    for package, stem, family in (
        ("font_source_sans_pro", "SourceSansPro", "Source Sans Pro"),
        ("font_source_serif_pro", "SourceSerifPro", "Source Serif Pro"),
    ):
        folder = _packaged(package, "files")
        if folder is None:
            continue
        for name, weight in _WEIGHTS.items():
            for suffix, italic in (("It", True), ("", False)):
                path = folder / f"{stem}-{name}{suffix}.otf"
                if (name or italic) and path.is_file():
                    entries.append(FaceEntry(family, (weight, weight), italic, path))
    signs = _packaged("fleetquill", "signs")
    if signs is not None and (path := signs / "NotoColorEmoji.ttf").is_file():
        entries.append(FaceEntry(EMOJI, (400, 400), False, path))
    dejavu = _packaged("matplotlib", "mpl-data/fonts/ttf")
    for stem, family, slanted in (
        ("DejaVuSans", "DejaVu Sans", "Oblique"),
        ("DejaVuSansMono", "DejaVu Sans Mono", "Oblique"),
        ("DejaVuSerif", "DejaVu Serif", "Italic"),
    ):
        for suffix, weight, italic in (
            ("", 400, False),
            ("-Bold", 700, False),
            (f"-{slanted}", 400, True),
            (f"-Bold{slanted}", 700, True),
        ):
            file = dejavu / f"{stem}{suffix}.ttf" if dejavu else None
            if file is not None and file.is_file():
                entries.append(FaceEntry(family, (weight, weight), italic, file))
    return entries


class FontLibrary:
    """Faces by family. Faces are opened when they are first asked for.

    A library may stand on another: what it does not have, the other is asked for.
    """

    def __init__(self, entries: Iterable[FaceEntry], under: FontLibrary | None = None) -> None:
        self._under = under
        self._families: dict[str, list[FaceEntry]] = {}
        self._own = set(entries := list(entries))
        self._faces: Cache[object, Face] = Cache(MOST_FACES)
        self._matches: Cache[object, dict[Face, FaceEntry]] = Cache(MOST_MATCHES)
        self._covering: Cache[object, tuple[tuple[Face, FaceEntry] | None]] = Cache(MOST_LOOKED_FOR)
        for entry in entries:
            self._families.setdefault(entry.family.lower(), []).append(entry)
        if under is None and not self._families:
            raise SourceError(
                "No font was found.",
                where=Where("font library"),
                remedy="Install the packages font-source-sans-pro and font-source-serif-pro.",
            )

    @property
    def families(self) -> dict[str, list[FaceEntry]]:
        """Entries by family name in lower case."""
        return {**self._under.families, **self._families} if self._under else self._families

    def entries(self, family: str) -> list[FaceEntry]:
        """The faces of a family, by its name or a generic name; [] where it is not known."""
        name = family.lower()
        found = self._families.get(name)
        if found is None and self._under is not None:
            return self._under.entries(family)
        return found or self._families.get(GENERIC.get(name, ""), [])

    def by_full_name(self, name: str) -> FaceEntry | None:
        """The face that local() means: by its full name, its file's name or its family's regular face."""
        wanted = name.lower().replace(" ", "").replace("-", "")
        for entries in self.families.values():
            for entry in entries:
                names = (entry.full_name, entry.path.stem)
                if any(n.lower().replace(" ", "").replace("-", "") == wanted for n in names if n):
                    return entry
        entries = self.entries(name)
        return best(entries, 400, "normal", 100.0)[0] if entries else None

    def face(self, entry: FaceEntry, weight: float, stretch: float, *, sloped: bool = False) -> Face:
        """The open face; of a variable font the instance nearest to the wish."""
        if self._under is not None and entry not in self._own:
            return self._under.face(entry, weight, stretch, sloped=sloped)
        axes = {}
        if entry.weights[0] < entry.weights[1]:
            axes["wght"] = min(max(weight, entry.weights[0]), entry.weights[1])
        if entry.stretches[0] < entry.stretches[1]:
            axes["wdth"] = min(max(stretch, entry.stretches[0]), entry.stretches[1])
        if sloped and entry.slope[0] and not entry.italic:
            axes[entry.slope[0]] = entry.slope[1]
        key = (entry.path, entry.number, entry.content, tuple(axes.items()), entry.ranges)
        face = self._faces.get(key)
        return face or self._faces.put(key, Face(entry.path, entry.number, entry.content, axes, entry.ranges))

    def match(self, families: tuple[str, ...], weight: int, style: str, stretch: float) -> dict[Face, FaceEntry]:
        """The faces to try in order: those of each known family of the list, then the fallbacks."""
        key = (families, weight, style, stretch)
        found = self._matches.get(key)
        return found or self._matches.put(key, self._match(*key))

    def _match(self, families: tuple[str, ...], weight: int, style: str, stretch: float) -> dict[Face, FaceEntry]:
        found: dict[Face, FaceEntry] = {}
        for name in (*families, *_kinds_of(families), *LAST_RESORT):
            entries = self.entries(name)
            for entry in best(entries, weight, style, stretch) if entries else ():
                face = self.face(entry, weight, stretch, sloped=style != "normal")
                found.setdefault(face, entry)
        if not found:
            entry = best(next(iter(self.families.values())), weight, style, stretch)[0]
            found[self.face(entry, weight, stretch)] = entry
        return found

    def covering(
        self, families: tuple[str, ...], weight: int, style: str, stretch: float, language: str, needed: frozenset[str]
    ) -> tuple[Face, FaceEntry] | None:
        """A face that has all of these characters (CSS Fonts 4 §5.3, installed font fallback): the wanted families', if
        less bold or upright, else one of any family, of the same design where there is one.

        A document's own fonts are none of them: they are for where they are asked for.
        """
        if self._under is not None:
            return self._under.covering(families, weight, style, stretch, language, needed)
        key = (families, weight, style, stretch, language, needed)
        found = self._covering.get(key)
        if found is None:
            found = self._covering.put(key, (self._first_covering(*key),))
        return found[0]

    def in_color(self, needed: frozenset[str]) -> Face | None:
        """The face that comes along for signs in colours, where it has all of these characters."""
        if self._under is not None:
            return self._under.in_color(needed)
        faces = (self._opened(entry, 400, 100.0, sloped=False) for entry in self._families.get(EMOJI.lower(), ()))
        return next((face for face in faces if face is not None and face.covers(needed)), None)

    def _first_covering(
        self, families: tuple[str, ...], weight: int, style: str, stretch: float, language: str, needed: frozenset[str]
    ) -> tuple[Face, FaceEntry] | None:
        ending = next((of for start, of in HAN_ENDINGS if language.lower().startswith(start)), HAN_ENDINGS[-1][1])
        first = next(iter(self.match(families, weight, style, stretch).values())).family.lower()
        has_serifs = "serif" in first or first in WELL_KNOWN["serif"]
        alike, other = ("serif", "sans") if has_serifs else ("sans", "serif")

        def unlike(name: str) -> tuple[object, ...]:
            return (not name.endswith(ending), (other in name) - (alike in name), name)

        looks = [(weight, style, stretch), (weight, "normal", stretch), (400, "normal", 100.0)]
        wanted = [self.entries(name) for name in (*families, *LAST_RESORT)]
        for entries in (*wanted, *(self._families[name] for name in sorted(self._families, key=unlike))):
            for entry in dict.fromkeys(one for look in looks for one in (best(entries, *look) if entries else ())):
                face = self._opened(entry, weight, stretch, sloped=style != "normal")
                if face is not None and face.covers(needed) and not face.embedding & NO_EMBEDDING:
                    return face, entry
        return None

    def _opened(self, entry: FaceEntry, weight: float, stretch: float, *, sloped: bool) -> Face | None:
        try:
            return self.face(entry, weight, stretch, sloped=sloped)
        except FleetQuillError:  # a file that nobody asked for by name
            return None


def _kinds_of(families: Sequence[str]) -> list[str]:
    """The generic families that well-known names are of, for where nothing of the list is there."""
    return [kind for kind, names in WELL_KNOWN.items() if any(family.lower() in names for family in families)]


def best(entries: list[FaceEntry], weight: int, style: str, stretch: float) -> list[FaceEntry]:
    """CSS Fonts 4 §5.2: by width, then slope, then weight. Several where they share out characters."""
    wants_italic = style != "normal"

    def distance(entry: FaceEntry) -> tuple[object, ...]:
        return (
            _stretch_distance(entry.stretches, stretch),
            entry.italic != wants_italic and not (wants_italic and entry.slope[0]),
            _weight_distance(entry.weights, weight),
        )

    least = min(distance(entry) for entry in entries)
    nearest = [entry for entry in entries if distance(entry) == least]
    return nearest[::-1] if any(entry.ranges for entry in nearest) else nearest[-1:]


def _stretch_distance(has: Range, wants: float) -> tuple[bool, float]:
    """Narrower first for a narrow wish, wider first for a wide one."""
    if has[0] <= wants <= has[1]:
        return (False, 0.0)
    below = wants - has[1] if has[1] < wants else 0.0
    above = has[0] - wants if has[0] > wants else 0.0
    wrong_side = above > 0 if wants <= 100 else below > 0
    return (wrong_side, below + above)


def _weight_distance(has: Range, wants: float) -> tuple[int, float]:
    """CSS Fonts 4 §5.2, step 4 of the list for font-weight."""
    low, high = has
    if low <= wants <= high:
        return (0, 0)
    if 400 <= wants <= 500:
        if wants < low <= 500:
            return (1, low - wants)
        return (2, wants - high) if high < wants else (3, low - wants)
    if wants < 400:
        return (1, wants - high) if high < wants else (2, low - wants)
    return (1, low - wants) if low > wants else (2, wants - high)
