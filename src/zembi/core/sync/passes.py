"""Where a pass begins and ends, and which other places would explain it just as well."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.fft import irfft, rfft

from zembi.core.sync.features import BLOCK_S, FINE, HIGH_HZ, LOW_HZ, RATE, Singles, Sound, fft_size
from zembi.core.sync.refine import Line

Floats = NDArray[np.float64]

#: Places of the song more alike than this are the same sound: no take can tell them apart.
SAME_SOUND = 0.94
#: How much weaker than usual the song may sound within a pass, at its quiet head and tail.
_QUIETER = 0.25
#: Where the song is this much quieter than usual or more, no less of it is asked for.
_DROWNED = 0.15
_MARGIN = 8
#: Seconds in which the song is below this share of its louder ones say nothing of another song.
_QUIET = 0.35
#: A rival whose evidence on whole samples is below this share of the best cannot reach it on fractions of one.
_HOPELESS = 0.35


@dataclass(frozen=True)
class Rival:
    """Another place for the same stretch of take.

    Attributes:
        line: The rival's line.
        score: Its evidence relative to the place compared with (1.0: as good).
        decided: How strongly the take itself tells the two apart, in standard deviations; positive favours the
            place compared with. Near 0 where the song repeats itself sample for sample.
        alike: Share 0..1 of the song's own waveform that the two places have in common.
    """

    line: Line
    score: float
    decided: float
    alike: float


def song_under(song: Sound, line: Line, first: int, count: int) -> NDArray[np.float32]:
    """The song's whitened samples that the line puts under take samples ``first`` to ``first + count``.

    Zero where the song has ended or not begun. To a quarter of a sample; the line's rate is followed.
    """
    out = np.zeros(count, np.float32)
    held = song.fine.shape[1]
    for begin, end, quarter in _even_runs(line, first, count):
        row, ahead = song.fine[quarter % FINE], quarter // FINE
        a, b = max(begin, -ahead), min(end, held - ahead)
        if b > a:
            out[a:b] = row[a + ahead : b + ahead]
    return out


def _even_runs(line: Line, first: int, count: int) -> Iterator[tuple[int, int, int]]:
    """Runs of take samples over which the song keeps its distance, to the nearest ``1 / FINE`` of a sample.

    Yields:
        (first sample, one past the last, how far the song is ahead in ``1 / FINE`` of a sample), samples counted
        from ``first``.
    """
    start = FINE * (line.offset_s * RATE + (line.rate - 1) * first) + FINE * first
    slope = FINE * (line.rate - 1)
    low, high = round(start), round(start + slope * (count - 1))
    step = 1 if high >= low else -1
    # Where the exact distance is half way to the next quarter, the next run begins.
    halves = np.arange(low, high, step) + 0.5 * step
    edges = np.ceil((halves - start) / slope).astype(int) if len(halves) else np.zeros(0, int)
    begin = 0
    for edge, quarter in zip(np.clip([*edges, count], 0, count), range(low, high + step, step), strict=True):
        if edge > begin:
            yield begin, int(edge), quarter
            begin = int(edge)


def block_agreement(song: Sound, take: Sound, line: Line) -> Floats:
    """Mean product of take and song in blocks of ``BLOCK_S`` over the whole take; shape (blocks,)."""
    size = int(BLOCK_S * RATE)
    count = len(take.white) // size
    product = take.white[: count * size] * song_under(song, line, 0, count * size)
    return np.asarray(product.reshape(count, size).mean(axis=1), dtype=float)


@dataclass(frozen=True)
class Sounding:
    """Whether the song sounds all through a stretch, in shares of what it should give there (1.0: all of it).

    Attributes:
        soft: In the softer half of its blocks, beside the louder half: 0.6 and more for the song, 0.2 and less where
            another shares only its drums.
        middle: In the block that divides the song's energy in halves, beside the mean: 0.8 and more for the song,
            0.5 and less where single strokes of something else fall on the song's.
    """

    soft: float
    middle: float


def sounding(song: Sound, take: Sound, line: Line, start_s: float, end_s: float) -> Sounding:
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


def evenness(song: Sound, take: Sound, line: Line, start_s: float, end_s: float) -> float:
    """Whether the song sounds in every second of a stretch (0.4 to 1), or only where another song shares notes (0).

    The weakest tenth of the seconds' agreement over the mean, what chance takes from it given back; seconds in which
    the song is quiet, and may drown in the room, are not asked. 1 for a stretch too short to tell.
    """
    agreement = block_agreement(song, take, line)[int(start_s / BLOCK_S) : int(end_s / BLOCK_S)]
    blocks = round(1 / BLOCK_S)
    count = len(agreement) // blocks
    seconds = agreement[: count * blocks].reshape(count, blocks).mean(axis=1)
    firsts = [max(0, int(line.song(start_s + k) * RATE)) for k in range(count)]
    level = np.array([float(np.std(song.raw[f : f + RATE])) if f < len(song.raw) else 0.0 for f in firsts])
    loud = seconds[level > _QUIET * np.quantile(level, 0.75)] if count else seconds
    if len(loud) < 5:
        return 1.0
    chance = 1.3 / np.sqrt(2 * (HIGH_HZ - LOW_HZ))
    mean = float(loud.mean())
    return float(np.clip((float(np.quantile(loud, 0.1)) + chance) / mean, 0, 1)) if mean > 0 else 0.0


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
    song: Sound, take: Sound, line: Line, core: tuple[float, float], bounds: tuple[float, float]
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
    if 0 < line.song(first) < 1.0:
        first = max(bounds[0], 0.0, line.take(0.0))
    if 0 < song.seconds - line.song(last) < 1.0:
        last = min(bounds[1], take.seconds, line.take(song.seconds))
    return first, last


def _over_silence(song: Sound, line: Line, start: int, end: int, low: int, high: int) -> tuple[int, int]:
    """Stretch a pass over blocks in which the song itself is silent: nothing there speaks against it."""
    size = int(BLOCK_S * RATE)

    def silent(block: int) -> bool:
        return float(np.mean(song_under(song, line, block * size, size) ** 2)) < 0.05

    while start > low and silent(start - 1):
        start -= 1
    while end < high and silent(end):
        end += 1
    return start, end


def self_repeats(
    song: Sound, start_s: float, end_s: float, *, least: float = 0.2
) -> list[tuple[float, float]]:
    """Other places where the song itself holds what it holds from ``start_s`` to ``end_s``.

    The clean song is searched, not the take, so noise and drift cannot hide a repeat.

    Returns:
        (shift in seconds, likeness 0..1) of each, best first.
    """
    first, last = max(0, int(start_s * RATE)), min(len(song.white), int(end_s * RATE))
    piece = song.white[first:last]
    if len(piece) < RATE // 2:
        return []
    size = fft_size(len(song.white) + len(piece))
    row = irfft(rfft(song.white, size) * np.conj(rfft(piece, size)), size)
    row = np.concatenate([row[-(len(piece) - 1) :], row[: len(song.white)]])
    own = len(piece) - 1 + first
    scale = float(row[own])
    row = row / max(scale, 1e-9)
    row[max(0, own - RATE // 4) : own + RATE // 4] = 0
    found = []
    for _ in range(24):
        i = int(np.argmax(row))
        if row[i] < least:
            break
        found.append(((i - own) / RATE, float(row[i])))
        row[max(0, i - RATE // 10) : i + RATE // 10] = 0
    return found


def compare(song: Sound, take: Sound, line: Line, other: Line, start_s: float, end_s: float) -> Rival:
    """Let the take decide between two places for the same stretch.

    The take's correlation with the *difference* of the two song stretches favours the true one; where the
    song repeats itself exactly there is no difference, and nothing is decided.
    """
    first = int(start_s * RATE)
    count = min(int((end_s - start_s) * RATE), len(take.white) - first)
    heard = take.white[first : first + count]
    here = song_under(song, line, first, count)
    near = song_under(song, other, first - _MARGIN, count + 2 * _MARGIN)
    rough = max(float(np.dot(heard, near[_MARGIN + k :][:count])) for k in range(-2, 3))
    share = rough / max(float(np.dot(heard, here)), 1e-9)
    if share < _HOPELESS:
        return Rival(other, share, np.inf, share)
    there = _fitted(here, near)
    difference = here - there
    energy = float(np.dot(here, here))
    alike = float(np.dot(here, there)) / max(np.sqrt(energy * float(np.dot(there, there))), 1e-9)
    here_sum, there_sum = float(np.dot(heard, here)), float(np.dot(heard, there))
    noise = float(np.linalg.norm(difference * heard))
    decided = (here_sum - there_sum) / noise if alike < SAME_SOUND else 0.0
    return Rival(other, there_sum / max(here_sum, 1e-9), float(decided), alike)


def _fitted(here: Singles, wide: Singles) -> Singles:
    """``wide`` (with a margin at both ends) moved by up to two samples, in fractions, to lie best on ``here``."""
    count = len(here)
    shifts = range(-3, 4)
    scores = [float(np.dot(here, wide[_MARGIN + k : _MARGIN + k + count])) for k in shifts]
    best = int(np.argmax(scores[1:-1])) + 1
    a, b, c = scores[best - 1 : best + 2]
    bend = a - 2 * b + c
    shift = shifts[best] + (0.5 * (a - c) / bend if bend < 0 else 0.0)
    size = fft_size(len(wide))
    turn = np.exp(2j * np.pi * np.fft.rfftfreq(size) * shift).astype(np.complex64)
    return np.asarray(irfft(rfft(wide, size) * turn, size)[_MARGIN : _MARGIN + count], np.float32)
