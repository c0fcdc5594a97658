"""Time of an attack to the millisecond: where the energy of the sound rises most, in the waveform's own bands.

Frames of a spectrum are 46 ms long: they tell that something is struck, and only roughly when.
"""

from dataclasses import dataclass

import numpy as np

from zembi.core.song.placing import band_energies
from zembi.core.song.spectrum import RATE, Floats, Singles

#: Samples in a step of about a millisecond, and steps a second.
_STEP = RATE // 1000
_STEPS = RATE / _STEP
#: Steps over which energy is smoothed, and between which a rise is taken.
_SMOOTH, _APART = 5, 2
#: Say of each of the bands of :func:`band_energies`: high ones tell an attack best, a bass drum's own energy builds up over 10 ms.
_SAY = (0.3, 0.5, 1.0)
#: Farthest that an attack is looked for from where it was heard, in steps, and how soon what is far counts less.
_REACH, _NEAR = 20, 6.0
#: Steps after an attack in which it is as loud as it is hard, and the energy of silence.
_SOUNDS, _SILENT = 30, 1e-9
#: Energy rises most about so long after an attack begins, in seconds: rendered drums of known notes, whose sound builds up,
#: say 2.9 ms, clean bursts 1 ms before.
_LATE_S = 0.0012


@dataclass(frozen=True)
class AttackRises:
    """Attacks of a sound in steps of about a millisecond.

    Attributes:
        steps: Rise of the fourth root of energy over all bands, weighed; shape (steps,).
        energies: Energy of each band, low to high; shape (bands, steps).
    """

    steps: Floats
    energies: Floats

    def time_of(self, about_s: Floats) -> Floats:
        """Times of the attacks nearest to where some were heard, in seconds; those where nothing rises stay."""
        at = np.clip(np.round(np.asarray(about_s) * _STEPS).astype(int), 0, len(self.steps) - 1)
        offsets = np.arange(-_REACH, _REACH + 1)
        weighed = np.pad(self.steps, _REACH + 1)[at[:, None] + offsets + _REACH + 1]
        weighed = weighed * np.exp(-0.5 * (offsets / _NEAR) ** 2)
        best = np.clip(np.argmax(weighed, axis=1), 1, 2 * _REACH - 1)
        rows = np.arange(len(at))
        before, top, after = (weighed[rows, best + k] for k in (-1, 0, 1))
        bend = np.maximum(2 * top - before - after, 1e-12)
        exact = (
            at + offsets[best] + 0.5 + np.clip((after - before) / (2 * bend), -0.5, 0.5)
        ) / _STEPS - _LATE_S
        return np.where(top > 0, np.maximum(exact, 0.0), about_s)

    def loudness_at(self, times_s: Floats, band: int) -> Floats:
        """Loudness of one band right after each attack, in dB."""
        sums = np.concatenate([[0.0], np.cumsum(self.energies[band])])
        first = np.clip(np.round(np.asarray(times_s) * _STEPS).astype(int), 0, len(sums) - 1)
        last = np.clip(first + _SOUNDS, 0, len(sums) - 1)
        mean = (sums[last] - sums[first]) / np.maximum(last - first, 1)
        return np.asarray(10 * np.log10(np.maximum(mean, _SILENT)))


def attack_rises(audio: Singles) -> AttackRises:
    """Rises of a sound, mono at ``RATE``."""
    window = np.hanning(_SMOOTH + 2)[1:-1]
    window /= window.sum()
    total = np.zeros(len(audio) // _STEP)
    energies = band_energies(audio, _STEP, causal=True)
    for energy, say in zip(energies, _SAY, strict=True):
        smooth = np.maximum(np.convolve(energy, window, mode="same"), 0)
        # A power between energy and its logarithm: what is soft counts, and silence has no attacks.
        level = (smooth / max(float(np.percentile(smooth, 90)), 1e-12)) ** 0.25
        total[_APART:-_APART] += say * np.maximum(level[2 * _APART :] - level[: -2 * _APART], 0)
    return AttackRises(total, energies)
