"""A song whose tempo sways: its own time, in which it keeps a click.

A band without a click drifts by a per cent or two over seconds. Between windows of the song the lines in the spectrum
of its strokes then stand in the same ratios, moved as a whole: on a logarithmic axis of frequency, shifted. The shifts
of all windows against their common picture, joined by the smoothest strong path, are the tempo's course, whatever
the beat is. Running through the song at that pace straightens it; what is left shows as windows that are late against
the whole, and is taken out in turn.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.song.click import Click, lay_click, standardised
from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum

_HOP_S = 2.0
#: Windows in seconds and steps of the logarithmic axis of frequency: first quick, then fine for what is left.
_PASSES = ((12.0, 0.0025), (24.0, 0.001))
#: Frequencies of strokes that are compared.
_LOW_HZ, _HIGH_HZ = 0.8, 14.0
#: Farthest that the tempo goes from its usual, in steps, and what it costs to change by one step between windows.
_REACH, _CHANGE = 32, 0.012
_ROUNDS = 6


@dataclass(frozen=True)
class Bend:
    """Warp of the song's own time: ``own[i]`` is the own time at frame i of the song, in frames; ascending."""

    own: Floats

    def to_own(self, seconds: Floats) -> Floats:
        """Own time of song times."""
        frames = np.arange(len(self.own))
        return np.asarray(np.interp(np.asarray(seconds) * FRAME_RATE, frames, self.own)) / FRAME_RATE

    def to_song(self, own_s: Floats) -> Floats:
        """Song time of own times; goes on at the usual pace beyond the end."""
        frames = np.arange(len(self.own), dtype=float)
        at = np.asarray(own_s) * FRAME_RATE
        inside = np.interp(at, self.own, frames)
        return np.asarray(inside + np.maximum(0.0, at - self.own[-1])) / FRAME_RATE

    def straighten(self, values: NDArray[Any]) -> NDArray[Any]:
        """Frame-wise values of the song, a row a frame of its own time."""
        frames = np.arange(len(self.own), dtype=float)
        places = np.interp(np.arange(int(self.own[-1]) + 1), self.own, frames)
        low = np.minimum(places.astype(int), len(values) - 1)
        high = np.minimum(low + 1, len(values) - 1)
        share = (places - low).astype(values.dtype)
        if values.ndim > 1:
            share = share[:, None]
        return np.asarray(values[low] + (values[high] - values[low]) * share)

    def straighten_at(self, values: Floats, rate: float) -> Floats:
        """Values of the song at another rate a second, at that rate in its own time."""
        own = self.to_own(np.arange(len(values)) / rate)
        wanted = np.arange(0, own[-1], 1 / rate)
        return np.asarray(np.interp(wanted, own, values))

    def spectrum(self, spectrum: Spectrum) -> Spectrum:
        """A song's description in its own time."""
        return replace(
            spectrum,
            mel=self.straighten(spectrum.mel),
            flux=self.straighten(spectrum.flux),
            band_flux={band: self.straighten(flux) for band, flux in spectrum.band_flux.items()},
            chroma=self.straighten(spectrum.chroma),
            level=self.straighten(spectrum.level),
        )


def bend_along(count: int, pulse: Floats) -> Bend:
    """The own time of a song of so many frames whose pulse is even in it.

    Args:
        count: Frames of the song.
        pulse: Song times in seconds, ascending; fewer than three tell nothing.
    """
    frames = np.arange(count, dtype=float)
    if len(pulse) < 3:
        return Bend(frames)
    at = pulse * FRAME_RATE
    # Followed to whole frames: neighbours tell where between them each lies.
    smooth = (
        at
        + scipy.ndimage.gaussian_filter1d(
            np.diff(at, n=2, prepend=2 * at[0] - at[1], append=2 * at[-1] - at[-2]), 1.0
        )
        / 4
    )
    period = float(np.median(np.diff(smooth)))
    before, after = np.diff(smooth[:5]).mean(), np.diff(smooth[-5:]).mean()
    edges = [smooth[0] - before * 1e4], [smooth[-1] + after * 1e4]
    numbers = np.concatenate([[-1e4], np.arange(len(smooth)), [len(smooth) - 1 + 1e4]])
    own = np.interp(frames, np.concatenate([edges[0], smooth, edges[1]]), numbers) * period
    return Bend(own - own[0])


def lay_bent_click(bands: Sequence[Floats], bend: Bend, bpm: float) -> tuple[Bend, Click]:
    """Lay a click over a song in its own time, and take out of that time what the windows are late.

    Args:
        bands: Onset strengths of the song, in song time.
        bend: To begin with.
        bpm: The tempo in own time, right within a few thousandths.
    """
    click = lay_click(standardised([bend.straighten(b) for b in bands]), bpm)
    for _ in range(_ROUNDS):
        trust = np.maximum(click.alike, 0.0) ** 2 * click.heard
        if not trust.any():
            break
        # Where windows do not tell, what their neighbours tell.
        smooth = scipy.ndimage.gaussian_filter1d(click.late * trust, 1.0) / np.maximum(
            scipy.ndimage.gaussian_filter1d(trust, 1.0), 1e-3
        )
        late = smooth * 60 / click.bpm * FRAME_RATE
        if float(np.abs(late).max()) < 0.3:
            break
        own = bend.own - 0.8 * np.interp(bend.own, click.times * FRAME_RATE, late)
        own = np.maximum.accumulate(own - own[0] + 1e-6 * np.arange(len(own)))
        bend = Bend(own)
        click = lay_click(standardised([bend.straighten(b) for b in bands]), click.bpm)
    return bend, click
