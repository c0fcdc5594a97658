"""Made films with known cuts, drawn here: pans, shake, flashes, strobe, zooms, grain in the dark, two framings of a place."""

from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter, map_coordinates

SIZE = (180, 320)
WAYS = ("still", "slow pan", "whip pan", "shake", "zoom", "dark", "flash", "strobe", "pumping", "crowd")


@dataclass
class MadeFilm:
    """A film's pictures, where it is cut, and where it dissolves (first frame of the mixture, its end)."""

    pictures: list[NDArray[np.uint8]] = field(default_factory=list)
    cuts: list[int] = field(default_factory=list)
    dissolves: list[tuple[int, int]] = field(default_factory=list)
    ways: list[str] = field(default_factory=list)


class Place:
    """A place that can be looked at: a large picture of walls, lamps and people."""

    def __init__(self, rng: np.random.Generator) -> None:
        high, wide = 500, 900
        ground = np.stack([gaussian_filter(rng.normal(size=(high, wide)), s) for s in (60, 60, 60)], axis=-1)
        picture = 90 + rng.normal(size=3) * 35 + 900 * ground
        picture += 60 * gaussian_filter(rng.normal(size=(high, wide)), 2.5)[..., None] * rng.uniform(0.3, 1.5)
        for _ in range(int(rng.integers(14, 40))):
            y, x = rng.integers(0, high), rng.integers(0, wide)
            h, w = rng.integers(12, 130), rng.integers(8, 110)
            colour = rng.uniform(0, 255, 3)
            part = picture[y : y + h, x : x + w]
            if rng.random() < 0.5:
                part[:] = 0.25 * part + 0.75 * colour
            else:
                ys, xs = np.mgrid[: part.shape[0], : part.shape[1]]
                round_ = ((ys - h / 2) / (h / 2)) ** 2 + ((xs - w / 2) / (w / 2)) ** 2 < 1
                part[round_] = 0.2 * part[round_] + 0.8 * colour
        self.picture = np.clip(picture, 0, 255).astype(np.float32)
        self.people = [(rng.uniform(0.2, 0.8), rng.uniform(0.3, 0.7), rng.uniform(0, 9)) for _ in range(3)]
        self.cloth = rng.uniform(20, 235, (3, 3))

    def seen(self, x: float, y: float, scale: float, t: float) -> NDArray[np.float32]:
        """Picture of a camera at a place of it, with people moving."""
        ys = y + (np.arange(SIZE[0]) - SIZE[0] / 2) * scale
        xs = x + (np.arange(SIZE[1]) - SIZE[1] / 2) * scale
        ys, xs = np.clip(ys, 0, 499), np.clip(xs, 0, 899)
        grid = np.meshgrid(ys, xs, indexing="ij")
        out = np.stack(
            [map_coordinates(self.picture[..., c], grid, order=1, mode="reflect") for c in range(3)], axis=-1
        )
        for (px, py, phase), cloth in zip(self.people, self.cloth, strict=True):
            cx = px * 900 + 25 * np.sin(2.1 * t + phase)
            cy = py * 500 + 12 * np.sin(3.3 * t + phase)
            body = ((grid[0] - cy) / 60) ** 2 + ((grid[1] - cx) / 22) ** 2 < 1
            out[body] = cloth
        return out.astype(np.float32)


def shot(place: Place, way: str, frames: int, rng: np.random.Generator) -> NDArray[np.float32]:
    """A shot of a place, shape (frames, height, width, 3)."""
    x, y, scale = rng.uniform(250, 650), rng.uniform(150, 350), rng.uniform(0.7, 1.6)
    drift = rng.normal(size=2) * 0.3
    out = []
    walk = np.zeros(2)
    for n in range(frames):
        t = n / 25
        if way == "slow pan":
            x += 1.6
        elif way == "whip pan" and frames * 0.4 < n < frames * 0.4 + 9:
            x += 42 * rng.choice([1.0, 0.8])
        elif way == "shake":
            walk = 0.7 * walk + rng.normal(size=2) * 6
        elif way == "zoom":
            scale *= 0.988
        picture = place.seen(x + drift[0] * n + walk[0], y + drift[1] * n + walk[1], scale, t)
        if way == "whip pan" and frames * 0.4 < n < frames * 0.4 + 9:
            picture = gaussian_filter(picture, (0, 9, 0))
        if way == "dark":
            picture = picture * 0.09 + rng.normal(size=picture.shape).astype(np.float32) * 5
        elif way == "flash" and n % 17 in (8, 9):
            picture = picture * 1.4 + (150 if n % 17 == 8 else 70)
        elif way == "strobe" and n % 4 < 2:
            picture = picture * 0.06
        elif way == "pumping":
            picture = picture * (1 + 0.5 * np.sin(t * 9))
        elif way == "crowd":
            for k in range(5):
                cx = (k * 97 + 14 * n) % 420 - 50
                picture[60 + 12 * k :, max(0, cx) : max(0, cx + 46)] = 20 + 30 * k
        out.append(picture + rng.normal(size=picture.shape).astype(np.float32) * 1.5)
    return np.clip(np.array(out), 0, 255)


def made_film(seed: int, shots: int = 24, ways: tuple[str, ...] = WAYS, dissolves: float = 0.25) -> MadeFilm:
    """A film of so many shots, a share of which begins with a dissolve."""
    rng = np.random.default_rng(seed)
    places = [Place(rng) for _ in range(max(2, shots // 3))]
    film, tail = MadeFilm(), 0
    last = None
    for n in range(shots):
        place = places[int(rng.integers(len(places)))]
        frames = int(rng.integers(10, 70))
        film.ways.append(str(rng.choice(ways)))
        pictures = shot(place, film.ways[-1], frames + 60, rng)
        mix = int(rng.integers(8, 40)) if n and rng.random() < dissolves and frames > 14 else 0
        if last is not None and mix:
            mix = min(mix, frames - 6, 58)
            at = len(film.pictures)
            for k in range(mix):
                share = (k + 0.5) / mix
                film.pictures.append(
                    np.round(last[tail + k] * (1 - share) + pictures[k] * share).astype(np.uint8)
                )
            film.dissolves.append((at, at + mix))
        elif n:
            film.cuts.append(len(film.pictures))
        film.pictures += [p.astype(np.uint8) for p in pictures[mix:frames]]
        last, tail = pictures, frames
    return film


def write(film: MadeFilm, path: Path, rate: Fraction = Fraction(25), crf: int = 21) -> None:
    """Write a film as H.264."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=rate)
        stream.height, stream.width, stream.pix_fmt = *SIZE, "yuv420p"
        stream.options = {"crf": str(crf), "preset": "veryfast"}
        for picture in film.pictures:
            out.mux(stream.encode(av.VideoFrame.from_ndarray(picture, "rgb24")))
        out.mux(stream.encode(None))
