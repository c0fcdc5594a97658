"""Where the beats fall: a straight grid where the tempo is steady, a followed one where it is played freely."""

from dataclasses import dataclass

import numpy as np
from scipy.signal import butter, sosfiltfilt

from zembi.core.song.spectrum import FRAME_RATE, RATE, Floats, Singles, Spectrum
from zembi.core.song.tempo import TempoReading, local_periods, refine_tempo, tempo_readings

#: A straight grid is laid where it meets at least this share of the strokes that a followed one meets.
STEADY = 0.85
#: How much later a stroke begins than its flux peak says, in seconds (half a window less the look-back).
_FLUX_LEAD_S = 0.010


@dataclass(frozen=True)
class BeatTrack:
    """Beats of a song.

    Attributes:
        beats: Song times in seconds, ascending.
        bpm: Median tempo.
        steady: Whether the beats are one straight grid.
        readings: Other ways to count, likeliest first; the first is the one used.
        agreement: Share of beats, 0..1, at which the music really strikes.
    """

    beats: Floats
    bpm: float
    steady: bool
    readings: list[TempoReading]
    agreement: float


def fine_envelope(audio: Singles) -> tuple[Floats, float]:
    """Rise of energy at one millisecond steps, for placing a beat inside a frame.

    Returns:
        The envelope, and its rate in values a second.
    """
    step = RATE // 1000
    total = np.zeros(len(audio) // step)
    for low, high in ((40.0, 180.0), (250.0, 2_500.0), (4_000.0, 10_000.0)):
        band = sosfiltfilt(butter(2, [low, high], "band", fs=RATE, output="sos"), audio)
        energy = (band[: len(total) * step].reshape(-1, step) ** 2).mean(axis=1)
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


def _fine_shift(fine: Floats, fine_rate: float, beats: Floats, reach_s: float) -> float:
    """How much to move a grid so that it sits on the attacks: the peak of the averaged fine rise."""
    reach = int(reach_s * fine_rate)
    centres = np.round(beats * fine_rate).astype(int)
    centres = centres[(centres > reach) & (centres < len(fine) - reach)]
    if len(centres) < 4:
        return 0.0
    stack = np.stack([fine[c - reach : c + reach + 1] for c in centres])
    mean = np.convolve(np.minimum(stack, np.percentile(stack, 99)).mean(axis=0), np.hanning(7), mode="same")
    return float(np.argmax(mean) - reach) / fine_rate


def follow(envelope: Floats, periods: Floats, *, tightness: float = 60.0) -> Floats:
    """Beats by dynamic programming (Ellis 2007) with a beat period that may move.

    Args:
        envelope: Onset strength, one value a frame.
        periods: Beat period in frames at each frame.
        tightness: How strictly neighbouring beats keep the period.

    Returns:
        Beat times in seconds.
    """
    strength = envelope / max(float(envelope.std()), 1e-9)
    count = len(strength)
    total = strength.copy()
    back = np.full(count, -1)
    for i in range(count):
        period = periods[i]
        first, last = int(i - 1.8 * period), int(i - 0.55 * period)
        if last < 0:
            continue
        span = np.arange(max(first, 0), last + 1)
        scores = total[span] - tightness * np.log((i - span) / period) ** 2
        best = int(np.argmax(scores))
        if scores[best] > 0:
            total[i] += scores[best]
            back[i] = span[best]
    tail = max(0, count - int(periods[-1] * 1.5))
    i = int(tail + np.argmax(total[tail:]))
    frames = [i]
    while back[i] >= 0:
        i = int(back[i])
        frames.append(i)
    return np.array(frames[::-1]) / FRAME_RATE


def _agreement(envelope: Floats, beats: Floats) -> float:
    """Share of beats with a real stroke within 40 ms."""
    if not len(beats):
        return 0.0
    reach = int(0.04 * FRAME_RATE)
    threshold = np.percentile(envelope, 80)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), 0, len(envelope) - 1)
    near = [envelope[max(0, f - reach) : f + reach + 1].max() for f in frames]
    return float(np.mean(np.array(near) > threshold))


def _strikes(envelope: Floats, beats: Floats) -> float:
    """Mean onset strength at the beats, within 30 ms."""
    reach = int(0.03 * FRAME_RATE)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), reach, len(envelope) - reach - 1)
    near = np.max([envelope[frames + k] for k in range(-reach, reach + 1)], axis=0)
    return float(near.mean()) if len(near) else 0.0


def audible_range(level: Floats) -> tuple[float, float]:
    """Where the song sounds: seconds from the first to the last frame within 50 dB of its loudest."""
    loud = np.nonzero(level > level.max() * 10 ** (-50 / 20))[0]
    if not len(loud):
        return 0.0, 0.0
    return float(loud[0] / FRAME_RATE), float((loud[-1] + 1) / FRAME_RATE)


def _pulse(spectrum: Spectrum) -> Floats:
    """Onset strength for beats: the whole range, with the low and middle bands (drums) counted more."""
    parts = [spectrum.flux, 0.8 * spectrum.band_flux["low"], 0.5 * spectrum.band_flux["mid"]]
    return np.asarray(sum(p / max(float(p.std()), 1e-6) for p in parts))


def track_beats(spectrum: Spectrum, audio: Singles) -> BeatTrack:
    """Find the beats.

    Args:
        spectrum: From :func:`zembi.core.song.spectrum.describe`.
        audio: The same mono samples, for placing the beats to the millisecond.
    """
    pulse = _pulse(spectrum)
    readings = tempo_readings(pulse, spectrum.band_flux["low"], spectrum.band_flux["mid"])
    bpm = refine_tempo(pulse, readings[0].bpm)
    start, end = audible_range(spectrum.level)
    fine, fine_rate = fine_envelope(audio)
    period = 60 / bpm
    straight = np.arange((straight_phase(pulse, bpm, FRAME_RATE) + _FLUX_LEAD_S) % period, end, period)
    straight = straight + _fine_shift(fine, fine_rate, straight, min(0.06, period / 5))
    followed = follow(pulse, local_periods(pulse, readings[0].bpm)) + _FLUX_LEAD_S
    steady = _strikes(pulse, straight) >= STEADY * _strikes(pulse, followed)
    beats = straight if steady else _settle(followed, fine, fine_rate)
    if not steady and len(beats) > 1:
        bpm = float(60 / np.median(np.diff(beats)))
    period = 60 / bpm
    beats = beats[(beats >= start - 0.25 * period) & (beats < end) & (beats >= 0)]
    readings = [TempoReading(bpm, readings[0].score), *readings[1:]]
    return BeatTrack(beats, bpm, steady, readings, _agreement(pulse, beats))


def _settle(beats: Floats, fine: Floats, fine_rate: float) -> Floats:
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
