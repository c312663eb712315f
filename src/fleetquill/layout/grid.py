"""Grid layout (CSS Grid 2): items placed on tracks, tracks sized by what is in them."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Final, NamedTuple

from fleetquill.layout.boxes import Box, GridBox, PictureBox
from fleetquill.layout.context import Context
from fleetquill.layout.dispatch import content_widths, layout
from fleetquill.layout.fragments import Fragment
from fleetquill.layout.items import StaticArea, Whole, cut_to_page, lay_out_item, whole_of
from fleetquill.layout.lines import border_box_width
from fleetquill.layout.replaced import used_size
from fleetquill.layout.sizing import (
    clamp_height,
    clamp_width,
    edges_of,
    limits,
    margin_left_right,
    own_height,
    own_width,
    vertical_margin,
)
from fleetquill.layout.space import Laid, Resume, Space
from fleetquill.style.grid_values import AUTO_TRACK, FitContent, Fraction, Line, Names, Repeat, Track
from fleetquill.style.properties import ComputedStyle
from fleetquill.style.values import resolve, resolve_auto

MOST_TRACKS: Final = 2_000


# ---- the explicit grid (§7) ----


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


@dataclass(slots=True, eq=False)
class Item:
    """A grid item: the tracks that it spans, from 0, and its layout."""

    box: Box
    column: int = 0
    columns: int = 1
    row: int = 0
    rows: int = 1
    fragment: Fragment | None = None
    space: Space | None = None


def _resolve_lines(start: Any, end: Any, names: list[tuple[str, ...]], explicit: int) -> tuple[int | None, int]:
    """(start line from 0 or None for auto, span) from the two placement properties (§8.3)."""
    first = _line_number(start, names, explicit, start=True)
    last = _line_number(end, names, explicit, start=False)
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


def _line_number(value: Any, names: list[tuple[str, ...]], explicit: int, *, start: bool) -> int | None:
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


# ---- track sizing (§11) ----


@dataclass(slots=True)
class Sized:
    """A track while it is sized; `growth` is its limit, infinite where nothing bounds it."""

    track: Track
    base: float = 0.0
    growth: float = math.inf
    planned: float = 0.0
    collapsed: bool = False
    infinitely: bool = False

    @property
    def fraction(self) -> float:
        return self.track.most.value if isinstance(self.track.most, Fraction) else 0.0

    @property
    def intrinsic_least(self) -> bool:
        return isinstance(self.track.least, str)

    @property
    def intrinsic_most(self) -> bool:
        return isinstance(self.track.most, (str, FitContent))


class Span(NamedTuple):
    """What an item asks of the tracks that it spans: `least` is its minimum contribution."""

    first: int
    tracks: int
    least: float
    narrow: float
    wide: float


def size_tracks(
    tracks: list[Sized], spans: list[Span], available: float | None, gap: float, *, stretch: bool, floor: float = 0.0
) -> None:
    """The track sizing algorithm; `available` is None where the container hangs on its content."""
    basis = available or 0.0
    for track in tracks:
        least, most = track.track
        definite = available is not None
        if not isinstance(least, str) and (definite or isinstance(least, float)):
            track.base = resolve(least, basis)
        if not isinstance(most, (str, Fraction, FitContent)) and (definite or isinstance(most, float)):
            track.growth = max(track.base, resolve(most, basis))
    for count in sorted({span.tracks for span in spans}):
        group = [s for s in spans if s.tracks == count and not _flexes(tracks, s)]
        _grow_bases(tracks, group, gap, basis)
        _grow_limits(tracks, group, gap, basis)
    for span in spans:
        if _flexes(tracks, span):
            _grow_flexible(tracks, span, gap)
    for track in tracks:
        if track.growth == math.inf:
            track.growth = track.base if track.fraction or not track.intrinsic_most else max(track.base, track.planned)
        track.growth = max(track.growth, track.base)
    taken = gap * max(0, sum(not t.collapsed for t in tracks) - 1)
    _maximize(tracks, None if available is None else available - taken)
    _expand_flexible(tracks, spans, None if available is None else available - taken, gap, floor - taken)
    if stretch and available is not None:
        spare = available - taken - sum(t.base for t in tracks)
        autos = [t for t in tracks if t.track.most == "auto" and not t.collapsed]
        if spare > 0 and autos:
            for track in autos:
                track.base += spare / len(autos)


def _flexes(tracks: list[Sized], span: Span) -> bool:
    return any(t.fraction for t in tracks[span.first : span.first + span.tracks])


def _wanted_base(track: Sized, span: Span) -> float:
    least = track.track.least
    return span.narrow if least == "min-content" else span.wide if least == "max-content" else span.least


def _grow_bases(tracks: list[Sized], spans: list[Span], gap: float, basis: float) -> None:
    """§11.5, steps 2 and 3: bases of intrinsic tracks."""
    plans = [0.0] * len(tracks)
    for span in spans:
        mine = range(span.first, span.first + span.tracks)
        growing = [i for i in mine if tracks[i].intrinsic_least]
        if not growing:
            continue
        wanted = max(_wanted_base(tracks[i], span) for i in growing)
        if span.tracks == 1:
            most = tracks[growing[0]].track.most
            limit = most if isinstance(most, float) else None
            if tracks[growing[0]].track.least == "auto" and limit is not None:
                wanted = min(wanted, max(limit, 0.0))
            plans[growing[0]] = max(plans[growing[0]], wanted - tracks[growing[0]].base)
            continue
        extra = wanted - sum(tracks[i].base for i in mine) - gap * (span.tracks - 1)
        for index, share in _distribute(tracks, growing, extra).items():
            plans[index] = max(plans[index], share)
    for track, plan in zip(tracks, plans, strict=True):
        track.base += max(0.0, plan)
        if track.growth < track.base:
            track.growth = track.base


def _distribute(tracks: list[Sized], growing: list[int], extra: float) -> dict[int, float]:
    """Equal shares up to each limit, the rest over all (§11.5.1)."""
    shares = dict.fromkeys(growing, 0.0)
    open_tracks = list(growing)
    while extra > 0.001 and open_tracks:
        part = extra / len(open_tracks)
        for index in list(open_tracks):
            room = tracks[index].growth - tracks[index].base - shares[index]
            given = min(part, room)
            shares[index] += given
            extra -= given
            if given < part:
                open_tracks.remove(index)
    if extra > 0.001:
        beyond = [i for i in growing if tracks[i].intrinsic_most] or growing
        for index in beyond:
            shares[index] += extra / len(beyond)
    return shares


def _grow_limits(tracks: list[Sized], spans: list[Span], gap: float, basis: float) -> None:
    """§11.5, steps 5 and 6: limits of tracks whose maximum hangs on content."""
    found: dict[int, float] = {}
    for span in spans:
        mine = range(span.first, span.first + span.tracks)
        growing = [i for i in mine if tracks[i].intrinsic_most]
        if not growing:
            continue
        for narrow in (True, False):
            kind = [i for i in growing if (tracks[i].track.most == "min-content") == narrow]
            if not kind:
                continue
            wanted = span.narrow if narrow else span.wide
            fixed = sum(max(tracks[i].base, 0.0 if tracks[i].growth == math.inf else tracks[i].growth)
                        for i in mine if i not in kind)  # fmt: skip
            share = wanted - gap * (span.tracks - 1) - fixed
            have = sum(max(found.get(i, 0.0), tracks[i].base) for i in kind)
            if share > have:
                for index in kind:
                    found[index] = max(found.get(index, 0.0), tracks[index].base) + (share - have) / len(kind)
    for index, limit in found.items():
        most = tracks[index].track.most
        if isinstance(most, FitContent):
            limit = min(limit, resolve(most.limit, basis))
        tracks[index].planned = max(tracks[index].planned, limit, tracks[index].base)


def _grow_flexible(tracks: list[Sized], span: Span, gap: float) -> None:
    """An item over flexible tracks: their bases take its least (§11.5, step 4)."""
    mine = range(span.first, span.first + span.tracks)
    growing = [i for i in mine if tracks[i].fraction and tracks[i].intrinsic_least]
    if not growing:
        return
    extra = span.least - sum(tracks[i].base for i in mine) - gap * (span.tracks - 1)
    total = sum(tracks[i].fraction for i in growing)
    if extra > 0:
        for index in growing:
            tracks[index].base += extra * tracks[index].fraction / total


def _maximize(tracks: list[Sized], available: float | None) -> None:
    """§11.6."""
    growing = [t for t in tracks if t.growth > t.base]
    if available is None:
        for track in growing:
            track.base = track.growth
        return
    spare = available - sum(t.base for t in tracks)
    while spare > 0.001 and growing:
        part = spare / len(growing)
        for track in list(growing):
            given = min(part, track.growth - track.base)
            track.base += given
            spare -= given
            if track.growth - track.base < 0.001:
                growing.remove(track)


def _expand_flexible(tracks: list[Sized], spans: list[Span], available: float | None, gap: float, floor: float) -> None:
    """§11.7: what a fraction is."""
    flexible = [t for t in tracks if t.fraction]
    if not flexible:
        return
    if available is not None:
        size = _find_fraction(tracks, available)
    else:
        size = max((t.base / max(1.0, t.fraction) for t in flexible), default=0.0)
        for span in spans:
            mine = tracks[span.first : span.first + span.tracks]
            if any(t.fraction for t in mine):
                size = max(size, _find_fraction(mine, span.wide - gap * (span.tracks - 1)))
        if floor > 0 and sum(t.base if not t.fraction else size * t.fraction for t in tracks) < floor:
            size = _find_fraction(tracks, floor)
    for track in flexible:
        track.base = max(track.base, size * track.fraction)


def _find_fraction(tracks: list[Sized], space: float) -> float:
    inflexible: set[int] = {i for i, t in enumerate(tracks) if not t.fraction}
    while True:
        spare = space - sum(tracks[i].base for i in inflexible)
        total = sum(t.fraction for i, t in enumerate(tracks) if i not in inflexible)
        if total == 0:
            return 0.0
        size = max(0.0, spare) / max(1.0, total)
        more = {i for i, t in enumerate(tracks) if i not in inflexible and size * t.fraction < t.base}
        if not more:
            return size
        inflexible |= more


# ---- the container ----


def layout_grid(box: GridBox, space: Space, resume: Resume | None) -> Laid:
    """A grid container; it breaks between its rows and inside its items."""
    key = ("whole", space.width, space.height, space.fixed_width, space.fixed_height)
    if resume is not None and box.kept.get("whole key") == key:
        whole: Whole = box.kept["whole"]
    else:
        whole = _Grid(box, space).lay_out()
        box.kept["whole key"], box.kept["whole"] = key, whole
    return cut_to_page(whole, space, resume)


class _Grid:
    def __init__(self, box: GridBox, space: Space) -> None:
        self.box = box
        self.space = space
        self.context = space.context
        self.style = style = box.style
        self.edges = edges_of(style, space.width)
        self.width = border_box_width(box, space) if space.fixed_width is None else space.fixed_width
        self.inner_width = max(0.0, self.width - self.edges.across)
        given = own_height(style, space.height, self.edges.down) if space.fixed_height is None else space.fixed_height
        if given is not None and space.fixed_height is None:
            given = clamp_height(style, given, space.height, self.edges.down)
        self.inner_height = None if given is None else max(0.0, given - self.edges.down)
        self.column_gap = _gap(style.column_gap, self.inner_width)
        self.row_gap = _gap(style.row_gap, self.inner_height or 0.0)

    def lay_out(self) -> Whole:
        style = self.style
        items, columns, rows = place_items(self.box, self.inner_width, self.inner_height, self.column_gap, self.row_gap)
        spans = [self._across(item) for item in items]
        stretch = style.justify_content in ("normal", "stretch")
        size_tracks(columns, spans, self.inner_width, self.column_gap, stretch=stretch)
        column_starts = _starts(columns, self.column_gap, self.inner_width, style.justify_content)
        for item in items:
            self._lay_out_in_column(item, column_starts, columns)
        row_spans = [self._down(item) for item in items]
        stretch = style.align_content in ("normal", "stretch")
        low = clamp_height(style, self.edges.down, self.space.height, self.edges.down) - self.edges.down
        size_tracks(rows, row_spans, self.inner_height, self.row_gap, stretch=stretch, floor=low)
        total = _extent(rows, self.row_gap)
        height = self.inner_height
        if height is None:
            down = self.edges.down
            height = clamp_height(style, total + down, self.space.height, down) - down
            if height > total + 0.01 and stretch:
                _stretch_to(rows, height - total)
        row_starts = _starts(rows, self.row_gap, height, style.align_content)
        fragment = Fragment(self.box, self.width, height + self.edges.down)
        fragment.detail = self.edges
        spaces = []
        for item in items:
            spaces.append(self._place(item, column_starts, columns, row_starts, rows, fragment))
        fragment.baseline = next(
            (c.y + c.baseline for c in fragment.children if isinstance(c, Fragment) and c.baseline is not None), None
        )
        for anchor in self.box.kept.get("anchors", ()):
            stood = layout(anchor, self.space, None).fragment
            assert stood is not None
            stood.x, stood.y = self.edges.left, self.edges.top
            stood.detail = StaticArea(self.style, self.inner_width, fragment.height - self.edges.down)
            fragment.children.append(stood)
            spaces.append(self.space)
        return whole_of(fragment, spaces, self.edges)

    # ---- items ----

    def _across(self, item: Item) -> Span:
        """Width contributions of an item (§11.5, §6.6 for the automatic minimum)."""
        style = item.box.style
        narrow, wide = content_widths(item.box, self.context)
        margins = sum(margin_left_right(style, self.inner_width, None))
        across = edges_of(style, self.inner_width).across
        low, high = limits(style, self.inner_width, across)
        narrow, wide = max(low, min(narrow, high)), max(low, min(wide, high))
        if style.min_width == "auto":
            least = across if style.overflow != "visible" else narrow
        else:
            least = low
        if not isinstance(style.width, str):
            least = max(least, min(narrow, wide)) if isinstance(style.width, float) else least
        return Span(item.column, item.columns, least + margins, narrow + margins, wide + margins)

    def _align(self, item: Item, *, across: bool) -> str:
        style = item.box.style
        own = style.justify_self if across else style.align_self
        align = (self.style.justify_items if across else self.style.align_items) if own == "auto" else own
        if align == "normal":
            return "start" if isinstance(item.box, PictureBox) or style.aspect_ratio[1] else "stretch"
        return align

    def _area_width(self, item: Item, starts: list[float], columns: list[Sized]) -> float:
        last = item.column + item.columns - 1
        return starts[last] + columns[last].base - starts[item.column]

    def _lay_out_in_column(self, item: Item, starts: list[float], columns: list[Sized]) -> None:
        area = self._area_width(item, starts, columns)
        style = item.box.style
        edges = edges_of(style, area)
        left, right = resolve_auto(style.margin_left, area), resolve_auto(style.margin_right, area)
        free = max(0.0, area - (left or 0.0) - (right or 0.0))
        width = own_width(style, area, edges.across)
        if isinstance(item.box, PictureBox):
            width = used_size(item.box, area, self.inner_height, edges)[0] if width is None else width
        elif width is None:
            least, most = content_widths(item.box, self.context)
            stretches = self._align(item, across=True) == "stretch" and left is not None and right is not None
            if stretches and style.width == "auto":
                width = max(edges.across, free)
            else:
                width = {"min-content": least, "max-content": most}.get(str(style.width), max(least, min(most, free)))
            width = clamp_width(style, width, area, edges.across)
        item.space = Space(self.context, area, None, page=self.space.page, fixed_width=width)
        item.fragment = lay_out_item(item.box, item.space)

    def _down(self, item: Item) -> Span:
        assert item.fragment is not None and item.space is not None
        style = item.box.style
        margins = vertical_margin(style.margin_top, item.space.width) + vertical_margin(
            style.margin_bottom, item.space.width
        )
        height = item.fragment.height + margins
        return Span(item.row, item.rows, height, height, height)

    def _place(
        self, item: Item, column_starts: list[float], columns: list[Sized], row_starts: list[float],
        rows: list[Sized], fragment: Fragment,
    ) -> Space:  # fmt: skip
        assert item.space is not None and item.fragment is not None
        style = item.box.style
        area_width = self._area_width(item, column_starts, columns)
        last = item.row + item.rows - 1
        area_height = row_starts[last] + rows[last].base - row_starts[item.row]
        top, bottom = resolve_auto(style.margin_top, area_width), resolve_auto(style.margin_bottom, area_width)
        left, right = resolve_auto(style.margin_left, area_width), resolve_auto(style.margin_right, area_width)
        free = max(0.0, area_height - (top or 0.0) - (bottom or 0.0))
        align = self._align(item, across=False)
        laid = item.fragment
        edges = edges_of(style, area_width)
        stretches = align == "stretch" and style.height == "auto" and None not in (top, bottom)
        space = item.space._replace(height=area_height)
        if stretches and not isinstance(item.box, PictureBox):
            height = clamp_height(style, max(edges.down, free), area_height, edges.down)
            if abs(height - laid.height) > 0.01:
                space = space._replace(fixed_height=height)
                laid = lay_out_item(item.box, space)
        elif not isinstance(style.height, (float, str)):
            laid = lay_out_item(item.box, space)
        y = _aligned(align, top, bottom, area_height - laid.height)
        x = _aligned(self._align(item, across=True), left, right, area_width - laid.width)
        if self.style.direction == "rtl":
            x = area_width - laid.width - _aligned(self._align(item, across=True), right, left, area_width - laid.width)
            start = self.inner_width - column_starts[item.column] - area_width
        else:
            start = column_starts[item.column]
        laid.x = self.edges.left + start + x
        laid.y = self.edges.top + row_starts[item.row] + y
        fragment.children.append(laid)
        return space


def _aligned(align: str, before: float | None, after: float | None, spare: float) -> float:
    """Where the border box starts in its area; `spare` is the area without it."""
    rest = spare - (before or 0.0) - (after or 0.0)
    if before is None and after is None:
        return max(0.0, rest / 2)
    if before is None:
        return max(0.0, rest)
    if after is None or align in ("stretch", "start", "flex-start", "self-start", "left", "baseline", "normal"):
        return before
    return before + (rest / 2 if align == "center" else rest)


def place_items(
    box: GridBox, width: float | None, height: float | None, column_gap: float, row_gap: float
) -> tuple[list[Item], list[Sized], list[Sized]]:
    """Items on their tracks, with the implicit tracks that they need (§7.5)."""
    style = box.style
    areas = style.grid_template_areas
    columns = expand_template(style.grid_template_columns, areas, width, column_gap, rows=False)
    rows = expand_template(style.grid_template_rows, areas, height, row_gap, rows=True)
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
                sized[index + before] = Sized(Track(0.0, 0.0), collapsed=True)
    return items, sized_columns, sized_rows


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


def _gap(value: object, basis: float) -> float:
    return 0.0 if isinstance(value, str) else resolve(value, basis)  # type: ignore[arg-type]


def _extent(tracks: list[Sized], gap: float) -> float:
    return sum(t.base for t in tracks) + gap * max(0, sum(not t.collapsed for t in tracks) - 1)


def _stretch_to(rows: list[Sized], spare: float) -> None:
    autos = [row for row in rows if row.track.most == "auto"]
    for row in autos:
        row.base += spare / len(autos)


def _starts(tracks: list[Sized], gap: float, available: float, align: str) -> list[float]:
    """Where each track starts, with what justify-content or align-content makes of spare room (§10.5)."""
    spare = available - _extent(tracks, gap)
    present = [t for t in tracks if not t.collapsed]
    count = len(present)
    position, between = 0.0, gap
    if align == "center":
        position = spare / 2
    elif align in ("end", "flex-end", "right"):
        position = spare
    elif spare > 0 and count:
        if align == "space-between" and count > 1:
            between += spare / (count - 1)
        elif align == "space-around":
            position, between = spare / count / 2, gap + spare / count
        elif align == "space-evenly":
            position, between = spare / (count + 1), gap + spare / (count + 1)
    starts = []
    for track in tracks:
        starts.append(position)
        if not track.collapsed:
            position += track.base + between
    return starts


def grid_content_widths(box: GridBox, context: Context) -> tuple[float, float]:
    """Sums of the tracks under a min-content and a max-content constraint (§5.2)."""
    gap = _gap(box.style.column_gap, 0.0)
    sizes: list[float] = []
    measure: tuple[Callable[[Span], Span], ...] = (
        lambda s: Span(s.first, s.tracks, s.least, s.narrow, s.narrow),
        lambda s: s,
    )
    for shape in measure:
        items, columns, _ = place_items(box, None, None, gap, 0.0)
        spans = []
        for item in items:
            narrow, wide = content_widths(item.box, context)
            margins = sum(margin_left_right(item.box.style, 0.0, None))
            spans.append(shape(Span(item.column, item.columns, narrow + margins, narrow + margins, wide + margins)))
        size_tracks(columns, spans, None, gap, stretch=False)
        sizes.append(_extent(columns, gap))
    return sizes[0], max(sizes)
