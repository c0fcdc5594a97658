"""Passes of takes whose playback had another speed and its own pitch: the waveform is gone, envelopes are left."""

from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.sync.features import ENVELOPE_RATE, FLUX_RATE, Singles, SoundFeatures, envelopes_of
from zembi.core.sync.passes import longest_run
from zembi.core.sync.refine import Line, Windows, measure, stack
from zembi.core.sync.sliding import fft_size
from zembi.core.sync.speed import Guess

Floats = NDArray[np.float64]

#: Song seconds below which a pass is not believed.
SHORTEST_S = 6.0
#: Evidence of all windows together on which a line is kept though none is clear by itself, and the spread taken then.
_LEAST_STACKED, _UNMEASURED_S = 6.0, 0.01
_BLOCK_S = 0.25
#: Shares of its rate tried around a guess, and rates around a measured line.
_ROUGH = np.arange(-0.012, 0.0121, 0.0004)
_CLOSE = np.arange(-0.0008, 0.00081, 0.00005)


@dataclass(frozen=True)
class Envelopes:
    """Rise of energy of a song or take at ``ENVELOPE_RATE`` of song time; a take's is read at ``rate``."""

    values: Singles
    rate: float

    @property
    def seconds(self) -> float:
        """Length on the sound's own clock."""
        return len(self.values) / ENVELOPE_RATE / self.rate


@dataclass(frozen=True)
class StretchedPass:
    """A pass found by envelopes.

    Attributes:
        start_s, end_s: Take range.
        line: Song time over take time.
        spread_s: Median absolute residual of the windows.
        residuals: (take time, residual) of each window.
        likeness: Cosine of the pass's envelopes and the song's at its place.
        harmony: How far the tones of take and song agree at the place, -1..1.
        rivals: (song shift in seconds, share of the place's likeness, harmony there) of other places.
    """

    start_s: float
    end_s: float
    line: Line
    spread_s: float
    residuals: list[tuple[float, float]]
    likeness: float
    harmony: float
    rivals: list[tuple[float, float, float]]


def envelopes(sound: SoundFeatures, rate: float = 1.0) -> Envelopes:
    """Envelopes read so that frame k of a take lies at take time ``k / ENVELOPE_RATE / rate``."""
    return Envelopes(sound.envelopes if rate == 1.0 else envelopes_of(sound.raw, rate), rate)


def _windows(
    song: Envelopes, take: Envelopes, line: Line, span: tuple[float, float], reach_s: float
) -> Windows:
    """Correlate windows of four seconds of song around a line; their centres are take times."""
    # What chance gives is seen over a wide reach; a peak fills a narrow one.
    size, wide, keep = 4 * ENVELOPE_RATE, int(max(reach_s, 0.3) * ENVELOPE_RATE), int(reach_s * ENVELOPE_RATE)
    transform = fft_size(size + 2 * wide)
    ends = (span[0] * take.rate * ENVELOPE_RATE, span[1] * take.rate * ENVELOPE_RATE)
    count = max(1, int((ends[1] - ends[0] - size) / (size / 2)) + 1)
    padded = np.pad(song.values, ((size + wide, size + 2 * wide), (0, 0)))
    centres, rows, rounding = [], [], []
    for first in np.linspace(ends[0], max(ends[0], ends[1] - size), count).astype(int):
        piece = take.values[max(0, first) : first + size]
        if len(piece) < size // 2:
            continue
        centre_s = (max(0, first) + len(piece) / 2) / ENVELOPE_RATE / take.rate
        exact = line.song(centre_s) * ENVELOPE_RATE - len(piece) / 2
        begin = round(exact) + size
        if begin < size // 2 or begin - size + size // 2 > len(song.values):
            continue
        stretch = padded[begin : begin + len(piece) + 2 * wide]
        spectrum = (
            scipy.fft.rfft(stretch, transform, axis=0) * np.conj(scipy.fft.rfft(piece, transform, axis=0))
        ).sum(axis=1)
        row = scipy.fft.irfft(spectrum, transform)[: 2 * wide + 1]
        row -= np.median(row)
        centres.append(centre_s)
        row /= 1.4826 * np.median(np.abs(row)) + 1e-6
        rows.append(row[wide - keep : wide + keep + 1])
        rounding.append(exact - round(exact))
    shape = np.array(rows).reshape(len(rows), 2 * keep + 1)
    return Windows(np.array(centres), shape, keep, np.array(rounding), ENVELOPE_RATE)


def _on_song(song: Singles, line: Line, take_times: Floats, per_s: int) -> Singles:
    """The song's frames under take times; zero outside the song."""
    index = np.round((line.offset_s + line.rate * take_times) * per_s).astype(int)
    inside = (index >= 0) & (index < len(song))
    out = np.zeros((len(take_times), song.shape[1]), np.float32)
    out[inside] = song[index[inside]]
    return out


def _extent(song: Envelopes, take: Envelopes, line: Line, core: tuple[float, float]) -> tuple[float, float]:
    """The stretch of take that agrees with the song along a line."""
    size = int(_BLOCK_S * ENVELOPE_RATE)
    count = len(take.values) // size
    times = np.arange(count * size) / ENVELOPE_RATE / take.rate
    product = (take.values[: count * size] * _on_song(song.values, line, times, ENVELOPE_RATE)).mean(axis=1)
    agreement = np.convolve(product.reshape(count, size).mean(axis=1), np.ones(5) / 5, mode="same")
    a, b = (int(t * take.rate / _BLOCK_S) for t in core)
    usual = max(float(agreement[a : max(b, a + 1)].mean()), 1e-3)
    low = max(0, int(np.floor(line.take(0.0) * take.rate / _BLOCK_S)))
    high = min(count, int(np.ceil(line.take(len(song.values) / ENVELOPE_RATE) * take.rate / _BLOCK_S)))
    start, end = longest_run(agreement - 0.3 * usual, low, max(low, high))
    first, last = start * _BLOCK_S / take.rate, end * _BLOCK_S / take.rate
    if 0 < line.song(first) < 1.0:
        first = max(0.0, line.take(0.0))
    if 0 < song.seconds - line.song(last) < 1.0:
        last = min(take.seconds, line.take(song.seconds))
    return first, last


def _over_song(song: Singles, piece: Singles) -> Floats:
    """Cosine of a piece with the song at every place at which it lies wholly inside; shape (places,)."""
    size = fft_size(len(song) + len(piece))
    spectrum = (scipy.fft.rfft(song, size, axis=0) * np.conj(scipy.fft.rfft(piece, size, axis=0))).sum(axis=1)
    places = max(1, len(song) - len(piece) + 1)
    row = scipy.fft.irfft(spectrum, size)[:places]
    power = np.concatenate([[0.0], np.cumsum((song.astype(float) ** 2).sum(axis=1))])
    ends = np.minimum(np.arange(places) + len(piece), len(song))
    norm = np.sqrt(np.maximum(power[ends] - power[np.arange(places)], 1e-9) * float((piece**2).sum() + 1e-9))
    return np.asarray(row / norm)


def _rivals(row: Floats, here: int) -> list[tuple[float, float]]:
    """Other peaks of the row: shift in seconds, and share of the peak here."""
    best = max(float(row[here]), 1e-6)
    left, own, apart = row.copy(), int(0.3 * ENVELOPE_RATE), int(0.1 * ENVELOPE_RATE)
    left[max(0, here - own) : here + own] = -1
    found = []
    for _ in range(10):
        i = int(np.argmax(left))
        if left[i] < 0.6 * best:
            break
        found.append(((i - here) / ENVELOPE_RATE, float(row[i]) / best))
        left[max(0, i - apart) : i + apart] = -1
    return found


def _harmony(song: SoundFeatures, take: SoundFeatures, line: Line, start_s: float, end_s: float) -> float:
    """Agreement of the tones of take and song along a line, each band's own mean removed, over half seconds."""
    times = np.arange(start_s, end_s, 1 / FLUX_RATE / line.rate)
    if len(times) < 4 * FLUX_RATE:
        return 0.0
    index = np.minimum((times * FLUX_RATE).astype(int), len(take.tones) - 1)
    heard, played = take.tones[index], _on_song(song.tones, line, times, FLUX_RATE)

    def shape(values: Singles) -> Singles:
        whole = len(values) // 50 * 50
        level = np.log(values[:whole].reshape(-1, 50, values.shape[1]).mean(axis=1) + 1e-5)
        level -= level.mean(axis=1, keepdims=True)
        return np.asarray(level - level.mean(axis=0), dtype=np.float32)

    a, b = shape(heard), shape(played)
    return float((a * b).sum() / np.sqrt((a**2).sum() * (b**2).sum() + 1e-12))


def _measured(
    base: Envelopes, take: SoundFeatures, line: Line, extent: tuple[float, float], times: int = 3
) -> tuple[Line, tuple[float, float], list[tuple[float, float]]] | None:
    """A line followed to both ends of what agrees with it, and the residuals along it."""
    for reach_s in (0.04, 0.03, 0.03)[:times]:
        heard = envelopes(take, line.rate)
        extent = _extent(base, heard, line, extent)
        if extent[1] - extent[0] < SHORTEST_S / line.rate:
            return None
        fine = stack(_windows(base, heard, line, extent, 0.06), line, _CLOSE)
        line = fine.line
        windows = _windows(base, heard, line, extent, reach_s)
        line, residual, _ = measure(windows, line)
    good = ~np.isnan(residual)
    if good.sum() < 3 and fine.z < _LEAST_STACKED:
        return None
    extent = _extent(base, envelopes(take, line.rate), line, extent)
    pairs = zip(windows.centres_s[good], residual[good], strict=True)
    return line, extent, [(float(t), float(r)) for t, r in pairs]


def follow_guess(
    song: SoundFeatures, take: SoundFeatures, guess: Guess, *, times: int = 3
) -> tuple[Line, tuple[float, float], list[tuple[float, float]]] | None:
    """Turn a guess, good to half a percent, into a measured line by envelopes alone.

    Args:
        song, take: Prepared sound.
        guess: The guess.
        times: How often line and extent are measured in turn; once will do where the waveform follows.

    Returns:
        The line, the take range that agrees with it and the residuals along it; None where nothing does.
    """
    base = envelopes(song)
    middle = (guess.start_s + guess.end_s) / 2
    span = (max(guess.start_s, middle - 25, 0.0), min(guess.end_s, middle + 25, take.seconds))
    heard = envelopes(take, guess.line.rate)
    line = stack(_windows(base, heard, guess.line, span, 0.3), guess.line, guess.line.rate * _ROUGH).line
    return _measured(base, take, line, span, times)


def find_stretched(song: SoundFeatures, take: SoundFeatures, guess: Guess) -> StretchedPass | None:
    """Measure a pass whose pitch was kept, from a guess of its speed and place.

    Where the song repeats, the place at which the tones agree best is taken.

    Returns:
        None where the envelopes do not bear the guess out.
    """
    base = envelopes(song)
    found = follow_guess(song, take, guess)
    if found is None:
        return None
    for _ in range(3):
        line, extent, residuals = found
        heard = envelopes(take, line.rate)
        begin = max(extent[0], line.take(0.0))
        first, last = (int(t * line.rate * ENVELOPE_RATE) for t in (begin, extent[1]))
        row = _over_song(base.values, heard.values[first:last])
        here = int(np.clip(round(line.song(begin) * ENVELOPE_RATE), 0, len(row) - 1))
        near = max(0, here - 12)
        here = near + int(np.argmax(row[near : here + 13]))
        harmony = _harmony(song, take, line, *extent)
        rivals = [
            (shift, share, _harmony(song, take, Line(line.offset_s + shift, line.rate), *extent))
            for shift, share in _rivals(row, here)
        ]
        better = max(rivals, key=lambda r: r[2], default=(0.0, 0.0, -1.0))
        if better[2] < harmony + 0.02:
            break
        there = _measured(base, take, Line(line.offset_s + better[0], line.rate), extent)
        if there is None:
            break
        found = there
    spread = float(np.median([abs(r) for _t, r in residuals])) if residuals else _UNMEASURED_S
    return StretchedPass(extent[0], extent[1], line, spread, residuals, float(row[here]), harmony, rivals)
