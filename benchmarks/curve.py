"""Curve of said confidence against the share that was right, as an SVG."""

import itertools
import math
from collections.abc import Sequence
from pathlib import Path

import numpy as np

_WIDTH, _HEIGHT, _LEFT, _TOP, _SIDE = 560, 400, 64, 20, 320
#: Bounds of what is gathered into one point; the upper ones are where nearly all passes lie.
BINS = (0.0, 0.5, 0.7, 0.9, 0.99, 1.01)


def share_with_bounds(right: int, of: int, z: float = 1.96) -> tuple[float, float, float]:
    """Share, and the bounds between which the true one lies with 95 % certainty (Wilson 1927)."""
    share, n = right / of, float(of)
    middle = (share + z * z / (2 * n)) / (1 + z * z / n)
    reach = z / (1 + z * z / n) * math.sqrt(share * (1 - share) / n + z * z / (4 * n * n))
    return share, max(0.0, middle - reach), min(1.0, middle + reach)


def write_curve(path: Path, said: Sequence[tuple[float, bool]], title: str) -> None:
    """Draw (confidence, right) pairs, gathered into ``BINS``, beside the line on which said and true are equal."""

    def x(value: float) -> float:
        return _LEFT + _SIDE * value

    def y(value: float) -> float:
        return _TOP + _SIDE * (1 - value)

    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDTH} {_HEIGHT}" font-family="sans-serif" '
        'font-size="12" fill="#333">',
        f'<rect width="{_WIDTH}" height="{_HEIGHT}" fill="#fff"/>',
    ]
    for tenth in range(0, 11, 2):
        v = tenth / 10
        parts += [
            f'<path d="M{x(v):.1f} {y(0):.1f}V{y(1):.1f}M{x(0):.1f} {y(v):.1f}H{x(1):.1f}" stroke="#e4e4e4"/>',
            f'<text x="{x(v):.1f}" y="{y(0) + 18:.1f}" text-anchor="middle">{v:.1f}</text>',
            f'<text x="{x(0) - 8:.1f}" y="{y(v) + 4:.1f}" text-anchor="end">{v:.1f}</text>',
        ]
    parts.append(f'<path d="M{x(0)} {y(0)}L{x(1)} {y(1)}" stroke="#999" stroke-dasharray="4 4"/>')
    points, notes = [], []
    for low, high in itertools.pairwise(BINS):
        inside = [(c, right) for c, right in said if low <= c < high]
        if not inside:
            continue
        share, least, most = share_with_bounds(sum(r for _, r in inside), len(inside))
        at = float(np.mean([c for c, _ in inside]))
        points.append((x(at), y(share)))
        parts.append(
            f'<path d="M{x(at):.1f} {y(least):.1f}V{y(most):.1f}" stroke="#1f6f8b" stroke-width="2"/>'
        )
        parts.append(f'<circle cx="{x(at):.1f}" cy="{y(share):.1f}" r="4" fill="#1f6f8b"/>')
        notes.append(f"{low:.2f} to {min(high, 1.0):.2f}: {sum(r for _, r in inside)} of {len(inside)}")
    line = " ".join(f"{px:.1f},{py:.1f}" for px, py in points)
    parts.append(f'<polyline points="{line}" fill="none" stroke="#1f6f8b"/>')
    for n, note in enumerate(reversed(notes)):
        parts.append(f'<text x="{x(1) + 20:.1f}" y="{_TOP + 14 + 18 * n}">{note}</text>')
    parts += [
        f'<text x="{x(0.5):.1f}" y="{y(0) + 38:.1f}" text-anchor="middle">confidence said ({title})</text>',
        f'<text transform="translate(16 {y(0.5):.1f}) rotate(-90)" text-anchor="middle">share that was right</text>',
        "</svg>",
    ]
    path.write_text("\n".join(parts) + "\n", encoding="utf-8")
