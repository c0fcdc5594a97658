"""A take as a path through lines of the song: where one line ends and another, or nothing of the song, goes on.

A song that was cut differently on set leaves its line at a cut and goes on along another, over music that may have the
same backing. Line by line nothing says so: the backing agrees with both. Beside each other, the one that is played
wins every few seconds.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import scipy
from numpy.typing import NDArray

from zembi.core.sync.features import BLOCK_S, HIGH_HZ, LOW_HZ, RATE, SoundFeatures
from zembi.core.sync.passes import song_under
from zembi.core.sync.refine import Line

Floats = NDArray[np.float64]

#: Blocks of agreement in a step of the path.
_STEP = 2
STEP_S = _STEP * BLOCK_S
#: Share of a pass's usual agreement with the song that is expected of every step: less is no sign against a line.
_EXPECTED = 0.5
#: Nats that going over to another line has to be worth.
_TO_OTHER = 24.0
#: Samples to either side of a line that are compared too, and steps over which one lag is taken.
_LAGS, _LAG_STEPS = 2, 31
#: A stretch on a line is at least so long.
_SHORTEST_S = 1.5
#: A line that explains so much of what another does is as good for a stretch beside it.
_AS_GOOD = 0.85
#: Independent values in a second of whitened sound.
_PER_S = 2 * (HIGH_HZ - LOW_HZ)


@dataclass(frozen=True)
class Segment:
    """Take seconds ``start_s`` to ``end_s`` that follow the line of this number."""

    line: int
    start_s: float
    end_s: float


@dataclass(frozen=True)
class Along:
    """Agreement of a take with the song along a line, step by step.

    Attributes:
        product: Mean product of take and song, shape (steps,).
        power: Mean square of the song there; 0 outside the song.
    """

    product: Floats
    power: Floats

    def explained(self, s: Segment) -> float:
        """Agreement summed over a stretch: how much of the take the line explains there."""
        return float(self.product[round(s.start_s / STEP_S) : round(s.end_s / STEP_S)].sum())

    def usual(self, start_s: float, end_s: float) -> float:
        """Agreement over a stretch, as a share of the song's own power."""
        part = slice(int(start_s / STEP_S), max(int(end_s / STEP_S), int(start_s / STEP_S) + 1))
        power = float(self.power[part].sum())
        return float(self.product[part].sum()) / power if power > 0 else 0.0


def along(song: SoundFeatures, take: SoundFeatures, line: Line) -> Along:
    """Compare a take with the song along a line, and along what lies a fraction of a millisecond beside it.

    A measured line is off by a tenth of a millisecond at its ends, which turns what is high in pitch by half a wave;
    every few seconds the best of the lags near it counts, for each line alike.
    """
    size = _STEP * int(BLOCK_S * RATE)
    count = len(take.white) // size
    under = song_under(song, line, 0, count * size).reshape(count, size)
    wide = np.pad(take.white, _LAGS)
    products = np.stack([
        np.einsum("ij,ij->i", under, wide[k : k + count * size].reshape(count, size), dtype=float)
        for k in range(2 * _LAGS + 1)
    ])  # fmt: skip
    best = np.argmax(scipy.ndimage.uniform_filter1d(products, _LAG_STEPS, axis=1, mode="nearest"), axis=0)
    return Along(
        products[best, np.arange(count)] / size, np.einsum("ij,ij->i", under, under, dtype=float) / size
    )


def likeliest_path(lines: Sequence[Along], start_s: float, end_s: float, usual: float) -> list[Segment]:
    """The likeliest way of a stretch of take through some lines (Viterbi), in take order.

    The take is modelled as the song at a share of its power in noise of about unit variance. The share is the same
    along every line, so that none is liked better for being louder.

    Args:
        lines: Agreement along each.
        start_s, end_s: The stretch.
        usual: Its agreement along its own line, from :meth:`Along.usual`.
    """
    first, last = round(start_s / STEP_S), max(round(end_s / STEP_S), round(start_s / STEP_S) + 1)
    share, per_step = _EXPECTED * max(usual, 1e-3), _PER_S * STEP_S
    evidence = np.array(
        [per_step * share * (a.product[first:last] - 0.5 * share * a.power[first:last]) for a in lines]
    )
    count, length = evidence.shape
    change = np.full((count, count), _TO_OTHER)
    np.fill_diagonal(change, 0.0)
    best, came = np.zeros(count), np.empty((length, count), np.int32)
    for n in range(length):
        ways = best[:, None] - change
        came[n] = np.argmax(ways, axis=0)
        best = np.max(ways, axis=0) + evidence[:, n]
    path = np.empty(length, np.int32)
    state = int(np.argmax(best))
    for n in range(length - 1, -1, -1):
        path[n] = state
        state = int(came[n, state])
    edges = [0, *(np.flatnonzero(np.diff(path)) + 1).tolist(), length]
    return [Segment(int(path[a]), (first + a) * STEP_S, (first + b) * STEP_S) for a, b in pairwise(edges)]


def steadied(path: list[Segment], lines: Sequence[Along]) -> list[Segment]:
    """A path that leaves a line only for one that explains clearly more of the take.

    Where the song nearly repeats itself, what tells two places apart is faint, and the room's echoes of what came
    before weigh as much: staying is likelier than a cut to the same music. The shortest stretches are asked first.
    """
    runs = list(path)
    while len(runs) > 1:
        for n in sorted(range(len(runs)), key=lambda n: runs[n].end_s - runs[n].start_s):
            s = runs[n]
            near = [runs[k].line for k in (n - 1, n + 1) if 0 <= k < len(runs)]
            best = max(near, key=lambda k: lines[k].explained(s))
            good = lines[best].explained(s) >= _AS_GOOD * lines[s.line].explained(s)
            if good or s.end_s - s.start_s < _SHORTEST_S:
                runs[n] = Segment(best, s.start_s, s.end_s)
                break
        else:
            break
        runs = _merged(runs)
    return runs


def _merged(runs: list[Segment]) -> list[Segment]:
    out: list[Segment] = []
    for s in runs:
        if out and out[-1].line == s.line:
            out[-1] = Segment(s.line, out[-1].start_s, s.end_s)
        else:
            out.append(s)
    return out
