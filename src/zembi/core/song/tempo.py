"""Tempo estimation: a fine tempo curve, its rival readings, and the local tempo where it moves."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import scipy

from zembi.core.song.lines import line_evidence, line_spectrum
from zembi.core.song.spectrum import FRAME_RATE, Floats

SLOWEST, FASTEST = 45.0, 215.0
_PRIOR_BPM, _PRIOR_OCTAVES = 118.0, 0.62


@dataclass(frozen=True)
class TempoReading:
    """One way to count the song."""

    bpm: float
    score: float


def autocorrelation(envelope: Floats, max_lag: int) -> Floats:
    """Autocorrelation of an onset envelope for lags 0 to ``max_lag`` frames, 1.0 at lag 0."""
    centred = envelope - envelope.mean()
    size = 1 << int(np.ceil(np.log2(len(centred) + max_lag + 1)))
    spectrum = scipy.fft.rfft(centred, size)
    values = scipy.fft.irfft(np.abs(spectrum) ** 2, size)[: max_lag + 1]
    reach = len(centred) - np.arange(max_lag + 1)
    values = values / np.maximum(reach, 1) * len(centred)
    return np.asarray(values / max(values[0], 1e-12))


def prior(bpm: Floats) -> Floats:
    """Prior of a tempo being counted, log-normal around a walking pulse (after Moelants 2002)."""
    return np.asarray(np.exp(-0.5 * (np.log2(bpm / _PRIOR_BPM) / _PRIOR_OCTAVES) ** 2))


def comb_scores(acf: Floats, bpm: Floats) -> Floats:
    """Evidence for each tempo: autocorrelation at one to four beats, less what lies half-way between."""
    lags = np.arange(len(acf))
    period = 60 * FRAME_RATE / bpm
    score = np.zeros_like(bpm)
    for multiple, weight in ((1, 1.0), (2, 0.9), (3, 0.45), (4, 0.9)):
        score += weight * np.interp(multiple * period, lags, acf, right=0.0)
    score -= 0.5 * np.interp(1.5 * period, lags, acf, right=0.0)
    return score / 3.25


def backbeat(low: Floats, mid: Floats, bpm: Floats) -> Floats:
    """Fit of each tempo to a drum pattern: a snare one beat after each kick, and none two beats after; -1..1."""
    reach = int(6 * FRAME_RATE)
    size = 1 << int(np.ceil(np.log2(len(low) + reach + 1)))
    a, b = low - low.mean(), mid - mid.mean()
    # Middle-band energy of the kick itself would hide the pattern: take off what both bands share.
    b = b - a * float(np.dot(a, b)) / max(float(np.dot(a, a)), 1e-12)
    cross = scipy.fft.irfft(scipy.fft.rfft(b, size) * np.conj(scipy.fft.rfft(a, size)), size)[: reach + 1]
    cross = cross / max(float(np.sqrt(np.dot(a, a) * np.dot(b, b))), 1e-12)
    lags, period = np.arange(reach + 1), 60 * FRAME_RATE / bpm
    width = np.array([-1, 0, 1])

    def at(multiple: float) -> Floats:
        return np.asarray(
            np.max([np.interp(multiple * period + w, lags, cross, right=0.0) for w in width], axis=0)
        )

    return np.asarray(np.clip(2.5 * (at(1) + at(3) - at(2) - at(4) - 0.5 * at(0.5) - 0.5 * at(1.5)), -1, 1))


def family_evidence(bands: Sequence[Floats], bpm: Floats) -> Floats:
    """Evidence of the spectrum's lines for the family that each tempo belongs to, 0..1.

    The best of a tempo, its half and its double: lines favour the fast ones of a family, so they must not choose
    among them.
    """
    lines, step = line_spectrum(bands)
    best = np.max([line_evidence(lines, step, bpm * octave) for octave in (0.5, 1.0, 2.0)], axis=0)
    return np.asarray(best / max(float(best.max()), 1e-9))


def tempo_readings(envelope: Floats, bands: Mapping[str, Floats]) -> list[TempoReading]:
    """Ways to count the whole song, likeliest first, at most five.

    Lines over the whole song choose the metrical family; within it the comb over the autocorrelation, the drums'
    pattern and how people usually count.

    Args:
        envelope: Onset strength for beats.
        bands: Onset strengths of the whole range ("all") and of the bands.
    """
    acf = autocorrelation(envelope, int(6 * FRAME_RATE))
    bpm = np.exp(np.arange(np.log(SLOWEST), np.log(FASTEST), 0.0005))
    drums = 1 + 0.5 * backbeat(bands["low"], bands["mid"], bpm)
    comb = np.maximum(comb_scores(acf, bpm), 0.0)
    score = comb * prior(bpm) * drums * family_evidence(list(bands.values()), bpm) ** 2
    peaks = [i for i in range(1, len(bpm) - 1) if score[i] >= score[i - 1] and score[i] > score[i + 1]]
    peaks.sort(key=lambda i: -score[i])
    chosen: list[TempoReading] = []
    for i in peaks:
        if score[i] > 0 and all(abs(np.log2(bpm[i] / c.bpm)) > 0.04 for c in chosen):
            chosen.append(TempoReading(float(bpm[i]), float(score[i])))
    if not chosen:
        return [TempoReading(120.0, 0.0)]
    return chosen[:5]


def refine_tempo(envelope: Floats, bpm: float) -> float:
    """The exact steady tempo near a reading, in beats a minute.

    Sums the envelope's Fourier components at the beat and its multiples over the whole song: the longer the
    song, the sharper the peak.
    """
    centred = envelope - envelope.mean()
    span = max(0.25 / (len(envelope) / FRAME_RATE) / (bpm / 60), 0.003)
    best = bpm
    for width, steps in ((span * 6, 241), (span * 0.15, 61)):
        tries = best * (1 + np.linspace(-width, width, steps))
        best = float(tries[np.argmax(_beat_power(centred, tries))])
    return best


def _beat_power(envelope: Floats, bpm: Floats) -> Floats:
    """Fourier magnitudes at the beat and its multiples for evenly spaced tempi (a zoomed transform)."""
    power = np.zeros(len(bpm))
    for multiple, weight in ((1, 1.0), (2, 0.7), (4, 0.35)):
        span = [multiple * bpm[0] / 60, multiple * bpm[-1] / 60]
        power += weight * np.abs(
            scipy.signal.zoom_fft(envelope, span, len(bpm), fs=FRAME_RATE, endpoint=True)
        )
    return power
