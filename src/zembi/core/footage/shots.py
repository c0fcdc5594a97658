"""Shot detection in finished footage: hard cuts to the frame, dissolves as a range.

A cut changes what is seen for good and at once. Of what else changes fast, a pan and a shake only move the picture
(so frames are compared where they fit best), a flash or a strobe gives the picture back (so frames before are compared
with those a little later too), and grain changes every frame alike (so a change is measured against its neighbours').
In a dissolve the frames between are mixtures of both ends, by a share that grows evenly.
"""

import itertools
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.footage.likeness import Likeness, Pictures

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
#: Lengths of dissolves that are tried, in frames, and moments of them that are looked at, before and after too.
_LENGTHS = (6, 8, 11, 15, 20, 27, 36, 48, 64, 80)
_PARTS = (-0.3, -0.15, 0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.15, 1.3)
#: Frames beyond a mixture that show what it goes from and to, that show one picture alone, and among which its ends
#: are looked for, at least.
_OUT, _FLAT, _REACH = 4, 10, 20
#: How far its frames may be from mixtures of the ends (share of the picture), and their shares from none, an even rise
#: and all: where it is looked for, and where its ends are found.
_FAR, _UNEVEN, _WRONG = 0.6, 0.15, 0.15
#: What is no mixture tells against a range only where all else is alike; a range is the same where so much is shared.
_REST, _ABOUT_SAME = 0.001, 0.6
#: Nor is it a dissolve where its ends are so like each other (correlation), share so much of their colours, or fit each
#: other so well when moved: pans and zooms mix a place with itself.
_SAME, _SHARED_COLOURS, _FITS = 0.5, 0.6, 0.75
#: Mixtures as near and even as this may share more colours.
_NEAR, _MOST_SHARED = 0.1, 0.8
#: Steps of a move of the camera, how far it goes at least (shares of the picture), and how well each step fits.
_STEPS, _WAY, _FITS_STEP = 8, 0.2, 0.88
#: Least difference of its ends, of 255.
_APART = 12

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]


@dataclass(frozen=True)
class Found:
    """A shot: frames ``first`` to ``end`` (exclusive). ``dissolve`` is the range of frames that mix it with the one before."""

    first: int
    end: int
    begins: Literal["cut", "dissolve"] = "cut"
    dissolve: tuple[int, int] | None = None


def _change(seen: Likeness, one: NDArray[np.int64], other: NDArray[np.int64]) -> Floats:
    """Visual change between pairs of pictures: 0 to 1.4."""
    unlike, colours = seen.unlike(one, other), seen.other_colours(one, other)
    # Structure tells most; where it is alike, colours are those of a light, not of another picture. Pictures that fit by
    # chance do not fit well, and differ in all their colours.
    return np.asarray(unlike * (0.62 + 0.38 * np.minimum(1.0, 2 * colours) + np.maximum(0.0, colours - 0.6)))


def _hard_cuts(seen: Likeness) -> list[int]:
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
    usual = scipy.ndimage.median_filter(change, _ABOUT, mode="nearest")
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


def _between(seen: Likeness, before: int, after: int) -> int:
    """First frame of the new shot, where those between are blank: what little they hold tells whose they are."""
    run = np.arange(before + 1, after)
    if not len(run):
        return after
    ones, others = (seen.unlike(np.full(len(run), end), run) for end in (before, after))
    wrong = np.concatenate([[0.0], np.cumsum(ones)]) + np.concatenate([np.cumsum(others[::-1])[::-1], [0.0]])
    return int(before + 1 + np.argmin(wrong))


def _mixtures(seen: Likeness, cuts: list[int]) -> list[tuple[int, int]]:
    """Ranges of frames that go evenly from one picture to another."""
    rows = seen.coarse
    count = len(rows)
    steady = _steady(rows, cuts)
    edges = np.array([0, *cuts, count])
    part_of = np.searchsorted(edges, np.arange(count), side="right") - 1
    # The first and the last picture of what is not cut about each.
    begins, stops = edges[part_of], edges[part_of + 1] - 1
    found: list[tuple[float, int, int]] = []
    for length in _LENGTHS:
        if count <= length + 2:
            break
        first = np.arange(0, count - length - 1)
        first = first[
            (part_of[first + length] == part_of[first]) & ~seen.blank[first] & ~seen.blank[first + length]
        ]
        end = first + length
        apart = np.sqrt(((rows[end] - rows[first]) ** 2).mean(axis=1))
        before, after = np.maximum(first - _OUT, begins[first]), np.minimum(end + _OUT, stops[end])
        far, uneven = np.zeros(len(first)), np.zeros(len(first))
        for part in _PARTS:
            middle = np.clip(first + round(part * length), begins[first], stops[end])
            share, rest = _shares(steady, before, after, middle)
            far += rest / len(_PARTS)
            uneven += np.minimum((share - np.clip((middle - first) / length, 0, 1)) ** 2, 0.25) / len(_PARTS)
        uneven = np.sqrt(uneven)
        some = np.flatnonzero((apart > _APART) & (far < _FAR) & (uneven < _UNEVEN))
        plain = (far[some] < _NEAR) & (uneven[some] < _NEAR)
        some = some[_other_place(seen, first[some], end[some], begins[first[some]], stops[end[some]], plain)]
        # Part of a dissolve is one too, between nearer ends; more than it is none.
        worth = -apart * (1 - far / _FAR) * (1 - uneven / _UNEVEN)
        found += [(float(worth[i]), int(first[i]), int(end[i])) for i in some]
    tried: list[tuple[int, int]] = []
    mixed = []
    for _, one, other in sorted(found):
        if any(2 * (min(b, other) - max(a, one)) >= min(b - a, other - one) for a, b in tried):
            continue
        tried.append((one, other))
        # A mixture ends where something else begins at once.
        start, stop = int(begins[one]), int(stops[other])
        first_, end_, wrong = _ends(steady, one, other, start, stop + 1)
        ends = (np.array([max(start, first_ - 2)]), np.array([min(stop, end_ + 2)]))
        if wrong > _WRONG or _moves_there(seen, max(start, first_ - 1), min(stop, end_)):
            continue
        if _other_place(seen, *ends, begins[ends[0]], stops[ends[1]], np.array([True]))[0]:
            mixed.append((wrong, first_, end_))
    out: list[tuple[int, int]] = []
    for _, first_, end_ in sorted(mixed):
        if all(end_ <= a or first_ >= b for a, b in out):
            out.append((first_, end_))
    return sorted(out)


def _other_place(seen: Likeness, first: Ints, end: Ints, begins: Ints, stops: Ints, plain: Bools) -> Bools:
    """True if pictures show different places: a light that goes up and down, or a slow move, mixes one with itself.

    Args:
        seen: The pictures.
        first, end: Pairs of them.
        begins, stops: The first and the last picture that is not cut off from each pair.
        plain: Pairs between which there is nothing but their mixtures.
    """
    good = np.ones(len(first), dtype=bool)
    # A flash is over soon.
    for out in (0, 2, _FLASH):
        ones, others = np.maximum(first - out, begins), np.minimum(end + out, stops)
        colours = seen.other_colours(ones, others)
        good &= _alike(seen.coarse[ones], seen.coarse[others]) < _SAME
        good &= (colours > 1 - _SHARED_COLOURS) | (plain & (colours > 1 - _MOST_SHARED))
        good[good] = seen.unlike(ones[good], others[good]) > 1 - _FITS
    return good


def _moves_there(seen: Likeness, first: int, end: int) -> bool:
    """True if one picture becomes the other by a move of the camera: each step of it is the last one moved."""
    step = max(1, (end - first) // _STEPS)
    at = np.arange(first, end - step + 1, step)
    unlike, way = seen.moved(at, at + step)
    return bool(np.abs(way.sum(axis=0)).max() > _WAY and unlike.max() < 1 - _FITS_STEP)


@dataclass(frozen=True)
class _Steady:
    """Pictures without their light, so that a strobe, a flash and a pumping light change little of them.

    Attributes:
        rows: Of mean 0 and of spread 1, in the middle of what is seen about them; shape (pictures, values).
        spread: Of each picture, the most of those about it.
    """

    rows: NDArray[np.float32]
    spread: Floats


def _steady(rows: NDArray[np.float32], cuts: list[int]) -> _Steady:
    inner = rows - rows.mean(axis=1, keepdims=True)
    spread = np.maximum(inner.std(axis=1), 0.5)
    inner /= spread[:, None]
    out, wide = np.empty_like(inner), np.empty(len(rows))
    for a, b in itertools.pairwise([0, *cuts, len(rows)]):
        out[a:b] = scipy.ndimage.median_filter(inner[a:b], (_FLASH + 1, 1), mode="nearest")
        wide[a:b] = scipy.ndimage.maximum_filter1d(spread[a:b], _FLASH + 1, mode="nearest")
    return _Steady(out, wide)


def _shares(steady: _Steady, ones: Ints, others: Ints, mixed: Ints) -> tuple[Floats, Floats]:
    """By which share the other picture is in a mixture, and the share of it that neither explains."""
    rows, values = steady.rows, steady.rows.shape[1]

    def dot(a: Ints, b: Ints) -> Floats:
        return np.asarray(np.einsum("ij,ij->i", rows[a], rows[b]) / values, np.float64)

    aa, bb, ab = dot(ones, ones), dot(others, others), dot(ones, others)
    am, bm = dot(ones, mixed), dot(others, mixed)
    space = np.maximum(aa * bb - ab * ab, 0.01)
    a, b = (bb * am - ab * bm) / space, (aa * bm - ab * am) / space
    rest = np.maximum(0.0, dot(mixed, mixed) - a * am - b * bm)
    # What has more contrast tells more in a mixture.
    a, b = a / steady.spread[ones], b / steady.spread[others]
    return np.asarray(b / np.where(a + b > 1e-4, a + b, 1e-4)), rest


def _alike(ones: NDArray[np.float32], others: NDArray[np.float32]) -> Floats:
    """Correlation of pairs of rows."""
    a, b = (x - x.mean(axis=1, keepdims=True) for x in (ones, others))
    return np.asarray(
        (a * b).sum(axis=1) / np.sqrt(np.maximum((a * a).sum(axis=1) * (b * b).sum(axis=1), 1e-9))
    )


def _ends(steady: _Steady, first: int, end: int, start: int, stop: int) -> tuple[int, int, float]:
    """First and last frame of a dissolve, and the distance of its shares from none, an even rise, and all.

    Args:
        steady: The pictures.
        first, end: About where it is.
        start, stop: What is not cut about it.
    """
    reach = max(_REACH, end - first)
    low, high = max(start, first - reach), min(stop, end + reach)
    rows = steady.rows[low:high]
    spread = steady.spread[low:high]
    gram = np.asarray(rows @ rows.T, np.float64) / rows.shape[1]
    count = high - low
    best, least = (first, end), np.inf
    ones, others = np.triu_indices(count + 1, 5)
    # About the same: most of the shorter is shared.
    shared = np.minimum(others, end - low) - np.maximum(ones, first - low)
    same = shared > _ABOUT_SAME * np.minimum(others - ones, end - first)
    near = slice(max(0, first - low - _FLAT), min(count, end - low + _FLAT))
    at = np.arange(near.start, near.stop)
    for one, other in zip(ones[same], others[same], strict=True):
        # The pictures a little farther out are not mixed any more.
        a, b = max(0, one - _OUT), min(count - 1, other + _OUT - 1)
        am, bm, aa, bb, ab = gram[a, near], gram[b, near], gram[a, a], gram[b, b], gram[a, b]
        space = max(aa * bb - ab * ab, 0.01)
        of_one, of_other = (bb * am - ab * bm) / space, (aa * bm - ab * am) / space
        rest = float(np.clip(gram[at, at] - of_one * am - of_other * bm, 0, 1).mean())
        of_one, of_other = of_one / spread[a], of_other / spread[b]
        share = of_other / np.where(of_one + of_other > 1e-4, of_one + of_other, 1e-4)
        # In the first frame of a dissolve of n frames the later picture has half of one n-th.
        rise = np.clip((at + 0.5 - one) / (other - one), 0.0, 1.0)
        wrong = float(np.minimum((share - rise) ** 2, 0.25).mean()) + _REST * rest
        if wrong < least:
            best, least = (int(one), int(other)), wrong
    return low + best[0], low + best[1], float(np.sqrt(least))


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
        seen = Likeness(np.stack(held))
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
