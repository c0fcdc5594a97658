"""Titles as timed text: the words and when they are seen, for players and other programs."""

from collections.abc import Iterable
from fractions import Fraction

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most
from zembi.core.interchange.lists import Cue, read_vtt, write_vtt
from zembi.core.interchange.lyrics import cues_of, read_lyrics, srt_cues, write_lrc, write_srt
from zembi.core.programme.flatten import whole_titles
from zembi.core.programme.model import Layer, Title
from zembi.core.song.lyrics import LONGEST_LINE_S, LyricLine

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


def read_titles(text: str, name: str = "") -> list[Cue]:
    """Words with times of the film from SubRip, WebVTT or LRC; a line of LRC ends as the next one begins.

    Raises:
        BadInput: none of these, nothing in it has a time, or there is too much of it.
    """
    plain = text.lstrip("\ufeff")
    if plain.startswith("WEBVTT"):
        cues = [c for c in read_vtt(plain, name) if c.text]
    elif cues := srt_cues(plain):
        pass
    else:
        lines = [line for line in read_lyrics(plain, name) if line.at_s is not None]
        cues = cues_of(lines, max((line.at_s or 0.0 for line in lines), default=0.0) + LONGEST_LINE_S)
    if not cues:
        raise BadInput(f"{name or 'The text'} holds no words with times: SubRip, WebVTT and LRC are read.")
    at_most(len(cues), name or "The text")
    return cues


def write_titles(cues: list[Cue], form: str) -> str:
    """Titles in one of the formats of :data:`NOT_HELD`."""
    if form == "lrc":
        return write_lrc([LyricLine(" ".join(c.text.split()), c.start_s) for c in cues])
    return write_srt(cues) if form == "srt" else write_vtt(cues)
