"""Metre and downbeats from low hits, harmony changes and strokes."""

from dataclasses import dataclass

import numpy as np

from zembi.core.song.changes import changed
from zembi.core.song.spectrum import FRAME_RATE, Floats, Spectrum

#: What a metre other than four has to say at least.
_LEAST_SPEAKS = 5.0
#: A song begins on a beat where that is no farther from its first sound. Of 59 songs that do, 51 begin on the one: so
#: much that counts, as a logarithm for each bar.
_ON_A_BEAT_S, _BEGINS = 0.06, 0.8


@dataclass(frozen=True)
class BarReading:
    """Grouping of beats into bars.

    Attributes:
        metre: Beats in an ordinary bar.
        downs: Index of each downbeat among the beats, ascending; an odd bar is longer or shorter than ``metre``.
        scores: Logarithm of how likely each possible first beat is, but for a constant, shape (metre,); the first downbeat is ``downs[0] % metre``.
        division: Into how many a beat divides: 2, or 3 (two beats a bar are then 6/8, four 12/8).
    """

    metre: int
    downs: tuple[int, ...]
    scores: Floats
    division: int


def at_beats(envelope: Floats, beats: Floats, *, reach_s: float = 0.05) -> Floats:
    """The greatest value of an envelope near each beat."""
    reach = int(reach_s * FRAME_RATE)
    frames = np.clip(np.round(beats * FRAME_RATE).astype(int), 0, len(envelope) - 1)
    around = frames[:, None] + np.arange(-reach, reach + 1)
    return np.asarray(envelope[np.clip(around, 0, len(envelope) - 1)].max(axis=1))


def standard(values: Floats) -> Floats:
    """Values without their mean, in units of their spread."""
    return np.asarray((values - values.mean()) / max(float(values.std()), 1e-9))


def beat_evidence(spectrum: Spectrum, beats: Floats) -> Floats:
    """Log-likelihood of each beat to be the first of a bar, to be pooled over bars.

    Harmony changes there, over a beat and over a bar, timbre much on some, low drums are struck and cymbals less. The
    weights are those of a conditional logistic fit to 82 songs whose bars are known and five parts of each, rounded:
    each left out of the fit that judged it, the one was right on 73, and on 75 with where the song begins.
    """
    places = np.arange(len(beats), dtype=float)

    def change(sums: Floats, reach: float) -> Floats:
        return np.nan_to_num(changed(sums, beats, places, reach))

    def strokes(band: str) -> Floats:
        return standard(at_beats(spectrum.band_flux[band], beats, reach_s=0.03))

    harmony = 2.0 * change(spectrum.chroma_sums, 1) + 1.3 * change(spectrum.chroma_sums, 4)
    timbre = 3.5 * np.maximum(0.0, change(spectrum.mel_sums, 2) - 1)
    return harmony + timbre + 0.65 * strokes("low") - 0.8 * strokes("high")


def begins_on_a_beat(spectrum: Spectrum, beats: Floats) -> int | None:
    """The beat on which the song begins; None where it begins between beats: it fades in, or is cut out of another."""
    start, _ = spectrum.audible_range
    first = int(np.argmin(np.abs(beats - start)))
    return first if abs(float(beats[first]) - start) < _ON_A_BEAT_S else None


def place_speaks(evidence: Floats, metre: int) -> float:
    """F statistic of the evidence by a beat's place in bars of a length: about 1 where none of it follows."""
    centred = evidence - evidence.mean()
    means = np.array([centred[place::metre].mean() for place in range(metre)])
    share = float(np.mean(means**2)) / max(float(centred.var()), 1e-12)
    return share * len(evidence) / (metre - 1)


def find_division(spectrum: Spectrum, beats: Floats) -> int:
    """Division of beats, in two or in three: strokes at the third and two thirds, and few at the half.

    Swung eighths strike at two thirds but not at one third, and stay a division in two.
    """
    pulse = spectrum.flux + spectrum.band_flux["high"]
    lengths = np.diff(beats)

    def at(share: float) -> float:
        return float(at_beats(pulse, beats[:-1] + share * lengths, reach_s=0.03).mean())

    third, half, two_thirds = at(1 / 3), at(1 / 2), at(2 / 3)
    return 3 if min(third, two_thirds) > 1.25 * half and third > 0.5 * two_thirds else 2


def find_metre(beats: Floats, evidence: Floats, division: int) -> int:
    """Beats in an ordinary bar: the length by which a beat's place tells most of what happens on it, four if none does."""
    if division == 3:
        halves = [evidence[p::2].mean() for p in range(2)]
        first = int(np.argmax(halves))
        quarters = [evidence[(first + p) :: 4].mean() for p in (0, 2)]
        apart = abs(quarters[0] - quarters[1])
        return 4 if apart > abs(halves[0] - halves[1]) and 60 / np.median(np.diff(beats)) > 90 else 2
    speaks = {metre: place_speaks(evidence, metre) for metre in (3, 4, 5, 7)}
    metre = max(speaks, key=lambda m: speaks[m])
    return metre if speaks[metre] >= max(_LEAST_SPEAKS, 1.1 * speaks[4]) else 4


def _bar_cost(length: int, metre: int, odd: float) -> float:
    return 0.0 if length == metre else odd * (1.0 if length == metre // 2 or length == metre - 1 else 1.25)


def lay_bars(evidence: Floats, metre: int, odd: float, first: Floats | float = 0.0) -> tuple[int, ...]:
    """Downbeats that collect most evidence, where a bar of another length costs ``odd`` (dynamic programming).

    Args:
        evidence: For each beat, mean about 0.
        metre: Beats in an ordinary bar.
        odd: Cost of an odd bar, in units of evidence.
        first: Evidence for each possible first downbeat, shape (metre,), beside its own.
    """
    count = len(evidence)
    best = np.full(count + metre + 3, -np.inf)
    back = np.full(count + metre + 3, -1)
    best[:metre] = first
    for i in range(count):
        for length in range(max(2, metre - 2), metre + 3):
            value = best[i] + evidence[i] - _bar_cost(length, metre, odd)
            if value > best[i + length]:
                best[i + length], back[i + length] = value, i
    # The last downbeat may lie anywhere in what would be its bar.
    at = int(count + np.argmax(best[count : count + metre]))
    downs: list[int] = []
    while back[at] >= 0:
        at = int(back[at])
        downs.append(at)
    return tuple(downs[::-1])


def _stands(evidence: Floats, downs: tuple[int, ...], k: int, metre: int) -> bool:
    """True if the bars on both sides of an odd bar (the k-th) speak clearly for their own downbeats."""
    shift = (downs[k + 1] - downs[k]) % metre
    if shift == 0:
        return False
    before = np.array(downs[max(0, k - 16) : k], dtype=int)
    after = np.array(downs[k + 2 : k + 18], dtype=int)
    for side, move in ((before, shift), (after, -shift)):
        other = side + move
        usable = (other >= 0) & (other < len(evidence))
        gain = evidence[side[usable]] - evidence[other[usable]]
        if len(gain) < 3 or gain.mean() < 2.2 * gain.std() / np.sqrt(len(gain)) or gain.mean() <= 0:
            return False
    return True


def with_odd_bars(evidence: Floats, metre: int, first: Floats | float = 0.0) -> tuple[int, ...]:
    """Downbeats, with odd bars only where the music on both sides is clear about them; see :func:`lay_bars`."""
    odd = 4.0 * float(evidence.std())
    for _ in range(6):
        downs = lay_bars(evidence, metre, odd, first)
        strange = [k for k in range(len(downs) - 1) if downs[k + 1] - downs[k] != metre]
        if all(_stands(evidence, downs, k, metre) for k in strange):
            return downs
        odd *= 1.6
    return lay_bars(evidence, metre, 1e6, first)


def find_bars(spectrum: Spectrum, beats: Floats) -> BarReading:
    """Metre and downbeats of a song."""
    if len(beats) < 8:
        return BarReading(4, tuple(range(0, len(beats), 4)), np.zeros(4), 2)
    evidence = beat_evidence(spectrum, beats)
    division = find_division(spectrum, beats)
    metre = find_metre(beats, evidence, division)
    usual, start = np.zeros(metre), begins_on_a_beat(spectrum, beats)
    if start is not None:
        usual[start % metre] = _BEGINS
    downs = with_odd_bars(evidence - evidence.mean(), metre, usual * (len(beats) / metre))
    # Evidence for the other ways to count, bar by bar, so that odd bars do not blur it.
    scores = usual.copy()
    for shift in range(metre):
        moved = np.array([d + shift for d in downs if d + shift < len(beats)], dtype=int)
        scores[(downs[0] + shift) % metre] += evidence[moved].mean() if len(moved) else 0.0
    return BarReading(metre, downs, scores, division)
