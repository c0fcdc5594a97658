"""Treatments of a title's words: what of them is seen from which frame on."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from difflib import SequenceMatcher
from functools import singledispatch
from itertools import pairwise
from typing import Any

from zembi.core.errors import BadInput, Refused
from zembi.core.timebase import seconds_to_frame
from zembi.core.titles.shown import ALL, Shown, checked_shown, pieces
from zembi.core.treatments.model import SpellOn, SungWord, WordTreatment
from zembi.core.treatments.music import Length
from zembi.core.treatments.timing import Ground, Words

#: Frames counted from the title's first, each with what changes of what is seen.
Changes = Sequence[tuple[int, Mapping[str, Any]]]
#: Longest time over which the letters of a sung word come, and after which a word that no other follows is sung no more.
_WORD_S, _LAST_S = 0.5, 1.0
#: Width of the line around the sung word that makes it heavier, in ems.
_HEAVIER = 0.035


def together(changes: Sequence[Changes]) -> list[tuple[int, Shown]]:
    """The seen part from each frame on at which it changes, counted from a title's first, by all of its treatments."""
    out: list[tuple[int, Shown]] = []
    now = ALL
    for frame, change in sorted((c for of in changes for c in of), key=lambda c: c[0]):
        now = replace(now, **change)
        if out and out[-1][0] == frame:
            out[-1] = frame, now
        else:
            out.append((frame, now))
    return [(f, s) for n, (f, s) in enumerate(out) if s != (out[n - 1][1] if n else ALL)]


@singledispatch
def spelling(treatment: WordTreatment, _ground: Ground) -> Changes:
    """Changes that one treatment makes to what is seen of a title.

    Raises:
        BadInput: a value that cannot be meant.
        Refused: it is of no title, its words have no times, or they do not all come while it is there.
    """
    raise TypeError(f"{type(treatment).__name__} is no treatment of words")


def _words(ground: Ground) -> Words:
    if ground.words is None:
        raise Refused("Only a title has words that come one after another.")
    return ground.words


@spelling.register
def _spell_on(t: SpellOn, ground: Ground) -> Changes:
    words = _words(ground)
    parts = pieces(words.text, t.by)
    frames = _as_sung(t, ground, parts) if t.sung else _evenly(t, ground, len(parts))
    if t.side == "out":
        return [(f, {"first": end}) for f, (_, end) in zip(frames, parts, strict=True)]
    changes: list[tuple[int, Mapping[str, Any]]] = [(0, {"end": 0, "cursor": t.cursor})]
    changes += [(min(f, ground.frames - 1), {"end": end}) for f, (_, end) in zip(frames, parts, strict=True)]
    if t.cursor:
        # It stands for as long again as the last letters took to come, and goes.
        gap = max(1, frames[-1] - frames[-2]) if len(frames) > 1 else 1
        changes.append((frames[-1] + 4 * gap, {"cursor": False}))
    return changes


def _evenly(t: SpellOn, ground: Ground, count: int) -> list[int]:
    """Frames of as many pieces, each counted from the title's start so that no rounding adds up; "out" from its end."""

    def after(n: int) -> int:
        return ground.music.frames(Length(t.every.value * n, t.every.unit), ground.first)

    if t.every.value <= 0:
        raise BadInput("Pieces of a title come at least a part of a frame after each other.")
    # The last that comes is seen for a frame at least; the last that goes does so as the title ends.
    taken = after(count - 1) + 1 if t.side == "in" else after(count)
    if taken > ground.frames:
        raise Refused(
            f"Its {count} {t.by}s take {taken} frames, and the title is there for {ground.frames}: let them follow each other "
            "quicker, or the title stay longer."
        )
    if t.side == "in":
        return [after(n) for n in range(count)]
    return [ground.frames - taken + after(n + 1) for n in range(count)]


def _as_sung(t: SpellOn, ground: Ground, parts: Sequence[tuple[int, int]]) -> list[int]:
    words = _words(ground)
    sung = sung_words(words, ground)
    starts = [at for at, _, _ in sung]
    out = []
    for begin, _ in parts:
        k = max((n for n, (_, first, _) in enumerate(sung) if first <= begin), default=0)
        at, first, end = sung[k]
        if t.by == "letter":
            following = starts[k + 1] if k + 1 < len(starts) else at + _WORD_S
            at += min(_WORD_S, following - at) * (begin - first) / max(1, end - first)
        out.append(_frame(at, ground))
    return out


def _frame(at_s: float, ground: Ground) -> int:
    return max(0, seconds_to_frame(at_s, ground.rate) - ground.first)


def sung_words(words: Words, ground: Ground) -> list[tuple[float, int, int]]:
    """Time at which each word of a title is sung: (seconds, its first letter, the letter after it), in order.

    Words of the title are found among those of its line of the lyrics, and of the lines after it for a title of two; one
    that is not there is sung with the word before it.

    Raises:
        Refused: it follows no line, or no word of that has a time.
    """
    if words.line is None:
        raise Refused(
            "This title follows no line of the lyrics: lay the words of the song, or give them a pace."
        )
    timed = ground.music.sung_from(words.line)
    if not timed:
        raise Refused(
            "No word of this line has a time of its own: read lyrics with times of words (LRC) on the Song view, or give them "
            "a pace."
        )
    own = pieces(words.text, "word")
    known = SequenceMatcher(
        None, [_plain(words.text[a:b]) for a, b in own], [_plain(word) for _, word in timed], False
    )
    times: list[float | None] = [None] * len(own)
    for a, b, count in known.get_matching_blocks():
        times[a : a + count] = [at for at, _ in timed[b : b + count]]
    found = [at for at in times if at is not None]
    if not found:
        raise Refused("None of its words is in its line of the lyrics any more: give them a pace.")
    before = found[0]
    out = []
    for at, (first, end) in zip(times, own, strict=True):
        before = max(before, before if at is None else at)
        out.append((before, first, end))
    return out


def _plain(word: str) -> str:
    return re.sub(r"\W", "", word).casefold() or word


@spelling.register
def _sung_word(t: SungWord, ground: Ground) -> Changes:
    told = {"colour": t.colour, "grow": t.grow, "heavier": _HEAVIER if t.heavier else 0.0}
    checked_shown(Shown(**told))  # type: ignore[arg-type]
    sung = sung_words(_words(ground), ground)
    changes: list[tuple[int, Mapping[str, Any]]] = []
    for at, first, end in sung:
        lit = {"lit_first": sung[0][1] if t.keep else first, "lit_end": end}
        changes.append((_frame(at, ground), {**told, **lit}))
    if not t.keep:
        changes.append((_frame(sung[-1][0] + _LAST_S, ground), {"lit_first": 0, "lit_end": 0}))
    return changes


def changes_between(shown: Sequence[tuple[int, Shown]], frames: int) -> list[tuple[int, int, Shown]]:
    """Runs (first frame, end, what is seen) that cover so many frames."""
    keys = [(f, s) for f, s in shown if f < frames]
    if not keys or keys[0][0] > 0:
        keys.insert(0, (0, ALL))
    return [(a, b, s) for (a, s), (b, _) in pairwise([*keys, (frames, ALL)])]
