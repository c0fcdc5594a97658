"""Confidence of the grid, as a share of grids with such signs that are right, and what the doubt is about."""

from dataclasses import replace
from typing import Literal

import numpy as np

from zembi.core.song.beats import BeatTrack, Signs

#: What a grid may be wrong about: half or twice as fast, half a beat aside, another tempo altogether.
Doubt = Literal["", "half", "double", "aside", "tempo"]

#: Why a passage is in doubt.
Reason = Literal["free", "unlike"]
#: A passage shorter than this many seconds is not worth a look; ones nearer to each other than this are one.
_LEAST_S, _NEAR_S = 4.0, 3.0

#: How likely the level and the place are by how far they are ahead (slope and offset of a logistic): found, like what
#: follows, on 678 played, recorded and made songs, swaying ones, short ones and ones of which little is heard.
_LEVEL, _ASIDE = (1.1, 0.7), (1.9, -0.2)
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


def sureness(signs: Signs, seconds: float) -> float:
    """Confidence of the beats, 0..1.

    Args:
        signs: Of the beats.
        seconds: Length of the song.
    """
    most, pace = _FAMILY
    sure = 1 - most * float(np.exp(-pace * max(0.0, signs.family)))
    if signs.alike > 0:
        sure *= _likely(signs.level, *_LEVEL) * _likely(signs.aside, *_ASIDE)
        sure *= 1 - _UNLIKE * (1 - signs.alike)
    else:
        sure *= _FREE
    if signs.bpm > _FAST_BPM:
        sure *= _FAST
    return sure * min(1.0, 1 - _SHORT * float(np.log(_USUAL_S / max(1.0, min(seconds, _USUAL_S)))))


def doubt_of(signs: Signs, seconds: float) -> Doubt:
    """The doubt whose removal would raise the confidence most; "" where it is sure enough."""
    now = sureness(signs, seconds)
    if now >= 0.9:
        return ""
    clear: dict[Doubt, float] = {"tempo": sureness(replace(signs, family=9.0), seconds)}
    if signs.alike > 0:
        clear["half" if signs.rival < 1 else "double"] = sureness(
            replace(signs, level=9.0, bpm=min(signs.bpm, _FAST_BPM)), seconds
        )
        clear["aside"] = sureness(replace(signs, aside=9.0), seconds)
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
