"""Titles as timed text: the words and when they are seen, for players and other programs."""

from collections.abc import Iterable
from fractions import Fraction

from zembi.core.interchange.lists import Cue, write_vtt
from zembi.core.interchange.lyrics import write_lrc, write_srt
from zembi.core.programme.flatten import whole_titles
from zembi.core.programme.model import Layer, Title
from zembi.core.song.lyrics import LyricLine

#: Formats of timed text by their endings, each with what it cannot hold of titles.
NOT_HELD = {
    "srt": "Where titles stand, their letters and what is done to them is not held.",
    "vtt": "Where titles stand, their letters and what is done to them is not held.",
    "lrc": "Only when titles begin is held: not how long they stay, where, their letters, or what is done to them.",
}


def title_cues(layers: Iterable[Layer], rate: Fraction) -> list[Cue]:
    """Titles of a programme in the order in which they come, in seconds of the film; their lines stay lines."""
    cues = [
        Cue(float(s.start / rate), float(s.end / rate), s.content.card.text)
        for layer in layers
        for s in whole_titles(layer)
        if isinstance(s.content, Title)
    ]
    return sorted(cues, key=lambda c: (c.start_s, c.end_s))


def write_titles(cues: list[Cue], form: str) -> str:
    """Titles in one of the formats of :data:`NOT_HELD`."""
    if form == "lrc":
        return write_lrc([LyricLine(" ".join(c.text.split()), c.start_s) for c in cues])
    return write_srt(cues) if form == "srt" else write_vtt(cues)
