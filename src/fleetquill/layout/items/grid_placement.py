"""Where grid items stand: line names, repeats, areas and auto-placement (CSS Grid 2 §7, §8)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any, Final, NamedTuple

from fleetquill.layout.boxes.boxes import Box
from fleetquill.layout.contract.fragments import Fragment
from fleetquill.layout.contract.space import Space
from fleetquill.layout.items.boxes import GridBox
from fleetquill.layout.items.grid_tracks import Sized
from fleetquill.style.grid_values import AUTO_TRACK, SUBGRID, FitContent, Fraction, Line, Names, Repeat, Track
from fleetquill.style.lengths import resolve
from fleetquill.style.properties import ComputedStyle

MOST_TRACKS: Final = 2_000


# ---- the explicit grid (§7) ----


LentSizes = tuple[tuple[float, ...] | None, tuple[float, ...] | None]  # px of lent columns and rows


class Template(NamedTuple):
    """Tracks of one axis with the names of their lines; `fitted` are those of an auto-fit repeat."""

    tracks: list[Track]
    names: list[tuple[str, ...]]  # of each line; one more than tracks
    fitted: range


def expand_template(
    entries: Sequence[Any], areas: Sequence[Sequence[str]], available: float | None, gap: float, *, rows: bool
) -> Template:
    """Repeats written out, and the lines that areas name (§7.2.3, §7.3.1)."""
    tracks: list[Track] = []
    names: list[list[str]] = [[]]
    fitted = range(0)
    for entry in entries:
        if isinstance(entry, Names):
            names[-1] += entry.names
        elif isinstance(entry, Repeat):
            count = entry.times
            if isinstance(count, str):
                count = _fill_count(entry, entries, available, gap)
                if entry.times == "auto-fit":
                    inner = sum(isinstance(e, Track) for e in entry.entries)
                    fitted = range(len(tracks), len(tracks) + count * inner)
            for _ in range(count):
                for inner_entry in entry.entries:
                    if isinstance(inner_entry, Names):
                        names[-1] += inner_entry.names
                    elif len(tracks) < MOST_TRACKS:
                        tracks.append(inner_entry)
                        names.append([])
        elif len(tracks) < MOST_TRACKS:
            tracks.append(entry)
            names.append([])
    count = len(areas) if rows else (len(areas[0]) if areas else 0)
    while len(names) <= count:
        names.append([])
    for name, (first, last) in _area_lines(areas, rows).items():
        names[first].append(f"{name}-start")
        names[last].append(f"{name}-end")
    return Template(tracks, [tuple(line) for line in names], fitted)


def _area_lines(areas: Sequence[Sequence[str]], rows: bool) -> dict[str, tuple[int, int]]:
    found: dict[str, tuple[int, int]] = {}
    for y, row in enumerate(areas):
        for x, name in enumerate(row):
            if name != ".":
                at = y if rows else x
                first, last = found.get(name, (at, at + 1))
                found[name] = (min(first, at), max(last, at + 1))
    return found


def _fill_count(repeat: Repeat, entries: Sequence[Any], available: float | None, gap: float) -> int:
    """How often an auto-repeat fits (§7.2.3.2)."""
    if available is None:
        return 1
    fixed = [e for e in entries if isinstance(e, Track)]
    for entry in entries:
        if isinstance(entry, Repeat) and entry is not repeat and isinstance(entry.times, int):
            fixed += [e for e in entry.entries if isinstance(e, Track)] * entry.times
    once = [e for e in repeat.entries if isinstance(e, Track)]
    taken = sum(_definite(track, available) + gap for track in fixed)
    each = sum(_definite(track, available) + gap for track in once)
    if each <= 0:
        return 1
    return max(1, min(MOST_TRACKS, math.floor((available - taken + gap + 0.001) / each)))


def _definite(track: Track, basis: float) -> float:
    for size in (track.most, track.least):
        if not isinstance(size, (str, Fraction, FitContent)):
            low = 0.0 if isinstance(track.least, str) else resolve(track.least, basis)
            return max(low, resolve(size, basis))
    return 0.0


# ---- placement (§8.5) ----


class Item:
    """A grid item: the tracks that it spans, from 0, and its layout."""

    __slots__ = ("box", "column", "columns", "fragment", "row", "rows", "space")

    def __init__(self, box: Box, column: int = 0, columns: int = 1, row: int = 0, rows: int = 1) -> None:
        self.box = box
        self.column = column
        self.columns = columns
        self.row = row
        self.rows = rows
        self.fragment: Fragment | None = None
        self.space: Space | None = None


def _resolve_lines(start: Any, end: Any, names: list[tuple[str, ...]], explicit: int) -> tuple[int | None, int]:
    """(start line from 0 or None for auto, span) from the two placement properties (§8.3)."""
    first = line_number(start, names, explicit, start=True)
    last = line_number(end, names, explicit, start=False)
    if first is not None and last is not None:
        if first == last:
            return first, 1
        return min(first, last), abs(last - first)
    if first is not None:
        if isinstance(end, Line) and end.span:
            return first, _span_to(end, names, first, explicit)
        return first, 1
    span = start if isinstance(start, Line) and start.span else end if isinstance(end, Line) and end.span else None
    length = (span.number or 1) if span is not None else 1
    if last is not None:
        return last - length, length
    return None, length


def _span_to(span: Line, names: list[tuple[str, ...]], first: int, explicit: int) -> int:
    if not span.name:
        return span.number
    wanted = span.number or 1
    for index in range(first + 1, len(names)):
        wanted -= span.name in names[index]
        if wanted == 0:
            return index - first
    return max(1, explicit - first + wanted)


def line_number(value: Any, names: list[tuple[str, ...]], explicit: int, *, start: bool) -> int | None:
    if not isinstance(value, Line) or value.span:
        return None
    if not value.name:
        return value.number - 1 if value.number > 0 else explicit + 1 + value.number
    if not value.number:
        wanted = f"{value.name}-{'start' if start else 'end'}"
        for name in (wanted, value.name):
            for index, line in enumerate(names):
                if name in line:
                    return index
    places = [index for index, line in enumerate(names) if value.name in line]
    number = value.number or 1
    if number > 0:
        return places[number - 1] if number <= len(places) else explicit + number - len(places)
    return places[number] if -number <= len(places) else number + len(places)


class _Placement:
    """Auto-placement of items on a grid whose minor axis is `columns` for row flow."""

    def __init__(self, items: list[Item], style: ComputedStyle, columns: Template, rows: Template) -> None:
        self.by_row = style.grid_auto_flow[0] == "row"
        self.dense = style.grid_auto_flow[1]
        self.taken: set[tuple[int, int]] = set()  # (major, minor)
        explicit_columns = max(len(columns.tracks), len(columns.names) - 1)
        explicit_rows = max(len(rows.tracks), len(rows.names) - 1)
        self.minor_count = max(explicit_columns if self.by_row else explicit_rows, 1)
        pending: list[tuple[Item, int | None, int, int | None, int]] = []
        for item in items:
            own = item.box.style
            column, wide = _resolve_lines(own.grid_column_start, own.grid_column_end, columns.names, explicit_columns)
            row, high = _resolve_lines(own.grid_row_start, own.grid_row_end, rows.names, explicit_rows)
            if self.by_row:
                pending.append((item, row, high, column, wide))
            else:
                pending.append((item, column, wide, row, high))
        low_major = min([0, *(p[1] for p in pending if p[1] is not None)])
        low_minor = min([0, *(p[3] for p in pending if p[3] is not None)])
        self.before = (-low_major, -low_minor)  # implicit tracks before the explicit grid
        pending = [
            (i, None if a is None else a - low_major, n, None if b is None else b - low_minor, m)
            for i, a, n, b, m in pending
        ]
        self.minor_count -= low_minor
        for _, _, _, minor, span in pending:
            self.minor_count = max(self.minor_count, span if minor is None else minor + span)
        self._place_all(pending)

    def _place_all(self, pending: list[tuple[Item, int | None, int, int | None, int]]) -> None:
        for item, major, long, minor, wide in pending:
            if major is not None and minor is not None:
                self._put(item, major, long, minor, wide)
        cursors: dict[int, int] = {}
        for item, major, long, minor, wide in pending:
            if major is not None and minor is None:
                at = 0 if self.dense else cursors.get(major, 0)
                while not self._free(major, long, at, wide):
                    at += 1
                cursors[major] = at
                self._put(item, major, long, at, wide)
                self.minor_count = max(self.minor_count, at + wide)
        cursor = (0, 0)
        for item, major, long, minor, wide in pending:
            if major is not None:
                continue
            cursor = self._find((0, 0) if self.dense else cursor, long, minor, wide)
            self._put(item, cursor[0], long, cursor[1], wide)

    def _find(self, cursor: tuple[int, int], long: int, minor: int | None, wide: int) -> tuple[int, int]:
        major, at = cursor
        if minor is not None:
            if minor < at:
                major += 1
            while not self._free(major, long, minor, wide):
                major += 1
            return major, minor
        while True:
            while at + wide <= self.minor_count:
                if self._free(major, long, at, wide):
                    return major, at
                at += 1
            major, at = major + 1, 0

    def _free(self, major: int, long: int, minor: int, wide: int) -> bool:
        return not any((a, b) in self.taken for a in range(major, major + long) for b in range(minor, minor + wide))

    def _put(self, item: Item, major: int, long: int, minor: int, wide: int) -> None:
        self.taken.update((a, b) for a in range(major, major + long) for b in range(minor, minor + wide))
        if self.by_row:
            item.row, item.rows, item.column, item.columns = major, long, minor, wide
        else:
            item.column, item.columns, item.row, item.rows = major, long, minor, wide


def place_items(
    box: GridBox,
    width: float | None,
    height: float | None,
    column_gap: float,
    row_gap: float,
    lent: LentSizes = (None, None),
) -> tuple[list[Item], list[Sized], list[Sized]]:
    """Items on their tracks, with the implicit tracks that they need (§7.5); a subgrid stands on those `lent` to it."""
    style = box.style
    columns, rows = explicit_grid(box, width, height, column_gap, row_gap, lent)
    items = [Item(child) for child in sorted(box.children, key=lambda b: b.style.order)]
    placement = _Placement(items, style, columns, rows)
    before_rows, before_columns = placement.before if placement.by_row else placement.before[::-1]
    column_count = max([0, *(item.column + item.columns for item in items)])
    row_count = max([0, *(item.row + item.rows for item in items)])
    explicit_columns = len(columns.names) - 1 + before_columns
    explicit_rows = len(rows.names) - 1 + before_rows
    sized_columns = _sized(columns, style.grid_auto_columns, before_columns, max(column_count, explicit_columns))
    sized_rows = _sized(rows, style.grid_auto_rows, before_rows, max(row_count, explicit_rows))
    for fitted, sized, before, start, span in (
        (columns.fitted, sized_columns, before_columns, "column", "columns"),
        (rows.fitted, sized_rows, before_rows, "row", "rows"),
    ):
        used = {at for item in items for at in range(getattr(item, start), getattr(item, start) + getattr(item, span))}
        for index in fitted:
            if index + before not in used:
                sized[index + before] = Sized(Track(0.0, 0.0))
                sized[index + before].collapsed = True
    return items, sized_columns, sized_rows


def explicit_grid(
    box: GridBox, width: float | None, height: float | None, column_gap: float, row_gap: float, lent: LentSizes
) -> tuple[Template, Template]:
    """The columns and rows that the grid's own templates give it (§7)."""
    style = box.style
    areas = style.grid_template_areas
    columns = expand_template(_on_loan(style.grid_template_columns, lent[0]), areas, width, column_gap, rows=False)
    rows = expand_template(_on_loan(style.grid_template_rows, lent[1]), areas, height, row_gap, rows=True)
    return columns, rows


def is_subgrid(template: tuple[Any, ...]) -> bool:
    return bool(template) and template[0] == SUBGRID


def _on_loan(template: tuple[Any, ...], lent: tuple[float, ...] | None) -> tuple[Any, ...]:
    """A subgrid's tracks, between the names that it gives their lines; without a grid around it has none (§9)."""
    if not is_subgrid(template):
        return template
    entries: list[Any] = []
    names = list(template[1:])
    for size in lent or ():
        entries += [*names[:1], Track(size, size)]
        del names[:1]
    return (*entries, *names[:1])


def _sized(template: Template, autos: tuple[Track, ...], before: int, count: int) -> list[Sized]:
    autos = autos or (AUTO_TRACK,)
    tracks = []
    for index in range(count):
        at = index - before
        if 0 <= at < len(template.tracks):
            tracks.append(Sized(template.tracks[at]))
        else:
            number = at - len(template.tracks) if at >= 0 else at
            tracks.append(Sized(autos[number % len(autos)]))
    return tracks
