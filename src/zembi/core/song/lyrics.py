"""A line of the lyrics, and where it ends: the one rule for the waveform's lane, subtitles, and what is sung."""

from collections.abc import Sequence
from dataclasses import dataclass

#: A line that no other follows sooner ends after this long, or so long after its last word where words are timed.
LONGEST_LINE_S, AFTER_WORD_S = 6.0, 1.0


@dataclass(frozen=True)
class LyricLine:
    """A line of the lyrics.

    Attributes:
        text: Its words.
        at_s: Song time at which it is sung; None while it is not timed.
        words: (song time, word) of each word where they are known.
    """

    text: str
    at_s: float | None = None
    words: tuple[tuple[float, str], ...] = ()


def line_ends(lines: Sequence[LyricLine], song_end_s: float) -> list[float | None]:
    """End of each line: as the next timed one begins, in an instrumental sooner, and never after the song.

    Args:
        lines: In the order in which they are sung.
        song_end_s: Length of the song.

    Returns:
        The end of each in seconds; None for those that are not timed.
    """
    out: list[float | None] = []
    following = song_end_s
    for line in reversed(lines):
        if line.at_s is None:
            out.append(None)
            continue
        last_word = max((at for at, _ in line.words), default=line.at_s)
        longest = max(line.at_s + LONGEST_LINE_S, last_word + AFTER_WORD_S)
        out.append(max(line.at_s, min(following, longest, song_end_s)))
        following = line.at_s
    return out[::-1]
