"""Filling slots with clips by the rules: slots filled, stretches shown twice, rules broken and time, for 8 to 100 clips.

Usage: python benchmarks/fill.py [--songs N]

Beside it, in the same run, each clip is shown once, from its head, and not within 16 beats of itself: the yardstick.
"""

import argparse
import itertools
import time
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import ClipSource, Edit, Empty, Item
from zembi.core.edit.planning import Beat, Pace, PacedRange, Stock, fill_slots
from zembi.core.edit.stretches import Clip, frames_of, free_parts, parted, shown_of, stretch

RATE = Fraction(24)
#: Clips that there are, and their seconds at least and at most.
AMOUNTS = ((8, 18.0, 24.0), (30, 4.0, 14.0), (100, 2.0, 9.0))


@dataclass(frozen=True)
class Song:
    """A made song: its beats, and its slots as (start, end) in frames."""

    beats: list[Beat]
    slots: list[tuple[int, int]]
    length: int


def made_song(seed: int) -> Song:
    """Two minutes or a little less at a tempo of its own, in slots of half a bar to two bars that follow its energy."""
    rng = np.random.default_rng(seed)
    bpm, seconds = rng.uniform(84, 150), rng.uniform(90, 120)
    frames = [round(60 / bpm * k * 24) for k in range(int(seconds * bpm / 60) + 1)]
    energy = np.repeat(rng.uniform(0.1, 1.0, len(frames) // 32 + 1), 32)
    beats = [
        Beat(f, float(energy[k]), k % 4 == 0, k % 32 == 0, float(rng.random() > 0.7))
        for k, f in enumerate(frames)
    ]
    edges, k = [0], 0
    while k < len(frames) - 1:
        lengths = (2, 4) if energy[k] > 0.7 else (4, 4, 8) if energy[k] > 0.4 else (4, 8, 8)
        k = min(len(frames) - 1, k + int(rng.choice(lengths)))
        edges.append(frames[k])
    return Song(beats, [*itertools.pairwise(edges)], edges[-1])


def made_clips(count: int, least_s: float, most_s: float, seed: int) -> tuple[Clip, ...]:
    """Clips of some length, a fifth of them cut within, each with moments of its own worth."""
    rng = np.random.default_rng(seed)
    clips = []
    for n in range(count):
        seconds = float(rng.uniform(least_s, most_s))
        cuts = [seconds * float(rng.uniform(0.3, 0.7))] if rng.random() < 0.2 else []
        worth = tuple(float(w) for w in rng.uniform(0, 1, int(seconds) + 1))
        clips.append(
            Clip(f"clip{n}", f"Clip {n}", parted((0.0, seconds), cuts), moves=n / count, worth=worth)
        )
    return tuple(clips)


def heads_once(song: Song, clips: tuple[Clip, ...]) -> dict[int, ClipSource]:
    """Sources of the slots, by number: the first unused clip whose head is long enough."""
    left = {c.media: c for c in clips}
    out: dict[int, ClipSource] = {}
    for number, (start, end) in enumerate(song.slots):
        found = next(
            (s for c in left.values() if (s := stretch(c, end - start, [], RATE, tightly=True))), None
        )
        if found is not None:
            out[number] = found
            del left[found.media]
    return out


def by_rules(song: Song, edit: Edit, clips: tuple[Clip, ...], seed: int) -> dict[int, ClipSource]:
    """Sources of the slots as the product fills them."""
    passage = [PacedRange(0, song.length, "", Pace(2, 8))]
    after = fill_slots(
        edit, range(len(song.slots)), passage, song.beats, [], Stock({}, clips=clips), RATE, seed
    )
    return {n: s.source for n, s in enumerate(after.shots) if isinstance(s.source, ClipSource)}


def overlaps(song: Song, filled: dict[int, ClipSource]) -> int:
    """Pairs of slots that show the same frames of a file."""
    shown = [(s.media, *shown_of(s, song.slots[n][1] - song.slots[n][0], RATE)) for n, s in filled.items()]
    return sum(
        a[0] == b[0] and a[1] < b[2] - 1e-6 and b[1] < a[2] - 1e-6
        for a, b in itertools.combinations(shown, 2)
    )


def broken(song: Song, filled: dict[int, ClipSource], clips: tuple[Clip, ...]) -> int:
    """Clips that were shown more often than another by two, though that still has a stretch long enough for the slot."""
    used: dict[str, list[tuple[float, float]]] = {c.media: [] for c in clips}
    for n, s in filled.items():
        used[s.media].append(shown_of(s, song.slots[n][1] - song.slots[n][0], RATE))
    count = 0
    for n, s in filled.items():
        frames = song.slots[n][1] - song.slots[n][0]
        count += any(
            len(used[c.media]) + 2 <= len(used[s.media])
            and any(frames_of(c, part, RATE) >= frames for part in free_parts(c, used[c.media]))
            for c in clips
        )
    return count


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--songs", type=int, default=5)
    chosen = parser.parse_args()
    print(
        "clips  song  footage/song  slots | filled %  shown twice  rules broken      ms | once, from the head %"
    )
    for count, least, most in AMOUNTS:
        for seed in range(chosen.songs):
            song, clips = made_song(seed), made_clips(count, least, most, seed + 100 * count)
            edit = new_edit(song.length, tuple(Item(a, Empty()) for a, _ in song.slots))
            begin = time.process_time()
            filled = by_rules(song, edit, clips, seed)
            took = 1000 * (time.process_time() - begin)
            before = heads_once(song, clips)
            footage = sum(c.seconds for c in clips) / (song.length / float(RATE))
            print(
                f"{count:5d}  {seed:4d} {footage:13.2f} {len(song.slots):6d} | {100 * len(filled) / len(song.slots):8.1f} "
                f"{overlaps(song, filled):12d} {broken(song, filled, clips):13d} {took:7.0f} | "
                f"{100 * len(before) / len(song.slots):8.1f}"
            )


if __name__ == "__main__":
    main()
