"""A film with a grade on every shot beside the plain one; tables of grades; and how long making one shot like another takes.

Usage: python benchmarks/colour.py [--seconds N] [--times N]
"""

import argparse
import statistics
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import numpy as np
from render import SIZE, make_source
from titles import encoded, took

from zembi.core.colour.grade import _lut, checked_grade, graded, lut_of
from zembi.core.colour.matching import made_like
from zembi.core.picture.curves import Curve, Key
from zembi.core.picture.steps import GRADE
from zembi.core.programme.model import Layer, Programme, shown
from zembi.media.render import Film, render

GRADES = (
    {"exposure": 0.5, "contrast": 1.2, "saturation": 1.3, "temperature": 0.2},
    {"exposure": -0.3, "shadows": 0.4, "tint": 0.1},
    {"contrast": 0.8, "whites": 0.3, "high_saturation": 0.6},
)


def films(folder: Path, seconds: int) -> dict[str, Film]:
    files = {str(k): make_source(folder / f"{k}.mp4", seconds, k) for k in range(3)}
    frames = 24 * seconds
    spans = [shown(n, min(frames, n + 48), str(n // 48 % 3), n / 24) for n in range(0, frames, 48)]
    comes = Curve((Key(0, 0.0, "straight"), Key(48, 1.0, "hold")))

    def film(grades: tuple[object, ...]) -> Film:
        layers = tuple(
            replace(s, chain=(grades[n % len(grades)],)) if grades else s  # type: ignore[arg-type]
            for n, s in enumerate(spans)
        )
        return Film(Programme(frames, (Layer("Shots", layers),)), files, None, Fraction(24), *SIZE, 0, frames)

    return {
        "plain": film(()),
        "a grade on every shot": film(tuple(GRADE(**g) for g in GRADES)),
        "one that comes in over every shot": film((GRADE(**{**GRADES[0], "strength": comes}),)),
    }


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=int, default=8)
    parser.add_argument("--times", type=int, default=3)
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        made = films(Path(folder), given.seconds)
        target = Path(folder) / "film.mp4"
        spent: dict[str, list[float]] = {name: [] for name in made}
        # One after the other in turn, so that what else the machine does meets all of them.
        for _ in range(given.times):
            for name, film in made.items():
                spent[name] += took(lambda film=film: render(film, target), 1)
        bare = encoded(made["plain"], given.times)
        print(
            f"{given.seconds} s in {SIZE[0]}x{SIZE[1]}, median of {given.times}: plain {statistics.median(spent['plain']):.2f} s"
        )
        for name, film in made.items():
            if name == "plain":
                continue
            ratios = [a / b for a, b in zip(spent[name], spent["plain"], strict=True)]
            alone = encoded(film, given.times) / bare
            print(
                f"  {name}: {statistics.median(spent[name]):.2f} s = {statistics.median(ratios):.2f} times (asked: 1.4); "
                f"its finished pictures through the encoder alone {alone:.2f} times"
            )
    tables(given.times)
    matches()


def tables(times: int) -> None:
    """From a control moved to its table, another value each time."""
    spent = []
    for n in range(10 * times):
        begin = time.perf_counter()
        lut_of({**GRADES[0], "exposure": 0.01 * n})
        spent.append(1000 * (time.perf_counter() - begin))
        _lut.cache_clear()
    print(f"  a table of a grade: {np.median(spent):.0f} ms, 95 % {np.percentile(spent, 95):.0f} ms")


def matches() -> None:
    """Made pairs: what was done to a picture is found again, and how long that takes; a yardstick is matching means alone."""
    rng = np.random.default_rng(4)
    spent, off, rest, means = [], [], [], []
    for n in range(40):
        colours = rng.random((7, 3)) * 0.5 + 0.25
        shade = rng.beta(2, 2, (3 * 576, 1)) * 0.7 + 0.05
        one = np.clip(
            colours[rng.integers(0, 7, 3 * 576)] * shade * 1.6 + rng.normal(0, 0.01, (3 * 576, 3)), 0.01, 0.98
        )
        given = {
            "exposure": rng.uniform(-0.9, 0.9),
            "contrast": rng.uniform(0.8, 1.25),
            "temperature": rng.uniform(-0.4, 0.4),
        }
        other = graded(one, checked_grade(given))
        if n % 2:
            # Other points of the same things, as another frame has them.
            one, other = one[::2], other[1::2]
        begin = time.perf_counter()
        found = made_like(one, other)
        spent.append(1000 * (time.perf_counter() - begin))
        whole = checked_grade(found.values)
        if n % 2 == 0:
            off.append(max(abs(whole[k] - v) for k, v in given.items()))
        rest.append(found.after.whole / max(found.before.whole, 1e-6))
        gained = np.clip(one * (other.mean(0) / one.mean(0)), 0, 1)
        means.append(
            float(
                np.abs(gained.std(0) - other.std(0)).mean()
                / max(np.abs(one.std(0) - other.std(0)).mean(), 1e-6)
            )
        )
    print(
        f"  made like: {np.median(spent):.0f} ms, 95 % {np.percentile(spent, 95):.0f} ms (asked: 300); the same points: within "
        f"{max(off):.3f} of what was done (asked: 0.02); distance after, of before: median {np.median(rest):.3f}, 95 % "
        f"{np.percentile(rest, 95):.3f} (asked: 0.1); spread left by gains from means alone: {np.median(means):.2f}"
    )


if __name__ == "__main__":
    main()
