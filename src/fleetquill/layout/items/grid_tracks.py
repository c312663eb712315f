"""How wide and high grid tracks are: the track sizing algorithm (CSS Grid 2 §11)."""

from __future__ import annotations

import math
from typing import NamedTuple

from fleetquill.style.grid_values import FitContent, Fraction, Track
from fleetquill.style.lengths import resolve


class Sized:
    """A track while it is sized; `growth` is its limit, infinite where nothing bounds it."""

    __slots__ = ("base", "collapsed", "growth", "infinitely", "track")

    def __init__(self, track: Track) -> None:
        self.track = track
        self.base = 0.0
        self.growth = math.inf
        self.collapsed = False
        self.infinitely = False

    @property
    def fraction(self) -> float:
        return self.track.most.value if isinstance(self.track.most, Fraction) else 0.0

    @property
    def has_share(self) -> bool:
        return _without_shares(self.track) != self.track

    @property
    def intrinsic_least(self) -> bool:
        return isinstance(self.track.least, str)

    @property
    def intrinsic_most(self) -> bool:
        return isinstance(self.track.most, (str, FitContent))


class Span(NamedTuple):
    """What an item asks of the tracks that it spans: `least` is its minimum contribution, `floor` that without an
    automatic minimum (§6.6)."""

    first: int
    tracks: int
    least: float
    narrow: float
    wide: float
    floor: float

    def more(self, size: float) -> Span:
        """What it asks for with that much around the item."""
        return self._replace(
            least=self.least + size, narrow=self.narrow + size, wide=self.wide + size, floor=self.floor + size
        )


def size_tracks(
    tracks: list[Sized],
    spans: list[Span],
    available: float | None,
    gap: float,
    *,
    stretch: bool,
    limits: tuple[float, float] = (0.0, math.inf),
) -> None:
    """The track sizing algorithm; `available` is None where the container hangs on its content, within its limits."""
    basis = available or 0.0
    for track in tracks:
        if available is None:
            track.track = _without_shares(track.track)
        least, most = track.track
        if not isinstance(least, str):
            track.base = resolve(least, basis)
        if not isinstance(most, (str, Fraction, FitContent)):
            track.growth = max(track.base, resolve(most, basis))
    for count in sorted({span.tracks for span in spans}):
        _grow_tracks(tracks, [s for s in spans if s.tracks == count and not _flexes(tracks, s)], gap, basis)
    for span in spans:
        if _flexes(tracks, span):
            _grow_flexible(tracks, span, gap)
    for track in tracks:
        if track.growth == math.inf:
            track.growth = track.base
        track.growth = max(track.growth, track.base)
    taken = gap * max(0, sum(not t.collapsed for t in tracks) - 1)
    room = None if available is None else available - taken
    low, high = (limit - taken for limit in limits)
    _maximize(tracks, high if room is None and sum(t.growth for t in tracks) > high else room)
    _expand_flexible(tracks, spans, room, gap, low, high)
    if stretch and available is not None:
        spare = available - taken - sum(t.base for t in tracks)
        autos = [t for t in tracks if t.track.most == "auto" and not t.collapsed]
        if spare > 0 and autos:
            for track in autos:
                track.base += spare / len(autos)


def _without_shares(track: Track) -> Track:
    """A share of what hangs on the content is automatic (§7.2.1)."""
    least, most = track
    return Track(
        least if isinstance(least, (str, float)) else "auto",
        most if isinstance(most, (str, float, Fraction, FitContent)) else "auto",
    )


def at_its_least(track: Track) -> Track:
    """A track under a min-content constraint: it keeps what it must have (§11.6, §11.7)."""
    least = _without_shares(track).least
    return Track(least, "min-content" if least == "auto" else least)


def _flexes(tracks: list[Sized], span: Span) -> bool:
    return any(t.fraction for t in tracks[span.first : span.first + span.tracks])


def _grow_tracks(tracks: list[Sized], spans: list[Span], gap: float, basis: float) -> None:
    """§11.5, steps 2 and 3: what items that span equally many tracks ask of them, in six steps."""
    every = range(len(tracks))
    intrinsic = {i for i in every if tracks[i].intrinsic_least}
    by_content = {i for i in intrinsic if tracks[i].track.least != "auto"}
    widest = {i for i in intrinsic if tracks[i].track.least == "max-content"}
    limited = {i for i in every if tracks[i].intrinsic_most}
    large = {i for i in limited if tracks[i].track.most != "min-content"}
    _accommodate(tracks, spans, intrinsic, [_least_of(tracks, span) for span in spans], gap, basis)
    _accommodate(tracks, spans, by_content, [span.narrow for span in spans], gap, basis)
    _accommodate(tracks, spans, widest, [span.wide for span in spans], gap, basis)
    for track in tracks:
        track.growth = max(track.growth, track.base)
        track.infinitely = False
    _accommodate(tracks, spans, limited, [span.narrow for span in spans], gap, basis, limits=True)
    _accommodate(tracks, spans, large, [span.wide for span in spans], gap, basis, limits=True)


def _least_of(tracks: list[Sized], span: Span) -> float:
    """An item's minimum contribution; in one track of a fixed maximum never more than that (§6.6)."""
    track = tracks[span.first]
    if span.tracks == 1 and track.track.least == "auto" and isinstance(track.track.most, float):
        return min(span.least, max(0.0, track.track.most))
    return span.least


def _accommodate(
    tracks: list[Sized],
    spans: list[Span],
    affected: set[int],
    wanted: list[float],
    gap: float,
    basis: float,
    *,
    limits: bool = False,
) -> None:
    """§11.5.1: extra space for the bases, or the growth limits, of the affected tracks."""
    planned: dict[int, float] = {}
    for span, contribution in zip(spans, wanted, strict=True):
        mine = range(span.first, span.first + span.tracks)
        growing = [i for i in mine if i in affected]
        if not growing:
            continue
        extra = contribution - sum(_size(tracks[i], limits) for i in mine) - gap * (span.tracks - 1)
        for index, share in _shares(tracks, growing, extra, basis, limits=limits).items():
            planned[index] = max(planned.get(index, 0.0), share)
    for index in affected:
        track = tracks[index]
        more = planned.get(index)
        if not limits:
            track.base += more or 0.0
        elif more is not None:
            track.infinitely = track.growth == math.inf
            track.growth = _size(track, limits) + more


def _size(track: Sized, limits: bool) -> float:
    return track.growth if limits and track.growth != math.inf else track.base


def _shares(tracks: list[Sized], growing: list[int], extra: float, basis: float, *, limits: bool) -> dict[int, float]:
    """Equal shares up to each limit, the rest beyond it."""
    shares = dict.fromkeys(growing, 0.0)
    room = {index: _room(tracks[index], basis, limits=limits) for index in growing}
    still = list(growing)
    while extra > 0.001 and still:
        part = extra / len(still)
        for index in list(still):
            given = min(part, room[index] - shares[index])
            shares[index] += given
            extra -= given
            if given < part:
                still.remove(index)
    if extra > 0.001:
        beyond = [i for i in growing if isinstance(tracks[i].track.most, str)]
        if not limits:
            beyond = [i for i in growing if tracks[i].intrinsic_most] or growing
        for index in beyond:
            shares[index] += extra / len(beyond)
    return shares


def _room(track: Sized, basis: float, *, limits: bool) -> float:
    """How far a track may grow before its shares go to others."""
    most = track.track.most
    limit = track.growth if not limits or not (track.infinitely or track.growth == math.inf) else math.inf
    if isinstance(most, FitContent):
        limit = min(limit, max(track.base, resolve(most.limit, basis)))
    return max(0.0, limit - _size(track, limits))


def _grow_flexible(tracks: list[Sized], span: Span, gap: float) -> None:
    """An item over flexible tracks: their bases take its least (§11.5, step 4)."""
    mine = range(span.first, span.first + span.tracks)
    growing = [i for i in mine if tracks[i].fraction and tracks[i].intrinsic_least]
    if not growing:
        return
    least = span.least if span.tracks == 1 else span.floor
    extra = least - sum(tracks[i].base for i in mine) - gap * (span.tracks - 1)
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


def _expand_flexible(
    tracks: list[Sized], spans: list[Span], available: float | None, gap: float, low: float, high: float
) -> None:
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
        total = sum(t.base if not t.fraction else max(t.base, size * t.fraction) for t in tracks)
        if not low <= total <= high:
            size = _find_fraction(tracks, max(low, min(total, high)))
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
