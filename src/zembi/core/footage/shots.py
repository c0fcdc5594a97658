"""Where finished footage is cut: hard cuts to the frame, dissolves as a range.

A cut changes what is seen for good and at once. Of what else changes fast, a pan and a shake only move the picture
(so frames are compared where they fit best), a flash or a strobe gives the picture back (so frames before are compared
with those a little later too), and grain changes every frame alike (so a change is measured against its neighbours').
In a dissolve the frames between are mixtures of both ends, by a share that grows evenly.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from zembi.core.footage.looks import Looks, Pictures

#: Frames that are looked at in one go, and those that two goes share.
_GO, _SHARED = 600, 160
#: Frames whose change is what is usual about a moment.
_ABOUT = 9
#: A flash or one beat of a strobe is over after so many frames.
_FLASH = 4
#: So many blank pictures on end are a shot; where one that is cut off has less in it (spread of its light), it faded.
_NOTHING, _LIT = 12, 5.0
#: What is seen has changed from so much on (see :func:`_change`), so much above what is usual there (of what is left
#: to 1); a change that comes back leaves less than the last.
_CHANGED, _SUDDEN, _BACK = 0.33, 0.28, 0.2
#: Frames beyond a mixture that show what it goes from and to.
_OUT = 4
#: Lengths of dissolves that are tried, in frames.
_LENGTHS = (6, 8, 11, 15, 20, 27, 36, 48, 64, 80)
#: Farthest that frames between may be from mixtures of the ends, and their shares from even growth.
_FAR, _UNEVEN = 0.35, 0.2
#: Nor is it a dissolve where its ends are so like each other (correlation), share so much of their colours, or fit each
#: other so well when moved: pans and zooms mix a place with itself.
_SAME, _SHARED_COLOURS, _FITS = 0.5, 0.6, 0.75
#: Mixtures as near and even as this may share more colours.
_NEAR, _MOST_SHARED = 0.1, 0.8

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Found:
    """A shot: frames ``first`` to ``end`` (exclusive). ``dissolve`` is the range of frames that mix it with the one before."""

    first: int
    end: int
    begins: Literal["cut", "dissolve"] = "cut"
    dissolve: tuple[int, int] | None = None


def _change(seen: Looks, one: NDArray[np.int64], other: NDArray[np.int64]) -> Floats:
    """How much what is seen changes between pairs of pictures: 0 to 1.4."""
    unlike, colours = seen.unlike(one, other), seen.other_colours(one, other)
    # Structure tells most; where it is alike, colours are those of a light, not of another picture. Pictures that fit by
    # chance do not fit well, and differ in all their colours.
    return np.asarray(unlike * (0.62 + 0.38 * np.minimum(1.0, 2 * colours) + np.maximum(0.0, colours - 0.6)))


def _hard_cuts(seen: Looks) -> list[int]:
    """Frames at which a new shot begins at once."""
    count = len(seen)
    if count < 2:
        return []
    # Blank pictures are passed over: what matters is what was seen before and what is after them.
    sees = np.flatnonzero(~seen.blank)
    if len(sees) < 2:
        return []
    change = _change(seen, sees[:-1], sees[1:])
    # So long without anything to see is a shot of its own.
    dark = np.diff(sees) > _NOTHING
    change[dark] = 0.0
    usual = median_filter(change, _ABOUT, mode="nearest")
    out = []
    for i in np.flatnonzero((change > _CHANGED) & (change - usual > _SUDDEN * (1 - usual))):
        if change[i] < change[max(0, i - 2) : i + 3].max():
            continue
        before, after = sees[max(0, i - _FLASH + 1) : i + 1], sees[i + 1 : i + 1 + _FLASH + 1]
        one, other = (x.ravel() for x in np.meshgrid(before, after, indexing="ij"))
        if _change(seen, one, other).min() - usual[i] > _BACK * (1 - usual[i]):
            out.append(_between(seen, int(sees[i]), int(sees[i + 1])))
    for i in np.flatnonzero(dark):
        last, following = int(sees[i]), int(sees[i + 1])
        # What fades away is not cut there.
        out += [last + 1] * bool(seen.spread[max(0, last - 1)] > _LIT)
        out.append(following)
    return sorted(out)


def _between(seen: Looks, before: int, after: int) -> int:
    """Which frame begins the new shot, where those between are blank: what little they hold tells whose they are."""
    run = np.arange(before + 1, after)
    if not len(run):
        return after
    ones, others = (seen.unlike(np.full(len(run), end), run) for end in (before, after))
    wrong = np.concatenate([[0.0], np.cumsum(ones)]) + np.concatenate([np.cumsum(others[::-1])[::-1], [0.0]])
    return int(before + 1 + np.argmin(wrong))


def _mixtures(seen: Looks, cuts: list[int]) -> list[tuple[int, int]]:
    """Ranges of frames that go evenly from one picture to another."""
    rows = seen.coarse
    count = len(rows)
    found: list[tuple[float, int, int]] = []
    cut = np.zeros(count + 1, dtype=int)
    cut[cuts] = 1
    passed = np.cumsum(cut)
    for length in _LENGTHS:
        if count <= length + 2:
            break
        first = np.arange(0, count - length - 1)
        end = first + length
        start, way = rows[first], rows[end] - rows[first]
        power = (way**2).sum(axis=1)
        far, uneven = np.zeros(len(first)), np.zeros(len(first))
        parts = (0.2, 0.35, 0.5, 0.65, 0.8)
        for part in parts:
            middle = first + round(part * length)
            share = ((rows[middle] - start) * way).sum(axis=1) / np.maximum(power, 1e-9)
            rest = rows[middle] - start - share[:, None] * way
            far += (rest**2).sum(axis=1) / np.maximum(power, 1e-9) / len(parts)
            uneven = np.maximum(uneven, np.abs(share - round(part * length) / length))
        apart = np.sqrt(power / rows.shape[1])
        good = (apart > 12) & (far < _FAR) & (uneven < _UNEVEN) & (passed[end] == passed[first])
        good &= ~seen.blank[first] & ~seen.blank[end]
        pairs = np.flatnonzero(good)
        if not len(pairs):
            continue
        # A light that goes up and down, or a slow move, mixes a picture with one of the same place.
        ones, others = first[pairs], end[pairs]
        colours = seen.other_colours(ones, others)
        plain = (far[pairs] < _NEAR) & (uneven[pairs] < _NEAR) & (colours > 1 - _MOST_SHARED)
        other = (_alike(rows[ones], rows[others]) < _SAME) & ((colours > 1 - _SHARED_COLOURS) | plain)
        pairs, ones, others = pairs[other], ones[other], others[other]
        other = seen.unlike(ones, others) > 1 - _FITS
        # Part of a dissolve is one too, between nearer ends; more than it is none.
        worth = -apart * (1 - far / _FAR) * (1 - uneven / _UNEVEN)
        found += [(float(worth[i]), int(i), int(i + length)) for i in pairs[other]]
    out: list[tuple[int, int]] = []
    for _, first_, end_ in sorted(found):
        if all(end_ <= a or first_ >= b for a, b in out):
            out.append((first_, end_))
    inside = []
    for first_, end_ in sorted(out):
        start, stop = _ends(rows, first_, end_)
        # A mixture ends where something else begins at once.
        start = max([start, *(c for c in cuts if c <= first_)])
        inside.append((start, min([stop, *(c for c in cuts if c >= end_)])))
    return inside


def _alike(ones: NDArray[np.float32], others: NDArray[np.float32]) -> Floats:
    """Correlation of pairs of rows."""
    a, b = (x - x.mean(axis=1, keepdims=True) for x in (ones, others))
    return np.asarray(
        (a * b).sum(axis=1) / np.sqrt(np.maximum((a * a).sum(axis=1) * (b * b).sum(axis=1), 1e-9))
    )


def _ends(rows: NDArray[np.float32], first: int, end: int) -> tuple[int, int]:
    """Where a mixture begins and ends to the frame, by the rise that fits its shares best."""
    # The pictures a little farther out are not mixed any more.
    before, after = max(0, first - _OUT), min(len(rows) - 1, end + _OUT)
    way = rows[after] - rows[before]
    at = np.arange(before, after + 1)
    share = ((rows[at] - rows[before]) @ way) / max(float(way @ way), 1e-9)
    start, stop = _ramp(share)
    return before + start, before + stop


def _ramp(share: Floats) -> tuple[int, int]:
    """Where shares leave 0 and reach 1, by the straight rise between that fits all of them best."""
    count = len(share)
    at = np.arange(count)
    starts, stops = np.triu_indices(count, 3)
    # In the first frame of a dissolve of n frames the later picture has half of one n-th.
    length = (stops - starts).astype(float)
    best, least = (0, count), np.inf
    for some in np.array_split(np.arange(len(starts)), max(1, len(starts) // 2000)):
        rise = (at + 0.5 - starts[some, None]) / length[some, None]
        wrong = ((np.clip(rise, 0.0, 1.0) - share) ** 2).sum(axis=1)
        k = int(np.argmin(wrong))
        if wrong[k] < least:
            least, best = float(wrong[k]), (int(starts[some[k]]), int(stops[some[k]]))
    return best


def find_shots(pictures: Iterable[Pictures]) -> Iterator[Found]:
    """The shots of a film, in order and without gaps; those at a dissolve meet in its middle.

    Args:
        pictures: Every frame in order, RGB of 8 bits, shape ``(*SIZE, 3)``.
    """
    cuts: set[int] = set()
    mixed: list[tuple[int, int]] = []
    held: list[Pictures] = []
    base = count = 0

    def look() -> None:
        seen = Looks(np.stack(held))
        here = _hard_cuts(seen)
        cuts.update(base + c for c in here)
        for first, end in _mixtures(seen, here):
            if not any(a < base + end and base + first < b for a, b in mixed):
                mixed.append((base + first, base + end))

    for picture in pictures:
        held.append(picture)
        count += 1
        if len(held) == _GO:
            look()
            held, base = held[-_SHARED:], base + _GO - _SHARED
    if held and (base == 0 or len(held) > _SHARED):
        look()
    if not count:
        return
    borders: dict[int, tuple[int, int] | None] = {
        c: None for c in cuts if not any(a < c < b for a, b in mixed)
    }
    borders |= {(a + b) // 2: (a, b) for a, b in mixed}
    starts = [0, *sorted(b for b in borders if 0 < b < count)]
    for first, end in zip(starts, [*starts[1:], count], strict=True):
        dissolve = borders.get(first)
        yield Found(first, end, "dissolve" if dissolve else "cut", dissolve)
