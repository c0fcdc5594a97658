"""Running medians of many columns at once.

Sorting by a network (Batcher 1968) is the same few exchanges whatever the values, so each is done for a whole array;
those that the middle does not depend on are left out.
"""

from functools import cache

import numpy as np

from zembi.core.song.spectrum import Singles

#: Values worked on at a time, so that what is exchanged stays near.
_AT_A_TIME = 16_384


@cache
def _exchanges(width: int) -> tuple[tuple[int, int], ...]:
    """Pairs of places to put in order, one after the other, so that the middle of ``width`` values is their median."""
    size = 1 << (width - 1).bit_length()
    pairs = []
    merged = 1
    while merged < size:
        apart = merged
        while apart >= 1:
            for first in range(apart % merged, size - apart, 2 * apart):
                for low in range(first, min(first + apart, size - apart)):
                    if low // (2 * merged) == (low + apart) // (2 * merged) and low + apart < width:
                        pairs.append((low, low + apart))
            apart //= 2
        merged *= 2
    needed, kept = {width // 2}, []
    for low, high in reversed(pairs):
        if low in needed or high in needed:
            needed |= {low, high}
            kept.append((low, high))
    return tuple(reversed(kept))


def running_median(values: Singles, width: int) -> Singles:
    """The median of ``width`` rows about each, column by column, the first and last row going on; shape as given.

    Args:
        values: Shape (rows, columns).
        width: An odd number of rows.
    """
    half = width // 2
    padded = np.pad(np.ascontiguousarray(values), ((half, half), (0, 0)), mode="edge")
    out = np.empty(values.shape, values.dtype)
    rows = max(1, _AT_A_TIME // max(1, values.shape[1]))
    for start in range(0, len(values), rows):
        count = min(rows, len(values) - start)
        window = [padded[start + k : start + k + count].copy() for k in range(width)]
        for low, high in _exchanges(width):
            smaller = np.minimum(window[low], window[high])
            np.maximum(window[low], window[high], out=window[high])
            window[low] = smaller
        out[start : start + count] = window[half]
    return out
