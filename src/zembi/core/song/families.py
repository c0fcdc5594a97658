"""Families of tempi: a tempo with its half, its double and so on, and which of them a song is in."""

from collections.abc import Sequence

import numpy as np

from zembi.core.song.pointer import NEAR, divides_in_three, family_score
from zembi.core.song.spectrum import Floats
from zembi.core.song.tempo import TempoReading

#: How many families of tempo are followed, and by how much another has to tell more than the first to be taken for it:
#: by more the less its reading scores, to this power.
FOLLOWED, TELLS_MORE, _SCORES = 3, 1.3, 0.25
#: Thirds of a beat, two by two, never tell so many times what the beat tells.
_TELLS_ALL = 8.0
#: By how much clearer (logarithm) a beat has to divide in three to be taken so: fewer do. And how many times what else
#: speaks for the faster one (logarithm, from where it is a little less than for the slower) it has to be clearer.
_RARER, _AGAINST, _A_LITTLE = 0.5, 5.0, 0.2
#: A reading that scores less than this share of the first is of no family worth following.
_LEAST_READING = 0.05
#: Octaves from which on a family is followed for itself: what the reach about a tempo does not take in.
_ANOTHER = NEAR / np.log(2)


def _octaves_apart(bpm: float, other: float) -> float:
    """Distance of a tempo to another or its half, double and so on, whichever is nearest, in octaves."""
    apart = float(np.log2(bpm / other))
    return apart - round(apart)


def akin(bpm: float, other: float) -> bool:
    """True if a tempo is another, or its half, double or fourfold."""
    return abs(_octaves_apart(bpm, other)) < 0.03


def _thirds_of(bpm: float, other: float) -> bool:
    """True if another tempo is that of the thirds of a beat, two by two."""
    return bool(abs(abs(_octaves_apart(other, bpm)) - np.log2(4 / 3)) < 0.03)


def by_family(
    readings: Sequence[TempoReading], envelopes: Sequence[Floats]
) -> tuple[list[TempoReading], float]:
    """Readings with those first whose family tells most of the song's pattern, and how far that is ahead (logarithm)."""
    families: list[TempoReading] = []
    for reading in readings:
        # A tempo nearby would be followed to the same pulse.
        far = all(abs(_octaves_apart(reading.bpm, f.bpm)) > _ANOTHER for f in families)
        if far and reading.score >= _LEAST_READING * readings[0].score:
            families.append(reading)
    families = families[:FOLLOWED]
    told = [max(1.0, family_score(envelopes, f.bpm)) for f in families]
    best = int(np.argmax(told))
    most = np.inf
    scores = families[best].score / families[0].score if families[0].score > 0 else 1.0
    if told[best] * scores**_SCORES < TELLS_MORE * told[0]:
        best = 0
    elif told[best] < _TELLS_ALL * told[0] and _thirds_of(families[0].bpm, families[best].bpm):
        # They have the same strokes, of which the faster one tells more whichever it is.
        else_ = float(np.log(told[best] / told[0] * scores))
        clearer = divides_in_three(envelopes, families[0].bpm) - _RARER
        clearer -= _AGAINST * max(0.0, else_ + _A_LITTLE)
        most = abs(clearer)
        if clearer > 0:
            told[best] = 1.0
            best = 0
    others = [
        t
        for f, t in zip(families, told, strict=True)
        # Where a tempo moves much, another one near it is followed to the same pulse.
        if not (abs(_octaves_apart(f.bpm, families[best].bpm)) < 2 * _ANOTHER and t > 0.95 * told[best])
    ]
    ahead = float(np.log(told[best] / max(others))) if others else 4.0

    first = families[best].bpm
    within = [r for r in readings if akin(r.bpm, first)]
    return [*within, *(r for r in readings if not akin(r.bpm, first))], max(0.0, min(ahead, most))
