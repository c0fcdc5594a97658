"""Rivals: other places of the song that would explain a stretch of take just as well."""

from dataclasses import dataclass

import numpy as np
import scipy

from zembi.core.sync.features import RATE, Singles, SoundFeatures
from zembi.core.sync.passes import song_under, take_over
from zembi.core.sync.refine import Line
from zembi.core.sync.sliding import fft_size

#: Places of the song more alike than this are the same sound: no take can tell them apart.
SAME_SOUND = 0.97
#: A place that explains less than this share of what the best explains, to the nearest sample, is no rival.
_LEAST_SHARE = 0.55
_MOST = 24
_MARGIN = 8


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


def other_places(
    song: SoundFeatures, take: SoundFeatures, line: Line, start_s: float, end_s: float
) -> list[tuple[float, float]]:
    """Other places of the song that a stretch of take fits, by whitened correlation with the whole song.

    Args:
        song: The song.
        take: The take.
        line: The line on which the stretch was measured; its rate is followed.
        start_s, end_s: The stretch, in take seconds.

    Returns:
        (shift in song seconds, share of the correlation on the line itself) of each, best first.
    """
    first = round(line.song(start_s) * RATE)
    piece = take_over(take, line, first, int((end_s - start_s) * line.rate * RATE))
    if len(piece) < RATE // 2:
        return []
    row = _over_song(song, piece)
    own = len(piece) - 1 + first
    row /= max(float(row[max(0, own - 2) : own + 3].max(initial=0.0)), 1e-9)
    row[max(0, own - RATE // 4) : own + RATE // 4] = 0
    found = []
    for _ in range(_MOST):
        i = int(np.argmax(row))
        if row[i] < _LEAST_SHARE:
            break
        found.append(((i - own) / RATE, float(row[i])))
        row[max(0, i - RATE // 10) : i + RATE // 10] = 0
    return found


def _over_song(song: SoundFeatures, piece: Singles) -> Singles:
    """Correlation of a piece with the song at every place; place k is ``k - len(piece) + 1`` samples into the song."""
    if len(piece) <= song.white_slide.longest:
        return np.array(song.white_slide.over(piece[None], len(piece) - 1)[0])
    size = fft_size(len(song.white) + len(piece))
    row = scipy.fft.irfft(scipy.fft.rfft(song.white, size) * np.conj(scipy.fft.rfft(piece, size)), size)
    row = np.concatenate([row[size - len(piece) + 1 :], row[: len(song.white)]])
    return np.asarray(row, np.float32)


def compare(
    song: SoundFeatures, take: SoundFeatures, line: Line, other: Line, start_s: float, end_s: float
) -> Rival:
    """Let the take decide between two places for the same stretch.

    The take's correlation with the *difference* of the two song stretches favours the true one; where the
    song repeats itself exactly there is no difference, and nothing is decided.
    """
    first = int(start_s * RATE)
    count = min(int((end_s - start_s) * RATE), len(take.white) - first)
    heard = take.white[first : first + count]
    here = song_under(song, line, first, count)
    near = song_under(song, other, first - _MARGIN, count + 2 * _MARGIN)
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
    return np.asarray(
        scipy.fft.irfft(scipy.fft.rfft(wide, size) * turn, size)[_MARGIN : _MARGIN + count], np.float32
    )
