"""Values of grid properties: track lists, areas, lines (CSS Grid 2 §7, §8)."""

from __future__ import annotations

from typing import Any, Final, NamedTuple

from fleetquill.style.lengths import length_percentage
from fleetquill.style.tokens import Token, Tokens, ident, split_commas, split_slash


class Fraction(NamedTuple):
    """`1fr`."""

    value: float


class FitContent(NamedTuple):
    limit: Any


class Track(NamedTuple):
    """minmax(least, most); each a length or one of auto, min-content, max-content; `most` may be a Fraction."""

    least: Any
    most: Any


class Names(NamedTuple):
    """[first second]: names of the line that stands here."""

    names: tuple[str, ...]


class Repeat(NamedTuple):
    """`times` is a number, 'auto-fill' or 'auto-fit'."""

    times: int | str
    entries: tuple[Any, ...]


class Line(NamedTuple):
    """A grid line: the number'th of that name; `span` says that it counts tracks from the other edge."""

    number: int
    name: str
    span: bool


AUTO_TRACK: Final = Track("auto", "auto")
CONTENT_WORDS: Final = ("auto", "min-content", "max-content")
MOST_REPEATS: Final = 1000
MOST_LINE: Final = 1000  # grids beyond it are cut off


def _breadth(token: Token) -> Any:
    if ident(token) in CONTENT_WORDS:
        return ident(token)
    if token.type == "dimension" and token.lower_unit == "fr":
        return Fraction(float(token.value)) if token.value >= 0 else None
    value = length_percentage(token)
    return None if isinstance(value, float) and value < 0 else value


def _track(token: Token) -> Track | None:
    if token.type == "function" and token.lower_name == "minmax":
        parts = split_commas(token.arguments)
        if len(parts) != 2 or any(len(part) != 1 for part in parts):
            return None
        least, most = _breadth(parts[0][0]), _breadth(parts[1][0])
        return None if least is None or most is None or isinstance(least, Fraction) else Track(least, most)
    if token.type == "function" and token.lower_name == "fit-content":
        parts = split_commas(token.arguments)
        limit = length_percentage(parts[0][0]) if len(parts) == 1 and len(parts[0]) == 1 else None
        return None if limit is None else Track("auto", FitContent(limit))
    breadth = _breadth(token)
    if breadth is None:
        return None
    return Track("auto", breadth) if isinstance(breadth, Fraction) else Track(breadth, breadth)


def _entry(token: Token) -> Any:
    if token.type == "[] block":
        words = [str(t.value) for t in token.content if t.type == "ident"]
        return Names(tuple(words))
    if token.type == "function" and token.lower_name == "repeat":
        parts = split_commas(token.arguments)
        if len(parts) != 2 or len(parts[0]) != 1:
            return None
        head = parts[0][0]
        count: Any = ident(head)
        if head.type == "number" and head.is_integer and head.int_value > 0:
            count = min(head.int_value, MOST_REPEATS)
        elif count not in ("auto-fill", "auto-fit"):
            return None
        entries = [_entry(t) for t in parts[1]]
        return None if not entries or None in entries else Repeat(count, tuple(entries))
    return _track(token)


SUBGRID: Final = "subgrid"


def template(tokens: Tokens) -> tuple[Any, ...] | None:
    """grid-template-columns and -rows: tracks, line names and repeats; `none` is (), a subgrid begins with SUBGRID."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    if tokens and ident(tokens[0]) == SUBGRID:
        lines = [_entry(token) for token in tokens[1:]]
        return (SUBGRID, *lines) if all(isinstance(line, Names) for line in lines) else None
    entries = [_entry(token) for token in tokens]
    return None if not entries or None in entries else tuple(entries)


def auto_tracks(tokens: Tokens) -> tuple[Track, ...] | None:
    tracks = [_track(token) for token in tokens]
    return None if not tracks or None in tracks else tuple(track for track in tracks if track is not None)


def areas(tokens: Tokens) -> tuple[tuple[str, ...], ...] | None:
    """grid-template-areas: rows of names, '.' for an empty cell (§7.3); every area is a rectangle."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return ()
    if not tokens or any(token.type != "string" for token in tokens):
        return None
    rows = tuple(tuple("." if set(w) == {"."} else w for w in token.value.split()) for token in tokens)
    if len({len(row) for row in rows}) != 1 or not rows[0]:
        return None
    return rows if _rectangular(rows) else None


def _rectangular(rows: tuple[tuple[str, ...], ...]) -> bool:
    places: dict[str, list[tuple[int, int]]] = {}
    for y, row in enumerate(rows):
        for x, name in enumerate(row):
            places.setdefault(name, []).append((x, y))
    for name, cells in places.items():
        wide = max(x for x, _ in cells) - min(x for x, _ in cells) + 1
        high = max(y for _, y in cells) - min(y for _, y in cells) + 1
        if name != "." and wide * high != len(cells):
            return False
    return True


def auto_flow(tokens: Tokens) -> tuple[str, bool] | None:
    """(row or column, dense)."""
    words = [ident(token) for token in tokens]
    dense = "dense" in words
    words = [word for word in words if word != "dense"]
    if len(words) > 1 or (not words and not dense) or (words and words[0] not in ("row", "column")):
        return None
    return (words[0] if words else "row", dense)


def line(tokens: Tokens) -> Any:
    """grid-row-start and its kin: 'auto' or a Line (§8.3)."""
    if len(tokens) == 1 and ident(tokens[0]) == "auto":
        return "auto"
    span, number, name = False, 0, ""
    for token in tokens:
        if ident(token) == "span" and not span:
            span = True
        elif token.type == "number" and token.is_integer and not number and token.int_value:
            number = max(-MOST_LINE, min(token.int_value, MOST_LINE))
        elif token.type == "ident" and not name:
            name = str(token.value)
        else:
            return None
    if not (number or name) or (span and number < 0):
        return None
    return Line(number, name, span)


def two_lines(tokens: Tokens) -> tuple[Any, Any] | None:
    """start / end; a name alone stands for both."""
    parts = [line(part) for part in split_slash(tokens)]
    if len(parts) not in (1, 2) or None in parts:
        return None
    return (parts[0], parts[1]) if len(parts) == 2 else (parts[0], _opposite(parts[0]))


def four_lines(tokens: Tokens) -> tuple[Any, Any, Any, Any] | None:
    """grid-area: row-start / column-start / row-end / column-end (§8.4)."""
    parts = [line(part) for part in split_slash(tokens)]
    if not 1 <= len(parts) <= 4 or None in parts:
        return None
    row = parts[0]
    column = parts[1] if len(parts) > 1 else _opposite(row)
    row_end = parts[2] if len(parts) > 2 else _opposite(row)
    column_end = parts[3] if len(parts) > 3 else _opposite(column)
    return row, column, row_end, column_end


def _opposite(start: Any) -> Any:
    return start if isinstance(start, Line) and start.name and not start.number and not start.span else "auto"


def grid_template(tokens: Tokens) -> dict[str, Any] | None:
    """grid-template: rows / columns, or rows of areas with their sizes (§7.4)."""
    if len(tokens) == 1 and ident(tokens[0]) == "none":
        return {"grid_template_rows": (), "grid_template_columns": (), "grid_template_areas": ()}
    parts = split_slash(tokens)
    if len(parts) > 2:
        return None
    columns = template(parts[1]) if len(parts) == 2 else ()
    if columns is None:
        return None
    if not any(token.type == "string" for token in parts[0]):
        rows = template(parts[0])
        if rows is None or len(parts) != 2:
            return None
        return {"grid_template_rows": rows, "grid_template_columns": columns, "grid_template_areas": ()}
    strings = [token for token in parts[0] if token.type == "string"]
    entries: list[Any] = []
    sized = True
    for token in parts[0]:
        if token.type == "string":
            if not sized:
                entries.append(AUTO_TRACK)
            sized = False
            continue
        entry = _entry(token)
        if entry is None:
            return None
        if isinstance(entry, Names):
            if not sized and entries:
                entries.append(AUTO_TRACK)
                sized = True
        else:
            sized = True
        entries.append(entry)
    if not sized:
        entries.append(AUTO_TRACK)
    named = areas(strings)
    if named is None:
        return None
    return {"grid_template_rows": tuple(entries), "grid_template_columns": columns, "grid_template_areas": named}
