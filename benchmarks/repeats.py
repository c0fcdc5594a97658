"""Measure of how well sections name a song's own repeats, by its notes: bars are alike where they strike the same notes."""

from dataclasses import dataclass
from pathlib import Path

import mido
import numpy as np
from numpy.typing import NDArray

from zembi.core.song.listen import FoundSection

Matrix = NDArray[np.float64]
#: Places of a bar that notes are told apart by.
PLACES = 16
#: Bars are the same music from this share of common notes on, and no other music from that.
SAME, NOT_OTHER = 0.7, 0.4
#: So many bars of the same music make a repeat.
LEAST_BARS = 4


@dataclass(frozen=True)
class Repeats:
    """Shares 0..1; nan where a song has none.

    ``found``: of the pairs of bars that repeat each other, in one kind of section. ``true``: of the bars of sections of
    one kind, those whose notes are alike where the sections are laid on each other.
    """

    found: float
    true: float


def notes_of(path: Path) -> NDArray[np.float64]:
    """The notes of a MIDI file, shape (notes, 3): second, channel, pitch."""
    now, notes = 0.0, []
    for message in mido.MidiFile(path):
        now += message.time
        if message.type == "note_on" and message.velocity:
            notes.append((now, message.channel, message.note))
    return np.array(notes, dtype=float).reshape(-1, 3)


def alike(notes: NDArray[np.float64], downbeats: NDArray[np.float64]) -> Matrix:
    """Share of notes that bars have in common, of those that either has; shape (bars, bars)."""
    edges = np.append(downbeats, downbeats[-1] + np.median(np.diff(downbeats)))
    bars: list[set[tuple[int, int, int]]] = [set() for _ in downbeats]
    for second, channel, pitch in notes:
        # A note that comes a little before the bar is its first.
        bar = int(np.searchsorted(edges, second + 0.06, side="right")) - 1
        if 0 <= bar < len(bars):
            place = round((second - edges[bar]) / (edges[bar + 1] - edges[bar]) * PLACES) % PLACES
            bars[bar].add((int(channel), int(pitch), place))
    return np.array([[len(a & b) / len(a | b) if a | b else 1.0 for b in bars] for a in bars])


def _repeated(likeness: Matrix) -> NDArray[np.bool_]:
    """Pairs of bars that lie in a repeat: several bars, one after the other, the same as later ones."""
    out = np.zeros(likeness.shape, bool)
    for lag in range(1, len(likeness)):
        same = np.diagonal(likeness, lag) >= SAME
        edges = np.flatnonzero(np.diff(np.concatenate([[0], same.astype(int), [0]])))
        for first, end in zip(edges[0::2], edges[1::2], strict=True):
            if end - first >= LEAST_BARS:
                out[np.arange(first, end), np.arange(first, end) + lag] = True
    return out


def _laid(likeness: Matrix, one: range, other: range) -> tuple[int, float]:
    """Bars of the shorter section, and how alike they are on the longer where it lies best."""
    short, long = sorted((one, other), key=len)
    by = range(len(long) - len(short) + 1)
    return len(short), max(
        float(np.mean([likeness[a, long[k + b]] for k, a in enumerate(short)])) for b in by
    )


def repeats(
    notes: NDArray[np.float64], downbeats: NDArray[np.float64], sections: list[FoundSection]
) -> Repeats:
    """Sections against the repeats in a song's notes, on the bars that were found."""
    likeness = alike(notes, downbeats)
    count = len(downbeats)
    which = np.searchsorted([s.start_s for s in sections], downbeats + 0.05, side="right") - 1
    kind = np.array([sections[max(0, k)].group for k in which])
    apart = np.abs(np.subtract.outer(np.arange(count), np.arange(count))) >= LEAST_BARS
    pairs = _repeated(likeness) & (which[:, None] != which[None]) & apart
    found = float((kind[:, None] == kind[None])[pairs].mean()) if pairs.any() else float("nan")
    spans = [(s.group, np.flatnonzero(which == k)) for k, s in enumerate(sections)]
    laid = [
        _laid(likeness, range(a[0], a[-1] + 1), range(b[0], b[-1] + 1))
        for i, (group, a) in enumerate(spans)
        for other, b in spans[:i]
        if group == other and len(a) and len(b)
    ]
    bars = sum(length for length, _ in laid)
    right = sum(length for length, share in laid if share >= NOT_OTHER)
    return Repeats(found, right / bars if bars else float("nan"))
