"""Which of the places of a click are the beats, and which lie half-way or a third of the way between.

Strokes alone are wrong on one song in five: off-beat hats and guitars strike as hard, and low ones tell least of all,
since basses are syncopated. What changes on beats (harmony, timbre) is pooled over the whole song.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import scipy

from zembi.core.song.bars import at_beats, beat_means, standard
from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum
from zembi.core.song.tempo import FASTEST, SLOWEST

#: Music divides a beat into about four strokes at most, whatever its tempo.
_STROKES_A_BEAT = 4.0
#: By how much more a place has to look like a beat to be taken for it, where both can be by chance.
_CLEARLY = 0.5


def _change(rows: Floats, reach: int) -> Floats:
    """How much the mean of ``reach`` places from each on differs from that of those before; 0 at the ends."""
    sums = np.concatenate([np.zeros((1, rows.shape[1])), np.cumsum(rows, axis=0)])
    out = np.zeros(len(rows))
    middle = np.arange(reach, len(rows) - reach + 1)
    after = sums[middle + reach] - sums[middle]
    before = sums[middle] - sums[middle - reach]
    out[middle] = np.linalg.norm(after - before, axis=1) / reach
    return out


def _changes(spectrum: Spectrum, places: Floats) -> list[Floats]:
    """How much timbre and harmony change at each place, over one and over two places; standardised."""
    mel = beat_means(spectrum.mel, places)
    chroma = beat_means(spectrum.chroma, places)
    chroma /= np.maximum(np.linalg.norm(chroma, axis=1, keepdims=True), 1e-9)
    return [standard(_change(rows, reach)) for rows in (mel, chroma) for reach in (1, 2)]


def place_evidence(spectrum: Spectrum, pulse: Floats, places: Floats) -> Floats:
    """How much each place of a grid of half-beats looks like a beat; shape (places,)."""
    parts = [
        0.3 * standard(at_beats(pulse, places)),
        0.25 * standard(at_beats(spectrum.band_flux["high"], places)),
        *(0.5 * change for change in _changes(spectrum, places)),
    ]
    return np.asarray(np.sum(parts, axis=0))


def half_way_gain(spectrum: Spectrum, pulse: Floats, beats: Floats) -> float:
    """How much more the places half-way between a straight grid look like beats than its own; above 0: they are."""
    if len(beats) < 16:
        return 0.0
    on, between = _looks(spectrum, pulse, beats, 2)
    return between - on


def thirds_aside(spectrum: Spectrum, pulse: Floats, beats: Floats) -> int:
    """How many thirds of a beat after a straight grid the beats are: 0, 1 or 2.

    Where beats divide in three, the loudest of the three strokes can be one in between. Elsewhere less is struck at
    thirds than half-way. Of 204 songs and parts of songs none looked like beats a third away from them by more than 0.1.
    """
    if len(beats) < 16:
        return 0
    steps = np.diff(beats)
    struck = [float(at_beats(pulse, beats[:-1] + part * steps).mean()) for part in (1 / 2, 1 / 3, 2 / 3)]
    if struck[0] >= max(struck[1:]):
        return 0
    looks = _looks(spectrum, pulse, beats, 3)
    best = int(np.argmax(looks))
    return best if looks[best] - looks[0] > _CLEARLY and struck[best] > struck[0] else 0


def _looks(spectrum: Spectrum, pulse: Floats, beats: Floats, parts: int) -> list[float]:
    """How much each of the parts that beats divide in looks like the beat: all of them, and the best of four of them."""
    evidence = place_evidence(spectrum, pulse, _between(beats, parts))
    places = [evidence[k::parts] for k in range(parts)]
    return [float(p.mean() + 0.5 * max(p[k::4].mean() for k in range(4))) for p in places]


def _between(beats: Floats, parts: int = 2) -> Floats:
    """The beats, and what divides each from the next in so many parts."""
    steps = np.diff(beats) / parts
    return np.sort(np.concatenate([beats, *(beats[:-1] + k * steps for k in range(1, parts))]))


def strokes_a_second(pulse: Floats) -> float:
    """How many clear strokes a song has in a second."""
    peaks, _ = scipy.signal.find_peaks(
        pulse, height=np.percentile(pulse, 80), distance=round(0.046 * FRAME_RATE)
    )
    return len(peaks) / (len(pulse) / FRAME_RATE)


def level_score(spectrum: Spectrum, beats: Floats, density: float, heard: float) -> float:
    """How well a straight grid counts the song, among its half and its double.

    What counts: how well the tempo explains the strokes; that people count some tempi rather than others, and that
    music divides a beat into about four; that high strokes differ little between neighbouring beats; that harmony and
    timbre change on the best place of a bar rather than half-way after it. The weights are those of a logistic fit to
    pairs of levels, rounded: of 40 played, recorded and made songs each left out once, 37 were right, where strokes
    and the prior alone were right on 31.

    Args:
        spectrum: Of the song.
        beats: A straight grid.
        density: From :func:`strokes_a_second`.
        heard: From :func:`zembi.core.song.tempo.strokes_explained`.
    """
    places = _between(beats)
    high = at_beats(spectrum.band_flux["high"], places, reach_s=0.03)
    in_turn = abs(float(high[0::4].mean() - high[2::4].mean())) / max(float(high.mean()), 1e-9)
    change = standard(np.asarray(np.sum(_changes(spectrum, places), axis=0)))
    of_bar = [change[k::8].mean() for k in range(8)]
    on_bar = float(max(of_bar[0::2]) - max(of_bar[1::2]))
    bpm = 60 / float(np.median(np.diff(beats)))
    pace = float(np.log2(bpm / 120))
    divided = float(np.log2(max(density * 60 / bpm, 1e-3) / _STROKES_A_BEAT))
    usual = 1.0 * pace - 1.3 * pace**2 - 0.95 * divided**2
    return float(np.log(max(heard, 1e-3))) + usual + 1.15 * on_bar - 0.85 * in_turn


@dataclass(frozen=True)
class Level:
    """A straight grid among its half and its double: by how much it counts better than the next, and what that is.

    ``factor`` is 0.5, 1 or 2 against the grid that was given; ``rival`` the next best against the one chosen.
    """

    beats: Floats
    factor: float
    ahead: float
    rival: float


def best_level(
    spectrum: Spectrum, pulse: Floats, beats: Floats, density: float, heard: Callable[[float], float]
) -> Level:
    """The grid that counts the song best: the one given, every other beat of it, or twice as many.

    Args:
        spectrum: Of the song.
        pulse: Onset strength for beats.
        beats: A straight grid.
        density: From :func:`strokes_a_second`, of the song as it is: in its own time strokes run into each other.
        heard: How well a tempo explains the strokes, above 0.
    """
    if len(beats) < 16:
        return Level(beats, 1.0, 0.0, 2.0)
    every_other = beats[1:] if _weaker_first(spectrum, pulse, beats) else beats
    found = []
    for factor, grid in ((1.0, beats), (0.5, every_other[::2]), (2.0, _between(beats))):
        bpm = 60 / float(np.median(np.diff(grid)))
        if SLOWEST <= bpm <= FASTEST:
            found.append((level_score(spectrum, grid, density, heard(bpm)), factor, grid))
    if not found:
        return Level(beats, 1.0, 0.0, 2.0)
    found.sort(key=lambda f: -f[0])
    best = found[0]
    if len(found) < 2:
        return Level(best[2], best[1], 4.0, 2.0)
    return Level(best[2], best[1], best[0] - found[1][0], found[1][1] / best[1])


def _weaker_first(spectrum: Spectrum, pulse: Floats, beats: Floats) -> bool:
    """Whether the odd beats of a grid look more like beats than the even ones."""
    evidence = place_evidence(spectrum, pulse, beats)
    return bool(evidence[1::2].mean() > evidence[0::2].mean())
