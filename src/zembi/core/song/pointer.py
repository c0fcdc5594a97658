"""Following a beat that moves: the likeliest run of a pointer through beats of changing length.

A beat lasts as long as its tempo says, give or take a frame; from one beat to the next the tempo stays, goes on a
little, or, rarely, jumps. How likely a beat begins at a frame and lasts so long is told by the song's own pattern:
what its strokes look like over a beat, in every band, learned from the run found before and followed once more. A
semi-Markov model (after Whiteley, Cemgil and Godsill 2006, and Krebs, Böck and Widmer 2015, with beats in place of
frames as steps), so that a path keeps to whole beats and cannot slip by half of one.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.lib.stride_tricks import sliding_window_view

from zembi.core.song.spectrum import FRAME_RATE, Floats, Singles

#: Places that a beat's pattern has.
PLACES = 24
#: Tempi that are told apart, in steps of the natural logarithm, and how far they reach to both sides.
_STEP = 0.015
#: A third up or down: as far as a song goes whose tempo moves. An eighth: near enough to tell a tempo from others.
FAR, NEAR = 0.36, 0.12
#: What a change of tempo by a step costs from a beat to the next, and any change at most.
_CHANGE, _JUMP = 1.8, 12.0
#: The same where it is known to be played freely.
LOOSE = (0.525, 8.0)
#: Envelopes tell the same thing several times: neighbouring frames, and bands.
_TELLS = 0.3
#: Beats of a piece of the run that a pattern is learned from.
_PIECE = 16
_ROUNDS = 3
#: Tempi at which families are compared: one octave.
_SLOW = (56.0, 112.0)
#: A third up is another family of tempi; a run that far from its tempo for most of a song was led astray.
_ELSEWHERE = 0.2
#: A slip is over in so many seconds, and by so many beats at most.
_SLIP_S, _SLIP = 12.0, 0.85
#: A run is off a click where it is so many seconds late, or its tempo so much another. Off for longer than this, or for
#: such a share of the song, it is astray.
_LATE_S, _ELSE, _ASTRAY_S, _MUCH = 0.035, 0.025, 11.5, 0.2


def first_pattern(count: int) -> Floats:
    """A pattern to begin with, of so many bands: a stroke on the beat, a weaker one half-way; shape (bands, PLACES)."""
    place = np.arange(PLACES) / PLACES
    off = np.minimum(place, 1 - place)
    row = np.exp(-0.5 * (off / 0.05) ** 2) + 0.35 * np.exp(-0.5 * ((0.5 - off) / 0.05) ** 2)
    return np.tile(1.2 * (row - row.mean()), (count, 1))


def learned_pattern(envelopes: Sequence[Floats], beats: Floats, *, divided: int = 2) -> Floats:
    """Pattern of strokes over the beats: the mean of every band at each place; shape (bands, PLACES).

    A run may count half a beat aside for a while: each piece of it is laid on the others as it is or moved by half a
    beat, whichever fits better.

    Args:
        envelopes: From :func:`zembi.core.song.click.standardised`.
        beats: Frames at which beats begin, ascending; at least two.
        divided: Into how many parts of a beat, by any of which the run may be aside, the pulse divides.
    """
    edges = np.clip(np.round(beats).astype(int), 0, len(envelopes[0]))
    frames = np.arange(edges[0], edges[-1])
    at = np.interp(frames, beats, np.arange(len(beats)))
    places = np.floor((at % 1) * PLACES + 0.5).astype(int) % PLACES
    pieces = []
    for first in range(0, max(1, len(beats) - _PIECE // 2), _PIECE):
        cut = slice(edges[first] - edges[0], edges[min(first + _PIECE, len(beats) - 1)] - edges[0])
        counts = np.maximum(np.bincount(places[cut], minlength=PLACES), 1)
        here = frames[cut]
        pieces.append(
            [np.bincount(places[cut], weights=e[here], minlength=PLACES) / counts for e in envelopes]
        )
    rows = np.array(pieces)
    ways = np.stack([np.roll(rows, k * PLACES // divided, axis=2) for k in range(divided)])
    # The clearest piece is the first picture of all.
    picture = rows[int(np.argmax(np.sum(rows**2, axis=(1, 2))))]
    for _ in range(4):
        best = np.sum(ways * picture, axis=(2, 3)).argmax(axis=0)
        picture = ways[best, np.arange(len(rows))].mean(axis=0)
    return np.asarray(picture)


def _beat_scores(envelopes: Sequence[Floats], pattern: Floats, lengths: np.ndarray) -> Singles:
    """Log-likelihood ratio of a beat of each length beginning at each frame; shape (lengths, frames)."""
    count, longest = len(envelopes[0]), int(lengths.max())
    # Correlated in pieces (overlap and save): the piece's transform is made once for all lengths.
    size = scipy.fft.next_fast_len(6 * longest)
    step = size - longest + 1
    pieces = -(-count // step)
    padded = [np.pad(e, (0, pieces * step + size - count)) for e in envelopes]
    spectra = [
        scipy.fft.rfft(np.lib.stride_tricks.sliding_window_view(p, size)[::step][:pieces], axis=1)
        for p in padded
    ]
    out = np.empty((len(lengths), count), dtype=np.float32)
    noise = np.maximum(1 - np.mean(pattern**2, axis=1), 0.3)
    scale = _TELLS / len(envelopes)
    wrapped = np.concatenate([pattern, pattern[:, :1]], axis=1)
    for k, length in enumerate(lengths):
        places = np.arange(length) / length * PLACES
        total = np.zeros_like(spectra[0])
        offset = 0.0
        for spectrum, row, spread in zip(spectra, wrapped, noise, strict=True):
            expected = np.interp(places, np.arange(PLACES + 1), row)
            total += spectrum * np.conj(scipy.fft.rfft(expected / spread, size))
            offset += 0.5 * float(np.sum(expected**2)) / spread
        out[k] = scale * (scipy.fft.irfft(total, size, axis=1)[:, :step].ravel()[:count] - offset)
    return np.asarray(out)


def _after_change(ends: Singles, steps: Singles, jump: float) -> Singles:
    """The best value with which a beat of each tempo begins, from those with which beats end; shape as given.

    Args:
        ends: Shape (tempi, frames).
        steps: What it costs to come to each tempo from the first one step by step, for each frame; shape as ``ends``.
        jump: What any change costs at most.
    """
    best, falling = ends + steps, (ends - steps)[::-1]
    np.maximum.accumulate(best, axis=0, out=best)
    np.maximum.accumulate(falling, axis=0, out=falling)
    best -= steps
    np.maximum(best, falling[::-1] + steps, out=best)
    np.maximum(best, ends.max(axis=0) - jump, out=best)
    return np.asarray(best)


def _by_end(scores: Singles, lengths: np.ndarray, choice: np.ndarray) -> Singles:
    """Scores of beats by their tempo and where they end, from those by their length and where they begin."""
    count = scores.shape[1]
    out = np.full((len(choice), count + int(lengths[-1])), -np.inf, dtype=np.float32)
    for tempo, row in enumerate(choice):
        length = int(lengths[row])
        out[tempo, length : length + count] = scores[row]
    return out


def _likeliest(
    scores: Singles, lengths: np.ndarray, periods: Floats, cost: tuple[float, float] = (_CHANGE, _JUMP)
) -> tuple[Floats, float]:
    """Frames at which the beats of the likeliest run begin, ascending, the last one's end, and how likely it is.

    Args:
        scores: Of a beat of each length that begins at each frame; shape (lengths, frames).
        lengths: Ascending whole numbers of frames, without gaps.
        periods: Beat lengths of the tempi in frames.
        cost: Of a change of tempo by a step, and of any at most.
    """
    count, longest, tempi = scores.shape[1], int(lengths[-1]), np.arange(len(periods))
    choices = [
        np.clip(np.floor(periods).astype(int) + more - lengths[0], 0, len(lengths) - 1) for more in (0, 1)
    ]
    # Column ``at`` of ``begin``: the best run up to a beat of each tempo that begins there; of ``ends``: that ends
    # there. Columns before the song and after it keep what is gathered inside.
    begin = np.full((len(periods), longest + count + longest), -np.inf, dtype=np.float32)
    ends = np.full((len(periods), count + longest), -np.inf, dtype=np.float32)
    # How much likelier than none a beat is that ends at a frame, by tempo, of either length that the tempo allows.
    told = [_by_end(scores, lengths, choice) for choice in choices]
    # No beat is shorter than a block: what ends in it began before it.
    block = int(lengths[0])
    steps = np.repeat((tempi * cost[0]).astype(np.float32)[:, None], block, axis=1)
    rows = (tempi * begin.shape[1] + longest)[:, None] + np.arange(block)
    where = [rows - lengths[choice][:, None] for choice in choices]
    for first in range(0, count + longest, block):
        here = slice(first, min(first + block, count + longest))
        size = here.stop - first
        short, long = (
            begin.take(at[:, :size]) + by_tempo[:, here] for at, by_tempo in zip(where, told, strict=True)
        )
        ends[:, here] = np.maximum(short, long, out=short)
        after = _after_change(short, steps[:, :size], cost[1])
        if first < longest:
            after[:, : longest - first] = np.maximum(after[:, : longest - first], 0.0)
        begin[:, longest + first : longest + first + size] = after
        for at in where:
            at += block
    tempo, at = (
        int(i) for i in np.unravel_index(int(np.argmax(ends[:, count - 1 :])), (len(tempi), longest + 1))
    )
    at += count - 1
    score = float(ends[tempo, at])
    beats = [at]
    while True:
        through = [
            float(begin[tempo, at + longest - lengths[c[tempo]]] + by_tempo[tempo, at])
            for c, by_tempo in zip(choices, told, strict=True)
        ]
        best = int(np.argmax(through))
        if not np.isfinite(through[best]):
            break
        at -= int(lengths[choices[best][tempo]])
        beats.append(at)
        before = ends[:, at] - np.minimum(cost[0] * np.abs(tempi - tempo), cost[1])
        tempo = int(before.argmax())
        if at < longest and before[tempo] <= 0:
            break
    return np.array(beats[::-1], dtype=float), score


def slow_tempo(bpm: float) -> float:
    """A tempo, doubled or halved into one octave of slow ones."""
    while bpm >= _SLOW[1]:
        bpm /= 2
    while bpm < _SLOW[0]:
        bpm *= 2
    return bpm


def family_score(envelopes: Sequence[Floats], bpm: float) -> float:
    """Fit of the song's own pattern to a tempo, its half, double and so on; a wrong family tells a third of it.

    Slow enough that a pulse has strokes inside it, all families alike: slower ones always tell more.
    """
    return follow_beat(coarser(envelopes), slow_tempo(bpm), reach=NEAR, rate=FRAME_RATE / 2).score


def divides_in_three(envelopes: Sequence[Floats], bpm: float) -> float:
    """Log-likelihood ratio of a beat at a tempo dividing in three against one half as fast again dividing in two.

    Both have the same strokes. The parts of the beat that it is differ more from each other than those of the other.
    """

    def apart(tempo: float, parts: int) -> float:
        run = follow_beat(envelopes, tempo, reach=NEAR, divided=parts)
        pattern = learned_pattern(envelopes, run.times * FRAME_RATE, divided=parts)
        own = follow_beat(envelopes, tempo, pattern, reach=NEAR, rounds=1, divided=1)
        return max(own.score - run.score, 1.0)

    slow = slow_tempo(bpm)
    return float(np.log(apart(slow, 3) / apart(1.5 * slow, 2)))


def coarser(envelopes: Sequence[Floats]) -> list[Floats]:
    """Envelopes at half as many frames a second: enough to tell how a tempo goes, in a third of the time."""
    return [(e[: len(e) // 2 * 2 : 2] + e[1::2]) / 2 for e in envelopes]


def click_pattern(envelopes: Sequence[Floats], bpm: float) -> Floats:
    """Pattern of a song's strokes over the beats of a click, whichever of its places those are."""
    count = len(envelopes[0])
    return learned_pattern(envelopes, np.arange(0.0, count, 60 * FRAME_RATE / bpm))


def astray(run: Floats, bpm: float, start_s: float = 0.0, end_s: float = np.inf) -> bool:
    """True if a run of beats leaves a click for long: in its tempo, or in its place but for half a beat.

    A free beginning counts when it is half as long: the end is often too quiet to tell.

    Args:
        run: Beats in seconds.
        bpm: Of the click.
        start_s, end_s: Where the music begins and ends: beats beyond are not looked at.
    """
    run = run[(run >= start_s) & (run <= end_s)]
    if len(run) < 2:
        return False
    turns = 2 * run * bpm / 60
    place = np.angle(np.exp(2j * np.pi * turns).sum()) / (2 * np.pi)
    late = np.abs((turns - place + 0.5) % 1 - 0.5) / 2 * 60 / bpm
    pace = scipy.ndimage.median_filter(np.diff(run), 9, mode="nearest") * bpm / 60
    off = (late[:-1] > _LATE_S) | (np.abs(np.log(pace)) > _ELSE)
    steps = np.where(off, np.diff(run), 0.0)
    if steps.sum() > _MUCH * (run[-1] - run[0]):
        return True
    longest = here = 0.0
    for step, at in zip(steps, run[1:], strict=True):
        here = here + step if step else 0.0
        if here > _ASTRAY_S / 2 and at - here < start_s + 1.0:
            return True
        longest = max(longest, here)
    return longest > _ASTRAY_S


@dataclass(frozen=True)
class Run:
    """A pulse followed through a song: its times in seconds, ascending, and by how much (logarithm) it is likelier than none."""

    times: Floats
    score: float


def follow_beat(
    envelopes: Sequence[Floats],
    bpm: float,
    pattern: Floats | None = None,
    *,
    reach: float = FAR,
    rounds: int = _ROUNDS,
    divided: int = 2,
    rate: float = FRAME_RATE,
    cost: tuple[float, float] = (_CHANGE, _JUMP),
) -> Run:
    """The pulse of a song whose tempo moves.

    It may lie half-way between the beats: which of the two it is, one passage does not tell.

    Args:
        envelopes: From :func:`zembi.core.song.click.standardised`, all of one length; at least one.
        bpm: Its usual tempo.
        pattern: Its strokes over a beat, where they are known, shape (bands, PLACES).
        reach: How far the tempo goes up and down from its usual, in natural logarithms.
        rounds: How often it is followed, each time by the pattern of the time before.
        divided: Into how many parts of a beat, any of which it may lie on, the pulse divides.
        rate: Frames of the envelopes a second.
        cost: Of a change of tempo by a step, and of any at most.
    """
    pattern = first_pattern(len(envelopes)) if pattern is None else pattern
    inside, score = np.zeros(0), 0.0
    for left in reversed(range(rounds)):
        # Strokes half a beat aside are another pattern on the same pulse: a run must gain nothing by changing over.
        even = np.mean([np.roll(pattern, k * PLACES // divided, axis=1) for k in range(divided)], axis=0)
        # Among many tempi a first pattern is learned from a rough run.
        steps = 2 if left > 1 and reach > NEAR else 1
        heard = coarser(envelopes) if steps == 2 else envelopes
        beats, score = _run(heard, bpm, even, reach, rate / steps, cost)
        inside = beats[beats < len(heard[0])] * steps
        if len(inside) < 3:
            break
        pattern = learned_pattern(envelopes, inside, divided=max(2, divided))
    return Run(inside / rate, score)


def _run(
    envelopes: Sequence[Floats],
    bpm: float,
    pattern: Floats,
    reach: float,
    rate: float,
    cost: tuple[float, float],
) -> tuple[Floats, float]:
    """The likeliest run by a pattern, in frames, and how likely it is."""
    periods = 60 * rate / (bpm * np.exp(np.arange(-reach, reach + 1e-9, _STEP)))
    lengths = np.arange(int(periods.min()), int(periods.max()) + 2)
    return _likeliest(_beat_scores(envelopes, pattern, lengths), lengths, periods, cost)


def follow_without_slips(envelopes: Sequence[Floats], bpm: float) -> Floats:
    """The pulse of a song whose tempo moves, kept by quarters of a slow beat where only that differs; seconds.

    At a slow tempo the pulse may be every other beat. Where the strokes go over to half-way between the beats, a run
    gains by going with them, by a quarter of its own; a run to which quarters are alike gains nothing. But that one
    hardly tells tempi apart: where it goes at another pace than the first, the first is right.

    A run that is at another tempo for most of the song has gone over to another family: it is kept nearer.

    Args:
        envelopes: From :func:`zembi.core.song.click.standardised`, all of one length; at least one.
        bpm: Its usual tempo.
    """
    free = follow_beat(envelopes, bpm).times
    if len(free) > 2 and abs(np.log(60 / np.median(np.diff(free)) / bpm)) > _ELSEWHERE:
        free = follow_beat(envelopes, bpm, reach=_ELSEWHERE).times
    if bpm >= _SLOW[1] or len(free) < 3:
        return free
    pattern = learned_pattern(envelopes, free * FRAME_RATE, divided=4)
    held = follow_beat(envelopes, bpm, pattern, rounds=1, divided=4).times
    if len(held) < 3:
        return free
    at = np.arange(max(free[0], held[0]), min(free[-1], held[-1]), _SLIP_S / 12)
    apart = np.interp(at, free, np.arange(len(free))) - np.interp(at, held, np.arange(len(held)))
    slips = np.ptp(sliding_window_view(apart, 12), axis=1) if len(at) >= 12 else np.zeros(1)
    return held if float(slips.max()) < _SLIP else free
