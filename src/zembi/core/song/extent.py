"""Extent of the music: talk, noise and applause around it have no beat to look for.

Notes stay on their pitch; a voice that speaks glides, and noise has none. What holds no pitch and sounds like nothing
else in the song may still be a drum: that it is not on the song's click is for whoever knows the click to say.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from zembi.core.song.spectrum import FRAME_RATE, RATE, Floats, Singles, Spectrum

_WINDOW, _HOP = 4096, 1024
#: Bins of the partials that are followed: about 80 to 3,000 Hz.
_BINS = slice(15, 560)
#: A partial stands out of its surroundings by so much (natural logarithm), and stays for so many hops (a quarter second).
_STANDS_OUT, _STAYS = 1.5, 6
#: A second of which less than this share is held pitch has none. Speech has 0.01, most music more than 0.05.
_NO_PITCH = 0.02
#: A second whose colour is farther than this from that of the song's middle, in its spreads, may be of something else.
_OTHER, _QUITE_OTHER = 0.5, 1.0
#: Farthest that what is not music reaches into the song, and its least length, in seconds.
_REACH_S, _LEAST_S = 30, 3
#: Share of its seconds that sound like no music.
_SHARE = 0.6
#: Beats that are listened for are this many seconds long.
_BEATS_S = (0.3, 1.5)
#: Seconds on either side of a border that are compared to place it.
_SIDE_S = 0.6


@dataclass(frozen=True)
class Extent:
    """From where to where there is music, in seconds."""

    start_s: float
    end_s: float


def held_pitch(audio: Singles) -> Floats:
    """Share of each second's energy that is in partials that stay on their pitch; shape (whole seconds,)."""
    seconds = len(audio) // RATE
    if len(audio) < _WINDOW + _STAYS * _HOP:
        return np.zeros(seconds)
    frames = np.lib.stride_tricks.sliding_window_view(audio, _WINDOW)[::_HOP]
    window = np.hanning(_WINDOW).astype(np.float32)
    held, energy = np.zeros(len(frames)), np.zeros(len(frames))
    kept: np.ndarray | None = None
    for first in range(0, len(frames), 256):
        block = slice(first, first + 256)
        size = np.abs(scipy.fft.rfft(frames[block] * window, axis=1))[:, _BINS]
        log = np.log(size + 1e-9)
        out = log[:, 1:-1] - scipy.ndimage.uniform_filter1d(log, 41, axis=1)[:, 1:-1] > _STANDS_OUT
        peaks = out & (log[:, 1:-1] > log[:, :-2]) & (log[:, 1:-1] > log[:, 2:])
        near = peaks.copy()
        near[:, 1:] |= peaks[:, :-1]
        near[:, :-1] |= peaks[:, 1:]
        # The hops before this block are those that a partial came from.
        before = near if kept is None else np.concatenate([kept, near])
        offset = len(before) - len(near)
        stays = peaks.copy()
        for k in range(1, _STAYS + 1):
            rows = np.arange(len(near)) + offset - k
            stays &= before[np.maximum(rows, 0)] & (rows >= 0)[:, None]
        held[block] = (size[:, 1:-1] ** 2 * stays).sum(axis=1)
        energy[block] = (size**2).sum(axis=1)
        kept = before[-_STAYS:]
    second = np.minimum(np.arange(len(frames)) * _HOP // RATE, max(0, seconds - 1))
    total = np.bincount(second, np.sqrt(energy), seconds)
    share = np.bincount(second, held / np.maximum(np.sqrt(energy), 1e-9), seconds)
    return np.asarray(share / np.maximum(total, 1e-9))[:seconds]


def _unlike(spectrum: Spectrum, seconds: int) -> Floats:
    """Spectral distance of each second to those of the middle of the song, in their own standard deviations."""
    size = int(FRAME_RATE)
    rows = spectrum.mel[: seconds * size].reshape(seconds, size, -1).mean(axis=1)
    rows = rows - rows.mean(axis=1, keepdims=True)
    middle = rows[seconds // 4 : max(seconds // 4 + 1, seconds - seconds // 4)]
    centre = np.median(middle, axis=0)
    far = np.linalg.norm(rows - centre, axis=1)
    usual = np.percentile(np.linalg.norm(middle - centre, axis=1), 90)
    return np.asarray(far / max(float(usual), 1e-9))


def border(spectrum: Spectrum, about_s: float, reach_s: float = 2.0) -> float:
    """The moment within ``reach_s`` of ``about_s`` at which the sound changes most."""
    side = int(_SIDE_S * FRAME_RATE)
    first = max(side, int((about_s - reach_s) * FRAME_RATE))
    places = np.arange(first, min(len(spectrum.mel) - side, int((about_s + reach_s) * FRAME_RATE)))
    if not len(places):
        return about_s
    sums = np.concatenate(
        [np.zeros((1, spectrum.mel.shape[1])), np.cumsum(spectrum.mel, axis=0, dtype=float)]
    )
    change = np.linalg.norm(sums[places + side] - 2 * sums[places] + sums[places - side], axis=1)
    return float(places[int(change.argmax())] / FRAME_RATE)


def _foreign(without: np.ndarray) -> int:
    """Seconds at the head that are not music, where single ones may look like it."""
    count, best = 0, 0
    for n, odd in enumerate(without[:_REACH_S], 1):
        count += odd
        if odd and count >= _SHARE * n:
            best = n
    return best if best >= _LEAST_S else 0


def music_extent(spectrum: Spectrum, audio: Singles) -> Extent:
    """Extent of what may be music; all of the song where nothing speaks against it.

    Args:
        spectrum: Of the song.
        audio: The same, mono at :data:`RATE`.
    """
    length = len(audio) / RATE
    seconds = int(min(length, spectrum.frames / FRAME_RATE))
    whole = Extent(0.0, length)
    if seconds < 4 * _LEAST_S:
        return whole
    without = held_pitch(audio[: seconds * RATE]) < _NO_PITCH
    # Where the song itself holds little pitch, only its colour tells.
    own = float(without[seconds // 4 : seconds - seconds // 4].mean())
    without &= _unlike(spectrum, seconds) > (_OTHER if own < 0.5 else _QUITE_OTHER)
    head, tail = _foreign(without), _foreign(without[::-1])
    if head + tail > seconds / 2:
        return whole
    start = border(spectrum, float(head)) if head else 0.0
    end = border(spectrum, float(seconds - tail)) if tail else length
    return Extent(start, end)


def regularity(envelopes: Sequence[Floats], middles: Floats, size_s: float) -> Floats:
    """Periodicity of a window: its best autocorrelation a beat later, -1..1; shape (windows,).

    Music has 0.3 and more nearly wherever it has a pulse, whatever its tempo does; speech and noise mostly less than 0.2.

    Args:
        envelopes: From :func:`zembi.core.song.click.standardised`; at least one.
        middles: Of the windows, in seconds.
        size_s: Length of the windows.
    """
    half = int(size_s * FRAME_RATE / 2)
    lags = np.arange(*(round(s * FRAME_RATE) for s in _BEATS_S))
    out = np.zeros(len(middles))
    for i, middle in enumerate(np.round(middles * FRAME_RATE).astype(int)):
        total = np.zeros(len(lags))
        for envelope in envelopes:
            piece = envelope[max(0, middle - half) : middle + half]
            piece = np.minimum(piece, np.percentile(piece, 98))
            piece = piece - piece.mean()
            power = np.abs(scipy.fft.rfft(piece, 2 * len(piece))) ** 2
            alike = (
                scipy.fft.irfft(power)[lags[lags < len(piece)]]
                * len(piece)
                / (len(piece) - lags[lags < len(piece)])
            )
            total[: len(alike)] += alike / max(float((piece**2).sum()), 1e-9)
        out[i] = total.max() / len(envelopes)
    return out
