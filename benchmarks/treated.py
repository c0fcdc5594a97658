"""A treated film at 1080p beside the same film without treatments: a pulse on every hit, ten ramps, ten dissolves.

Usage: python benchmarks/treated.py [--seconds N] [--profile]
"""

import argparse
import cProfile
import pstats
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from scipy.ndimage import gaussian_filter

from zembi.core.edit.compiling import Material, compiled
from zembi.core.edit.lanes import new_edit
from zembi.core.edit.model import Beneath, ClipSource, Edit, Item
from zembi.core.song.grid import Grid
from zembi.core.treatments.model import Dissolve, Pulse, Ramp
from zembi.core.treatments.music import Length, Music, On
from zembi.media.render import Film, render

RATE = Fraction(24)
SIZE = (1920, 1080)


def source(path: Path, seconds: int, seed: int) -> Path:
    """A pan over a picture with soft and sharp places, as a lens gives them, and a little grain."""
    rng = np.random.default_rng(seed)
    wide = SIZE[0] + 24 * seconds * 4
    soft = gaussian_filter(rng.normal(0, 1, (SIZE[1] // 4, wide // 4)), 6)
    picture = np.kron(soft / soft.std(), np.ones((4, 4)))[: SIZE[1]]
    fine = gaussian_filter(rng.normal(0, 1, picture.shape), 1.2)
    picture = 110 + 32 * gaussian_filter(picture, 3) + 18 * fine / fine.std() * (picture > 0.5)
    picture = np.clip(picture, 16, 235).astype(np.uint8)
    grain = rng.normal(0, 1.2, (4, SIZE[1], SIZE[0]))
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=RATE)
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        video.codec_context.options = {"preset": "ultrafast", "crf": "18", "g": "48"}
        for n in range(24 * seconds):
            flat = np.full((1620, 1920), 128, np.uint8)
            flat[:1080] = np.clip(picture[:, n * 4 : n * 4 + 1920] + grain[n % 4], 0, 255)
            out.mux(video.encode(av.VideoFrame.from_ndarray(flat, "yuv420p")))
        out.mux(video.encode(None))
    return path


def edits(seconds: int) -> tuple[Edit, Edit]:
    """The same cuts every two seconds, plain and treated."""
    frames = 24 * seconds
    starts = range(0, frames, 48)
    plain = tuple(Item(a, ClipSource(str(a // 48 % 3), 1.0 + a / 24 / 2)) for a in starts)
    shots = list(plain)
    # Ten ramps and ten dissolves in two minutes; fewer in less.
    count = max(1, round(10 * seconds / 120))
    for k in range(count):
        one, two = 1 + 2 * k * (len(shots) // 2 // count), 2 + 2 * k * (len(shots) // 2 // count)
        shots[one] = replace(shots[one], treatments=(Ramp((1.4, 0.6), over=Length(1.0)),))
        shots[two] = replace(shots[two], treatments=(Dissolve(Length(1.0)),))
    pulse = Item(0, Beneath(), frames, treatments=(Pulse("scale", 0.05, On("low", 0.0)),))
    return new_edit(frames, plain), new_edit(frames, tuple(shots), ranges=(pulse,))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=int, default=24)
    parser.add_argument("--profile", action="store_true")
    asked = parser.parse_args()
    seconds = asked.seconds
    grid = Grid(tuple(np.arange(-4, 2 * seconds + 8) * 0.5), tuple(range(0, 2 * seconds + 12, 4)), 0)
    # Two kicks a second, as in a loud song.
    low = [(0.5 * k, 0.8) for k in range(2 * seconds)]
    material = Material({}, {}, RATE, music=Music(RATE, grid, bands={"low": low}))
    with tempfile.TemporaryDirectory() as folder:
        files = {str(k): source(Path(folder) / f"{k}.mp4", seconds, k) for k in range(3)}
        took: dict[str, list[float]] = {"plain": [], "treated": []}
        for _ in range(3):
            for name, edit in zip(took, edits(seconds), strict=True):
                film = Film(compiled(edit, material), files, None, RATE, *SIZE, 0, edit.length)
                profile = cProfile.Profile() if asked.profile and name == "treated" else None
                begin = time.perf_counter()
                if profile:
                    profile.enable()
                render(film, Path(folder) / f"{name}.mp4")
                if profile:
                    profile.disable()
                    pstats.Stats(profile).sort_stats("tottime").print_stats(12)
                took[name].append(time.perf_counter() - begin)
        plain, treated = (float(np.median(t)) for t in took.values())
        print(f"plain film of {seconds} s      {plain:6.2f} s")
        print(f"treated film             {treated:6.2f} s   {treated / plain:4.2f} times (target 1.6)")


if __name__ == "__main__":
    main()
