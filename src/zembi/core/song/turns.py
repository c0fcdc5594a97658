"""Turns of the music that no drum marks: changes of chord, and entries of voice and instruments."""

from collections.abc import Sequence

import numpy as np
from scipy.ndimage import maximum_filter1d, uniform_filter1d

from zembi.core.song.attack import AttackRises
from zembi.core.song.changes import differences
from zembi.core.song.hits import Hit
from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum
from zembi.core.song.voice import HOP_S

#: Distance of a beat's chroma (of unit length) from that before it, as a share of the song's large ones (their ninth
#: tenth), that is half as strong as can be; the least that is a change at all.
_HALF_OF_LARGE, _LEAST_CHANGE = 0.5, 0.25
#: Parts of the range that come in or stop by themselves, and change of one's level (natural logarithm) that is half.
_PARTS, _ENTERS_AT, _LEAST_ENTRY = 8, 1.1, 0.6
#: Beats over which what sounds before and after an entry is compared.
_OVER_BEATS = 4.0
#: Seconds for which a voice has to sing, or be silent, on both sides of an entry.
_VOICE_S = 1.5


def chord_changes(spectrum: Spectrum, beats: Sequence[float], rises: AttackRises) -> list[Hit]:
    """Beats on which the harmony changes more than on their neighbours, the stronger the more.

    Args:
        spectrum: Of the song.
        beats: Song times, ascending.
        rises: Of the same sound.
    """
    at = np.asarray(beats)
    if len(at) < 4:
        return []
    change = np.nan_to_num(differences(spectrum.chroma_sums, at, np.arange(len(at), dtype=float), 1.0))
    chosen = np.flatnonzero((change == maximum_filter1d(change, 3)) & (change > _LEAST_CHANGE))
    if not len(chosen):
        return []
    times = rises.time_of(at[chosen])
    half = _HALF_OF_LARGE * float(np.quantile(change[chosen], 0.9))
    strengths = np.clip(0.5 * change[chosen] / half, 0, 1)
    return [Hit(float(t), float(s)) for t, s in zip(times, strengths, strict=True)]


def entries(
    spectrum: Spectrum, voice: Sequence[float], beats: Sequence[float], rises: AttackRises
) -> list[Hit]:
    """Moments at which a voice or an instrument comes in or stops.

    Args:
        spectrum: Of the song.
        voice: Probability of a voice, 0..1, every ``HOP_S`` seconds.
        beats: Song times, ascending.
        rises: Of the same sound.
    """
    found = _of_instruments(spectrum, np.asarray(beats), rises) + _of_voice(np.asarray(voice))
    out: list[Hit] = []
    for hit in sorted(found, key=lambda h: h.at_s):
        if out and hit.at_s - out[-1].at_s < 0.5:
            out[-1] = max(out[-1], hit, key=lambda h: h.strength)
        else:
            out.append(hit)
    return out


def _of_instruments(spectrum: Spectrum, beats: Floats, rises: AttackRises) -> list[Hit]:
    if len(beats) < 3 * _OVER_BEATS:
        return []
    index = np.arange(len(beats), dtype=float)

    def level(since: Floats, until: Floats) -> Floats:
        a, b = (np.round(np.interp(k, index, beats) * FRAME_RATE).astype(int) for k in (since, until))
        a, b = np.clip(a, 0, spectrum.frames - 1), np.clip(b, 1, spectrum.frames)
        mean = (spectrum.mel_sums[b] - spectrum.mel_sums[a]) / np.maximum(b - a, 1)[:, None]
        return np.asarray(mean.reshape(len(mean), _PARTS, -1).mean(axis=2))

    change = np.abs(level(index, index + _OVER_BEATS) - level(index - _OVER_BEATS, index)).max(axis=1)
    inside = (index >= _OVER_BEATS / 2) & (index <= len(beats) - _OVER_BEATS / 2)
    peaks = (change == maximum_filter1d(change, 5)) & (change > _LEAST_ENTRY) & inside
    chosen = np.flatnonzero(peaks)
    strengths = np.clip(0.5 * change[chosen] / _ENTERS_AT, 0, 1)
    return [Hit(float(t), float(s)) for t, s in zip(rises.time_of(beats[chosen]), strengths, strict=True)]


def _of_voice(voice: Floats) -> list[Hit]:
    size = round(_VOICE_S / HOP_S)
    if len(voice) < 3 * size:
        return []
    mean = uniform_filter1d(voice, size)
    after, before = np.roll(mean, -(size // 2)), np.roll(mean, size // 2 + 1)
    step = np.abs(after - before)
    step[:size], step[-size:] = 0, 0
    chosen = np.flatnonzero((step == maximum_filter1d(step, 2 * size)) & (step > 0.5))
    return [Hit(float(k * HOP_S), float(step[k])) for k in chosen]
