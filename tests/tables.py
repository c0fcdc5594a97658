"""Tables of cases that the page is held to, worked out by the core: chosen cases, and ones made by chance from a seed.

``python -m tests.tables`` writes them anew; ``tests/core/test_tables.py`` holds them to the core.
"""

import json
import random
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path
from typing import Any

from zembi.core.errors import BadInput
from zembi.core.footage.fit import SCALES, TURNS, Fit, placed_by
from zembi.core.picture.chain import Chain, acts_at, covers
from zembi.core.picture.curves import SHAPES, Curve, Key
from zembi.core.picture.steps import BLUR, OPACITY, PLACE, SHIFT, STEPS, VIGNETTE
from zembi.core.song.grid import Grid
from zembi.core.treatments.music import Music, place_from

FOLDER = Path(__file__).parent / "cases"
#: Between which values each parameter is drawn.
_BETWEEN = {
    "scale": (0.3, 3.0), "x": (-0.6, 0.6), "y": (-0.6, 0.6), "turn": (-190.0, 190.0), "mirror": (0.0, 1.0),
    "shape": (0.0, 3.0), "number": (0.0, 900.0),
}  # fmt: skip
_ASPECTS = (16 / 9, 9 / 16, 1.0, 0.8, 2.39)


def _up(last: float) -> Curve:
    return Curve((Key(0, 0.0, "straight"), Key(last, 1.0, "hold")))


CHOSEN: dict[str, tuple[Chain, float]] = {
    "nothing": ((), 16 / 9),
    "a step at rest is none": ((PLACE(scale=1.0), VIGNETTE(amount=0.0)), 16 / 9),
    "two places are one": ((PLACE(scale=2.0, x=0.25), PLACE(turn=90.0, scale=0.5)), 16 / 9),
    "a mirror turns what is inside it about": ((PLACE(turn=30.0, x=0.1), PLACE(mirror=1)), 0.5),
    "two mirrors are none": ((PLACE(mirror=1), PLACE(mirror=1)), 16 / 9),
    "a place on either side of a blur stays": (
        (PLACE(scale=2.0), BLUR(amount=0.1), PLACE(scale=0.5)),
        16 / 9,
    ),
    "variances of blurs add up": ((BLUR(amount=0.03), BLUR(amount=0.04)), 16 / 9),
    "opacities are multiplied": ((OPACITY(amount=0.5), OPACITY(amount=_up(10))), 16 / 9),
    "a frame pushed aside hides nothing, and two pushes stay two": ((SHIFT(x=0.5), SHIFT(x=-0.5)), 16 / 9),
    "a push and a place do not join": ((PLACE(x=0.5), SHIFT(y=-1.0), PLACE(scale=2.0)), 16 / 9),
    "a dissolve ends": ((OPACITY(amount=_up(4)),), 16 / 9),
}


def _some(chance: random.Random, low: float, high: float) -> Curve:
    frames = sorted(chance.sample(range(-5, 40), chance.randint(1, 4)))
    return Curve(tuple(Key(f, round(chance.uniform(low, high), 3), chance.choice(SHAPES)) for f in frames))


def _by_chance(chance: random.Random) -> Chain:
    steps = []
    for _ in range(chance.randint(1, 5)):
        kind = chance.choice(list(STEPS.values()))
        named = [n for n in kind.rest if chance.random() < 0.6] or [next(iter(kind.rest))]
        steps.append(
            kind(
                **{
                    n: round(chance.random())
                    if n == "mirror"
                    else _some(chance, *_BETWEEN.get(n, (0.0, 1.0)))
                    for n in named
                }
            )
        )
    return tuple(steps)


def chains() -> list[dict[str, Any]]:
    """Chains of steps, and how each acts at some frames."""
    chance = random.Random(28)
    all_of = dict(CHOSEN)
    all_of |= {f"by chance {n}": (_by_chance(chance), chance.choice(_ASPECTS)) for n in range(60)}
    return [_row(name, *of) for name, of in all_of.items()]


def _row(name: str, chain: Chain, aspect: float) -> dict[str, Any]:
    at = []
    for frame in (0, 1, 7, 23, 39):
        acts = acts_at(chain, frame, aspect)
        told = [{"step": a.kind.name, "values": {n: round(v, 12) for n, v in a.values.items()}} for a in acts]
        at.append({"frame": frame, "acts": told, "hides": covers(acts)})
    steps = [
        {
            "step": s.kind.name,
            "curves": {
                n: [{"frame": k.frame, "value": k.value, "shape": k.shape} for k in c.keys]
                for n, c in s.curves
            },
        }
        for s in chain
    ]
    return {"name": name, "aspect": aspect, "chain": steps, "at": at}


def framings() -> list[dict[str, Any]]:
    """Pictures at a scale of their own, and where the core places each: the middle that is
    shown where it moves, in shares of it, and its own centre where it stands, in shares of the film."""
    chance = random.Random(29)
    rows = []
    for n in range(60):
        film = chance.choice([(1920, 1080), (1080, 1920), (1080, 1080), (1080, 1350), (1920, 804)])
        picture = chance.choice(
            [(1920, 1080), (1080, 1920), (1440, 1080), (4000, 3000), (640, 640), (3840, 1080)]
        )
        turn = chance.choice(TURNS)
        scale = round(chance.uniform(*SCALES) if n % 3 else chance.uniform(0.3, 2), 3)
        fit = Fit("own", round(chance.random(), 3), round(chance.random(), 3), scale, turn)
        seen = picture[::-1] if turn % 180 else picture
        placed, free = (placed_by(fit, picture, film, moves=moves) for moves in (True, False))
        whole = min(film[0] / seen[0], film[1] / seen[1])
        middle = [
            0.5 - at * side / (size * whole * fit.scale)
            for at, side, size in zip((placed.x, placed.y), film, seen, strict=True)
        ]
        rows.append(
            {
                "film": film,
                "picture": picture,
                "fit": {**asdict(fit)},
                "middle": [round(m, 12) for m in middle],
                "centre": [round(0.5 + free.x, 12), round(0.5 + free.y, 12)],
            }
        )
    return rows


def places() -> list[dict[str, Any]]:
    """Places in the music as they are written, and the frame of each in songs that move; null where there is none."""
    chance = random.Random(30)
    rows = []
    for first_bar, metre in ((0, 4), (-1, 3), (1, 5)):
        beats = [-1.0]
        while len(beats) < 41:
            beats.append(round(beats[-1] + chance.uniform(0.3, 0.7), 6))
        grid = Grid(tuple(beats), tuple(range(2, len(beats), metre)), first_bar)
        for rate in (Fraction(25), Fraction(24000, 1001), Fraction(60)):
            music = Music(rate, grid)
            texts = [
                "1:1",
                "2.1",
                "2:2.5",
                " 3.1.25 ",
                "1:0",
                "0:1",
                "-1.1",
                "8:4",
                "99:1",
                "7:1.999",
                "2",
                "a:1",
                "",
                "3:1:1",
            ]
            texts += [f"{chance.randint(-1, 9)}:{chance.uniform(1, 6):.3f}" for _ in range(12)]
            at = []
            for text in texts:
                try:
                    at.append([text, music.frame_of(place_from(text))])
                except BadInput:
                    at.append([text, None])
            rows.append(
                {"beats": beats, "bars": grid.bars, "first_bar": first_bar, "rate": float(rate), "at": at}
            )
    return rows


#: Each table by its file.
TABLES = {"chains": chains, "framings": framings, "places": places}


def path_of(table: str) -> Path:
    """Where a table lies."""
    return FOLDER / f"{table}.json"


if __name__ == "__main__":
    for name, made in TABLES.items():
        lines = (json.dumps(row, ensure_ascii=False) for row in made())
        path_of(name).write_text("[\n" + ",\n".join(lines) + "\n]\n")
