"""Network that hears the strokes of a drum kit in a mel spectrum: inference with weights that come with the package.

A small convolutional network over time and frequency (as Vogl et al., "Drum Transcription via Joint Beat and Drum Modeling
using Convolutional Recurrent Neural Networks", ISMIR 2017, without recurrence), fitted on rendered
music of known notes as ``benchmarks/fit_strokes.py`` does it.
"""

from functools import cache
from importlib.resources import files

import numpy as np
from numpy.typing import NDArray

Singles = NDArray[np.float32]

#: Frames computed at once, and those on both sides of a frame that it depends on.
_AT_ONCE, _REACH = 2_000, 7


@cache
def _weights() -> dict[str, Singles]:
    with (files("zembi.core.song") / "network.npz").open("rb") as file, np.load(file) as kept:
        return {name: kept[name].astype(np.float32) for name in kept.files}


def _neighbours(x: Singles, times: int, bands: int) -> Singles:
    """Every value's surroundings beside it: shape (frames, bands, times * bands * channels); zeros beyond the edges."""
    padded = np.pad(x, ((times // 2,) * 2, (bands // 2,) * 2, (0, 0)))
    frames, height, _ = x.shape
    return np.concatenate(
        [padded[t : t + frames, b : b + height] for t in range(times) for b in range(bands)], axis=2
    )


def _convolved(x: Singles, weights: Singles, bias: Singles) -> Singles:
    """Convolve over frames and bands (weights: times, bands, inputs, outputs), keep what is positive."""
    times, bands, _, outputs = weights.shape
    near = _neighbours(x, times, bands)
    out = near @ weights.reshape(-1, outputs)
    return np.asarray(np.maximum(out + bias, 0), np.float32)


def _halved(x: Singles) -> Singles:
    """The larger of every two neighbouring bands."""
    return np.maximum(x[:, ::2], x[:, 1::2])


def _block(mel: Singles, w: dict[str, Singles]) -> Singles:
    x = ((mel - w["mean"]) / w["spread"])[:, :, None]
    x = _halved(_convolved(x, w["w0"], w["b0"]))
    x = _halved(_convolved(x, w["w1"], w["b1"]))
    x = _convolved(x, w["w2"], w["b2"])
    x = x.reshape(len(x), 1, -1)
    for layer in ("3", "4"):
        x = _convolved(x, w["w" + layer][:, None], w["b" + layer])
    return np.asarray(x[:, 0] @ w["w5"][0] + w["b5"], np.float32)


def stroke_activations(mel: Singles) -> Singles:
    """Activation of each instrument's strokes, frame by frame.

    Args:
        mel: From :func:`zembi.core.song.spectrum.describe`, shape (frames, 40).

    Returns:
        Shape (frames, 6), 0..1: kick, snare, hats, crash, ride, toms. It rises to 1 about the moment of an attack.
    """
    w = _weights()
    out = np.empty((len(mel), w["b5"].size), np.float32)
    for first in range(0, len(mel), _AT_ONCE):
        before = min(_REACH, first)
        piece = mel[first - before : first + _AT_ONCE + _REACH]
        out[first : first + _AT_ONCE] = _block(piece, w)[before : before + _AT_ONCE]
    return np.asarray(1 / (1 + np.exp(-out)), np.float32)
