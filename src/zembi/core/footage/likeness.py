"""Similarity of pictures: by what is in them wherever it lies, and by their colours."""

import numpy as np
import scipy
from numpy.typing import NDArray

#: Size of the pictures that are looked at: (height, width).
SIZE = (36, 64)
#: Bins of each of the three colours.
_BINS = 8
#: A picture with so little in it (spread of its light, of 255) is blank.
_BLANK = 0.8

Pictures = NDArray[np.uint8]
Floats = NDArray[np.float64]


class Likeness:
    """Small pictures made ready for comparing; one is moved by up to ``move`` of its size to fit another.

    Attributes:
        spread: Spread of each picture's light, of 255.
        blank: Which pictures hold nothing: black, white, one colour.
        fine: What tells places apart in each, shape (pictures, *SIZE).
        colours: Share of each picture that has each colour, shape (pictures, bins).
        coarse: A few hundred values of each picture, shape (pictures, values).
    """

    def __init__(self, pictures: Pictures, move: float = 0.2) -> None:
        count, height, width, _ = pictures.shape
        light = pictures @ np.array([0.299, 0.587, 0.114], np.float32)
        self.spread = light.reshape(count, -1).std(axis=1)
        self.blank = self.spread < _BLANK
        # What is fine enough to tell places apart, and coarse enough to outlast grain.
        fine = scipy.ndimage.gaussian_filter(light, (0, 0.7, 0.7)) - scipy.ndimage.gaussian_filter(
            light, (0, 5, 5)
        )
        self.fine = fine - fine.mean(axis=(1, 2), keepdims=True)
        self._room = (2 * height, 2 * width)
        self._wave = scipy.fft.rfft2(self.fine, self._room, axes=(1, 2))
        self._energy = scipy.fft.rfft2(self.fine**2, self._room, axes=(1, 2))
        mask = scipy.fft.rfft2(np.ones((height, width), np.float32), self._room)
        self._mask = mask.conj()
        ups, sides = np.arange(self._room[0]), np.arange(self._room[1])
        ups, sides = np.minimum(ups, self._room[0] - ups), np.minimum(sides, self._room[1] - sides)
        self._near = (ups[:, None] <= move * height) & (sides[None] <= move * width)
        levels = (pictures.astype(np.int32) * _BINS) >> 8
        place = (levels[..., 0] * _BINS + levels[..., 1]) * _BINS + levels[..., 2]
        place = place.reshape(count, -1) + np.arange(count)[:, None] * _BINS**3
        self.colours = np.bincount(place.ravel(), minlength=count * _BINS**3).reshape(count, -1) / (
            height * width
        )
        # For mixtures: a few hundred coarse values.
        rows = pictures.reshape(count, height // 3, 3, width // 4, 4, 3).mean(axis=(2, 4), dtype=np.float32)
        self.coarse = rows.reshape(count, -1)

    def __len__(self) -> int:
        return len(self.spread)

    def unlike(self, one: NDArray[np.int64], other: NDArray[np.int64]) -> Floats:
        """Distance of pairs of pictures where they fit best: 0 the same, 1 nothing in common."""
        return self.moved(one, other)[0]

    def moved(self, one: NDArray[np.int64], other: NDArray[np.int64]) -> tuple[Floats, Floats]:
        """Distance of pairs where they fit best, and the offset of the other from there.

        Returns:
            Unlikeness as of :meth:`unlike`, and shares of height and width to go down and right, shape (pairs, 2).
        """
        out, way = np.ones(len(one)), np.zeros((len(one), 2))
        room = np.array(self._room)
        for first in range(0, len(one), 64):
            a, b = one[first : first + 64], other[first : first + 64]
            match = scipy.fft.irfft2(self._wave[a].conj() * self._wave[b], self._room, axes=(1, 2))
            there = scipy.fft.irfft2(self._mask * self._energy[b], self._room, axes=(1, 2))
            here = scipy.fft.irfft2(self._mask.conj() * self._energy[a].conj(), self._room, axes=(1, 2))
            fit = match / np.sqrt(np.maximum(there * here, 1e-6 * self.fine[0].size))
            fit = np.where(self._near, fit, -1).reshape(len(a), -1)
            best = fit.argmax(axis=1)
            out[first : first + 64] = 1 - fit[np.arange(len(a)), best]
            at = np.stack(np.unravel_index(best, self._room), axis=1)
            way[first : first + 64] = ((at + room // 2) % room - room // 2) / (room / 2)
        return np.clip(out, 0.0, 1.0), way

    def other_colours(self, one: NDArray[np.int64], other: NDArray[np.int64]) -> Floats:
        """Share of the picture that changed its colour: 0 to 1."""
        return np.asarray(0.5 * np.abs(self.colours[one] - self.colours[other]).sum(axis=1))
