"""Further evidence for one of several places: the pass before it, the order of takes, the editor's slate note."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from zembi.service.media.footage import camera_of
from zembi.store.entities import Media, Pass

#: Song seconds within which a place counts as going on from another pass.
_ON_LINE_S = 0.1


@dataclass(frozen=True)
class Spot:
    """A place that fits: its song time, the section it lies in."""

    song_start_s: float
    section: str


def _words(text: str) -> list[str]:
    """Lower-case words and numbers: "CH2_close" gives ch, 2, close."""
    return re.findall(r"[a-z]+|\d+", text.lower())


def says_section(note: str, section: str) -> bool:
    """True if a slate note names a section: "chorus 2", "ch2" and "cho 2" all name "Chorus 2"."""
    told, wanted = _words(note), _words(section)
    if not told or not wanted:
        return False
    name, number = wanted[0], next((w for w in wanted if w.isdigit()), "")
    for i, word in enumerate(told):
        named = len(word) >= 2 and word.isalpha() and name.startswith(word)
        if named and (not number or number in told[i + 1 : i + 2]):
            return True
    return False


def _shooting_order(name: str) -> tuple[tuple[int, str | int], ...]:
    return tuple((0, int(w)) if w.isdigit() else (1, w) for w in _words(name))


def reasons(
    row: Pass, spots: Sequence[Spot], passes: Sequence[Pass], media: dict[str, Media]
) -> list[list[str]]:
    """For each place, what speaks for it in words; nothing where nothing does.

    Args:
        row: The open pass.
        spots: Its places.
        passes: All passes of the project.
        media: Files by id.
    """
    take = media[row.media]
    out: list[list[str]] = [[] for _ in spots]
    note = take.said.slate
    for spot, said in zip(spots, out, strict=True):
        if note and says_section(note, spot.section):
            said.append(f"the slate note says {spot.section}")
    for p in passes:
        if p.media == row.media and p.id != row.id and p.status == "locked":
            told = p.song_start_s + p.rate * (row.take_start_s - p.take_start_s)
            for spot, said in zip(spots, out, strict=True):
                if abs(spot.song_start_s - told) < _ON_LINE_S:
                    said.append("it goes on from another pass of this take")
    for spot, said in zip(spots, out, strict=True):
        between = _between(take, spot, passes, media)
        if between:
            said.append(between)
    # What is said of every place tells none apart.
    common = set(out[0]).intersection(*out[1:]) if out else set()
    return [[text for text in said if text not in common] for said in out]


def _between(take: Media, spot: Spot, passes: Sequence[Pass], media: dict[str, Media]) -> str:
    """Takes of one camera shot in the order of the song: the place between its neighbours' places."""
    camera = camera_of(take)
    if not camera:
        return ""
    placed: dict[str, float] = {}
    for p in passes:
        other = media[p.media]
        if p.status == "locked" and other.id != take.id and camera_of(other) == camera:
            placed[other.id] = min(placed.get(other.id, p.song_start_s), p.song_start_s)
    ordered = sorted(placed, key=lambda i: _shooting_order(media[i].name))
    if any(placed[a] > placed[b] for a, b in pairwise(ordered)) or len(ordered) < 2:
        return ""
    own = _shooting_order(take.name)
    before = [i for i in ordered if _shooting_order(media[i].name) < own]
    after = [i for i in ordered if _shooting_order(media[i].name) > own]
    if not before or not after:
        return ""
    if placed[before[-1]] <= spot.song_start_s <= placed[after[0]]:
        return f"{camera} was shot in order, and it falls between {media[before[-1]].name} and {media[after[0]].name}"
    return ""
