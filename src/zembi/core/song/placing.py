"""Placement of beats between the frames: straight grids and single beats laid on the attacks."""

from dataclasses import dataclass

import numpy as np
import scipy

from zembi.core.song.spectrum import FRAME_RATE, RATE, Floats, Singles
from zembi.core.song.tempo import refine_tempo

#: How much later a stroke begins than its flux peak says, in seconds (half a window less the look-back).
FLUX_LEAD_S = 0.010
#: Bands whose energy tells an attack, in Hz: bass drum, snare and voice, cymbals.
BANDS = ((40.0, 180.0), (250.0, 2_500.0), (4_000.0, 10_000.0))
#: Samples that are filtered at a time, those on both sides among them for which a filter rings.
_SIZE, _RINGS = 1 << 14, 1_200


@dataclass(frozen=True)
class OnsetStrength:
    """Onset strength by which beats are placed."""

    pulse: Floats
    fine: Floats
    fine_rate: float
    start_s: float
    end_s: float


def band_energies(audio: Singles, step: int, *, causal: bool = False) -> Floats:
    """Mean power of the bands in every ``step`` samples; shape (bands, len(audio) // step).

    The bands are Butterworth's, as one product in the frequency domain of each piece: run forwards and backwards, so that
    no band is late, or forwards only, so that nothing sounds before it begins.
    """
    count = len(audio) // step
    piece = (_SIZE - 2 * _RINGS) // step * step
    hz = np.fft.rfftfreq(_SIZE, 1 / RATE)
    filters = [scipy.signal.butter(2, band, "band", fs=RATE, output="sos") for band in BANDS]
    responses = [scipy.signal.sosfreqz(f, hz, fs=RATE)[1] for f in filters]
    gains = [np.complex64(r) if causal else np.float32(np.abs(r) ** 2) for r in responses]
    rows = -(-count * step // piece)
    padded = np.pad(np.float32(audio[: count * step]), (_RINGS, rows * piece + _SIZE - count * step))
    pieces = np.lib.stride_tricks.sliding_window_view(padded, _SIZE)[::piece][:rows]
    out = np.empty((len(BANDS), rows * piece // step))
    for first in range(0, rows, 16):
        spectra = scipy.fft.rfft(pieces[first : first + 16], axis=1)
        for k, gain in enumerate(gains):
            sound = scipy.fft.irfft(spectra * gain, _SIZE, axis=1)[:, _RINGS : _RINGS + piece].reshape(
                -1, step
            )
            power = np.einsum("ij,ij->i", sound, sound) / step
            out[k, first * piece // step :][: len(power)] = power
    return out[:, :count]


def fine_envelope(audio: Singles) -> tuple[Floats, float]:
    """Rise of energy at one millisecond steps, for placing a beat inside a frame.

    Returns:
        The envelope, and its rate in values a second.
    """
    step = RATE // 1000
    total = np.zeros(len(audio) // step)
    for energy in band_energies(audio, step):
        smooth = np.convolve(energy, np.hanning(9) / np.hanning(9).sum(), mode="same")
        level = np.log1p(smooth / max(float(np.percentile(smooth, 90)) * 1e-2, 1e-12))
        rise = np.zeros_like(level)
        rise[6:] = np.maximum(0, level[6:] - level[:-6])
        total += rise
    return total, RATE / step


def straight_phase(envelope: Floats, bpm: float, rate: float) -> float:
    """First beat time in seconds (0 <= t < one beat) of the straight grid that the envelope agrees with most."""
    period = 60 / bpm
    bins = 200
    phase = ((np.arange(len(envelope)) / rate) % period) / period * bins
    whole = phase.astype(int) % bins
    folded = np.bincount(whole, weights=envelope, minlength=bins) / np.maximum(
        np.bincount(whole, minlength=bins), 1
    )
    kernel = np.hanning(9)
    wrapped = np.concatenate([folded[-4:], folded, folded[:4]])
    smooth = np.convolve(wrapped, kernel, mode="valid")
    return float(np.argmax(smooth) + 0.5) / bins * period


def fine_shift(fine: Floats, fine_rate: float, beats: Floats, reach_s: float) -> float:
    """Offset of a grid to the attacks: the peak of the averaged fine rise."""
    reach = int(reach_s * fine_rate)
    centres = np.round(beats * fine_rate).astype(int)
    centres = centres[(centres > reach) & (centres < len(fine) - reach)]
    if len(centres) < 4:
        return 0.0
    stack = np.stack([fine[c - reach : c + reach + 1] for c in centres])
    mean = np.convolve(np.minimum(stack, np.percentile(stack, 99)).mean(axis=0), np.hanning(7), mode="same")
    return float(np.argmax(mean) - reach) / fine_rate


def straight_grid(sound: OnsetStrength, bpm: float, start_s: float, end_s: float) -> tuple[float, Floats]:
    """The exact tempo near ``bpm`` in a part of the song, and its straight grid over the whole song."""
    a, b = int(start_s * FRAME_RATE), max(int(end_s * FRAME_RATE), 1)
    piece = sound.pulse[a:b]
    bpm = refine_tempo(piece, bpm)
    period = 60 / bpm
    phase = straight_phase(piece, bpm, FRAME_RATE) + a / FRAME_RATE + FLUX_LEAD_S
    beats = np.arange(phase % period, sound.end_s, period)
    inside = beats[(beats >= start_s) & (beats <= end_s)]
    return bpm, beats + fine_shift(sound.fine, sound.fine_rate, inside, min(0.06, period / 5))


def nearer(sound: OnsetStrength, beats: Floats) -> Floats:
    """Beats moved by what the strokes around each are late, a dozen beats at a time and within 80 ms."""
    lags = np.arange(-round(0.08 * FRAME_RATE), round(0.08 * FRAME_RATE) + 1)
    for sigma in (6.0, 3.0):
        frames = np.round((beats - FLUX_LEAD_S) * FRAME_RATE).astype(int)
        near = np.clip(frames[:, None] + lags[None], 0, len(sound.pulse) - 1)
        usual = np.minimum(sound.pulse, np.percentile(sound.pulse, 98))[near]
        heard = scipy.ndimage.gaussian_filter1d(usual, sigma, axis=0) * np.exp(
            -0.5 * (lags / lags[-1] / 0.7) ** 2
        )
        late = scipy.ndimage.gaussian_filter1d(lags[heard.argmax(axis=1)] / FRAME_RATE, sigma)
        beats = np.maximum.accumulate(beats + late)
    return np.asarray(beats)


def settled(beats: Floats, fine: Floats, fine_rate: float) -> Floats:
    """Move each followed beat to the nearest clear attack within 35 ms, then take off single outliers."""
    reach = int(0.035 * fine_rate)
    floor = np.percentile(fine, 90)
    weight = np.hanning(2 * reach + 1) + 0.2
    out = beats.copy()
    for i, at in enumerate(beats):
        centre = round(at * fine_rate)
        if centre - reach < 0 or centre + reach + 1 > len(fine):
            continue
        piece = fine[centre - reach : centre + reach + 1]
        if piece.max() > floor:
            out[i] = (centre + int(np.argmax(piece * weight)) - reach) / fine_rate
    if len(out) > 4:
        smooth = (out[:-2] + out[2:]) / 2
        off = np.abs(out[1:-1] - smooth) > 0.03
        out[1:-1] = np.where(off, 0.5 * (out[1:-1] + smooth), out[1:-1])
    return out
