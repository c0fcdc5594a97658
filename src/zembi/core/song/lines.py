"""Tempo family of a song: lines in the spectrum of its strokes over the whole song.

Nearly all produced music keeps one click. The Fourier transform of an onset envelope over the whole song then has
lines at the beat, its parts and its multiples, as narrow as the song is long. A comb over the autocorrelation scores
2/3, 3/4 and 4/3 of the beat almost as high as the beat; there a wrong family has noise where the true one has lines
five to twenty-five times the background.
"""

from collections.abc import Sequence

import numpy as np
import scipy

from zembi.core.song.spectrum import FRAME_RATE, Floats

#: Width in Hz over which the background of a line is taken.
_BACKGROUND_HZ = 0.35
_LIMIT = 98.0


def line_spectrum(envelopes: Sequence[Floats]) -> tuple[Floats, float]:
    """Prominence of each frequency of the strokes above what surrounds it.

    Args:
        envelopes: Onset strengths of the whole range and of bands, one value a frame, all of one length.

    Returns:
        The natural logarithm of power over background, 0 for noise and less, and the step between values in Hz.
    """
    count = len(envelopes[0])
    size = scipy.fft.next_fast_len(2 * count)
    step = FRAME_RATE / size
    width = max(3, round(_BACKGROUND_HZ / step) | 1)
    window = np.hanning(count)
    total = np.zeros(size // 2 + 1)
    for envelope in envelopes:
        limited = np.minimum(envelope, np.percentile(envelope, _LIMIT))
        spread = float(limited.std())
        if spread < 1e-9:
            continue
        power = np.abs(scipy.fft.rfft((limited - limited.mean()) / spread * window, size)) ** 2
        # The background is as smooth as it is wide: every eighth value of it is enough.
        stride = max(1, width // 16)
        thin = scipy.ndimage.median_filter(power[::stride], max(3, (width // stride) | 1), mode="nearest")
        background = np.interp(np.arange(len(power)), np.arange(0, len(power), stride), thin)
        total += power / np.maximum(background, 1e-12)
    # The median of power that is noise is ln 2 of its mean.
    level = total / max(1, len(envelopes)) * np.log(2)
    return np.asarray(np.maximum(0.0, np.log(np.maximum(level, 1e-12)))), step


def line_evidence(lines: Floats, step_hz: float, bpm: Floats) -> Floats:
    """Evidence that the beat is at each tempo: lines there, at its bars, and at its parts in two or in three."""
    places = np.arange(len(lines))
    reach = 1.5

    def at(hz: Floats) -> Floats:
        centre = hz / step_hz
        return np.asarray(
            np.max(
                [
                    np.interp(centre + d, places, lines, right=0.0)
                    for d in (-reach, -reach / 2, 0.0, reach / 2, reach)
                ],
                axis=0,
            )
        )

    f = bpm / 60
    twos = 0.6 * (at(2 * f) + at(4 * f) + 0.5 * at(8 * f))
    threes = 0.75 * (at(3 * f) + at(6 * f))
    return np.asarray(at(f) + at(f / 2) / 2 + at(f / 4) / 4 + np.maximum(twos, threes))
