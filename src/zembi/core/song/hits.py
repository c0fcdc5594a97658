"""Hits: onsets in the low, middle and high bands, each with a strength."""

from dataclasses import dataclass

import numpy as np

from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum

#: Flux peaks this much before the attack is heard, in seconds.
_LEAD_S = 0.010


@dataclass(frozen=True)
class Hit:
    """An onset at a song time, strength 0..1 (1: the strongest of its band)."""

    at_s: float
    strength: float


def pick_hits(envelope: Floats, *, floor: float = 0.08, gap_s: float = 0.06) -> list[Hit]:
    """Peaks of one band's onset envelope.

    Args:
        envelope: Onset strength a frame.
        floor: Least strength kept, 0..1; what is shown is chosen later by sensitivity.
        gap_s: Least time between two hits; the stronger stays.
    """
    top = float(np.percentile(envelope, 99.5)) or 1.0
    scaled = np.clip(envelope / max(top, 1e-9), 0, 1)
    inner = (scaled[1:-1] >= scaled[:-2]) & (scaled[1:-1] > scaled[2:]) & (scaled[1:-1] >= floor)
    peaks = np.nonzero(inner)[0] + 1
    gap = int(gap_s * FRAME_RATE)
    kept: list[int] = []
    for p in peaks:
        if kept and p - kept[-1] < gap:
            if scaled[p] > scaled[kept[-1]]:
                kept[-1] = int(p)
        else:
            kept.append(int(p))
    return [Hit(float(p / FRAME_RATE + _LEAD_S), float(scaled[p])) for p in kept]


def find_hits(spectrum: Spectrum) -> dict[str, list[Hit]]:
    """Hits of every band, by band name."""
    return {name: pick_hits(envelope) for name, envelope in spectrum.band_flux.items()}


def hit_density(
    hits: dict[str, list[Hit]], count: int, *, hop_s: float = 0.1, window_s: float = 3.0
) -> Floats:
    """Strokes a second, weighed by strength, around each hop; shape (count,)."""
    out = np.zeros(count)
    for band in hits.values():
        for hit in band:
            out[min(count - 1, int(hit.at_s / hop_s))] += hit.strength
    width = round(window_s / hop_s)
    return np.asarray(np.convolve(out, np.ones(width) / window_s, mode="same")[:count])
