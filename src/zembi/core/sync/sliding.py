"""Sliding short pieces of a take over a whole song."""

import numpy as np
import scipy
from numpy.typing import NDArray


def fft_size(length: int) -> int:
    """A transform length at which the FFT is fast."""
    return int(scipy.fft.next_fast_len(length, real=True))


class Sliding:
    """A song made ready to have pieces slid over it (overlap-save convolution, after Stockham 1966).

    The song is transformed once, in blocks of a few times a piece's length, so that a piece costs a short transform
    forward and the song's length backward.
    """

    def __init__(self, song: NDArray[np.float32], longest: int) -> None:
        """Prepare a song.

        Args:
            song: Shape (frames,) or (frames, bands).
            longest: Frames of the longest piece.
        """
        values = song[:, None] if song.ndim == 1 else song
        self.longest, self.frames = longest, len(values)
        self._size = fft_size(4 * longest)
        self._hop = self._size - longest + 1
        count = -(-(self.frames + longest) // self._hop)
        padded = np.zeros((values.shape[1], (count - 1) * self._hop + self._size), np.float32)
        padded[:, longest : longest + self.frames] = values.T
        blocks = np.lib.stride_tricks.sliding_window_view(padded, self._size, axis=1)[:, :: self._hop]
        self._spectra: NDArray[np.complex64] = scipy.fft.rfft(
            np.ascontiguousarray(blocks.transpose(1, 0, 2)), axis=2
        )

    def over(self, pieces: NDArray[np.float32], beyond: int) -> NDArray[np.float32]:
        """Correlate pieces with the song at every place, summed over their bands.

        Args:
            pieces: Shape (pieces, frames) or (pieces, frames, bands); bands may be fewer than the song's, from the
                lowest up.
            beyond: How many frames a piece may hang over the song's start; over its end it may hang by as many.

        Returns:
            Shape (pieces, places); place k is song frame ``k - beyond``.
        """
        stacked = pieces[:, :, None] if pieces.ndim == 2 else pieces
        frames = stacked.shape[1]
        turned = np.ascontiguousarray(stacked.transpose(0, 2, 1))
        spectra = np.conj(scipy.fft.rfft(turned, self._size, axis=2))
        song = self._spectra[:, : turned.shape[1]]
        rows = np.empty((len(pieces), len(song) * self._hop), np.float32)
        for row, spectrum in zip(rows, spectra, strict=True):
            product = (song * spectrum).sum(axis=1)
            row[:] = scipy.fft.irfft(product, self._size, axis=1)[:, : self._hop].ravel()
        start = self.longest - beyond
        return rows[:, start : start + self.frames + 2 * beyond - frames + 1]
