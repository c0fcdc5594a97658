"""Which of the places of a click are the beats, and which lie half-way between.

Strokes alone are wrong on one song in five: off-beat hats and guitars strike as hard. What changes on beats (harmony,
timbre, low strokes) is pooled over the whole song.
"""

import numpy as np

from zembi.core.song.bars import at_beats, beat_means, standard
from zembi.core.song.spectrum import Floats, Spectrum
from zembi.core.song.tempo import FASTEST, prior

#: By how much another level has to count better.
_CLEARLY = 0.3


def _change(rows: Floats, reach: int) -> Floats:
    """How much the mean of ``reach`` places from each on differs from that of those before; 0 at the ends."""
    sums = np.concatenate([np.zeros((1, rows.shape[1])), np.cumsum(rows, axis=0)])
    out = np.zeros(len(rows))
    middle = np.arange(reach, len(rows) - reach + 1)
    after = sums[middle + reach] - sums[middle]
    before = sums[middle] - sums[middle - reach]
    out[middle] = np.linalg.norm(after - before, axis=1) / reach
    return out


def place_evidence(spectrum: Spectrum, pulse: Floats, places: Floats) -> Floats:
    """How much each place of a grid of half-beats looks like a beat; shape (places,)."""
    mel = beat_means(spectrum.mel, places)
    chroma = beat_means(spectrum.chroma, places)
    chroma /= np.maximum(np.linalg.norm(chroma, axis=1, keepdims=True), 1e-9)
    parts = [
        0.5 * standard(at_beats(pulse, places)),
        0.5 * standard(at_beats(spectrum.band_flux["low"], places)),
        *(0.5 * standard(_change(mel, reach)) for reach in (1, 2)),
        *(0.5 * standard(_change(chroma, reach)) for reach in (1, 2)),
    ]
    return np.asarray(np.sum(parts, axis=0))


def is_half_way(spectrum: Spectrum, pulse: Floats, beats: Floats) -> bool:
    """Whether a straight grid lies half-way between the beats rather than on them."""
    if len(beats) < 16:
        return False
    evidence = place_evidence(spectrum, pulse, _between(beats))
    on, between = evidence[0::2], evidence[1::2]
    spread = float(evidence.std()) / np.sqrt(len(on))

    def best_of_bar(values: Floats) -> float:
        return float(max(values[k::4].mean() for k in range(4)))

    gain = between.mean() - on.mean() + 0.5 * (best_of_bar(between) - best_of_bar(on))
    return bool(gain > spread)


def _between(beats: Floats) -> Floats:
    return np.sort(np.concatenate([beats, (beats[:-1] + beats[1:]) / 2]))


def level_score(spectrum: Spectrum, pulse: Floats, beats: Floats) -> float:
    """How well a straight grid counts the song, among its half and its double.

    The beat is the level whose strokes differ most from those half-way. Much alternation between neighbouring beats
    speaks for counting half as fast; and people count some tempi rather than others.
    """
    places = _between(beats)
    strokes = at_beats(pulse, places, reach_s=0.03)
    evidence = place_evidence(spectrum, pulse, places)
    usual, spread = max(float(strokes.mean()), 1e-9), max(float(evidence.std()), 1e-9)
    apart = float(strokes[0::2].mean() - strokes[1::2].mean()) / usual
    in_turn = abs(float(strokes[0::4].mean() - strokes[2::4].mean())) / usual
    clear = float(evidence[0::2].mean() - evidence[1::2].mean()) / spread
    bpm = 60 / np.median(np.diff(beats))
    return apart + 0.5 * clear - 0.5 * in_turn + 0.8 * float(np.log(prior(np.array([bpm])))[0])


def counts_double(spectrum: Spectrum, pulse: Floats, beats: Floats) -> bool:
    """Whether twice as many beats count the song clearly better: the walking pulse pulls fast songs down.

    The other way round strokes do not tell: a slow song with quick hats and a fast one look the same.
    """
    if len(beats) < 32 or 120 / float(np.median(np.diff(beats))) > FASTEST:
        return False
    gain = level_score(spectrum, pulse, _between(beats)) - level_score(spectrum, pulse, beats)
    return gain > _CLEARLY
