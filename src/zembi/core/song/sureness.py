"""Sureness of the grid: shares of grids with such signs whose place, level and bars are right, and what the doubt is about."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from zembi.core.song.beats import BeatTrack, Signs

#: What a grid may be wrong about: half or twice as fast, half a beat aside, another tempo altogether.
Doubt = Literal["", "half", "double", "aside", "tempo"]

#: Why a passage is in doubt.
Reason = Literal["free", "unlike"]
#: A passage shorter than this many seconds is not worth a look; ones nearer to each other than this are one.
_LEAST_S, _NEAR_S = 4.0, 3.0

#: How likely each is by how far it is ahead of its rivals (slope and offset of a logistic). Level and place, like what
#: follows, were found on 678 played, recorded and made songs, swaying ones, short ones and ones of which little is heard,
#: and made flatter by 153 renderings of 17 pieces, by which the bars' were found, too.
_LEVEL, _PLACE, _BAR = (0.9, 0.0), (1.3, -0.2), (1.2, -1.2)
#: A grid that is so sure is not doubted.
_SURE = 0.9
#: A family of tempi that is ahead by little takes off at most this share, less as it is ahead by more.
_FAMILY = (0.25, 3.0)
#: What a song loses as its windows are less alike on the click than wholly.
_UNLIKE = 0.6
#: Of songs that are counted faster than this, some more are counted half as fast by people.
_FAST_BPM, _FAST = 155.0, 0.93
#: Where no click is kept there are no signs of level and place.
_FREE = 0.9
#: What a song loses for each e-th part that it is shorter than a minute.
_SHORT, _USUAL_S = 0.08, 60.0


def _likely(ahead: float, slope: float, offset: float) -> float:
    return float(1 / (1 + np.exp(-slope * max(0.0, ahead) - offset)))


@dataclass(frozen=True)
class Sureness:
    """Probabilities, 0..1, that each thing about a grid is right.

    Attributes:
        place: Its beats lie on the music's, or on each second or half of them.
        level: It is counted as fast as people count it, if they do.
        bar: Its bars begin where the music's do, if both are so.
        rival: Factor of the tempo at which it is counted next: half or twice.
    """

    place: float
    level: float
    bar: float
    rival: float = 2.0

    @property
    def grid(self) -> float:
        """Probability that the beats are right."""
        return self.place * self.level


def sureness(signs: Signs, seconds: float, bar_scores: Sequence[float] = ()) -> Sureness:
    """Estimate the sureness of a grid.

    Args:
        signs: Of the beats.
        seconds: Length of the song.
        bar_scores: Logarithm of how likely each beat of the bar is the first, but for a constant.
    """
    most, pace = _FAMILY
    place, level = 1 - most * float(np.exp(-pace * max(0.0, signs.family))), 1.0
    if signs.alike > 0:
        place *= _likely(signs.aside, *_PLACE) * (1 - _UNLIKE * (1 - signs.alike))
        level *= _likely(signs.level, *_LEVEL)
    else:
        place *= _FREE
    if signs.bpm > _FAST_BPM:
        level *= _FAST
    place *= min(1.0, 1 - _SHORT * float(np.log(_USUAL_S / max(1.0, min(seconds, _USUAL_S)))))
    first, *others = sorted(bar_scores, reverse=True) or [0.0]
    return Sureness(place, level, _likely(first - others[0], *_BAR) if others else 1.0, signs.rival)


def doubt_of(signs: Signs, seconds: float) -> Doubt:
    """The doubt whose removal would raise the confidence most; "" where it is sure enough."""
    now = sureness(signs, seconds).grid
    if now >= _SURE:
        return ""
    clear: dict[Doubt, float] = {"tempo": sureness(replace(signs, family=9.0), seconds).grid}
    if signs.alike > 0:
        clear["half" if signs.rival < 1 else "double"] = sureness(
            replace(signs, level=9.0, bpm=min(signs.bpm, _FAST_BPM)), seconds
        ).grid
        clear["aside"] = sureness(replace(signs, aside=9.0), seconds).grid
    return max(clear, key=lambda kind: clear[kind])


def doubtful_passages(track: BeatTrack) -> list[tuple[float, float, Reason]]:
    """Passages whose beats may be wrong though those around them are sure: (start, end, why), on beats, ascending.

    None where the song as a whole moves: there is no straight time around it to doubt it by.
    """
    if len(track.beats) < 2 or not any(s.steady for s in track.stretches):
        return []
    marked: list[tuple[float, float, Reason]] = [
        *((s.start_s, s.end_s, "free") for s in track.stretches if not s.steady),
        *((start, end, "unlike") for start, end in track.unlike),
    ]
    out: list[tuple[float, float, Reason]] = []
    for start, end, reason in sorted(marked):
        if out and start - out[-1][1] < _NEAR_S:
            out[-1] = (out[-1][0], max(end, out[-1][1]), out[-1][2])
        else:
            out.append((start, end, reason))

    def beat(at: float) -> float:
        return float(track.beats[int(np.argmin(np.abs(track.beats - at)))])

    return [(beat(a), beat(b), reason) for a, b, reason in out if beat(b) - beat(a) > _LEAST_S]
