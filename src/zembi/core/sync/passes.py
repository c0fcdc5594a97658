"""Agreement of take and song along a line: where a pass begins and ends, and whether the song sounds all through it."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zembi.core.song.spectrum import mel_weights
from zembi.core.sync.features import (
    BLOCK_S,
    FINE,
    FLUX_RATE,
    HIGH_HZ,
    LOW_HZ,
    MEL_BANDS,
    RATE,
    Singles,
    SoundFeatures,
)
from zembi.core.sync.refine import Line

Floats = NDArray[np.float64]

#: How much weaker than usual the song may sound within a pass, at its quiet head and tail.
_QUIETER = 0.25
#: Where the song is this much quieter than usual or more, no less of it is asked for.
_DROWNED = 0.15
#: Seconds that should give less than this share of what the better ones give say nothing of another song.
_DROWNED_SECOND = 0.75
#: A pass that begins or ends this near to an end of the song holds that end.
_AT_AN_END_S = 0.5
#: Seconds, or parts of one where a pass is short, that are asked at least.
_FEWEST, _UNITS_S = 5, (1.0, 0.5)
#: Bands count by how much of the whitened spectrum they hold.
_WIDTHS = mel_weights(MEL_BANDS, LOW_HZ, 3_700, rate=RATE, window=512).sum(axis=0)


def song_under(song: SoundFeatures, line: Line, first: int, count: int) -> Singles:
    """The song's whitened samples that the line puts under take samples ``first`` to ``first + count``.

    Zero where the song has ended or not begun. To ``1 / FINE`` of a sample; the line's rate is followed.
    """
    out = np.zeros(count, np.float32)
    held = song.fine.shape[1]
    start = FINE * (line.offset_s * RATE + (line.rate - 1) * first) + FINE * first
    for begin, end, steps in _even_runs(start, FINE * (line.rate - 1), count):
        row, ahead = song.fine[steps % FINE], steps // FINE
        a, b = max(begin, -ahead), min(end, held - ahead)
        if b > a:
            out[a:b] = row[a + ahead : b + ahead]
    return out


def take_over(take: SoundFeatures, line: Line, song_first: int, count: int) -> Singles:
    """The take's whitened samples that the line puts over song samples ``song_first`` on, to the nearest sample."""
    out = np.zeros(count, np.float32)
    start = (song_first - line.offset_s * RATE) / line.rate
    for begin, end, ahead in _even_runs(start, 1 / line.rate - 1, count):
        a, b = max(begin, -ahead), min(end, len(take.white) - ahead)
        if b > a:
            out[a:b] = take.white[a + ahead : b + ahead]
    return out


def _even_runs(start: float, slope: float, count: int) -> Iterator[tuple[int, int, int]]:
    """Runs of k for which ``start + slope * k`` rounds to one number: (first k, one past the last, the number)."""
    low, high = round(start), round(start + slope * (count - 1))
    step = 1 if high >= low else -1
    # Half way to the next whole number the next run begins.
    halves = np.arange(low, high, step) + 0.5 * step
    edges = np.ceil((halves - start) / slope).astype(int) if len(halves) else np.zeros(0, int)
    begin = 0
    for edge, whole in zip(np.clip([*edges, count], 0, count), range(low, high + step, step), strict=True):
        if edge > begin:
            yield begin, int(edge), whole
            begin = int(edge)


def agreement(song: SoundFeatures, take: SoundFeatures, line: Line, start_s: float, end_s: float) -> float:
    """Sum of the products of take and song over a stretch: what the line explains of the take."""
    first = max(0, int(start_s * RATE))
    heard = take.white[first : max(first, int(end_s * RATE))]
    return float(np.dot(heard, song_under(song, line, first, len(heard)))) if len(heard) else 0.0


def block_agreement(song: SoundFeatures, take: SoundFeatures, line: Line) -> Floats:
    """Mean product of take and song in blocks of ``BLOCK_S`` over the whole take; shape (blocks,)."""
    size = int(BLOCK_S * RATE)
    count = len(take.white) // size
    product = take.white[: count * size] * song_under(song, line, 0, count * size)
    return np.asarray(product.reshape(count, size).mean(axis=1), dtype=float)


@dataclass(frozen=True)
class Sounding:
    """Presence of the song all through a stretch, in shares of what it should give there (1.0: all of it).

    Attributes:
        soft: In the softer half of its blocks, beside the louder half: 0.6 and more for the song, 0.2 and less where
            another shares only its drums.
        middle: In the block that divides the song's energy in halves, beside the mean: 0.8 and more for the song,
            0.5 and less where single strokes of something else fall on the song's.
    """

    soft: float
    middle: float


def sounding(song: SoundFeatures, take: SoundFeatures, line: Line, start_s: float, end_s: float) -> Sounding:
    """Compare how take and song agree with how loud the song is, block by block.

    Noise is not the song's, so it lowers the agreement everywhere alike and leaves these shares as they are; the
    song's own rhythm leaves them too.
    """
    size = int(BLOCK_S * RATE)
    first, count = int(start_s / BLOCK_S), max(int(end_s / BLOCK_S) - int(start_s / BLOCK_S), 1)
    under = song_under(song, line, first * size, count * size)
    heard = take.white[first * size : (first + count) * size]
    count = len(heard) // size
    if not count:
        return Sounding(0.0, 0.0)
    under = under[: count * size].reshape(count, size)
    agreed = (under * heard[: count * size].reshape(count, size)).mean(axis=1)
    power = (under**2).mean(axis=1)
    total = float(agreed.sum()) / max(float(power.sum()), 1e-9)
    if total <= 0:
        return Sounding(0.0, 0.0)
    # Soft and loud are told apart within two seconds, over which the camera's gain and the noise hardly change.
    soft = np.zeros(count, bool)
    for begin in range(0, count, 40):
        part = slice(begin, begin + 40)
        soft[part] = power[part] < np.median(power[part])
    slopes = [
        float(agreed[half].sum()) / max(float(power[half].sum()), 1e-9) if half.any() else total
        for half in (soft, ~soft)
    ]
    order = np.argsort(agreed / np.maximum(power, 1e-6))
    weights = np.cumsum(power[order])
    centre = order[min(int(np.searchsorted(weights, weights[-1] / 2)), count - 1)]
    middle = float(agreed[centre] / max(float(power[centre]), 1e-6))
    return Sounding(slopes[0] / max(slopes[1], 1e-9), middle / total)


def evenness(song: SoundFeatures, take: SoundFeatures, line: Line, start_s: float, end_s: float) -> float:
    """Presence of the song in every second of a stretch (0.5 to 1), or only where another song shares notes (0).

    What a second should give depends on how loud the song is in it, band by band, beside what was recorded: where it
    drowns, nothing is asked. The weakest tenth of the others over the mean, each as a share of what it should give,
    what chance takes from it given back. 1 for a stretch too short to tell.
    """
    agreed = block_agreement(song, take, line)[int(start_s / BLOCK_S) : int(end_s / BLOCK_S)]
    # A pass of a few seconds is looked at by halves and quarters of one, so that it is asked as often.
    unit_s = next((u for u in _UNITS_S if len(agreed) * BLOCK_S >= _FEWEST * u), None)
    if unit_s is None:
        return 1.0
    blocks = round(unit_s / BLOCK_S)
    count = len(agreed) // blocks
    seconds = agreed[: count * blocks].reshape(count, blocks).mean(axis=1)
    due = _due(song, take, line, start_s, count, unit_s)
    asked = due >= min(_DROWNED_SECOND * np.quantile(due, 0.75), np.sort(due)[-_FEWEST])
    mean = float(seconds[asked].sum() / due[asked].sum())
    chance = 1.3 / np.sqrt(2 * (HIGH_HZ - LOW_HZ) * unit_s)
    weak = float(np.quantile((seconds[asked] + chance) / due[asked], 0.1))
    return float(np.clip(weak / mean, 0, 1)) if mean > 0 else 0.0


def _due(
    song: SoundFeatures, take: SoundFeatures, line: Line, start_s: float, count: int, unit_s: float
) -> Floats:
    """Share of each unit's sound that can be the song's, up to a factor common to all; shape (count,)."""
    starts = start_s + unit_s * np.arange(count, dtype=float)
    heard = _mean_squares(take, starts, unit_s)
    played = _mean_squares(song, line.offset_s + line.rate * starts, unit_s)
    loss = heard / (played + 1e-9 * played.max(initial=1e-9))
    # How the camera colours the song: in every band, what is heard of it where it is drowned least.
    colour = np.quantile(loss, 0.05, axis=0) if count else loss
    share = np.clip(colour * played / np.maximum(heard, 1e-12), 0, 1)
    return np.asarray(share @ _WIDTHS / _WIDTHS.sum())


def _mean_squares(sound: SoundFeatures, starts_s: Floats, unit_s: float) -> Floats:
    """Energy of each unit from the starts on, band by band; zero outside the sound."""
    frames = round(unit_s * FLUX_RATE)
    total = np.concatenate([np.zeros((1, MEL_BANDS)), np.cumsum(sound.mel.astype(float) ** 2, axis=0)])
    first = np.clip(np.round(starts_s * FLUX_RATE).astype(int), 0, len(sound.mel))
    return np.asarray((total[np.minimum(first + frames, len(sound.mel))] - total[first]) / frames)


def longest_run(values: Floats, lowest: int, highest: int) -> tuple[int, int]:
    """The stretch of ``values[lowest:highest]`` with the greatest sum (Kadane), as a half-open range."""
    best, best_range, total, start = 0.0, (lowest, lowest), 0.0, lowest
    for i in range(lowest, highest):
        if total <= 0:
            total, start = 0.0, i
        total += float(values[i])
        if total > best:
            best, best_range = total, (start, i + 1)
    return best_range


def find_extent(
    song: SoundFeatures,
    take: SoundFeatures,
    line: Line,
    core: tuple[float, float],
    bounds: tuple[float, float],
) -> tuple[float, float]:
    """Begin and end of a pass in take seconds.

    The blocks agree by some positive amount inside the pass and by nothing outside. The stretch with the
    greatest sum of agreement above half that amount is the likeliest one.

    Args:
        song: The song.
        take: The take.
        line: The measured line.
        core: Take range that surely belongs to the pass, for the usual amount of agreement.
        bounds: Take range that the pass may not leave.
    """
    agreement = block_agreement(song, take, line)
    a, b = (int(t / BLOCK_S) for t in core)
    usual = float(np.mean(agreement[a : max(b, a + 1)])) if b > a else 0.0
    low = max(0, int(bounds[0] / BLOCK_S), int(np.floor(line.take(0.0) / BLOCK_S)))
    high = min(
        len(agreement), int(np.ceil(bounds[1] / BLOCK_S)), int(np.ceil(line.take(song.seconds) / BLOCK_S))
    )
    smooth = np.convolve(agreement, np.ones(5) / 5, mode="same")
    # Where the song is quiet, it drowns sooner: less of it has to be heard.
    at = np.round(line.song(0.5 * BLOCK_S) / BLOCK_S + line.rate * np.arange(len(agreement))).astype(int)
    level = song.level[np.clip(at, 0, len(song.level) - 1)] if len(song.level) else np.ones(len(agreement))
    inside = level[low : max(high, low + 1)]
    share = np.clip(level / max(float(np.quantile(inside, 0.6)) if len(inside) else 1.0, 1e-9), _DROWNED, 1)
    start, end = longest_run(smooth - _QUIETER * max(usual, 1e-3) * share, low, max(low, high))
    start, end = _over_silence(song, line, start, end, low, high)
    first, last = max(bounds[0], start * BLOCK_S), min(bounds[1], end * BLOCK_S, len(take.white) / RATE)
    if 0 < line.song(first) < _AT_AN_END_S:
        first = max(bounds[0], 0.0, line.take(0.0))
    if 0 < song.seconds - line.song(last) < _AT_AN_END_S:
        last = min(bounds[1], take.seconds, line.take(song.seconds))
    return first, last


def _over_silence(
    song: SoundFeatures, line: Line, start: int, end: int, low: int, high: int
) -> tuple[int, int]:
    """Stretch a pass over blocks in which the song itself is silent: nothing there speaks against it."""
    size = int(BLOCK_S * RATE)

    def silent(block: int) -> bool:
        return float(np.mean(song_under(song, line, block * size, size) ** 2)) < 0.05

    while start > low and silent(start - 1):
        start -= 1
    while end < high and silent(end):
        end += 1
    return start, end
