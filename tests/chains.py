"""The table of chains that the core and the page are held to: chosen ones, and ones made by chance from a seed.

``python -m tests.chains`` writes it anew.
"""

import json
import random
from pathlib import Path
from typing import Any

from zembi.core.picture.chain import Chain, acts_at, covers
from zembi.core.picture.curves import SHAPES, Curve, Key
from zembi.core.picture.steps import BLUR, OPACITY, PLACE, STEPS, VIGNETTE

TABLE = Path(__file__).parent / "cases" / "chains.json"
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


def made() -> list[dict[str, Any]]:
    """The rows of the table, worked out by the core."""
    chance = random.Random(28)
    chains = dict(CHOSEN)
    chains |= {f"by chance {n}": (_by_chance(chance), chance.choice(_ASPECTS)) for n in range(60)}
    return [_row(name, *of) for name, of in chains.items()]


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


if __name__ == "__main__":
    TABLE.write_text("[\n" + ",\n".join(json.dumps(row, ensure_ascii=False) for row in made()) + "\n]\n")
