"""Made shoots and films, and how well takes are grouped by set-up and films are split at their cuts.

Usage: python benchmarks/shoots.py [SHOOTS [FILMS]]
"""

import zembi  # noqa: F401 - before numpy: one thread of linear algebra, so that time is of one core

# isort: split
import sys
import tempfile
import time
from itertools import combinations
from pathlib import Path

import av
import numpy as np
from films import SIZE as FILM
from films import Place, made_film, write
from numpy.typing import NDArray

from zembi.core.footage.likeness import SIZE
from zembi.core.lineup.grouping import Traits, all_alike, group_takes
from zembi.service.broll.films import shots_of

#: Cameras: how they name their files, their kind of picture, how steady they stand.
CAMERAS = (
    ("C{:04d}", "1920x1080, 25 f/s", 0.0),
    ("GX01{:04d}", "1920x1080, 50 f/s", 0.0),
    ("A001C{:03d}", "3840x2160, 25 f/s", 0.0),
    ("IMG_{:04d}", "1080x1920, 30 f/s", 2.5),
    ("IMG_{:04d}", "1920x1080, 30 f/s", 2.5),
    ("{}", "1920x1080, 25 f/s", 0.5),
)


def small(picture: NDArray[np.float32]) -> NDArray[np.uint8]:
    frame = av.VideoFrame.from_ndarray(np.clip(picture, 0, 255).astype(np.uint8), "rgb24")
    return np.asarray(
        frame.reformat(width=SIZE[1], height=SIZE[0], interpolation="AREA").to_ndarray(), dtype=np.uint8
    )


def made_shoot(seed: int) -> tuple[list[Traits], list[NDArray[np.uint8]], list[int]]:
    """Takes of a few cameras in one or two places, some with two set-ups: traits, pictures, and whose they are."""
    rng = np.random.default_rng(seed)
    places = [Place(rng) for _ in range(int(rng.integers(1, 3)))]
    cameras = rng.choice(len(CAMERAS), int(rng.integers(2, 5)), replace=False)
    traits, seen, owners = [], [], []
    setup = 0
    for camera in cameras:
        pattern, form, unsteady = CAMERAS[camera]
        number = int(rng.integers(1, 900))
        for _ in range(int(rng.integers(1, 3))):
            place = places[int(rng.integers(len(places)))]
            x, y, scale = rng.uniform(250, 650), rng.uniform(180, 320), rng.uniform(0.6, 1.6)
            for _ in range(int(rng.integers(1, 5))):
                number += int(rng.integers(1, 4))
                name = pattern.format(number if "{:" in pattern else f"{rng.integers(1 << 30):08x}")
                light = rng.uniform(0.6, 1.2)
                pictures = [
                    small(light * place.seen(x + unsteady * rng.normal() * 6, y + unsteady * rng.normal() * 4, scale,
                                             float(rng.uniform(0, 200))) + rng.normal(size=(*FILM, 3)) * 2)
                    for _ in range(8)
                ]  # fmt: skip
                traits.append(Traits(name, "card", form=form))
                seen.append(np.stack(pictures))
                owners.append(setup)
            setup += 1
    return traits, seen, owners


def measure_grouping(count: int) -> None:
    right = total = by_name = 0
    for seed in range(count):
        traits, seen, owners = made_shoot(seed)
        of = {t: n for n, g in enumerate(group_takes(traits, all_alike(seen))) for t in g.takes}
        for a, b in combinations(range(len(traits)), 2):
            together = owners[a] == owners[b]
            right += (of[a] == of[b]) == together
            by_name += (traits[a].name[:2] == traits[b].name[:2]) == together
            total += 1
    print(f"grouping, {count} shoots: {100 * right / total:.1f} % of {total} pairs right (target 95 %);")
    print(f"    by the first letters of their names: {100 * by_name / total:.1f} %")


def measure_shots(count: int) -> None:
    hard, mixed = np.zeros(3, int), np.zeros(3, int)
    took = decoding = 0.0
    with tempfile.TemporaryDirectory() as folder:
        for seed in range(count):
            film, path = made_film(100 + seed), Path(folder) / "film.mp4"
            write(film, path)
            begin = time.process_time()
            with av.open(str(path)) as container:
                for _ in container.decode(video=0):
                    pass
            decoding += time.process_time() - begin
            begin = time.process_time()
            found = shots_of(path, lambda _share, _text: None).shots
            took += time.process_time() - begin
            cuts = {s.first for s in found if s.first and s.begins == "cut"}
            hit = len(cuts & set(film.cuts))
            hard += (hit, len(cuts) - hit, len(film.cuts) - hit)
            ranges = [s.dissolve for s in found if s.dissolve]
            hit = sum(
                any(2 * (min(b, d) - max(a, c)) > max(b - a, d - c) for c, d in ranges)
                for a, b in film.dissolves
            )
            mixed += (hit, len(ranges) - hit, len(film.dissolves) - hit)
    for name, (hit, wrong, missed) in (("hard cuts", hard), ("dissolves", mixed)):
        print(
            f"{name}, {count} films: F {2 * hit / max(1, 2 * hit + wrong + missed):.3f} ({hit}, {wrong}, {missed})"
        )
    print(f"    {took / max(decoding, 1e-9):.2f} times decoding once")


if __name__ == "__main__":
    measure_grouping(int(sys.argv[1]) if len(sys.argv) > 1 else 20)
    measure_shots(int(sys.argv[2]) if len(sys.argv) > 2 else 6)
