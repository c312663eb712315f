"""Comparing two documents: page by page which words came, went or moved, which shapes and pictures are others."""

from __future__ import annotations

import io
import os
from collections.abc import Sequence
from difflib import SequenceMatcher
from pathlib import Path
from typing import Any, Final, NamedTuple

from fleetquill.bindery.page_marks import Shape, Shown
from fleetquill.bindery.page_text import PageWord
from fleetquill.bindery.sources import Finished
from fleetquill.bindery.volume import Volume, VolumePage
from fleetquill.edition import Edition
from fleetquill.errors import OptionError
from fleetquill.whole_files import write_whole

NEAR: Final = 0.5  # points that something may stand elsewhere and be where it was
FAINT: Final = 0.01  # of a colour's parts, that may differ
MOST_PAIRED: Final = 400  # pages of which is looked for which was which
ALIKE: Final = 0.35  # share of words by which two pages are taken to be the same
DPI: Final = 80.0
CAME: Final = (29, 122, 72)  # the colours in which changes are shown
WENT: Final = (192, 57, 43)
MOVED: Final = (184, 146, 58)

Area = tuple[float, float, float, float]  # x, y, width, height in points
Compared = Edition | Volume | Finished


class Change(NamedTuple):
    """What is another: `what` is 'came', 'went' or 'moved'; `kind` is 'page', 'word', 'shape' or 'picture'.

    `page` is the one of the new document, or of the old where it went. `x`, `y`, `width` and `height` are where it
    stands, in points from the page's top-left corner; `by` is how far it moved, across and down.
    """

    what: str
    kind: str
    text: str
    page: int
    x: float
    y: float
    width: float
    height: float
    by: tuple[float, float] = (0.0, 0.0)

    def __str__(self) -> str:
        said = {"came": "new", "went": "gone", "moved": "moved"}[self.what]
        name = f"'{self.text}'" if self.kind == "word" else f"a {self.kind}"
        if self.kind == "page":
            return f"page {self.page}: {said}"
        moved = f" by {self.by[0]:+.1f}, {self.by[1]:+.1f} pt" if self.what == "moved" else ""
        return f"page {self.page}: {name} is {said}{moved}, at {self.x:.0f}, {self.y:.0f} pt"


class Comparison(NamedTuple):
    """What differs between two documents, and the pages that were compared: of the old one and of the new, None where
    there is none."""

    changes: tuple[Change, ...]
    pages: tuple[tuple[int | None, int | None], ...]
    old: Volume
    new: Volume

    @property
    def same(self) -> bool:
        return not self.changes

    def __str__(self) -> str:
        return "\n".join(map(str, self.changes)) or "The two are the same."

    def save_picture(self, path: str | os.PathLike[str], *, dpi: float = DPI) -> Path:
        """Writes a PNG of the pages that differ, old and new side by side: what went is framed in red, what came in
        green, what moved in gold. Raises OptionError where nothing differs, or pypdfium2 is not installed."""
        content = _picture(self, dpi)
        return write_whole(Path(path), lambda stream: _put(stream, content))


def _put(stream: Any, content: bytes) -> None:
    stream.write(content)


def compare(
    old: Compared,
    new: Compared,
    *,
    near: float = NEAR,
    old_password: str | None = None,
    new_password: str | None = None,
) -> Comparison:
    """Compares two documents page by page: editions, or finished PDFs as paths, bytes, streams or Volumes.

    What stands no more than `near` points from where it stood has not moved. A page that was put in or taken out is one
    change: those after it are compared with what they were.
    """
    before, after = _volume(old, old_password), _volume(new, new_password)
    pairs = tuple(_paired(before, after))
    changes: list[Change] = []
    for old_page, new_page in pairs:
        if old_page is None and new_page is not None:
            page = after.pages[new_page - 1]
            changes.append(Change("came", "page", "", new_page, 0.0, 0.0, page.width, page.height))
        elif new_page is None and old_page is not None:
            page = before.pages[old_page - 1]
            changes.append(Change("went", "page", "", old_page, 0.0, 0.0, page.width, page.height))
        elif old_page is not None and new_page is not None:
            changes += _page_changes(before.pages[old_page - 1], after.pages[new_page - 1], near)
    return Comparison(tuple(changes), pairs, before, after)


def _volume(given: Compared, password: str | None) -> Volume:
    if isinstance(given, Volume):
        return given
    return Volume(given.to_bytes() if isinstance(given, Edition) else given, password)


def _paired(old: Volume, new: Volume) -> list[tuple[int | None, int | None]]:
    """Which page was which: the same number, or where their counts differ, what is most alike in order."""
    counts = old.page_count, new.page_count
    if counts[0] == counts[1] or max(counts) > MOST_PAIRED:
        most, least = max(counts), min(counts)
        rest: list[tuple[int | None, int | None]] = [
            (n, None) if counts[0] > counts[1] else (None, n) for n in range(least + 1, most + 1)
        ]
        return [*((n, n) for n in range(1, least + 1)), *rest]
    words = [[frozenset(word.text for word in page.words) for page in volume.pages] for volume in (old, new)]
    return _aligned(words[0], words[1])


def _aligned(old: list[frozenset[str]], new: list[frozenset[str]]) -> list[tuple[int | None, int | None]]:
    """The pairs in order that have most words in common (Needleman and Wunsch)."""
    best = [[0.0] * (len(new) + 1) for _ in range(len(old) + 1)]
    alike = [[_likeness(a, b) for b in new] for a in old]
    for i in range(len(old) - 1, -1, -1):
        for j in range(len(new) - 1, -1, -1):
            paired = best[i + 1][j + 1] + alike[i][j] if alike[i][j] >= ALIKE else -1.0
            best[i][j] = max(paired, best[i + 1][j], best[i][j + 1])
    pairs: list[tuple[int | None, int | None]] = []
    i = j = 0
    while i < len(old) or j < len(new):
        both = i < len(old) and j < len(new)
        if both and alike[i][j] >= ALIKE and best[i][j] == best[i + 1][j + 1] + alike[i][j]:
            pairs.append((i + 1, j + 1))
            i, j = i + 1, j + 1
        elif j >= len(new) or (both and best[i][j] == best[i + 1][j]):
            pairs.append((i + 1, None))
            i += 1
        else:
            pairs.append((None, j + 1))
            j += 1
    return pairs


def _likeness(old: frozenset[str], new: frozenset[str]) -> float:
    if not old and not new:
        return 1.0
    return len(old & new) / max(len(old), len(new))


# ---- one page ----


def _page_changes(old: VolumePage, new: VolumePage, near: float) -> list[Change]:
    changes: list[Change] = []
    if abs(old.width - new.width) > near or abs(old.height - new.height) > near:
        changes.append(Change("moved", "page", "", new.number, 0.0, 0.0, new.width, new.height))
    changes += _words(old, new, near)
    changes += _boxes(
        "shape", _told_shapes(old.marks.shapes), _told_shapes(new.marks.shapes), old.number, new.number, near
    )
    changes += _boxes(
        "picture", _told_pictures(old.marks.pictures), _told_pictures(new.marks.pictures), old.number, new.number, near
    )
    return changes


def _words(old: VolumePage, new: VolumePage, near: float) -> list[Change]:
    """Words in their order; one that went in one place and came in another has moved."""
    before, after = old.words, new.words
    matcher = SequenceMatcher(None, [word.text for word in before], [word.text for word in after], autojunk=False)
    went: list[PageWord] = []
    came: list[PageWord] = []
    changes: list[Change] = []
    for tag, a, b, c, d in matcher.get_opcodes():
        if tag == "equal":
            for one, other in zip(before[a:b], after[c:d], strict=True):
                changes += _moved(one, other, new.number, near)
        else:
            went += before[a:b]
            came += after[c:d]
    for word in came:
        same = min(
            (one for one in went if one.text == word.text),
            key=lambda one: abs(one.x - word.x) + abs(one.y - word.y),
            default=None,
        )
        if same is None:
            changes.append(Change("came", "word", word.text, new.number, *_rounded(word)))
        else:
            went.remove(same)
            changes += _moved(same, word, new.number, near)
    changes += [Change("went", "word", word.text, old.number, *_rounded(word)) for word in went]
    return changes


def _moved(old: PageWord, new: PageWord, page: int, near: float) -> list[Change]:
    by = round(new.x - old.x, 2), round(new.y - old.y, 2)
    if max(map(abs, by)) <= near and abs(new.width - old.width) <= 2 * near:
        return []
    return [Change("moved", "word", new.text, page, *_rounded(new), by)]


def _rounded(word: PageWord) -> Area:
    return _rounded_area((word.x, word.y, word.width, word.height))


def _rounded_area(area: Area) -> Area:
    x, y, width, height = area
    return round(x, 2), round(y, 2), round(width, 2), round(height, 2)


class _Box(NamedTuple):
    """A shape or a picture: what tells it from others of its kind, and where it stands."""

    told: tuple[Any, ...]
    area: Area


def _told_shapes(shapes: Sequence[Shape]) -> list[_Box]:
    return [
        _Box((shape.kind, _told_color(shape.color)), (shape.x, shape.y, shape.width, shape.height)) for shape in shapes
    ]


def _told_color(color: tuple[Any, ...]) -> tuple[Any, ...]:
    """A colour as finely as it is told from others."""
    return tuple(round(part / FAINT) if isinstance(part, (int, float)) else str(part) for part in color)


def _told_pictures(pictures: Sequence[Shown]) -> list[_Box]:
    return [_Box((picture.content,), (picture.x, picture.y, picture.width, picture.height)) for picture in pictures]


def _boxes(kind: str, old: list[_Box], new: list[_Box], old_page: int, new_page: int, near: float) -> list[Change]:
    """Boxes of one kind: those that stand where they stood are the same; then those of one look and size."""
    came: list[_Box] = []
    left = list(old)
    by_look: dict[tuple[Any, ...], list[_Box]] = {}
    for box in left:
        by_look.setdefault(box.told, []).append(box)
    for box in new:
        like = by_look.get(box.told, [])
        same = next((one for one in like if _off(one.area, box.area) <= near), None)
        if same is None:
            came.append(box)
        else:
            like.remove(same)
    changes: list[Change] = []
    for box in came:
        like = [one for one in by_look.get(box.told, []) if _grown(one.area, box.area) <= near]
        same = min(like, key=lambda one: _off(one.area, box.area), default=None)
        area = _rounded_area(box.area)
        if same is None:
            changes.append(Change("came", kind, "", new_page, *area))
        else:
            by_look[box.told].remove(same)
            by = round(box.area[0] - same.area[0], 2), round(box.area[1] - same.area[1], 2)
            changes.append(Change("moved", kind, "", new_page, *area, by))
    for like in by_look.values():
        changes += [Change("went", kind, "", old_page, *_rounded_area(box.area)) for box in like]
    return changes


def _off(old: tuple[float, ...], new: tuple[float, ...]) -> float:
    return max(abs(a - b) for a, b in zip(old, new, strict=True))


def _grown(old: tuple[float, ...], new: tuple[float, ...]) -> float:
    return max(abs(old[2] - new[2]), abs(old[3] - new[3]))


# ---- the picture ----


def _picture(found: Comparison, dpi: float) -> bytes:
    from PIL import Image, ImageDraw

    rows: list[Any] = []
    for old_page, new_page in found.pages:
        own = [
            [change for change in found.changes if change.page == number and _side(change) == side]
            for side, number in ((0, old_page), (1, new_page))
        ]
        if not any(own):
            continue
        halves = [
            None if number is None else _drawn(volume, number, dpi)
            for volume, number in ((found.old, old_page), (found.new, new_page))
        ]
        for half, changes in zip(halves, own, strict=True):
            if half is not None:
                _mark(ImageDraw.Draw(half), changes, dpi / 72)
        size = next(half.size for half in halves if half is not None)
        row = Image.new("RGB", (2 * size[0] + 12, size[1]), (225, 230, 229))
        for place, half in enumerate(halves):
            if half is not None:
                row.paste(half, (place * (size[0] + 12), 0))
        rows.append(row)
    if not rows:
        raise OptionError("The two are the same: there is nothing to show.")
    whole = Image.new("RGB", (max(row.width for row in rows), sum(row.height + 12 for row in rows)), (225, 230, 229))
    top = 0
    for row in rows:
        whole.paste(row, (0, top))
        top += row.height + 12
    stream = io.BytesIO()
    whole.save(stream, "PNG")
    return stream.getvalue()


def _side(change: Change) -> int:
    """Whether a change is shown on the old page (0) or on the new one."""
    return 0 if change.what == "went" else 1


def _drawn(volume: Volume, number: int, dpi: float) -> Any:
    from fleetquill.graphics.finished_pages import page_picture
    from fleetquill.pdf.finished import FinishedPage

    page = FinishedPage(volume.reader, volume.pages[number - 1].held, volume.source)
    from PIL import Image

    pixels = Image.open(io.BytesIO(page_picture(page, dpi, fields=True).content)).convert("RGBA")
    ground = Image.new("RGBA", pixels.size, (255, 255, 255, 255))
    return Image.alpha_composite(ground, pixels).convert("RGB")


def _mark(drawing: Any, changes: Sequence[Change], scale: float) -> None:
    for change in changes:
        color = {"came": CAME, "went": WENT, "moved": MOVED}[change.what]
        x, y = change.x * scale, change.y * scale
        right, bottom = x + max(2.0, change.width * scale), y + max(2.0, change.height * scale)
        drawing.rectangle((x - 2, y - 2, right + 2, bottom + 2), outline=color, width=2)
