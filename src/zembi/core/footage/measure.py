"""Measurements of a picture: sharpness, lightness, clipping, shake, motion, colours.

These help to compare takes of one thing; they judge nothing.
"""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

#: Seconds between the moments that are measured.
EVERY_S = 1.0
#: Light from which a place holds no drawing any more, of 255.
_BURNT = 250
#: Reach in pixels within which an edge is looked for, and the least contrast that makes one.
_REACH, _EDGE = 9, 24.0
#: Bins of each of the three colours.
BINS = 4

Bytes = NDArray[np.uint8]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Measured:
    """Values for each moment, :data:`EVERY_S` apart.

    Attributes:
        sharp: How steep the strongest edges are: 1 within one pixel, 0 without end (or no edge at all).
        light: Mean light, 0 to 1.
        burnt: Share of the picture that is burnt out.
        shake: How much the camera's movement changes from frame to frame, in per cent of the picture's width.
        motion: How much changes from frame to frame, 0 to 1.
        colours: Share of each of the colours over the whole file, ``BINS**3`` values.
    """

    sharp: list[float]
    light: list[float]
    burnt: list[float]
    shake: list[float]
    motion: list[float]
    colours: list[float]


def sharpness(grey: NDArray[np.float32]) -> float:
    """Steepness of the strongest edges of a picture, whatever its contrast; shape (height, width), of 255."""
    high = scipy.ndimage.maximum_filter(grey, _REACH)
    span = high - scipy.ndimage.minimum_filter(grey, _REACH)
    steep = np.zeros_like(grey)
    steep[:, :-1] = np.abs(np.diff(grey, axis=1))
    steep[:-1] = np.maximum(steep[:-1], np.abs(np.diff(grey, axis=0)))
    edges = span >= max(_EDGE, float(np.quantile(span, 0.95)))
    if not edges.any():
        return 0.0
    return float(np.median(scipy.ndimage.maximum_filter(steep, _REACH)[edges] / span[edges]))


def shift(one: NDArray[np.float32], other: NDArray[np.float32]) -> tuple[float, float]:
    """By how many pixels (down, right) a picture moved to the next, to a fraction of a pixel."""
    # The borders, where one picture ends and not the other, would say that nothing moved.
    window = np.hanning(one.shape[0])[:, None] * np.hanning(one.shape[1])
    a, b = scipy.fft.rfft2((one - one.mean()) * window), scipy.fft.rfft2((other - other.mean()) * window)
    cross = a.conj() * b
    fit = scipy.fft.irfft2(cross / np.maximum(np.abs(cross), 1e-6), one.shape)
    top = np.unravel_index(int(np.argmax(fit)), fit.shape)
    out = []
    for axis, at in enumerate(top):
        size = fit.shape[axis]
        before, here, after = (
            float(np.take(np.take(fit, (at + d) % size, axis), top[1 - axis])) for d in (-1, 0, 1)
        )
        bend = before - 2 * here + after
        fine = 0.5 * (before - after) / bend if bend < 0 else 0.0
        out.append((at + fine + size / 2) % size - size / 2)
    return out[0], out[1]


def measure(moments: Iterable[tuple[Bytes, Bytes, Bytes]]) -> Measured:
    """Measure moments of a file.

    Args:
        moments: For each, three frames that follow each other, RGB, shape (height, width, 3).
    """
    out: dict[str, list[float]] = {k: [] for k in ("sharp", "light", "burnt", "shake", "motion")}
    colours = np.zeros(BINS**3)
    for frames in moments:
        greys = [_grey(f) for f in frames]
        out["sharp"].append(round(sharpness(greys[0]), 3))
        out["light"].append(round(float(greys[0].mean()) / 255, 4))
        out["burnt"].append(round(float((greys[0] >= _BURNT).mean()), 4))
        small = [_smaller(g) for g in greys]
        moves = np.array([shift(small[0], small[1]), shift(small[1], small[2])])
        # What jumps by more than a tenth is no camera but another picture.
        change = (
            float(np.abs(moves[1] - moves[0]).max()) if np.abs(moves).max() < 0.1 * small[0].shape[1] else 0.0
        )
        out["shake"].append(round(100 * change / small[0].shape[1], 3))
        out["motion"].append(round(float(np.abs(greys[1] - greys[0]).mean()) / 255, 4))
        levels = frames[0].astype(np.int32) * BINS >> 8
        place = (levels[..., 0] * BINS + levels[..., 1]) * BINS + levels[..., 2]
        colours += np.bincount(place.ravel(), minlength=BINS**3) / place.size
    total = max(1, len(out["sharp"]))
    return Measured(**out, colours=[round(float(c), 4) for c in colours / total])


def _grey(frame: Bytes) -> NDArray[np.float32]:
    return np.asarray(frame @ np.array([0.299, 0.587, 0.114], np.float32), np.float32)


def _smaller(grey: NDArray[np.float32]) -> NDArray[np.float32]:
    """Half the size, so that grain tells less."""
    high, wide = grey.shape[0] // 2 * 2, grey.shape[1] // 2 * 2
    blocks = grey[:high, :wide].reshape(high // 2, 2, wide // 2, 2)
    return np.asarray(blocks.mean(axis=(1, 3)), np.float32)


def over(values: list[float], start_s: float, end_s: float) -> float:
    """The mean of a measure over a range of the file; NaN where nothing is measured there."""
    first, last = int(start_s / EVERY_S), max(int(start_s / EVERY_S) + 1, int(np.ceil(end_s / EVERY_S)))
    some = values[first:last]
    return float(np.mean(some)) if some else float("nan")


def swells(motion: list[float]) -> tuple[float, ...]:
    """Seconds at which the movement of a picture is at a height, above the usual; from a value each :data:`EVERY_S`."""
    usual = float(np.median(motion)) if motion else 0.0
    around = [0.0, *motion, 0.0]
    return tuple(
        EVERY_S * k for k, here in enumerate(motion) if here > usual and around[k] < here >= around[k + 2]
    )


def unlike_colours(one: list[float], other: list[float]) -> float:
    """Colour distance of two files, 0 to 1: the share that would have to change its colour or a near one."""
    a, b = (_spread(np.array(c, float)) for c in (one, other))
    return float(0.5 * np.abs(a - b).sum())


def _spread(colours: Floats) -> Floats:
    """Each colour is also a little of its neighbours, so that what lies across the border of two bins is near."""
    cube = colours.reshape(BINS, BINS, BINS)
    for axis in range(3):
        padded = np.pad(cube, [(1, 1) if a == axis else (0, 0) for a in range(3)], mode="edge")
        parts = [np.take(padded, range(k, k + BINS), axis) for k in range(3)]
        cube = 0.25 * parts[0] + 0.5 * parts[1] + 0.25 * parts[2]
    return cube.ravel() / max(1e-9, float(cube.sum()))
