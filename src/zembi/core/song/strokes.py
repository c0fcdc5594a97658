"""Strokes by instrument: kick, snare (with claps and rims), hats, cymbals (crash and ride), toms; of a mix or a drums stem.

A network says which instrument is struck in which frame; what is struck in the same place of the bars around makes a
stroke likelier there; the waveform says when.
"""

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import maximum_filter1d

from zembi.core.song.attack import AttackRises
from zembi.core.song.hits import Hit
from zembi.core.song.spectrum import FRAME_RATE, Floats, Singles, Spectrum

#: Instruments in the network's order.
INSTRUMENTS: tuple[str, ...] = ("kick", "snare", "hat", "crash", "ride", "tom")
#: Kinds of strokes that are looked for, and the network's instruments that each is one of.
_HEARD_AS: Mapping[str, tuple[str, ...]] = {
    "kick": ("kick",), "snare": ("snare",), "hat": ("hat",), "cymbal": ("crash", "ride"), "tom": ("tom",)
}  # fmt: skip
#: A cymbal is a crash or a ride where the one is heard so many times as much as the other.
_CLEARLY = 1.5
#: Least activation that is looked into, and probability from which a stroke is told.
_LEAST, _TOLD = 0.08, 0.5
#: Frames within which an instrument is struck once.
_APART = 4
#: Bars before and after whose same place is looked at, and frames within which a place is the same.
_BARS, _SAME_PLACE = 8, 3
#: What a peak's probability is made of (logistic), by instrument: a constant, its own activation, and that in the same place
#: of the bars around; fitted on rendered pieces that the network was not. Hats and cymbals keep their place in the bar,
#: kicks and snares less so, toms not at all.
_SCORES: Mapping[str, tuple[float, float, float]] = {
    "kick": (-1.2, 1.6, 2.0), "snare": (-2.4, 1.6, 2.0), "hat": (-5.1, 1.6, 8.0), "cymbal": (-3.6, 1.6, 8.0),
    "tom": (-1.8, 1.6, 0.0),
}  # fmt: skip
#: Sum of the three frames about a stroke that is heard for certain.
_WHOLE = 1.6
#: Mean activation in the same place where too few bars are known.
_UNKNOWN_SAME = 0.3
#: Instruments that are played as a carpet, and strokes a bar from which they are.
_CARPETS: frozenset[str] = frozenset({"hat", "cymbal", "ride"})
_CARPET, _BAR_S = 3, 2.0
#: How soon after another a stroke is struck together with it, in seconds.
_TOGETHER_S = 0.025
#: Band (of the attacks) in which each instrument sounds, low to high.
_SOUNDS_IN: Mapping[str, int] = {
    "kick": 0, "snare": 2, "hat": 2, "cymbal": 2, "crash": 2, "ride": 2, "tom": 1
}  # fmt: skip
#: Instruments that drown the loudness of another where they are struck with it; fewest strokes that tell what is usual.
_DROWNED_BY: Mapping[str, tuple[str, ...]] = {
    "kick": (), "snare": (), "tom": ("kick", "snare"), "hat": ("kick", "snare", "tom", "cymbal"),
    "cymbal": ("kick", "snare", "tom", "hat"), "crash": (), "ride": ("kick", "snare", "tom", "hat", "crash"),
}  # fmt: skip
_FEWEST = 6
#: Strength by how much louder a stroke is than the usual of its instrument, in dB; and in a carpet.
_BY_LOUDNESS = ([-15.0, -6.0, 0.0, 5.0, 6.0, 12.0], [0.1, 0.5, 0.6, 0.7, 0.75, 1.0])
_BY_CARPET = ([-15.0, -6.0, 0.0, 4.0, 7.0, 12.0], [0.1, 0.15, 0.3, 0.5, 0.75, 1.0])


def find_strokes(spectrum: Spectrum, rises: AttackRises, downbeats: Sequence[float]) -> dict[str, list[Hit]]:
    """Strokes of every instrument, ascending.

    Args:
        spectrum: Of the song, or of a drums stem at its place.
        rises: Of the same sound.
        downbeats: Times at which bars begin, ascending; fewer than three tell nothing.
    """
    bars = np.asarray(downbeats)
    times: dict[str, Floats] = {}
    sure: dict[str, Floats] = {}
    for name, instruments in _HEARD_AS.items():
        rows = spectrum.drums[:, [INSTRUMENTS.index(i) for i in instruments]]
        heard = rows.max(axis=1)
        frames, exact = _peaks(heard)
        likely = _likely(heard, frames, exact / FRAME_RATE, bars, _SCORES[name])
        told = likely >= _TOLD
        times[name], sure[name] = rises.time_of(exact[told] / FRAME_RATE), likely[told]
        if len(instruments) > 1:
            # The pattern tells that a cymbal is struck; which one, the sound of that stroke alone.
            sums = _about(rows, frames[told])
            for k, instrument in enumerate(instruments):
                clear = sums[:, k] > _CLEARLY * np.delete(sums, k, axis=1).max(axis=1)
                times[instrument], sure[instrument] = times[name][clear], sure[name][clear]
    found = {}
    for name, at in times.items():
        over = np.concatenate([times[other] for other in _DROWNED_BY[name]] or [np.zeros(0)])
        loudness = _by_usual(rises.loudness_at(at, _SOUNDS_IN[name]), at, over)
        strengths = _strengths(loudness, at, bars, carpets=name in _CARPETS)
        hits = zip(at, strengths, sure[name], strict=True)
        found[name] = sorted((Hit(float(t), float(s), float(p)) for t, s, p in hits), key=lambda h: h.at_s)
    return found


def _about(heard: Singles, frames: NDArray[np.intp]) -> Floats:
    """Sum of three frames about each peak: what lies between two frames is as high in both, so it does not depend on where."""
    return np.asarray(sum(heard[frames + k].astype(float) for k in (-1, 0, 1)))


def _by_usual(loudness: Floats, times: Floats, over: Floats) -> Floats:
    """Loudness against the usual of the instrument, in dB; as usual where something louder is struck at the same time."""
    drowned = _near(times, over)
    heard = loudness[~drowned] if (~drowned).sum() >= _FEWEST else loudness
    return np.where(drowned, 0.0, loudness - float(np.median(heard))) if len(loudness) else loudness


def _near(times: Floats, others: Floats) -> NDArray[np.bool_]:
    """True for each time that another is struck together with."""
    others = np.sort(others)
    first, last = (np.searchsorted(others, times + k * _TOGETHER_S) for k in (-1, 1))
    return np.asarray(last > first)


def _peaks(heard: Singles) -> tuple[NDArray[np.intp], Floats]:
    """Frames at which an activation peaks, and where exactly between the frames."""
    if len(heard) < 3:
        return np.zeros(0, np.intp), np.zeros(0)
    highest = maximum_filter1d(heard, 2 * _APART - 1)[1:-1]
    inner = heard[1:-1]
    frames = np.flatnonzero((inner >= _LEAST) & (inner == highest)) + 1
    # Of equal neighbours the first.
    frames = frames[np.diff(frames, prepend=-_APART) >= _APART] if len(frames) else frames
    before, top, after = (heard[frames + k].astype(float) for k in (-1, 0, 1))
    bend = np.maximum(2 * top - before - after, 1e-9)
    return frames, frames + np.clip((after - before) / (2 * bend), -0.5, 0.5)


def _likely(
    heard: Singles,
    frames: NDArray[np.intp],
    times: Floats,
    downbeats: Floats,
    scores: tuple[float, float, float],
) -> Floats:
    """Probability of a stroke at each peak, by its own activation and by what is heard in that place of other bars."""
    base, by_own, by_same = scores
    own = np.clip(_about(heard, frames) / _WHOLE, 1e-3, 1 - 1e-3)
    score = base + by_own * np.log(own / (1 - own)) + by_same * _same_place(heard, times, downbeats)
    return np.asarray(1 / (1 + np.exp(-score)))


def _same_place(heard: Singles, times: Floats, downbeats: Floats) -> Floats:
    """Mean activation in the same place of the bars around; the usual one where there are too few."""
    if len(downbeats) < 4 or not len(times):
        return np.full(len(times), _UNKNOWN_SAME)
    near = maximum_filter1d(heard, 2 * _SAME_PLACE + 1)
    bars = np.searchsorted(downbeats, times + _SAME_PLACE / FRAME_RATE, side="right") - 1
    lengths = np.diff(downbeats, append=2 * downbeats[-1] - downbeats[-2])
    place = (times - downbeats[np.clip(bars, 0, None)]) / lengths[np.clip(bars, 0, None)]
    others = bars[:, None] + np.array([k for k in range(-_BARS, _BARS + 1) if k])
    known = (others >= 0) & (others < len(downbeats)) & (bars >= 0)[:, None]
    others = np.clip(others, 0, len(downbeats) - 1)
    at = np.round((downbeats[others] + place[:, None] * lengths[others]) * FRAME_RATE).astype(int)
    known &= (at >= 0) & (at < len(near))
    values = np.where(known, near[np.clip(at, 0, len(near) - 1)], 0.0)
    count = known.sum(axis=1)
    return np.where(count >= 3, values.sum(axis=1) / np.maximum(count, 1), _UNKNOWN_SAME)


def _strengths(loudness: Floats, times: Floats, downbeats: Floats, *, carpets: bool) -> Floats:
    """Strength of each stroke by its loudness against the usual: what is played as usual from 0.5 on, what is played softly below, accents above.

    Instruments that lay a carpet keep it below 0.5: of those only what is harder than it stands out.
    """
    if not len(loudness):
        return loudness
    strength = np.interp(loudness, *_BY_LOUDNESS)
    if carpets:
        bar = float(np.median(np.diff(downbeats))) if len(downbeats) > 1 else _BAR_S
        around = np.searchsorted(times, times + bar) - np.searchsorted(times, times - bar)
        strength = np.where(around >= 2 * _CARPET, np.interp(loudness, *_BY_CARPET), strength)
    return strength
