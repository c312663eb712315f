"""How wide and high grid tracks are: the track sizing algorithm (CSS Grid 2 §11)."""

from __future__ import annotations

import math
from typing import NamedTuple

from fleetquill.style.grid_values import FitContent, Fraction, Track
from fleetquill.style.lengths import resolve


class Sized:
    """A track while it is sized; `growth` is its limit, infinite where nothing bounds it."""

    __slots__ = ("base", "collapsed", "growth", "infinitely", "planned", "track")

    def __init__(self, track: Track) -> None:
        self.track = track
        self.base = 0.0
        self.growth = math.inf
        self.planned = 0.0
        self.collapsed = False
        self.infinitely = False

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
