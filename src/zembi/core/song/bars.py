"""Which beat is the one: metre and downbeats from low hits, harmony changes and strokes."""

import itertools
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum


@dataclass(frozen=True)
class BarReading:
    """How beats group into bars.

    Attributes:
        metre: Beats in a bar.
        first: Index of the first downbeat among the beats.
        scores: Evidence for each possible first beat, shape (metre,).
        confidence: 0..1, how far the best stands above the next.
    """

    metre: int
    first: int
    scores: Floats
    confidence: float


def beat_means(values: NDArray[np.float32], beats: Floats) -> Floats:
    """Mean of a frame-wise array over each beat's span; shape (beats, features)."""
    edges = np.clip(
        np.round(np.append(beats, beats[-1] + np.median(np.diff(beats))) * FRAME_RATE), 0, len(values)
    )
    edges = edges.astype(int)
    rows = [
        values[a : max(b, a + 1)].mean(axis=0) if a < len(values) else values[-1]
        for a, b in itertools.pairwise(edges)
    ]
    return np.array(rows, dtype=float)


def _at_beats(envelope: Floats, beats: Floats) -> Floats:
    reach = int(0.05 * FRAME_RATE)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), 0, len(envelope) - 1)
    return np.array([envelope[max(0, f - reach) : f + reach + 1].max() for f in frames])


def _standard(values: Floats) -> Floats:
    return np.asarray((values - values.mean()) / max(float(values.std()), 1e-9))


def beat_evidence(spectrum: Spectrum, beats: Floats) -> Floats:
    """How much each beat looks like the first of a bar: harmony change, low hits, level of change."""
    chroma = beat_means(spectrum.chroma, beats)
    chroma /= np.maximum(np.linalg.norm(chroma, axis=1, keepdims=True), 1e-9)
    harmony = np.zeros(len(beats))
    harmony[1:] = 1 - np.sum(chroma[1:] * chroma[:-1], axis=1)
    if len(beats) > 4:
        before = (chroma[:-3] + chroma[1:-2]) / 2
        after = (chroma[2:-1] + chroma[3:]) / 2
        harmony[2:-1] = 0.5 * harmony[2:-1] + 0.5 * (1 - np.sum(before * after, axis=1))
    mel = beat_means(spectrum.mel, beats)
    change = np.zeros(len(beats))
    change[1:] = np.linalg.norm(np.diff(mel, axis=0), axis=1)
    low, mid = _at_beats(spectrum.band_flux["low"], beats), _at_beats(spectrum.band_flux["mid"], beats)
    return 1.2 * _standard(harmony) + 0.7 * _standard(low) - 0.35 * _standard(mid) + 0.35 * _standard(change)


def _likeness(spectrum: Spectrum, beats: Floats, lag: int) -> float:
    rows = np.hstack([beat_means(spectrum.mel, beats), 3 * beat_means(spectrum.chroma, beats)])
    rows = rows - rows.mean(axis=0)
    rows /= np.maximum(np.linalg.norm(rows, axis=1, keepdims=True), 1e-9)
    return float(np.mean(np.sum(rows[lag:] * rows[:-lag], axis=1))) if len(rows) > lag else 0.0


def find_bars(spectrum: Spectrum, beats: Floats) -> BarReading:
    """Metre and downbeat phase of a song.

    Beats are compared three and four (and six and eight) apart: music is most like itself a bar on. The
    phase is then the one whose beats carry most evidence.
    """
    if len(beats) < 8:
        return BarReading(4, 0, np.zeros(4), 0.0)
    likeness = {lag: _likeness(spectrum, beats, lag) for lag in (3, 4, 6, 8)}
    waltz = likeness[3] + likeness[6]
    common = likeness[4] + likeness[8]
    metre = 3 if waltz > common + 0.08 else 4
    evidence = beat_evidence(spectrum, beats)
    scores = np.array([evidence[p::metre].mean() for p in range(metre)])
    order = np.sort(scores)
    spread = max(float(evidence.std()) / np.sqrt(len(beats) / metre), 1e-9)
    confidence = float(1 - np.exp(-(order[-1] - order[-2]) / (2.5 * spread)))
    return BarReading(metre, int(np.argmax(scores)), scores, confidence)
